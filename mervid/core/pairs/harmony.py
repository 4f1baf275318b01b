"""How the keys of two tracks stand to each other where they meet: in words, as in a list of reasons.

What counts is what sounds there. A song may have gone up by then, and where pitch goes with speed the coming track is
played in another key, or between two.
"""

from __future__ import annotations

import math

from ..character import key as keys
from .meeting import Meeting
from .side import Side

OUT_OF_TUNE = 30
"""Cents from which on two tracks are heard as out of tune with each other: common practice, no source."""


def stretch_of(leaving: Side, coming: Side, m: Meeting, n: float) -> float:
    """How much faster the coming track must run on the leaving track's clock; 0.03 is 3 %."""
    return leaving.tempo_between(m.at, m.at + n) * m.level / coming.tempo_between(m.enter, m.enter + n * m.level) - 1


def lifted(stretch: float) -> tuple[int, int]:
    """Semitones, and cents beside them, by which a track sounds higher that runs so much faster with its pitch.

    >>> lifted(0.0595), lifted(-0.02)
    ((1, 0), (0, -35))
    """
    up = 12 * math.log2(1 + stretch)
    return round(up), round(100 * (up - round(up)))


def key_words(leaving: Side, coming: Side, m: Meeting, n: float) -> str:
    """How the keys stand to each other in the middle of an overlap of `n` beats; empty where one isn't known."""
    mine, theirs = leaving.key_at(m.at + n / 2), coming.key_at(m.enter + n / 2 * m.level)
    semitones, cents = (0, 0) if m.hold_pitch else lifted(stretch_of(leaving, coming, m, n))
    played = keys.moved(theirs, semitones)
    relation = keys.relation(mine, played)
    if not relation:
        return ""
    first = mine if mine == leaving.key else f"{mine} by then"
    second = f"{played} at that speed" if semitones else theirs if theirs == coming.key else f"{theirs} by then"
    if abs(cents) >= OUT_OF_TUNE:
        return f"keys differ ({first}, {second} but {abs(cents)} cents {'sharp' if cents > 0 else 'flat'})"
    if relation == keys.OTHER:
        return f"keys differ ({first}, {second})"
    return f"keys fit ({first} to {second}, {relation})"
