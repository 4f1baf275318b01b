"""How much later a recording begins in another file of it, by what is struck in both.

For a file that was encoded anew, got a longer beginning or lost some: the same performance at the same speed, moved as
a whole. Anything else is no carrying over, and is refused.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..arrays import Singles

RATE = 1000
"""Attack strengths a second, as in `Evidence.attack`."""
WINDOW_S = 12.0
NEAR_MS = 3
"""Windows agree with the whole within so much: an encoder's own attack spread."""
LEAST_ALIKE = 0.5
"""Correlation of a window from which it is the same music; strangers stay under .3."""
MOST_WINDOWS = 40
_LEAST_AGREED = 0.8


def validate(old: NDArray[np.uint8], new: NDArray[np.uint8]) -> bool:
    """Whether both hold enough to compare: a window each, with something struck in it."""
    return all(len(x) >= WINDOW_S * RATE and bool(x.any()) for x in (old, new))


def offset(old: NDArray[np.uint8], new: NDArray[np.uint8]) -> float | None:
    """By how many s `new` is later than `old` all along; None where no one number says it.

    Parameters
    ----------
    old, new : (n,) and (m,) attack strengths, 1000 a second

    Examples
    --------
    >>> rng = np.random.default_rng(1)
    >>> x = (rng.random(30_000) < 0.004) * np.uint8(200)
    >>> offset(x, np.concatenate([np.zeros(1234, np.uint8), x]))
    1.234
    """
    if not validate(old, new):
        return None
    from scipy import fft

    a, b = _centred(old), _centred(new)
    size = fft.next_fast_len(len(a) + len(b), real=True)
    both = fft.irfft(np.conj(fft.rfft(a, size)) * fft.rfft(b, size), size)
    lag = int(both.argmax())
    lag = lag if lag < len(b) else lag - size
    first, last = max(0, -lag), min(len(a), len(b) - lag)
    n = int(WINDOW_S * RATE)
    if last - first < n:
        return None
    starts = np.linspace(first, last - n, min(MOST_WINDOWS, 1 + (last - first) // n)).astype(int)
    found = [_window(a[i : i + n], b, i + lag) for i in starts if old[i : i + n].any()]
    agreed = [by for by in found if by is not None]
    if len(agreed) < _LEAST_AGREED * len(found) or not agreed:
        return None
    return round((lag + float(np.median(agreed))) / RATE, 4)


def _centred(x: NDArray[np.uint8]) -> Singles:
    return np.asarray(x.astype(np.float32) - np.float32(x.mean()), np.float32)


def _window(part: Singles, b: Singles, at: int) -> int | None:
    """How many ms beside `at` the window `part` lies in `b`; None where it isn't found near."""
    best, place = 0.0, None
    for by in range(-NEAR_MS, NEAR_MS + 1):
        there = b[max(0, at + by) : at + by + len(part)]
        if len(there) != len(part):
            continue
        scale = float(np.linalg.norm(part) * np.linalg.norm(there))
        alike = float(part @ there) / scale if scale else 0.0
        if alike > best:
            best, place = alike, by
    return place if best >= LEAST_ALIKE else None
