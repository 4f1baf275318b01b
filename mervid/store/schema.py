"""The tables, their version, and the steps from each version to the next.

The version stands in SQLite's `user_version`. A newer program migrates an older database (after a copy beside it);
an older program refuses a newer database without writing to it.
"""

from __future__ import annotations

import sqlite3
from collections.abc import Callable, Sequence
from contextlib import closing
from pathlib import Path

from ..core.errors import MervidError

Step = Callable[[sqlite3.Connection], None]

TABLES = """
CREATE TABLE IF NOT EXISTS tracks (
    id INTEGER NOT NULL PRIMARY KEY,
    path BLOB NOT NULL UNIQUE,              -- the file system's own bytes: names need not be UTF-8
    title VARCHAR NOT NULL,
    added FLOAT NOT NULL,
    state VARCHAR NOT NULL,                 -- waiting, ready or failed
    message VARCHAR NOT NULL DEFAULT '',
    identity VARCHAR NOT NULL DEFAULT '',
    rate INTEGER NOT NULL DEFAULT 0,
    frames INTEGER NOT NULL DEFAULT 0,
    delay_known BOOLEAN NOT NULL DEFAULT 1,
    head INTEGER NOT NULL DEFAULT -1,       -- which row of its history is in force
    kind VARCHAR NOT NULL DEFAULT '',
    doubts INTEGER NOT NULL DEFAULT 0,
    locked VARCHAR NOT NULL DEFAULT '',     -- the preparation when it was last locked
    readiness VARCHAR NOT NULL DEFAULT '',  -- from here on: what lists show of the preparation in force
    tempo_low FLOAT,
    tempo_high FLOAT,
    cues INTEGER NOT NULL DEFAULT 0,
    summed BOOLEAN NOT NULL DEFAULT 1,      -- whether the four above say what the preparation says
    size INTEGER NOT NULL DEFAULT 0,        -- of the file when it was read, bytes; 0 where that isn't known
    changed_ns INTEGER NOT NULL DEFAULT 0   -- when it had last been changed then
);
CREATE INDEX IF NOT EXISTS ix_tracks_identity ON tracks (identity);
CREATE INDEX IF NOT EXISTS ix_tracks_state ON tracks (state, readiness, cues);
CREATE TABLE IF NOT EXISTS evidence (
    track_id INTEGER NOT NULL PRIMARY KEY REFERENCES tracks (id) ON DELETE CASCADE,
    version INTEGER NOT NULL,
    heard BLOB NOT NULL,
    waveform BLOB NOT NULL
);
CREATE TABLE IF NOT EXISTS history (
    track_id INTEGER NOT NULL REFERENCES tracks (id) ON DELETE CASCADE,
    seq INTEGER NOT NULL,
    name VARCHAR NOT NULL,
    made FLOAT NOT NULL,
    value VARCHAR NOT NULL,
    PRIMARY KEY (track_id, seq)
);
CREATE TABLE IF NOT EXISTS broken (         -- steps of a history that can't be read any more, kept aside
    track_id INTEGER NOT NULL,
    seq INTEGER NOT NULL,
    name VARCHAR NOT NULL,
    made FLOAT NOT NULL,
    value VARCHAR NOT NULL
);
"""


class StoreError(MervidError):
    """The database can't be opened or written; the text says why and what to do."""


def _keep_kinds(db: sqlite3.Connection) -> None:
    """2: the kind of time a track keeps, and how many findings ask for a decision."""
    db.execute("ALTER TABLE tracks ADD COLUMN kind VARCHAR NOT NULL DEFAULT ''")
    db.execute("ALTER TABLE tracks ADD COLUMN doubts INTEGER NOT NULL DEFAULT 0")


def _keep_locked(db: sqlite3.Connection) -> None:
    """3: the preparation as it was when the track was last locked."""
    db.execute("ALTER TABLE tracks ADD COLUMN locked VARCHAR NOT NULL DEFAULT ''")


def _keep_sums(db: sqlite3.Connection) -> None:
    """4: what lists show of each preparation; filled in later, by `upkeep`, where there is one."""
    db.execute("ALTER TABLE tracks ADD COLUMN readiness VARCHAR NOT NULL DEFAULT ''")
    db.execute("ALTER TABLE tracks ADD COLUMN tempo_low FLOAT")
    db.execute("ALTER TABLE tracks ADD COLUMN tempo_high FLOAT")
    db.execute("ALTER TABLE tracks ADD COLUMN cues INTEGER NOT NULL DEFAULT 0")
    db.execute("ALTER TABLE tracks ADD COLUMN summed BOOLEAN NOT NULL DEFAULT 1")
    db.execute("UPDATE tracks SET summed = 0 WHERE head >= 0")
    db.execute("CREATE INDEX ix_tracks_state ON tracks (state, readiness, cues)")


