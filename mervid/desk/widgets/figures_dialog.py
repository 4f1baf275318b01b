"""What the pictures show, as tables: to be read, gone to by Enter, and copied."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QApplication, QDialog, QHBoxLayout, QPushButton, QTabWidget, QVBoxLayout, QWidget

from ..session.in_figures import InFigures
from ..theme.tr import tr
from ..theme.words import Words
from .parts import KeepKeys
from .plain_table import PlainTable

LETTER_PX, WIDEST = 7, 240


class FiguresDialog(QDialog):
    """One tab a table; `went` with the instant of a row, s."""

    went = pyqtSignal(float)

    def __init__(self, parent: QWidget, about: str, tables: Sequence[InFigures]) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("In figures"))
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.resize(760, 520)
        self.tables = list(tables)
        self.tabs = QTabWidget()
        for told in self.tables:
            cells = list(zip(told.heads, *told.rows, strict=True)) if told.rows else [(h,) for h in told.heads]
            widths = [min(WIDEST, LETTER_PX * max(map(len, column)) + 28) for column in cells]
            columns = list(zip(told.heads, [*widths[:-1], 0], strict=True))
            table = PlainTable(told.title, columns)
            table.fill([(k, row) for k, row in enumerate(told.rows)])
            table.installEventFilter(KeepKeys(table, {Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_Home, Qt.Key.Key_End}))
            table.went.connect(self._go)
            table.activated.connect(lambda index: self._go(index.row()))
            table.setCurrentCell(0, 0)
            self.tabs.addTab(table, f"{told.title}  {len(told.rows)}")
        copy, close = QPushButton(tr("Copy this table")), QPushButton(tr("Close"))
        for b in (copy, close):
            b.setAutoDefault(False)
        copy.setToolTip(tr("As lines of values between tabs, for a spreadsheet"))
        copy.clicked.connect(self._copy)
        close.clicked.connect(self.accept)
        head, note = Words(about), Words(tr("Enter or a double click goes there."))
        head.setObjectName("title")
        note.setObjectName("faint")
        foot = QHBoxLayout()
        foot.addWidget(note, 1)
        foot.addWidget(copy)
        foot.addWidget(close)
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 12, 16, 12)
        column.addWidget(head)
        column.addWidget(self.tabs, 1)
        column.addLayout(foot)

    def _go(self, row: object) -> None:
        told = self.tables[self.tabs.currentIndex()]
        if isinstance(row, int) and 0 <= row < len(told.times):
            self.went.emit(told.times[row])

    def _copy(self) -> None:
        clipboard = QApplication.clipboard()
        if clipboard is not None:
            clipboard.setText(self.tables[self.tabs.currentIndex()].tsv)
