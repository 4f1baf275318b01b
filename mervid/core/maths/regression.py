"""Straight lines through (count, time): least squares, and three that shrug off outliers.

Each is (value at 0, slope). Huber (Ann. Math. Statist. 35, 1964) and Cauchy weights are found by reweighting; the
median of slopes is Theil's (1950) and Sen's (JASA 63, 1968).
"""

from __future__ import annotations

import numpy as np

from ..arrays import Floats


def weighted_line(index: Floats, times: Floats, weights: Floats) -> tuple[float, float]:
    """Origin and period of the least-squares line through (index, time)."""
    total = weights.sum()
    mi, mt = (weights * index).sum() / total, (weights * times).sum() / total
    spread = (weights * (index - mi) ** 2).sum()
    period = float((weights * (index - mi) * (times - mt)).sum() / max(spread, 1e-12))
    return float(mt - period * mi), period


def fit_line(index: Floats, times: Floats, weights: Floats) -> tuple[float, float]:
    """Origin and period of a robust line (iteratively reweighted, Cauchy weights of scale 6 ms)."""
    w = weights.copy()
    origin = period = 0.0
    for _ in range(6):
        origin, period = weighted_line(index, times, w)
        r = (times - origin - period * index) / 0.006
        w = weights / (1 + r * r)
    return origin, period


def median(x: Floats) -> float:
    """Median of a few values; np.median takes longer to begin than this to end."""
    s, n = np.sort(x), len(x)
    return float((s[(n - 1) // 2] + s[n // 2]) / 2)


def huber_line(times: Floats, numbers: Floats, weights: Floats | None = None) -> tuple[float, float]:
    """Robust straight line through (number, time): first beat in s and period in s (Huber, reweighted 20 times)."""
    w = np.ones(len(times)) if weights is None else weights.copy()
    base = w.copy()
    start = period = 0.0
    for _ in range(20):
        start, period = weighted_line(numbers, times, w)
        r = np.abs(times - start - period * numbers)
        scale = max(1.4826 * float(np.median(r)), 1e-4)
        w = base * np.minimum(1.0, 1.345 * scale / np.maximum(r, 1e-9))
    return start, period


def theil_sen(x: Floats, y: Floats) -> tuple[float, float]:
    """Value at x = 0 and slope of the line whose slope is the median of all slopes between two points."""
    i, j = np.triu_indices(len(x), 1)
    apart = x[j] != x[i]
    slope = float(np.median((y[j] - y[i])[apart] / (x[j] - x[i])[apart]))
    return float(np.median(y - slope * x)), slope
