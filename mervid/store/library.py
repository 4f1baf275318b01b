"""The library: tracks, what was heard in them, and every value their preparations ever had.

Each edit is committed before this module returns, with `synchronous=FULL`: what the window shows is already on disk.
"""

from __future__ import annotations

import os
import sqlite3
import time
from pathlib import Path
from typing import Any, cast

import attrs
from sqlalchemy import create_engine, delete, event, func, select
from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session

from ..core.errors import Refused
from ..core.hearing import ear, evidence
from ..core.hearing.evidence import Evidence
from ..core.model.preparation import LOCKED_WORDS, Preparation, from_json, locked_in, to_json
from ..core.sound import waveform
from ..core.sound.decoding import Decoded, shown
from ..core.sound.waveform import Waveform
from . import schema
from .schema import EvidenceRow, HistoryRow, StoreError, TrackRow

WAITING, READY, FAILED = "waiting", "ready", "failed"


@attrs.frozen
class Track:
    """One row of the track list."""

    id: int
    path: Path
    title: str
    state: str
    message: str
    identity: str
    rate: int
    frames: int
    delay_known: bool
    head: int
    kind: str = ""
    doubts: int = 0

    @property
    def duration(self) -> float:
        """Length in s; 0 until decoded."""
        return self.frames / self.rate if self.rate else 0.0


@attrs.frozen
class History:
    """Where a track stands in its undo list."""

    preparation: Preparation
    undo: str | None
    redo: str | None


def title_of(path: Path) -> str:
    """A file's name without its ending, fit for the screen."""
    return os.path.splitext(shown(path))[0]


