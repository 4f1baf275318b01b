"""The tracks that are chosen in the list, for what is done to several at once."""

from __future__ import annotations

from PyQt6.QtCore import QObject, pyqtSignal


class Selection(QObject):
    """Numbers of tracks, in the order of the list."""

    changed = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.ids: list[int] = []

    def choose(self, ids: list[int]) -> None:
        """These are chosen."""
        if ids != self.ids:
            self.ids = ids
            self.changed.emit()
