"""Ways to all commands: a finder by plain words, menus by group, a sheet of all keys, and the list of edits."""

from __future__ import annotations

import itertools

from PyQt6.QtCore import QEvent, QObject, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import (
    QDialog,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QMenu,
    QVBoxLayout,
    QWidget,
)

from ..theme.style import font
from .table import COMMANDS, CUES, GROUPS, MOUSE, NUMBERED, PHRASE_STAGE, found

ITEM = Qt.ItemDataRole.UserRole


class Finder(QDialog):
    """Type words, choose with the arrows, Enter does it."""

    chosen = pyqtSignal(object)

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle("Find a command")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.resize(560, 420)
        self.text = QLineEdit()
        self.text.setPlaceholderText("What do you want to do? For example: half, pause, mix zone")
        self.text.setAccessibleName("Find a command")
        self.list = QListWidget()
        self.list.setAccessibleName("Commands")
        self.nothing = QLabel("No command is called so. Try other words, such as tempo, bar, pin or part.")
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
        for command in found(text):
            item = QListWidgetItem(command.words)
            item.setData(ITEM, command)
            item.setData(Qt.ItemDataRole.AccessibleTextRole, f"{command.words}, {command.keys}")
            self.list.addItem(item)
            key = QLabel(f"{command.group}     {command.keys}")
            key.setObjectName("faint")
            key.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
            key.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
            self.list.setItemWidget(item, key)
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


def fill_menu(menu: QMenu, do: object) -> None:
    """All commands by group, each with its key; `do` takes the command."""
    for group in GROUPS:
        part = menu.addMenu(group)
        assert part is not None
        for command in (c for c in COMMANDS if c.group == group and c.name not in NUMBERED):
            # the key is shown, not bound again
            action = part.addAction(f"{command.words}\t{command.keys}")
            assert action is not None
            action.triggered.connect(lambda _=False, c=command: do(c))  # type: ignore[operator]


Rows = tuple[str, list[tuple[str, str]]]


def _thirds(parts: list[Rows]) -> list[list[Rows]]:
    """Groups in order in three columns, the longest as short as can be."""

    def height(column: list[Rows]) -> int:
        return sum(len(rows) + 1 for _, rows in column)

    cuts = itertools.combinations(range(1, len(parts)), 2)
    return min(([parts[:a], parts[a:b], parts[b:]] for a, b in cuts), key=lambda three: max(height(c) for c in three))


class KeySheet(QDialog):
    """All keys of a stage, and what hands can do in the views."""

    def __init__(self, parent: QWidget, stage: str) -> None:
        super().__init__(parent)
        self.setWindowTitle("Keys of the stage that is seen")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        parts: list[tuple[str, list[tuple[str, str]]]] = []
        for group in GROUPS:
            here = [c for c in COMMANDS if c.group == group and (c.window or c.stage in ("", stage))]
            rows = [(c.keys, c.words) for c in here if c.name not in NUMBERED]
            if group == CUES:
                rows.append(("1 to 8", "Go to a cue; in Phrase, set it where there is none"))
            if group == CUES and stage == PHRASE_STAGE:
                rows.append(("Shift+1 to 8", "Set a cue here, whatever stands in its slot"))
            if rows:
                parts.append((group, rows))
        parts.append(("By mouse", list(MOUSE)))
        columns = QHBoxLayout(self)
        columns.setContentsMargins(18, 12, 18, 12)
        columns.setSpacing(22)
        for column in _thirds(parts):
            table, used = self._column(columns), 0
            for group, rows in column:
                head = QLabel(group.upper())
                head.setObjectName("heading")
                table.addWidget(head, used, 0, 1, 2)
                used += 1
                for keys, words in rows:
                    for place, text in enumerate((keys, words)):
                        label = QLabel(text)
                        label.setFont(font(8.5, bold=place == 0))
                        table.addWidget(label, used, place)
                    used += 1

    @staticmethod
    def _column(columns: QHBoxLayout) -> QGridLayout:
        box = QVBoxLayout()
        table = QGridLayout()
        table.setHorizontalSpacing(12)
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
        self.setWindowTitle("Edits of this track")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.resize(360, 420)
        self.list = QListWidget()
        self.list.setAccessibleName("Edits")
        words = QLabel("Choose one to go back to just after it, or forth again.")
        words.setObjectName("faint")
        column = QVBoxLayout(self)
        column.addWidget(words)
        column.addWidget(self.list, 1)
        for i, name in reversed(list(enumerate(["As it was heard", *names]))):
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
