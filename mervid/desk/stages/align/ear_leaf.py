"""Tools for the ear: early or late over the last bars, nudging by drag or step, tapping, the tour, borrowing."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QLineF, QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QSizePolicy, QVBoxLayout, QWidget

from ....core.figures import signed
from ...theme.style import Theme, font
from ...theme.tr import tr
from ...theme.words import Words
from ..frame import Keys, asking


class EarlyLate(QWidget):
    """A scale in ms: what was heard in the last two bars against the reference beat; early left, late right."""

    REACH = 30.0

    def __init__(self) -> None:
        super().__init__()
        self.value: float | None = None
        self.allowed = 8.0
        self.setMinimumHeight(46)
        self.setToolTip(
            tr("What was heard in the last two bars, against the grid: late means the grid comes too early")
        )
        self.setAccessibleName(tr("Early or late"))

    def sizeHint(self) -> QSize:
        return QSize(200, 46)

    @property
    def words(self) -> str:
        """The reading in words."""
        if self.value is None:
            return tr("nothing heard here")
        if abs(self.value) < 0.05:
            return tr("on it")
        return f"{abs(self.value):.1f} ms {'late' if self.value > 0 else 'early'}"

    def show_value(self, value: float | None, allowed: float) -> None:
        """Show a median error in ms, and how much is allowed here."""
        if (value, allowed) != (self.value, self.allowed):
            self.value, self.allowed = value, allowed
            self.setAccessibleDescription(self.words)
            self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        p, pal = QPainter(self), Theme.palette
        r = QRectF(2, 20, self.width() - 4, 16)

        def x_of(ms: float) -> float:
            return r.center().x() + float(np.clip(ms / self.REACH, -1, 1)) * r.width() / 2

        p.fillRect(r, pal.color("raised"))
        p.fillRect(
            QRectF(x_of(-self.allowed), r.top(), x_of(self.allowed) - x_of(-self.allowed), r.height()),
            pal.color("band"),
        )
        p.setPen(QPen(pal.color("border"), 1))
        p.drawRect(r)
        for ms in range(-20, 21, 10):
            p.drawLine(QLineF(x_of(ms), r.bottom() - (8 if ms == 0 else 4), x_of(ms), r.bottom()))
        out = self.value is not None and abs(self.value) > self.allowed
        p.setFont(font(10.5, bold=True))
        p.setPen(pal.color("faint" if self.value is None else "attention" if out else "ink"))
        p.drawText(QRectF(0, 0, self.width(), 18), Qt.AlignmentFlag.AlignCenter, self.words)
        p.setFont(font(8))
        p.setPen(pal.color("faint"))
        p.drawText(QRectF(2, 0, 80, 18), Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, "early")
        p.drawText(
            QRectF(self.width() - 82, 0, 80, 18), Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, "late"
        )
        if self.value is not None:
            x = x_of(self.value)
            p.setRenderHint(QPainter.RenderHint.Antialiasing, True)
            p.setPen(QPen(pal.color("attention" if out else "ink"), 2))
            p.drawLine(QLineF(x, r.top(), x, r.bottom()))
            p.setBrush(pal.color("attention" if out else "ink"))
            p.setPen(Qt.PenStyle.NoPen)
            top = r.top()
            p.drawPolygon(QPolygonF([QPointF(x - 5, top - 1), QPointF(x + 5, top - 1), QPointF(x, top + 6)]))
        p.end()


class Jog(QWidget):
    """A strip that is dragged sideways, without end: `moving` by how much so far, `placed` when it is let go."""

    moving = pyqtSignal(float)
    placed = pyqtSignal(float)
    dropped = pyqtSignal()

    def __init__(self, name: str, per_px: float, unit: str, digits: int, tip: str) -> None:
        super().__init__()
        self.per_px, self.unit, self.digits = per_px, unit, digits
        self.value = 0.0
        self._from: float | None = None
        self.setFixedHeight(24)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setCursor(Qt.CursorShape.SizeHorCursor)
        self.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        self.setAccessibleName(name)
        self.setToolTip(tip)

    def _value(self, x: float) -> float:
        assert self._from is not None
        return round((x - self._from) * self.per_px, self.digits)

    def mousePressEvent(self, e: QMouseEvent | None) -> None:
        if e is not None and e.button() == Qt.MouseButton.LeftButton:
            self._from = e.position().x()

    def mouseMoveEvent(self, e: QMouseEvent | None) -> None:
        if e is not None and self._from is not None:
            self.value = self._value(e.position().x())
            self.moving.emit(self.value)
            self.update()

    def mouseReleaseEvent(self, e: QMouseEvent | None) -> None:
        if e is not None and self._from is not None:
            value, self._from, self.value = self._value(e.position().x()), None, 0.0
            if value:
                self.placed.emit(value)
            self.update()

    def keyPressEvent(self, e: QKeyEvent | None) -> None:
        if e is not None and e.key() == Qt.Key.Key_Escape and self._from is not None:
            self._from, self.value = None, 0.0
            self.dropped.emit()
            self.update()
            return
        super().keyPressEvent(e)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        p, pal = QPainter(self), Theme.palette
        r = self.rect().adjusted(0, 1, -1, -2)
        p.setPen(QPen(pal.color("border"), 1))
        p.setBrush(pal.color("raised"))
        p.drawRoundedRect(r, 3, 3)
        shift = (self.value / self.per_px) % 12
        p.setPen(QPen(pal.color("border"), 1))
        x = r.left() + shift
        while x < r.right():
            if x > r.left() + 2:
                p.drawLine(QLineF(x, r.top() + 6, x, r.bottom() - 6))
            x += 12
        if self._from is not None:
            text = signed(self.value, self.unit, digits=self.digits)
            p.setFont(font(9, bold=True))
            w = p.fontMetrics().horizontalAdvance(text) + 14
            box = QRectF(r.center().x() - w / 2, r.top() + 2, w, r.height() - 3)
            p.fillRect(box, pal.color("hand"))
            p.setPen(pal.color("on_hand"))
            p.drawText(box, Qt.AlignmentFlag.AlignCenter, text)
        p.end()


class EarLeaf(QWidget):
    """Emits `asked(name, argument)` like all of the panel."""

    asked = pyqtSignal(str, object)

    def __init__(self, keys: Keys) -> None:
        super().__init__()
        self._keys = keys
        self.meter = EarlyLate()
        self.slide = Jog(
            tr("Slide the grid"), 0.2, "ms", 1, tr("Drag to slide the whole grid, also while it plays: 5 px are 1 ms")
        )
        self.tempo = Jog(tr("Change the tempo"), 0.002, "BPM", 3, tr("Drag to change the tempo, also while it plays"))
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(5)
        column.addWidget(self.meter)
        for jog, name, words, steps in (
            (self.slide, "slide", tr("Slide"), ((-1.0, "−1"), (1.0, "+1"))),
            (self.tempo, "retune", tr("Tempo"), ((-0.01, "−.01"), (-0.001, "−.001"), (0.001, "+.001"), (0.01, "+.01"))),
        ):
            row = QHBoxLayout()
            row.setSpacing(4)
            label = Words(words)
            label.setObjectName("faint")
            label.setFixedWidth(44)
            row.addWidget(label)
            buttons = [self._button(text, name, step, f"{step:+g} {jog.unit}") for step, text in steps]
            half = len(buttons) // 2
            for b in buttons[:half]:
                row.addWidget(b)
            row.addWidget(jog, 1)
            for b in buttons[half:]:
                row.addWidget(b)
            column.addLayout(row)
            jog.moving.connect(lambda v, n=name: self.asked.emit("jog", (n, v, False)))
            jog.placed.connect(lambda v, n=name: self.asked.emit("jog", (n, v, True)))
            jog.dropped.connect(lambda: self.asked.emit("jog", ("", 0.0, False)))
        row = QHBoxLayout()
        row.setSpacing(4)
        self.tour = self._button(tr("Tour"), "tour", None, tr("Hear two bars at each place of the spot check"))
        self.tour.setCheckable(True)
        for b in (
            self._button(tr("Tap…"), "tap-page", None, tr("Tap along with the music")),
            self.tour,
            self._button(tr("Borrow…"), "borrow", None, tr("Take the grid of the full recording")),
        ):
            row.addWidget(b, 1)
        column.addLayout(row)
        row = QHBoxLayout()
        row.setSpacing(4)
        self.fine = self._button(tr("Fine"), "seen", None, tr("On the tour: this place is right, go on"))
        self.fix = self._button(tr("Fix"), "to-fix", None, tr("On the tour: stop here and mend it"))
        self.say = Words("")
        self.say.setObjectName("faint")
        for b in (self.fine, self.fix):
            row.addWidget(b)
        row.addWidget(self.say, 1)
        column.addLayout(row)
        column.addStretch(1)
        self.show_tour(False, "")

    def _button(self, text: str, name: str, argument: object, tip: str) -> QPushButton:
        return asking(text, name, argument, tip, self.asked, self._keys)

    def show_tour(self, running: bool, words: str) -> None:
        """Whether the tour runs, and what it says."""
        self.tour.setChecked(running)
        for b in (self.fine, self.fix):
            b.setEnabled(running)
        self.say.setText(words)
