"""What is said to the person at the desk: what was refused, what went wrong, what is done."""

from __future__ import annotations

from PyQt6.QtCore import QObject, pyqtSignal


class Messages(QObject):
    """`said` with the kind of message and its words."""

    said = pyqtSignal(str, str)

    def tell(self, kind: str, text: str) -> None:
        """A message of any kind."""
        self.said.emit(kind, text)

    def refused(self, text: str) -> None:
        """Something asked for can't be: why, and what can."""
        self.said.emit("refused", text)

    def problem(self, text: str) -> None:
        """Something went wrong that the person must know of."""
        self.said.emit("problem", text)

    def done(self, text: str) -> None:
        """Something was done that can't be seen otherwise."""
        self.said.emit("done", text)
