"""Hearing without the trained ear: its small decisions, each on beats made for it."""

from __future__ import annotations

import numpy as np
import pytest

from mervid.core.hearing import drum_patterns, features, untrained_pointer
from mervid.core.hearing.drum_patterns import BEATS, BINS, PATTERNS
from mervid.core.hearing.features import ATTACK_RATE, BANDS, FLUX_FPS, Sound


def sound_of(strokes: np.ndarray, seconds: float, *, band: int = 0) -> Sound:
    """Onset strengths with a full stroke in one band at each time, and nothing else to go by."""
    flux = np.zeros((int(seconds * FLUX_FPS), BANDS), np.float32)
    flux[np.rint(strokes * FLUX_FPS).astype(int), band] = 1
    attack = np.zeros(int(seconds * ATTACK_RATE), np.float32)
    attack[np.rint(strokes * ATTACK_RATE).astype(int)] = 1
    slow = int(seconds * 20)
    return Sound(
        flux, attack, np.zeros((slow, 24), np.float32), np.zeros((slow, 12), np.float32), np.zeros(slow), seconds
    )


def test_patterns_expect_hits_where_they_are_written() -> None:
    mean = drum_patterns.expected(np.array([0.5, 1.0]))
    assert mean.shape == (2, len(PATTERNS), BEATS, BINS, 4)
    four = list(PATTERNS).index("four on the floor")
    kick = mean[0, four, :, :, 0]
    assert np.all(kick.argmax(axis=1) == 0)
    cymbal = mean[0, four, :, :, 3]
    assert np.all(cymbal.argmax(axis=1) == BINS // 2)
    # a hit is as long at any tempo, so it fills less of a longer beat
    assert mean[1, four, 0, :, 0].sum() < mean[0, four, 0, :, 0].sum()


def test_stretches_at_half_speed_are_filled_and_at_double_thinned() -> None:
    true = 100 + 50.0 * np.arange(120)
    half = np.concatenate([true[:30:2], true[30:]])
    frames, place = untrained_pointer._one_level(half, np.arange(len(half)) % 4)
    np.testing.assert_allclose(frames, true)
    assert np.all(np.diff(place) % 4 == 1)
    double = np.concatenate([true[:90], np.arange(true[90], true[110], 25.0), true[110:]])
    frames, _ = untrained_pointer._one_level(double, np.arange(len(double)) % 4)
    np.testing.assert_allclose(frames, true)
    wander = np.cumsum(50 + 12 * np.sin(np.arange(200) / 20))
    np.testing.assert_array_equal(untrained_pointer._one_level(wander, np.arange(200) % 4)[0], wander)


@pytest.mark.parametrize(("between", "beats"), [(1.0, 79), (0.3, 40)])
def test_a_slow_count_is_doubled_only_where_drums_strike_between(between: float, beats: int) -> None:
    frames = 100.0 + 100 * np.arange(40)
    flux = np.zeros((4300, 4), np.float32)
    flux[frames.astype(int), 0] = 1
    flux[frames[:-1].astype(int) + 50, 2] = between
    assert len(untrained_pointer._not_half(flux, frames, np.arange(40) % 4)[0]) == beats


def test_the_backbeat_and_change_of_harmony_settle_the_bar() -> None:
    beats = 1 + 0.5 * np.arange(64)
    sound = sound_of(beats[::2], 34)
    sound.flux[np.rint(beats[1::2] * FLUX_FPS).astype(int), 2] = 1
    bar = (np.arange(len(sound.chroma)) - 20) // 40
    sound.chroma[np.arange(len(bar)), (bar * 5) % 12] = 1
    # the decoder began its count one beat late: position 3 is the true downbeat
    place, margin = untrained_pointer._bar_phase(sound, beats, (np.arange(64) + 3) % 4)
    assert np.all(place[::4] == 0)
    assert margin > 0.3


def test_onsets_keep_the_stronger_of_two_near_ones() -> None:
    attack = np.zeros(1000, np.float32)
    attack[[200, 215, 500, 900]] = 0.5, 0.9, 0.05, 0.4
    times, strengths = features.onsets(attack)
    np.testing.assert_allclose(times, [0.215, 0.9])
    np.testing.assert_allclose(strengths, [0.9, 0.4])
    assert len(features.onsets(np.zeros(2, np.float32))[0]) == 0
