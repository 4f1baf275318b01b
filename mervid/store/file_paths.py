"""Paths as the library keeps them: the file system's own bytes, since names need not be UTF-8."""

from __future__ import annotations

import os
from pathlib import Path

_NUL = "\u2400"


def path_of(raw: bytes | str) -> Path:
    """The path of a row. A byte that no path can have, as damage brings it, becomes the sign for it: no file is there.

    >>> path_of(b"/music/a\\0b.wav")
    PosixPath('/music/a␀b.wav')
    """
    return Path(os.fsdecode(raw).replace("\0", _NUL))
