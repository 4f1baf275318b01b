"""The chunks of a WAV file (RIFF, IBM/Microsoft 1991)."""

from __future__ import annotations

import os
from typing import BinaryIO

from ..core.errors import FormatError
from ..core.sound import stated_length


def is_wave(f: BinaryIO) -> bool:
    """Whether a file begins as a WAV file does."""
    f.seek(0)
    head = f.read(12)
    return head[:4] == b"RIFF" and head[8:] == b"WAVE"


def chunks(f: BinaryIO) -> list[tuple[bytes, int, int]]:
    """(name, place of the data, size) of each chunk. Raises `FormatError` where this is no WAV file.

    A chunk that claims more than there is, in a file that was broken off or streamed, is as long as what is there.
    """
    if not is_wave(f):
        raise FormatError("This is not a WAV file (RIFF).")
    end = f.seek(0, os.SEEK_END)
    return [(name, at, min(size, end - at)) for name, at, size in stated_length.chunks(f)]
