"""The interleaved fold: the overlap bar under bar on the clock of the mix, both tracks in each row, one ink each.

The leaving track is inked in the upper half of a row, the coming one in the lower: together they make one thread, apart
they make two. Dragging sideways holds the coming track back or pushes it on, like a hand on a record; with Shift held
the ink of one beat is pulled onto its thread, in the upper half of the leaving track, in the lower of the coming one.
"""

from __future__ import annotations

import math

import attrs
import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtBoundSignal, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter, QPen

from ...core.arrays import Floats, Singles
from ...core.figures import signed
from ...core.fitting.bar_fold import LEAD, Rows
from ...core.pairs import interleaved
from ...core.pairs.clock import Together
from ...core.pairs.tear import Tear
from ..theme.tr import tr
from .base import DragView, image_of, ink_pixels, ramp, small

GUTTER, HEAD, RIGHT = 56, 40, 12
MOST_ROW = 44.0
IN_MARGIN = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
STEPS = (1, 2, 4, 8, 16, 32)


@attrs.frozen
class _Held:
    """What is held: where it was taken (x, beat, s of the mix), and whose ink is pulled (True: the coming track's)."""

    x: float
    beat: float
    mix: float
    pulled: bool | None


class InterleavedFold(DragView):
    """Emits `seek` on a click, `pushing` (ms) while the coming track is dragged and `pushed` when it is let go.

    `pulling` and `pulled` are emitted when ink is pulled: whether of the coming track, where in the mix it was taken
    (s), and over which beat of the clock it is.
    """

    seek = pyqtSignal(float)
    pushing = pyqtSignal(float)
    pushed = pyqtSignal(float)
    pulling = pyqtSignal(bool, float, float)
    pulled = pyqtSignal(bool, float, float)
    hovered = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__(
            tr("Interleaved fold"),
            tr("Both tracks bar under bar on one clock. One thread: they stay together; two: they part."),
        )
        self.together: Together | None = None
        self.line: Tear | None = None
        self.names = ("", "")
        self.message = ""
        self.position = 0.0
        self.rows: Rows | None = None
        self._inks: tuple[Singles, Singles] = (np.zeros(0, np.float32), np.zeros(0, np.float32))
        self.setMinimumHeight(150)

    def sizeHint(self) -> QSize:
        return QSize(640, 330)

    # what is shown

    def show_sound(self, names: tuple[str, str], leaving: Singles, coming: Singles) -> None:
        """Two other recordings: their names and their inks, see `bar_fold.ink`."""
        self.names, self._inks = names, (leaving, coming)
        self.refresh()

    def show_meeting(self, together: Together | None, line: Tear | None, message: str = "") -> None:
        """Draw another meeting of them, or words where there is none."""
        self.together, self.line, self.message = together, line, message
        self.rows = interleaved.rows(together) if together is not None else None
        if together is None:
            self.forget()
        self.refresh()

    def set_position(self, position: float) -> None:
        """Move the playhead, s of the mix."""
        if position != self.position:
            self.position = position
            self.update()

    # places

    def _columns(self) -> int:
        return max(16, self.width() - GUTTER - RIGHT)

    @property
    def row_height(self) -> float:
        """Height of a row, px."""
        rows = len(self.rows.first) if self.rows is not None else 1
        return min(MOST_ROW, (self.height() - HEAD - 6) / max(1, rows))

    def place_of(self, beat: float) -> tuple[float, float]:
        """Left edge x and row top y of a beat of the clock, px."""
        assert self.rows is not None
        row = self.rows.row_of(beat)
        x = GUTTER + (beat - self.rows.first[row] + LEAD) / self.rows.width * self._columns()
        return float(x), HEAD + row * self.row_height

    def beat_at(self, x: float, y: float) -> float | None:
        """Beat of the clock under a place; None outside the rows."""
        if self.rows is None or x < GUTTER - 2:
            return None
        row = int((y - HEAD) // self.row_height)
        if not 0 <= row < len(self.rows.first):
            return None
        return float(self.rows.first[row] + (x - GUTTER) / self._columns() * self.rows.width - LEAD)

    def _ms_per_px(self, beat: float) -> float:
        assert self.together is not None and self.rows is not None
        a, b = self.together.clock.time_at([beat - 0.5, beat + 0.5])
        return float(1000 * (b - a) * self.rows.width / self._columns())

    # hands

    def mousePressEvent(self, e: QMouseEvent | None) -> None:
        if e is None or e.button() != Qt.MouseButton.LeftButton:
            return
        x, y = e.position().x(), e.position().y()
        beat = self.beat_at(x, y)
        if beat is not None and self.together is not None:
            lower = (y - HEAD) % self.row_height >= self.row_height / 2
            pulled = lower if e.modifiers() & Qt.KeyboardModifier.ShiftModifier else None
            # the clock itself may be another while ink is pulled
            self._drag = _Held(x, beat, float(self.together.clock.time_at(beat)), pulled)

    def mouseMoveEvent(self, e: QMouseEvent | None) -> None:
        if e is None:
            return
        held, x = self._drag, e.position().x()
        if held is None or self.together is None or not e.buttons() & Qt.MouseButton.LeftButton:
            self.hovered.emit(self.reading_at(x, e.position().y()))
        elif abs(x - held.x) >= 3:
            self._tell(held, x, self.pushing, self.pulling)

    def mouseReleaseEvent(self, e: QMouseEvent | None) -> None:
        if e is None or self._drag is None or self.together is None:
            return
        held, x = self._drag, e.position().x()
        self._drag = None
        if abs(x - held.x) < 3:
            self.seek.emit(held.mix)
        else:
            self._tell(held, x, self.pushed, self.pulled)

    def _tell(self, held: _Held, x: float, push: pyqtBoundSignal, pull: pyqtBoundSignal) -> None:
        """What the hand does at `x`."""
        assert self.rows is not None
        if held.pulled is None:
            push.emit((x - held.x) * self._ms_per_px(held.beat))
        else:
            beat = held.beat + (x - held.x) / self._columns() * self.rows.width
            pull.emit(held.pulled, held.mix, beat)

    def leaveEvent(self, e: object) -> None:
        self.hovered.emit("")

    def reading_at(self, x: float, y: float) -> str:
        """Bar of the overlap, beat, and how far apart the nearest heard beat is, as text."""
        beat = self.beat_at(x, y)
        if beat is None or self.together is None or self.rows is None:
            return ""
        row = self.rows.row_of(beat + LEAD)
        text = tr("bar {0} of the overlap, beat {1:.2f}").format(row + 1, beat - self.rows.first[row] + 1)
        if self.line is not None and len(self.line.beats):
            i = int(np.abs(self.line.beats + self.together.meeting.at - beat).argmin())
            text += tr(", nearest beat {0} apart").format(signed(self.line.apart[i], "ms", digits=1))
        return text

    # paint

    def draw(self, p: QPainter) -> None:
        if self.together is None or self.rows is None:
            self.draw_message(p, self.message)
            return
        p.setFont(small())
        p.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, False)
        h, columns, pal = self.row_height, self._columns(), self.palette_
        part = max(1.0, (h - (1 if h > 6 else 0)) / 2)
        inks = interleaved.inks(self.together, *self._inks, self.rows, columns=columns)
        for half, color in enumerate((pal.percussive, pal.coming)):
            # the image shares the memory of its pixels
            pixels = ink_pixels(inks[half], ramp(pal.paper, color, pal.panel, 1.5))
            image = image_of(pixels)
            for row in range(len(self.rows.first)):
                target = QRectF(GUTTER, HEAD + row * h + half * part, columns, part)
                p.drawImage(target, image, QRectF(0, row, columns, 1))
        self._draw_lines(p, h)
        self._draw_head(p)
        self._draw_margin(p, h)

    def _draw_lines(self, p: QPainter, h: float) -> None:
        """Beat lines by weight: full ink on downbeats, hairlines on beats."""
        assert self.rows is not None
        bottom = HEAD + len(self.rows.first) * h
        for beat in range(math.ceil(self.rows.width)):
            x = GUTTER + (beat + LEAD) / self.rows.width * self._columns()
            p.setPen(QPen(self.palette_.color("ink", 0.5 if beat == 0 else 0.15), 1))
            p.drawLine(QPointF(x, HEAD), QPointF(x, bottom))

    def _draw_head(self, p: QPainter) -> None:
        """Which ink is whose, and the beats."""
        assert self.rows is not None
        pal, x = self.palette_, float(GUTTER)
        p.setFont(small(8.5, bold=True))
        for name, color, how in ((self.names[0], "percussive", "leaves"), (self.names[1], "coming", "comes")):
            text = p.fontMetrics().elidedText(f"{name} {how}", Qt.TextElideMode.ElideMiddle, self._columns() // 2 - 26)
            p.fillRect(QRectF(x, 7, 12, 8), pal.color(color))
            p.setPen(pal.color("ink"))
            p.drawText(QRectF(x + 17, 2, self._columns() // 2, 18), Qt.AlignmentFlag.AlignVCenter, text)
            x += p.fontMetrics().horizontalAdvance(text) + 44
        p.setPen(pal.color("faint"))
        p.setFont(small(8))
        p.drawText(QRectF(0, 20, GUTTER - 8, 18), IN_MARGIN, "bar")
        for beat in range(math.ceil(self.rows.width)):
            at = GUTTER + (beat + LEAD) / self.rows.width * self._columns()
            p.setFont(small(9 if beat == 0 else 8, bold=beat == 0))
            p.setPen(pal.color("ink" if beat == 0 else "faint"))
            p.drawText(QRectF(at - 20, 20, 40, 18), Qt.AlignmentFlag.AlignCenter, str(beat + 1))

    def _draw_margin(self, p: QPainter, h: float) -> None:
        """Bars of the overlap, and a mark where a bar is further apart than an ear forgives."""
        assert self.rows is not None
        pal = self.palette_
        apart = self._by_bar()
        every = next(n for n in STEPS if n * h >= 13 or n == STEPS[-1])
        p.setFont(small(8))
        for i in range(len(self.rows.first)):
            y = HEAD + i * h
            if self.line is not None and apart[i] > self.line.forgiven:
                wide = 3.0 + 5.0 * min(1.0, math.log2(apart[i] / self.line.forgiven) / 3)
                p.fillRect(QRectF(GUTTER - 4 - wide, y + 0.5, wide, max(1.5, h - 1)), pal.color("attention"))
            if i % every == 0:
                p.setPen(pal.color("faint"))
                p.drawText(QRectF(0, y + h / 2 - 7, GUTTER - 18, 14), IN_MARGIN, str(i + 1))

    def _by_bar(self) -> Floats:
        assert self.rows is not None
        bars = len(self.rows.first)
        return np.nan_to_num(self.line.by_bar(bars)[0]) if self.line is not None else np.zeros(bars)

    def draw_over(self, p: QPainter) -> None:
        """The playhead in its row."""
        if self.together is None or self.rows is None:
            return
        if not self.together.start <= self.position < self.together.stop:
            return
        x, y = self.place_of(float(self.together.clock.beat_at(self.position)))
        p.setPen(QPen(self.palette_.color("ink"), 2))
        p.drawLine(QPointF(x, y - 3), QPointF(x, y + self.row_height + 3))
