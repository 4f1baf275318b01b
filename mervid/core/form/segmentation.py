"""The form of a track: where its phrases begin, how many bars each has, and which are the same.

A boundary is a bar line at which the music changes. How likely each bar line is one, a small network says
(`boundary_net`), which was shown whole rendered songs (`training/boundary.py`). The phrases are the best row under
these odds and a mild expectation of their lengths (dynamic programming over bar lines): 4, 8, 16 and 32 bars are
usual, others are allowed. Phrases that sound alike bar by bar get the same letter.
"""

from __future__ import annotations

import attrs
import numpy as np

from ..arrays import Floats, Ints
from . import boundary_net, key_steps
from .bar_features import Bars, in_one_key
from .same_phrases import apart, letters, near

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
LENGTHS_COUNT = 0.3
"""How much the expectation of lengths counts beside the odds of the boundaries."""
BY_HAND_COUNT = 0.7
"""As much where the odds are those that were measured by hand."""
_HUSHED = -1.5
_STEPPED, _SWAYS, _STEP = 3.5, 0.006, 0.01
_SILENT, _PLAYED, _AT_ONCE = 0.2, 0.6, 0.75
"""Percussion of bars without drums, and with; how much of what follows the first of these has."""
_STAY = 4
"""Bars for which drums stay that have come in."""
_CAME_IN = 3.0


@attrs.frozen(eq=False)
class Outline:
    """Phrases as rows of bars.

    Attributes
    ----------
    edges : (k + 1,) bar at which each phrase begins, counted in `Bars`, and the number of bars
    letters : (k,) 0 for A, 1 for B ... in the order in which they first appear
    odds : (k,) log odds of each phrase's beginning; the first is not judged and 0
    apart : (k, k) how unlike each two are, 0 is the same; in one key where the track changes it
    raised : (k,) semitones that each lies above the beginning
    """

    edges: Ints
    letters: Ints
    odds: Floats
    apart: Floats
    raised: Ints


def outline(bars: Bars) -> Outline:
    """Where the phrases begin and which are alike."""
    odds = boundary_net.odds(bars) + tempo_odds(bars) + entry_odds(bars)
    count = BY_HAND_COUNT if boundary_net.serving(bars) is None else LENGTHS_COUNT
    edges = without_ring(bars, best_edges(odds, count=count))
    raised = key_steps.raised(bars, edges)
    level = in_one_key(bars, key_steps.of_bars(raised, edges, len(bars))) if raised.any() else bars
    unlike = apart(level, edges)
    return Outline(
        edges, letters(unlike, alike=near(bars)), np.concatenate([[0.0], odds[edges[1:-1] - 1]]), unlike, raised
    )


# a step of tempo


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


# the drums come in


def entry_odds(bars: Bars) -> Floats:
    """What is added to the odds of the bar line at which drums first come in, (n - 1,): a phrase begins with them.

    So where the bars before have hardly any, and are an even number: else the drums fill in to what begins with the
    next bar (common practice, no source).
    """
    out = np.zeros(max(0, len(bars) - 1))
    drums = bars.drums
    came = np.flatnonzero(drums >= _PLAYED)
    at = int(came[0]) if len(came) else 0
    if at < 2 or at % 2 or at + _STAY > len(bars):
        return out
    first, more = drums[at], drums[at + 1 : at + _STAY].mean()
    if drums[: at - 1].max() < _SILENT and more >= _PLAYED and first >= _AT_ONCE * more:
        out[at - 1] = _CAME_IN
    return out


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
