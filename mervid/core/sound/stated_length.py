"""What a container says of its own length, beside what is there: the chunks of WAV and AIFF files.

Decoders clamp such lengths to what they find and say nothing of the difference.
"""

from __future__ import annotations

import os
from collections.abc import Iterator
from pathlib import Path
from typing import BinaryIO, Literal

from .damage import AFTER, SECOND, SHORT, Damage

STREAMED = 0x7FFFF000
"""A size from here on was written by a program that couldn't know it (common practice, no source)."""
_ORDER: dict[bytes, Literal["little", "big"]] = {b"RIFF": "little", b"RF64": "little", b"FORM": "big"}
_SOUND = (b"data", b"SSND")
LEAST = 0.0005
"""s; chunks know their length to the byte, and less than this moves no beat."""


def chunks(f: BinaryIO) -> Iterator[tuple[bytes, int, int]]:
    """(name, place of the data, claimed size) of each chunk of a RIFF (IBM/Microsoft 1991), RF64 (EBU Tech 3306) or
    AIFF file; nothing where it is none of them. A claim may be larger than the file.
    """
    end = f.seek(0, os.SEEK_END)
    f.seek(0)
    order = _ORDER.get(f.read(12)[:4])
    large = 0
    while order is not None and len(head := f.read(8)) == 8:
        name, size, at = head[:4], int.from_bytes(head[4:], order), f.tell()
        if name == b"ds64":
            large = int.from_bytes(f.read(16)[8:], order)
        elif name == b"data" and size == 0xFFFFFFFF and large:
            size = large
        yield name, at, size
        if at + size >= end:
            return
        f.seek(at + size + (size & 1))


def second_sound(path: Path, length: float) -> list[Damage]:
    """Damage of a WAV or AIFF that holds more than one piece of sound; `length` s were read, the first of them."""
    with path.open("rb") as f:
        end = f.seek(0, os.SEEK_END)
        sizes = [min(size, end - at) for name, at, size in chunks(f) if name in _SOUND]
    more = sum(sizes[1:])
    return [Damage(SECOND, length, 0.0, more)] if more else []


def of_chunks(path: Path, length: float) -> list[Damage]:
    """Damage that the sizes of chunks tell of in a WAV or AIFF of `length` s; none where they name no sound."""
    with path.open("rb") as f:
        end = f.seek(0, os.SEEK_END)
        found = list(chunks(f))
    if not any(size for name, _, size in found if name in _SOUND):
        return []
    if more := second_sound(path, length):
        return more
    for name, at, size in found:
        if not all(32 <= c < 127 for c in name):
            return [Damage(AFTER, length, 0.0, end - at + 8)]
        if name in _SOUND and at + size > end and (size < STREAMED or end > STREAMED):
            short = (at + size - end) * length / min(end, size)
            return [Damage(SHORT, length, short)] if short >= LEAST else []
    return []
