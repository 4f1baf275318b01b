"""Places in a track as a DJ names them: a bar, a cue, a role, an instant."""

from __future__ import annotations

import re

from ..cues.cue_edits import CUE_ROLES
from ..errors import Refused
from ..form import phrase_edits
from ..model.form import PHRASE_ROLES
from .side import Side

_LAST = ("outro", "mid-outro")
"""Of these the last one is meant, of others the first."""


def place(side: Side, words: str) -> float:
    """The whole beat that words name: '33' a bar, '61.2s' an instant, a cue's name, or a role such as 'drop'.

    Raises
    ------
    Refused
        There is no such place; the message says what there is.
    """
    text, grid = words.strip(), side.grid
    if re.fullmatch(r"[+-]?\d+", text.replace("−", "-")):
        bar = int(text.replace("−", "-"))
        if bar == 0:
            raise Refused("There is no bar 0: bars are counted 1, 2, 3, and -1, -2 before them.")
        beat = float(grid.bar_start(bar - (bar > 0)))
        if not 0.0 <= float(grid.time_at(beat)) + 0.5 <= side.duration + 0.5:
            raise Refused(f"{side.title} has no bar {bar}.")
        return beat
    seconds = re.fullmatch(r"(\d+(?:[.,]\d+)?)\s*s", text)
    if seconds:
        time = float(seconds[1].replace(",", "."))
        if time >= side.duration:
            raise Refused(f"{side.title} lasts {side.duration:.1f} s: {time:g} s lies behind its end.")
        return float(round(float(grid.beat_at(time))))
    for cue in side.preparation.cues:
        if cue.name.casefold() == text.casefold():
            return side.beat_of(cue)
    return _by_role(side, text)


def _by_role(side: Side, text: str) -> float:
    role = text.lower()
    at = -1 if role in _LAST else 0
    cues = [c for c in side.preparation.cues if c.role == role]
    if cues:
        return sorted(side.beat_of(c) for c in cues)[at]
    found = [q.start for q in side.phrases if q.role == role]
    if found:
        return found[at]
    if role == "first beat":
        return 0.0
    if role not in CUE_ROLES and role not in PHRASE_ROLES:
        raise Refused(
            f"'{text}' is no place in {side.title}: write a bar (33), seconds (61.2s), the name of a cue or its role "
            f"({', '.join(r for r in CUE_ROLES if r != 'own')})."
        )
    there = sorted({q.role for q in side.phrases if q.role != "other"} | {c.name for c in side.preparation.cues})
    raise Refused(f"{side.title} has no {role}; it has {', '.join(there) if there else 'no phrases that are named'}.")


def name(side: Side, beat: float) -> str:
    """What a place is called: the cue or the phrase that begins there, and its bar."""
    p, grid = side.preparation, side.grid
    bar = f"bar {phrase_edits.bar_of(grid, beat, p.origin)}"
    for cue in p.cues:
        if abs(float(grid.beat_at(cue.at(grid))) - beat) < 0.5:
            return f"{cue.name}, {bar}"
    for q in side.phrases:
        if abs(q.start - beat) < 0.5 and q.role != "other":
            return f"{q.role}, {bar}"
    return bar
