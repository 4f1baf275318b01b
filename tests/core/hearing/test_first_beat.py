"""Where the music begins: soft first strokes are found, speech and single hits before it set no count of their own."""

from __future__ import annotations

import numpy as np
import pytest

from mervid.core.hearing import first_beat
from mervid.core.hearing.ear import Strengths
from mervid.core.hearing.spectra import EAR_FPS


def said(beats: np.ndarray, strength: np.ndarray, seconds: float) -> Strengths:
    """An ear that hears so much at each beat, and nothing elsewhere."""
    n = int(seconds * EAR_FPS)
    beat = np.zeros(n, np.float32)
    beat[np.rint(beats * EAR_FPS).astype(int)] = strength
    none = np.zeros(n, np.float32)
    return Strengths(beat, none, none, none, none, np.full((n, 32), 1 / 32, np.float32), np.zeros(10, np.float32))


def struck(times: np.ndarray, strength: np.ndarray, seconds: float) -> np.ndarray:
    attack = np.zeros(int(seconds * 1000), np.float32)
    attack[np.rint(times * 1000).astype(int)] = strength
    return attack


BEATS = 4.0 + 0.5 * np.arange(40)


def test_soft_first_beats_that_the_ear_heard_are_counted() -> None:
    strength = np.where(np.arange(40) < 3, 0.4, 0.9)
    ear, attack = said(BEATS, strength, 26), struck(BEATS, np.full(40, 0.6), 26)
    np.testing.assert_allclose(first_beat.from_first(ear, attack, BEATS[3:]), BEATS, atol=0.002)


def test_silent_steps_are_bridged_to_a_sure_beat_and_to_no_other() -> None:
    for first, count in ((0.9, 40), (0.4, 37)):
        strength = np.full(40, 0.9)
        strength[:3] = first, 0.0, 0.0
        attack = struck(BEATS, np.where(strength > 0, 0.6, 0.0), 26)
        found = first_beat.from_first(said(BEATS, strength, 26), attack, BEATS[3:])
        assert len(found) == count


@pytest.mark.parametrize("before", [[0.7, 1.9, 2.6], [1.1], [0.3, 0.9, 1.4, 2.3, 3.1]])
def test_speech_before_the_music_is_no_count(before: list[float]) -> None:
    spoken = np.array(before)
    times = np.concatenate([spoken, BEATS])
    strength = np.concatenate([np.full(len(spoken), 0.2), np.full(40, 0.9)])
    found = first_beat.from_first(said(times, strength, 26), struck(times, np.full(len(times), 0.7), 26), times)
    np.testing.assert_allclose(found, BEATS, atol=1e-9)


def test_a_rubato_beginning_that_the_ear_is_sure_of_stays() -> None:
    free = np.array([0.6, 1.3, 1.8, 2.6, 3.3])
    times = np.concatenate([free, BEATS])
    ear = said(times, np.full(len(times), 0.9), 26)
    found = first_beat.from_first(ear, struck(times, np.full(len(times), 0.7), 26), times)
    np.testing.assert_allclose(found, times)


def test_nothing_is_counted_where_nothing_is_struck() -> None:
    times = np.concatenate([[3.5], BEATS])
    ear = said(times, np.concatenate([[0.2], np.full(40, 0.9)]), 26)
    found = first_beat.from_first(ear, struck(BEATS, np.full(40, 0.7), 26), times)
    np.testing.assert_allclose(found, BEATS)
    assert len(first_beat.from_first(ear, np.zeros(26_000, np.float32), BEATS[:5])) == 5
