"""The grid that a new track opens with: what its findings would recommend, so that no one click would mend it.

A recording that wanders, steps, ramps or came from a turntable is followed; where one steady tempo keeps the tolerance
it stays. Bars are counted from the first bar of the music that is heard.
"""

from __future__ import annotations

import attrs
import numpy as np

from ..edits import count_edits, listening_edits
from ..errors import Refused
from ..fitting import drift, fit
from ..fitting.timekeeping import RAMPING, STEPPED, TURNTABLE, UNCLEAR, WANDERING
from ..form.bar_features import sounding
from ..hearing import bar_pointer
from ..hearing.evidence import Evidence
from ..model.beatgrid import Grid
from ..model.preparation import Preparation
from ..model.tempo_range import TempoRange
from .study import timekeeping_of

UNEVEN = (WANDERING, STEPPED, RAMPING, TURNTABLE, UNCLEAR)
"""Kinds of time that are followed: where it isn't clear, too, what is heard is the best that is known."""
STRUCK, LEAST_STRUCK = 0.1, 2
"""A bar before bar 1 is music when so many onsets at least so strong lie in it ..."""
LEAST_HEARD = 0.3
"""... and the ear heard a downbeat so clear beside the usual one where it begins."""


def recommend(evidence: Evidence, duration: float, wanted: TempoRange | None = None) -> Preparation:
    """The preparation that a new track opens with.

    Parameters
    ----------
    wanted : where its tempo is expected
    """
    first = listening_edits.propose(evidence, duration, wanted)
    p = from_first_bar(first, evidence, duration)
    heard = listening_edits.heard_of(evidence, p)
    trace = drift.trace_of(p, heard)
    if trace is None or trace.within == 1.0 or timekeeping_of(evidence, heard).kind not in UNEVEN:
        return p
    try:
        # counted as it is heard: one tempo may be beats away from a recording in steps
        grid = fit.follow(heard, tolerance=p.tolerance, zones=p.mix_zones)
        return from_first_bar(attrs.evolve(first, grid=grid), evidence, duration)
    except Refused:
        return p


def from_first_bar(p: Preparation, evidence: Evidence, duration: float) -> Preparation:
    """`p` with the first bar of the music that is heard as bar 1, where bars of it lie before bar 1."""
    if p.grid is None:
        return p
    bars = bars_before(p.grid, evidence, sounding(evidence, duration)[0])
    return count_edits.count_from(p, float(p.grid.time_at(p.grid.bar_start(-bars)))) if bars else p


def bars_before(grid: Grid, evidence: Evidence, begins: float) -> int:
    """How many whole bars of music lie before bar 1, counted back without a gap to where it `begins`, s."""
    times = evidence.onset_times[evidence.onset_strengths > STRUCK]
    ear, downbeats = evidence.strengths, evidence.heard.downbeats
    least = 0.0
    if ear is not None and len(downbeats):
        least = LEAST_HEARD * float(np.median(bar_pointer.peaks(ear.downbeat, downbeats)))
    bars = 0
    while True:
        start, stop = (float(t) for t in grid.time_at(grid.bar_start([-bars - 1, -bars])))
        late = count_edits.EARLY * (stop - start) / grid.beats_per_bar(0.0)
        struck = int(np.searchsorted(times, stop) - np.searchsorted(times, start - late))
        if start < begins - late or start < -late or struck < LEAST_STRUCK:
            return bars
        if ear is not None and bar_pointer.peaks(ear.downbeat, np.array([start]))[0] < least:
            return bars
        bars += 1
