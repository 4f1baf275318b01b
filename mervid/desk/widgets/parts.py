"""Parts of the window that know nothing of tracks: keys a widget keeps, messages, the empty page."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QObject, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QAbstractItemView, QFrame, QHBoxLayout, QListWidget, QProgressBar, QPushButton, QWidget

from ..theme.tr import tr
from ..theme.words import Words, tip_of


class KeepKeys(QObject):
    """Lets a widget have keys that are shortcuts elsewhere: with Ctrl or Alt only those that move in a list."""

    def __init__(self, widget: QWidget, keys: set[Qt.Key]) -> None:
        super().__init__(widget)
        self._keys = keys

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.ShortcutOverride and self._keeps(event):
            event.accept()
            return True
        return False

    def _keeps(self, event: QKeyEvent) -> bool:
        others = Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier
        return event.key() in self._keys and (event.key() in MOVES or not event.modifiers() & others)


MOVES = {
    Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_Home, Qt.Key.Key_End, Qt.Key.Key_Left, Qt.Key.Key_Right,
}  # fmt: skip
"""Keys that move in a list, also with Ctrl and Alt."""


class EditByKey(QObject):
    """Shift+Enter edits the current cell of a list or table: F2, which others use for that, is the first stage."""

    def __init__(self, view: QAbstractItemView) -> None:
        super().__init__(view)
        self._view = view
        view.installEventFilter(self)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if not isinstance(event, QKeyEvent) or event.key() not in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            return False
        if event.modifiers() & ~Qt.KeyboardModifier.KeypadModifier != Qt.KeyboardModifier.ShiftModifier:
            return False
        if event.type() == QEvent.Type.ShortcutOverride:
            event.accept()
            return True
        if event.type() == QEvent.Type.KeyPress:
            self._view.edit(self._view.currentIndex())
            return True
        return False


def edit_by_click_and_key(view: QAbstractItemView) -> None:
    """Let a cell be edited by a click on it once it is selected, by a double click, and by Shift+Enter."""
    view.setEditTriggers(QAbstractItemView.EditTrigger.SelectedClicked | QAbstractItemView.EditTrigger.DoubleClicked)
    EditByKey(view)


def keep_editing_keys(editor: QWidget | None) -> QWidget | None:
    """Let an editor in a list take what is typed or let go of it: both keys are shortcuts elsewhere."""
    if editor is not None:
        editor.installEventFilter(KeepKeys(editor, {Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Escape}))
    return editor


def put_at_ends(rows: QListWidget, texts: list[str]) -> None:
    """Put faint words at the right of all rows of a list, when all are there.

    With words in them the rows before would be laid out anew for each that is added.
    """
    for row, text in enumerate(texts):
        words = Words(text)
        words.setObjectName("faint")
        words.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        words.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        rows.setItemWidget(rows.item(row), words)


class Note(QFrame):
    """A line of words over the transport: what was refused, what went wrong, what is done."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("note")
        self.text = Words("")
        self.text.setWordWrap(True)
        self.text.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.close_button = QPushButton(tr("OK"))
        self.close_button.setObjectName("plain")
        self.close_button.setAccessibleName(tr("Dismiss the message"))
        self.close_button.clicked.connect(self.hide)
        row = QHBoxLayout(self)
        row.setContentsMargins(6, 2, 6, 2)
        row.addWidget(self.text, 1)
        row.addWidget(self.close_button)
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self.hide)
        self.hide()

    def say(self, kind: str, text: str) -> None:
        """Problems stay until they are read; the rest goes by itself."""
        waiting = self.isVisible() and self.property("kind") == "problem" and kind == "problem"
        if waiting and text not in self.text.text():
            lines = [*self.text.text().split("\n"), text]
            text = "\n".join(lines[-4:])
        self.setProperty("kind", kind)
        restyle(self)
        self.text.setText(text)
        self.show()
        self._timer.stop()
        if kind != "problem":
            self._timer.start(7000)


def heading(text: str) -> Words:
    """A small caps-like heading."""
    label = Words(text)
    label.setObjectName("heading")
    return label


class Switch(QPushButton):
    """A button that stays pressed; `show_on` puts it without a word, `switched` tells what a person did."""

    switched = pyqtSignal(bool)

    def __init__(self, text: str, tip: str, *, on: bool = False) -> None:
        super().__init__(text)
        self.setCheckable(True)
        self.setChecked(on)
        self.setToolTip(tip_of(tip))
        self.toggled.connect(self.switched)

    def show_on(self, on: bool) -> None:
        """Stand so without saying so."""
        self.blockSignals(True)
        self.setChecked(on)
        self.blockSignals(False)


class ShareDone(QProgressBar):
    """How much of a long thing is done: a thin bar, in thousandths."""

    def __init__(self) -> None:
        super().__init__()
        self.setTextVisible(False)
        self.setRange(0, 1000)
        self.setFixedHeight(8)


def restyle(widget: QWidget) -> None:
    """Dress a widget anew after its object name changed."""
    style = widget.style()
    if style is not None:
        style.unpolish(widget)
        style.polish(widget)
