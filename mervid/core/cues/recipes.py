"""Recipes: the same habits on every track. A recipe is a row of rules; each says what cue to place, and where.

A place is told in words that a DJ would use, read by a small grammar:

    first downbeat · the pick-up · first vocal · last 8 bars · each phrase · each section
    the drop · first chorus · second verse · last chorus · each break
    half of the intro · start and half of the outro
    4 bars before the drop · 8 bars after the first chorus · every 16 bars from the first downbeat
    the drop or first chorus

A role is that of a whole section: the second verse is the second section that is a verse, however many phrases it has.
Applying a recipe takes away what an earlier one placed, leaves what a hand set, and reports what could not be placed
and why. Where a role is in doubt nothing is placed below the chance that the recipe asks for. Halves follow the real
length: half of a 32-bar intro lies 16 bars in, of 16 bars 8, of 8 bars 4 (common practice, no source).
"""

from __future__ import annotations

import re
import uuid
from collections.abc import Callable, Collection

import attrs
import numpy as np

from ..errors import Refused
from ..hearing.evidence import Evidence
from ..hearing.spectra import EAR_FPS
from ..model.beatgrid import Grid
from ..model.cue import HOT, KINDS, SLOTS, STANDBY, Cue
from ..model.form import PHRASE_ROLES, Form
from ..model.preparation import Preparation, edit, grid_of
from . import cue_edits
from .cue_edits import CUE_ROLES

_SAME = 1e-6
_SUNG, _SUNG_BARS = 0.6, 1.0
_ORDINALS = {"first": 0, "second": 1, "third": 2, "fourth": 3, "fifth": 4, "last": -1}
MOST_EACH = 200
_PICKUP, _HIT = 0.4, 0.2
"""A pick-up has this part of a beat at least; it is struck as hard as this share of the hardest hit."""


@attrs.frozen
class Rule:
    """Place a cue.

    Attributes
    ----------
    what : role of the cue, one of `cue_edits.CUE_ROLES`
    where : in words, see the module
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


@attrs.frozen(eq=False)
class Place:
    """All that rules can refer to.

    Attributes
    ----------
    duration : length, s
    vocal : where a voice is first heard, s; None where never
    pickup : where a pick-up to the first downbeat begins, s; None where the music begins on it
    sure : the chance from which on a role is taken for one
    """

    grid: Grid
    form: Form | None
    duration: float
    vocal: float | None = None
    pickup: float | None = None
    sure: float = 0.0


@attrs.frozen
class Spot:
    """A place for a cue: a beat, where what it begins ends, and the chance that it is what the rule asks for."""

    beat: float
    end: float = 0.0
    chance: float = 1.0


Where = Callable[[Place], list[Spot]]
Key = tuple[float, str]
"""What a cue that would be placed is left out by: its beat and its role."""


class Unplaced(Exception):
    """This place is not in this track; the text says why."""


def vocal_start(evidence: Evidence | None, grid: Grid) -> float | None:
    """Where a voice is first heard for a bar and more, s; None where it isn't."""
    ear = evidence.strengths if evidence is not None else None
    if ear is None or not len(ear.voice):
        return None
    frames = max(1, int(_SUNG_BARS * 4 * 60 / grid.tempo_overall() * EAR_FPS))
    if len(ear.voice) < frames:
        return None
    mean = np.convolve(ear.voice, np.ones(frames) / frames, "valid")
    sung = np.flatnonzero(mean > _SUNG)
    if not len(sung):
        return None
    begun = np.flatnonzero(ear.voice[int(sung[0]) :] > 0.5)
    return float(int(sung[0]) + (int(begun[0]) if len(begun) else 0)) / EAR_FPS


def pickup_start(evidence: Evidence | None, grid: Grid, form: Form | None) -> float | None:
    """Where a pick-up begins, s: what is struck in the bar before the first downbeat, after a bar without any hit."""
    if evidence is None or form is None or not len(evidence.onset_times):
        return None
    first = form.phrases[0].start
    bar = grid.beats_per_bar(first - 1)
    silent, begin, end = (float(t) for t in grid.time_at([first - 2 * bar, first - bar, first - _PICKUP]))
    hits = evidence.onset_times[evidence.onset_strengths > _HIT * evidence.onset_strengths.max()]
    before, inside = hits[(hits > silent) & (hits < begin)], hits[(hits >= begin) & (hits < end)]
    return float(inside[0]) if len(inside) and not len(before) else None


def place_of(evidence: Evidence | None, grid: Grid, form: Form | None, duration: float) -> Place:
    """All that rules can refer to in a track."""
    return Place(grid, form, duration, vocal_start(evidence, grid), pickup_start(evidence, grid, form))


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
    if not 0 <= rule.loop <= 64:
        raise Refused(f"loop = {rule.loop} must be 0 to 64 bars.")
    parse(rule.where)


