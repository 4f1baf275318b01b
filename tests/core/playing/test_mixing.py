"""What is played, to the sample: reference beat, loops, half speed, jumps, levels."""

from __future__ import annotations

import attrs
import numpy as np
import pyloudnorm
import pytest

from mervid.core.model.beatgrid import Grid, MeterMark, Pin, steady
from mervid.core.playing import reference_beat
from mervid.core.playing.mixing import SEAM_S, Jump, Program, Reel, render
from mervid.core.sound.loudness import SILENCE, LoudnessMeter
from tests.conftest import RATE

SILENT = np.zeros((9 * RATE, 2), np.float32)
NOISE = np.random.default_rng(0).normal(0, 0.1, (9 * RATE, 2)).astype(np.float32)


def uneven(beats: int, seed: int = 4) -> Grid:
    """A drummer's grid: a pin on every beat, none as long as the one before."""
    rng = np.random.default_rng(seed)
    times = 0.05 + np.concatenate([[0], np.cumsum(60 / (105 + 10 * rng.random(beats - 1)))])
    return Grid(tuple(Pin(float(t), float(i)) for i, t in enumerate(times)), (MeterMark(), MeterMark(90.0, 3)))


def onsets(sound: np.ndarray) -> np.ndarray:
    """First samples of sounds that follow quiet, found without knowing where they should be."""
    loud = np.flatnonzero(np.abs(sound) > 0.05)
    return loud[np.concatenate([[True], np.diff(loud) > 0.1 * RATE])]


def test_every_click_of_600_uneven_beats_lies_on_its_sample() -> None:
    grid = uneven(600)
    seconds = grid.times[-1] + 1
    program = Program(np.zeros((int(seconds * RATE), 2), np.float32), RATE, grid, reference_beat.CLICK)
    out = render(program, 0, program.frames)[:, 0]
    expected = np.rint(grid.times * RATE)
    assert np.abs(onsets(out)[: len(expected)] - expected).max() <= 1
    # accents are higher, and on the bars of the grid, 4/4 then 3/4
    places = grid.bar_index(grid.beats)[1]
    for at, place in zip(expected.astype(int)[84:100], places[84:100], strict=True):
        high = np.abs(np.fft.rfft(out[at : at + 1500], 8192)).argmax() * RATE / 8192
        assert (high > 1500) == (place == 0)


@pytest.mark.parametrize("pattern", reference_beat.PATTERNS)
def test_patterns_follow_the_tempo(pattern: str) -> None:
    """A grid that slows down: drums come where its beats and half-beats are, to the sample."""
    grid = Grid((Pin(0.5, 0.0), Pin(2.5, 4.0), Pin(5.5, 8.0)))
    struck = reference_beat.strokes(grid, pattern, 0.5, 5.5)
    beats = grid.beat_at([s.time for s in struck])
    np.testing.assert_allclose(beats * 2, np.rint(beats * 2), atol=1e-9)
    assert {s.sound for s in struck if abs(float(grid.beat_at(s.time)) % 4) < 1e-9} & {"accent", "kick", "shaker"}
    out = render(Program(SILENT, RATE, grid, pattern), 0, len(SILENT))[:, 0]
    for s in struck:
        at = round(s.time * RATE)
        assert abs(out[at]) > 0.02 or abs(out[at] - out[at - 1]) > 0.02, f"{s.sound} at {s.time}"


def test_half_beats_are_struck_only_when_wanted() -> None:
    grid = steady(tempo=120, first=0.0)
    plain, halves = (reference_beat.strokes(grid, reference_beat.CLICK, 0.0, 2.0, halves=h) for h in (False, True))
    assert [s.time for s in plain] == [0.0, 0.5, 1.0, 1.5]
    assert [s.time for s in halves if s not in plain] == [0.25, 0.75, 1.25, 1.75]


@pytest.mark.parametrize(
    "changes",
    [{}, {"half": True}, {"loop": (1.0, 2.017)}, {"loop": (0.5, 1.25), "half": True, "split": True, "balance": 0.4}],
)
def test_blocks_of_any_size_make_the_same_sound(changes: dict[str, object]) -> None:
    rng = np.random.default_rng(0)
    program = Program(NOISE, RATE, steady(tempo=117, first=0.2), reference_beat.BACKBEAT, **changes)  # type: ignore[arg-type]
    whole = render(program, 0, 5 * RATE)
    reel, pieces, done = Reel(program, 0.0), [], 0
    while done < 5 * RATE:
        n = min(int(rng.integers(1, 5000)), 5 * RATE - done)
        pieces.append(reel.read(n))
        done += n
    np.testing.assert_array_equal(np.concatenate(pieces), whole)


