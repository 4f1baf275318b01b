"""What a recording says about itself in words, and the tools that put many such words in order.

What a file says is never changed here: a person's own words stand beside it in the library and go before it.
"""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Iterable
from typing import Any

import attrs

from ..errors import Refused

FIELDS = (
    "title", "artists", "album", "album_artist", "genre", "year", "label", "remixer", "comment", "grouping",
    "number", "rating",
)  # fmt: skip
NAMES = {
    "title": "Title", "artists": "Artists", "album": "Album", "album_artist": "Album artist", "genre": "Genre",
    "year": "Year", "label": "Label", "remixer": "Remixer", "comment": "Comment", "grouping": "Grouping",
    "number": "Track number", "rating": "Rating",
}  # fmt: skip
WHOLE = ("year", "rating")
LONGEST = 10_000
"""Letters that are kept of a field; what is longer is damage or a joke."""
MIXED = "(several)"


@attrs.frozen
class Tags:
    """Words of a recording; empty where it says nothing. `year` and `rating` (1 to 5) are 0 then."""

    title: str = ""
    artists: str = ""
    album: str = ""
    album_artist: str = ""
    genre: str = ""
    year: int = 0
    label: str = ""
    remixer: str = ""
    comment: str = ""
    grouping: str = ""
    number: str = ""
    rating: int = 0


@attrs.frozen
class FileWords:
    """What a file says of itself: its words, format, bits a second, length in s, and the name of its small picture."""

    tags: Tags = Tags()
    format: str = ""
    bitrate: int = 0
    lossless: bool = False
    seconds: float = 0.0
    cover: str = ""


def clean(text: str) -> str:
    """Text fit to be kept and shown: no control characters, one line, not endless."""
    flat = "".join(" " if unicodedata.category(c) in ("Cc", "Zl", "Zp") else c for c in text[: 2 * LONGEST])
    flat = "".join(c for c in flat if unicodedata.category(c) != "Cs")
    return " ".join(flat.split())[:LONGEST]


def of(values: dict[str, Any]) -> Tags:
    """Tags of a mapping; what is no tag or no number is passed over."""
    kept: dict[str, Any] = {}
    for name in FIELDS:
        if name in WHOLE:
            kept[name] = year(str(values.get(name, ""))) if name == "year" else _rating(values.get(name, 0))
        else:
            kept[name] = clean(str(values.get(name, "")))
    return Tags(**kept)


def year(text: str) -> int:
    """The year in a date of any writing; 0 where there is none.

    Examples
    --------
    >>> year("1978-05-01"), year("5/1978"), year("?")
    (1978, 1978, 0)
    """
    found = re.search(r"(?<!\d)(1[89]\d\d|20\d\d)(?!\d)", text)
    return int(found.group()) if found else 0


def _rating(value: Any) -> int:
    try:
        return max(0, min(5, int(value)))
    except (TypeError, ValueError):
        return 0


def checked(name: str, text: str) -> str | int:
    """What a person typed for a field, as it is kept. Raises `Refused` where it can't be."""
    plain = clean(text)
    if name == "year" and plain:
        found = year(plain)
        if not found:
            raise Refused(f"'{plain}' is no year: write it as 1978.")
        return found
    if name == "rating" and plain:
        if plain not in "12345" or len(plain) != 1:
            raise Refused(f"'{plain}' is no rating: 1 to 5, or nothing.")
        return int(plain)
    return 0 if name in WHOLE else plain


def names_of(text: str) -> list[str]:
    """The names in a text of several, as `artists` holds them: separated by commas or semicolons, each once.

    >>> names_of("Tern & Tiller, Odd Tonnage; Tern & Tiller"), names_of("")
    (['Tern & Tiller', 'Odd Tonnage'], [])
    """
    return list(dict.fromkeys(name for part in re.split(r"[,;]\s+", text) if (name := part.strip())))


def common(tags: Iterable[Tags], name: str) -> tuple[str, bool]:
    """What all of them say in a field, and whether they differ."""
    values = {getattr(t, name) for t in tags}
    if len(values) > 1:
        return "", True
    value = next(iter(values), "")
    return ("" if value in (0, "") else str(value)), False


# tools

_SMALL = frozenset(
    [
        "a",
        "an",
        "and",
        "as",
        "at",
        "but",
        "by",
        "for",
        "in",
        "nor",
        "of",
        "on",
        "or",
        "the",
        "to",
        "via",
        "vs",
        "with",
        "feat",
        "ft",
    ]
)


