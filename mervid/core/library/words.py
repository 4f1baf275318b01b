"""What is typed to find a track: words, compared without case, accents and signs."""

from __future__ import annotations

import re
import unicodedata
from functools import lru_cache

_ALIKE = str.maketrans({"ß": "ss", "ø": "o", "đ": "d", "ł": "l", "æ": "ae", "œ": "oe", "ð": "d", "þ": "th", "ı": "i"})
_WORD = re.compile(r"\w+")
LONGEST = 500
"""Letters of each field that are looked through: titles of thousands of letters are no titles."""


@lru_cache(maxsize=4096)
def fold(text: str) -> str:
    """Text as it is compared: lower case, no accents, no signs but spaces.

    Examples
    --------
    >>> fold("Mångata (Édit)")
    'mangata edit'
    """
    # letters of mathematics and the like become plain ones first, and some of those are capitals
    letters = unicodedata.normalize("NFKD", text[:LONGEST]).casefold().translate(_ALIKE)
    plain = unicodedata.normalize("NFKD", letters)
    return " ".join(_WORD.findall("".join(c for c in plain if not unicodedata.combining(c)).replace("_", " ")))


def words_of(text: str) -> tuple[str, ...]:
    """The words of what was typed, each once.

    Examples
    --------
    >>> words_of("Salt  led salt")
    ('salt', 'led')
    """
    return tuple(dict.fromkeys(fold(text).split()))