def test_a_loop_has_no_seam_and_keeps_the_beat() -> None:
    """Two bars of a wandering grid go round: strokes stand on their beats in every round, and nothing clicks."""
    grid = uneven(40)
    a, b = (float(x) for x in grid.time_at([4, 12]))
    t = np.arange(9 * RATE) / RATE
    tone = np.stack([0.3 * np.sin(2 * np.pi * 220 * t)] * 2, axis=1).astype(np.float32)
    out = render(Program(tone, RATE, grid, loop=(a, b)), 0, int((b + 2 * (b - a)) * RATE))[:, 0]
    seam = round(b * RATE)
    steps = np.abs(np.diff(out))
    # no sample jumps by more than a 220 Hz tone of this strength does
    assert steps.max() < 1.05 * 0.3 * 2 * np.pi * 220 / RATE * np.sqrt(2)
    np.testing.assert_array_equal(out[seam : seam + 1000], tone[round(a * RATE) : round(a * RATE) + 1000, 0])
    clicked = render(Program(SILENT, RATE, grid, reference_beat.CLICK, loop=(a, b)), 0, int((b + 2 * (b - a)) * RATE))[
        :, 0
    ]
    length = round(b * RATE) - round(a * RATE)
    first = np.rint(grid.time_at(np.arange(0, 12)) * RATE)
    expected = np.concatenate([first, first[4:] + length, first[4:] + 2 * length])
    found = onsets(clicked)
    assert np.abs(found[: len(expected)] - expected[: len(found)]).max() <= 1
    assert len(found) >= len(expected) - 1


def test_half_speed_doubles_every_distance_and_smears_nothing() -> None:
    t = np.arange(4 * RATE) / RATE
    tone = np.stack([0.5 * np.sin(2 * np.pi * 3000 * t)] * 2, axis=1).astype(np.float32)
    out = render(Program(tone, RATE, half=True), RATE, 2 * RATE)[:, 0]
    true = 0.5 * np.sin(2 * np.pi * 1500 * (np.arange(RATE, 3 * RATE) / RATE))
    assert 10 * np.log10(np.mean(true**2) / np.mean((out - true) ** 2)) > 60
    grid = steady(tempo=125, first=0.1)
    clicked = render(Program(SILENT, RATE, grid, reference_beat.CLICK, half=True), 0, 8 * RATE)[:, 0]
    found = onsets(clicked)
    assert np.abs(found - np.rint(2 * grid.time_at(np.arange(len(found))) * RATE)).max() <= 1


def test_split_gives_each_ear_its_own() -> None:
    out = render(Program(NOISE, RATE, steady(tempo=120, first=0.0), reference_beat.CLICK, split=True), 0, RATE)
    assert np.corrcoef(out[:, 0], NOISE[:RATE].mean(axis=1))[0, 1] > 0.999
    assert not out[round(0.2 * RATE) : round(0.45 * RATE), 1].any()
    assert abs(out[0, 1]) > 0.1


def test_balance_goes_from_the_track_alone_to_the_beat_alone() -> None:
    grid = steady(tempo=120, first=0.0)
    base = Program(NOISE, RATE, grid, reference_beat.CLICK)
    alone = render(attrs.evolve(base, balance=-1.0), 0, RATE)
    assert np.corrcoef(alone[:, 0], NOISE[:RATE, 0])[0, 1] > 0.999
    beat = render(attrs.evolve(base, balance=1.0), 0, RATE)
    assert not beat[round(0.2 * RATE) : round(0.45 * RATE)].any()


@pytest.mark.parametrize("pattern", reference_beat.PATTERNS)
@pytest.mark.parametrize("level", [-30.0, -16.0, -9.0])
def test_the_beat_is_neither_drowned_nor_deafening(pattern: str, level: float) -> None:
    """Loudness by an independent ITU-R BS.1770 meter: the beat lies 1 to 14 LU under music of any level."""
    meter = pyloudnorm.Meter(RATE)
    grid = steady(tempo=120, first=0.0)
    program = Program(SILENT, RATE, grid, pattern, balance=1.0, loudness=np.full(4, level, np.float32))
    found = meter.integrated_loudness(render(program, 0, 8 * RATE).astype(float)) - 20 * np.log10(0.75)
    assert -14 < found - level < -1


