"""The drift trace: a dot for each heard beat, the tolerance as a band, the pins as handles."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter, QPen, QPixmap, QPolygonF

from ...core.fitting.drift import Trace
from ...core.model.preparation import Preparation
from ..theme.style import Theme
from ..theme.tr import tr
from .base import MARGIN, TimeView, dots_image, draw_marks, draw_part, picture, small

MARK = 16
STEPS = (20, 40, 75, 150, 300, 500, 1000, 2000, 5000)


class DriftTrace(TimeView):
    """Across the whole track, under the overview's own scale. Click to move the playhead."""

    seek = pyqtSignal(float)
    pin_chosen = pyqtSignal(int)

    def __init__(self) -> None:
        super().__init__(
            tr("Drift trace"), tr("Heard beat minus grid beat over the track, in milliseconds; late is up.")
        )
        self.preparation = Preparation()
        self.trace: Trace | None = None
        self.sure: NDArray[np.float64] | None = None
        self.part: tuple[float, float] | None = None
        self.chosen = -1
        self.setMinimumHeight(84)

    def sizeHint(self) -> QSize:
        return QSize(700, 118)

    def show_trace(
        self, preparation: Preparation, trace: Trace | None, sure: NDArray[np.float64] | None, duration: float
    ) -> None:
        """Draw another trace; `sure` is the confidence of each of its beats."""
        self.preparation, self.trace, self.sure, self.duration = preparation, trace, sure, duration
        self.refresh()

    def limit(self) -> float:
        """Largest error that fits, ms: the next round figure over the 98th percentile, and never a tiny one."""
        if self.trace is None or not len(self.trace.error):
            return STEPS[0]
        need = float(np.percentile(np.abs(self.trace.error), 98)) * 1.1
        return next((s for s in STEPS if s >= need), STEPS[-1])

    def mousePressEvent(self, e: QMouseEvent | None) -> None:
        if e is None or not self.duration:
            return
        grid = self.preparation.grid
        x = e.position().x()
        if grid is not None:
            near = [abs(self.x_of(p.time) - x) for p in grid.pins]
            i = int(np.argmin(near))
            if near[i] < 6 and e.position().y() > self.height() - 20:
                self.pin_chosen.emit(i)
                self.seek.emit(grid.pins[i].time)
                return
        self.seek.emit(self.time_of(x))

    def draw(self, p: QPainter) -> None:
        pal = self.palette_
        p.setFont(small())
        right = self.width() - 8
        top, bottom = 6.0, self.height() - 18.0
        middle = (top + bottom) / 2
        if self.trace is None or self.preparation.grid is None:
            self.draw_message(p, tr("The drift shows as soon as the beats are heard."))
            return
        limit = self.limit()
        scale = (bottom - top) / 2 / limit

        def y_of(ms: float) -> float:
            return middle - ms * scale

        tolerance = self.preparation.tolerance
        loose = min(tolerance.loose, limit)
        p.fillRect(QRectF(MARGIN, y_of(loose), right - MARGIN, 2 * loose * scale), pal.color("band"))
        for a, b in self.preparation.mix_zones:
            r = QRectF(self.x_of(a), y_of(loose), self.x_of(b) - self.x_of(a), 2 * loose * scale)
            p.fillRect(r, pal.color("paper"))
            tight = min(tolerance.tight, limit)
            p.fillRect(QRectF(r.left(), y_of(tight), r.width(), 2 * tight * scale), pal.color("band"))
            p.setPen(QPen(pal.color("border"), 1, Qt.PenStyle.DotLine))
            p.drawLine(QPointF(r.left(), top), QPointF(r.left(), bottom))
            p.drawLine(QPointF(r.right(), top), QPointF(r.right(), bottom))
        p.setPen(pal.color("hairline"))
        p.drawLine(QPointF(MARGIN, middle), QPointF(right, middle))
        for ms, text in ((limit, f"+{limit:.0f}"), (0, tr("0 ms")), (-limit, f"−{limit:.0f}")):
            self.draw_label(p, y_of(ms) - 7 + (ms > 0) * 5 - (ms < 0) * 5, 14, text)
        p.drawText(QRectF(MARGIN + 4, top - 2, 200, 14), Qt.AlignmentFlag.AlignLeft, "late")
        p.drawText(QRectF(MARGIN + 4, bottom - 13, 200, 14), Qt.AlignmentFlag.AlignLeft, "early")
        draw_part(p, self, self.part, top, bottom)
        self._draw_dots(p, limit, y_of)
        self._draw_pins(p, bottom)

    def _draw_dots(self, p: QPainter, limit: float, y_of) -> None:  # type: ignore[no-untyped-def]
        assert self.trace is not None
        pal = self.palette_
        known = self.sure is not None and len(self.sure) == len(self.trace.times)
        sure = self.sure if self.sure is not None and known else np.ones(len(self.trace.times))
        over = np.abs(self.trace.error) > self.trace.tolerance
        x = self.x_of(self.trace.times)
        y = np.clip(self.trace.error, -limit, limit)
        height = (y_of(-1.0) - y_of(1.0)) / 2
        image = dots_image(
            (self.height(), self.width()), x, y_of(0.0) - y * height, 0.25 + 0.75 * sure, over, (pal.ink, pal.attention)
        )
        p.drawImage(0, 0, image)

    def _draw_pins(self, p: QPainter, bottom: float) -> None:
        pal = self.palette_
        grid = self.preparation.grid
        assert grid is not None
        y = bottom + 9
        self.draw_label(p, y - 7, 14, "pins")
        x = self.x_of(grid.times)
        seen = np.flatnonzero((x >= MARGIN - 2) & (x <= self.width() - 6))
        hand = np.array([q.hand for q in grid.pins])
        for marked in (False, True):
            those = seen[hand[seen] == marked]
            # of pins on two pixels, one is enough
            _, first = np.unique(np.rint(x[those] / 2), return_index=True)
            draw_marks(p, pin_mark(marked, pal.name), x[those[first]], np.full(len(first), y))
        if 0 <= self.chosen < len(grid.pins):
            draw_pin(p, float(x[self.chosen]), y, bool(hand[self.chosen]), True, pal)


@lru_cache(maxsize=8)
def pin_mark(hand: bool, palette: str) -> QPixmap:
    """A pin's handle as a picture; one for each palette."""
    return picture(MARK, MARK, 2, lambda p: draw_pin(p, MARK / 2, MARK / 2, hand, False, Theme.palette))


def draw_pin(p: QPainter, x: float, y: float, hand: bool, chosen: bool, pal) -> None:  # type: ignore[no-untyped-def]
    """A pin's handle: a filled diamond for a hand's, an open square for a fitted one, ringed when chosen."""
    p.setRenderHint(QPainter.RenderHint.Antialiasing, True)
    if hand:
        p.setPen(QPen(pal.color("hand"), 1))
        p.setBrush(pal.color("hand"))
        p.drawPolygon(QPolygonF([QPointF(x, y - 6), QPointF(x + 5, y), QPointF(x, y + 6), QPointF(x - 5, y)]))
    else:
        p.setPen(QPen(pal.color("ink"), 1.4))
        p.setBrush(pal.color("paper"))
        p.drawRect(QRectF(x - 3.5, y - 3.5, 7, 7))
    if chosen:
        p.setPen(QPen(pal.color("hand"), 2))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawEllipse(QPointF(x, y), 8, 8)
