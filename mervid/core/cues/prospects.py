"""What a recipe would do to a track, before it does anything: the flags it would put down, and how sure they are.

A person who applies one habit to a hundred tracks looks at the doubtful ones first. A track is the more in doubt, the
less sure the roles are by which its cues are placed, and the more rules found no place in it.
"""

from __future__ import annotations

from functools import cached_property

import attrs
import numpy as np

from ..form.phrase_edits import bars_in, place_of
from ..model.cue import Cue
from ..model.form import Form
from ..model.preparation import Preparation, grid_of
from . import recipe_places, recipes
from .recipe_places import Place
from .recipes import Key, Recipe, Told

MISSING = 0.2
"""As doubtful as this is a track in which a rule has no place: it may have no such part, or it wasn't heard."""
DOUBT = 0.4
"""From here on a track is in doubt: a role by which a cue is placed is as likely as not."""


@attrs.frozen
class Flag:
    """A cue that would be placed, with the bar it lies on, in words, and how sure its place is, 0 to 1."""

    cue: Cue
    at: str
    chance: float

    @property
    def key(self) -> Key:
        """What it is left out by."""
        return (self.cue.beat if self.cue.beat is not None else 0.0, self.cue.role)


@attrs.frozen
class Prospect:
    """What a recipe would do to a track.

    Attributes
    ----------
    track, title : which track
    form, bars : its phrases and their lengths
    flags : cues that would be placed, in order
    standing : cues of a hand, which stay
    told : what is said of each rule; None where nothing can be done
    skipped : why nothing can be done, else empty
    vocal, pickup : where a voice is first heard and a pick-up begins, s
    head : how many edits the track has: what was seen is worth nothing after another
    """

    track: int
    title: str
    form: Form | None = None
    bars: tuple[float, ...] = ()
    flags: tuple[Flag, ...] = ()
    standing: tuple[Cue, ...] = ()
    told: Told | None = None
    skipped: str = ""
    vocal: float | None = None
    pickup: float | None = None
    head: int = 0

    @cached_property
    def doubt(self) -> float:
        """How doubtful it is, 0 to 1; 0 where nothing can be done."""
        if self.told is None:
            return 0.0
        unsure = max((1 - f.chance for f in self.flags), default=0.0)
        missing = sum(x.missing for x in self.told.lines)
        return max(unsure, 1 - (1 - MISSING) ** missing)

    @property
    def doubtful(self) -> bool:
        """Whether a person should look at it."""
        return self.doubt >= DOUBT

    @cached_property
    def why(self) -> str:
        """What is in doubt, in words; empty where nothing is."""
        if self.skipped:
            return self.skipped
        unsure = [f for f in self.flags if 1 - f.chance >= DOUBT]
        words = [f"{f.cue.name} {recipe_places.sure_words(f.chance)}" for f in unsure]
        missing = [x for x in self.told.lines if x.missing] if self.told is not None else []
        words += [x.problem if x.rule.what in x.problem else f"{x.rule.what}: {x.problem}" for x in missing]
        return ", ".join(words).replace(" here, no ", ", no ")


def prospect(track: int, title: str, p: Preparation, recipe: Recipe, place: Place, head: int) -> Prospect:
    """What `recipe` would do. Raises `Refused` where there is no grid or a rule is not understood."""
    value, told = recipes.work_out(p, recipe, place)
    grid = grid_of(p)
    chances = {(b, x.rule.what): c for x in told.lines for b, c in zip(x.placed, x.chances, strict=True)}
    flags = tuple(
        Flag(c, place_of(grid, c.beat, p.origin), chances[c.beat, c.role])
        for c in value.cues
        if c.recipe and c.beat is not None
    )
    standing = tuple(c for c in p.cues if not c.recipe)
    bars = tuple(np.round(bars_in(grid, place.form), 3).tolist()) if place.form is not None else ()
    return Prospect(
        track, title, place.form, bars, flags, standing, told, vocal=place.vocal, pickup=place.pickup, head=head
    )


def in_order(all_of: list[Prospect]) -> list[Prospect]:
    """Doubtful ones first, then the others as they came; what can't be done at the end."""
    return sorted(all_of, key=lambda x: (bool(x.skipped), -x.doubt if x.doubtful else 0.0))
