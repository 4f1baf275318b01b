"""Three smooth bands: low below 180 Hz, high above 2500 Hz, and what is between.

Both edges are filters of linear phase, so the three add up to the sound as it was, and nothing moves in time.
"""

from __future__ import annotations

from functools import cache

import numpy as np

from ..arrays import Singles

LOW_HZ, HIGH_HZ = 180.0, 2500.0
LONG_S = 0.0232
"""Half the length of the longer filter: what a block needs of the sound on either side."""


def reach(rate: int) -> int:
    """Frames before and after a block that its bands depend on."""
    return int(LONG_S * rate)


@cache
def _below(edge: float, rate: int) -> Singles:
    """A windowed sinc of `2 * reach + 1` taps that keeps what lies below `edge` Hz."""
    half = reach(rate)
    n = np.arange(-half, half + 1)
    taps = np.sinc(2 * edge / rate * n) * np.blackman(2 * half + 1)
    return np.asarray(taps / taps.sum(), np.float32)


def split(wide: Singles, rate: int) -> tuple[Singles, Singles]:
    """The low and the high band of a block, (n, 2) each.

    Parameters
    ----------
    wide : (n + 2 * reach(rate), 2) the block and what lies around it
    """
    import scipy.fft

    half = reach(rate)
    size = scipy.fft.next_fast_len(len(wide) + 2 * half, real=True)
    spectrum = scipy.fft.rfft(wide, size, axis=0)
    inside = slice(2 * half, len(wide))
    below = []
    for edge in (LOW_HZ, HIGH_HZ):
        taps = scipy.fft.rfft(_below(edge, rate), size)[:, None]
        below.append(scipy.fft.irfft(spectrum * taps, size, axis=0)[inside])
    return np.asarray(below[0], np.float32), wide[half : len(wide) - half] - np.asarray(below[1], np.float32)
