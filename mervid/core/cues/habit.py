"""A person's own habit, read from the cues that they set by hand: a recipe that would have set them.

For each role of a cue the places that recipes know are tried on every track. One that holds in most of the tracks where
it is to be found, and explains most of the cues, becomes a rule; what it explains is put aside, and the next is looked
for. How often each holds is said: a habit is a proposal, no measurement.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence

import attrs

from ..errors import Refused
from ..model.cue import STANDBY, Cue
from ..model.form import PHRASE_ROLES
from . import recipe_places
from .cue_edits import CUE_ROLES
from .recipe_places import Place, Unplaced
from .recipes import Recipe, Rule

LEAST = 10
"""From so many tracks on a habit can be told from chance."""
HOLDS, EVER = 0.6, 3
"""A rule must hold in so great a share of the tracks where it has a place or was wanted, and in so many."""
_NEAR = 0.26
"""Beats: a cue this near to a place stands there."""
_AGREE = 0.6

_PARTS = tuple(r for r in PHRASE_ROLES if r != "other")
WHERE = (
    "first downbeat",
    "first vocal",
    *(f"the {r}" for r in _PARTS),
    *(f"each {r}" for r in _PARTS),
    *(f"{n} {r}" for r in ("verse", "chorus", "break", "drop") for n in ("second", "last")),
    *(f"half of the {r}" for r in ("intro", "outro", "break")),
    "end of the intro",
    *(f"{n} bars before the {r}" for r in ("drop", "outro") for n in (4, 8, 16, 32)),
    *(f"{n} bars before the first chorus" for n in (4, 8, 16)),
    *(f"{n} bars after the {r}" for r in ("drop", "outro") for n in (8, 16)),
    "the drop or first chorus",
    "first break or second verse",
    *(f"last {n} bars" for n in (4, 8, 16, 32)),
    *(f"every {n} bars from first downbeat" for n in (8, 16, 32)),
    "each section",
    "each phrase",
)
"""Places that are tried, simple ones first."""


@attrs.frozen(eq=False)
class Example:
    """A track whose cues a hand set: what rules can refer to in it, and those cues."""

    place: Place
    cues: tuple[Cue, ...]


@attrs.frozen
class Held:
    """A rule, and that it holds in `holds` of the `of` tracks in which it has a place or was wanted."""

    rule: Rule
    holds: int
    of: int

    def sentence(self) -> str:
        """The rule in words.

        >>> Held(Rule("drop", "the drop", "hot", 3), 9, 12).sentence()
        'Put a drop at the drop as hot in slot 3: holds in 9 of 12'
        """
        r = self.rule
        slot = f" in slot {r.slot}" if r.slot else ""
        loop = f" with a loop of {r.loop} bars" if r.loop else ""
        article = "an" if r.what[0] in "aeiou" else "a"
        return f"Put {article} {r.what} at {r.where} as {r.kind}{slot}{loop}: holds in {self.holds} of {self.of}"


def by_hand(cues: Sequence[Cue]) -> tuple[Cue, ...]:
    """The cues that a hand set on the grid."""
    return tuple(c for c in cues if not c.recipe and c.beat is not None)


def learn(examples: Sequence[Example]) -> tuple[Held, ...]:
    """The rules that would have set most of the cues, those first that hold most often.

    Raises
    ------
    Refused
        There are too few tracks, or no place is common to their cues.
    """
    with_cues = [e for e in examples if e.cues]
    if len(with_cues) < LEAST:
        count = f"{len(with_cues)} tracks have" if len(with_cues) != 1 else "1 track has"
        raise Refused(f"{count} cues that a hand set on the grid: from {LEAST} on a habit can be read from them.")
    spots = {where: [_spots(where, e.place) for e in with_cues] for where in WHERE}
    out: list[Held] = []
    for what in CUE_ROLES:
        todo = [[c for c in e.cues if c.role == what] for e in with_cues]
        others = [[_beat(c) for c in e.cues if c.role != what] for e in with_cues]
        free = _free(spots, others)
        while found := _best(what, todo, free):
            held, explained = found
            out.append(held)
            todo = [[c for c in row if c not in gone] for row, gone in zip(todo, explained, strict=True)]
    if not out:
        raise Refused("The cues of these tracks have no place in common: there is no habit to read from them.")
    return tuple(sorted(out, key=lambda h: (-h.holds / h.of, -h.of)))


def recipe_of(held: Sequence[Held], tracks: int, name: str = "My habit") -> Recipe:
    """A recipe of these rules, in an order in which slots don't take each other's places."""
    rules = sorted((h.rule for h in held), key=lambda r: (not r.slot, r.slot))
    return Recipe(name, tuple(rules), f"Read from the cues that a hand set in {tracks} tracks.")


def _spots(where: str, place: Place) -> list[float]:
    try:
        return [s.beat for s in recipe_places.parse(where)(place)]
    except Unplaced:
        return []


def _free(spots: dict[str, list[list[float]]], others: Sequence[Sequence[float]]) -> dict[str, list[list[float]]]:
    """Spots at which no other cue stands: a recipe places none there."""
    return {
        where: [
            [b for b in beats if not any(abs(b - o) < _NEAR for o in taken)]
            for beats, taken in zip(rows, others, strict=True)
        ]
        for where, rows in spots.items()
    }


Explained = list[list[Cue]]


def _best(
    what: str, todo: Sequence[Sequence[Cue]], spots: dict[str, list[list[float]]]
) -> tuple[Held, Explained] | None:
    """The place that explains most of the cues of a role and holds often enough, and what it explains."""
    best: tuple[int, Held, Explained] | None = None
    for where in WHERE:
        explained: Explained = []
        holds = of = count = 0
        for cues, beats in zip(todo, spots[where], strict=True):
            there = [c for c in cues if any(abs(_beat(c) - b) < _NEAR for b in beats)]
            right = bool(beats) and all(any(abs(_beat(c) - b) < _NEAR for c in cues) for b in beats)
            holds += right
            of += bool(beats or cues)
            count += len(there) if right else 0
            explained.append(there if right else [])
        if holds < EVER or holds < HOLDS * of or (best is not None and count <= best[0]):
            continue
        best = (count, Held(_rule(what, where, [c for row in explained for c in row]), holds, of), explained)
    return None if best is None else best[1:]


def _beat(cue: Cue) -> float:
    return cue.beat if cue.beat is not None else 0.0


def _rule(what: str, where: str, cues: Sequence[Cue]) -> Rule:
    """The rule for cues that it explains: as most of them are."""
    enough = _AGREE * len(cues)
    kind = Counter(c.kind for c in cues).most_common(1)[0][0]
    slot, in_it = Counter(c.slot for c in cues).most_common(1)[0]
    loop, looped = Counter(c.bars for c in cues).most_common(1)[0]
    name, named = Counter(c.name for c in cues).most_common(1)[0]
    return Rule(
        what,
        where,
        kind,
        slot + 1 if slot is not None and in_it >= enough and kind != STANDBY else 0,
        loop if looped >= enough else 0,
        name if named >= enough and name != what.capitalize() else "",
    )