def test_loudness_of_a_standard_tone_and_of_silence() -> None:
    """EBU Tech 3341, test signal 1: a stereo sine of 1 kHz at -23 dBFS measures -23.0 LUFS, within 0.1."""
    meter = LoudnessMeter(48_000)
    t = np.arange(48_000 * 7) / 48_000
    tone = np.stack([10 ** (-23 / 20) * np.sin(2 * np.pi * 1000 * t)] * 2, axis=1).astype(np.float32)
    for start in range(0, len(tone), 10_000):
        meter.push(tone[start : start + 10_000])
    meter.push(np.full((48_000 * 2, 2), np.nan, np.float32))
    meter.push(np.zeros((48_000 * 3, 2), np.float32))
    found = meter.finish()
    assert found[:2] == pytest.approx([-23.0, -23.0], abs=0.1)
    assert found[3] == SILENCE


def test_outside_the_recording_there_is_silence_and_never_too_much() -> None:
    loud = Program(np.ones((RATE, 1), np.float32), RATE, steady(tempo=120, first=0.0), reference_beat.BACKBEAT)
    out = render(loud, -RATE, 3 * RATE)
    assert not out[:RATE].any()
    # the last stroke may ring on after the end
    assert not out[2 * RATE + int(reference_beat.LONGEST * RATE) :].any()
    assert np.abs(out).max() <= 1.0


def test_a_jump_lands_on_the_same_place_of_the_beat_and_leaves_no_gap() -> None:
    grid = uneven(40)
    reel = Reel(Program(NOISE, RATE, grid), 1.0)
    reel.read(10_000)
    before = reel.place(10_000)
    reel.change(reel.program, Jump(by=4))
    reel.change(reel.program, Jump(by=2))
    out = reel.read(4000)
    after = float(grid.time_at(grid.beat_at(before) + 6))
    assert reel.place(10_000) == pytest.approx(after, abs=1 / RATE)
    fade = int(SEAM_S * RATE)
    start = round(after * RATE)
    np.testing.assert_array_equal(out[fade:], NOISE[start + fade : start + 4000])
    assert np.abs(out[:fade]).mean() > 0.03
    # what was heard before is still told where it was
    assert reel.place(5000) == pytest.approx(1.0 + 5000 / RATE)


def test_a_nudge_is_in_the_very_next_block() -> None:
    grid, later = steady(tempo=120, first=0.5), steady(tempo=120, first=0.51)
    reel = Reel(Program(SILENT, RATE, grid, reference_beat.CLICK), 0.0)
    reel.read(20_000)
    reel.change(attrs.evolve(reel.program, grid=later))
    out = reel.read(RATE)[:, 0]
    assert onsets(out)[0] + 20_000 == round(0.51 * RATE)


def test_a_reel_tells_its_place_in_a_loop_at_half_speed_and_its_end() -> None:
    reel = Reel(Program(NOISE, RATE, loop=(1.0, 2.0), half=True), 1.5)
    reel.skip(RATE)
    assert reel.place(0) == pytest.approx(1.5)
    assert reel.place(RATE // 2) == pytest.approx(1.75)
    assert reel.place(RATE * 3 // 2) == pytest.approx(1.25)
    assert not reel.ended
    reel.change(attrs.evolve(reel.program, loop=None), Jump(to=8.9))
    reel.skip(RATE)
    assert reel.ended


def test_a_skip_goes_on_elsewhere_to_the_sample_and_only_once() -> None:
    ramp = np.linspace(-0.9, 0.9, 10 * RATE, dtype=np.float32)
    program = Program(np.stack([ramp, ramp], axis=1), RATE, steady(tempo=120, first=0.0), skip=(2.0, 6.0))
    reel = Reel(program, 1.0)
    out = np.concatenate([reel.read(441) for _ in range(200)])
    at = np.arange(len(out)) + RATE
    expected = np.where(
        at < 2 * RATE, ramp[np.minimum(at, 10 * RATE - 1)], ramp[np.minimum(at + 4 * RATE, 10 * RATE - 1)]
    )
    clear = (at < 2 * RATE - int(0.006 * RATE)) | (at >= 2 * RATE)
    np.testing.assert_array_equal(out[clear, 0], expected[clear])
    assert reel.place(reel.handed_out) == pytest.approx(1.0 + 2.0 + 4.0)
    # a change behind it doesn't skip again
    reel.change(attrs.evolve(program, beat=reference_beat.OFF))
    reel.read(RATE)
    assert reel.program.skip is None
    assert reel.place(reel.handed_out) == pytest.approx(8.0)
    # nor does one that begins behind it
    late = Reel(attrs.evolve(program, skip=None), 7.0)
    late.read(441)
    late.change(program)
    late.read(441)
    assert late.place(late.handed_out) == pytest.approx(7.02)
