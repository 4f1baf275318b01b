"""A damaged library: all rows that can still be read go into a new file, what is lost comes from the newest copy.

The damaged file is kept beside it. Rows are read by number from both ends, and one by one where a page between them is
broken; no single page takes more than its own rows along.
"""

from __future__ import annotations

import contextlib
import os
import sqlite3
import time
from collections.abc import Iterator
from contextlib import closing
from pathlib import Path
from typing import Any

import attrs

from .. import places
from . import care, schema, words
from .schema import StoreError

TABLES = (
    "tracks", "evidence", "history", "broken", "locks", "prints", "lists", "entries", "folders", "pairs",
    "straightened",
)  # fmt: skip
_STEP = "track_id, seq, name, made, value"
PROBES_S = 20.0
"""So long rows between two readable stretches are looked for one by one."""


@attrs.frozen
class Salvaged:
    """What became of a damaged library.

    Attributes
    ----------
    tracks : how many are there now
    from_copy : how many of them come from the newest copy, as a whole or with their steps
    kept : the damaged file
    """

    tracks: int
    from_copy: int
    kept: Path

    def words(self) -> str:
        """For the person whose library it is."""
        copied = f", {self.from_copy} of them as they were in the last copy" if self.from_copy else ""
        return (
            f"Your library was damaged and has been mended: it has {self.tracks} tracks{copied}. "
            f"The damaged file is kept as {self.kept.name}."
        )


def needed(path: Path) -> bool:
    """Whether a library was found damaged, by the last session or at its first pages."""
    if not path.exists() and not _mended(path).exists():
        return False
    if care.mark(path).exists() or _mended(path).exists():
        return True
    try:
        with closing(schema.read_only(path)) as db:
            db.execute("SELECT count(*) FROM sqlite_master").fetchone()
    except sqlite3.DatabaseError:
        # copies of it say that what can't be opened was a library
        return bool(care.copies(path))
    return False


def salvage(path: Path, *, now: float | None = None) -> Salvaged:
    """Put a new library in the place of a damaged one.

    Raises
    ------
    StoreError
        Nothing of it can be read and there is no copy, or nothing can be written here; the file stays as it is.
    """
    stamp = time.strftime("%Y%m%d-%H%M%S", time.localtime(now))
    fresh, kept = path.with_name(f"{path.name}.new"), path.with_name(f"{path.name}.damaged-{stamp}")
    copied = 0
    try:
        if not _mended(path).exists():
            copied = _build(path, fresh)
            os.rename(fresh, _mended(path))
        with closing(schema.read_only(_mended(path))) as db:
            (tracks,) = db.execute("SELECT count(*) FROM tracks").fetchone()
        _swap(path, kept)
    except (sqlite3.Error, OSError) as e:
        raise StoreError(f"{path} is damaged and can't be mended: {e}.") from None
    finally:
        fresh.unlink(missing_ok=True)
    return Salvaged(int(tracks), copied, kept)


def _mended(path: Path) -> Path:
    """The new library, whole, before it takes its place: a kill from here on loses nothing."""
    return path.with_name(f"{path.name}.mended")


def _build(path: Path, fresh: Path) -> int:
    """Write the new library to `fresh`; returns how many tracks come from a copy."""
    fresh.unlink(missing_ok=True)
    places.make_private_file(fresh)
    with closing(sqlite3.connect(fresh, isolation_level=None)) as new:
        new.executescript(schema.TABLES)
        _take_readable(path, new)
        copied = _take_from_copy(path, new)
        if not _settle(new):
            raise StoreError(f"Nothing in {path} can be read any more, and there is no copy of it.")
    return copied


def _swap(path: Path, kept: Path) -> None:
    """Keep the damaged file under another name, and put the new one in its place."""
    for ending in ("", "-wal", "-shm"):
        with contextlib.suppress(FileNotFoundError, FileExistsError):
            os.link(f"{path}{ending}", f"{kept}{ending}")
    for ending in ("-wal", "-shm"):
        # the log of the old file is no log of the new one
        Path(f"{path}{ending}").unlink(missing_ok=True)
    os.replace(_mended(path), path)
    care.mark(path).unlink(missing_ok=True)


def _take_readable(path: Path, new: sqlite3.Connection) -> None:
    """All rows that can be read, as far as the new tables take them."""
    try:
        old = schema.read_only(path)
    except sqlite3.Error:
        return
    with closing(old):
        old.text_factory = lambda raw: raw.decode("utf-8", "replace")
        for table in TABLES:
            try:
                there = set(schema.columns(old, table))
            except sqlite3.Error:
                continue
            names = [n for n in schema.columns(new, table) if n in there]
            if names:
                _insert(new, table, names, _rows(old, table, names))