def _keep_broken(db: sqlite3.Connection) -> None:
    """5: steps that can't be read any more, kept aside."""
    db.execute(
        "CREATE TABLE IF NOT EXISTS broken (track_id INTEGER NOT NULL, seq INTEGER NOT NULL, name VARCHAR NOT NULL, "
        "made FLOAT NOT NULL, value VARCHAR NOT NULL)"
    )


def _keep_file_states(db: sqlite3.Connection) -> None:
    """6: what tells whether a file is still the one that was read; known when it is read the next time."""
    db.execute("ALTER TABLE tracks ADD COLUMN size INTEGER NOT NULL DEFAULT 0")
    db.execute("ALTER TABLE tracks ADD COLUMN changed_ns INTEGER NOT NULL DEFAULT 0")


# one function for each step: the first turns version 1 into version 2
MIGRATIONS: tuple[Step, ...] = (_keep_kinds, _keep_locked, _keep_sums, _keep_broken, _keep_file_states)
VERSION = 1 + len(MIGRATIONS)


def read_only(path: Path) -> sqlite3.Connection:
    """A connection that can't write. Where SQLite's side files can't be made, the file is read as it lies there."""
    uri = path.absolute().as_uri()
    db = sqlite3.connect(f"{uri}?mode=ro", uri=True)
    try:
        db.execute("PRAGMA user_version").fetchone()
    except sqlite3.OperationalError:
        db.close()
        db = sqlite3.connect(f"{uri}?mode=ro&immutable=1", uri=True)
    return db


def columns(db: sqlite3.Connection, table: str) -> list[str]:
    """The names of a table's columns; none where there is no such table."""
    return [str(row[1]) for row in db.execute(f"PRAGMA table_info({table})")]


def version_of(path: Path) -> int:
    """The library version of a file; 0 where there is none."""
    try:
        with closing(read_only(path)) as db:
            return int(db.execute("PRAGMA user_version").fetchone()[0])
    except sqlite3.Error:
        return 0


def prepare(path: Path, *, migrations: Sequence[Step] = MIGRATIONS) -> None:
    """Bring an existing database up to date, or refuse it. Does nothing when there is none.

    Raises
    ------
    StoreError
        Written by a newer Mervid, not a database, or unreadable.
    """
    newest = 1 + len(migrations)
    if not path.exists():
        return
    try:
        with closing(read_only(path)) as db:
            (version,) = db.execute("PRAGMA user_version").fetchone()
            tables = {row[0] for row in db.execute("SELECT name FROM sqlite_master WHERE type='table'")}
    except sqlite3.DatabaseError as e:
        raise StoreError(f"{path} can't be used as Mervid's library: {e}.") from None
    if version > newest:
        raise StoreError(
            f"{path} was written by a newer Mervid (library version {version}, this one knows {newest}). "
            "It has not been touched: start the newer version."
        )
    if version in (0, newest):
        if version == 0 and tables:
            raise StoreError(f"{path} is a database of something else.")
        return
    try:
        copy(path, path.with_name(f"{path.name}.version{version}"))
        with closing(sqlite3.connect(path, isolation_level=None)) as db:
            db.execute("BEGIN EXCLUSIVE")
            for step in migrations[version - 1 :]:
                step(db)
            db.execute(f"PRAGMA user_version={newest}")
            db.execute("COMMIT")
    except sqlite3.Error as e:
        raise StoreError(f"{path} could not be brought up to date: {e}.") from None


def copy(source: Path, target: Path, *, pages: int = -1, pause: float = 0.0) -> None:
    """All that is committed in `source`, also what still lies in SQLite's log beside it, in a file for its owner alone.

    Parameters
    ----------
    pages, pause : so many pages at once, and s between; all at once unless others write meanwhile
    """
    target.touch(0o600)
    with closing(read_only(source)) as old, closing(sqlite3.connect(target)) as new:
        # one state of it is held, so that an edit meanwhile doesn't begin the copy anew
        old.execute("BEGIN")
        old.execute("SELECT count(*) FROM sqlite_master").fetchone()
        old.backup(new, pages=pages, sleep=pause)