def title_case(text: str) -> str:
    """Each word with a capital, small words within a title without; what is in capitals on purpose ('DJ', 'II') stays.

    Examples
    --------
    >>> title_case("the tide of THE night (dub mix)")
    'The Tide of the Night (Dub Mix)'
    """
    all_loud = text.isupper() and len(text) > 4
    parts = re.split(r"(\s+|[-/(\[])", text)
    words = [i for i, part in enumerate(parts) if part.strip() and part not in "-/(["]
    for place, i in enumerate(words):
        word = parts[i]
        bare = word.strip("\"'.,!?()[]").lower()
        opens = i > 0 and parts[i - 1] in "([" and parts[i - 1] != ""
        if bare in _SMALL and 0 < place < len(words) - 1 and not opens:
            parts[i] = word.lower()
        elif word.isupper() and len(bare) <= 3 and not all_loud:
            continue
        else:
            k = next((j for j, c in enumerate(word) if c.isalnum()), 0)
            parts[i] = word[:k] + word[k : k + 1].upper() + word[k + 1 :].lower()
    return "".join(parts)


def sentence_case(text: str) -> str:
    """The first letter large, all others small."""
    low = text.lower()
    k = next((j for j, c in enumerate(low) if c.isalnum()), 0)
    return low[:k] + low[k : k + 1].title() + low[k + 1 :]


def tidy(text: str) -> str:
    """No space at the ends, before a comma or doubled; underscores are spaces."""
    return re.sub(r"\s+([,;])", r"\1", " ".join(text.replace("_", " ").split()))


CASES = {"Each Word Large": title_case, "First word large": sentence_case, "Spaces put right": tidy}

# from the name of a file

PATTERNS = ("{artists} - {title}", "{number} {artists} - {title}", "{number} - {title}", "{title} - {artists}")


def from_name(stem: str, pattern: str) -> dict[str, str]:
    """What a file's name says under a pattern of fields in braces; empty where it doesn't fit.

    Examples
    --------
    >>> from_name("03 Quay Lights - Copper Ferry", "{number} {artists} - {title}")
    {'number': '03', 'artists': 'Quay Lights', 'title': 'Copper Ferry'}

    Raises
    ------
    Refused
        The pattern has no field, one twice, or one that isn't known.
    """
    names = re.findall(r"\{(\w*)\}", pattern)
    unknown = [n for n in names if n not in FIELDS]
    if not names or unknown or len(set(names)) < len(names):
        what = f"{{{unknown[0]}}} is no field" if unknown else "each field stands once, and one at least"
        raise Refused(f"The pattern can't be used: {what}. Fields are {', '.join(FIELDS)}, in braces.")
    parts = re.split(r"(\{\w+\})", tidy(pattern))
    rule = "".join(
        (f"(?P<{p[1:-1]}>\\d+)" if p[1:-1] in ("number", "year") else f"(?P<{p[1:-1]}>.+?)")
        if p.startswith("{")
        else re.escape(p).replace(r"\ ", r"\s*")
        for p in parts
    )
    found = re.fullmatch(rule, tidy(stem))
    return {k: v.strip() for k, v in found.groupdict().items()} if found else {}


# wrong bytes


def repaired(text: str) -> str:
    """What a text likely was before its bytes were read in the wrong encoding; itself where nothing speaks for that.

    UTF-8 read as Latin-1 or Windows-1252 shows as pairs such as 'Ã©'. Text that survives the way back as valid UTF-8
    and becomes shorter by it was hardly meant so (the test is our own; common practice, no source).

    Examples
    --------
    >>> repaired("CafÃ© Noir"), repaired("Café Noir")
    ('Café Noir', 'Café Noir')
    """
    if text.isascii():
        return text
    for encoding in ("cp1252", "latin-1"):
        try:
            back = text.encode(encoding).decode("utf-8")
        except UnicodeError:
            continue
        if len(back) < len(text) and not any(unicodedata.category(c) == "Cc" for c in back):
            return back
    return text


def proposal(tags: Tags) -> dict[str, str]:
    """The fields whose bytes were likely read in the wrong encoding, put right."""
    words = {name: getattr(tags, name) for name in FIELDS if name not in WHOLE}
    return {name: repaired(text) for name, text in words.items() if repaired(text) != text}
