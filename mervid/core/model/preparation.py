"""A track's preparation: everything a person decides about it, as one immutable value.

An edit is a named pure function from preparation to preparation. Undo is the list of values.
"""

from __future__ import annotations

import json
from collections.abc import Callable, Sequence
from functools import wraps
from typing import Any, Concatenate, ParamSpec

import attrs
import cattrs
import numpy as np

from ..errors import FormatError, Refused
from .beatgrid import Grid
from .cue import MOST_LOOP, Cue
from .form import Form
from .hints import Hint
from .tolerance import Tolerance

DRAFT, CHECKED, LOCKED = "draft", "checked", "locked"
READINESS = (DRAFT, CHECKED, LOCKED)
LOCKED_WORDS = "This track is locked, so that what you checked stays as it is. Unlock it (Ctrl+L) to change it."


@attrs.frozen
class Seen:
    """A place that was looked at: where it begins, s, and the instants of its beats then (downbeats negative)."""

    start: float
    beats: tuple[float, ...]


@attrs.frozen
class Preparation:
    """Grid, meter (inside the grid), mix zones in s, cues, notes, tolerance and readiness of one track.

    `hints` are what a person told the hearing; `tempo_range` in BPM is where the tempo of this track is expected;
    `seen` are the places of the spot check that were found right. `form` is kept from the first edit of the phrases
    on; until then they are as heard. Bars are counted from beat `origin`, usually the drop, or else from beat 0.
    `line` is a line of words of one's own about the track.
    """

    grid: Grid | None = None
    mix_zones: tuple[tuple[float, float], ...] = ()
    cues: tuple[Cue, ...] = ()
    notes: str = ""
    readiness: str = DRAFT
    tolerance: Tolerance = Tolerance()
    hints: tuple[Hint, ...] = ()
    tempo_range: tuple[float, float] | None = None
    seen: tuple[Seen, ...] = ()
    form: Form | None = None
    origin: float | None = None
    line: str = ""

    @property
    def locked(self) -> bool:
        return self.readiness == LOCKED


_converter = cattrs.Converter(forbid_extra_keys=True, detailed_validation=False)


def to_json(preparation: Preparation) -> str:
    """The preparation as JSON text; floats round-trip exactly (repr of float64)."""
    return json.dumps(_converter.unstructure(preparation), separators=(",", ":"), allow_nan=False)


def from_json(text: str) -> Preparation:
    """Inverse of `to_json`. Raises `FormatError` for anything else."""
    try:
        return _converter.structure(json.loads(text), Preparation)
    except Refused as e:
        raise FormatError(f"The stored grid is not valid: {e}") from None
    except Exception as e:
        raise FormatError(f"This is no preparation: {type(e).__name__}.") from None


def locked_in(text: str) -> bool:
    """Whether the preparation that `to_json` wrote is locked; quicker than reading all of it."""
    # inside a text each of these quotes would have a backslash before it
    return f'"readiness":"{LOCKED}"' in text


P = ParamSpec("P")
Edit = Callable[Concatenate[Preparation, P], Preparation]


def refuse_locked(p: Preparation) -> None:
    """Raise `Refused`, with why and how to unlock, when `p` is locked."""
    if p.locked:
        raise Refused(LOCKED_WORDS)


def redrafted(before: Preparation, after: Preparation) -> Preparation:
    """`after`; a checked track whose grid changed is a draft again: what was looked at is not what there is."""
    if after.readiness == CHECKED and after.grid != before.grid:
        return attrs.evolve(after, readiness=DRAFT)
    return after


