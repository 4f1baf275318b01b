"""The tap pad: strike it along with the music and see at once what the taps say, and whether they are enough.

Above, tempo and beat with their uncertainty; in the middle each tap against the beat it belongs to, late upward; the
lower part is the pad. Space, B or a click taps a beat; Enter, D or a click with the right button a downbeat.
"""

from __future__ import annotations

import time

import numpy as np
from PyQt6.QtCore import QEvent, QLineF, QPointF, QRectF, QSize, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPen

from ...core.figures import share, signed
from ...core.guided.tap_reading import ENOUGH_TAPS, LEAST, Reading
from ..theme.tr import tr
from .base import View, small

BEAT_KEYS = {Qt.Key.Key_Space, Qt.Key.Key_B, Qt.Key.Key_0, Qt.Key.Key_Insert}
DOWN_KEYS = {Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_D}
_FLASH_S = 0.12
_SHOWN = 72
_LATE_MS = 90.0
_HEAD = 66.0


def ago(timestamp: int) -> float:
    """How long ago an event was struck, s: by its own time stamp, where that is of this machine's clock."""
    since = (int(time.monotonic() * 1000) - timestamp) & 0xFFFFFFFF
    return since / 1000 if 0 < since < 400 else 0.0


class TapPad(View):
    """Emits `tapped(down, ago)`; shows a row of taps and what it says."""

    tapped = pyqtSignal(bool, float)
    left = pyqtSignal()
    taken = pyqtSignal()

    def __init__(self) -> None:
        super().__init__(
            tr("Tap pad"), tr("Strike Space along with the music, Enter on downbeats. Ctrl+Enter uses the taps.")
        )
        self.count = 0
        self.reading: Reading | None = None
        self.downs: tuple[bool, ...] = ()
        self.words = ""
        self.calibrating = False
        self._struck = (0.0, False)
        self._calm = QTimer(self)
        self._calm.setSingleShot(True)
        self._calm.timeout.connect(self.refresh)

    def sizeHint(self) -> QSize:
        return QSize(700, 320)

    def show_taps(
        self, count: int, reading: Reading | None, downs: tuple[bool, ...], words: str, calibrating: bool
    ) -> None:
        """Show a row of `count` taps, which of them were downbeats, and what they say."""
        self.count, self.reading, self.downs = count, reading, downs
        self.words, self.calibrating = words, calibrating
        self.refresh()

    # hands

    def _strike(self, down: bool, since: float) -> None:
        self._struck = (time.monotonic(), down)
        self.tapped.emit(down, since)
        self.refresh()
        self._calm.start(int(_FLASH_S * 1000) + 20)

    def event(self, e: QEvent | None) -> bool:
        # while the pad has the focus, these keys are taps whatever they do elsewhere
        if isinstance(e, QKeyEvent) and e.type() == QEvent.Type.ShortcutOverride and self._means(e):
            e.accept()
            return True
        return super().event(e)

    def _means(self, e: QKeyEvent) -> str:
        held = e.modifiers() & ~Qt.KeyboardModifier.KeypadModifier
        if held == Qt.KeyboardModifier.ControlModifier and e.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            return "take"
        if held != Qt.KeyboardModifier.NoModifier:
            return ""
        if e.key() == Qt.Key.Key_Escape:
            return "leave"
        return "beat" if e.key() in BEAT_KEYS else "down" if e.key() in DOWN_KEYS else ""

    def keyPressEvent(self, e: QKeyEvent | None) -> None:
        means = self._means(e) if e is not None else ""
        if e is None or not means:
            super().keyPressEvent(e)
        elif means == "leave":
            self.left.emit()
        elif means == "take":
            self.taken.emit()
        elif not e.isAutoRepeat():
            self._strike(means == "down", ago(e.timestamp()))

    def mousePressEvent(self, e: QMouseEvent | None) -> None:
        if e is not None and self._pad().contains(e.position()):
            self._strike(e.button() == Qt.MouseButton.RightButton, ago(e.timestamp()))

    def mouseDoubleClickEvent(self, e: QMouseEvent | None) -> None:
        # two quick taps are two taps
        self.mousePressEvent(e)

    # paint

    def _plot(self) -> QRectF:
        return QRectF(58, _HEAD, self.width() - 74, max(40.0, self.height() - _HEAD - 96))

    def _pad(self) -> QRectF:
        # in a low window below the plot all the same
        top = max(self.height() - 78.0, self._plot().bottom() + 10)
        return QRectF(12, top, self.width() - 24, max(18.0, self.height() - 10 - top))

    def draw(self, p: QPainter) -> None:
        self._draw_words(p)
        self._draw_taps(p)
        self._draw_pad(p)

    def _draw_words(self, p: QPainter) -> None:
        pal, r = self.palette_, self.reading
        left = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
        p.setPen(pal.color("ink"))
        p.setFont(small(20, bold=True))
        if r is None:
            text = tr("Tap along with the click") if self.calibrating else tr("Tap along with the music")
            p.setFont(small(15, bold=True))
            p.drawText(QRectF(16, 6, self.width() - 32, 32), left, text)
        else:
            tempo = f"{r.tempo:.2f}"
            p.drawText(QRectF(16, 4, 140, 34), left, tempo)
            x = 22 + p.fontMetrics().horizontalAdvance(tempo)
            p.setFont(small(11))
            p.drawText(QRectF(x, 9, 150, 28), left, tr("± {0:.2f} BPM").format(max(r.tempo_sd, 0.005)))
            self._draw_enough(p, QRectF(self.width() - 316, 10, 300, 26))
        p.setFont(small(9.5))
        p.setPen(pal.color("faint"))
        p.drawText(QRectF(16, 38, self.width() - 32, 20), left, self.words)

    def _draw_enough(self, p: QPainter, box: QRectF) -> None:
        """How far it is until tapping on adds little, as a bar that fills."""
        pal, r = self.palette_, self.reading
        assert r is not None
        part = progress(r)
        bar = QRectF(box.left(), box.center().y() - 4, box.width() - 92, 8)
        p.fillRect(bar, pal.color("hairline"))
        p.fillRect(QRectF(bar.left(), bar.top(), bar.width() * part, 8), pal.color("ink" if r.enough else "hand"))
        p.setFont(small(10, bold=r.enough))
        p.setPen(pal.color("ink"))
        p.drawText(
            QRectF(bar.right() + 10, box.top(), 82, box.height()),
            Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter,
            "enough" if r.enough else share(part),
        )

    def _draw_taps(self, p: QPainter) -> None:
        pal, r, box = self.palette_, self.reading, self._plot()
        middle, scale = box.center().y(), box.height() / 2 / _LATE_MS
        p.fillRect(box, pal.color("raised"))
        if r is not None:
            reach = 1000 * r.scatter * scale
            p.fillRect(QRectF(box.left(), middle - reach, box.width(), 2 * reach), pal.color("band"))
        p.setFont(small(8))
        for ms in (-60, 0, 60):
            y = middle - ms * scale
            p.setPen(QPen(pal.color("border" if ms == 0 else "hairline"), 1))
            p.drawLine(QLineF(box.left(), y, box.right(), y))
            p.setPen(pal.color("faint"))
            words = tr("on it") if ms == 0 else signed(ms, "ms")
            align = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
            p.drawText(QRectF(0, y - 8, box.left() - 8, 16), align, words)
        if r is None:
            p.setPen(pal.color("faint"))
            words = (
                tr("{0} of at least {1} taps").format(self.count, LEAST)
                if self.count
                else tr("Each tap shows here, late upward.")
            )
            p.drawText(box.adjusted(0, 0, 0, -box.height() / 2), Qt.AlignmentFlag.AlignCenter, words)
            return
        first = max(0, len(r.residual) - _SHOWN)
        step = box.width() / max(_SHOWN // 2, len(r.residual) - first)
        p.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        for k in range(first, len(r.residual)):
            late = float(np.clip(1000 * r.residual[k], -_LATE_MS + 3, _LATE_MS - 3))
            at = QPointF(box.left() + (k - first + 0.5) * step, middle - late * scale)
            down = k < len(self.downs) and self.downs[k]
            p.setPen(QPen(pal.color("ink" if r.used[k] else "attention"), 1.3))
            p.setBrush(pal.color("ink") if r.used[k] else Qt.BrushStyle.NoBrush)
            if down:
                p.drawRect(QRectF(at.x() - 3.5, at.y() - 3.5, 7, 7))
            else:
                p.drawEllipse(at, 3.0, 3.0)
        p.setRenderHint(QPainter.RenderHint.Antialiasing, False)

    def _draw_pad(self, p: QPainter) -> None:
        pal, box = self.palette_, self._pad()
        since = time.monotonic() - self._struck[0]
        lit = since < _FLASH_S
        p.setPen(QPen(pal.color("ink" if lit else "border"), 2 if lit else 1))
        p.setBrush(pal.color("hand" if lit else "panel"))
        p.drawRoundedRect(box, 6, 6)
        p.setPen(pal.color("on_hand" if lit else "ink"))
        p.setFont(small(11, bold=True))
        words = "downbeat" if self._struck[1] else "beat"
        text = words if lit else tr("Space or click: a beat      Enter or right click: a downbeat")
        p.drawText(box, Qt.AlignmentFlag.AlignCenter, text)
        p.setBrush(Qt.BrushStyle.NoBrush)


def progress(reading: Reading) -> float:
    """How much of the taps needed is there, 0 to 1: by how fast the uncertainty shrinks with their number."""
    if reading.enough:
        return 1.0
    from ...core.guided.tap_reading import ENOUGH_BEATS, ENOUGH_S

    astray = 1.96 * reading.tempo_sd / reading.tempo * 60 / reading.tempo * ENOUGH_BEATS
    # the error of a slope falls with the number of taps to the power 1.5
    part = min((ENOUGH_S / max(astray, 1e-6)) ** (2 / 3), reading.used.sum() / ENOUGH_TAPS)
    return float(np.clip(part, 0.02, 0.99))
