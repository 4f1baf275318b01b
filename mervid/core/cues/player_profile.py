"""What a player at the gig will see: which cues survive on gear with eight hot cues, with three, or with none.

A hot cue beyond the player's slots is lost unless it is a standby cue, too. Common practice, no source: put the drop
on the third slot, for older players have three, and keep what matters as standby cues, for some have none.
"""

from __future__ import annotations

import attrs

from ..errors import Refused
from ..model.cue import BOTH, Cue
from ..model.preparation import Preparation, edit
from .cue_edits import in_slot, ordered

VITAL = ("drop", "first beat")


@attrs.frozen
class Gear:
    """A kind of player: how many hot cues it has."""

    name: str
    slots: int


EIGHT, THREE, NONE = Gear("eight hot cues", 8), Gear("three hot cues", 3), Gear("no hot cues", 0)
GEARS = (EIGHT, THREE, NONE)


@attrs.frozen
class Arrival:
    """How a track arrives on a player.

    Attributes
    ----------
    hot : (slots,) the cue in each slot, or None
    standby : in order of time
    lost : cues that the player does not have
    warnings : what to know, in plain sentences
    """

    hot: tuple[Cue | None, ...]
    standby: tuple[Cue, ...]
    lost: tuple[Cue, ...]
    warnings: tuple[str, ...]


def arrive(p: Preparation, gear: Gear) -> Arrival:
    """What `gear` has of the cues of `p`."""
    hot = tuple(in_slot(p, n) for n in range(gear.slots))
    standby = tuple(c for c in p.cues if c.is_standby)
    there = {c.id for c in (*hot, *standby) if c is not None}
    lost = tuple(c for c in p.cues if c.id not in there)
    return Arrival(hot, standby, lost, _warnings(p, gear, lost))


def _warnings(p: Preparation, gear: Gear, lost: tuple[Cue, ...]) -> tuple[str, ...]:
    out = []
    if lost:
        count = {1: "one is", 2: "two are", 3: "three are"}.get(len(lost), f"{len(lost)} are")
        what = "a standby cue" if len(lost) == 1 else "standby cues"
        said = {0: "This player has no hot cues", 3: "This player has three hot cues"}.get(gear.slots)
        out.append(f"{said or f'This player has {gear.slots} hot cues'}: {count} not kept as {what}.")
    for role in VITAL:
        gone = [c for c in lost if c.role == role]
        kept = any(c.role == role and c not in lost for c in p.cues)
        if gone and not kept:
            out.append(f"The {role} would be lost ({gone[0].name}).")
    if not p.cues:
        out.append("There are no cues: this player would start the track at its beginning.")
    return tuple(out)


@edit("Keep cues for this player")
def complete(p: Preparation, gear: Gear) -> Preparation:
    """Keep as standby cues, too, what `gear` would lose."""
    lost = {c.id for c in arrive(p, gear).lost}
    if not lost:
        raise Refused("Nothing is missing: this player has every cue.")
    return ordered(p, [attrs.evolve(c, kind=BOTH) if c.id in lost else c for c in p.cues])
