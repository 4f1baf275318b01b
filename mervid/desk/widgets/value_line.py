"""A line to type values in: it opens over the fold, says what is wanted, and says what is wrong with what was typed."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import attrs
from PyQt6 import sip
from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QLineEdit, QPushButton, QWidget

from ...core.errors import Refused
from ..theme.tr import tr
from ..theme.words import Words
from .parts import KeepKeys


@attrs.frozen
class Field:
    """One value: its name, the text that stands there first, the reader that understands what is typed, room in px."""

    name: str
    text: str
    read: Callable[[str], Any]
    width: int = 96


class ValueLine(QFrame):
    """Hidden until `ask` is called; Enter takes the values, Escape lets go."""

    refused = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("form")
        self.fields: tuple[Field, ...] = ()
        self.edits: list[QLineEdit] = []
        self._take: Callable[..., object] = lambda: None
        self._before: QWidget | None = None
        self.row = QHBoxLayout(self)
        self.row.setContentsMargins(12, 4, 12, 4)
        self.row.setSpacing(8)
        self.hide()

    def ask(self, title: str, fields: tuple[Field, ...], take: Callable[..., object]) -> None:
        """Ask for values and give them to `take`, which returns False to keep the line open."""
        if not self.isVisible():
            self._before = self._focus()
        self._clear()
        self.fields, self._take = fields, take
        label = Words(title)
        label.setObjectName("opinion")
        self.row.addWidget(label)
        for field in fields:
            name = Words(field.name)
            name.setObjectName("faint")
            edit = QLineEdit(field.text)
            edit.setAccessibleName(f"{title}: {field.name}")
            edit.setFixedWidth(field.width)
            edit.returnPressed.connect(self.take)
            edit.installEventFilter(KeepKeys(edit, {Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Escape}))
            self.row.addWidget(name)
            self.row.addWidget(edit)
            self.edits.append(edit)
        for text, tip, act in ((tr("Do it"), "Enter", self.take), (tr("Leave it"), "Esc", self.close_line)):
            b = QPushButton(text)
            b.setToolTip(tip)
            b.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            b.clicked.connect(act)
            self.row.addWidget(b)
        self.row.addStretch(1)
        self.show()
        if self.edits:
            # in a line that is open already it would be shown too late for the focus
            self.edits[0].show()
            self.edits[0].setFocus()
            self.edits[0].selectAll()

    def take(self) -> None:
        """Read all values; the first that is wrong is said, and stays to be mended."""
        if not self.edits:
            # it was put away, and a key came after that
            return
        values = []
        for field, edit in zip(self.fields, self.edits, strict=True):
            try:
                values.append(field.read(edit.text()))
            except Refused as e:
                self.refused.emit(str(e))
                edit.setFocus()
                edit.selectAll()
                return
        if self._take(*values) is not False:
            self.close_line()

    def close_line(self) -> None:
        """Put the line away; keys go where they went before."""
        asked = self.isAncestorOf(self._focus())
        self.hide()
        self._clear()
        before, self._before = self._before, None
        if asked and before is not None and not sip.isdeleted(before) and before.isVisible():
            before.setFocus()

    def _focus(self) -> QWidget | None:
        """Where keys go in this window."""
        window = self.window()
        return window.focusWidget() if window is not None else None

    def _clear(self) -> None:
        while (item := self.row.takeAt(0)) is not None:
            if (widget := item.widget()) is not None:
                widget.hide()
                widget.deleteLater()
        self.edits = []

    def keyPressEvent(self, e: QKeyEvent | None) -> None:
        if e is not None and e.key() == Qt.Key.Key_Escape:
            self.close_line()
            return
        super().keyPressEvent(e)
