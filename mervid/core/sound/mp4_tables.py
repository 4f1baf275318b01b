"""Whether the tables of an MP4's sound agree on how many pieces there are (ISO/IEC 14496-12, section 8.6 and 8.7).

Decoders that meet tables which don't agree pass over the edit list, too, and begin a frame early or late.
"""

from __future__ import annotations

import struct
from collections.abc import Iterator
from pathlib import Path

_MOST_BYTES = 64 << 20
"""Of the box that holds the tables."""
_MOST_ROWS = 1 << 20


def agree(path: Path) -> bool:
    """Whether the counts of pieces by size, by time and by chunk are the same; True where the file has no such tables.

    Raises `OSError`.
    """
    moov = _movie(path)
    if moov is None:
        return True
    for track in (body for name, body in _boxes(moov) if name == b"trak"):
        media = _inside(track, b"mdia")
        if b"soun" in _inside(media, b"hdlr")[8:12]:
            table = _inside(_inside(media, b"minf"), b"stbl")
            return len({_by_size(table), _by_time(table), _by_chunk(table)}) == 1
    return True


def _movie(path: Path) -> bytes | None:
    """The box 'moov' of a file."""
    with path.open("rb") as f:
        for _ in range(_MOST_ROWS):
            head = f.read(8)
            if len(head) < 8:
                return None
            size, name = int.from_bytes(head[:4], "big"), head[4:]
            used = 8
            if size == 1:
                size, used = int.from_bytes(f.read(8), "big"), 16
            if size < used or size > 1 << 60:
                return None
            if name == b"moov":
                return f.read(size - used) if size <= _MOST_BYTES else None
            f.seek(size - used, 1)
    return None


def _boxes(data: bytes) -> Iterator[tuple[bytes, bytes]]:
    at = 0
    while at + 8 <= len(data):
        size = int.from_bytes(data[at : at + 4], "big")
        if size < 8:
            return
        yield data[at + 4 : at + 8], data[at + 8 : at + size]
        at += size


def _inside(data: bytes, name: bytes) -> bytes:
    return next((body for found, body in _boxes(data) if found == name), b"")


def _rows(table: bytes, name: bytes, width: int) -> list[tuple[int, ...]]:
    """The rows of a table of 32-bit numbers, without its version, flags and count; empty where the count is wrong."""
    body = _inside(table, name)
    count = int.from_bytes(body[4:8], "big")
    if count > _MOST_ROWS or len(body) != 8 + 4 * width * count:
        return []
    return list(struct.iter_unpack(f">{width}I", body[8:]))


def _by_size(table: bytes) -> int:
    return int.from_bytes((_inside(table, b"stsz") or _inside(table, b"stz2"))[8:12], "big")


def _by_time(table: bytes) -> int:
    return sum(count for count, _ in _rows(table, b"stts", 2))


def _by_chunk(table: bytes) -> int:
    rows = _rows(table, b"stsc", 3)
    chunks = len(_rows(table, b"stco", 1)) or len(_rows(table, b"co64", 2))
    if not rows:
        # in fragments the counts stand elsewhere
        return 0
    ends = [first for first, *_ in rows[1:]] + [chunks + 1]
    return sum((end - first) * each for (first, each, _), end in zip(rows, ends, strict=True))
