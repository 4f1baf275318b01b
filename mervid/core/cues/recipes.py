"""Recipes: the same habits on every track. A recipe is a row of rules; each says what cue to place, and where.

Where is told in words, see `recipe_places`. Applying a recipe takes away what an earlier one placed, leaves what a hand
set, and reports what could not be placed and why. Where a role is in doubt nothing is placed below the chance that the
recipe asks for.
"""

from __future__ import annotations

import uuid
from collections.abc import Collection

import attrs

from ..errors import Refused
from ..model.cue import HOT, KINDS, MOST_LOOP, SLOTS, STANDBY, Cue
from ..model.form import Form
from ..model.preparation import Preparation, edit, grid_of
from . import cue_edits
from .cue_edits import CUE_ROLES
from .recipe_places import Place, Spot, Unplaced, doubt, parse

Key = tuple[float, str]
"""What a cue that would be placed is left out by: its beat and its role."""

_SAME = 1e-6


@attrs.frozen
class Rule:
    """Place a cue.

    Attributes
    ----------
    what : role of the cue, one of `cue_edits.CUE_ROLES`
    where : in words, see `recipe_places`
    kind : hot, standby or both
    slot : 1 to 8, the hot cue it becomes; 0 for the next free one
    loop : bars of the loop that begins there; 0 for none
    name : what it is called; empty for its role
    """

    what: str
    where: str
    kind: str = HOT
    slot: int = 0
    loop: int = 0
    name: str = ""


@attrs.frozen
class Recipe:
    """A named row of rules; `sure` is the chance that a role must have for a cue to be placed by it, 0 to 1."""

    name: str
    rules: tuple[Rule, ...]
    about: str = ""
    sure: float = 0.0


@attrs.frozen
class Line:
    """What became of one rule: beats at which cues were placed, how sure each is, and what could not be done.

    `missing` where the track has no such place, or none that is sure enough.
    """

    rule: Rule
    placed: tuple[float, ...] = ()
    problem: str = ""
    chances: tuple[float, ...] = ()
    missing: bool = False


@attrs.frozen
class Told:
    """What a recipe did to a track."""

    lines: tuple[Line, ...]

    @property
    def placed(self) -> int:
        return sum(len(x.placed) for x in self.lines)

    @property
    def problems(self) -> tuple[str, ...]:
        return tuple(f"{x.rule.what}, {x.rule.where}: {x.problem}" for x in self.lines if x.problem)


def check(rule: Rule) -> None:
    """Raise `Refused`, naming the field, unless the rule can be followed on some track."""
    if rule.what not in CUE_ROLES:
        raise Refused(f"what = '{rule.what}' is no role of a cue: {', '.join(CUE_ROLES)}.")
    if rule.kind not in KINDS:
        raise Refused(f"as = '{rule.kind}' is none of {', '.join(KINDS)}.")
    if not 0 <= rule.slot <= SLOTS:
        raise Refused(f"slot = {rule.slot} is no slot: 1 to {SLOTS}, or none for the next free one.")
    if rule.slot and rule.kind == STANDBY:
        raise Refused(f"slot = {rule.slot}: a standby cue has no slot.")
    if not 0 <= rule.loop <= MOST_LOOP:
        raise Refused(f"loop = {rule.loop} must be 0 to {MOST_LOOP} bars.")
    parse(rule.where)


# applying


@edit("Apply a recipe")
def apply(p: Preparation, recipe: Recipe, place: Place) -> Preparation:
    """The cues that `recipe` places, beside those a hand set; see `work_out` for the report."""
    return work_out(p, recipe, place)[0]


