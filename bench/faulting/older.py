"""A library as an older Mervid made it, from one of today."""

from __future__ import annotations

import sqlite3

from mervid.store import schema

TABLES = ("locks", "prints", "lists", "entries", "folders", "words", "inside", "pairs")


def make_version_6(db: sqlite3.Connection) -> None:
    """Take away what came with versions 7, 8 and 11."""
    for (index,) in db.execute("SELECT name FROM sqlite_master WHERE type='index' AND sql<>''").fetchall():
        db.execute(f"DROP INDEX {index}")
    for table in TABLES:
        db.execute(f"DROP TABLE {table}")
    for column in (*schema.NEW_COLUMNS, "contents"):
        db.execute(f"ALTER TABLE tracks DROP COLUMN {column}")
    db.execute("ALTER TABLE tracks ADD COLUMN locked VARCHAR NOT NULL DEFAULT ''")
    db.execute("CREATE INDEX ix_tracks_identity ON tracks (identity)")
    db.execute("CREATE INDEX ix_tracks_state ON tracks (state, readiness, cues)")
    db.execute("PRAGMA user_version=6")
