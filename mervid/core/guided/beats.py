"""Beats while they are listened to again: stretches of them, and how they are joined and placed."""

from __future__ import annotations

import attrs
import numpy as np

from ..arrays import Bools, Floats, Ints, Singles
from ..hearing import beat_refinement

APART = 0.1
"""s that two beats lie apart at least."""


@attrs.frozen(eq=False)
class Beats:
    """Beats being worked on: times (s), how many beats after the one before, which begin a bar, how sure each is."""

    times: Floats
    step: Ints
    opens: Bools
    confidence: Floats

    def part(self, a: int, b: int) -> Beats:
        """Beats `a` to `b`, the last not included."""
        return Beats(self.times[a:b], self.step[a:b], self.opens[a:b], self.confidence[a:b])

    @property
    def numbers(self) -> Ints:
        """Count of each beat, 0 on the first."""
        return np.concatenate([[0], np.cumsum(self.step[1:])]).astype(np.int64)

    def within(self, start: float, stop: float) -> tuple[int, int]:
        """First and one past the last beat from `start` to `stop` s."""
        a, b = np.searchsorted(self.times, [start - 1e-6, stop + 1e-6])
        return int(a), int(b)


def joined(parts: list[Beats]) -> Beats:
    """Beats of several stretches in order; where two would touch, the later one goes."""
    out = Beats(*(np.concatenate([getattr(p, f) for p in parts]) for f in ("times", "step", "opens", "confidence")))
    near = np.concatenate([[False], np.diff(out.times) < APART])
    return Beats(out.times[~near], out.step[~near], out.opens[~near], out.confidence[~near]) if near.any() else out


def precise(attack: Singles, times: Floats) -> Floats:
    """Times moved to attacks beside them, onto steady lines where these hold."""
    moved, clear = beat_refinement.to_own_attacks(attack, times)
    out, fixed = moved.copy(), np.zeros(len(times), bool)
    for run in beat_refinement.steady_runs(moved, clear):
        i = np.arange(run.first, run.last + 1)
        out[i], fixed[i] = run.at(i), True
    return beat_refinement.calm(out, clear, fixed)
