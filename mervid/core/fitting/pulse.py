"""The pulse under the jitter: heard beats drawn a little towards each other, each as far as it is unsure.

A smoother that weighs how far each beat moves against how much the beat's length changes from one to the next
(Whittaker, Proceedings of the Edinburgh Mathematical Society 1923). Where the count leaves beats out, and where the
tempo steps, the pulse on both sides is its own.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..arrays import Floats

STIFF = 0.5
"""What a change of a beat's length by 1 s costs beside a sure beat's move by 1 s. On rendered music .02 to .5 serve two
tracks about alike, the stiffer with fewer pins; from 3 on the pulse itself is lost."""
LEAST = 0.05
"""A beat weighs its chance of being right, and so much at least."""
STEP = 0.012
"""The tempo steps where the median beats of both sides differ by so much (a drummer's beat to beat drift is less)."""
SIDE = 4
"""Beats that make a side."""
FAR = 3
"""Beats apart from which two neighbours know nothing of each other."""


def smooth(times: Floats, numbers: NDArray[Any], confidence: Floats) -> Floats:
    """The pulse at heard beats, (n,) s.

    Parameters
    ----------
    times, numbers, confidence : (n,) s ascending, the beats' counts ascending, their chances of being right

    Examples
    --------
    >>> n = np.arange(9)
    >>> late = 0.5 * n + 0.02 * (n == 4)
    >>> bool(abs(smooth(late, n, np.ones(9))[4] - 2.0) < 0.01)
    True
    """
    k = len(times)
    if k < 3:
        return times
    from scipy.linalg import solveh_banded

    step = np.diff(numbers.astype(float))
    a, b = step[:-1], step[1:]
    known = (a < FAR) & (b < FAR) & ~_steps(np.diff(times) / step)
    # second difference of time over count, at uneven steps (divided differences)
    scale = np.where(known, 2 / (a + b), 0.0)
    rows = np.stack([scale / a, -scale * (1 / a + 1 / b), scale / b])
    bands = np.zeros((3, k))
    bands[2] = np.maximum(confidence, LEAST)
    for i in range(3):
        for j in range(i, 3):
            band = STIFF * rows[i] * rows[j]
            bands[2 - (j - i), j : j + k - 2] += band
    return np.asarray(solveh_banded(bands, np.maximum(confidence, LEAST) * times))


def _steps(period: Floats) -> NDArray[np.bool_]:
    """Where the tempo steps, at each beat but the first and the last: (n - 1,) periods to (n - 2,)."""
    padded = np.pad(period, SIDE - 1, mode="edge")
    sides = np.median(np.lib.stride_tricks.sliding_window_view(padded, SIDE), axis=1)
    before, after = sides[: len(period) - 1], sides[SIDE : SIDE + len(period) - 1]
    return np.asarray(np.abs(np.log(after / before)) > STEP)
