"""One side of the beat through steady stretches of one tempo."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from mervid.core.hearing import beat_sides
from mervid.core.hearing.ear import TEMPI, Strengths


def strengths(beats: NDArray[np.float64], off: NDArray[np.float64]) -> Strengths:
    """An ear that is sure of `beats` and half sure of `off`."""
    frames = int(beats[-1] * 50) + 100
    beat = np.full(frames, 0.01, np.float32)
    beat[np.rint(off * 50).astype(int)] = 0.5
    beat[np.rint(beats * 50).astype(int)] = 0.9
    even = np.full((frames, TEMPI), 1 / TEMPI, np.float32)
    return Strengths(beat, beat / 4, beat * 0, beat * 0 + 1, beat * 0, even)


def test_a_stretch_heard_off_the_beat_follows_the_others() -> None:
    true = 1 + 0.4 * np.arange(200)
    # beats 60 to 110 are heard between the beats
    heard = np.concatenate([true[:60], true[60:110] + 0.2, true[111:]])
    run = np.repeat([0, 1, 2], [60, 50, 89])
    ear = strengths(true, true[60:110] + 0.2)
    agreed = beat_sides.agree(ear, heard, run)
    assert agreed is not None
    np.testing.assert_allclose(agreed, true, atol=1e-9)
    assert beat_sides.agree(ear, true, np.repeat([0, 1], 100)) is None
    # unless more than the ear is sure of that side
    assert beat_sides.agree(ear, heard, run, sure=lambda times: np.full(len(times), 12.0)) is None
    moved = beat_sides.agree(ear, heard, run, sure=lambda times: np.full(len(times), 2.0))
    assert moved is not None
    np.testing.assert_array_equal(moved, agreed)


def test_another_tempo_may_lie_elsewhere() -> None:
    first, second = 1 + 0.4 * np.arange(60), 25.2 + 0.44 * np.arange(60)
    heard = np.concatenate([first, second])
    assert beat_sides.agree(strengths(heard, first), heard, np.repeat([0, 1], 60)) is None
