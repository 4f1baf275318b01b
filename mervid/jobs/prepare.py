"""One recording prepared without a window: heard, followed, cued by a recipe, and written to a folder."""

from __future__ import annotations

import os
from collections.abc import Callable
from pathlib import Path

import attrs

from ..core.character.describe import describe
from ..core.cues import recipe_places, recipes
from ..core.cues.recipes import Recipe
from ..core.edits import grid_edits
from ..core.errors import AudioError, MervidError
from ..core.fitting import drift, proposal
from ..core.form import phrase_edits
from ..core.hearing import analysis
from ..core.sound.damage import told
from ..core.sound.names import shown
from ..formats import exchange


@attrs.frozen
class Prepared:
    """What became of a recording: a line of figures, and what else is to be said of it."""

    line: str
    remarks: tuple[str, ...]


def prepare(path: Path, out: Path, recipe: Recipe | None, progress: Callable[[float], None]) -> Prepared:
    """Hear a recording, fit a grid that follows it, place cues, and write STEM.jams and STEM.beats.txt to `out`.

    Raises
    ------
    MervidError
        It can't be read, holds no beats, or nothing can be written.
    """
    facts, evidence = analysis.analyse(path, progress=progress)
    remarks = [evidence.problem] if evidence.problem else []
    first = proposal.propose(evidence.heard, facts.duration, evidence.loop)
    if first.grid is None:
        raise AudioError(f"{shown(path)}: no beats could be heard in it.")
    # a loop is one span, to run round
    p = first if evidence.loop else grid_edits.follow_recording(first, evidence.heard)
    stem = os.path.splitext(os.path.basename(path))[0]
    title, grid = shown(stem), p.grid
    assert grid is not None
    remarks += [f"{title}: {told(d)}" for d in facts.damage]
    if recipe is not None:
        form = phrase_edits.form_of(p, evidence, facts.duration)
        p, outcome = recipes.work_out(p, recipe, recipe_places.place_of(evidence, grid, form, facts.duration))
        remarks += [f"{title}: not placed: {problem}" for problem in outcome.problems]
    like = describe(evidence, facts.duration, grid)
    key = (like.key, like.key_chance) if like.key else None
    what = exchange.Subject(p, evidence, title, facts.duration, path, facts.rate, key)
    written: list[str] = []
    for ending in (exchange.JAMS, exchange.BEATS):
        try:
            exchange.export(what, out / f"{stem}{ending}")
        except OSError as e:
            there = f" ({written[0]} was written)" if written else ""
            raise MervidError(
                f"{shown(path)}: {title}{ending} could not be written: {e.strerror or e}{there}"
            ) from None
        written.append(f"{title}{ending}")
    trace = drift.trace_of(p, evidence.heard)
    worst = (drift.summary(trace).worst or 0.0) if trace is not None else 0.0
    low, high = float(grid.tempi.min()), float(grid.tempi.max())
    tempo = f"{grid.tempo_overall():.3f} BPM\trange {low:.2f}-{high:.2f}"
    return Prepared(f"{title}\t{tempo}\t{len(grid.pins)} pins\tworst {worst:.1f} ms", tuple(remarks))