class Library:
    """All tracks. Not for several threads; one process at a time writes.

    Parameters
    ----------
    path
        The database file; None keeps everything in memory.

    Raises
    ------
    StoreError
        The file can't be opened, is something else, or is newer than this program.
    """

    def __init__(self, path: Path | None) -> None:
        if path is not None:
            try:
                path.parent.mkdir(parents=True, exist_ok=True)
            except OSError as e:
                raise StoreError(f"The data folder {path.parent} can't be made: {e.strerror}.") from None
            schema.prepare(path)
        self.path = path
        self._engine = create_engine(f"sqlite:///{path}" if path else "sqlite://")
        event.listen(self._engine, "connect", _on_connect)
        try:
            with self._engine.begin() as db:
                fresh = db.exec_driver_sql("PRAGMA user_version").scalar() == 0
                schema.Base.metadata.create_all(db)
                if fresh:
                    db.exec_driver_sql(f"PRAGMA user_version={schema.VERSION}")
            with self._engine.begin() as db:
                # writes nothing new, but fails where writing is impossible
                db.exec_driver_sql(f"PRAGMA user_version={schema.VERSION}")
        except SQLAlchemyError as e:
            raise self._failure(e) from None
        self._session = Session(self._engine, expire_on_commit=True)

    @classmethod
    def copy_of(cls, path: Path) -> Library:
        """A library in memory with all that `path` holds, where that can be read but not written."""
        copy = cls(None)
        if schema.version_of(path) == schema.VERSION:
            source = schema.read_only(path)
            raw = copy._engine.raw_connection()
            source.backup(cast(sqlite3.Connection, raw.driver_connection))
            raw.close()
            source.close()
        return copy

    def close(self) -> None:
        """Let go of the file."""
        self._session.close()
        self._engine.dispose()

    def _failure(self, e: Exception) -> StoreError:
        why = str(getattr(e, "orig", None) or e).split("\n")[0]
        hint = {
            "readonly": "the folder or file is read-only",
            "unable to open": "the folder can't be written",
            "full": "the disk is full",
            "disk I/O": "the disk can't be written (is it full?)",
            "locked": "another Mervid is using it",
        }
        reason = next((text for key, text in hint.items() if key in why), why)
        return StoreError(f"Your library {self.path or '(in memory)'} can't be saved: {reason}.")

    def _commit(self) -> None:
        try:
            self._session.commit()
        except SQLAlchemyError as e:
            self._session.rollback()
            raise self._failure(e) from None

    def _row(self, track_id: int) -> TrackRow:
        row = self._session.get(TrackRow, track_id)
        if row is None:
            raise StoreError("This track is not in the library any more.")
        return row

    # tracks

    def add(self, path: Path) -> tuple[Track, bool]:
        """The track for `path`, and whether it is new."""
        raw = os.fsencode(os.path.abspath(path))
        row = self._session.scalar(select(TrackRow).where(TrackRow.path == raw))
        if row is not None:
            return _track(row), False
        row = TrackRow(path=raw, title=title_of(path), added=time.time(), state=WAITING)
        self._session.add(row)
        self._commit()
        return _track(row), True

    def remove(self, track_id: int) -> None:
        """Forget a track, its evidence and its history; the recording itself is not touched."""
        for table in (HistoryRow, EvidenceRow):
            self._session.execute(delete(table).where(table.track_id == track_id))
        self._session.execute(delete(TrackRow).where(TrackRow.id == track_id))
        self._commit()

    def tracks(self) -> list[Track]:
        """All tracks in the order they came."""
        return [_track(r) for r in self._session.scalars(select(TrackRow).order_by(TrackRow.id))]

    def has(self, track_id: int) -> bool:
        """Whether the track is (still) there."""
        return self._session.get(TrackRow, track_id) is not None

    def track(self, track_id: int) -> Track:
        """One track."""
        return _track(self._row(track_id))

    def set_state(self, track_id: int, state: str, message: str = "") -> None:
        """Waiting, ready or failed, with the words to show."""
        row = self._row(track_id)
        row.state, row.message = state, message
        self._commit()

    def set_decoded(self, track_id: int, facts: Decoded) -> None:
        """Keep what decoding told. A moved or re-tagged file whose sound is known takes over that track's work."""
        row = self._row(track_id)
        row.identity, row.rate, row.frames = facts.identity, facts.rate, facts.frames
        row.delay_known = facts.delay_known
        self._commit()

    def set_outlook(self, track_id: int, kind: str, doubts: int) -> None:
        """Keep what the list shows of a track: the kind of time it keeps, and how many decisions it asks for."""
        row = self._row(track_id)
        if (row.kind, row.doubts) != (kind, doubts):
            row.kind, row.doubts = kind, doubts
            self._commit()

    def known(self, identity: str, other_than: int) -> Track | None:
        """Another track with the same sound whose evidence is there."""
        row = self._session.scalar(
            select(TrackRow).where(TrackRow.identity == identity, TrackRow.id != other_than, TrackRow.state == READY)
        )
        return _track(row) if row else None

    def copy_work(self, source: int, target: int) -> None:
        """Give `target` the evidence, preparation and history of `source` (same sound, another file)."""
        row = self._session.get(EvidenceRow, source)
        if row is not None:
            self._session.merge(
                EvidenceRow(track_id=target, version=row.version, heard=row.heard, waveform=row.waveform)
            )
        for h in self._session.scalars(select(HistoryRow).where(HistoryRow.track_id == source)).all():
            self._session.merge(HistoryRow(track_id=target, seq=h.seq, name=h.name, made=h.made, value=h.value))
        to, origin = self._row(target), self._row(source)
        to.head, to.state, to.message = origin.head, READY, ""
        to.kind, to.doubts, to.locked = origin.kind, origin.doubts, origin.locked
        self._commit()

    # evidence

    def set_evidence(self, track_id: int, heard: bytes, drawn: bytes, first: Preparation) -> None:
        """Keep evidence and waveform, and `first` as the preparation unless the track has one already."""
        self._session.merge(EvidenceRow(track_id=track_id, version=evidence.VERSION, heard=heard, waveform=drawn))
        row = self._row(track_id)
        if row.head < 0:
            self._session.add(_history(track_id, 0, "Analysis", first))
            row.head = 0
        row.state, row.message = READY, ""
        self._commit()

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
        row = self._session.get(EvidenceRow, track_id)
        if row is None or row.version != evidence.VERSION:
            return None
        found = evidence.from_bytes(row.heard)
        if found.problem and not lesser and not ear.problem():
            return None
        return found, waveform.from_bytes(row.waveform)

    # preparations

    def history(self, track_id: int) -> History:
        """The current preparation and the names of the edits that undo and redo would touch."""
        head = self._row(track_id).head
        if head < 0:
            return History(Preparation(), None, None)
        here = self._session.get(HistoryRow, (track_id, head))
        after = self._session.get(HistoryRow, (track_id, head + 1))
        assert here is not None
        return History(from_json(here.value), here.name if head > 0 else None, after.name if after else None)

    def names(self, track_id: int) -> tuple[list[str], int]:
        """The names of all edits that are kept, oldest first, and how many of them are in force."""
        steps = select(HistoryRow.name).where(HistoryRow.track_id == track_id, HistoryRow.seq > 0)
        return list(self._session.scalars(steps.order_by(HistoryRow.seq))), max(0, self._row(track_id).head)

    def first(self, track_id: int) -> Preparation:
        """What analysis proposed at the beginning."""
        row = self._session.get(HistoryRow, (track_id, 0))
        return from_json(row.value) if row is not None else Preparation()

    def last_locked(self, track_id: int) -> Preparation | None:
        """The preparation as it was when the track was last locked."""
        kept = self._row(track_id).locked
        return from_json(kept) if kept else None

    def edit(self, track_id: int, name: str, value: Preparation) -> None:
        """Make `value` the current preparation; what had been undone is forgotten.

        Raises `Refused` where the track is locked, whoever asks.
        """
        row = self._row(track_id)
        here = self._session.get(HistoryRow, (track_id, row.head)) if row.head >= 0 else None
        if here is not None and locked_in(here.value):
            raise Refused(LOCKED_WORDS)
        self._session.execute(
            delete(HistoryRow).where(HistoryRow.track_id == track_id, HistoryRow.seq > max(row.head, -1))
        )
        row.head += 1
        self._session.add(_history(track_id, row.head, name, value))
        self._commit()

    def replace(self, track_id: int, value: Preparation) -> None:
        """Put `value` in the place of the current preparation: for what is no edit, such as locking."""
        track = self._row(track_id)
        row = self._session.get(HistoryRow, (track_id, track.head))
        assert row is not None
        row.value = to_json(value)
        if value.locked:
            track.locked = row.value
        self._commit()

    def undo(self, track_id: int) -> bool:
        """One step back; False at the beginning."""
        row = self._row(track_id)
        if row.head <= 0:
            return False
        row.head -= 1
        self._commit()
        return True

    def stand_at(self, track_id: int, number: int) -> bool:
        """Undo or redo until `number` edits are in force; False where they are already."""
        names, done = self.names(track_id)
        row = self._row(track_id)
        goal = max(0, min(number, len(names)))
        if row.head < 0 or goal == done:
            return False
        row.head = goal
        self._commit()
        return True

    def redo(self, track_id: int) -> bool:
        """One step forward; False at the end."""
        row = self._row(track_id)
        last = self._session.scalar(select(func.max(HistoryRow.seq)).where(HistoryRow.track_id == track_id))
        if last is None or row.head >= last:
            return False
        row.head += 1
        self._commit()
        return True


def _on_connect(connection: Any, _: Any) -> None:
    cursor = connection.cursor()
    for pragma in ("journal_mode=WAL", "synchronous=FULL", "foreign_keys=ON", "busy_timeout=3000"):
        cursor.execute(f"PRAGMA {pragma}")
    cursor.close()


def _history(track_id: int, seq: int, name: str, value: Preparation) -> HistoryRow:
    return HistoryRow(track_id=track_id, seq=seq, name=name, made=time.time(), value=to_json(value))


def _track(row: TrackRow) -> Track:
    return Track(
        id=row.id,
        path=Path(os.fsdecode(row.path)),
        title=row.title,
        state=row.state,
        message=row.message,
        identity=row.identity,
        rate=row.rate,
        frames=row.frames,
        delay_known=row.delay_known,
        head=row.head,
        kind=row.kind,
        doubts=row.doubts,
    )
