"""Damage to a recording's file, by place and size, in the words a person reads.

Time stays true: where a file tells by timestamps, granule positions or its own count of frames that sound is missing,
silence of that length stands in, and everything after it stays where it was.
"""

from __future__ import annotations

import attrs

MISSING, BROKEN, SPOILED, SKIPPED, TWICE = "missing", "broken", "spoiled", "skipped", "twice"
SHORT, LONG, CUT, AFTER, NAN, DOUBTED, RATE = "short", "long", "cut", "after", "nan", "doubted", "rate"
SECOND = "second"
MOST_MISSING = 0.1
"""Share of a recording that may be missing; beyond it nothing that is heard can be trusted."""
MOST_PLACES = 50
"""So many damaged places make a file refused."""
LEAST_SHORT = 0.1
"""s; headers and counted samples differ by an encoder's padding anyway."""


@attrs.frozen
class Damage:
    """One damaged place.

    Attributes
    ----------
    kind : MISSING: `seconds` of silence stand in for lost sound; BROKEN: something is lost, how much can't be told;
        SPOILED: a piece can't be decoded well, time is kept; SKIPPED: bytes among the sound that are none;
        TWICE: `seconds` that stand in the file twice, taken once; LONG: it holds `seconds` more than its header names;
        SHORT: `seconds` of what its header names aren't there; CUT: it breaks off, its length isn't known;
        AFTER: bytes behind its end that are no sound; SECOND: bytes of more sound behind its end; NAN: samples that
        are no numbers, silent now; DOUBTED: the header that says where the music begins doesn't match its own
        checksum; RATE: it gives `size` samples a second, which no recorder makes
    at : s from the beginning
    seconds : s
    size : bytes; samples for NAN and RATE
    """

    kind: str
    at: float
    seconds: float = 0.0
    size: int = 0


def clock(seconds: float) -> str:
    """A place as minutes and seconds.

    >>> clock(72.31), clock(3725.0)
    ('1:12', '1:02:05')
    """
    m, s = divmod(int(seconds), 60)
    return f"{m // 60}:{m % 60:02d}:{s:02d}" if m >= 60 else f"{m}:{s:02d}"


def _span(seconds: float) -> str:
    if seconds < 0.1:
        return f"{1000 * seconds:.1f} ms"
    return f"{seconds:.2f} s" if seconds < 10 else f"{seconds:.0f} s"


def told(d: Damage) -> str:
    """One sentence about a damaged place.

    >>> told(Damage(MISSING, 72.0, 0.287))
    '0.29 s are missing at 1:12: silence stands in, so that what follows keeps its time.'
    """
    many = "byte is" if d.size == 1 else "bytes are"
    return {
        MISSING: f"{_span(d.seconds)} are missing at {clock(d.at)}: silence stands in, so that what follows "
        "keeps its time.",
        BROKEN: f"The file is broken at {clock(d.at)}: how much is lost can't be told for sure, and "
        "what follows may lie too early.",
        SPOILED: f"The sound is spoiled at {clock(d.at)}, but keeps its time.",
        SKIPPED: f"{d.size:,} {many} no sound at {clock(d.at)} and passed over.",
        TWICE: f"{_span(d.seconds)} stand in the file twice at {clock(d.at)}: they were taken once.",
        LONG: f"It is {_span(d.seconds)} longer than its header says: something may stand in it twice.",
        SHORT: f"It is {_span(d.seconds)} shorter than its header says: something is missing, at the end or before.",
        CUT: f"It breaks off at {clock(d.at)}: the end is missing.",
        DOUBTED: "Its header doesn't match its own checksum: all of it may lie some ms beside where it should.",
        RATE: f"Its header gives {d.size:,} samples a second, which no recorder makes: time and tempo may be wrong.",
        AFTER: f"{d.size:,} {many} no sound after the end and passed over.",
        SECOND: f"A second piece of sound of {d.size:,} bytes follows: only the first one, to {clock(d.at)}, was read.",
        NAN: f"{d.size:,} samples from {clock(d.at)} on are no numbers: silence stands in.",
    }[d.kind]


def summary(damage: tuple[Damage, ...]) -> str:
    """One sentence for all of it; empty where nothing is damaged.

    >>> summary((Damage(CUT, 61.0), Damage(NAN, 3.0, 0.0, 12)))
    'It breaks off at 1:01: the end is missing. One more place is damaged.'
    """
    if not damage:
        return ""
    more = len(damage) - 1
    rest = "" if not more else " One more place is damaged." if more == 1 else f" {more} more places are damaged."
    return told(damage[0]) + rest


def too_much(damage: list[Damage], duration: float) -> str:
    """Why a recording of `duration` s is too damaged to be trusted; empty when it isn't.

    >>> too_much([Damage(MISSING, 3.0, 30.0)], 60.0)
    '30 of 60 s are missing'
    """
    missing = sum(d.seconds for d in damage if d.kind == MISSING)
    if missing > MOST_MISSING * duration:
        return f"{missing:.0f} of {duration:.0f} s are missing"
    places = sum(d.kind in (MISSING, BROKEN, SPOILED, SKIPPED, TWICE) for d in damage)
    return f"it is broken in {places} places" if places > MOST_PLACES else ""
