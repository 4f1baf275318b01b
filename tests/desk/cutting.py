"""Finding text that is cut: labels and buttons narrower or lower than what they say."""

from __future__ import annotations

from PyQt6.QtCore import QRect, Qt
from PyQt6.QtWidgets import QAbstractButton, QCheckBox, QLabel, QToolButton, QWidget

SLACK = 2
"""Px that rounding may cost."""


def cut(root: QWidget) -> list[str]:
    """What is cut in a window: the text, the room it has, and the room it wants."""
    out = []
    for w in root.findChildren(QWidget):
        if not w.isVisible() or w.visibleRegion().isEmpty() or w.window() is not root.window():
            continue
        if isinstance(w, QLabel) and w.text() and w.minimumWidth() != 1:
            out += _label(w)
        elif isinstance(w, QAbstractButton) and w.text():
            out += _button(w)
    return out


def _label(w: QLabel) -> list[str]:
    room = w.contentsRect()
    flags = int(Qt.TextFlag.TextWordWrap) if w.wordWrap() else 0
    wants = w.fontMetrics().boundingRect(QRect(0, 0, room.width() if w.wordWrap() else 10_000, 10_000), flags, w.text())
    if wants.width() <= room.width() + SLACK and wants.height() <= room.height() + 2 * SLACK:
        return []
    return [f"label '{w.text()}' has {room.width()} x {room.height()}, wants {wants.width()} x {wants.height()}"]


def _button(w: QAbstractButton) -> list[str]:
    if type(w).__name__ in ("Pad", "Mark", "Slot"):
        # these paint and fold their text themselves
        return []
    lines = w.text().split("\n")
    wants = max(w.fontMetrics().horizontalAdvance(line) for line in lines)
    icon = 0 if w.icon().isNull() else w.iconSize().width() + 4
    if isinstance(w, QToolButton) and w.toolButtonStyle() == Qt.ToolButtonStyle.ToolButtonIconOnly:
        return []
    box = 20 if isinstance(w, QCheckBox) else 0
    room = w.width() - 4 - icon - box
    return [f"button '{w.text()}' has {room}, wants {wants}"] if wants > room + SLACK else []
