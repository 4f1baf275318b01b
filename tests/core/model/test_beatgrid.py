"""The map between time and beats, held against itself and against a Standard MIDI File."""

from __future__ import annotations

import io

import mido
import numpy as np
import pytest

from mervid.core.errors import Refused
from mervid.core.model.beatgrid import Grid, MeterMark, Pin, steady


def wandering(seconds: float = 7200.0, seed: int = 3) -> Grid:
    """A two-hour grid of uneven spans between 60 and 180 BPM."""
    rng = np.random.default_rng(seed)
    pins, time, beat = [], -3.0, -8.0
    while time < seconds:
        pins.append(Pin(time, beat))
        beats = int(rng.integers(1, 64))
        time += beats * 60 / rng.uniform(60, 180)
        beat += beats
    return Grid(tuple(pins))


def test_time_and_beat_are_exact_inverses_over_two_hours() -> None:
    grid = wandering()
    times = np.random.default_rng(0).uniform(-30, 7300, 20_000)
    assert np.abs(grid.time_at(grid.beat_at(times)) - times).max() < 1e-9
    np.testing.assert_array_equal(grid.time_at(grid.beats), grid.times)
    assert np.all(np.diff(grid.beat_at(np.sort(times))) > 0)


def test_matches_a_midi_tempo_map() -> None:
    """Tempo events and ticks as in the Standard MIDI File specification (MIDI 1.0, RP-001), timed by mido."""
    rng = np.random.default_rng(5)
    micros = rng.integers(350_000, 900_000, 40)
    beats_each = rng.integers(1, 9, 40)
    song = mido.MidiFile(ticks_per_beat=960)
    track = mido.MidiTrack()
    song.tracks.append(track)
    for tempo, beats in zip(micros, beats_each, strict=True):
        track.append(mido.MetaMessage("set_tempo", tempo=int(tempo), time=0))
        for _ in range(beats):
            track.append(mido.Message("note_on", note=60, velocity=64, time=960))
    buffer = io.BytesIO()
    song.save(file=buffer)
    buffer.seek(0)
    now, theirs = 0.0, [0.0]
    for message in mido.MidiFile(file=buffer):
        now += message.time
        if message.type == "note_on":
            theirs.append(now)
    edges = np.concatenate([[0], np.cumsum(beats_each)])
    at = np.concatenate([[0.0], np.cumsum(beats_each * micros / 1e6)])
    grid = Grid(tuple(Pin(float(t), float(b)) for t, b in zip(at, edges, strict=True)))
    np.testing.assert_allclose(grid.time_at(np.arange(edges[-1] + 1)), theirs, atol=1e-9)


def test_refuses_and_names_the_offending_pins() -> None:
    with pytest.raises(Refused, match=r"beat 8 at 3\.000 s must lie after the pin on beat 4 at 3\.500 s"):
        Grid((Pin(0.0, 0.0), Pin(3.5, 4.0), Pin(3.0, 8.0)))
    with pytest.raises(Refused, match="beats 0 and 400"):
        Grid((Pin(0.0, 0.0), Pin(1.0, 400.0)))
    with pytest.raises(Refused, match="at least two pins"):
        Grid((Pin(0.0, 0.0),))
    with pytest.raises(Refused, match="finite"):
        Grid((Pin(0.0, 0.0), Pin(float("nan"), 4.0)))
    with pytest.raises(Refused, match="meter mark"):
        Grid((Pin(0.0, 0.0), Pin(1.0, 2.0)), (MeterMark(4), MeterMark(0)))


def test_bars_are_named_without_a_bar_zero() -> None:
    grid = steady(tempo=120, first=1.0)
    assert [grid.name_at(b) for b in (-5, -4, -1, 0, 3, 4, 7.5)] == ["-2.4", "-1.1", "-1.4", "1.1", "1.4", "2.1", "2.4"]
    # a beat that went through time and back must not fall into the bar before
    assert [grid.name_at(float(grid.beat_at(grid.time_at(b)))) for b in range(0, 400, 4)] == [
        f"{b // 4 + 1}.1" for b in range(0, 400, 4)
    ]


def test_odd_bars_restart_the_count() -> None:
    """Three bars of four, one of two, then four again."""
    grid = Grid(steady(tempo=120, first=0.0).pins, (MeterMark(0, 4), MeterMark(12, 2), MeterMark(14, 4)))
    times, beats, position = grid.positions(0.0, 9.9)
    assert position.tolist() == [1, 2, 3, 4] * 3 + [1, 2] + [1, 2, 3, 4] + [1, 2]
    index, _ = grid.bar_index(beats)
    assert index.tolist() == [0] * 4 + [1] * 4 + [2] * 4 + [3] * 2 + [4] * 4 + [5] * 2
    np.testing.assert_array_equal(grid.bar_start([0, 1, 2, 3, 4, 5]), [0, 4, 8, 12, 14, 18])
    np.testing.assert_allclose(times, beats / 2)


def test_a_pin_governs_only_the_spans_beside_it() -> None:
    grid = wandering(600)
    moved = Grid((*grid.pins[:5], Pin(grid.pins[5].time + 0.01, grid.pins[5].beat), *grid.pins[6:]))
    beats = np.arange(-20, grid.beats[-1] + 20, 0.25)
    outside = (beats <= grid.beats[4]) | (beats >= grid.beats[6])
    np.testing.assert_array_equal(grid.time_at(beats[outside]), moved.time_at(beats[outside]))
    assert np.all(grid.time_at(beats[~outside]) < moved.time_at(beats[~outside]))
