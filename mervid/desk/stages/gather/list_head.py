"""Over the table while a list is seen: how long it lasts, what is unready in it, and notes on it."""

from __future__ import annotations

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QVBoxLayout

from ....core.errors import MervidError
from ....store import lists
from ...session.catalogue import PROGRESS
from ...session.session import Session
from ...theme.figures import clock
from ...theme.tr import tr
from ...theme.words import Words, tip_of
from ...widgets.text_fields import TextField

SETTLES_MS = 150


def span_words(begins: str, seconds: float) -> str:
    """From when to when a list plays: '22:30 to 01:11'."""
    hours, _, minutes = begins.partition(":")
    end = (int(hours) * 60 + int(minutes) + round(seconds / 60)) % 1440
    return f"{begins} to {end // 60:02d}:{end % 60:02d}"


def length_words(seconds: float) -> str:
    """Hours and minutes of a list."""
    minutes = round(seconds / 60)
    return tr("{0} h {1:02d} min").format(minutes // 60, minutes % 60) if minutes >= 60 else clock(seconds)


class ListHead(QFrame):
    """Hidden while the whole library is seen."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("listHead")
        self._session, self._shown = session, session.shown
        self.title, self.stands = Words(), Words()
        self.title.setObjectName("title")
        self.stands.setObjectName("faint")
        self.begins, self.notes = TextField(), TextField()
        self.begins.setPlaceholderText(tr("begins at, as 22:30"))
        self.begins.setAccessibleName(tr("When the first track of the list is played"))
        self.begins.setFixedWidth(132)
        self.notes.setPlaceholderText(tr("Notes on this list"))
        self.notes.setAccessibleName(tr("Notes on the list"))
        row = QHBoxLayout()
        row.setSpacing(12)
        row.addWidget(self.title)
        row.addWidget(self.stands, 1)
        row.addWidget(self.begins)
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 6, 12, 2)
        column.setSpacing(4)
        column.addLayout(row)
        column.addWidget(self.notes)
        self._of = 0
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(SETTLES_MS)
        self._timer.timeout.connect(self.show_list)
        self.begins.finished.connect(self._take_begins)
        self.notes.finished.connect(self._take_notes)
        self._shown.changed.connect(self.show_list)
        for signal in (session.bookcase.changed, session.catalogue.changed, session.catalogue.many_changed):
            signal.connect(self._stir)
        self.show_list()

    def _stir(self, *what: object) -> None:
        if PROGRESS not in what and not self._timer.isActive():
            self._timer.start()

    def show_list(self) -> None:
        """Say what is to be said of the list that is seen."""
        number = self._shown.number
        if number != self._of:
            # what was typed so far is of the list that was seen until now
            self.begins.finish()
            self.notes.finish()
            self._of = number
        self.setVisible(bool(number))
        if not number:
            return
        try:
            shelf = self._session.bookcase.lists.one(number)
            seconds = self._session.bookcase.lists.seconds(number) if shelf.kind == lists.LIST else 0.0
        except MervidError:
            self.hide()
            return
        metrics = self.title.fontMetrics()
        self.title.setText(metrics.elidedText(shelf.name, Qt.TextElideMode.ElideRight, 320))
        self.title.setToolTip(tip_of(shelf.name))
        held = shelf.kind == lists.LIST
        self.begins.setVisible(held)
        self.notes.setVisible(held)
        for edit, text in ((self.begins, shelf.begins), (self.notes, shelf.notes)):
            edit.show_text(text)
        if not held:
            self.stands.setText(tr("fills itself") if shelf.kind == lists.SEARCH else tr("all lists in this folder"))
            return
        said = self._session.bookcase.stands(number).removeprefix(f"{shelf.name}: ")
        parts = [
            length_words(seconds) if seconds else "",
            span_words(shelf.begins, seconds) if shelf.begins else "",
            said,
        ]
        self.stands.setText("    ".join(p for p in parts if p))

    def _take_begins(self, text: str) -> None:
        self._session.bookcase.set_begins(self._of, text)
        self.show_list()

    def _take_notes(self, text: str) -> None:
        self._session.bookcase.set_notes(self._of, text)
