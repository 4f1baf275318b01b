"""The tables, their version, and the steps from each version to the next.

The version stands in SQLite's `user_version`. A newer program migrates an older database (after a copy beside it);
an older program refuses a newer database without writing to it.
"""

from __future__ import annotations

import shutil
import sqlite3
from collections.abc import Callable, Sequence
from contextlib import closing
from pathlib import Path

from sqlalchemy import ForeignKey, LargeBinary
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column

from ..core.errors import MervidError

Step = Callable[[sqlite3.Connection], None]


class Base(DeclarativeBase):
    """All tables."""


class TrackRow(Base):
    """A recording in the library. `path` is the file system's own bytes: names need not be UTF-8."""

    __tablename__ = "tracks"

    id: Mapped[int] = mapped_column(primary_key=True)
    path: Mapped[bytes] = mapped_column(LargeBinary, unique=True)
    title: Mapped[str]
    added: Mapped[float]
    state: Mapped[str]
    message: Mapped[str] = mapped_column(default="")
    identity: Mapped[str] = mapped_column(default="", index=True)
    rate: Mapped[int] = mapped_column(default=0)
    frames: Mapped[int] = mapped_column(default=0)
    delay_known: Mapped[bool] = mapped_column(default=True)
    head: Mapped[int] = mapped_column(default=-1)
    kind: Mapped[str] = mapped_column(default="", server_default="")
    doubts: Mapped[int] = mapped_column(default=0, server_default="0")
    locked: Mapped[str] = mapped_column(default="", server_default="")


class EvidenceRow(Base):
    """What was heard in a track, by which version of the analysis, and the waveform's extremes."""

    __tablename__ = "evidence"

    track_id: Mapped[int] = mapped_column(ForeignKey("tracks.id", ondelete="CASCADE"), primary_key=True)
    version: Mapped[int]
    heard: Mapped[bytes] = mapped_column(LargeBinary)
    waveform: Mapped[bytes] = mapped_column(LargeBinary)


class HistoryRow(Base):
    """One value in a track's undo list; `tracks.head` names the current one."""

    __tablename__ = "history"

    track_id: Mapped[int] = mapped_column(ForeignKey("tracks.id", ondelete="CASCADE"), primary_key=True)
    seq: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str]
    made: Mapped[float]
    value: Mapped[str]


class StoreError(MervidError):
    """The database can't be opened or written; the text says why and what to do."""


def _keep_kinds(db: sqlite3.Connection) -> None:
    """2: the kind of time a track keeps, and how many findings ask for a decision."""
    db.execute("ALTER TABLE tracks ADD COLUMN kind VARCHAR NOT NULL DEFAULT ''")
    db.execute("ALTER TABLE tracks ADD COLUMN doubts INTEGER NOT NULL DEFAULT 0")


def _keep_locked(db: sqlite3.Connection) -> None:
    """3: the preparation as it was when the track was last locked."""
    db.execute("ALTER TABLE tracks ADD COLUMN locked VARCHAR NOT NULL DEFAULT ''")


# one function for each step: the first turns version 1 into version 2
MIGRATIONS: tuple[Step, ...] = (_keep_kinds, _keep_locked)
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
    shutil.copy2(path, path.with_name(f"{path.name}.version{version}"))
    db = sqlite3.connect(path, isolation_level=None)
    try:
        db.execute("BEGIN EXCLUSIVE")
        for step in migrations[version - 1 :]:
            step(db)
        db.execute(f"PRAGMA user_version={newest}")
        db.execute("COMMIT")
    except sqlite3.Error as e:
        raise StoreError(f"{path} could not be brought up to date: {e}.") from None
    finally:
        db.close()
