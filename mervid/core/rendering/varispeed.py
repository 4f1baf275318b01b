"""Sound at another speed, pitch and all: the recording read between its samples.

Twice oversampled by a windowed sinc and joined by a fifth-order polynomial through six points (Lagrange), which keeps
errors of a 12 kHz tone 90 dB down (measured, see the guide to Rehearse). Every output frame is computed from its own
instant, so the same instants always give the same sound.
"""

from __future__ import annotations

from functools import cache

import numpy as np

from ..arrays import Floats, Singles
from ..maths.piecewise import piecewise
from ..sound.decoding import Kept, floats

_TAPS = 32
_REACH = _TAPS // 2 + 4


def frames(samples: Kept, start: int, count: int) -> Singles:
    """(count, 2) frames of the recording; zeros outside."""
    out = np.zeros((count, 2), np.float32)
    a, b = max(0, start), min(len(samples), start + count)
    if b > a:
        out[a - start : b - start] = floats(samples[a:b])
    return out


@cache
def _halfway() -> Singles:
    """Weights of the frames around a point halfway between two: a sinc under a Kaiser window."""
    x = np.arange(_TAPS) - (_TAPS - 1) / 2
    w = np.sinc(x) * np.kaiser(_TAPS, 9.0)
    return np.asarray(w / w.sum(), np.float32)


def _twice(wide: Singles) -> Singles:
    """(n, 2) frames as (2, 2 n - 1), a channel a row, of twice the rate; within `_TAPS / 2` of the ends not right."""
    n = len(wide)
    out = np.zeros((2, 2 * n - 1), np.float32)
    out[:, ::2] = wide.T
    if n > _TAPS:
        half = _TAPS // 2
        for c in (0, 1):
            out[c, 2 * half - 1 : 2 * (n - half) : 2] = np.convolve(
                np.ascontiguousarray(wide[:, c]), _halfway(), "valid"
            )
    return out


@cache
def _coefficients() -> Singles:
    """The Lagrange polynomial through six neighbours in powers of the distance from the third; rows are neighbours."""
    at = np.arange(-2.0, 4.0)
    return np.asarray(np.linalg.inv(np.vander(at, 6, increasing=True)).T, np.float32)


def between(samples: Kept, at: Floats) -> Singles:
    """The recording at fractional frames, (n, 2); silence outside it.

    Parameters
    ----------
    at : (n,) frames, ascending

    Examples
    --------
    >>> tone = np.sin(np.arange(1000) * 0.1).astype(np.float32)[:, None]
    >>> bool(abs(between(tone, np.array([500.25]))[0, 0] - np.sin(50.025)) < 1e-4)
    True
    """
    if not len(at):
        return np.zeros((0, 2), np.float32)
    first = int(np.floor(at[0])) - _REACH
    whole = np.rint(at)
    if np.abs(at - whole).max() < 1e-6 and whole[-1] - whole[0] == len(at) - 1:
        # as recorded: not a bit is changed
        return frames(samples, int(whole[0]), len(at))
    wide = _twice(frames(samples, first, int(np.ceil(at[-1])) + _REACH + 1 - first))
    x = (at - first) * 2
    i = np.floor(x).astype(np.intp)
    # what each neighbour weighs depends on the instant alone: once for both channels
    f = (x - i).astype(np.float32)
    powers = np.ones((6, len(f)), np.float32)
    np.multiply.accumulate(np.broadcast_to(f, (5, len(f))), axis=0, out=powers[1:])
    weights = _coefficients() @ powers
    out = np.empty((len(at), 2), np.float32)
    for c in (0, 1):
        out[:, c] = weights[0] * wide[c][i - 2]
        for k in range(1, 6):
            out[:, c] += weights[k] * wide[c][i + (k - 2)]
    return out


def instants(own: Floats, mix: Floats, rate: int, start: int, count: int) -> Floats:
    """Which instants of a recording sound in mix frames `start` to `start + count`, (count,) s.

    Parameters
    ----------
    own, mix : (n,) the joined lines that tie the recording to the mix, s
    """
    return piecewise(np.arange(start, start + count) / rate, mix, own)
