"""Filters: each leaves out some tracks and says in words which; with words to find and an order they make a search.

A search is a value. Kept under a name it is a standing search, whose list fills itself.
"""

from __future__ import annotations

import json
import math
import re
import time
from collections.abc import Iterable
from typing import Any

import attrs

from ..character import key as keys
from ..errors import FormatError, Refused

TEMPO, KEY, READINESS, KIND, CUES, PERSON, GENRE, YEAR, ADDED = (
    "tempo", "key", "readiness", "kind", "cues", "person", "genre", "year", "added",
)  # fmt: skip
FORMAT, LOSSY, FOLDER, LIST, UNLISTED, PLAYED, MISSING, COPIES, DRIVE = (
    "format", "lossy", "folder", "list", "unlisted", "played", "missing", "copies", "drive",
)  # fmt: skip
KINDS = (
    TEMPO, KEY, DRIVE, READINESS, PERSON, KIND, CUES, GENRE, YEAR, ADDED, FORMAT, LOSSY, FOLDER, LIST, UNLISTED,
    PLAYED, MISSING, COPIES,
)  # fmt: skip
UNHEARD, DRAFT, CHECKED, LOCKED, READY = "not heard", "draft", "checked", "locked", "ready"
"""`READY` is what was checked or locked."""
YES, NO, ANY, NONE = "yes", "no", "any", "none"
DAY_S = 86400.0


@attrs.frozen
class Filter:
    """One thing that is asked of a track.

    Attributes
    ----------
    what : one of `KINDS`
    low, high : bounds, both inclusive: BPM, years, drive; days back for `ADDED` (`low`)
    text : a key, a word, a path
    wide : tempo: also at half and at double
    number : of a list
    near : tempo: what the bounds were made from, for the words
    """

    what: str
    low: float | None = None
    high: float | None = None
    text: str = ""
    wide: bool = False
    number: int = 0
    near: str = ""

    @property
    def words(self) -> str:
        """What it does, as its chip says it."""
        return _WORDS[self.what](self)


@attrs.frozen
class Order:
    """A column to sort by."""

    column: str
    down: bool = False


@attrs.frozen
class Search:
    """Words that must all be there, filters that must all hold, and an order."""

    words: str = ""
    filters: tuple[Filter, ...] = ()
    order: tuple[Order, ...] = ()

    @property
    def empty(self) -> bool:
        """Whether it leaves nothing out."""
        return not self.words.strip() and not self.filters

    def with_filter(self, new: Filter) -> Search:
        """One more filter; what can hold only one value takes the new one."""
        kept = tuple(f for f in self.filters if f.what != new.what or (f.what in _MANY and f != new))
        return attrs.evolve(self, filters=(*kept, new))

    def without(self, old: Filter) -> Search:
        """One filter fewer."""
        return attrs.evolve(self, filters=tuple(f for f in self.filters if f != old))


_MANY = (LIST,)


def _number(x: float) -> str:
    return f"{x:.1f}".rstrip("0").rstrip(".")


def _between(f: Filter, unit: str = "", unknown: str = "") -> str:
    unit = f" {unit}" if unit else ""
    if f.low is None and f.high is None:
        return unknown
    if f.low is None:
        return f"up to {_number(f.high or 0)}{unit}"
    if f.high is None:
        return f"from {_number(f.low)}{unit} on"
    return f"{_number(f.low)}{unit}" if f.low == f.high else f"{_number(f.low)} to {_number(f.high)}{unit}"


def _tempo(f: Filter) -> str:
    near = f", {f.near}" if f.near else ""
    return f"tempo {_between(f, 'BPM')}{near}{', also half and double' if f.wide else ''}"


def _added(f: Filter) -> str:
    days = int(f.low or 0)
    return "added today" if days <= 1 else f"added in the last {days} days"


def _cues(f: Filter) -> str:
    return {NONE: "without cues", ANY: "with cues"}.get(f.text, f"with a cue: {f.text}")


_WORDS: dict[str, Any] = {
    TEMPO: _tempo,
    KEY: lambda f: f"fits {f.text}",
    DRIVE: lambda f: f"drive {_between(f)}",
    READINESS: lambda f: "checked or locked" if f.text == READY else f.text,
    PERSON: lambda f: "needs a person",
    KIND: lambda f: f.text,
    CUES: _cues,
    GENRE: lambda f: f"genre {f.text}" if f.text else "no genre",
    YEAR: lambda f: f"year {_between(f)}" if f.low is not None or f.high is not None else "no year",
    ADDED: _added,
    FORMAT: lambda f: f.text,
    LOSSY: lambda f: "lossy" if f.text == YES else "lossless",
    FOLDER: lambda f: f"in {f.text.rstrip('/').rsplit('/', 1)[-1] or '/'}",
    LIST: lambda f: f"in the list {f.text}",
    UNLISTED: lambda f: "in no list",
    PLAYED: lambda f: "never played" if f.text == NO else "played before",
    MISSING: lambda f: "file missing",
    COPIES: lambda f: "there more than once",
}


