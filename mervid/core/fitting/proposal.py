"""What analysis proposes for a new track: a first grid and where the track will be mixed."""

from __future__ import annotations

from ..errors import Refused
from ..hearing.heard import Heard
from ..hearing.loops import Loop
from ..model.beatgrid import Grid
from ..model.preparation import Preparation
from . import fit

MIX_BARS = 16


def mix_zones_of(grid: Grid, heard: Heard, duration: float) -> tuple[tuple[float, float], ...]:
    """The default mix zones: 16 bars from the first and 16 to the last heard beat, a quarter of the track at most."""
    if len(heard.times) < 8:
        return ()
    first, last = float(heard.times[0]), float(heard.times[-1])
    bars = MIX_BARS * grid.beats_per_bar(0.0)
    most = duration / 4
    in_end = float(grid.time_at(grid.beat_at(first) + bars))
    out_start = float(grid.time_at(grid.beat_at(last) - bars))
    return (
        (max(0.0, first - 0.05), min(in_end, first + most)),
        (max(out_start, last - most), min(duration, last + 0.05)),
    )


def propose(heard: Heard, duration: float, loop: Loop | None = None) -> Preparation:
    """What analysis proposes for a new track: one steady tempo through what was heard, as a draft.

    Parameters
    ----------
    loop : what the file is where it is cut to run round; its tempo is that of its length
    """
    if loop is not None:
        return Preparation(grid=loop.grid(), mix_zones=mix_zones_of(loop.grid(), heard, duration))
    try:
        grid = fit.fit_steady(heard)
    except Refused:
        return Preparation()
    return Preparation(grid=grid, mix_zones=mix_zones_of(grid, heard, duration))
