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
def _halfway() -> Floats:
    """Weights of the frames around a point halfway between two: a sinc under a Kaiser window."""
    x = np.arange(_TAPS) - (_TAPS - 1) / 2
    w = np.sinc(x) * np.kaiser(_TAPS, 9.0)
    return np.asarray(w / w.sum())


def _twice(wide: Singles) -> Singles:
    """(n, 2) frames as (2 n - 1, 2) of twice the rate; those within `_TAPS / 2` of the ends are not right."""
    n = len(wide)
    out = np.zeros((2 * n - 1, 2), np.float32)
    out[::2] = wide
    if n > _TAPS:
        half = _TAPS // 2
        for c in (0, 1):
            out[2 * half - 1 : 2 * (n - half) : 2, c] = np.convolve(wide[:, c], _halfway(), "valid")
    return out


# the Lagrange polynomial through six neighbours, as powers of the distance from the third: rows are neighbours
def _coefficients() -> Floats:
    at = np.arange(-2.0, 4.0)
    return np.linalg.inv(np.vander(at, 6, increasing=True)).T


_POWERS = _coefficients()


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
    f = (x - i).astype(np.float32)[:, None]
    near = [wide[i + k] for k in range(-2, 4)]
    powers = _POWERS.astype(np.float32)
    out = np.zeros((len(at), 2), np.float32)
    for power in range(5, -1, -1):
        term = sum(powers[k, power] * near[k] for k in range(6))
        out = out * f + term
    return np.asarray(out, np.float32)


def instants(own: Floats, mix: Floats, rate: int, start: int, count: int) -> Floats:
    """Which instants of a recording sound in mix frames `start` to `start + count`, (count,) s.

    Parameters
    ----------
    own, mix : (n,) the joined lines that tie the recording to the mix, s
    """
    return piecewise(np.arange(start, start + count) / rate, mix, own)
