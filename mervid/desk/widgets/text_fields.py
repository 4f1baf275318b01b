"""Text fields that save what was typed when they are left, and before the track, the stage or the window changes."""

from __future__ import annotations

from PyQt6 import sip
from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QFocusEvent, QKeyEvent
from PyQt6.QtWidgets import QApplication, QComboBox, QLineEdit, QPlainTextEdit, QWidget

_pending: set[TextField | TextBox] = set()
"""The fields in which something was typed that is not saved yet."""


class TextField(QLineEdit):
    """One line of text. `finished` carries what was typed, once.

    Parameters
    ----------
    waits : save with Enter (also what was not changed), and when the track, the stage or the window changes; else
        when the field is left
    """

    finished = pyqtSignal(str)

    def __init__(self, *, waits: bool = False) -> None:
        super().__init__()
        self.textEdited.connect(lambda _: _pending.add(self))
        if waits:
            self.returnPressed.connect(self._enter)
        else:
            self.editingFinished.connect(self.finish)

    def _enter(self) -> None:
        self.forget()
        self.finished.emit(self.text())

    def finish(self) -> None:
        """Save what was typed, if anything was."""
        if self.isModified():
            self._enter()

    def forget(self) -> None:
        """What was typed is used or saved: nothing is left to do with it."""
        _pending.discard(self)
        self.setModified(False)

    def show_text(self, text: str) -> None:
        """Show what is saved, unless other text is being typed."""
        if self.isModified():
            return
        if text != self.text():
            self.setText(text)
            self.setCursorPosition(0)


class TextBox(QPlainTextEdit):
    """Several lines of text. `finished` carries what was typed, once, and only where something was typed."""

    finished = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setTabChangesFocus(True)
        self.textChanged.connect(self._changed)

    def _changed(self) -> None:
        if self._modified():
            _pending.add(self)

    def _modified(self) -> bool:
        document = self.document()
        return document is not None and document.isModified()

    def finish(self) -> None:
        """Save what was typed, if anything was."""
        document = self.document()
        if document is not None and document.isModified():
            document.setModified(False)
            _pending.discard(self)
            self.finished.emit(self.toPlainText())

    def show_text(self, text: str) -> None:
        """Show what is saved, unless other text is being typed."""
        if not self._modified() and text != self.toPlainText():
            self.setPlainText(text)

    def keyPressEvent(self, e: QKeyEvent | None) -> None:
        if e is not None and e.key() == Qt.Key.Key_Escape:
            self.clearFocus()
            return
        super().keyPressEvent(e)

    def focusOutEvent(self, e: QFocusEvent | None) -> None:
        self.finish()
        super().focusOutEvent(e)


def finish_typing(window: QWidget) -> None:
    """Save all text that is typed in a window and not saved yet, as if each field were left for a moment.

    Call this before the track, the stage or the library changes: what was typed belongs to what is shown now.
    """
    for pending in list(_pending):
        if sip.isdeleted(pending):
            _pending.discard(pending)
        elif pending.window() is window:
            pending.finish()
    field = window.focusWidget()
    # an editable choice holds the focus of its line
    typed_in = isinstance(field, QLineEdit | QPlainTextEdit) or (isinstance(field, QComboBox) and field.isEditable())
    if field is None or not typed_in or isinstance(field, TextField | TextBox):
        return
    if not field.hasFocus():
        # the window is not the active one: its fields were not told that they are left
        QApplication.sendEvent(field, QFocusEvent(QFocusEvent.Type.FocusOut, Qt.FocusReason.OtherFocusReason))
        return
    field.clearFocus()
    # the editor of a table's cell is gone now
    if not sip.isdeleted(field) and field.isVisible():
        field.setFocus()
