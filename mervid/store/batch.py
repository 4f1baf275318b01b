"""One recipe over many tracks: an edit in each, a report on all, and one way to take everything back."""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence

import attrs

from ..core.cues import habit, prospects, recipe_places, recipes
from ..core.cues.habit import Example
from ..core.cues.prospects import Prospect
from ..core.cues.recipe_places import Place
from ..core.cues.recipes import Key, Recipe, Told
from ..core.errors import FormatError, Refused
from ..core.form import phrase_edits
from ..core.model.preparation import LOCKED_WORDS, Preparation, grid_of, name_of, refuse_locked
from .library import Library
from .track import READY, Track

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


def examples(library: Library, step: Callable[[float], None]) -> list[Example]:
    """The tracks whose cues a hand set, for `habit.learn`. Raises `StoreError`.

    Parameters
    ----------
    step : is told how much is done, 0 to 1
    """
    wanted = library.rows("SELECT id FROM tracks WHERE out=0 AND cues>0 AND state=? ORDER BY id", (READY,))
    out: list[Example] = []
    for k, (number,) in enumerate(wanted):
        track = library.track(int(number))
        try:
            p = library.history(track.id).preparation
            cues = habit.by_hand(p.cues)
            if p.grid is not None and cues:
                out.append(Example(_place(library, track, p), cues))
        except (Refused, FormatError):
            pass
        step((k + 1) / len(wanted))
    return out


def look(library: Library, track_id: int, recipe: Recipe) -> Prospect:
    """What a recipe would do to a track, without doing it. Raises `StoreError`."""
    track = library.track(track_id)
    skipped = "it has not been heard yet" if track.state != READY else ""
    try:
        p = library.history(track_id).preparation
        skipped = skipped or ("it is locked" if p.locked else "" if p.grid is not None else "it has no grid yet")
        if skipped:
            return Prospect(track_id, track.title, skipped=skipped)
        head = library.names(track_id)[1]
        return prospects.prospect(track_id, track.title, p, recipe, _place(library, track, p), head)
    except (Refused, FormatError) as e:
        return Prospect(track_id, track.title, skipped=str(e))


def _place(library: Library, track: Track, p: Preparation) -> Place:
    grid = grid_of(p)
    kept = library.evidence(track.id, lesser=True)
    evidence = kept[0] if kept is not None else None
    form = phrase_edits.form_of(p, evidence, track.duration)
    return recipe_places.place_of(evidence, grid, form, track.duration)


def put_down(library: Library, seen: Prospect, recipe: Recipe, left: Collection[Key] = ()) -> Outcome:
    """Place the cues that were seen, as an edit; what is locked or was changed since is left as it is, and said.

    Parameters
    ----------
    left : keys of the flags that are left out
    """
    number, title = seen.track, seen.title
    try:
        if seen.skipped or seen.told is None:
            return Outcome(number, title, skipped=seen.skipped)
        if library.names(number)[1] != seen.head:
            return Outcome(number, title, skipped="it was changed after it was looked at")
        p = library.history(number).preparation
        refuse_locked(p)
        # only grid and length count where the phrases are those that were seen
        place = Place(grid_of(p), seen.form, library.track(number).duration, seen.vocal, seen.pickup)
        value, told = recipes.work_out(p, recipe, place, left)
        if value == p:
            return Outcome(number, title, told)
        library.edit(number, NAME, value)
    except (Refused, FormatError) as e:
        words = "it is locked" if str(e) == LOCKED_WORDS else str(e)
        return Outcome(number, title, skipped=words)
    return Outcome(number, title, told, head=library.names(number)[1])


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


def account(name: str, outcomes: Sequence[Outcome]) -> str:
    """What became of each track, as lines of values between tabs, the first one of names."""
    lines = ["recipe\ttrack\tcues\twhat could not be done, and why"]
    for o in outcomes:
        told = o.told if o.head >= 0 else None
        problems = o.skipped or "; ".join(o.told.problems if o.told is not None else ())
        cells = (name, o.title, str(told.placed) if told is not None else "0", problems)
        # a tab or a line break inside a name would begin another value
        lines.append("\t".join(" ".join(c.split()) for c in cells))
    return "\n".join(lines) + "\n"
