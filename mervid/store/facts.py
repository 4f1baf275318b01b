"""Facts of tracks that lists show and no edit makes: what a track is like, where its file is, when it was played."""

from __future__ import annotations

import time
from collections.abc import Sequence

from ..core.character import fingerprint
from ..core.character.describe import Character
from ..core.model.preparation import CHECKED, LOCKED
from .library import Library
from .track import READY

OUT_DAYS = 30
"""What was taken out of the library can be put back for so long."""

_WORK = (
    "head", "kind", "doubts", "finding", "readiness", "tempo_low", "tempo_high", "cues", "roles", "summed", "form",
    "heard_key", "key", "own_key", "key_chance", "second", "second_chance", "drive", "course", "lufs", "true_peak",
    "described",
)  # fmt: skip
"""Columns that go along when work is handed from one file of a recording to another."""


def forget_old(library: Library, *, days: float = OUT_DAYS) -> None:
    """Remove what was taken out longer ago than that; no recording is touched."""
    old = library.rows("SELECT id FROM tracks WHERE out<>0 AND out<?", (time.time() - days * 86400,))
    for (i,) in old:
        library.remove(int(i))


def set_character(library: Library, track_id: int, c: Character) -> None:
    """Keep what a track is like; a key that a person set stays."""
    with library.writing() as db:
        db.execute(
            "UPDATE tracks SET heard_key=?, key=CASE own_key WHEN '' THEN ? ELSE own_key END, key_chance=?, second=?, "
            "second_chance=?, drive=?, course=?, lufs=?, true_peak=?, form=?, described=1 WHERE id=?",
            (
                c.key,
                c.key,
                c.key_chance,
                c.second,
                c.second_chance,
                c.drive,
                c.course,
                c.lufs,
                c.true_peak,
                c.form,
                track_id,
            ),
        )
        mean = fingerprint.mean_of(c.print).tobytes()
        db.execute("INSERT OR REPLACE INTO prints (track_id, value, mean) VALUES (?, ?, ?)", (track_id, c.print, mean))


def undescribed(library: Library, most: int) -> list[int]:
    """Tracks that were heard before it was kept what they are like; so many at most."""
    sql = "SELECT id FROM tracks WHERE NOT described AND state='ready' ORDER BY id LIMIT ?"
    return [int(i) for (i,) in library.rows(sql, (most,))]


def set_gone(library: Library, gone: Sequence[int], there: Sequence[int] = ()) -> None:
    """These tracks' files have vanished, those are there again."""
    with library.writing() as db:
        db.executemany("UPDATE tracks SET gone=1 WHERE id=?", [(i,) for i in gone])
        db.executemany("UPDATE tracks SET gone=0 WHERE id=?", [(i,) for i in there])


def note_played(library: Library, track_id: int) -> None:
    """It is played in Rehearse just now."""
    with library.writing() as db:
        db.execute("UPDATE tracks SET played=? WHERE id=?", (time.time(), track_id))


def copy_work(library: Library, source: int, target: int) -> None:
    """Give `target` the evidence, preparation and history of `source` (same sound, another file)."""
    with library.writing() as db:
        db.execute(
            "INSERT OR REPLACE INTO evidence SELECT ?, version, heard, waveform FROM evidence WHERE track_id=?",
            (target, source),
        )
        db.execute(
            "INSERT OR REPLACE INTO history SELECT ?, seq, name, made, value FROM history WHERE track_id=?",
            (target, source),
        )
        db.execute("INSERT OR REPLACE INTO locks SELECT ?, value FROM locks WHERE track_id=?", (target, source))
        db.execute(
            "INSERT OR REPLACE INTO prints (track_id, value, mean) SELECT ?, value, mean FROM prints WHERE track_id=?",
            (target, source),
        )
        taken = _WORK
        row = db.execute(f"SELECT {', '.join(taken)} FROM tracks WHERE id=?", (source,)).fetchone()
        changes = ", ".join(f"{name}=?" for name in taken)
        db.execute(f"UPDATE tracks SET {changes}, state=?, message='' WHERE id=?", (*row, READY, target))


def unchecked(library: Library) -> int:
    """How many tracks nobody has checked yet."""
    checked = "SELECT count(*) FROM tracks WHERE state=? AND readiness IN (?, ?) AND out=0"
    sql = f"SELECT (SELECT count(*) FROM tracks WHERE out=0) - ({checked})"
    return int(library.rows(sql, (READY, CHECKED, LOCKED))[0][0])


def without_cues(library: Library) -> int:
    """How many tracks were heard and have no cue."""
    return int(library.rows("SELECT count(*) FROM tracks WHERE state=? AND cues=0 AND out=0", (READY,))[0][0])
