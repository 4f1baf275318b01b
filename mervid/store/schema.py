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
from . import words

Step = Callable[[sqlite3.Connection], None]

NEW_COLUMNS = {
    # what lists show of the file
    "seconds": "FLOAT NOT NULL DEFAULT 0",
    "format": "VARCHAR NOT NULL DEFAULT ''",
    "bitrate": "INTEGER NOT NULL DEFAULT 0",  # bits a second
    "lossless": "BOOLEAN NOT NULL DEFAULT 0",
    "gone": "BOOLEAN NOT NULL DEFAULT 0",  # the file isn't there
    "out": "FLOAT NOT NULL DEFAULT 0",  # when it was taken out of the library; 0 while it is in
    # words: what is shown, what the file says, what a person said
    "artists": "VARCHAR NOT NULL DEFAULT ''",
    "album": "VARCHAR NOT NULL DEFAULT ''",
    "album_artist": "VARCHAR NOT NULL DEFAULT ''",
    "genre": "VARCHAR NOT NULL DEFAULT ''",
    "year": "INTEGER NOT NULL DEFAULT 0",
    "label": "VARCHAR NOT NULL DEFAULT ''",
    "remixer": "VARCHAR NOT NULL DEFAULT ''",
    "comment": "VARCHAR NOT NULL DEFAULT ''",
    "grouping": "VARCHAR NOT NULL DEFAULT ''",
    "number": "VARCHAR NOT NULL DEFAULT ''",
    "rating": "INTEGER NOT NULL DEFAULT 0",
    "title_fold": "VARCHAR NOT NULL DEFAULT ''",  # as they are sorted
    "artists_fold": "VARCHAR NOT NULL DEFAULT ''",
    "file_tags": "VARCHAR NOT NULL DEFAULT ''",  # JSON; empty until they are read
    "own_tags": "VARCHAR NOT NULL DEFAULT ''",  # JSON of what a person changed
    "cover": "VARCHAR NOT NULL DEFAULT ''",  # name of its small picture in the cache
    # what it is like
    "key": "VARCHAR NOT NULL DEFAULT ''",  # a person's, else what was heard
    "key_chance": "FLOAT NOT NULL DEFAULT 0",
    "second": "VARCHAR NOT NULL DEFAULT ''",
    "second_chance": "FLOAT NOT NULL DEFAULT 0",
    "heard_key": "VARCHAR NOT NULL DEFAULT ''",
    "own_key": "VARCHAR NOT NULL DEFAULT ''",
    "drive": "FLOAT",
    "course": "BLOB",
    "lufs": "FLOAT",
    "true_peak": "FLOAT",
    "form": "VARCHAR NOT NULL DEFAULT ''",
    "finding": "VARCHAR NOT NULL DEFAULT ''",  # the words of the first one that asks for a person
    "roles": "VARCHAR NOT NULL DEFAULT ''",  # of its cues, each once
    "described": "BOOLEAN NOT NULL DEFAULT 0",
    "copy": "INTEGER NOT NULL DEFAULT 0",  # number of its group of the same performance
    "changed": "FLOAT NOT NULL DEFAULT 0",  # when it was last edited
    "played": "FLOAT NOT NULL DEFAULT 0",
}
"""Columns of `tracks` that came with version 7, for all that lists show."""

