"""What a recipe did to many tracks: a line each, what could not be placed and why, and one way to take it all back."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QDialog,
    QHBoxLayout,
    QHeaderView,
    QPushButton,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from ...store.batch import Outcome
from ..theme.words import Words, tip_of


def summary(outcomes: list[Outcome]) -> str:
    """All of it in one sentence."""
    changed = sum(o.head >= 0 for o in outcomes)
    skipped = sum(bool(o.skipped) for o in outcomes)
    partly = sum(bool(o.told and o.told.problems) for o in outcomes)
    words = f"{changed} of {len(outcomes)} tracks have new cues"
    if partly:
        words += f", {partly} lack a place for some"
    if skipped:
        words += f", {skipped} skipped"
    same = len(outcomes) - changed - skipped
    return words + (f", {same} had them already." if same else ".")


class BatchReport(QDialog):
    """A table of outcomes; `taken_back` when all of it is to be undone."""

    taken_back = pyqtSignal()

    def __init__(self, parent: QWidget, name: str, outcomes: list[Outcome]) -> None:
        super().__init__(parent)
        self.setWindowTitle("Recipe over tracks")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.resize(720, 440)
        column = QVBoxLayout(self)
        column.setContentsMargins(18, 14, 18, 14)
        column.setSpacing(8)
        title = Words(name)
        title.setObjectName("title")
        column.addWidget(title)
        self.words = Words(summary(outcomes))
        column.addWidget(self.words)
        self.table = QTableWidget(len(outcomes), 3)
        self.table.setAccessibleName("What became of each track")
        self.table.setHorizontalHeaderLabels(("track", "cues", "what could not be done, and why"))
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.table.setShowGrid(False)
        self.table.setWordWrap(True)
        rows, columns = self.table.verticalHeader(), self.table.horizontalHeader()
        if rows is not None and columns is not None:
            rows.hide()
            columns.setSectionResizeMode(2, QHeaderView.ResizeMode.Stretch)
            self.table.setColumnWidth(0, 200)
            self.table.setColumnWidth(1, 60)
        for row, o in enumerate(outcomes):
            problems = o.skipped or "; ".join(o.told.problems if o.told else ())
            for column_, text in enumerate((o.title, str(o.told.placed) if o.told else "–", problems)):
                item = QTableWidgetItem(text)
                item.setToolTip(tip_of(text))
                self.table.setItem(row, column_, item)
        column.addWidget(self.table, 1)
        foot = QHBoxLayout()
        self.back = QPushButton("Take it all back")
        self.back.setToolTip("Undo this in every track where nothing was changed since")
        self.back.setEnabled(any(o.head >= 0 for o in outcomes))
        self.back.clicked.connect(self._take_back)
        keep = QPushButton("Keep")
        keep.setDefault(True)
        keep.clicked.connect(self.accept)
        foot.addStretch(1)
        foot.addWidget(self.back)
        foot.addWidget(keep)
        column.addLayout(foot)

    def _take_back(self) -> None:
        self.taken_back.emit()
        self.accept()
