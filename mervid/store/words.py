"""The words of each track, folded, in two full-text indexes: by the beginnings of words, and by what is inside them."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable, Sequence

from ..core.library.words import fold

FIELDS = ("title", "artists", "album", "album_artist", "genre", "label", "remixer", "grouping", "comment")
_AT_ONCE = 400


def fill(db: sqlite3.Connection) -> None:
    """Put all tracks in."""
    index(db, [int(i) for (i,) in db.execute("SELECT id FROM tracks").fetchall()])


def index(db: sqlite3.Connection, ids: Sequence[int]) -> None:
    """Put these tracks in anew, and fold what they are sorted by; in the caller's transaction."""
    for a in range(0, len(ids), _AT_ONCE):
        some = ids[a : a + _AT_ONCE]
        marks = ",".join("?" * len(some))
        rows = db.execute(
            f"SELECT id, path, year, {', '.join(FIELDS)} FROM tracks WHERE id IN ({marks})", some
        ).fetchall()
        forget(db, some)
        found = []
        for number, path, year, *texts in rows:
            name = bytes(path).rsplit(b"/", 1)[-1].decode("utf-8", "replace")
            said = dict.fromkeys(w for text in (*texts, name, str(year or "")) for w in fold(str(text)).split())
            found.append((int(number), " ".join(said)))
        for table in ("words", "inside"):
            db.executemany(f"INSERT INTO {table} (rowid, x) VALUES (?, ?)", found)
        db.executemany(
            "UPDATE tracks SET title_fold=?, artists_fold=? WHERE id=?",
            [(fold(str(texts[0])), fold(str(texts[1])), number) for number, _, _, *texts in rows],
        )


def forget(db: sqlite3.Connection, ids: Iterable[int]) -> None:
    """Take tracks out of both indexes."""
    numbers = [(i,) for i in ids]
    for table in ("words", "inside"):
        db.executemany(f"DELETE FROM {table} WHERE rowid=?", numbers)