def on_bar_lines(p: Preparation) -> Preparation:
    """Phrases and the origin of counting on bar lines, whatever became of the grid; those that meet become one."""
    grid = p.grid
    if grid is None or (p.form is None and p.origin is None):
        return p

    def off(beats: Sequence[float]) -> list[bool]:
        return [bool(within >= 1e-3) for within in grid.bar_index(np.array(beats) + 1e-6)[1]]

    def line(beat: float) -> float:
        return grid.bar_line_near(float(grid.time_at(beat)))

    origin, form = p.origin, p.form
    if origin is not None and off([origin])[0]:
        origin = line(origin)
    if form is not None and any(wrong := off([*(q.start for q in form.phrases), form.end])):
        end = line(form.end) if wrong.pop() else form.end
        kept = {line(q.start) if w else q.start: q for q, w in zip(form.phrases[::-1], wrong[::-1], strict=True)}
        phrases = tuple(attrs.evolve(kept[b], start=b) for b in sorted(kept) if b < end)
        form = Form(phrases, end) if phrases else None
    return p if (origin, form) == (p.origin, p.form) else attrs.evolve(p, origin=origin, form=form)


def renumbered(p: Preparation, grid: Grid, beat: Callable[[float], float], *, snap: bool = False) -> Preparation:
    """`p` under another grid, in which what was at a beat is at `beat(that)`: cues, phrases and the origin of counting.

    Parameters
    ----------
    snap : cues that come to lie near a beat or half-beat go there
    """

    def cue_beat(b: float) -> float:
        new = beat(b)
        near = round(new * 2) / 2
        return near if snap and abs(new - near) < 0.2 else new

    def recounted(c: Cue) -> Cue:
        if c.bars and p.grid is not None:
            # a loop is as long as it was, whatever its bars are called
            start = c.beat if c.beat is not None else float(p.grid.beat_at(c.at(p.grid)))
            beats = c.bars * p.grid.beats_per_bar(start + 1e-6)
            bars = round(c.bars * (beat(start + beats) - beat(start)) / beats)
            c = attrs.evolve(c, bars=min(max(1, bars), MOST_LOOP))
        return attrs.evolve(c, beat=cue_beat(c.beat)) if c.beat is not None else c

    cues = tuple(recounted(c) for c in p.cues)
    form = p.form
    if form is not None:
        phrases = tuple(attrs.evolve(q, start=beat(q.start)) for q in form.phrases)
        form = Form(phrases, beat(form.end))
    origin = beat(p.origin) if p.origin is not None else None
    return attrs.evolve(p, grid=grid, cues=cues, form=form, origin=origin)


def carried(p: Preparation, grid: Grid) -> Preparation:
    """`p` under another grid, cues and phrases on the same instants, or on the beat of the new grid beside them."""
    old = p.grid
    if old is None:
        return attrs.evolve(p, grid=grid)
    return renumbered(p, grid, lambda b: float(grid.beat_at(old.time_at(b))), snap=True)


def edit(name: str) -> Callable[[Edit[P]], Edit[P]]:
    """Mark a function as an edit called `name`; a locked preparation refuses it."""

    def wrap(function: Edit[P]) -> Edit[P]:
        @wraps(function)
        def guarded(preparation: Preparation, /, *args: P.args, **kwargs: P.kwargs) -> Preparation:
            refuse_locked(preparation)
            return redrafted(preparation, on_bar_lines(function(preparation, *args, **kwargs)))

        guarded.edit_name = name  # type: ignore[attr-defined]
        return guarded

    return wrap


def grid_of(preparation: Preparation) -> Grid:
    """The grid; raises `Refused` where there is none."""
    if preparation.grid is None:
        raise Refused("There is no grid yet: type a tempo first.")
    return preparation.grid


def set_readiness(p: Preparation, readiness: str) -> Preparation:
    """Draft, checked or locked: the one change that a locked preparation takes."""
    if readiness not in READINESS:
        raise Refused(f"'{readiness}' is no readiness.")
    if readiness == LOCKED and p.grid is None:
        raise Refused("There is no grid to lock yet.")
    return attrs.evolve(p, readiness=readiness)


def name_of(function: Callable[..., Any]) -> str:
    """The name under which an edit stands in the history."""
    return str(function.edit_name)  # type: ignore[attr-defined]
