"""How much the music changes at each bar line, measured by hand: the first of what the odds of phrases rest on.

As novelty along the diagonal of the bars' self-similarity (Foote, ICME 2000) in timbre, harmony and rhythm; as a change
in what is repeated where (structure features: Serrà, Müller, Grosche & Arcos, IEEE Trans. Multimedia 16, 2014); and by
what the trained ear says of section starts. A logistic regression on rendered music turns these into odds.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from ..arrays import Floats
from .bar_features import Bars

Like = Callable[[Floats, Floats], Floats]

_REPEATS_AT_MOST = 800
"""Bars up to which repetitions are looked for everywhere: the picture of them grows with the square."""
_PAIRS_AT_ONCE = 256

NAMES = (
    "timbre 2", "timbre 4", "timbre 8", "harmony 4", "harmony 8", "rhythm 2", "rhythm 4", "rhythm 8", "repetition",
    "drums", "voice", "level", "ear", "timbre peak", "ear peak",
)  # fmt: skip
"""What is measured at each bar line; `WEIGHTS` has one for each, and a constant last."""
WEIGHTS = np.array([1.557, 0, 0, 1.062, 0, 0, 0, 0, 1.93, 0, 0.132, 0, 2.584, 1.513, 3.694, -2.523])


def changes(bars: Bars) -> Floats:
    """What is measured at bar lines 1 to n - 1, see `NAMES`: (n - 1, 15), each about 0 to 1."""
    n = len(bars)
    if n < 2:
        return np.zeros((0, len(NAMES)))
    timbre, harmony, rhythm = _similar(bars.timbre, 5.0), _cosine(bars.harmony), _cosine(bars.rhythm)
    columns = [
        *(foote(timbre, bars.timbre, h) for h in (2, 4, 8)),
        *(foote(harmony, bars.harmony, h) for h in (4, 8)),
        *(foote(rhythm, bars.rhythm, h) for h in (2, 4, 8)),
        repetition(bars),
        _step(bars.drums, 2),
        _step(bars.voice, 3),
        _step(bars.level, 2) / 2,
        bars.opens[1:],
    ]
    columns.append(_peak(columns[1]))
    columns.append(_peak(columns[12]))
    return np.stack(columns, axis=1)


def _similar(x: Floats, width: float) -> Like:
    """A measure of likeness, 0 to 1, of two blocks of rows: (..., a, k), (..., b, k) -> (..., a, b)."""

    def like(a: Floats, b: Floats) -> Floats:
        d = (a**2).sum(-1)[..., :, None] + (b**2).sum(-1)[..., None, :] - 2 * a @ np.swapaxes(b, -1, -2)
        return np.asarray(np.exp(-np.maximum(d, 0) / (width * x.shape[1] / 4)))

    return like


def _cosine(x: Floats) -> Like:
    scale = np.linalg.norm(x, axis=1).mean() + 1e-9

    def like(a: Floats, b: Floats) -> Floats:
        size = np.linalg.norm(a, axis=-1)[..., :, None] * np.linalg.norm(b, axis=-1)[..., None, :]
        return np.asarray(a @ np.swapaxes(b, -1, -2) / (size + 0.05 * scale**2))

    return like


def foote(like: Like, x: Floats, half: int) -> Floats:
    """Novelty at bar lines 1 to n - 1 under a tapered checkerboard kernel of `half` bars to either side (Foote 2000).

    Parameters
    ----------
    like : likeness of blocks of rows
    x : (n, k) features of the bars
    """
    n = len(x)
    taper = np.exp(-0.5 * ((np.arange(2 * half) - half + 0.5) / (0.6 * half)) ** 2)
    side = np.where(np.arange(2 * half) < half, -1.0, 1.0)
    padded = np.pad(x, ((half, half), (0, 0)), mode="edge")
    out = np.zeros(n - 1)
    windows = np.lib.stride_tricks.sliding_window_view(padded, 2 * half, axis=0)
    for start in range(0, n - 1, _PAIRS_AT_ONCE):
        block = np.swapaxes(windows[start + 1 : min(n, start + 1 + _PAIRS_AT_ONCE)], 1, 2)
        s = like(block, block)
        w = taper[:, None] * taper[None]
        kernel = w * side[:, None] * side[None] / w.sum()
        out[start : start + len(block)] = (s * kernel).sum(axis=(1, 2))
    return np.maximum(out, 0.0) * 2


def repetition(bars: Bars) -> Floats:
    """How much of what is repeated elsewhere changes at each bar line (structure features, Serrà et al. 2014)."""
    n = len(bars)
    if n < 8 or n > _REPEATS_AT_MOST:
        return np.zeros(max(0, n - 1))
    from scipy.ndimage import gaussian_filter

    x = np.concatenate([bars.timbre / 3, bars.harmony * 2, bars.rhythm], axis=1)
    x = np.concatenate([x, np.roll(x, -1, axis=0)], axis=1)
    d = (x**2).sum(1)[:, None] + (x**2).sum(1)[None] - 2 * x @ x.T
    near = max(2, round(0.12 * n))
    limit = np.sort(d, axis=1)[:, min(n - 1, near)]
    r = (d <= limit[:, None]) & (d <= limit[None])
    np.fill_diagonal(r, False)
    lag = np.stack([np.roll(r[i], -i) for i in range(n)]).astype(float)
    smooth = gaussian_filter(lag, (2.0, 0.7), mode=("nearest", "wrap"))
    change = np.sqrt((np.diff(smooth, axis=0) ** 2).sum(axis=1))
    return np.asarray(change / (change.max() + 1e-9))


def _step(x: Floats, bars: int) -> Floats:
    """How far the means of so many bars before and after each bar line are apart."""
    run = np.concatenate([[0.0], np.cumsum(x)])
    at = np.arange(1, len(x))
    a, b = np.maximum(0, at - bars), np.minimum(len(x), at + bars)
    return np.asarray(np.abs((run[b] - run[at]) / (b - at) - (run[at] - run[a]) / (at - a)))


def _peak(x: Floats) -> Floats:
    """How far each value stands above its neighbours to either side."""
    padded = np.pad(x, 2, constant_values=0.0)
    around = np.stack([padded[k : k + len(x)] for k in (0, 1, 3, 4)]).max(axis=0)
    return np.asarray(np.clip(x - around, -1, 1))


def boundary_odds(measured: Floats, weights: Floats | None = None) -> Floats:
    """Log odds that a phrase begins at each bar line, (n - 1,)."""
    w = WEIGHTS if weights is None else weights
    return np.asarray(measured @ w[:-1] + w[-1])
