"""A file's name, fit for one line of the screen."""

from __future__ import annotations

import os
import unicodedata

_TURNS = "\u200e\u200f\u202a\u202b\u202c\u202d\u202e\u2066\u2067\u2068\u2069"
"""Marks that turn the direction of writing (Unicode 15, UAX #9): a name could pretend another ending."""


LONGEST_NAME, LONGEST_PART = 4095, 255
"""Bytes of a path and of each name in it: Linux, limits.h."""


def is_name(raw: bytes) -> bool:
    """Whether bytes can be the absolute name of a file.

    >>> is_name(b"/music/a.wav"), is_name(b"a.wav"), is_name(b"/" + 256 * b"a"), is_name(b"/a\\0b")
    (True, False, False, False)
    """
    if not raw.startswith(b"/") or len(raw) > LONGEST_NAME or b"\0" in raw:
        return False
    return all(len(part) <= LONGEST_PART for part in raw.split(b"/"))


def shown(path: str | os.PathLike[str]) -> str:
    """A file's name: bytes that aren't UTF-8 become '�', what only moves the pen '·'.

    >>> shown("/music/line\\nbreak.wav")
    'line·break.wav'
    """
    name = os.fsencode(os.path.basename(os.fspath(path))).decode("utf-8", "replace")
    return "".join("·" if unicodedata.category(c) in ("Cc", "Zl", "Zp") or c in _TURNS else c for c in name)
