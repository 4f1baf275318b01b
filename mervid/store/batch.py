"""One recipe over many tracks: an edit in each, a report on all, and one way to take everything back."""

from __future__ import annotations

import attrs

from ..core.cues import recipes
from ..core.cues.recipes import Place, Recipe, Told
from ..core.errors import FormatError, Refused
from ..core.form import phrase_edits
from ..core.model.preparation import LOCKED_WORDS, name_of
from .library import Library
from .track import READY

NAME = name_of(recipes.apply)


@attrs.frozen
class Outcome:
    """What became of one track.

    Attributes
    ----------
    told : which rules placed what; None where the track was skipped
    skipped : why nothing was done, else empty
    head : how many edits the track had afterwards; -1 where nothing was done
    """

    track_id: int
    title: str
    told: Told | None = None
    skipped: str = ""
    head: int = -1


def apply_recipe(library: Library, track_id: int, recipe: Recipe) -> Outcome:
    """Apply a recipe to one track as an edit. Locked tracks, and those without a grid, are skipped with the reason."""
    track = library.track(track_id)
    if track.state != READY:
        return Outcome(track_id, track.title, skipped="it has not been heard yet")
    try:
        p = library.history(track_id).preparation
        if p.locked:
            return Outcome(track_id, track.title, skipped="it is locked")
        if p.grid is None:
            return Outcome(track_id, track.title, skipped="it has no grid yet")
        kept = library.evidence(track_id, lesser=True)
        evidence = kept[0] if kept is not None else None
        form = phrase_edits.form_of(p, evidence, track.duration)
        place = Place(p.grid, form, track.duration, recipes.vocal_start(evidence, p.grid))
        value, told = recipes.work_out(p, recipe, place)
        if value == p:
            return Outcome(track_id, track.title, told)
        library.edit(track_id, NAME, value)
    except (Refused, FormatError) as e:
        words = "it is locked" if str(e) == LOCKED_WORDS else str(e)
        return Outcome(track_id, track.title, skipped=words)
    return Outcome(track_id, track.title, told, head=library.names(track_id)[1])


def take_back(library: Library, outcomes: list[Outcome]) -> tuple[int, list[str]]:
    """Undo the edit in every track where it is still the last one: how many were, and the titles of the others."""
    undone, kept = 0, []
    for o in outcomes:
        if o.head < 0:
            continue
        if not library.has(o.track_id):
            continue
        names, done = library.names(o.track_id)
        locked = library.history(o.track_id).preparation.locked
        if done == o.head and names[done - 1] == NAME and not locked and library.undo(o.track_id):
            undone += 1
        else:
            kept.append(o.title)
    return undone, kept
