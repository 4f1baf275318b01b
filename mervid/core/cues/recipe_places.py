"""Places that the rules of a recipe name, in words that a DJ would use, read by a small grammar:

    first downbeat · the pick-up · first vocal · last 8 bars · each phrase · each section
    the drop · first chorus · second verse · last chorus · each break
    half of the intro · start and half of the outro
    4 bars before the drop · 8 bars after the first chorus · every 16 bars from the first downbeat
    the drop or first chorus

A role is that of a whole section: the second verse is the second section that is a verse, however many phrases it has.
Halves follow the real length: half of a 32-bar intro lies 16 bars in, of 16 bars 8, of 8 bars 4 (common practice, no
source).
"""

from __future__ import annotations

import re
from collections.abc import Callable

import attrs
import numpy as np

from ..errors import Refused
from ..figures import share
from ..hearing.evidence import Evidence
from ..hearing.spectra import EAR_FPS
from ..model.beatgrid import Grid
from ..model.form import PHRASE_ROLES, Form

_SAME = 1e-6
_SUNG, _SUNG_BARS = 0.6, 1.0
_ORDINALS = {"first": 0, "second": 1, "third": 2, "fourth": 3, "fifth": 4, "last": -1}
MOST_EACH = 200
_PICKUP, _HIT = 0.4, 0.2
"""A pick-up has this part of a beat at least; it is struck as hard as this share of the hardest hit."""


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
    run = np.concatenate([[0.0], np.cumsum(ear.voice, dtype=float)])
    sung = np.flatnonzero(run[frames:] - run[:-frames] > _SUNG * frames)
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
            missing.append(doubt(found))
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


def doubt(spots: list[Spot]) -> str:
    """Why spots of a role in doubt are left out."""
    """That spots are not sure enough, in words."""
    return f"only {sure_words(max(s.chance for s in spots))}"


def sure_words(chance: float) -> str:
    """How sure a place is: '45 % sure'."""
    return f"{share(chance)} sure"


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
