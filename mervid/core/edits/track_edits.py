"""Edits of the rest of a preparation: tolerance, mix zones, notes, the expected tempo, an imported value."""

from __future__ import annotations

import attrs

from ..errors import Refused
from ..model.beatgrid import Grid
from ..model.cue import Cue
from ..model.form import Form
from ..model.hints import END, Hint
from ..model.preparation import Preparation, edit
from ..model.tolerance import Tolerance

LEAST_MS, MOST_MS = 1.0, 100.0
LEAST_ZONE = 0.5


@edit("Set tempo range")
def set_range(p: Preparation, low: float | None, high: float | None) -> Preparation:
    """Where the tempo of this track is expected, BPM; None for the program's own range."""
    return attrs.evolve(p, tempo_range=None if low is None or high is None else (low, high))


@edit("Set tolerance")
def set_tolerance(p: Preparation, tight: float, loose: float) -> Preparation:
    """How far a beat may stray, ms, in the mix zones and elsewhere."""
    for value in (tight, loose):
        if not LEAST_MS <= value <= MOST_MS:
            raise Refused(f"A tolerance must lie between {LEAST_MS:g} and {MOST_MS:g} ms, not {value:g}.")
    return attrs.evolve(p, tolerance=Tolerance(tight, max(tight, loose)))


@edit("Set mix zones")
def set_zones(p: Preparation, zones: tuple[tuple[float, float], ...]) -> Preparation:
    """The parts where the track will be mixed, (start, stop) in s; those that touch become one."""
    out: list[tuple[float, float]] = []
    for a, b in sorted((min(z), max(z)) for z in zones):
        if b - a < LEAST_ZONE:
            continue
        if out and a <= out[-1][1]:
            out[-1] = (out[-1][0], max(out[-1][1], b))
        else:
            out.append((float(a), float(b)))
    return attrs.evolve(p, mix_zones=tuple(out))


@edit("Write notes")
def write_notes(p: Preparation, text: str) -> Preparation:
    return attrs.evolve(p, notes=text)


@edit("Take over to the changed recording")
def carry_over(p: Preparation, by: float) -> Preparation:
    """Move all that lies at an instant by `by` s: the recording begins so much later in its file than it did."""

    def hint(h: Hint) -> Hint:
        return attrs.evolve(h, start=h.start + by, stop=h.stop + by if h.stop < END else END)

    grid = p.grid
    if grid is not None:
        grid = attrs.evolve(grid, pins=tuple(attrs.evolve(q, time=q.time + by) for q in grid.pins))
    return attrs.evolve(
        p,
        grid=grid,
        mix_zones=tuple((max(0.0, a + by), b + by) for a, b in p.mix_zones if b + by > 0),
        cues=tuple(c if c.time is None else attrs.evolve(c, time=max(0.0, c.time + by)) for c in p.cues),
        hints=tuple(hint(h) for h in p.hints if h.start + by >= 0 or h.stop + by > 0),
        seen=(),
    )


@edit("Take over beats")
def take_over(
    p: Preparation,
    grid: Grid,
    cues: tuple[Cue, ...],
    form: Form | None = None,
    origin: float | None = None,
    line: str = "",
) -> Preparation:
    """Replace the grid by an imported one, and all that is counted by it."""
    return attrs.evolve(p, grid=grid, cues=cues, form=form, origin=origin, line=line or p.line)