def _insert(new: sqlite3.Connection, table: str, names: list[str], rows: Iterator[tuple[Any, ...]]) -> None:
    sql = f"INSERT OR IGNORE INTO {table} ({', '.join(names)}) VALUES ({', '.join('?' * len(names))})"
    new.execute("BEGIN")
    for row in rows:
        with contextlib.suppress(sqlite3.IntegrityError, sqlite3.InterfaceError):
            new.execute(sql, row)
    new.execute("COMMIT")


def _rows(old: sqlite3.Connection, table: str, names: list[str]) -> Iterator[tuple[Any, ...]]:
    """Every row of a table that can be read."""
    what = f"SELECT rowid, {', '.join(names)} FROM {table}"
    low = high = None
    for order in ("", " DESC"):
        reached = None
        try:
            for number, *row in old.execute(f"{what} ORDER BY rowid{order}"):
                if order and low is not None and number <= low:
                    return
                reached = number
                yield tuple(row)
            return
        except sqlite3.DatabaseError:
            low, high = (reached, high) if not order else (low, reached)
    begin, end = (low or 0) + 1, high if high is not None else (low or 0) + 100_000
    until = time.monotonic() + PROBES_S
    for number in range(begin, end):
        if time.monotonic() > until:
            return
        with contextlib.suppress(sqlite3.DatabaseError):
            found = old.execute(f"{what} WHERE rowid=?", (number,)).fetchone()
            if found is not None:
                yield tuple(found[1:])


def _take_from_copy(path: Path, new: sqlite3.Connection) -> int:
    """Tracks that are lost or lost all their steps, from the newest copy that is whole; how many."""
    for newest in care.copies(path):
        if care.check(newest) or schema.version_of(newest) < 1:
            continue
        with closing(schema.read_only(newest)) as old:
            have = {int(n): bytes(p) for n, p in new.execute("SELECT id, path FROM tracks")}
            known = {int(n): bytes(p) for n, p in old.execute("SELECT id, path FROM tracks")}
            paths = set(have.values())
            lost = [n for n, p in known.items() if n not in have and p not in paths]
            with_steps = {int(n) for (n,) in new.execute("SELECT DISTINCT track_id FROM history")}
            bare = [n for n, p in known.items() if have.get(n) == p and n not in with_steps]
            for n in lost:
                # steps of a lost row that could be read go aside: they may be newer than the copy
                new.execute(f"INSERT INTO broken SELECT {_STEP} FROM history WHERE track_id=?", (n,))
                new.execute("DELETE FROM history WHERE track_id=?", (n,))
                _take_track(old, new, n, ("tracks", "evidence", "history", "broken", "locks", "prints"))
            for n in bare:
                _take_track(old, new, n, ("evidence", "history"))
                (head,) = old.execute("SELECT head FROM tracks WHERE id=?", (n,)).fetchone()
                new.execute("UPDATE tracks SET head=? WHERE id=?", (head, n))
            return len(lost) + len(bare)
    return 0


def _take_track(old: sqlite3.Connection, new: sqlite3.Connection, number: int, tables: tuple[str, ...]) -> None:
    """One track's rows of these tables."""
    for table in tables:
        key = "id" if table == "tracks" else "track_id"
        there = set(schema.columns(old, table))
        names = [n for n in schema.columns(new, table) if n in there]
        if key in there:
            rows = old.execute(f"SELECT {', '.join(names)} FROM {table} WHERE {key}=?", (number,)).fetchall()
            _insert(new, table, names, iter(rows))


def _settle(new: sqlite3.Connection) -> int:
    """Make the rows fit each other; returns how many tracks there are."""
    new.execute("BEGIN")
    orphans = "track_id NOT IN (SELECT id FROM tracks)"
    new.execute(f"INSERT INTO broken SELECT {_STEP} FROM history WHERE {orphans}")
    new.execute(f"DELETE FROM history WHERE {orphans}")
    for table in ("evidence", "locks", "prints"):
        new.execute(f"DELETE FROM {table} WHERE {orphans}")
    new.execute("DELETE FROM entries WHERE track NOT IN (SELECT id FROM tracks)")
    missing = "NOT IN (SELECT id FROM tracks)"
    new.execute(f"DELETE FROM pairs WHERE leaving {missing} OR coming {missing}")
    words.fill(new)
    there = "SELECT max(seq) FROM history WHERE track_id=tracks.id AND seq<=tracks.head"
    new.execute(f"UPDATE tracks SET head=coalesce(({there}), -1)")
    # what lists show is worked out anew
    new.execute("UPDATE tracks SET summed=0 WHERE head>=0")
    heard = "id IN (SELECT track_id FROM evidence) OR head>=0"
    new.execute(f"UPDATE tracks SET state='waiting', message='' WHERE state='ready' AND NOT ({heard})")
    new.execute("COMMIT")
    new.execute(f"PRAGMA user_version={schema.VERSION}")
    (count,) = new.execute("SELECT count(*) FROM tracks").fetchone()
    return int(count)
