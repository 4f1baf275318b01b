"""What a bar line is judged by: 122 figures for each, all measured on the bars around it and on what is repeated where.

How far the bars before and after are apart, over 1 to 16 of them, in timbre, harmony, rhythm, percussion, voice and
level; whether a stretch begins here that stands elsewhere, too, while what came before it doesn't; whether the last bar
was filled or hushed; whether changes at this place of every 2, 4, 8 or 16 bars are usual in this track (its
hypermetre); and how this bar line stands out of those near it.
"""

from __future__ import annotations

import numpy as np

from ..arrays import Floats, Ints, Singles
from .bar_features import Bars
from .novelty import boundary_odds, changes

SPANS = (1, 2, 4, 8, 16)
"""Bars to either side that are compared."""
STRETCHES = (2, 4, 8)
"""Bars of a stretch that is looked for elsewhere."""
LOWEST, HIGHEST = 6, 16
"""Bands below and above which sound is low and high."""
_EDGE = 16
AT_MOST = 640
"""Bars that are looked at together: likeness grows with the square."""
OVER = 32
"""Bars that neighbouring parts of a longer track share."""
COUNT = 122


def features(bars: Bars, measured: Floats | None = None) -> Singles:
    """Figures of bar lines 1 to n - 1, (n - 1, `COUNT`); `measured`: their `novelty.changes` where known."""
    n = len(bars)
    if n < 2:
        return np.zeros((0, COUNT), np.float32)
    at = np.arange(1, n)
    measured = changes(bars) if measured is None else measured
    base = boundary_odds(measured)
    columns = [
        measured,
        *_around(bars, at),
        *_repeated(bars, at),
        *_before(bars, at),
        *_metre(base, at),
        *_standing_out(bars, base, at),
    ]
    made = np.concatenate([c if c.ndim == 2 else c[:, None] for c in columns], axis=1)
    return np.nan_to_num(made).astype(np.float32)


def _means(x: Floats, span: int, at: Ints) -> tuple[Floats, Floats]:
    """Means of so many rows before and from each place on."""
    run = np.concatenate([np.zeros((1, x.shape[1])), np.cumsum(x, axis=0)])
    a, b = np.maximum(0, at - span), np.minimum(len(x), at + span)
    return (run[at] - run[a]) / (at - a)[:, None], (run[b] - run[at]) / (b - at)[:, None]


def _around(bars: Bars, at: Ints) -> list[Floats]:
    out: list[Floats] = []
    for span in SPANS:
        before, after = _means(bars.timbre, span, at)
        out += [np.abs(before - after).mean(axis=1), (after - before).mean(axis=1)]
        before, after = _means(bars.harmony, span, at)
        out.append(np.linalg.norm(before - after, axis=1))
        before, after = _means(bars.rhythm, span, at)
        out += [np.abs(before - after).mean(axis=1), (after - before).mean(axis=1)]
        for row in (bars.drums, bars.voice, bars.level):
            before, after = _means(row[:, None], span, at)
            out += [after - before, np.abs(after - before)]
    for row in (bars.timbre[:, :LOWEST].mean(axis=1), bars.timbre[:, HIGHEST:].mean(axis=1)):
        for span in (2, 4, 8):
            before, after = _means(row[:, None], span, at)
            out.append(np.abs(after - before))
    return out


def likeness(bars: Bars) -> Floats:
    """How alike each two bars are, (n, n), 0 to 1."""
    x = np.concatenate(
        [
            bars.timbre / 3, bars.harmony * 2, bars.rhythm * 1.5, bars.drums[:, None], bars.voice[:, None],
            bars.level[:, None] / 2,
        ],
        axis=1,
    )  # fmt: skip
    square = (x**2).sum(axis=1)
    apart = np.maximum(square[:, None] + square[None] - 2 * x @ x.T, 0)
    return np.asarray(np.exp(-apart / (np.median(apart) + 1e-9) * 1.5))