def parse(where: str) -> Where:
    """What `where` means: a function from `Place` to spots.

    Raises
    ------
    Refused
        The words are not understood; the message says which are.
    """
    text = " ".join(where.lower().replace("_", " ").split())
    plain = re.sub(r"\bthe\b ?", "", text).strip()

    def fail() -> Refused:
        return Refused(
            f"where = '{where}' is not understood. Such as: first downbeat, the drop, each chorus, half of the intro, "
            "4 bars before the drop, every 16 bars from the first downbeat, last 8 bars."
        )

    if " or " in plain:
        return _either([parse(part) for part in plain.split(" or ")])
    if m := re.fullmatch(r"(\d+) bars? (before|after) (.+)", plain):
        base = parse(m[3])
        by = int(m[1]) * (-1 if m[2] == "before" else 1)
        return lambda place: [attrs.evolve(s, beat=_bars_on(place.grid, s.beat, by)) for s in base(place)]
    if m := re.fullmatch(r"every (\d+) bars?(?: from (.+))?", plain):
        if int(m[1]) < 1:
            raise Refused(f"where = '{where}': every 0 bars is nowhere.")
        begin = parse(m[2] or "first downbeat")
        step = int(m[1])
        return lambda place: _every(place, begin(place)[0], step)
    if m := re.fullmatch(r"last (\d+) bars?", plain):
        back = -int(m[1])
        return lambda place: [Spot(_bars_on(place.grid, _end(place), back))]
    if plain in ("first downbeat", "start", "first beat"):
        return lambda place: [Spot(_first(place))]
    if plain in ("first vocal", "first voice", "vocal"):
        return _vocal
    if plain in ("pick-up", "pickup"):
        return _pickup
    if plain == "each phrase":
        return lambda place: [Spot(q.start) for q in _form(place).phrases]
    if plain == "each section":
        return lambda place: [Spot(_form(place).phrases[s.first].start) for s in _form(place).sections]
    if m := re.fullmatch(r"(start and half|start|half|end) of (.+)", plain):
        return _parts(m[1], _selected(m[2], fail))
    return _selected(plain, fail)


def _selected(plain: str, fail: Callable[[], Refused]) -> Where:
    """Sections by role."""
    m = re.fullmatch(r"(?:(first|second|third|fourth|fifth|last|each|every) )?([a-z]+)", plain)
    if m is None or m[2] not in PHRASE_ROLES:
        raise fail()
    which, role = m[1], m[2]

    def select(place: Place) -> list[Spot]:
        found = _runs(_form(place), role)
        if not found:
            raise Unplaced(f"no {role} here")
        if which in ("each", "every"):
            return found
        k = _ORDINALS[which or "first"]
        if k >= len(found):
            raise Unplaced(f"only {len(found)} of them here")
        return [found[k]]

    return select


def _runs(form: Form, role: str) -> list[Spot]:
    """Each section with a role; an intro or outro of several sections counts as one."""
    ends = [q.start for q in form.phrases[1:]] + [form.end]
    out: list[Spot] = []
    before = ""
    for s in form.sections:
        q, end = form.phrases[s.first], ends[s.stop - 1]
        if q.role == role:
            if out and role in ("intro", "outro") and before == role:
                out[-1] = attrs.evolve(out[-1], end=end, chance=min(out[-1].chance, q.chance))
            else:
                out.append(Spot(q.start, end, q.chance))
        before = q.role
    return out


def _parts(which: str, select: Where) -> Where:
    def parts(place: Place) -> list[Spot]:
        out = []
        for s in select(place):
            if which in ("start", "start and half"):
                out.append(s)
            if which in ("half", "start and half"):
                out.append(attrs.evolve(s, beat=_half(place.grid, s.beat, s.end)))
            if which == "end":
                out.append(attrs.evolve(s, beat=s.end))
        return out

    return parts


def _either(ways: list[Where]) -> Where:
    """The first way that this track has, surely enough."""

    def either(place: Place) -> list[Spot]:
        missing = []
        for way in ways:
            try:
                found = way(place)
            except Unplaced as e:
                missing.append(str(e))
                continue
            sure = [s for s in found if s.chance >= place.sure]
            if sure:
                return sure
            missing.append(_doubt(found))
        raise Unplaced(" and ".join(dict.fromkeys(missing)))

    return either


def _half(grid: Grid, start: float, end: float) -> float:
    """The bar line halfway through; of an odd number of bars the one before."""
    a, b = (int(x) for x in grid.bar_index(np.array([start, end]) + _SAME)[0])
    if b - a < 2:
        raise Unplaced("too short to have a half")
    return float(grid.bar_start(a + (b - a) // 2))


def _form(place: Place) -> Form:
    if place.form is None:
        raise Unplaced("the phrases are not known")
    return place.form


def _first(place: Place) -> float:
    return place.form.phrases[0].start if place.form is not None else 0.0


def _end(place: Place) -> float:
    return place.form.end if place.form is not None else float(place.grid.bar_line_near(place.duration))


def _doubt(spots: list[Spot]) -> str:
    """That spots are not sure enough, in words."""
    return f"only {sure_words(max(s.chance for s in spots))}"


def sure_words(chance: float) -> str:
    """How sure a place is: '45 % sure'."""
    return f"{chance:.0%} sure".replace("%", " %")


def _vocal(place: Place) -> list[Spot]:
    if place.vocal is None:
        raise Unplaced("no voice is heard")
    beat = float(place.grid.beat_at(place.vocal))
    index = int(place.grid.bar_index(beat + 1.0)[0])
    return [Spot(float(place.grid.bar_start(index)))]


def _pickup(place: Place) -> list[Spot]:
    if place.pickup is None:
        raise Unplaced("no pick-up: it begins on the downbeat")
    return [Spot(round(float(place.grid.beat_at(place.pickup)) * 2) / 2)]


def _bars_on(grid: Grid, beat: float, bars: int) -> float:
    return float(grid.bar_start(int(grid.bar_index(beat + _SAME)[0]) + bars))


def _every(place: Place, begin: Spot, bars: int) -> list[Spot]:
    out, end = [begin], _end(place)
    while len(out) < MOST_EACH:
        after = _bars_on(place.grid, out[-1].beat, bars)
        if after >= end - _SAME:
            break
        out.append(attrs.evolve(begin, beat=after))
    return out


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
        inside = [s for s in sure if -_SAME <= float(grid.time_at(s.beat)) <= place.duration]
        placed: list[Spot] = []
        problem = "" if inside else "it lies outside the recording"
        if len(sure) < len(spots):
            problem = _doubt([s for s in spots if s.chance < place.sure])
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
