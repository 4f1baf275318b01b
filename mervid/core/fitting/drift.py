"""Drift: how far the heard beats lie from a grid, and where that matters.

The drift trace is heard minus grid, in ms; late is positive. Each heard beat is compared with the grid beat of its
own count, not merely with the nearest one: over a steady grid a drummer can stray by more than half a beat.
"""

from __future__ import annotations

import attrs
import numpy as np

from ..arrays import Bools, Floats
from ..hearing.heard import Heard
from ..model.beatgrid import Grid
from ..model.preparation import Preparation
from ..model.tolerance import Tolerance, Zones
from .beat_numbers import own_beats


@attrs.frozen(eq=False)
class Trace:
    """The drift of each heard beat: times (s), error (ms) and the tolerance (ms) that holds there, all (n,)."""

    times: Floats
    error: Floats
    tolerance: Floats
    tight: Bools

    @property
    def within(self) -> float:
        """Share of the beats within tolerance, 0 to 1."""
        return float(np.mean(np.abs(self.error) <= self.tolerance)) if len(self.error) else 0.0


@attrs.frozen
class Summary:
    """Typical (median) and worst absolute error in ms, in the mix zones and elsewhere; None where nothing is heard.

    `leaves` is the first time in s from which the trace is out of tolerance and stays out to the end; `worst_at` is
    where the trace exceeds its tolerance most, s.
    """

    typical_tight: float | None
    worst_tight: float | None
    typical_loose: float | None
    worst_loose: float | None
    within: float
    leaves: float | None
    worst_at: float | None

    @property
    def worst(self) -> float | None:
        """Worst error anywhere, ms."""
        both = [w for w in (self.worst_tight, self.worst_loose) if w is not None]
        return max(both) if both else None


def trace(times: Floats, grid: Grid, *, zones: Zones = (), tolerance: Tolerance = Tolerance()) -> Trace:
    """The drift of heard beats against `grid`.

    Where the grid counts half as many beats as are heard, heard beats are compared with half beats.

    Parameters
    ----------
    times : (n,) heard beats, s, ascending
    zones : mix zones, (start, stop) in s
    """
    times = np.asarray(times, float)
    limit = tolerance.at(times, zones)
    tight = np.zeros(len(times), bool)
    for a, b in zones:
        tight |= (times >= a) & (times <= b)
    return Trace(times, (times - grid.time_at(own_beats(times, grid))) * 1000, limit, tight)


def summary(trace: Trace) -> Summary:
    """Typical and worst error inside and outside the mix zones, and where the trace leaves its tolerance for good."""

    def pair(mask: Bools) -> tuple[float | None, float | None]:
        e = np.abs(trace.error[mask])
        return (float(np.median(e)), float(e.max())) if len(e) else (None, None)

    inside, outside = pair(trace.tight), pair(~trace.tight)
    over = np.abs(trace.error) - trace.tolerance
    worst_at = float(trace.times[int(over.argmax())]) if len(over) else None
    return Summary(*inside, *outside, trace.within, leaves(trace), worst_at)


def lately(trace: Trace, grid: Grid, time: float, *, bars: int = 2) -> float | None:
    """The middle error of the beats heard in the `bars` bars before `time` s, ms; None where fewer than two are.

    Where beats are late on the whole, the reference beat comes early.
    """
    here = float(grid.beat_at(time))
    start = float(grid.time_at(here - bars * grid.beats_per_bar(here)))
    error = trace.error[(trace.times > start) & (trace.times <= time + 0.03)]
    return float(np.median(error)) if len(error) > 1 else None


def leaves(trace: Trace, *, share: float = 0.9) -> float | None:
    """First time in s after which `share` of the beats, to the end, are out of tolerance; or None."""
    out = np.abs(trace.error) > trace.tolerance
    if not out.any():
        return None
    remaining = np.arange(len(out), 0, -1)
    so_far = np.cumsum(out[::-1])[::-1] / remaining
    good = np.flatnonzero(out & (so_far >= share) & (remaining >= 4))
    return float(trace.times[good[0]]) if len(good) else None


def trace_of(p: Preparation, heard: Heard) -> Trace | None:
    """The drift of what was heard against the grid of `p`; None where either is missing."""
    if p.grid is None or not len(heard.times):
        return None
    return trace(heard.times, p.grid, zones=p.mix_zones, tolerance=p.tolerance)
