"""A table of words to read: rows chosen, none typed into."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QRect, Qt, pyqtSignal
from PyQt6.QtGui import QColor
from PyQt6.QtWidgets import QAbstractItemView, QHeaderView, QTableWidget, QTableWidgetItem

from ..theme.style import Theme, aligned
from ..theme.words import tip_of

KEY = Qt.ItemDataRole.UserRole
PADDING = 22
"""Px beside the text of a cell."""


class PlainTable(QTableWidget):
    """Emits `went` with the key of a row that is double-clicked or entered, `picked` with that of the chosen one.

    Parameters
    ----------
    columns : heads, and widths in px; 0 for what takes the rest
    wrapped : whether long texts take several lines
    """

    went = pyqtSignal(object)
    picked = pyqtSignal(object)

    def __init__(self, name: str, columns: Sequence[tuple[str, int]], *, wrapped: bool = False) -> None:
        super().__init__(0, len(columns))
        self.setAccessibleName(name)
        self.setHorizontalHeaderLabels([head for head, _ in columns])
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.setShowGrid(False)
        self.setTabKeyNavigation(False)
        self.setWordWrap(wrapped)
        self.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self._wrapped = wrapped
        rows, heads = self.verticalHeader(), self.horizontalHeader()
        assert rows is not None and heads is not None
        rows.hide()
        rows.setDefaultSectionSize(26)
        heads.setHighlightSections(False)
        heads.setDefaultAlignment(aligned())
        for c, (_, width) in enumerate(columns):
            if width:
                self.setColumnWidth(c, width)
            else:
                heads.setSectionResizeMode(c, QHeaderView.ResizeMode.Stretch)
        self.itemSelectionChanged.connect(self._picked)
        self.cellDoubleClicked.connect(lambda row, _: self.went.emit(self.key_of(row)))
        self._filling = False

    def fill(self, rows: Sequence[tuple[object, Sequence[str]]], *, warned: Sequence[bool] = ()) -> None:
        """Show rows: the key of each and its texts; those that are `warned` of are in the ink for that."""
        self._filling = True
        before = self.key_of(self.currentRow())
        self.setRowCount(len(rows))
        for r, (key, texts) in enumerate(rows):
            for c, text in enumerate(texts):
                item = QTableWidgetItem(text)
                item.setData(KEY, key)
                item.setToolTip(tip_of(text))
                item.setTextAlignment(
                    Qt.AlignmentFlag.AlignLeft
                    | (Qt.AlignmentFlag.AlignTop if self._wrapped else Qt.AlignmentFlag.AlignVCenter)
                )
                if r < len(warned) and warned[r] and c == len(texts) - 1:
                    item.setForeground(QColor(Theme.palette.attention))
                self.setItem(r, c, item)
            if before is not None and key == before:
                self.setCurrentCell(r, 0)
        self._filling = False
        self._fit_rows()

    def resizeEvent(self, e) -> None:  # type: ignore[no-untyped-def]
        super().resizeEvent(e)
        self._fit_rows()

    def _fit_rows(self) -> None:
        """Rows as high as their longest text needs; Qt's own reckoning leaves the style's padding out."""
        if not self._wrapped:
            return
        metrics, flags = self.fontMetrics(), int(Qt.TextFlag.TextWordWrap)
        for r in range(self.rowCount()):
            tall = 0
            for c in range(self.columnCount()):
                item = self.item(r, c)
                if item is not None:
                    room = QRect(0, 0, self.columnWidth(c) - PADDING, 10_000)
                    tall = max(tall, metrics.boundingRect(room, flags, item.text()).height())
            self.setRowHeight(r, tall + 8)

    def key_of(self, row: int) -> object:
        """The key of a row; None where there is none."""
        item = self.item(row, 0)
        return item.data(KEY) if item is not None else None

    @property
    def chosen(self) -> object:
        """The key of the chosen row; None where none is."""
        return self.key_of(self.currentRow())

    def _picked(self) -> None:
        if not self._filling:
            self.picked.emit(self.chosen)

    def keyPressEvent(self, e) -> None:  # type: ignore[no-untyped-def]
        if e.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.chosen is not None:
            self.went.emit(self.chosen)
            return
        super().keyPressEvent(e)