GATHER = """
CREATE TABLE IF NOT EXISTS locks (          -- the preparation when a track was last locked
    track_id INTEGER NOT NULL PRIMARY KEY REFERENCES tracks (id) ON DELETE CASCADE,
    value VARCHAR NOT NULL
);
CREATE TABLE IF NOT EXISTS prints (         -- see core.character.fingerprint
    track_id INTEGER NOT NULL PRIMARY KEY REFERENCES tracks (id) ON DELETE CASCADE,
    value BLOB NOT NULL,
    mean BLOB NOT NULL,                     -- of it: 20 floats of 4 bytes
    compared BOOLEAN NOT NULL DEFAULT 0     -- with all the others
);
CREATE TABLE IF NOT EXISTS lists (
    id INTEGER NOT NULL PRIMARY KEY,
    parent INTEGER NOT NULL DEFAULT 0,
    place INTEGER NOT NULL DEFAULT 0,
    kind VARCHAR NOT NULL,                  -- folder, list or search
    name VARCHAR NOT NULL,
    search VARCHAR NOT NULL DEFAULT '',     -- of a standing search, JSON
    notes VARCHAR NOT NULL DEFAULT '',
    begins VARCHAR NOT NULL DEFAULT ''      -- clock time at which its first track is played, 22:30
);
CREATE TABLE IF NOT EXISTS entries (
    id INTEGER NOT NULL PRIMARY KEY,
    list INTEGER NOT NULL,
    place INTEGER NOT NULL,
    track INTEGER NOT NULL
);
CREATE INDEX IF NOT EXISTS ix_entries_list ON entries (list, place);
CREATE INDEX IF NOT EXISTS ix_entries_track ON entries (track);
CREATE TABLE IF NOT EXISTS folders (        -- that are watched
    path BLOB NOT NULL PRIMARY KEY
);
CREATE INDEX IF NOT EXISTS ix_in_title ON tracks (title_fold, out) WHERE out=0;
CREATE INDEX IF NOT EXISTS ix_in_artists ON tracks (artists_fold, out) WHERE out=0;
CREATE INDEX IF NOT EXISTS ix_in_tempo ON tracks (tempo_low, out) WHERE out=0;
CREATE INDEX IF NOT EXISTS ix_in_key ON tracks (key, out) WHERE out=0;
CREATE INDEX IF NOT EXISTS ix_in_drive ON tracks (drive, out) WHERE out=0;
CREATE INDEX IF NOT EXISTS ix_in_seconds ON tracks (seconds, out) WHERE out=0;
CREATE INDEX IF NOT EXISTS ix_in_added ON tracks (added, out) WHERE out=0;
CREATE INDEX IF NOT EXISTS ix_in_genre ON tracks (genre COLLATE NOCASE, out) WHERE out=0;
CREATE INDEX IF NOT EXISTS ix_in_year ON tracks (year, out) WHERE out=0;
CREATE INDEX IF NOT EXISTS ix_in_kind ON tracks (kind, out) WHERE out=0;
CREATE INDEX IF NOT EXISTS ix_in_cues ON tracks (cues, out) WHERE out=0;
CREATE INDEX IF NOT EXISTS ix_in_album ON tracks (album COLLATE NOCASE, out) WHERE out=0;
CREATE INDEX IF NOT EXISTS ix_in_changed ON tracks (changed, out) WHERE out=0;
CREATE INDEX IF NOT EXISTS ix_in_format ON tracks (format, out) WHERE out=0;
CREATE INDEX IF NOT EXISTS ix_in_state ON tracks (state, readiness, cues, out) WHERE out=0;
CREATE INDEX IF NOT EXISTS ix_in_cueless ON tracks (state, cues, out) WHERE out=0;
CREATE INDEX IF NOT EXISTS ix_in_folder ON tracks (path, out) WHERE out=0;
CREATE INDEX IF NOT EXISTS ix_in_doubts ON tracks (doubts, out) WHERE out=0;
CREATE INDEX IF NOT EXISTS ix_tracks_gone ON tracks (gone) WHERE gone=1;
CREATE INDEX IF NOT EXISTS ix_tracks_doubts ON tracks (doubts) WHERE doubts>0;
CREATE INDEX IF NOT EXISTS ix_tracks_copy ON tracks (copy) WHERE copy<>0;
CREATE INDEX IF NOT EXISTS ix_tracks_bare ON tracks (id) WHERE file_tags='';
CREATE INDEX IF NOT EXISTS ix_tracks_plain ON tracks (id) WHERE NOT described AND state='ready';
CREATE VIRTUAL TABLE IF NOT EXISTS words USING fts5(x, tokenize='unicode61', prefix='1 2 3', columnsize=0);
CREATE VIRTUAL TABLE IF NOT EXISTS inside USING fts5(x, tokenize='trigram', columnsize=0);
"""

PAIRS = """
CREATE TABLE IF NOT EXISTS pairs (          -- where two tracks meet, as a person kept it
    id INTEGER NOT NULL PRIMARY KEY,
    leaving INTEGER NOT NULL,
    coming INTEGER NOT NULL,
    meeting VARCHAR NOT NULL,               -- JSON, see core.pairs.placed
    notes VARCHAR NOT NULL DEFAULT '',
    UNIQUE (leaving, coming)
);
CREATE INDEX IF NOT EXISTS ix_pairs_coming ON pairs (coming);
"""

STRAIGHT = """
CREATE TABLE IF NOT EXISTS straightened (   -- recordings rendered at one tempo, and those that wait for it
    id INTEGER NOT NULL PRIMARY KEY,
    source INTEGER NOT NULL,
    made INTEGER NOT NULL DEFAULT 0,        -- the track that it became, 0 while it waits
    target BLOB NOT NULL,                   -- the file
    wish VARCHAR NOT NULL,                  -- JSON, see core.rendering.straightening
    state VARCHAR NOT NULL,                 -- waiting, done or failed
    told VARCHAR NOT NULL DEFAULT ''        -- JSON of figures, or why it failed
);
CREATE INDEX IF NOT EXISTS ix_straightened_made ON straightened (made);
"""

