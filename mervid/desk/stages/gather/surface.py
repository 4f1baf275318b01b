"""What the Gather stage shows: lists at the left, the table under its search, and at the right what is known."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from ....core.library.filters import Filter
from ....jobs.tag_reader import covers_folder
from ...session.session import Session
from ...widgets.track_table import TrackTable
from ...widgets.value_line import Field, ValueLine
from .list_head import ListHead
from .panel import GatherPanel
from .queue_strip import QueueStrip
from .search_bar import SearchBar
from .shelf_tree import ShelfSide


class GatherSurface(QWidget):
    """The parts of the stage, side by side; `entered` when a person goes on to work on the open track."""

    entered = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("paper")
        covers = covers_folder(session.cache)
        self.value_line = ValueLine()
        self.value_line.refused.connect(session.say.refused)
        self.side = ShelfSide(session)
        self.queue = QueueStrip(session)
        self.side.column.addWidget(self.queue)
        below = QHBoxLayout()
        below.setContentsMargins(10, 0, 10, 8)
        below.addWidget(self.side.new)
        below.addStretch(1)
        self.side.column.addLayout(below)
        self.head, self.search = ListHead(session), SearchBar(session, self.ask_filter)
        self.table = TrackTable(session, covers)
        self.panel = GatherPanel(session, covers)
        middle = QVBoxLayout()
        middle.setContentsMargins(0, 0, 0, 0)
        middle.setSpacing(0)
        for widget in (self.head, self.search, self.value_line):
            middle.addWidget(widget)
        middle.addWidget(self.table, 1)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(self.side)
        row.addLayout(middle, 1)
        row.addWidget(self.panel)
        session.selection.changed.connect(self._show_panel)
        c = session.catalogue
        c.changed.connect(self._one_changed)
        c.many_changed.connect(lambda _: self._show_panel())
        self._session = session

    def _show_panel(self) -> None:
        if self.isVisible():
            self.panel.show_chosen()

    def _one_changed(self, track_id: int, what: str) -> None:
        if what != "progress" and track_id in self._session.selection.ids[:1]:
            self._show_panel()

    def ask_filter(self, words: str, read: Callable[[str], Filter], take: Callable[[Filter], None]) -> None:
        """Let the value of a filter be typed."""
        self.value_line.ask("Only", (Field(words, "", read, 150),), take)

    def ask_text(self, title: str, name: str, text: str, take: Callable[[str], object]) -> None:
        """Let a name or another text be typed."""
        self.value_line.ask(title, (Field(name, text, str, 280),), take)
