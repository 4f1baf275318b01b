"""A choice of texts, drawn with the palette's own arrow."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPolygonF
from PyQt6.QtWidgets import QComboBox

from ..theme.style import Theme
from .parts import KeepKeys


class Arrowed(QComboBox):
    """A choice with an arrow of the palette's ink; with the focus it has the keys that step through it."""

    def __init__(self) -> None:
        super().__init__()
        self.installEventFilter(KeepKeys(self, {Qt.Key.Key_Up, Qt.Key.Key_Down}))

    def paintEvent(self, e: QPaintEvent | None) -> None:
        super().paintEvent(e)
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(Theme.palette.color("ink" if self.isEnabled() else "border"))
        x, y = self.width() - 11.0, self.height() / 2 + 1
        p.drawPolygon(QPolygonF([QPointF(x - 4, y - 3), QPointF(x + 4, y - 3), QPointF(x, y + 2)]))
        p.end()


class Choice(Arrowed):
    """A choice that speaks only when a person chose."""

    def __init__(self, name: str, texts: tuple[str, ...], tip: str) -> None:
        super().__init__()
        self.addItems(texts)
        self.setAccessibleName(name)
        self.setToolTip(tip)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)

    def show_text(self, text: str) -> None:
        """Stand at a text without saying so."""
        self.blockSignals(True)
        self.setCurrentIndex(self.findText(text))
        self.blockSignals(False)
