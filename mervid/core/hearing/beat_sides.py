"""One side of the beat through all steady stretches of one tempo: counts that change it there are mostly misheard."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from ..arrays import Floats, Ints
from . import bar_pointer
from .ear import Strengths

_ONE_TEMPO = 0.006
_NEAR_BEATS = 24
_CERTAIN = 9.0
"""On rendered music sides that were wrong have at most 7, such as are right 10 and more."""


def agree(
    ear: Strengths, times: Floats, steady: Ints, *, sure: Callable[[Floats], Floats | None] | None = None
) -> Floats | None:
    """Beats with one side of the beat through all steady stretches of one tempo; None where nothing changes.

    A count that changes between on and off the beat while the tempo stays is nearly always misheard (common practice,
    no source): the side that the ear supports more, over all these stretches, is taken throughout.

    Parameters
    ----------
    sure : tells the log odds of each beat that its side is right; where they are high, it stays
    """
    runs = [np.flatnonzero(steady == k) for k in range(int(steady.max(initial=-1)) + 1)]
    if len(runs) < 2:
        return None
    gain = bar_pointer.observed(ear.beat)
    period = [float(np.median(np.diff(times[r]))) for r in runs]
    side, group = [0], [0]
    for k in range(1, len(runs)):
        beats = (times[runs[k][0]] - times[runs[k - 1][-1]]) / ((period[k] + period[k - 1]) / 2)
        off = abs(beats - round(beats))
        same = abs(period[k] / period[k - 1] - 1) < _ONE_TEMPO and beats < _NEAR_BEATS
        known = same and (off < 0.15 or off > 0.35)
        group.append(group[-1] if known else group[-1] + 1)
        side.append((side[-1] + (off > 0.35)) % 2 if known else 0)
    won = np.array(
        [
            bar_pointer.gained(gain, times[r]) - bar_pointer.gained(gain, times[r] + p / 2)
            for r, p in zip(runs, period, strict=True)
        ]
    )
    shift = np.zeros(len(times))
    for g in set(group):
        members = [k for k in range(len(runs)) if group[k] == g]
        sides = np.array([side[k] for k in members])
        if sides.min() == sides.max():
            continue
        wins = 1 if won[members][sides == 1].sum() > won[members][sides == 0].sum() else 0
        for k in members:
            if side[k] != wins:
                shift[runs[k]] = 0.5
    if not shift.any():
        return None
    told = sure(times) if sure else None
    if told is not None:
        # a pause of some beats and a half does change the side
        for r in runs:
            shift[r] *= float(told[r].mean()) < _CERTAIN
        if not shift.any():
            return None
    return _shifted(times, shift, runs, period)


def between(start: float, stop: float, period: float) -> Floats:
    """As many beats between two, in s, as fit there evenly."""
    beats = max(1, round((stop - start) / period))
    return start + (stop - start) * np.arange(1, beats) / beats


def _shifted(times: Floats, shift: Floats, runs: list[Ints], period: list[float]) -> Floats:
    """Runs moved by so many beats, and the gaps between them filled evenly."""
    pieces = [times[: runs[0][0]] + shift[runs[0][0]] * period[0]]
    for k, run in enumerate(runs):
        here = times[run] + shift[run] * period[k]
        pieces.append(here)
        if k + 1 < len(runs):
            start = times[runs[k + 1][0]] + shift[runs[k + 1][0]] * period[k + 1]
            old = times[run[-1] + 1 : runs[k + 1][0]]
            if shift[run[-1]] == shift[runs[k + 1][0]]:
                pieces.append(old + shift[run[-1]] * period[k])
            else:
                pieces.append(between(float(here[-1]), float(start), (period[k] + period[k + 1]) / 2))
    pieces.append(times[runs[-1][-1] + 1 :] + shift[runs[-1][-1]] * period[-1])
    out = np.concatenate(pieces)
    return out[np.concatenate([[True], np.diff(np.maximum.accumulate(out)) > 0.1])]
