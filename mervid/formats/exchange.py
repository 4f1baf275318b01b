"""What is handed over of a preparation, and what is taken back: the same for the window and the command line."""

from __future__ import annotations

from pathlib import Path

import attrs
import numpy as np

from ..core.analysis import Evidence
from ..core.errors import Refused
from ..core.grid import Grid
from ..core.preparation import Cue, Preparation
from . import beatlist, jams


def export_text(p: Preparation, evidence: Evidence | None, title: str, duration: float, *, as_jams: bool) -> str:
    """The open formats' text: the grid's beats from the first to the last heard beat.

    Raises
    ------
    Refused
        There is no grid.
    """
    if p.grid is None:
        raise Refused("There is no grid to export yet.")
    heard = evidence.heard.times if evidence is not None else np.zeros(0)
    half = 30.0 / p.grid.tempo_overall()
    start, stop = (float(heard[0]), float(heard[-1])) if len(heard) else (0.0, duration)
    # the grid's beat for the first heard one may lie a little before it
    start, stop = max(0.0, start - half / 2), min(duration, stop + half / 2)
    if as_jams:
        return jams.write(p, title=title, duration=duration, start=start, stop=stop)
    times, _, position = p.grid.positions(start, stop)
    return beatlist.write(times, position)


def write_new(path: Path, text: str) -> None:
    """Write to a temporary file beside `path`, then rename: a full disk leaves no half file."""
    temporary = path.with_name(f".{path.name}.part")
    try:
        temporary.write_text(text, "utf-8")
        temporary.replace(path)
    finally:
        temporary.unlink(missing_ok=True)


def import_text(text: str, current: Preparation) -> tuple[Grid, tuple[Cue, ...]]:
    """Grid and cues from JAMS or a beat list; a beat list has no cues, so those of `current` stay.

    Raises
    ------
    FormatError
        Neither of the two.
    """
    if text.lstrip().startswith("{"):
        contents = jams.read(text)
        return contents.grid, contents.cues
    grid = beatlist.to_grid(*beatlist.read(text))
    old = current.grid
    # a cue stays where it sounds, whatever its beat is called now
    cues = tuple(
        attrs.evolve(c, beat=float(grid.beat_at(c.at(old)))) if c.beat is not None else c for c in current.cues
    )
    return grid, cues
