"""Which phrases of a track are alike: the first bars of each two are compared one by one."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from ..arrays import Bools, Floats, Ints
from ..hearing import voices
from .bar_features import Bars

ALIKE, ALIKE_SUNG = 0.55, 1.0
"""Phrases nearer than this share a letter; those of voices alone, whose lines have other words each time."""
HARMONY = 0.35
"""What harmony counts beside the rest."""
_COMPARED = 8


def apart(bars: Bars, edges: Ints) -> Floats:
    """How far each pair of phrases lies apart, (k, k): 0 is the same.

    Parameters
    ----------
    edges : (k + 1,) bar at which each phrase begins, and the number of bars
    """
    starts, lengths = edges[:-1], np.diff(edges)
    out = sound_apart(bars, edges) + HARMONY * (1 - agreement(bars.harmony, bars.harmony, edges))
    for x, weight in ((bars.voice, 0.25), (bars.drums, 0.35), (bars.level, 0.1)):
        mean = np.add.reduceat(x[: edges[-1]], starts) / lengths
        out += weight * np.abs(mean[:, None] - mean[None])
    np.fill_diagonal(out, 0.0)
    return out


def sound_apart(bars: Bars, edges: Ints) -> Floats:
    """How far each two lie apart in timbre and rhythm, (k, k)."""
    from scipy.spatial.distance import cdist

    total, count = _none(edges), _none(edges)
    for at, both in _first_bars(edges):
        timbre = cdist(bars.timbre[at], bars.timbre[at], "cityblock") / bars.timbre.shape[1]
        rhythm = cdist(bars.rhythm[at], bars.rhythm[at], "cityblock") / bars.rhythm.shape[1]
        total += both * (0.35 * timbre + 0.8 * rhythm)
        count += both
    return total / np.maximum(count, 1)


def agreement(these: Floats, those: Floats, edges: Ints) -> Floats:
    """How well the harmony of each phrase, of `these`, agrees with that of each other, of `those`: (k, k), -1 to 1.

    Parameters
    ----------
    these, those : (n, 24) pitch classes of both halves of each bar, each half of length 1
    """
    total, count = _none(edges), _none(edges)
    for at, both in _first_bars(edges):
        total += both * (these[at] @ those[at].T / 2)
        count += both
    return total / np.maximum(count, 1)


def _none(edges: Ints) -> Floats:
    return np.zeros((len(edges) - 1, len(edges) - 1))


def _first_bars(edges: Ints) -> Iterator[tuple[Ints, Bools]]:
    """The first bar of each phrase, the second ..., and which two phrases both have one: (k,), (k, k)."""
    starts, lengths = edges[:-1], np.diff(edges)
    for j in range(min(_COMPARED, int(lengths.max()))):
        there = lengths > j
        yield np.minimum(starts + j, int(edges[-1]) - 1), there[:, None] & there[None]


def near(bars: Bars) -> float:
    """How near phrases must be to be alike."""
    return ALIKE_SUNG if voices.alone(bars) else ALIKE


def letters(unlike: Floats, *, alike: float = ALIKE) -> Ints:
    """A number for each phrase, the same for those that sound alike (average linkage), in order of appearance.

    Parameters
    ----------
    unlike : (k, k) how far each two lie apart
    """
    from scipy.cluster.hierarchy import fcluster, linkage
    from scipy.spatial.distance import squareform

    k = len(unlike)
    if k < 2:
        return np.zeros(k, np.int64)
    pairs = squareform((unlike + unlike.T) / 2, checks=False)
    groups = fcluster(linkage(pairs, "average"), alike, "distance")
    order: dict[int, int] = {}
    return np.array([order.setdefault(int(g), len(order)) for g in groups], np.int64)


def letter(number: int) -> str:
    """A, B ... Z, then A2, B2 ..."""
    round_, k = divmod(number, 26)
    return chr(65 + k) + (str(round_ + 1) if round_ else "")
