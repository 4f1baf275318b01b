"""Words that are always words: names of files, titles and tags may hold anything, and none of it is markup."""

from __future__ import annotations

import html

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QLabel, QWidget


class Words(QLabel):
    """A label that shows its text as it is, whatever it looks like."""

    def __init__(self, text: str = "", parent: QWidget | None = None) -> None:
        super().__init__(text, parent)
        self.setTextFormat(Qt.TextFormat.PlainText)


class Elided(Words):
    """One line that ends in … where there is no room; the whole of it is its tip, and its name for who can't see it."""

    def __init__(self, text: str = "") -> None:
        super().__init__("")
        self.whole = ""
        self.setMinimumWidth(1)
        self.say(text)

    def say(self, text: str) -> None:
        """Show a text, as far as there is room."""
        self.whole = text
        self.setToolTip(tip_of(text))
        self.setAccessibleName(text)
        self._fit()

    def _fit(self) -> None:
        self.setText(self.fontMetrics().elidedText(self.whole, Qt.TextElideMode.ElideRight, self.width()))

    def resizeEvent(self, e: QResizeEvent | None) -> None:
        super().resizeEvent(e)
        self._fit()


def tip_of(text: str) -> str:
    """A tool tip that shows `text` as it is: Qt reads tips as markup where they look like it.

    >>> tip_of("First beat"), tip_of("<b>")
    ('First beat', '<span style="white-space: pre-wrap">&lt;b&gt;</span>')
    """
    return f'<span style="white-space: pre-wrap">{html.escape(text)}</span>' if "<" in text else text
