"""Values as people type them: tempi, times, milliseconds and whole numbers, with or without their unit.

Each reader gives the value, or raises `Refused` with what is wrong and what would be right.
"""

from __future__ import annotations

import math
import re

from ..errors import Refused
from .grid_edits import check_tempo
from .track_edits import LEAST_MS, MOST_MS

_NUMBER = r"[-+]?(?:\d+(?:[.,]\d*)?|[.,]\d+)"
_LONGEST = 1e6


def _value(text: str, units: str, what: str, example: str) -> float:
    """The number in `text`, which may be followed by one of the `units`."""
    # a minus typed by a careful hand is a minus
    cleaned = text.strip().replace("−", "-")
    found = re.fullmatch(rf"({_NUMBER})\s*(?:{units})?", cleaned, re.IGNORECASE)
    if found is None:
        raise Refused(f"'{text.strip()}' is not {what}: type a number such as {example}.")
    return float(found[1].replace(",", "."))


def tempo(text: str) -> float:
    """BPM, 20 to 999.

    >>> tempo("113,5 bpm")
    113.5
    """
    value = _value(text, "bpm", "a tempo", "113.5")
    check_tempo(value)
    return value


def milliseconds(text: str) -> float:
    """Milliseconds, also given in s.

    >>> milliseconds("12 ms"), milliseconds("0.5 s")
    (12.0, 500.0)
    """
    value = _value(text, "ms|s|sec", "a time in ms", "12")
    return value * 1000 if re.search(r"(?<!m)s(?:ec)?\s*$", text.strip(), re.IGNORECASE) else value


def decibels(text: str) -> float:
    """A gain in dB.

    >>> decibels("-6 dB"), decibels("+1,5")
    (-6.0, 1.5)
    """
    return _value(text, "dB", "a gain in dB", "-6")


def tolerance(text: str) -> float:
    """A tolerance in ms, 1 to 100."""
    value = milliseconds(text)
    if not LEAST_MS <= value <= MOST_MS:
        raise Refused(f"A tolerance must lie between {LEAST_MS:g} and {MOST_MS:g} ms, not {value:g}.")
    return value


def time(text: str) -> float:
    """A place in the track, s: '83.4', '83.4 s', '1:23.4' or '1:02:03'.

    >>> time("1:23.4")
    83.4
    """
    parts = text.strip().split(":")
    if len(parts) > 3 or any(not p for p in parts):
        raise Refused(f"'{text.strip()}' is not a time: type it such as 1:23.4 or 83.4 s.")
    value = 0.0
    for i, part in enumerate(parts):
        last = i == len(parts) - 1
        number = _value(part, "s|sec" if last else "(?!)", "a time", "1:23.4 or 83.4 s")
        if number < 0 or (i and number >= 60) or (not last and number != int(number)):
            raise Refused(f"'{text.strip()}' is not a time: type it such as 1:23.4 or 83.4 s.")
        value = value * 60 + number
    if not math.isfinite(value) or value > _LONGEST:
        raise Refused(f"'{text.strip()}' lies beyond any recording.")
    return value


def whole(text: str, what: str, least: int, most: int) -> int:
    """A whole number from `least` to `most`.

    >>> whole("16", "bars", 1, 10000)
    16
    """
    value = _value(text, "bars?|beats?", f"a number of {what}", str(max(least, 4)))
    if value != int(value) or not least <= value <= most:
        raise Refused(f"The number of {what} must be whole and lie between {least} and {most}, not {value:g}.")
    return int(value)
