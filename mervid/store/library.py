"""The library: tracks, what was heard in them, and every value their preparations ever had.

Each edit is committed before this module returns, with `synchronous=FULL`: what the window shows is already on disk.
Plain SQL over Python's own sqlite3: the three tables need no mapper, and a window opens half a second sooner.
"""

from __future__ import annotations

import os
import sqlite3
import time
from collections.abc import Iterator, Sequence
from contextlib import closing, contextmanager
from pathlib import Path
from typing import Any

import attrs

from .. import places
from ..core.errors import Refused
from ..core.hearing import ear, evidence
from ..core.hearing.evidence import Evidence
from ..core.model.preparation import LOCKED_WORDS, Preparation, from_json, locked_in, to_json
from ..core.sound import waveform
from ..core.sound.decoding import Decoded
from ..core.sound.waveform import Waveform
from . import mending, schema, summary, values, words
from .file_paths import path_of
from .schema import StoreError
from .track import COLUMNS, READY, WAITING, Track, of_row

ADDED_AT_ONCE = 200
"""Files that are taken in by one transaction: some 20 ms."""
CACHE_KB = 16_000
"""Pages of the file that are kept in memory: the indexes that lists of 50,000 are sorted by."""
BUSY_MS = 3000
"""So long another program may hold the file before a write gives up."""


@attrs.frozen
class History:
    """Where a track stands in its undo list."""

    preparation: Preparation
    undo: str | None
    redo: str | None