def _along(s: Floats, length: int) -> Floats:
    """Mean likeness of two stretches of `length` bars that begin at each two bars, (n, n)."""
    n = len(s)
    out, count = np.zeros((n, n)), np.zeros((n, n))
    for k in range(length):
        m = n - k
        if m > 0:
            out[:m, :m] += s[k:, k:]
            count[:m, :m] += 1
    return out / np.maximum(count, 1)


def _repeated(bars: Bars, at: Ints) -> list[Floats]:
    """Whether what begins or has just ended here stands elsewhere, while what is on the other side doesn't."""
    n = len(bars)
    s, out = likeness(bars), []
    bar, line = np.arange(n), np.arange(n + 1)
    for length in STRETCHES:
        along = _along(s, length)
        far = np.abs(bar[:, None] - bar[None]) >= max(length, 4)
        other = np.where(far, along, -1)
        before = np.zeros_like(along)
        before[length:, length:] = along[:-length, :-length] if n > length else 0
        begins = np.where(far, along - before, -1).max(axis=1)
        best, where = other.max(axis=1), other.argmax(axis=1)
        out += [best[at], begins[at], (best - before[bar, where])[at]]
        ended, goes_on = np.zeros((n + 1, n + 1)), np.zeros((n + 1, n + 1))
        if n >= length:
            ended[length:, length:] = along[: n - length + 1, : n - length + 1]
        goes_on[:n, :n] = along
        far = np.abs(line[:, None] - line[None]) >= max(length, 4)
        out.append(np.where(far, ended - goes_on, -1).max(axis=1)[at])
        out.append(np.where(at >= length, along[np.maximum(at - length, 0), at], 0.5))
    return out


def _before(bars: Bars, at: Ints) -> list[Floats]:
    """Whether the bar before was a fill, and how the first stroke and the level there stand against those before."""
    r, level = bars.rhythm, bars.level

    def mean(x: Floats, a: int, b: int) -> Floats:
        return np.asarray(x[a:b].mean(axis=0)) if b > a else np.zeros(x.shape[1:])

    fill = [np.abs(r[k - 1] - mean(r, max(0, k - 5), k - 1)).mean() if k >= 2 else 0.0 for k in at.tolist()]
    last = [r[k - 1, 12:].mean() - r[max(0, k - 5) : max(1, k - 1), 12:].mean() for k in at.tolist()]
    first = [r[k, 0] - r[max(0, k - 4) : k, 0].mean() for k in at.tolist()]
    hushed = [level[k - 1] - level[max(0, k - 5) : k].mean() for k in at.tolist()]
    return [np.array(x, float) for x in (fill, last, first, hushed)]


def _metre(base: Floats, at: Ints) -> list[Floats]:
    """How usual changes are at this place of every so many bars."""
    chance, out = 1 / (1 + np.exp(-base)), []
    for period in (2, 4, 8, 16):
        places = at % period
        usual = np.array([chance[places == k].mean() if (places == k).any() else 0.0 for k in range(period)])
        mine = usual[places]
        out += [mine / (usual.mean() + 1e-6), (mine >= usual.max() - 1e-9).astype(float)]
    return [*out, *((at % period == 0).astype(float) for period in (4, 8))]


def _standing_out(bars: Bars, base: Floats, at: Ints) -> list[Floats]:
    n = len(bars)
    padded = np.pad(base, (8, 8), mode="edge")
    out = [base - padded[8 + k : 8 + k + len(base)] for k in (-8, -4, -2, -1, 1, 2, 4, 8)]
    chance = 1 / (1 + np.exp(-base))
    padded = np.pad(chance, (8, 8))
    for span in (2, 4, 8):
        near = np.stack([padded[8 + k : 8 + k + len(base)] for k in range(-span, span + 1)])
        out.append((near <= chance[None]).mean(axis=0))
    out.append(base.argsort().argsort() / max(1, len(base) - 1))
    opens = np.pad(bars.opens, (4, 4))
    around = np.stack([opens[4 + k : 4 + k + n] for k in (-2, -1, 1, 2)]).max(axis=0)
    out += [bars.opens[at], bars.opens[at] - around[at]]
    return [*out, np.minimum(at, _EDGE) / _EDGE, np.minimum(n - at, _EDGE) / _EDGE, np.full(len(at), min(n, 200) / 100)]
