"""The form of a track: where its phrases begin, how many bars each has, and which are the same.

A boundary is a bar line at which the music changes. What changes is measured in three ways: as novelty along the
diagonal of the bars' self-similarity (Foote, ICME 2000) in timbre, harmony and rhythm; as a change in what is repeated
where (structure features: Serrà, Müller, Grosche & Arcos, IEEE Trans. Multimedia 16, 2014); and by what the trained
ear says of section starts. A logistic regression on rendered music (`training/form.py`) turns these into odds. The
phrases are the best row under these odds and a mild expectation of their lengths (dynamic programming over bar lines):
4, 8, 16 and 32 bars are usual, others are allowed. Phrases that sound alike bar by bar get the same letter.
"""

from __future__ import annotations

from collections.abc import Callable

import attrs
import numpy as np

from ..arrays import Floats, Ints
from .bar_features import Bars

Like = Callable[[Floats, Floats], Floats]

LONGEST = 64
"""Bars a phrase may have."""
_USUAL = {
    4: -0.1,
    8: 0.6,
    16: 0.3,
    32: -0.3,
    12: -0.8,
    20: -1.2,
    24: -1.0,
    2: -2.6,
    6: -2.2,
    10: -2.2,
    14: -2.4,
    18: -2.2,
}
_MULTIPLE_OF_4, _EVEN, _ODD, _ONE = -1.4, -2.6, -3.6, -5.0
LENGTHS_COUNT = 0.7
"""How much the expectation of lengths counts beside the odds of the boundaries."""
_REPEATS_AT_MOST = 800
"""Bars up to which repetitions are looked for everywhere: the picture of them grows with the square."""
_COMPARED = 8
_HUSHED = -1.5
_STEPPED, _SWAYS, _STEP = 3.5, 0.006, 0.01
_PAIRS_AT_ONCE = 256

NAMES = (
    "timbre 2", "timbre 4", "timbre 8", "harmony 4", "harmony 8", "rhythm 2", "rhythm 4", "rhythm 8", "repetition",
    "drums", "voice", "level", "ear", "timbre peak", "ear peak",
)  # fmt: skip
"""What is measured at each bar line; `WEIGHTS` has one for each, and a constant last."""
WEIGHTS = np.array([1.557, 0, 0, 1.062, 0, 0, 0, 0, 1.93, 0, 0.132, 0, 2.584, 1.513, 3.694, -2.523])
ALIKE = 0.45
"""Phrases nearer than this share a letter."""


@attrs.frozen(eq=False)
class Outline:
    """Phrases as rows of bars.

    Attributes
    ----------
    edges : (k + 1,) bar at which each phrase begins, counted in `Bars`, and the number of bars
    letters : (k,) 0 for A, 1 for B ... in the order in which they first appear
    odds : (k,) log odds of each phrase's beginning; the first is not judged and 0
    """

    edges: Ints
    letters: Ints
    odds: Floats


def outline(bars: Bars) -> Outline:
    """Where the phrases begin and which are alike."""
    odds = boundary_odds(changes(bars)) + tempo_odds(bars)
    edges = without_ring(bars, best_edges(odds))
    return Outline(edges, letters(bars, edges), np.concatenate([[0.0], odds[edges[1:-1] - 1]]))


# what changes at each bar line


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


def tempo_odds(bars: Bars) -> Floats:
    """What a step of tempo adds to the odds of each bar line, (n - 1,): players change pace where a phrase begins.

    A step stands out of the bars around it; a slow change of tempo is no step (common practice, no source).
    """
    n = len(bars)
    length = np.log(np.diff(bars.times) / np.diff(bars.starts))
    at = np.arange(1, n)
    padded = np.pad(length, 2, mode="edge")
    before, after = (padded[at] + padded[at + 1]) / 2, (padded[at + 2] + padded[at + 3]) / 2
    step = np.pad(np.abs(after - before), 2)
    around = np.maximum(step[:-4], step[4:])
    return np.asarray(_STEPPED * np.clip((step[2:-2] - around - _SWAYS) / _STEP, 0, 1))


# the best row of phrases


