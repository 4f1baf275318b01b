"""One way back for what is done to the library itself: lists, tags, keys, what is taken out.

Triggers write down, for every row that an act touches, the statement that takes it back (SQLite's own documentation
describes the technique as 'automatic undo/redo'). They are temporary: they last as long as the program runs, and what
another program writes meanwhile isn't theirs.
"""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager

import attrs

from . import words
from .library import Library

_ROWS = {
    "lists": ("parent", "place", "kind", "name", "search", "notes", "begins"),
    "entries": ("list", "place", "track"),
    "pairs": ("leaving", "coming", "meeting", "notes"),
}
_TRACK = (
    "out", "own_tags", "own_key", "key", "title", "artists", "album", "album_artist", "genre", "year", "label",
    "remixer", "comment", "grouping", "number", "rating",
)  # fmt: skip
_BY_HAND = ("out", "own_tags", "own_key")
"""Columns that only a person changes; the others follow them, and are changed by hearing and reading as well."""
MOST = 100
"""Acts that can be taken back."""


@attrs.frozen
class Act:
    """What was done: its name, the statements that take it back (newest first), and the tracks that they touch."""

    name: str
    back: tuple[str, ...]
    tracks: tuple[int, ...]


def _quoted(columns: tuple[str, ...], row: str) -> str:
    return " || ', ' || ".join(f"'{c}=' || quote({row}.{c})" for c in columns)


def _triggers() -> str:
    out = ["CREATE TEMP TABLE IF NOT EXISTS undo_log (seq INTEGER PRIMARY KEY, sql TEXT, track INTEGER)"]
    log = "INSERT INTO undo_log (sql, track) VALUES"
    for table, columns in _ROWS.items():
        names = ", ".join(("id", *columns))
        values = " || ', ' || ".join(f"quote(old.{c})" for c in ("id", *columns))
        out += [
            f"CREATE TEMP TRIGGER IF NOT EXISTS undo_{table}_made AFTER INSERT ON main.{table} BEGIN "
            f"{log} ('DELETE FROM {table} WHERE id=' || new.id, NULL); END",
            f"CREATE TEMP TRIGGER IF NOT EXISTS undo_{table}_changed AFTER UPDATE ON main.{table} BEGIN "
            f"{log} ('UPDATE {table} SET ' || {_quoted(columns, 'old')} || ' WHERE id=' || old.id, NULL); END",
            f"CREATE TEMP TRIGGER IF NOT EXISTS undo_{table}_gone BEFORE DELETE ON main.{table} BEGIN "
            f"{log} ('INSERT INTO {table} ({names}) VALUES (' || {values} || ')', NULL); END",
        ]
    out.append(
        f"CREATE TEMP TRIGGER IF NOT EXISTS undo_tracks AFTER UPDATE OF {', '.join(_BY_HAND)} ON main.tracks BEGIN "
        f"{log} ('UPDATE tracks SET ' || {_quoted(_TRACK, 'old')} || ' WHERE id=' || old.id, old.id); END"
    )
    return ";\n".join(out)


class Undo:
    """The acts of this session and the ways back."""

    def __init__(self, library: Library) -> None:
        self._library = library
        self.done: list[Act] = []
        self.undone: list[Act] = []
        with library.reading() as db:
            db.executescript(_triggers())

    @contextmanager
    def act(self, name: str) -> Iterator[sqlite3.Connection]:
        """One act: all that is written inside can be taken back as one. Words of tracks it touched are indexed anew."""
        with self._library.writing() as db:
            db.execute("DELETE FROM temp.undo_log")
            yield db
            made = self._taken(db, name)
            words.index(db, made.tracks)
        if made.back:
            self.done.append(made)
            del self.done[:-MOST]
            self.undone.clear()

    @staticmethod
    def _taken(db: sqlite3.Connection, name: str) -> Act:
        rows = db.execute("SELECT sql, track FROM temp.undo_log ORDER BY seq DESC").fetchall()
        db.execute("DELETE FROM temp.undo_log")
        touched = tuple(dict.fromkeys(int(t) for _, t in rows if t is not None))
        return Act(name, tuple(str(sql) for sql, _ in rows), touched)

    def undo(self) -> Act | None:
        """Take the last act back; None where there is none."""
        return self._step(self.done, self.undone)

    def redo(self) -> Act | None:
        """Do again what was taken back last; None where there is nothing."""
        return self._step(self.undone, self.done)

    def _step(self, source: list[Act], target: list[Act]) -> Act | None:
        if not source:
            return None
        act = source[-1]
        with self._library.writing() as db:
            db.execute("DELETE FROM temp.undo_log")
            for sql in act.back:
                db.execute(sql)
            other = self._taken(db, act.name)
            words.index(db, act.tracks)
        source.pop()
        target.append(other)
        return act