def near_tempo(
    bpm: float, *, percent: float | None = None, by: float | None = None, wide: bool = False, of: str
) -> Filter:
    """Tempi within `percent` %, or `by` BPM, of `bpm`, that of the track `of`."""
    reach = bpm * percent / 100 if percent is not None else by or 0.0
    said = f"±{_number(percent)} %" if percent is not None else f"±{_number(reach)} BPM"
    return Filter(TEMPO, round(bpm - reach, 2), round(bpm + reach, 2), wide=wide, near=f"{said} of {of}")


def key_fits(text: str) -> Filter:
    """What goes with a key. Raises `Refused` where it is none."""
    return Filter(KEY, text=keys.named(text).name)


def since(f: Filter, now: float | None = None) -> float:
    """The moment from which on a track counts as added lately, s since 1970."""
    return (time.time() if now is None else now) - DAY_S * (f.low or 0)


# typed filters

_TYPED = re.compile(r'(?<!\S)(\w+):("[^"]*"|\S*)')
_RANGE = re.compile(r"(\d+(?:[.,]\d+)?)?(?:-|–|\.\.)(\d+(?:[.,]\d+)?)?")


def _range(text: str) -> tuple[float | None, float | None]:
    found = _RANGE.fullmatch(text)
    if found is not None and any(found.groups()):
        low, high = (float(x.replace(",", ".")) if x else None for x in found.groups())
        if low is not None and high is not None and low > high:
            low, high = high, low
        return low, high
    try:
        x = float(text.replace(",", "."))
    except ValueError:
        raise Refused(f"'{text}' is no range: write it as 110-118.") from None
    if not math.isfinite(x):
        raise Refused(f"'{text}' is no range: write it as 110-118.")
    return x, x


def typed(name: str, text: str) -> Filter:
    """The filter of `name:text`. Raises `Refused` where there is none such, or the text says nothing."""
    if name in (TEMPO, YEAR, DRIVE):
        wide = text.endswith("*")
        low, high = _range(text.rstrip("*"))
        if name == TEMPO and low is not None and low == high:
            low, high = low - 0.5, low + 0.5
        return Filter(name, low, high, wide=wide and name == TEMPO)
    if name == KEY:
        return key_fits(text)
    if name == ADDED:
        low, _ = _range(text)
        return Filter(ADDED, low)
    choices: dict[str, tuple[str, ...]] = {
        READINESS: (UNHEARD, DRAFT, CHECKED, LOCKED, READY), LOSSY: (YES, NO), PLAYED: (YES, NO),
    }  # fmt: skip
    if name in choices and text not in choices[name]:
        raise Refused(f"'{name}:{text}' is not known: {name} is {', '.join(choices[name])}.")
    if name in (PERSON, UNLISTED, MISSING, COPIES):
        return Filter(name)
    if name in KINDS:
        return Filter(name, text=text.upper() if name == FORMAT else text)
    raise Refused(f"There is no filter '{name}': there are {', '.join(KINDS)}.")


def parse(text: str) -> Search:
    """Words and filters as they are typed: `night tempo:110-118 key:Am genre:"slow disco"`.

    Examples
    --------
    >>> [f.words for f in parse("night tempo:110-118 key:Am").filters]
    ['tempo 110 to 118 BPM', 'fits A minor']

    Raises
    ------
    Refused
        A filter is not known or says nothing.
    """
    search = Search()
    for name, value in _TYPED.findall(text):
        search = search.with_filter(typed(name.lower(), value.strip('"')))
    return attrs.evolve(search, words=" ".join(_TYPED.sub(" ", text).split()))


# keeping


def to_json(search: Search) -> str:
    """A search as text."""
    return json.dumps(attrs.asdict(search), ensure_ascii=False)


def from_json(text: str) -> Search:
    """Inverse of `to_json`. Raises `FormatError` where it is none."""
    try:
        value = json.loads(text)
        filters = tuple(Filter(**f) for f in value["filters"])
        known(filters)
        return Search(str(value["words"]), filters, tuple(Order(**o) for o in value["order"]))
    except (ValueError, TypeError, KeyError) as e:
        raise FormatError(f"The standing search can't be read ({type(e).__name__}).") from None


def known(filters: Iterable[Filter]) -> None:
    """Raise `FormatError` where one is of a kind that a newer program made."""
    for f in filters:
        if f.what not in KINDS:
            raise FormatError(f"The filter '{f.what}' is not known here.")
