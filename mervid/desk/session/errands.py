"""The two processes that work for Deliver: one looks and plans, one writes, so that looking never waits for writing."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

from PyQt6.QtCore import QObject, pyqtSignal

from ...jobs.errands import Errand
from ...store.library import Library

NO_LIBRARY = "Your library is open in another window: what leaves the program is written there."


class Errands(QObject):
    """`moved` when more of what is written is done.

    Attributes
    ----------
    looks, hands : the processes
    """

    moved = pyqtSignal()

    def __init__(self, library: Library) -> None:
        super().__init__()
        self._library = library
        self.looks, self.hands = Errand("looks"), Errand("hands")
        self._shares = (0.0, 0.0, 0, 0)

    @property
    def path(self) -> Path | None:
        """The library's file; None where there is none to read."""
        return self._library.path

    def look(self, tell: Callable[[object], None], function: Callable[..., Any], *args: Any) -> int:
        """Have the looking process do something; its number, or 0 where there is no library to read."""
        return self.looks.ask(tell, function, self.path, *args) if self.path is not None else 0

    def write(self, tell: Callable[[object], None], function: Callable[..., Any], *args: Any) -> int:
        """Have the writing process do something; its number, or 0 where there is no library to read."""
        return self.hands.ask(tell, function, self.path, *args) if self.path is not None else 0

    def poll(self) -> None:
        """Hear what both say."""
        self.looks.poll()
        self.hands.poll()
        shares = (round(self.looks.share, 3), round(self.hands.share, 3), self.looks.busy, self.hands.busy)
        if shares != self._shares:
            self._shares = shares
            self.moved.emit()

    def close(self) -> None:
        """End both."""
        self.looks.close()
        self.hands.close()
