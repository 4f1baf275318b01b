"""What a preparation from outside must be before it may become a track's own: whole, in order, and readable again.

A value that the library could store but not read back would be lost for good, so it is read back first.
"""

from __future__ import annotations

import math

from ..errors import FormatError
from .cue import KINDS, SLOTS, Cue
from .form import MOST_RAISED, PHRASE_ROLES
from .preparation import Preparation, from_json, to_json

MOST_S = 172_800.0
"""No recording is longer, s: two days."""
MOST_BEAT = 1_000_000.0
"""No recording has more beats: two days at 347 BPM."""
MOST_PINS, MOST_CUES, MOST_PHRASES = 200_000, 10_000, 10_000
MOST_LOOP = 1024
"""Longest loop, bars."""
MOST_TEXT = 10_000


def valid(p: Preparation) -> Preparation:
    """`p` as the library would read it back.

    Raises
    ------
    FormatError
        It couldn't, or a value makes no sense; the message names the first one that doesn't.
    """
    try:
        text = to_json(p)
    except (TypeError, ValueError):
        raise FormatError("It holds values that are no numbers.") from None
    back = from_json(text)
    if back != p:
        raise FormatError("It holds values of another kind than they should be.")
    _check(back)
    return back


def _check(p: Preparation) -> None:
    grid, form = p.grid, p.form
    if grid is not None:
        if len(grid.pins) > MOST_PINS:
            raise FormatError(f"It has {len(grid.pins)} pins; {MOST_PINS} at most are read.")
        for pin in (grid.pins[0], grid.pins[-1]):
            _within("A pin", pin.time, pin.beat)
    if len(p.cues) > MOST_CUES:
        raise FormatError(f"It has {len(p.cues)} cues; {MOST_CUES} at most are read.")
    if len({c.id for c in p.cues}) < len(p.cues):
        raise FormatError("Two of its cues have the same mark.")
    for cue in p.cues:
        _check_cue(cue)
    if form is not None:
        if len(form.phrases) > MOST_PHRASES:
            raise FormatError(f"It has {len(form.phrases)} phrases; {MOST_PHRASES} at most are read.")
        for q in form.phrases:
            _within(f"The phrase {q.role[:40]!r}", 0.0, q.start)
            if not 0 <= q.chance <= 1:
                raise FormatError(f"The phrase on beat {q.start:g} is said to be {q.chance:g} likely, not 0 to 1.")
            if q.role not in PHRASE_ROLES:
                raise FormatError(f"The phrase on beat {q.start:g} has no known role ({', '.join(PHRASE_ROLES)}).")
            if abs(q.raised) > MOST_RAISED:
                raise FormatError(f"The key of the phrase on beat {q.start:g} is raised by {q.raised} semitones.")
            if max(len(q.letter), len(q.reason)) > MOST_TEXT:
                raise FormatError(f"The phrase on beat {q.start:g} has words of more than {MOST_TEXT} letters.")
        _within("The end of the phrases", 0.0, form.end)
    if p.origin is not None:
        _within("The beat that bars are counted from", 0.0, p.origin)
    if len(p.line) > MOST_TEXT:
        raise FormatError(f"Its line of words is {len(p.line)} letters long; {MOST_TEXT} at most are read.")


def _check_cue(cue: Cue) -> None:
    """Raise `FormatError` unless a cue lies in a recording and is of a known kind."""
    name = f"The cue {cue.name[:40]!r}"
    if (cue.beat is None) == (cue.time is None):
        raise FormatError(f"{name} needs a beat or a time, and not both.")
    if cue.kind not in KINDS:
        raise FormatError(f"{name} is of no known kind ({', '.join(KINDS)}).")
    if cue.slot is not None and not 0 <= cue.slot < SLOTS:
        raise FormatError(f"{name} is on slot {cue.slot + 1}; there are {SLOTS}.")
    if not 0 <= cue.bars <= MOST_LOOP:
        raise FormatError(f"{name} begins a loop of {cue.bars} bars; 0 to {MOST_LOOP} are possible.")
    if max(len(cue.name), len(cue.role), len(cue.id), len(cue.recipe)) > MOST_TEXT:
        raise FormatError(f"{name} has words of more than {MOST_TEXT} letters.")
    _within(name, cue.time or 0.0, cue.beat or 0.0)


def _within(what: str, time: float, beat: float) -> None:
    if not (math.isfinite(time) and abs(time) <= MOST_S):
        raise FormatError(f"{what} lies at {time:g} s, outside any recording.")
    if not (math.isfinite(beat) and abs(beat) <= MOST_BEAT):
        raise FormatError(f"{what} lies on beat {beat:g}, outside any recording.")
