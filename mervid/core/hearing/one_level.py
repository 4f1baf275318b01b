"""The same music searched again at one level throughout, where what was found goes from one to another or is doubtful.

Six eighths and triplets can be counted by their groups or in quarters; a path that decides from moment to moment may
take the one here and the other there, by a sudden step of tempo that no player makes. Or it counts all in quarters,
and read by groups these slip. And where it goes to the off-beat for a while, a path at another level mostly doesn't:
half a beat of the one is no half beat of the other. Which of these counts is taken, `rival_counts` tells.
"""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from ..arrays import Floats, Ints
from . import bar_pointer, music_span
from .ear import Strengths

RATIO = 1.5
_BESIDE = 6
"""Beats to either side of a step by whose median the tempo is told there."""
_ABOUT = 0.05
"""How far, as a log, a step of tempo may lie from `RATIO`."""
_BLUNT, _SHARP = 0.3, 0.02
"""How far the beats next to a step may be, as a log, from what is usual on their sides: more, and the tempo changes
elsewhere, or otherwise; and how much it counts of two places which is the sharper."""
_APART = 4
_LEAST = 0.08
"""A level at which less of the time was counted is not that of the whole."""


def steps(times: Floats) -> list[tuple[int, int]]:
    """Beats of (n,) `times` in s at which the count goes to another level, and how: 1 for slower, -1 for faster."""
    from numpy.lib.stride_tricks import sliding_window_view

    length = np.diff(times)
    if len(length) < 2 * _BESIDE:
        return []
    usual = np.log(np.median(sliding_window_view(length, _BESIDE), axis=1))
    before, after = usual[:-_BESIDE], usual[_BESIDE:]
    at = np.arange(_BESIDE, len(length) - _BESIDE + 1)
    here = np.log(length)
    blunt = np.abs(here[at] - after) + np.abs(here[at - 1] - before)
    seen: list[tuple[float, int, int]] = []
    for way in (1, -1):
        off = np.abs(after - before - way * np.log(RATIO))
        cost, near = off + _SHARP * blunt, (off < _ABOUT) & (blunt < _BLUNT)
        seen += [(cost[k], at[k], way) for k in np.flatnonzero(near).tolist()]
    out: list[tuple[int, int]] = []
    for _, i, way in sorted(seen):
        if all(abs(i - j) >= _APART for j, _ in out):
            out.append((int(i), way))
    return sorted(out)


def levels(times: Floats) -> Ints:
    """At which level each step of (n,) `times` was counted, (n - 1,): each is `RATIO` slower than the one below."""
    out = np.zeros(len(times) - 1, np.int64)
    for i, way in steps(times):
        out[i:] += way
    return out


def at_its_levels(ear: Strengths, times: Floats) -> list[Floats]:
    """Counts of the music at (n,) `times` in s at each level that it was counted at; none where there is only one."""
    length, level = np.diff(times), levels(times)
    if not level.any():
        return []
    share = {k: length[level == k].sum() / length.sum() for k in np.unique(level).tolist()}
    periods = [length * RATIO ** (k - level).astype(float) for k, s in share.items() if s >= _LEAST]
    return [_searched(ear, times, period) for period in periods]


def at_ratios(ear: Strengths, times: Floats, ratios: Iterable[float]) -> list[Floats]:
    """Counts of the music at (n,) `times` in s with so many beats for each that was found."""
    return [_searched(ear, times, np.diff(times) / ratio) for ratio in ratios]


def _searched(ear: Strengths, times: Floats, period: Floats) -> Floats:
    running = bar_pointer.running_period(times, period, len(ear.beat))
    return times[:0] if running is None else music_span.music(ear, bar_pointer.beats_keeping(ear, running))
