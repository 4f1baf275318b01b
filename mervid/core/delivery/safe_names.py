"""Names that FAT and exFAT can hold, without two becoming one.

Both forbid nine signs and what controls; names are the same whatever their case; a point or a space at the end is lost
(ECMA-107, and the published specification of exFAT; names of devices by common practice; recalled from memory).
"""

from __future__ import annotations

import unicodedata
from collections.abc import Collection

from .profile import ANY, LATIN, MOST_NAME

_FORBIDDEN = frozenset('\\/:*?"<>|')
_DEVICES = frozenset(["con", "prn", "aux", "nul", *(f"com{k}" for k in range(10)), *(f"lpt{k}" for k in range(10))])
_LOOKS = str.maketrans({
    "ß": "ss", "ø": "o", "Ø": "O", "đ": "d", "Đ": "D", "ł": "l", "Ł": "L", "æ": "ae", "Æ": "Ae", "œ": "oe", "Œ": "Oe",
    "þ": "th", "Þ": "Th", "ð": "d", "Ð": "D", "ı": "i", "–": "-", "—": "-", "‘": "'", "’": "'", "“": "'", "”": "'",
    "…": "...",
})  # fmt: skip


def safe(text: str, *, letters: str = ANY) -> str:
    """A text as a name without ending: what a disk can't hold is `_`, what letters lack is made of others.

    Examples
    --------
    >>> safe('What? (12" mix)'), safe("Føroyar é 灯", letters="plain"), safe("con"), safe(" ... ")
    ('What_ (12_ mix)', 'Foroyar e _', '_con', '_')
    """
    plain = unicodedata.normalize("NFC", text)
    if letters != ANY:
        encoding = "latin-1" if letters == LATIN else "ascii"
        plain = "".join(_in(c, encoding) for c in plain)
    held = "".join(
        "_" if c in _FORBIDDEN or unicodedata.category(c) in ("Cc", "Cf", "Cs", "Co", "Cn") else c for c in plain
    )
    held = " ".join(held.split()).rstrip(". ").lstrip(" ")
    if not held.strip("."):
        return "_"
    return f"_{held}" if held.split(".")[0].strip().lower() in _DEVICES else held


def _in(c: str, encoding: str) -> str:
    for tried in (c, c.translate(_LOOKS), unicodedata.normalize("NFKD", c)):
        kept = "".join(x for x in tried if not unicodedata.combining(x)) if tried is not c else tried
        try:
            kept.encode(encoding)
            return kept
        except UnicodeEncodeError:
            continue
    return "_"


def length(name: str) -> int:
    """Letters as a FAT disk counts them: units of UTF-16."""
    return len(name.encode("utf-16-le", "surrogatepass")) // 2


def cut(stem: str, ending: str, most: int = MOST_NAME) -> str:
    """A name with its ending, cut to so many letters."""
    while length(stem + ending) > most and stem:
        stem = stem[:-1]
    return (stem.rstrip(". ") or "_") + ending


def folded(name: str) -> str:
    """What two names have in common that a disk holds for one."""
    return unicodedata.normalize("NFC", name).casefold()


def unlike(stem: str, ending: str, taken: Collection[str], most: int = MOST_NAME) -> str:
    """A name that isn't taken yet, with a number where it must have one.

    Parameters
    ----------
    taken : `folded` names

    Examples
    --------
    >>> unlike("Quay", ".mp3", {"quay.mp3"})
    'Quay (2).mp3'
    """
    name, k = cut(stem, ending, most), 2
    while folded(name) in taken:
        tail = f" ({k}){ending}"
        name = cut(stem, tail, most)
        k += 1
    return name
