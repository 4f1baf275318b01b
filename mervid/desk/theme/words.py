"""Words that are always words: names of files, titles and tags may hold anything, and none of it is markup."""

from __future__ import annotations

import html

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QLabel, QWidget


class Words(QLabel):
    """A label that shows its text as it is, whatever it looks like."""

    def __init__(self, text: str = "", parent: QWidget | None = None) -> None:
        super().__init__(text, parent)
        self.setTextFormat(Qt.TextFormat.PlainText)


def tip_of(text: str) -> str:
    """A tool tip that shows `text` as it is: Qt reads tips as markup where they look like it.

    >>> tip_of("First beat"), tip_of("<b>")
    ('First beat', '<span style="white-space: pre-wrap">&lt;b&gt;</span>')
    """
    return f'<span style="white-space: pre-wrap">{html.escape(text)}</span>' if "<" in text else text