def work_out(p: Preparation, recipe: Recipe, place: Place, left: Collection[Key] = ()) -> tuple[Preparation, Told]:
    """The preparation with the recipe's cues, and what became of each rule.

    What an earlier recipe placed is taken away; a hand's cues and slots stay.

    Parameters
    ----------
    left : keys of cues that are not to be placed
    """
    grid = grid_of(p)
    kept = [c for c in p.cues if not c.recipe]
    # what is placed again is the same cue: so nothing has changed where nothing has
    former = {(c.beat, c.role): c.id for c in p.cues if c.recipe}
    out = attrs.evolve(p, cues=tuple(kept))
    lines: list[Line] = []
    place = attrs.evolve(place, sure=recipe.sure)
    for rule in recipe.rules:
        try:
            spots = parse(rule.where)(place)
        except Unplaced as e:
            lines.append(Line(rule, problem=str(e), missing=True))
            continue
        sure = [s for s in spots if s.chance >= place.sure]
        inside = [s for s in sure if not grid.precedes(s.beat) and grid.time_at(s.beat) <= place.duration]
        placed: list[Spot] = []
        problem = "" if inside else "it lies outside the recording"
        if len(sure) < len(spots):
            problem = doubt([s for s in spots if s.chance < place.sure])
            problem = f"{len(spots) - len(sure)} of {len(spots)} {problem}" if sure else problem
        for number, spot in enumerate(inside, 1):
            beat = spot.beat
            standing = next((c for c in out.cues if c.beat is not None and abs(c.beat - beat) < _SAME), None)
            if standing is not None:
                problem = f"{standing.name} stands there already"
                continue
            made, word = _cue(out, rule, beat, recipe.name, number if len(inside) > 1 else 0)
            if made is None:
                problem = word
                break
            placed.append(spot)
            problem = word or problem
            made = attrs.evolve(made, id=former.get((made.beat, made.role), made.id))
            out = cue_edits.ordered(out, [*out.cues, made])
        missing = not placed and len(sure) < len(spots)
        lines.append(Line(rule, tuple(s.beat for s in placed), problem, tuple(s.chance for s in placed), missing))
    if left:
        # only now: what is left out makes no room for another
        kept = [c for c in out.cues if not c.recipe or c.beat is None or (c.beat, c.role) not in left]
        out = attrs.evolve(out, cues=tuple(kept))
        lines = [_without(line, left) for line in lines]
    return out, Told(tuple(lines))


def _without(line: Line, left: Collection[Key]) -> Line:
    """A line without the cues that are left out."""
    stay = [(b, c) for b, c in zip(line.placed, line.chances, strict=True) if (b, line.rule.what) not in left]
    if len(stay) == len(line.placed):
        return line
    problem = "; ".join(x for x in (line.problem, "left out by hand") if x)
    return attrs.evolve(line, placed=tuple(b for b, _ in stay), chances=tuple(c for _, c in stay), problem=problem)


def chance_of(form: Form | None, cue: Cue) -> float:
    """How sure the role of a cue is: that of the section that begins with it; 1 for any other and for a hand's."""
    if form is None or cue.beat is None or not cue.recipe:
        return 1.0
    return next(
        (q.chance for q in form.phrases if abs(q.start - cue.beat) < _SAME and q.role == cue.role and not q.hand), 1.0
    )


def _cue(p: Preparation, rule: Rule, beat: float, recipe: str, number: int) -> tuple[Cue | None, str]:
    """The cue of a rule, and what is to be said about it; None where there is no room."""
    kind, word, slot = rule.kind, "", None
    if kind != STANDBY:
        slot = rule.slot - 1 if rule.slot and number < 2 else cue_edits.free_slot(p)
        if slot is not None and rule.slot and number < 2:
            standing = cue_edits.in_slot(p, slot)
            if standing is not None:
                other = cue_edits.free_slot(p)
                where = f"took slot {other + 1}" if other is not None else "became a standby cue"
                word = f"slot {slot + 1} is taken by {standing.name}: {where}"
                slot = other
        if slot is None:
            if kind == HOT and not word:
                return None, "all eight hot cues are taken"
            kind = STANDBY
    name = rule.name or rule.what.capitalize()
    if number > 1 or (number and not rule.name):
        name = f"{name} {number}"
    return (
        Cue(uuid.uuid4().hex[:12], name, beat, None, kind, rule.what, slot, rule.loop, recipe),
        word,
    )
