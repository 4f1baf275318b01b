"""The settings dialog: pages at the left, each setting in plain words, in force as soon as it is chosen."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QSize, Qt
from PyQt6.QtWidgets import (
    QDialog,
    QHBoxLayout,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from ...theme.tr import tr
from ...theme.words import Words
from .page import SettingsPage

ROW_PX = 34


class SettingsDialog(QDialog):
    """Stays beside the window, so that what is changed is seen there."""

    def __init__(self, parent: QWidget, pages: Sequence[SettingsPage], first: str = "") -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("Settings"))
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.resize(800, 560)
        self.pages = {page.title: page for page in pages}
        self.list = QListWidget()
        self.list.setObjectName("settingsPages")
        self.list.setAccessibleName(tr("Pages of settings"))
        self.list.setFixedWidth(120)
        self.stack = QStackedWidget()
        for page in pages:
            item = QListWidgetItem(page.title)
            item.setSizeHint(QSize(0, ROW_PX))
            self.list.addItem(item)
            self.stack.addWidget(page)
        self.list.currentRowChanged.connect(self._turn)
        close = QPushButton(tr("Close"))
        close.setAutoDefault(False)
        close.clicked.connect(self.accept)
        foot = QHBoxLayout()
        foot.setContentsMargins(20, 8, 16, 10)
        words = Words(tr("What you choose holds at once."))
        words.setObjectName("faint")
        foot.addWidget(words)
        foot.addStretch(1)
        foot.addWidget(close)
        right = QVBoxLayout()
        right.setContentsMargins(0, 0, 0, 0)
        right.setSpacing(0)
        right.addWidget(self.stack, 1)
        right.addLayout(foot)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(self.list)
        row.addLayout(right, 1)
        names = list(self.pages)
        self.list.setCurrentRow(names.index(first) if first in names else 0)

    @property
    def page(self) -> SettingsPage:
        """The page that is seen."""
        return list(self.pages.values())[self.stack.currentIndex()]

    def _turn(self, number: int) -> None:
        self.stack.setCurrentIndex(number)
        self.page.enter()
