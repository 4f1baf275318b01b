"""What goes well after a track: near in tempo, in a key that fits, about as hard, and with room to mix in.

The weights are our own; that tempi within 4 % mix well and keys a fifth apart or relative ones fit is common practice,
no source.
"""

from __future__ import annotations

import math

import attrs

from ..core.character import key as keys
from ..core.figures import change
from ..core.pairs.meeting import nearest_level
from .library import Library
from .track import READY, Track

REACH = 0.06
"""Tempi further apart than that are not looked at, nor at half or double."""
_MIXES = 0.04
_KEYS = {keys.SAME: 1.0, keys.RELATIVE: 0.9, keys.FIFTH_UP: 0.85, keys.FIFTH_DOWN: 0.85}
_OTHER_KEY = 0.35
_TEMPO, _KEY, _DRIVE, _PHRASE = 0.45, 0.30, 0.15, 0.10


@attrs.frozen
class Neighbour:
    """A track that fits, how well (0 to 1), and in words why."""

    track: Track
    fits: float
    words: str


def neighbours(library: Library, track: Track, *, most: int = 8) -> list[Neighbour]:
    """Tracks that go well after this one, the best first; none where its tempo isn't known."""
    if not track.tempo_low or not track.tempo_high:
        return []
    parts, values = [], []
    for factor in (1.0, 0.5, 2.0):
        parts.append("(tempo_low<=? AND tempo_high>=?)")
        values += [track.tempo_high * (1 + REACH) * factor, track.tempo_low * (1 - REACH) * factor]
    sql = (
        f"SELECT id FROM tracks WHERE out=0 AND gone=0 AND state='{READY}' AND id<>? AND (copy=0 OR copy<>?) "
        f"AND ({' OR '.join(parts)}) ORDER BY abs(tempo_low-?) LIMIT 400"
    )
    rows = library.rows(sql, [track.id, track.copy, *values, track.tempo_low])
    found = [_judged(track, other) for other in library.tracks([int(i) for (i,) in rows])]
    return sorted(found, key=lambda n: -n.fits)[:most]


def _judged(a: Track, b: Track) -> Neighbour:
    ratio, level = _ratio(a, b)
    away = ratio - 1
    tempo = math.exp(-0.5 * (away / _MIXES) ** 2)
    said = ["the same tempo" if abs(away) < 0.001 else change(away)]
    if level != 1:
        said[0] += ", at half" if level < 1 else ", at double"
        tempo *= 0.8
    relation = keys.relation(a.key, b.key)
    fit = _KEYS.get(relation, _OTHER_KEY) if relation else 0.6
    if b.key:
        said.append(f"{b.key} ({relation})" if relation in _KEYS else b.key)
    near = 1.0
    if a.drive is not None and b.drive is not None:
        near = max(0.0, 1 - abs(a.drive - b.drive) / 4)
        said.append(f"drive {b.drive:.0f}")
    room = _room(b)
    if room:
        said.append(f"{room} bars to mix over")
    fits = _TEMPO * tempo + _KEY * fit + _DRIVE * near + _PHRASE * min(1.0, room / 16)
    return Neighbour(b, fits, ", ".join(said))


def _ratio(a: Track, b: Track) -> tuple[float, float]:
    """How much faster b is, read at the level at which it is nearest."""
    mine = ((a.tempo_low or 1) + (a.tempo_high or 1)) / 2
    theirs = ((b.tempo_low or 1) + (b.tempo_high or 1)) / 2
    level = nearest_level(theirs / mine)
    return theirs / (level * mine), level


def _room(t: Track) -> int:
    """Bars of the first phrase where another one follows: what one can mix over."""
    first, _, rest = t.form.partition(" ")
    bars = first.rpartition(":")[2]
    return int(bars) if rest and bars.isdigit() else 0
