"""Ways to all commands: a finder by plain words, a sheet of all keys, and the list of edits."""

from __future__ import annotations

import itertools

from PyQt6.QtCore import QEvent, QObject, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import (
    QDialog,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QScrollArea,
    QStyle,
    QVBoxLayout,
    QWidget,
)

from ..commands.command import Table
from ..commands.letters import LETTERS, letter_of
from ..theme.style import font
from ..theme.tr import marked, tr
from ..theme.words import Words
from .parts import put_at_ends

MOUSE = (
    (marked("Drag a track onto another in the list"), marked("Borrow the grid of the one for the other")),
    (marked("Esc while dragging"), marked("Leave it as it was")),
)
"""What hands can do wherever they are."""
ITEM = Qt.ItemDataRole.UserRole


class Finder(QDialog):
    """Type words, choose with the arrows, Enter does it."""

    chosen = pyqtSignal(object)

    def __init__(self, parent: QWidget, table: Table) -> None:
        super().__init__(parent)
        self._table = table
        self.setWindowTitle(tr("Find a command"))
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.resize(560, 420)
        self.text = QLineEdit()
        self.text.setPlaceholderText(tr("What do you want to do? For example: half, pause, mix zone"))
        self.text.setAccessibleName(tr("Find a command"))
        self.list = QListWidget()
        self.list.setAccessibleName(tr("Commands"))
        self.nothing = Words(tr("No command is called so. Try other words, such as tempo, bar, pin or part."))
        self.nothing.setObjectName("faint")
        column = QVBoxLayout(self)
        column.addWidget(self.text)
        column.addWidget(self.list, 1)
        column.addWidget(self.nothing)
        self.text.textChanged.connect(self.fill)
        self.text.installEventFilter(self)
        self.list.itemActivated.connect(self._take)
        self.list.itemClicked.connect(self._take)
        self.fill("")
        self.text.setFocus()

    def fill(self, text: str) -> None:
        """List what answers to the words."""
        self.list.clear()
        found = self._table.found(text)
        for command in found:
            item = QListWidgetItem(command.words)
            item.setData(ITEM, command)
            item.setData(Qt.ItemDataRole.AccessibleTextRole, f"{command.words}, {command.keys}")
            self.list.addItem(item)
        put_at_ends(self.list, [f"{command.group}     {command.keys}" for command in found])
        self.list.setCurrentRow(0)
        self.nothing.setVisible(not self.list.count())

    def _take(self, item: QListWidgetItem | None) -> None:
        if item is not None:
            command = item.data(ITEM)
            self.accept()
            self.chosen.emit(command)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        # the arrows and Enter move in the list while words are typed
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            step = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1, Qt.Key.Key_PageDown: 8, Qt.Key.Key_PageUp: -8}
            if event.key() in step:
                row = self.list.currentRow() + step[Qt.Key(event.key())]
                self.list.setCurrentRow(max(0, min(self.list.count() - 1, row)))
                return True
            if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                self._take(self.list.currentItem())
                return True
        return super().eventFilter(watched, event)


Rows = tuple[str, list[tuple[str, str]]]
FRAME = QSize(16, 48)
"""Px that a title bar and borders take; common practice, no source."""
LONGEST_KEY, GESTURE_PX = 18, 116


def _thirds(parts: list[Rows]) -> list[list[Rows]]:
    """Groups in order in three columns, the longest as short as can be."""

    def height(column: list[Rows]) -> int:
        return sum(len(rows) + 1 for _, rows in column)

    cuts = itertools.combinations(range(1, len(parts)), 2)
    return min(([parts[:a], parts[a:b], parts[b:]] for a, b in cuts), key=lambda three: max(height(c) for c in three))


class KeySheet(QDialog):
    """All keys of a stage, and what hands can do in the views."""

    def __init__(self, parent: QWidget, table: Table, stage: str, mouse: tuple[tuple[str, str], ...]) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("Keys of the stage that is seen"))
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        parts: list[Rows] = []
        for group in table.groups:
            listed = [
                (c.keys if c.keys_in_list is None else c.keys_in_list, c.words_in_list or c.words)
                for c in table.of_group(group, (stage,))
            ]
            rows = [row for row in listed if row[0]]
            if rows:
                parts.append((group, rows))
        letters = {letter_of(keys) for _, rows in parts for keys, _ in rows}
        # at the beginning: who knows the idea of a letter finds the rest
        parts.insert(0, (tr("Letters, in every stage"), [(k, tr(LETTERS[k])) for k in LETTERS if k in letters]))
        parts.append((tr("By mouse"), [(tr(hand), tr(what)) for hand, what in (*mouse, *MOUSE)]))
        sheet = QWidget()
        sheet.setObjectName("paper")
        columns = QHBoxLayout(sheet)
        columns.setContentsMargins(12, 10, 12, 10)
        columns.setSpacing(12)
        for column in _thirds(parts):
            grid, used = self._column(columns), 0
            for group, rows in column:
                head = Words(tr(group).upper())
                head.setObjectName("heading")
                grid.addWidget(head, used, 0, 1, 2)
                used += 1
                for keys, words in rows:
                    for place, text in enumerate((keys, words)):
                        label = Words(text)
                        label.setFont(font(8, bold=place == 0))
                        if place == 0 and len(text) > LONGEST_KEY:
                            # a gesture in words: else it would make its column as wide as itself
                            label.setWordWrap(True)
                            label.setFixedWidth(GESTURE_PX)
                        grid.addWidget(label, used, place)
                    used += 1
        scroll = QScrollArea()
        scroll.setFrameShape(QFrame.Shape.NoFrame)
        scroll.setWidget(sheet)
        scroll.setWidgetResizable(True)
        scroll.setAccessibleName(tr("Keys"))
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.addWidget(scroll)
        # as large as the sheet, where the screen has room for it
        screen, style = parent.screen(), self.style()
        wanted = sheet.sizeHint()
        if style is not None:
            wanted += QSize(1, 0) * style.pixelMetric(QStyle.PixelMetric.PM_ScrollBarExtent)
        self.resize(wanted if screen is None else wanted.boundedTo(screen.availableSize() - FRAME))

    @staticmethod
    def _column(columns: QHBoxLayout) -> QGridLayout:
        box = QVBoxLayout()
        table = QGridLayout()
        table.setHorizontalSpacing(8)
        table.setVerticalSpacing(1)
        box.addLayout(table)
        box.addStretch(1)
        columns.addLayout(box)
        return table


class Edits(QDialog):
    """The edits of a track by name, the newest on top; Enter or a click goes back, or forth again, to one."""

    chosen = pyqtSignal(int)

    def __init__(self, parent: QWidget, names: list[str], done: int) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("Edits of this track"))
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.resize(360, 420)
        self.list = QListWidget()
        self.list.setAccessibleName(tr("Edits"))
        words = Words(tr("Choose one to go back to just after it, or forth again."))
        words.setObjectName("faint")
        column = QVBoxLayout(self)
        column.addWidget(words)
        column.addWidget(self.list, 1)
        for i, name in reversed(list(enumerate([tr("As it was heard"), *names]))):
            state = "  now" if i == done else "  undone" if i > done else ""
            item = QListWidgetItem(f"{i}   {name}{state}")
            item.setData(ITEM, i)
            self.list.addItem(item)
        self.list.setCurrentRow(len(names) - done)
        self.list.itemActivated.connect(self._take)
        self.list.itemClicked.connect(self._take)

    def _take(self, item: QListWidgetItem) -> None:
        step = int(item.data(ITEM))
        self.accept()
        self.chosen.emit(step)
