"""The pages of an Ogg file (RFC 3533): where its sound must have come to at the end of each, and where pages are lost.

A page's granule position counts the samples up to the end of the last packet that ends in it. A packet is known by the
place of the page in which it begins and its turn there, as demuxers tell it too.
"""

from __future__ import annotations

import mmap
from pathlib import Path

import attrs

from .damage import AFTER, CUT, SKIPPED, TWICE, Damage

_PAGE = b"OggS"
_HEAD = 27
_CONTINUED, _FIRST, _LAST = 1, 2, 4
"""Flags of a page: begins with the rest of a packet, first and last of its stream (RFC 3533, section 6)."""

_MOST_BACK = 4096
"""Pages by which a number may go back where pages stand twice."""

Packet = tuple[int, int]
"""Place of the page in which a packet begins, bytes, and its turn there from 0."""


@attrs.frozen(eq=False)
class Pages:
    """What the pages of a file tell.

    Attributes
    ----------
    ends : granule position after each packet that is the last to end in its page
    after_hole : places of pages before which something is lost
    chained : places of pages at which another stream begins to count anew
    repeated : places of pages that stand in the file a second time
    first : the first packet that ends a page with sound; None where there is none
    skip : granules at the beginning that aren't played (RFC 7845, section 4.2)
    damage : what was found on the way; missing stretches are not in it
    """

    ends: dict[Packet, int]
    after_hole: frozenset[int]
    chained: frozenset[int]
    repeated: frozenset[int]
    first: Packet | None
    skip: int
    damage: tuple[Damage, ...]


def scan(path: Path, rate: int) -> Pages:
    """Read all pages of a file whose granules are `rate` a second."""
    with path.open("rb") as f, mmap.mmap(f.fileno(), 0, access=mmap.ACCESS_READ) as b:
        return pages_of(b, rate)


def pages_of(b: bytes | mmap.mmap, rate: int) -> Pages:
    """As `scan`, from the bytes of a file."""
    ends: dict[Packet, int] = {}
    holes: set[int] = set()
    chained: set[int] = set()
    repeated: set[int] = set()
    damage: list[Damage] = []
    begun: Packet | None = None
    i, serial, number, ended, cut, seconds = 0, b"", -1, False, False, 0.0
    while i < len(b):
        if b[i : i + 4] != _PAGE:
            # a broken page may name any size: look right behind its head
            j = b.find(_PAGE, i)
            if j < 0:
                damage.append(Damage(AFTER, seconds, 0.0, len(b) - i))
                break
            damage.append(Damage(SKIPPED, seconds, 0.0, j - i))
            holes.add(j)
            i = j
        if i + _HEAD > len(b):
            cut = True
            break
        flags, granule = b[i + 5], int.from_bytes(b[i + 6 : i + 14], "little", signed=True)
        lacing = b[i + _HEAD : i + _HEAD + b[i + 26]]
        end = i + _HEAD + len(lacing) + sum(lacing)
        cut = end > len(b)
        turn = int.from_bytes(b[i + 18 : i + 22], "little")
        if b[i + 14 : i + 18] != serial or flags & _FIRST:
            if serial:
                chained.add(i)
            serial, number, ended = bytes(b[i + 14 : i + 18]), turn, False
        elif number - _MOST_BACK < turn <= number:
            if not repeated or damage[-1].kind != TWICE:
                damage.append(Damage(TWICE, seconds, 0.0, end - i))
            repeated.add(i)
            i = end if end >= len(b) or b[end : end + 4] == _PAGE else _after_broken(b, i, end)
            continue
        elif turn != number + 1:
            holes.add(i)
        number, ended = turn, ended or bool(flags & _LAST)
        begun = _pack(ends, i, lacing, granule, begun if flags & _CONTINUED else None)
        if granule > 0 and not chained:
            seconds = granule / rate
        whole = end >= len(b) or b[end : end + 4] == _PAGE
        i = end if whole else _after_broken(b, i, end)
    if cut or not ended:
        damage.append(Damage(CUT, seconds))
    opus = b.find(b"OpusHead", 0, 4096)
    skip = int.from_bytes(b[opus + 10 : opus + 12], "little") if opus >= 0 else 0
    first = next((packet for packet, granule in ends.items() if granule > 0), None)
    return Pages(ends, frozenset(holes), frozenset(chained), frozenset(repeated), first, skip, tuple(damage))


def _after_broken(b: bytes | mmap.mmap, start: int, end: int) -> int:
    """Where to go on behind a page that no other follows: at its end, or at a page inside what it claims to be."""
    inside = b.find(_PAGE, start + _HEAD, min(end, len(b)))
    return inside if inside >= 0 else end


def _pack(ends: dict[Packet, int], at: int, lacing: bytes, granule: int, begun: Packet | None) -> Packet | None:
    """Note the last packet that ends in a page; returns the packet that goes on in the next one."""
    turn, last, open_ = 0, None, begun
    for size in lacing:
        if open_ is None:
            open_, turn = (at, turn), turn + 1
        if size < 255:
            last, open_ = open_, None
    if last is not None and granule >= 0:
        ends[last] = granule
    return open_
