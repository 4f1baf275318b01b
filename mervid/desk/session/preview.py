"""What is shown in the place of what is saved: the picture of a drag, of a fix, of another reading."""

from __future__ import annotations

from PyQt6.QtCore import QObject, pyqtSignal

from ...core.model.preparation import Preparation

DRAG, FIX, OPINION, COMPARISON = "drag", "fix", "opinion", "comparison"


class Preview(QObject):
    """One value at a time, and who shows it: who comes last has the picture, and only that one can take it away."""

    changed = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.value: Preparation | None = None
        self.owner = ""

    def show(self, owner: str, value: Preparation) -> None:
        """Show a value without saving it."""
        if value is not self.value or owner != self.owner:
            self.value, self.owner = value, owner
            self.changed.emit()

    def clear(self, owner: str = "") -> None:
        """Show what is saved again; with an owner, only where that one has the picture."""
        if self.value is not None and (not owner or owner == self.owner):
            self.forget()
            self.changed.emit()

    def forget(self) -> None:
        """What is saved has changed, and tells so itself."""
        self.value, self.owner = None, ""
