"""Recordings that are there more than once: the same sound in several files, or one performance in several encodings.

Fingerprints are compared where their means are close: of thousands, a handful for each.
"""

from __future__ import annotations

import threading
from collections.abc import Sequence

import attrs
import numpy as np

from ..core.character import fingerprint
from .library import Library
from .track import READY, Track

_LENGTHS = 1.6
"""Of two copies the longer is at most so many times as long: a cut, not another thing."""


@attrs.frozen
class Group:
    """Files of one performance, the best first, and why it is the best."""

    tracks: tuple[Track, ...]
    why: str


def compare_new(library: Library, stop: threading.Event | None = None) -> list[int]:
    """Compare every fingerprint that wasn't yet with all; returns the tracks whose group changed.

    Each lot is committed: after `stop` or a kill it is gone on with.
    """
    changed: list[int] = []
    new = [int(i) for (i,) in library.rows("SELECT track_id FROM prints WHERE NOT compared ORDER BY track_id")]
    if not new:
        return changed
    rows = library.rows("SELECT track_id, mean FROM prints JOIN tracks ON id=track_id WHERE out=0 ORDER BY track_id")
    ids = np.array([r[0] for r in rows], np.int64)
    means = np.array([np.frombuffer(r[1], np.float32) for r in rows], np.float32).reshape(-1, fingerprint.SIZE)
    place = {int(i): k for k, i in enumerate(ids)}
    for number in new:
        if stop is not None and stop.is_set():
            break
        found = _like(library, number, ids, means, place) if number in place else []
        with library.writing() as db:
            if found:
                group = min([number, *found])
                marks = ",".join("?" * (1 + len(found)))
                old = db.execute(
                    f"SELECT DISTINCT copy FROM tracks WHERE id IN ({marks}) AND copy<>0", [number, *found]
                )
                joined = [int(c) for (c,) in old.fetchall()]
                db.executemany("UPDATE tracks SET copy=? WHERE id=?", [(group, i) for i in (number, *found)])
                db.executemany("UPDATE tracks SET copy=? WHERE copy=?", [(group, c) for c in joined])
                changed += [number, *found]
            db.execute("UPDATE prints SET compared=1 WHERE track_id=?", (number,))
    return list(dict.fromkeys(changed))


def _like(library: Library, number: int, ids: np.ndarray, means: np.ndarray, place: dict[int, int]) -> list[int]:
    """Tracks of the same performance as this one."""
    near = ids[means @ means[place[number]] > fingerprint.NEAR]
    others = [int(i) for i in near if i != number]
    if not others:
        return []
    (mine,) = library.rows("SELECT value FROM prints WHERE track_id=?", (number,))[0]
    out = []
    for other in others:
        (theirs,) = library.rows("SELECT value FROM prints WHERE track_id=?", (other,))[0]
        short, long = sorted((len(mine), len(theirs)))
        if long <= _LENGTHS * short and fingerprint.same(mine, theirs) >= fingerprint.ALIKE:
            out.append(other)
    return out


def group_of(library: Library, track: Track) -> Group | None:
    """The files of the performance that a track holds; None where it is there once."""
    sql = "SELECT id FROM tracks WHERE out=0 AND ((copy<>0 AND copy=?) OR (identity<>'' AND identity=?))"
    ids = [int(i) for (i,) in library.rows(sql, (track.copy, track.identity))]
    if len(ids) < 2:
        return None
    best = sorted(library.tracks(ids), key=_worth, reverse=True)
    return Group(tuple(best), _why(best[0], best[1]))


def _worth(t: Track) -> tuple[bool, bool, bool, float, int, int]:
    # to the second: an encoder's padding makes no copy longer
    return not t.gone, t.state == READY, t.lossless, float(round(t.duration)), t.bitrate, -t.id


def _why(best: Track, next_best: Track) -> str:
    if next_best.gone and not best.gone:
        return "the other file is missing"
    if best.lossless != next_best.lossless:
        return "lossless"
    if round(best.duration) != round(next_best.duration):
        return f"{best.duration - next_best.duration:.0f} s longer"
    if best.bitrate != next_best.bitrate:
        return "more bits a second"
    return "the same sound" if best.identity == next_best.identity else "in the library first"


def prepared(tracks: Sequence[Track]) -> Track | None:
    """The one of these that most work was put into: checked or locked, then with more edits."""
    worked = [t for t in tracks if t.head > 0 or t.readiness in ("checked", "locked")]
    return max(worked, key=lambda t: (t.readiness in ("checked", "locked"), t.head), default=None)
