"""The chunks of a WAV file (RIFF, IBM/Microsoft 1991)."""

from __future__ import annotations

import os
import struct
from typing import BinaryIO

from ..core.errors import FormatError


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
    f.seek(12)
    out: list[tuple[bytes, int, int]] = []
    while True:
        head = f.read(8)
        if len(head) < 8:
            return out
        name, size = head[:4], struct.unpack("<I", head[4:])[0]
        out.append((name, f.tell(), min(size, end - f.tell())))
        f.seek(size + (size & 1), os.SEEK_CUR)
