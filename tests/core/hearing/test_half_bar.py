"""Beat 1 or beat 3: drums that repeat every half bar leave it to harmony and sections."""

from __future__ import annotations

import numpy as np
import pytest

from mervid.core.hearing import half_bar
from mervid.core.hearing.ear import Strengths
from mervid.core.hearing.half_bar import Tones
from mervid.core.hearing.spectra import EAR_FPS

BEATS = 0.5 + 0.5 * np.arange(96)
SECONDS = 50.0


def ear(favours: int, by: float) -> Strengths:
    """An ear that hears bars begin at both halves, and a little more at beat `favours` of four."""
    n = int(SECONDS * EAR_FPS)
    beat, down, none = (np.zeros(n, np.float32) for _ in range(3))
    frame = np.rint(BEATS * EAR_FPS).astype(int)
    beat[frame] = 0.9
    wobble = 0.05 * np.random.default_rng(2).normal(size=len(frame))
    down[frame] = np.clip(np.where(np.arange(96) % 2 == 0, 0.45, 0.02) + wobble, 0.01, 0.9)
    down[frame[np.arange(96) % 4 == favours]] += by
    return Strengths(beat, down, none, none, none, np.full((n, 32), 1 / 32, np.float32), np.zeros(10, np.float32))


def chords(every: int, first: int) -> Tones:
    """Chords that change at each beat `first` + k `every`, 20 frames a second."""
    t = np.arange(int(SECONDS * 20)) / 20
    place = np.floor((t - BEATS[0]) / 0.5 + 1e-6).astype(int)
    chord = (place - first) // every
    chroma = np.full((len(t), 12), 0.02, np.float32)
    chroma[np.arange(len(t)), (chord * 5) % 12] = 0.78
    return Tones(chroma, np.ones((len(t), 24), np.float32))


@pytest.mark.parametrize("true", [0, 2])
def test_harmony_decides_where_the_ear_is_of_two_minds(true: int) -> None:
    position = np.arange(96) % 4
    found, margin = half_bar.choose(ear(0, 0.02), chords(4, true), BEATS, position, 4, 0.6)
    np.testing.assert_array_equal(found, (position - true) % 4)
    assert margin == (0.6 if true == 0 else half_bar.FLIPPED)


def test_harmony_that_moves_twice_a_bar_says_nothing_and_a_sure_ear_stands() -> None:
    position = np.arange(96) % 4
    for tones, by in ((chords(2, 0), 0.05), (chords(8, 3), 0.4)):
        found, _ = half_bar.choose(ear(0, by), tones, BEATS, position, 4, 0.6)
        np.testing.assert_array_equal(found, position)


def test_threes_and_short_recordings_are_left_alone() -> None:
    three = np.arange(96) % 3
    assert half_bar.choose(ear(2, 0.3), chords(4, 2), BEATS, three, 3, 0.5)[0] is three
    few = np.arange(16) % 4
    assert half_bar.choose(ear(2, 0.3), chords(4, 2), BEATS[:16], few, 4, 0.5)[0] is few


def test_change_is_none_in_one_chord_and_whole_between_two() -> None:
    x = np.zeros((200, 12), np.float32)
    x[:100, 0] = x[100:, 7] = 1
    found = half_bar.change(x, np.array([2.0, 3.0, 4.0, 5.0, 6.0]), 1)
    np.testing.assert_allclose(found, [0, 0, 0, 1, 0], atol=0.05)
