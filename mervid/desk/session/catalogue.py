"""The library as the window sees it: every write goes through here and tells which track changed, and what of it."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from PyQt6.QtCore import QObject, pyqtSignal

from ...core.model.preparation import Preparation
from ...core.sound.decoding import Decoded
from ...jobs import keeping
from ...jobs.worker import Done
from ...store.library import Library
from ...store.track import FAILED, READY
from .. import settings

STATE, PREPARATION, PROGRESS = "state", "preparation", "progress"
"""What of a track changed: how far its hearing is, what was decided about it, or only the share done."""


class Catalogue(QObject):
    """`added`, `removed`, `many_changed` tell tracks, `changed` one and what of it. All raise `StoreError`."""

    added = pyqtSignal(list)
    changed = pyqtSignal(int, str)
    many_changed = pyqtSignal(list)
    removed = pyqtSignal(list)
    refilled = pyqtSignal()

    def __init__(self, library: Library) -> None:
        super().__init__()
        self.library = library

    # tracks

    def add(self, paths: Sequence[Path]) -> list[int]:
        """Take files in, all at once; the tracks in the order of the files."""
        ids, new = self.library.add_many(paths)
        self.tell_added(new)
        return ids

    def tell_added(self, ids: list[int]) -> None:
        """These tracks are new, whoever took them in."""
        if ids:
            self.added.emit(ids)

    def tell_removed(self, ids: list[int]) -> None:
        """These tracks were taken out of the library."""
        if ids:
            self.removed.emit(ids)

    def reread(self) -> None:
        """Others wrote to the library: lists show it anew."""
        self.refilled.emit()

    def tell_many(self, ids: list[int]) -> None:
        """Others wrote to all of these tracks: what lists show of them is another."""
        if ids:
            self.many_changed.emit(ids)

    def tell(self, track_id: int, what: str) -> None:
        """Others wrote to this track, or its progress is another."""
        self.changed.emit(track_id, what)

    # what is heard

    def set_state(self, track_id: int, state: str, message: str = "") -> None:
        """Waiting, ready or failed, with the words to show."""
        self.library.set_state(track_id, state, message)
        self.changed.emit(track_id, STATE)

    def set_decoded(self, track_id: int, told: Decoded) -> None:
        """Keep what decoding told."""
        self.library.set_decoded(track_id, told)
        self.changed.emit(track_id, STATE)

    def set_file(self, track_id: int, path: Path, told: Decoded) -> None:
        """Another file holds the sound of this track."""
        self.library.set_file(track_id, path, told)
        self.changed.emit(track_id, STATE)

    def set_heard(self, track_id: int, done: Done) -> None:
        """Keep what was heard; the same sound under another name brings the work done on it along."""
        keeping.keep(self.library, track_id, done, settings.tolerance())
        self.changed.emit(track_id, STATE)

    def set_outlook(self, track_id: int, kind: str, doubts: int, finding: str) -> None:
        """Keep the kind of time a track keeps, how many decisions it asks for, and the words of the first."""
        if self.library.set_outlook(track_id, kind, doubts, finding):
            self.changed.emit(track_id, STATE)

    def fail(self, track_id: int, message: str) -> None:
        """Hearing a track came to nothing; one that was heard before stays as it is."""
        if self.library.track(track_id).state != READY:
            self.set_state(track_id, FAILED, message)
        else:
            self.changed.emit(track_id, STATE)

    # preparations

    def edit(self, track_id: int, name: str, value: Preparation) -> None:
        """Make `value` the current preparation, under the name of its edit. Raises `Refused` where it is locked."""
        self.library.edit(track_id, name, value)
        self.changed.emit(track_id, PREPARATION)

    def replace(self, track_id: int, value: Preparation) -> None:
        """Put `value` in the place of the current preparation: for what is no edit."""
        self.library.replace(track_id, value)
        self.changed.emit(track_id, PREPARATION)

    def undo(self, track_id: int) -> bool:
        """One step back; False at the beginning."""
        return self._told(track_id, self.library.undo(track_id))

    def redo(self, track_id: int) -> bool:
        """One step forward; False at the end."""
        return self._told(track_id, self.library.redo(track_id))

    def stand_at(self, track_id: int, number: int) -> bool:
        """Undo or redo until `number` edits are in force; False where they are already."""
        return self._told(track_id, self.library.stand_at(track_id, number))

    def _told(self, track_id: int, moved: bool) -> bool:
        if moved:
            self.changed.emit(track_id, PREPARATION)
        return moved
