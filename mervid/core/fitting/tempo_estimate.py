"""How fast, and how sure of it: the slope of beat time over beat number, with its confidence interval.

A whole-number tempo is accepted by statistics, not by rounding: machine-made music runs at one (common practice, no
source), but some recordings really are fractional. What is left over after the line is not independent from beat to
beat, so the interval uses the estimate of Newey & West (Econometrica 55, 1987), which allows for that, with the wider
quantile of Kiefer & Vogelsang (Econometric Theory 21, 2005; coefficients recalled from memory); and a hit's
beginning may be read 1 ms differently at one end of a recording, where other sounds play, than at the other.
"""

from __future__ import annotations

import attrs
import numpy as np

from ..arrays import Floats
from ..maths.regression import fit_line

_TWO_SIDED_95 = (1.96, 2.9694, 0.416, -0.5324)
_LEAST_SPREAD = 0.0003
_NEIGHBOURS = 24
_READ = 0.001


@attrs.frozen
class Estimate:
    """One steady tempo.

    Attributes
    ----------
    tempo, margin : BPM; the true value lies within `margin` of `tempo` in 95 of 100 cases
    origin, period : s; beat `n` lies at origin + period * n
    beats : how many beats from the first to the last
    """

    tempo: float
    margin: float
    origin: float
    period: float
    beats: int

    @property
    def whole(self) -> int:
        """The nearest whole tempo, BPM."""
        return round(self.tempo)

    @property
    def is_whole(self) -> bool:
        """Does the nearest whole tempo lie within the interval?"""
        return abs(self.tempo - self.whole) <= self.margin

    def off_at_end(self, tempo: float) -> float:
        """Where the last beat would fall at `tempo` if the first is right: ms later than heard."""
        return (60 / tempo - self.period) * self.beats * 1000


def estimate(times: Floats, numbers: Floats) -> Estimate:
    """The steady tempo of beats, robust against some wrong ones.

    Parameters
    ----------
    times : (n,) s, where each beat's attack begins, at least 4
    numbers : (n,) count of each beat, ascending

    Raises
    ------
    ValueError
        Fewer than 4 beats, or not ascending.

    Examples
    --------
    >>> n = np.arange(400.0)
    >>> found = estimate(1.0 + 60 / 128 * n, n)
    >>> round(found.tempo, 6), found.is_whole
    (128.0, True)
    """
    if len(times) < 4 or len(times) != len(numbers) or not np.all(np.diff(numbers) > 0):
        raise ValueError("At least four beats in ascending order are needed.")
    origin, period = fit_line(numbers, times, np.ones(len(times)))
    left = times - origin - period * numbers
    size = 1.48 * float(np.median(np.abs(left - np.median(left)))) + 1e-5
    near = np.abs(left) <= 4 * size + 0.001
    x, e = numbers[near] - numbers[near].mean(), left[near]
    # sums of neighbours' products, weighted down with distance (Bartlett)
    moment = x * e
    total = float(moment @ moment)
    for k in range(1, min(_NEIGHBOURS, len(moment) - 1) + 1):
        total += 2 * (1 - k / (_NEIGHBOURS + 1)) * float(moment[k:] @ moment[:-k])
    least = _LEAST_SPREAD**2 * float(x @ x)
    error = np.sqrt(max(total, least)) / float(x @ x)
    width = sum(c * ((_NEIGHBOURS + 1) / len(x)) ** k for k, c in enumerate(_TWO_SIDED_95)) if len(x) > 50 else 3.5
    margin = np.hypot(width * error, _READ / (x[-1] - x[0])) / period * 60 / period
    return Estimate(60 / period, float(margin), origin, period, int(numbers[-1] - numbers[0]))
