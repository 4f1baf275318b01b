"""The library looks after itself: it is checked in the background, and a copy of each day is kept.

A copy is made from one consistent state while the window goes on writing: by SQLite's online backup where the library
is small; of a large one without what was heard, which can be heard again, so that seven copies don't fill the disk.
"""

from __future__ import annotations

import contextlib
import os
import sqlite3
import time
from contextlib import closing
from pathlib import Path

from .. import places
from . import schema

KEPT = 7
"""Copies of so many days are kept."""
MOST_WHOLE = 300 << 20
"""Bytes up to which a library is copied with all that was heard."""
PAGES_AT_ONCE = 256
PAUSE_S = 0.005
"""Between so many pages of a copy: an edit meanwhile doesn't wait."""
WITHOUT_HEARD = ("tracks", "history", "broken", "locks", "lists", "entries", "folders", "pairs", "straightened")
"""Tables that hold what a person did, and what files are."""


def check(path: Path) -> str:
    """What is wrong with the pages of a library (SQLite's quick_check); empty where nothing is."""
    try:
        with closing(schema.read_only(path)) as db:
            (found,) = db.execute("PRAGMA quick_check(1)").fetchone()
    except sqlite3.DatabaseError as e:
        return str(e)
    return "" if found == "ok" else str(found)


def mark(path: Path) -> Path:
    """The file that says that a library is to be mended before it is opened the next time."""
    return path.with_name(f"{path.name}.mend")


def folder_of(path: Path) -> Path:
    """Where the copies of a library are."""
    return path.with_name("copies")


def copies(path: Path) -> list[Path]:
    """The copies that there are, newest first."""
    return sorted(folder_of(path).glob(f"{path.stem}-????-??-??{path.suffix}"), reverse=True)


def copy_of_today(path: Path, *, now: float | None = None) -> Path | None:
    """Make the copy of this day, unless it is there; the oldest beyond `KEPT` go. None where there was nothing to do.

    Raises
    ------
    OSError, sqlite3.Error
        It can't be written; no half copy is left.
    """
    day = time.strftime("%Y-%m-%d", time.localtime(now))
    target = folder_of(path) / f"{path.stem}-{day}{path.suffix}"
    if target.exists():
        return None
    places.make_private(target.parent)
    part = target.with_name(f"{target.name}.part")
    part.unlink(missing_ok=True)
    try:
        os.close(os.open(part, os.O_CREAT | os.O_EXCL | os.O_WRONLY, 0o600))
        if path.stat().st_size <= MOST_WHOLE:
            schema.copy(path, part, pages=PAGES_AT_ONCE, pause=PAUSE_S)
        else:
            _copy_without_heard(path, part)
        os.replace(part, target)
    finally:
        part.unlink(missing_ok=True)
    for old in copies(path)[KEPT:]:
        with contextlib.suppress(OSError):
            old.unlink()
    return target


def _copy_without_heard(source: Path, target: Path) -> None:
    with closing(sqlite3.connect(target.absolute().as_uri(), uri=True, isolation_level=None)) as new:
        new.executescript(schema.TABLES)
        schema.take_rows(new, source, WITHOUT_HEARD)
