"""How much a file that is taken in may hold: looked at before it is parsed, so that no small file takes the machine."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from ..core.errors import FormatError
from ..core.sound.names import shown

MOST_BYTES = 24 << 20
"""Of a text or MIDI file with beats: those of a night take 10 MB as JAMS."""
MOST_BEATS = 30_000
"""In one file: the longest recording that is heard has 30,000 at 200 BPM."""
MOST_OBSERVATIONS = 100_000
"""In all annotations of a JAMS file."""
MOST_LABELS = 10_000
"""In one file."""
MOST_TOML = 1 << 20
"""Bytes of a recipe."""
MOST_PLAYLIST_BYTES = 32 << 20
MOST_LINES = 400_000
"""Of a playlist."""
MOST_ENTRIES = 100_000
"""Of a playlist."""


def text_of(path: Path, most: int = MOST_BYTES) -> str:
    """The text of a file in UTF-8.

    Raises
    ------
    FormatError
        It has more than `most` bytes.
    UnicodeDecodeError
        It is no text.
    OSError
        It can't be read.
    """
    with path.open("rb") as f:
        data = f.read(most + 1)
    if len(data) > most:
        raise FormatError(f"{shown(path)} is larger than {_size(most)}: nothing of this kind is.")
    return data.decode("utf-8")


def _size(count: int) -> str:
    return f"{count >> 20} MB" if count >= 1 << 20 else f"{count >> 10} KB"


def refuse_many(found: Sequence[object] | int, most: int, what: str) -> None:
    """Raise `FormatError` where there are more than `most` of them.

    >>> refuse_many([1, 2], 2, "beats")
    """
    count = found if isinstance(found, int) else len(found)
    if count > most:
        raise FormatError(f"There are {count:,} {what}. Mervid reads {most:,} at most.")
