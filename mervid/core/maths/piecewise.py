"""Joined straight lines through knots, reaching outward for ever with the first and the last one."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike

from ..arrays import Floats


def piecewise(x: ArrayLike, knots: Floats, values: Floats) -> Floats:
    """The value of the lines at each x; any shape. Swapping `knots` and `values` gives the inverse.

    Parameters
    ----------
    knots, values : (n,) strictly increasing, n at least 2

    Examples
    --------
    >>> piecewise([-1.0, 0.5, 4.0], np.array([0.0, 1.0, 3.0]), np.array([0.0, 2.0, 3.0])).tolist()
    [-2.0, 1.0, 3.5]
    """
    x = np.asarray(x, float)
    # np.clip takes longer to begin than these take in all; the playhead asks some twenty times a frame
    i = np.minimum(np.maximum(np.searchsorted(knots, x, "right") - 1, 0), len(knots) - 2)
    slope = (values[i + 1] - values[i]) / (knots[i + 1] - knots[i])
    # measured from the nearer knot, so that a knot maps to a knot exactly
    near = np.where(x - knots[i] <= knots[i + 1] - x, i, i + 1)
    return np.asarray(values[near] + (x - knots[near]) * slope)
