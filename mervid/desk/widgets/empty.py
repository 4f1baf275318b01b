"""What is seen before the first recording: one picture of what Mervid does, and four ways to begin."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from ..theme.style import Theme, font
from ..theme.tr import tr
from ..theme.words import Words

WAYS = (
    ("add-folder", "Add a folder", "All recordings in it and below. Ctrl+Shift+O"),
    ("open", "Open recordings", "Or drop files, folders and playlists anywhere here. Ctrl+O"),
    ("first-minutes", "The first ten minutes", "Eight guided steps on recordings of an invented evening"),
    ("demo", "Take in the demo set", "Those eight recordings, and no guide"),
)


class _Picture(QWidget):
    """Bars of a drummer under each other: heard they sway, followed they make straight threads."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedSize(QSize(620, 210))
        self.setAccessibleName(tr("Bars of a live drummer, as they are heard and as the grid follows them"))

    def paintEvent(self, e: QPaintEvent | None) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        half = self.width() / 2
        rows = 22
        sway = np.cumsum(np.sin(np.arange(rows) / 2.9) * 2.4 + np.sin(np.arange(rows) / 1.3))
        self._fold(p, QRectF(6, 6, half - 46, 168), sway - sway.mean())
        self._fold(p, QRectF(half + 40, 6, half - 46, 168), np.zeros(rows))
        ink = Theme.palette.color("ink")
        p.setPen(QPen(ink, 1.6))
        y = 90.0
        p.drawLine(QPointF(half - 22, y), QPointF(half + 22, y))
        p.drawLine(QPointF(half + 22, y), QPointF(half + 14, y - 5))
        p.drawLine(QPointF(half + 22, y), QPointF(half + 14, y + 5))
        p.setFont(font(9))
        p.setPen(Theme.palette.color("faint"))
        for x, words in ((6.0, tr("Bars of a drummer, as they are heard")), (half + 40, tr("The grid follows them"))):
            p.drawText(QRectF(x, 182, half - 46, 20), Qt.AlignmentFlag.AlignHCenter, words)
        p.end()

    @staticmethod
    def _fold(p: QPainter, r: QRectF, shift: np.ndarray) -> None:
        pal = Theme.palette
        p.fillRect(r, pal.color("raised"))
        step = r.height() / len(shift)
        for k, dx in enumerate(shift.tolist()):
            for beat in range(4):
                x = r.left() + r.width() * (beat + 0.35) / 4 + dx
                strong = beat in (0, 2)
                p.fillRect(QRectF(x, r.top() + k * step + 1, 9 if strong else 6, step - 2), pal.color("percussive"))
                half_way = x + r.width() / 8
                p.fillRect(QRectF(half_way, r.top() + k * step + 1, 4, step - 2), pal.color("sustained"))
        p.setPen(QPen(pal.color("hairline"), 1))
        p.drawRect(r)


class Empty(QWidget):
    """Emits the name of the way that is taken."""

    asked = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("paper")
        column = QVBoxLayout(self)
        column.setSpacing(12)
        column.addStretch(2)
        for name, text in (
            ("emptyTitle", tr("Music in which nobody kept machine time")),
            (
                "faint",
                tr(
                    "Mervid hears the beats, shows where they drift, and builds a grid that follows them.\n"
                    "Your files are only read, never changed. WAV, AIFF, FLAC, MP3, Ogg, Opus or M4A."
                ),
            ),
        ):
            label = Words(text)
            label.setObjectName(name)
            label.setAlignment(Qt.AlignmentFlag.AlignCenter)
            column.addWidget(label)
        column.addSpacing(6)
        column.addWidget(_Picture(), 0, Qt.AlignmentFlag.AlignCenter)
        column.addSpacing(10)
        row = QHBoxLayout()
        row.setSpacing(18)
        row.addStretch(1)
        self.buttons: dict[str, QPushButton] = {}
        for name, text, words in WAYS:
            one = QVBoxLayout()
            one.setSpacing(4)
            button = QPushButton(text)
            button.setObjectName("way")
            button.setMinimumWidth(200)
            button.clicked.connect(lambda _=False, n=name: self.asked.emit(n))
            said = Words(words)
            said.setObjectName("faint")
            said.setWordWrap(True)
            said.setFixedWidth(200)
            said.setAlignment(Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignTop)
            one.addWidget(button)
            one.addWidget(said)
            row.addLayout(one)
            self.buttons[name] = button
        row.addStretch(1)
        column.addLayout(row)
        column.addStretch(3)