def length_odds(length: int) -> float:
    """What is expected of a phrase of so many bars: above 0 more than by chance (common practice, no source)."""
    if length in _USUAL:
        return _USUAL[length]
    if length == 1:
        return _ONE
    return _MULTIPLE_OF_4 if length % 4 == 0 else _EVEN if length % 2 == 0 else _ODD


def best_edges(odds: Floats, *, count: float | None = None) -> Ints:
    """The bars at which phrases begin, and last the number of bars: the best row under odds and lengths.

    Parameters
    ----------
    odds : (n - 1,) log odds of bar lines 1 to n - 1
    """
    n = len(odds) + 1
    count = LENGTHS_COUNT if count is None else count
    expected = count * np.array([0.0, *(length_odds(k) for k in range(1, LONGEST + 1))])
    # the last phrase may be cut short, by a fade or the end of the file
    ending = np.maximum(expected, count * _MULTIPLE_OF_4)
    gain = np.concatenate([[0.0], odds, [0.0]])
    best = np.full(n + 1, -np.inf)
    best[0] = 0.0
    came = np.zeros(n + 1, np.int64)
    for b in range(1, n + 1):
        a = np.arange(max(0, b - LONGEST), b)
        value = best[a] + (ending if b == n else expected)[b - a] + gain[b]
        k = int(value.argmax())
        best[b], came[b] = value[k], a[k]
    edges = [n]
    while edges[-1] > 0:
        edges.append(int(came[edges[-1]]))
    return np.array(edges[::-1], np.int64)


def without_ring(bars: Bars, edges: Ints) -> Ints:
    """Without a last bar of its own, or a hushed last two: there the last hit only rings on, or a record runs out."""
    if len(edges) < 3:
        return edges
    length = int(edges[-1] - edges[-2])
    hushed = float(bars.level[edges[-2] :].mean()) < _HUSHED
    return edges[:-1] if length == 1 or (length == 2 and hushed) else edges


# which phrases are alike


def apart(bars: Bars, edges: Ints) -> Floats:
    """How far each pair of phrases lies apart, their first bars compared one by one: (k, k), 0 is the same."""
    from scipy.spatial.distance import cdist

    starts, lengths = edges[:-1], np.diff(edges)
    total, count = np.zeros((len(starts), len(starts))), np.zeros((len(starts), len(starts)))
    for j in range(min(_COMPARED, int(lengths.max()))):
        there = lengths > j
        at = np.minimum(starts + j, len(bars) - 1)
        timbre = cdist(bars.timbre[at], bars.timbre[at], "cityblock") / bars.timbre.shape[1]
        rhythm = cdist(bars.rhythm[at], bars.rhythm[at], "cityblock") / bars.rhythm.shape[1]
        harmony = 1 - bars.harmony[at] @ bars.harmony[at].T / 2
        both = there[:, None] & there[None]
        total += both * (0.35 * timbre + 0.8 * rhythm + 0.35 * harmony)
        count += both
    out = total / np.maximum(count, 1)
    for x, weight in ((bars.voice, 0.25), (bars.drums, 0.35), (bars.level, 0.1)):
        mean = np.add.reduceat(x, starts) / lengths
        out += weight * np.abs(mean[:, None] - mean[None])
    return out


def letters(bars: Bars, edges: Ints, *, alike: float | None = None) -> Ints:
    """A number for each phrase, the same for those that sound alike (average linkage), in order of appearance."""
    from scipy.cluster.hierarchy import fcluster, linkage
    from scipy.spatial.distance import squareform

    k = len(edges) - 1
    if k < 2:
        return np.zeros(k, np.int64)
    d = apart(bars, edges)
    np.fill_diagonal(d, 0.0)
    near = squareform((d + d.T) / 2, checks=False)
    groups = fcluster(linkage(near, "average"), ALIKE if alike is None else alike, "distance")
    order: dict[int, int] = {}
    return np.array([order.setdefault(int(g), len(order)) for g in groups], np.int64)


def letter(number: int) -> str:
    """A, B ... Z, then A2, B2 ..."""
    round_, k = divmod(number, 26)
    return chr(65 + k) + (str(round_ + 1) if round_ else "")
