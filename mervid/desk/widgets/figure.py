"""A figure that changes many times a second: painted, so that no other text of the window is laid out anew for it."""

from __future__ import annotations

from PyQt6.QtCore import QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QSizePolicy, QWidget

from ..theme.style import Theme, font

POINTS = 17.0


class Figure(QWidget):
    """A line of large figures with room for `width` px at least."""

    def __init__(self, text: str, width: int, name: str, tip: str) -> None:
        super().__init__()
        self._text = text
        self._room = width
        self.setAccessibleName(name)
        self.setAccessibleDescription(text)
        self.setToolTip(tip)
        self.setFont(font(POINTS, bold=True))
        # it fills its own ground: a style sheet's would be drawn anew beneath it at each frame
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Fixed)

    def sizeHint(self) -> QSize:
        return QSize(self._room, self.fontMetrics().height())

    def text(self) -> str:
        """What stands there."""
        return self._text

    def show_text(self, text: str) -> None:
        """Say something else; longer text makes room for itself once."""
        if text == self._text:
            return
        self._text = text
        need = self.fontMetrics().horizontalAdvance(text) + 4
        if need > self._room:
            self._room = need
            self.updateGeometry()
        self.update()

    def paintEvent(self, e: QPaintEvent | None) -> None:
        p = QPainter(self)
        p.fillRect(self.rect(), Theme.palette.color("panel"))
        p.setFont(self.font())
        p.setPen(Theme.palette.color("ink"))
        p.drawText(self.rect(), Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, self._text)
        p.end()
