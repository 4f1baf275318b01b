"""What the tracker makes of beats: breaks carried, rests left free, bars numbered, chances told."""

from __future__ import annotations

import attrs
import mir_eval
import numpy as np
import pytest

from mervid.core.hearing import beat_tracking, features, rival_counts
from mervid.core.hearing.heard import Heard
from mervid.core.model.beatgrid import MeterMark
from tests.conftest import RATE, material, sound_of_material
from tests.core.hearing.test_bar_pointer import said


def test_a_steady_line_counts_through_a_break_and_an_intro() -> None:
    beats = 1 + 0.5 * np.arange(120)
    strengths = said(beats[20:], beats[20::4], 62.0)
    for x in (strengths.beat, strengths.downbeat):
        x[(30 * 50) : (36 * 50)] *= 0.2
    # the pointer lost its way in the intro and in the break
    rough = np.concatenate([beats[20:58], beats[58:70] + 0.13, beats[70:]])
    steady = np.concatenate([np.zeros(38, int), np.full(12, -1), np.ones(50, int)])
    times, clear, now = beat_tracking.carry(strengths, rough, np.ones(100), steady, 62.0)
    np.testing.assert_allclose(times, beats[20:], atol=0.001)
    assert len(times) == len(clear) == len(now)
    assert now.min() >= 0


def test_a_count_at_which_nothing_is_heard_takes_no_pulse_away(monkeypatch: pytest.MonkeyPatch) -> None:
    sound = sound_of_material("disco")
    assert sound.strengths is not None
    deaf = attrs.evolve(sound.strengths, beat=np.zeros_like(sound.strengths.beat))
    monkeypatch.setattr(rival_counts, "heard_as", lambda ear, attack, seen, times, spoken: (deaf, times[::2], 0.9))
    counted = beat_tracking.count(sound.strengths, sound.attack, sound.duration, seen=sound.scene)
    assert mir_eval.beat.f_measure(material("disco")["beats"], counted.times, 0.07) > 0.95
    assert counted.share == pytest.approx(0.1) and counted.ear is sound.strengths


@pytest.mark.parametrize("groups", [57.0, 67.0])
def test_six_eighths_are_counted_in_groups_of_three(groups: float) -> None:
    """A drummer, a bass that is held through each group, and broken chords that change with the bar of six."""
    rng, eighth = np.random.default_rng(0), 20 / groups
    times = np.arange(0.3, 49.5, eighth)
    out, t = np.zeros(50 * RATE), np.arange(int(0.9 * eighth * RATE)) / RATE
    held = np.arange(int(2.8 * eighth * RATE)) / RATE
    kick = 0.8 * np.sin(2 * np.pi * (50 * t + 3 * (1 - np.exp(-t * 40)))) * np.exp(-t * 14)
    for k, at in enumerate(times):
        struck = "khhshhkhkshh"[k % 12]
        where = round((at + rng.normal(0, 0.004)) * RATE)
        chord = (220, 261.6, 196, 293.7)[k // 6 % 4] * (1, 1.2, 1.5)[k % 3]
        sounds = [0.15 * rng.normal(size=len(t)) * np.exp(-t * 90), 0.1 * np.sin(2 * np.pi * chord * t)]
        if struck != "h":
            sounds.append(kick if struck == "k" else 0.5 * rng.normal(size=len(t)) * np.exp(-t * 22))
            sounds.append(0.3 * np.sign(np.sin(2 * np.pi * (55, 65.4, 49, 73.4)[k // 6 % 4] * held)))
        for sound in sounds:
            part = out[where : where + len(sound)]
            part += sound[: len(part)]
    heard, _ = beat_tracking.track(features.listen((0.8 * out / np.abs(out).max()).astype(np.float32), RATE))
    assert mir_eval.beat.f_measure(times[::3], heard.times, 0.07) > 0.95
    assert heard.meter[0].beats_per_bar == 4
    # two bars of six are one of four beats: either may be its first
    assert max(mir_eval.beat.f_measure(times[k::12], heard.downbeats, 0.07) for k in (0, 6)) > 0.9


def test_lines_of_different_tempo_are_not_joined() -> None:
    a = 1 + 0.5 * np.arange(40)
    b = a[-1] + 4.2 + 0.55 * np.arange(40)
    middle = a[-1] + np.array([0.6, 1.3, 2.0, 2.9, 3.6])
    beats = np.concatenate([a, middle, b])
    steady = np.concatenate([np.zeros(40, int), np.full(5, -1), np.ones(40, int)])
    times, _, _ = beat_tracking.carry(said(beats, a[::4], 50.0), beats, np.ones(85), steady, 50.0)
    np.testing.assert_allclose(times, beats)


def test_long_rests_stay_free_of_beats_and_short_ones_do_not() -> None:
    strength = np.full(100, 0.8)
    strength[20:40] = 0.01
    strength[60:66] = 0.01
    rest = beat_tracking._at_rest(strength, np.zeros(100, bool))
    np.testing.assert_array_equal(np.flatnonzero(rest), np.arange(20, 40))
    assert not beat_tracking._at_rest(strength, np.ones(100, bool)).any()


@pytest.mark.parametrize(
    ("sizes", "marks"),
    [
        ([4] * 8, [(0, 4)]),
        ([3] * 8, [(0, 3)]),
        ([4, 4, 4, 2, 4, 4, 4], [(0, 4), (12, 2), (14, 4)]),
    ],
)
def test_odd_bars_become_meter_marks(sizes: list[int], marks: list[tuple[int, int]]) -> None:
    opens = np.concatenate([[0], np.cumsum(sizes)])
    n = int(opens[-1]) + 1
    position = np.array([i - opens[np.searchsorted(opens, i, "right") - 1] for i in range(n)])
    times = 2 + 0.5 * np.arange(n + 2)
    # two beats before the first bar line
    heard = beat_tracking._counted(times, np.concatenate([[2, 3], position]), max(sizes), np.ones(n + 2), 0.9, 0.9)
    assert heard.meter == tuple(MeterMark(float(b), s) for b, s in marks)
    assert heard.numbers[0] == -2
    np.testing.assert_allclose(heard.downbeats, times[2:][opens])


def test_beats_left_out_in_a_rest_are_counted() -> None:
    times = np.concatenate([0.5 * np.arange(20), 30 + 0.5 * np.arange(20)])
    heard = beat_tracking._counted(times, np.arange(40) % 4, 4, np.ones(40), 0.9, 0.9)
    assert heard.numbers[20] - heard.numbers[19] == round((30 - 9.5) / 0.5)


def test_downbeats_follow_the_meter_also_before_it_begins() -> None:
    heard = Heard(np.arange(12.0), np.arange(-4, 8), np.ones(12), (MeterMark(0.0, 4), MeterMark(4.0, 2)))
    np.testing.assert_array_equal(heard.downbeats, [0.0, 4.0, 8.0, 10.0])


def test_beats_brought_together_are_kept_apart_in_a_row() -> None:
    times = np.array([1.0, 1.05, 1.02, 1.11, 2.0])
    np.testing.assert_allclose(beat_tracking._in_order(times), [1.0, 1.1, 1.2, 1.3, 2.0])
