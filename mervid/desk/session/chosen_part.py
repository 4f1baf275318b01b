"""The part of the open track that a person chose for what comes next."""

from __future__ import annotations

from PyQt6.QtCore import QObject, pyqtSignal

from .open_track import OpenTrack

Part = tuple[float, float]
"""Begin and end, s."""


class ChosenPart(QObject):
    """`value` is None where the whole track is meant."""

    changed = pyqtSignal()

    def __init__(self, track: OpenTrack) -> None:
        super().__init__()
        self.value: Part | None = None
        track.opened.connect(lambda: self.choose(None))

    def choose(self, part: Part | None) -> None:
        """Choose a part, or let go of it."""
        self.value = part
        self.changed.emit()