TABLES = (
    """
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
    readiness VARCHAR NOT NULL DEFAULT '',  -- from here on: what lists show of the preparation in force
    tempo_low FLOAT,
    tempo_high FLOAT,
    cues INTEGER NOT NULL DEFAULT 0,
    summed BOOLEAN NOT NULL DEFAULT 1,      -- whether the four above say what the preparation says
    size INTEGER NOT NULL DEFAULT 0,        -- of the file when it was read, bytes; 0 where that isn't known
    changed_ns INTEGER NOT NULL DEFAULT 0,  -- when it had last been changed then
    contents VARCHAR NOT NULL DEFAULT '',   -- the digest of its bytes; empty where that isn't known
    """
    + ",\n    ".join(f"{name} {kind}" for name, kind in NEW_COLUMNS.items())
    + """
);
CREATE INDEX IF NOT EXISTS ix_tracks_identity ON tracks (identity);
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
    + GATHER
    + PAIRS
    + STRAIGHT
)


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


def _keep_lists(db: sqlite3.Connection) -> None:
    """7: tags, character, lists, folders, words to find; the locked preparation, which is long, in its own table."""
    for name, kind in NEW_COLUMNS.items():
        db.execute(f"ALTER TABLE tracks ADD COLUMN {name} {kind}")
    for statement in filter(str.strip, GATHER.split(";")):
        db.execute(statement)
    db.execute("DROP INDEX IF EXISTS ix_tracks_state")
    db.execute("INSERT INTO locks SELECT id, locked FROM tracks WHERE locked<>''")
    db.execute("ALTER TABLE tracks DROP COLUMN locked")
    db.execute("UPDATE tracks SET changed=added, seconds=CASE WHEN rate>0 THEN 1.0*frames/rate ELSE 0 END")
    words.fill(db)


def _keep_pairs(db: sqlite3.Connection) -> None:
    """8: where two tracks meet."""
    for statement in filter(str.strip, PAIRS.split(";")):
        db.execute(statement)


def _keep_straight(db: sqlite3.Connection) -> None:
    """9: which recordings were straightened from which."""
    for statement in filter(str.strip, STRAIGHT.split(";")):
        db.execute(statement)


def _keep_smaller(db: sqlite3.Connection) -> None:
    """10: what is heard is kept in smaller blocks from now on, which an older Mervid would call damaged."""


def _keep_contents(db: sqlite3.Connection) -> None:
    """11: the digest of each file, by which it is known where it has moved; known when it is read the next time."""
    db.execute("ALTER TABLE tracks ADD COLUMN contents VARCHAR NOT NULL DEFAULT ''")


# one function for each step: the first turns version 1 into version 2
MIGRATIONS: tuple[Step, ...] = (
    _keep_kinds, _keep_locked, _keep_sums, _keep_broken, _keep_file_states, _keep_lists, _keep_pairs,
    _keep_straight, _keep_smaller, _keep_contents,
)  # fmt: skip
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
    db.execute("PRAGMA trusted_schema=OFF")
    return db


def take_rows(new: sqlite3.Connection, source: Path, tables: Sequence[str]) -> None:
    """Fill empty tables of ours with the rows that the same tables of `source` hold; nothing else of it is taken.

    What `source` may carry beside rows (triggers, views, defaults, functions in indexes) is never run. Raises
    `sqlite3.Error`.
    """
    new.execute("PRAGMA trusted_schema=OFF")
    new.execute("ATTACH ? AS old", (f"{source.absolute().as_uri()}?mode=ro",))
    new.execute("BEGIN")
    for table in tables:
        names = ", ".join(columns(new, table))
        new.execute(f"INSERT INTO {table} ({names}) SELECT {names} FROM old.{table}")
    words.fill(new)
    new.execute("COMMIT")
    new.execute("DETACH old")
    new.execute(f"PRAGMA user_version={VERSION}")


_STORED = {
    "INTEGER": ("integer",),
    "BOOLEAN": ("integer",),
    "FLOAT": ("real", "integer"),
    "VARCHAR": ("text",),
    "BLOB": ("blob",),
}
"""How SQLite stores values of each declared type, as its function typeof says."""


def odd_value(db: sqlite3.Connection, tables: Sequence[str]) -> str:
    """The first column that holds a value of another type than it declares, as 'tracks.path'; empty where none does."""
    for table in tables:
        for _, name, declared, filled, *_ in db.execute(f"PRAGMA table_info({table})").fetchall():
            kinds = (*_STORED[declared], *(() if filled else ("null",)))
            allowed = ", ".join(f"'{kind}'" for kind in kinds)
            if db.execute(f'SELECT 1 FROM {table} WHERE typeof("{name}") NOT IN ({allowed}) LIMIT 1').fetchone():
                return f"{table}.{name}"
    return ""


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
