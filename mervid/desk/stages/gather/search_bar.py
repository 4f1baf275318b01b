"""One line to type in, and chips that say in words what is left out."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QLineEdit, QMenu, QPushButton, QToolButton, QVBoxLayout, QWidget

from ....core.errors import Refused
from ....core.library import filters
from ....core.library.filters import Filter
from ...session.session import Session
from ...theme.tr import tr
from ...theme.words import Words, tip_of
from ...widgets.flow import Flow
from . import filter_menu

TYPES_MS = 0
"""What is typed is looked for in the next turn: a fast hand's second letter is looked for with the first."""


class _Line(QLineEdit):
    """Down goes to the table, Escape lets go of the words."""

    left_down = pyqtSignal()

    def keyPressEvent(self, e: QKeyEvent | None) -> None:
        if e is not None and e.key() in (Qt.Key.Key_Down, Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.left_down.emit()
        elif e is not None and e.key() == Qt.Key.Key_Escape:
            if self.text():
                self.clear()
            else:
                self.left_down.emit()
        else:
            super().keyPressEvent(e)


class SearchBar(QFrame):
    """Emits `to_table` when the hands go on to what was found, and `kept` for a name under which the search is kept."""

    to_table = pyqtSignal()
    keep_wanted = pyqtSignal()

    def __init__(self, session: Session, ask: filter_menu.Ask) -> None:
        super().__init__()
        self.setObjectName("searchBar")
        self._ask = ask
        self._session, self._shown = session, session.shown
        self.line = _Line()
        self.line.setObjectName("search")
        self.line.setPlaceholderText(tr("Find: title, artists, album …   or   tempo:110-118   key:Am   genre:disco"))
        self.line.setAccessibleName(tr("Find tracks"))
        self.line.setClearButtonEnabled(True)
        self.count = Words()
        self.count.setObjectName("faint")
        self.add = self._button(tr("Only…"), tr("Ask for more: tempo, key, readiness, genre and others"), self._fill)
        self.keep = QPushButton(tr("Keep as standing search"))
        self.keep.setObjectName("plain")
        self.keep.setToolTip(tr("Its list fills itself with what these words and filters find"))
        self.keep.clicked.connect(self.keep_wanted)
        self.chips = QWidget()
        self._flow = Flow(self.chips)
        above = QHBoxLayout()
        above.setSpacing(8)
        above.addWidget(self.line, 1)
        above.addWidget(self.add)
        above.addWidget(self.count)
        below = QHBoxLayout()
        below.addWidget(self.chips, 1)
        below.addWidget(self.keep, 0, Qt.AlignmentFlag.AlignTop)
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 8, 12, 6)
        column.setSpacing(6)
        column.addLayout(above)
        column.addLayout(below)
        self._typing = QTimer(self)
        self._typing.setSingleShot(True)
        self._typing.setInterval(TYPES_MS)
        self._typing.timeout.connect(self._look)
        self.line.textEdited.connect(lambda _: self._typing.start())
        self.line.textChanged.connect(lambda text: self._typing.start() if not text else None)
        self.line.left_down.connect(self._leave)
        self._shown.changed.connect(self.show_search)
        self._shown.grown.connect(self._show_count)
        self.show_search()

    def _button(self, text: str, tip: str, fill: Callable[[QMenu], None]) -> QToolButton:
        b = QToolButton()
        b.setText(text)
        b.setToolTip(tip)
        b.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        menu = QMenu(b)
        menu.aboutToShow.connect(menu.clear)
        menu.aboutToShow.connect(lambda: fill(menu))
        b.setMenu(menu)
        return b

    def _fill(self, menu: QMenu) -> None:
        filter_menu.fill(menu, self._session, self._shown.add_filter, self._ask, self)

    def _look(self) -> None:
        """Words are looked for as they are; what is typed as name:value becomes a chip once a space follows it."""
        text = self.line.text()
        done, _, last = text.rpartition(" ")
        if ":" in done:
            self._take_typed(done, f" {last}" if last else "")
            return
        self._shown.set_words("" if ":" in last and not done else done if ":" in last else text)

    def _leave(self) -> None:
        if ":" in self.line.text():
            self._take_typed(self.line.text(), "")
        self.to_table.emit()

    def _take_typed(self, text: str, rest: str) -> None:
        try:
            found = filters.parse(text)
        except Refused as e:
            self._session.say.refused(str(e))
            return
        for f in found.filters:
            self._shown.add_filter(f)
        words = (found.words + rest).strip()
        self.line.setText(f"{words} " if words and not rest else words)
        self._shown.set_words(words)

    def show_search(self) -> None:
        """Draw what is asked for."""
        search = self._shown.search
        if search.words != self.line.text().strip() and ":" not in self.line.text():
            self.line.setText(search.words)
        if tuple(self.shown_filters) != search.filters:
            self._draw_chips(search.filters)
        any_filter = bool(search.filters)
        self.chips.setVisible(any_filter)
        self.keep.setVisible(not search.empty)
        self._show_count()

    @property
    def shown_filters(self) -> list[Filter]:
        """The filters that have a chip."""
        return [chip.filter for chip in self.findChildren(Chip) if not chip.dropped]

    def _draw_chips(self, wanted: tuple[Filter, ...]) -> None:
        while (item := self._flow.takeAt(0)) is not None:
            chip = item.widget()
            if isinstance(chip, Chip):
                chip.dropped = True
                chip.hide()
                chip.deleteLater()
        for f in wanted:
            chip = Chip(f)
            chip.clicked.connect(lambda _=False, x=f: self._shown.drop_filter(x))
            self._flow.addWidget(chip)
        self.chips.updateGeometry()

    def _show_count(self) -> None:
        shown = self._shown
        whole = not shown.number and shown.search.empty
        self.count.setText(
            tr("{0:,} tracks").format(len(shown)) if whole else tr("{0:,} of {1:,}").format(len(shown), shown.total)
        )


class Chip(QPushButton):
    """One filter in words; a click lets go of it."""

    def __init__(self, of: Filter) -> None:
        super().__init__(f"{of.words}  ×")
        self.setObjectName("chip")
        self.filter, self.dropped = of, False
        self.setToolTip(tip_of(tr("Only {0}: click to let go of it").format(of.words)))
        self.setAccessibleName(tr("Only {0}; press to let go of it").format(of.words))
