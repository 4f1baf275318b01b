"""The spot check: five places to look at before a track is trusted.

Drift that is invisible at the start is plain at the end (common practice, no source), so the five lie at the first
downbeat, a quarter, half and three quarters of the way, and in the last bars. Places in doubt take the place of the
sure ones between the first and the last. Each is two bars long.
"""

from __future__ import annotations

import attrs
import numpy as np

from ..arrays import Bools
from ..fitting.drift import Trace
from ..model.beatgrid import Grid, bar_name
from ..model.preparation import CHECKED, DRAFT, Preparation, Seen, refuse_locked

BARS = 2
NAMES = ("first downbeat", "a quarter in", "half way", "three quarters in", "last bars")
_DOUBTFUL = 0.35
_SAME = 0.0005


@attrs.frozen
class Spot:
    """Two bars to look at, `start` to `stop` in s, why, and what is known of them.

    Attributes
    ----------
    name : where it lies, in words
    doubt : why it was chosen over a sure one; empty for the five usual places
    """

    start: float
    stop: float
    name: str
    doubt: str = ""


@attrs.frozen
class State:
    """What is true of a spot now: middle and largest error in ms (None: nothing is heard), and whether it was seen."""

    typical: float | None
    worst: float | None
    seen: bool


def choose(grid: Grid, trace: Trace | None, unsure: Bools, duration: float) -> tuple[Spot, ...]:
    """The five spots of a track, in order of time; fewer for a track of a few bars.

    Parameters
    ----------
    unsure : which beats of the trace are doubtful, (n,)
    duration : s
    """
    heard = trace is not None and len(trace.times) > 0
    begin, end = (float(trace.times[0]), float(trace.times[-1])) if trace is not None and heard else (0.0, duration)
    (low, high), _ = grid.bar_index(grid.beat_at([begin - 0.05, end]))
    first = int(low) + (float(grid.bar_index(grid.beat_at(begin - 0.05))[1]) > 1e-3)
    last = max(first, int(high) - BARS + 1)
    usual = np.unique(np.rint(np.linspace(first, last, len(NAMES))).astype(int))
    names = NAMES if len(usual) == len(NAMES) else tuple(f"bar {bar_name(b)}" for b in usual.tolist())
    bars = dict(zip(usual.tolist(), names, strict=True))
    if trace is not None and heard and len(usual) == len(NAMES):
        bars = _with_doubts(bars, grid, trace, unsure)
    out = []
    for bar in sorted(bars):
        a, b = (float(x) for x in grid.time_at(grid.bar_start([bar, bar + BARS])))
        name, _, doubt = bars[bar].partition("|")
        out.append(Spot(max(0.0, a), min(b, duration), name, doubt))
    return tuple(s for s in out if s.stop > s.start)


def _with_doubts(bars: dict[int, str], grid: Grid, trace: Trace, unsure: Bools) -> dict[int, str]:
    """The usual places, each of the three in the middle giving way to the most doubtful place of its stretch."""
    index = grid.bar_index(grid.beat_at(trace.times) + 0.5)[0]
    over = np.abs(trace.error) / trace.tolerance
    doubt = np.where(over > 1, over, 0.0)
    if len(unsure) == len(doubt):
        doubt = doubt + _DOUBTFUL * unsure
    places = list(bars)
    out = dict(bars)
    for k in (1, 2, 3):
        low, high = (places[k - 1] + places[k]) // 2 + 1, (places[k] + places[k + 1]) // 2
        score = {int(b): float(doubt[(index >= b) & (index < b + BARS)].sum()) for b in range(low, high + 1)}
        best = max(score, key=lambda b: (score[b], -abs(b - places[k])), default=places[k])
        if score.get(best, 0.0) > score.get(places[k], 0.0) + _DOUBTFUL:
            inside = (index >= best) & (index < best + BARS)
            why = "out of tolerance" if (over[inside] > 1).any() else "doubtful"
            del out[places[k]]
            out[best] = f"bar {bar_name(best)}|{why}"
    return out


def state(spot: Spot, p: Preparation, trace: Trace | None) -> State:
    """What the beats heard in a spot say of the grid, and whether it was seen as it is now."""
    typical = worst = None
    if trace is not None:
        inside = (trace.times >= spot.start - 0.02) & (trace.times < spot.stop - 0.02)
        error = trace.error[inside]
        if len(error):
            typical, worst = float(np.median(error)), float(error[np.abs(error).argmax()])
    return State(typical, worst, _seen(spot, p))


def _beats(spot: Spot, grid: Grid) -> tuple[float, ...]:
    """Instants of the grid's beats in a spot, s; downbeats are negative, so that bars count, too."""
    times, _, place = grid.positions(spot.start - 0.01, spot.stop - 0.01)
    return tuple(float(-t if one else t) for t, one in zip(times, place == 1, strict=True))


def _seen(spot: Spot, p: Preparation) -> bool:
    if p.grid is None:
        return False
    now = _beats(spot, p.grid)
    return any(
        abs(s.start - spot.start) < 0.1 and len(s.beats) == len(now) and np.allclose(s.beats, now, atol=_SAME, rtol=0)
        for s in p.seen
    )


def mark_seen(p: Preparation, spot: Spot, among: tuple[Spot, ...], *, seen: bool = True) -> Preparation:
    """A spot was looked at and is right. When all of `among` are, the track is checked; taken back, it is a draft.

    Like readiness itself this changes nothing that is played; a locked track refuses it.
    """
    refuse_locked(p)
    if p.grid is None:
        return p
    rest = tuple(s for s in p.seen if abs(s.start - spot.start) >= 0.1)
    marks = (*rest, Seen(spot.start, _beats(spot, p.grid))) if seen else rest
    out = attrs.evolve(p, seen=marks)
    if all(_seen(s, out) for s in among):
        return attrs.evolve(out, readiness=CHECKED)
    return out if seen else attrs.evolve(out, readiness=DRAFT)