class Library:
    """All tracks. Not for several threads; one process at a time writes.

    Parameters
    ----------
    path
        The database file; None keeps everything in memory.
    wait_ms
        So long a write waits for another program that writes.

    Raises
    ------
    StoreError
        The file can't be opened, is something else, or is newer than this program; later on from every method:
        it can't be read or written any more.
    """

    def __init__(self, path: Path | None, *, wait_ms: int = BUSY_MS) -> None:
        if path is not None:
            try:
                places.make_private(path.parent)
            except OSError as e:
                raise StoreError(f"The data folder {path.parent} can't be made: {e.strerror}.") from None
            schema.prepare(path)
        self.path = path
        try:
            if path is not None:
                places.make_private_file(path)
            self._db = sqlite3.connect(path or ":memory:", isolation_level=None, timeout=wait_ms / 1000)
            # a title with damaged bytes is a title with signs in it, and no reason to show none
            self._db.text_factory = lambda raw: raw.decode("utf-8", "replace")
            for pragma in ("journal_mode=WAL", "synchronous=FULL", "foreign_keys=ON", f"cache_size=-{CACHE_KB}"):
                self._db.execute(f"PRAGMA {pragma}")
            fresh = self._db.execute("PRAGMA user_version").fetchone()[0] == 0
            if fresh:
                self._db.executescript(f"BEGIN; {schema.TABLES} PRAGMA user_version={schema.VERSION}; COMMIT")
            # writes nothing new, but fails where writing is impossible
            self._db.execute(f"PRAGMA user_version={schema.VERSION}")
        except (sqlite3.Error, OSError) as e:
            raise self._failure(e) from None

    @classmethod
    def copy_of(cls, path: Path) -> Library:
        """A library in memory with all that `path` holds, where that can be read but not written."""
        copy = cls(None)
        if schema.version_of(path) == schema.VERSION:
            with closing(schema.read_only(path)) as source:
                source.backup(copy._db)
        return copy

    @classmethod
    def reader(cls, path: Path) -> Library | None:
        """The library as it lies on the disk, which nothing can be written to; None where it is another version's."""
        if schema.version_of(path) != schema.VERSION:
            return None
        library = cls.__new__(cls)
        library.path = path
        library._db = schema.read_only(path)
        library._db.text_factory = lambda raw: raw.decode("utf-8", "replace")
        return library

    def close(self) -> None:
        """Let go of the file."""
        self._db.close()

    def _failure(self, e: Exception) -> StoreError:
        why = str(e).split("\n")[0]
        hint = {
            "readonly": "the folder or file is read-only",
            "unable to open": "the folder can't be written",
            "full": "the disk is full",
            "disk I/O": "the disk can't be written (is it full?)",
            "locked": "another Mervid is using it",
        }
        reason = next((text for key, text in hint.items() if key in why), why)
        return StoreError(f"Your library {self.path or '(in memory)'} can't be saved: {reason}.")

    @contextmanager
    def writing(self) -> Iterator[sqlite3.Connection]:
        """One transaction: all of it is on disk afterwards, or nothing."""
        try:
            self._db.execute("BEGIN IMMEDIATE")
            try:
                yield self._db
                self._db.execute("COMMIT")
            except BaseException:
                if self._db.in_transaction:
                    self._db.execute("ROLLBACK")
                raise
        except sqlite3.Error as e:
            raise self._failure(e) from None

    @contextmanager
    def reading(self) -> Iterator[sqlite3.Connection]:
        """The connection itself, for what is no single query."""
        try:
            yield self._db
        except sqlite3.Error as e:
            raise self._failure(e) from None

    def rows(self, sql: str, values: Sequence[Any] = ()) -> list[tuple[Any, ...]]:
        try:
            return self._db.execute(sql, values).fetchall()
        except sqlite3.Error as e:
            raise StoreError(f"Your library {self.path or '(in memory)'} can't be read: {e}.") from None

    def row(self, sql: str, values: Sequence[Any] = ()) -> tuple[Any, ...] | None:
        rows = self.rows(sql, values)
        return rows[0] if rows else None

    def _head(self, track_id: int) -> int:
        row = self.row("SELECT head FROM tracks WHERE id=?", (track_id,))
        if row is None:
            raise StoreError("This track is not in the library any more.")
        return int(row[0])

    # tracks

    def add(self, path: Path) -> tuple[Track, bool]:
        """The track for `path`, and whether it is new."""
        ids, new = self.add_many([path])
        return self.track(ids[0]), bool(new)

    def add_many(self, paths: Sequence[Path]) -> tuple[list[int], list[int]]:
        """The track for each of `paths`, and which tracks are new; some hundred are on disk at once.

        A file that is named twice, also by another way to it, is one track.
        So large a lot is written in so little time that an edit in another thread hardly waits.
        """
        ids: list[int] = []
        new: list[int] = []
        for a in range(0, len(paths), ADDED_AT_ONCE):
            some, fresh = self._add_some(paths[a : a + ADDED_AT_ONCE])
            ids += some
            new += fresh
        return ids, new

    def _add_some(self, paths: Sequence[Path]) -> tuple[list[int], list[int]]:
        named = [os.fsencode(os.path.abspath(p)) for p in paths]
        raws = list(dict.fromkeys(named))
        with self.writing() as db:
            (before,) = db.execute("SELECT coalesce(max(id), 0) FROM tracks").fetchone()
            now = time.time()
            db.executemany(
                "INSERT OR IGNORE INTO tracks (path, title, added, changed, state, format) VALUES (?, ?, ?, ?, ?, ?)",
                [(raw, *values.named(raw, now)) for raw in raws],
            )
            find = "SELECT id, out FROM tracks WHERE path=?"
            found = [db.execute(find, (raw,)).fetchone() for raw in raws]
            back = [int(i) for i, out in found if out]
            db.executemany("UPDATE tracks SET out=0 WHERE id=?", [(i,) for i in back])
            number = {raw: int(i) for raw, (i, _) in zip(raws, found, strict=True)}
            new = [i for i in number.values() if i > before]
            words.index(db, new)
        known = {*new, *back}
        return [number[raw] for raw in named], [i for i in number.values() if i in known]

    def remove(self, track_id: int) -> None:
        """Forget a track, its evidence and its history; the recording itself is not touched."""
        with self.writing() as db:
            for table in ("history", "evidence", "broken", "locks", "prints"):
                db.execute(f"DELETE FROM {table} WHERE track_id=?", (track_id,))
            db.execute("DELETE FROM entries WHERE track=?", (track_id,))
            db.execute("DELETE FROM pairs WHERE ? IN (leaving, coming)", (track_id,))
            db.execute("DELETE FROM straightened WHERE ? IN (source, made)", (track_id,))
            words.forget(db, [track_id])
            db.execute("DELETE FROM tracks WHERE id=?", (track_id,))

    def ids(self) -> list[int]:
        """All tracks in the order they came, by number."""
        return [int(i) for (i,) in self.rows("SELECT id FROM tracks WHERE out=0 ORDER BY id")]

    def tracks(self, ids: Sequence[int] | None = None) -> list[Track]:
        """These tracks, or all, in the order they came."""
        if ids is None:
            return [of_row(r) for r in self.rows(f"SELECT {COLUMNS} FROM tracks WHERE out=0 ORDER BY id")]
        places = ",".join("?" * len(ids))
        return [of_row(r) for r in self.rows(f"SELECT {COLUMNS} FROM tracks WHERE id IN ({places}) ORDER BY id", ids)]

    def waiting(self) -> list[int]:
        """The tracks that wait to be heard, by number."""
        sql = "SELECT group_concat(id) FROM tracks WHERE state=? AND out=0"
        (text,) = self.rows(sql, (WAITING,))[0]
        return sorted(map(int, text.split(","))) if text else []

    def paths(self, ids: Sequence[int]) -> list[tuple[int, Path]]:
        """Number and file of each of these tracks that is there, some hundred at once."""
        places = ",".join("?" * len(ids))
        rows = self.rows(f"SELECT id, path FROM tracks WHERE id IN ({places}) ORDER BY id", ids)
        return [(int(i), path_of(path)) for i, path in rows]

    def every_path(self) -> list[tuple[int, Path]]:
        """Number and file of every track."""
        rows = self.rows("SELECT id, path FROM tracks WHERE out=0 ORDER BY id")
        return [(int(i), path_of(path)) for i, path in rows]

    def sources(self, among: Sequence[Path] | None = None) -> list[Path]:
        """The recordings of all tracks, or those of these paths that are one."""
        if among is None:
            rows = self.rows("SELECT path FROM tracks")
        else:
            raws = [os.fsencode(os.path.abspath(p)) for p in among]
            rows = self.rows(f"SELECT path FROM tracks WHERE path IN ({','.join('?' * len(raws))})", raws)
        return [path_of(raw) for (raw,) in rows]

    def any(self) -> bool:
        """Whether there is any track."""
        return bool(self.rows("SELECT 1 FROM tracks WHERE out=0 LIMIT 1"))

    def size(self) -> int:
        """How many tracks there are."""
        return int(self.rows("SELECT count(*) FROM tracks WHERE out=0")[0][0])

    def unsummed(self) -> int:
        """How many tracks of an older library have no summary yet; see `summary.fill`."""
        return summary.missing(self._db)

    def has(self, track_id: int) -> bool:
        """Whether the track is (still) there."""
        return self.row("SELECT 1 FROM tracks WHERE id=?", (track_id,)) is not None

    def track(self, track_id: int) -> Track:
        """One track."""
        row = self.row(f"SELECT {COLUMNS} FROM tracks WHERE id=?", (track_id,))
        if row is None:
            raise StoreError("This track is not in the library any more.")
        return of_row(row)

    def set_state(self, track_id: int, state: str, message: str = "") -> None:
        """Waiting, ready or failed, with the words to show."""
        with self.writing() as db:
            db.execute("UPDATE tracks SET state=?, message=? WHERE id=?", (state, message, track_id))

    def set_decoded(self, track_id: int, facts: Decoded) -> None:
        """Keep what decoding told. A moved or re-tagged file whose sound is known takes over that track's work."""
        with self.writing() as db:
            db.execute(values.SET_FACTS, (*values.facts(facts), track_id))

    def free_path(self, path: Path, track_id: int) -> bytes:
        """The bytes of an absolute path that is to be this track's. Raises `Refused` where another track has it."""
        raw = os.fsencode(os.path.abspath(path))
        taken = self.row("SELECT title FROM tracks WHERE path=? AND id<>?", (raw, track_id))
        if taken is not None:
            raise Refused(f"That recording is in your library already, as {taken[0]}.")
        return raw

    def set_file(self, track_id: int, path: Path, facts: Decoded) -> None:
        """Another file holds the sound of this track. Raises `Refused` where that is another track's already."""
        raw = self.free_path(path, track_id)
        with self.writing() as db:
            db.execute("UPDATE tracks SET path=? WHERE id=?", (raw, track_id))
            db.execute(values.SET_FACTS, (*values.facts(facts), track_id))

    def set_outlook(self, track_id: int, kind: str, doubts: int, finding: str = "") -> bool:
        """Keep the kind of time a track keeps, how many decisions it asks for, and the words of the first of them.

        Whether that is anything new.
        """
        known = self.row("SELECT kind, doubts, finding FROM tracks WHERE id=?", (track_id,))
        if known is None or known == (kind, doubts, finding):
            return False
        with self.writing() as db:
            db.execute("UPDATE tracks SET kind=?, doubts=?, finding=? WHERE id=?", (kind, doubts, finding, track_id))
        return True

    def known(self, identity: str, other_than: int) -> Track | None:
        """Another track with the same sound whose evidence is there."""
        sql = f"SELECT {COLUMNS} FROM tracks WHERE identity=? AND id<>? AND state=? LIMIT 1"
        row = self.row(sql, (identity, other_than, READY))
        return of_row(row) if row else None

    # evidence

    def set_evidence(self, track_id: int, heard: bytes, drawn: bytes, first: Preparation) -> None:
        """Keep evidence and waveform, and `first` as the preparation unless the track has one already."""
        fresh = self._head(track_id) < 0
        with self.writing() as db:
            db.execute(
                "INSERT OR REPLACE INTO evidence VALUES (?, ?, ?, ?)", (track_id, evidence.VERSION, heard, drawn)
            )
            if fresh:
                values.put(db, track_id, 0, "Analysis", first)
            db.execute("UPDATE tracks SET state=?, message='' WHERE id=?", (READY, track_id))

    def begin(self, track_id: int, name: str, value: Preparation) -> None:
        """The first preparation of a track that was made here: no hearing replaces it."""
        with self.writing() as db:
            values.put(db, track_id, 0, name, value)

    def evidence(self, track_id: int, *, lesser: bool = False) -> tuple[Evidence, Waveform] | None:
        """What was heard, and the waveform; None before analysis, or when an older or a lesser one must be redone.

        Parameters
        ----------
        lesser : be content with what was heard without the trained ear, even where it would serve now

        Raises
        ------
        FormatError
            What is stored is damaged.
        """
        row = self.row("SELECT version, heard, waveform FROM evidence WHERE track_id=?", (track_id,))
        found = None if row is None else evidence.standing(row[0], row[1])
        if row is None or found is None or (found.problem and not lesser and not ear.problem()):
            return None
        return found, waveform.from_bytes(row[2])

    # preparations

    def _step(self, track_id: int, seq: int) -> tuple[str, str] | None:
        """Name and value of one step of a track's history."""
        row = self.row("SELECT name, value FROM history WHERE track_id=? AND seq=?", (track_id, seq))
        return (str(row[0]), str(row[1])) if row is not None else None

    def history(self, track_id: int) -> History:
        """The current preparation and the names of the edits that undo and redo would touch."""
        head = self._head(track_id)
        here = self._step(track_id, head) if head >= 0 else None
        if here is None:
            return History(Preparation(), None, None)
        after = self._step(track_id, head + 1)
        return History(from_json(here[1]), here[0] if head > 0 else None, after[0] if after else None)

    def mend(self, track_id: int) -> str:
        """Put the newest step that can be read in force, and what comes after it aside; words for that."""
        with self.writing() as db:
            seq, name, value, lost = mending.put_aside(db, track_id)
            if seq < 0:
                values.put(db, track_id, 0, name, value)
            else:
                values.summarise(db, track_id, seq, summary.of(value))
        return mending.words(lost, seq, name)

    def names(self, track_id: int) -> tuple[list[str], int]:
        """The names of all edits that are kept, oldest first, and how many of them are in force."""
        rows = self.rows("SELECT name FROM history WHERE track_id=? AND seq>0 ORDER BY seq", (track_id,))
        return [str(name) for (name,) in rows], max(0, self._head(track_id))

    def first(self, track_id: int) -> Preparation:
        """What analysis proposed at the beginning."""
        step = self._step(track_id, 0)
        return from_json(step[1]) if step is not None else Preparation()

    def last_locked(self, track_id: int) -> Preparation | None:
        """The preparation as it was when the track was last locked."""
        row = self.row("SELECT value FROM locks WHERE track_id=?", (track_id,))
        return from_json(row[0]) if row is not None else None

    def edit(self, track_id: int, name: str, value: Preparation) -> None:
        """Make `value` the current preparation; what had been undone is forgotten.

        Raises `Refused` where the track is locked, whoever asks.
        """
        head = self._head(track_id)
        here = self._step(track_id, head) if head >= 0 else None
        if here is not None and locked_in(here[1]):
            raise Refused(LOCKED_WORDS)
        with self.writing() as db:
            db.execute("DELETE FROM history WHERE track_id=? AND seq>?", (track_id, max(head, -1)))
            values.put(db, track_id, head + 1, name, value)

    def replace(self, track_id: int, value: Preparation) -> None:
        """Put `value` in the place of the current preparation: for what is no edit, such as locking."""
        head = self._head(track_id)
        step = self._step(track_id, head)
        assert step is not None
        with self.writing() as db:
            values.put(db, track_id, head, step[0], value)
            if value.locked:
                db.execute("INSERT OR REPLACE INTO locks VALUES (?, ?)", (track_id, to_json(value)))

    def _stand(self, track_id: int, seq: int) -> None:
        """Put another step of the history in force."""
        step = self._step(track_id, seq)
        assert step is not None
        with self.writing() as db:
            values.summarise(db, track_id, seq, summary.of_text(step[1]))

    def undo(self, track_id: int) -> bool:
        """One step back; False at the beginning."""
        head = self._head(track_id)
        if head > 0:
            self._stand(track_id, head - 1)
        return head > 0

    def redo(self, track_id: int) -> bool:
        """One step forward; False at the end."""
        head = self._head(track_id)
        there = head >= 0 and self._step(track_id, head + 1) is not None
        if there:
            self._stand(track_id, head + 1)
        return there

    def stand_at(self, track_id: int, number: int) -> bool:
        """Undo or redo until `number` edits are in force; False where they are already."""
        names, done = self.names(track_id)
        goal = max(0, min(number, len(names)))
        if self._head(track_id) < 0 or goal == done:
            return False
        self._stand(track_id, goal)
        return True
