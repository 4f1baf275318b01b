"""The zipper: the phrases of both tracks as two ladders side by side, slid against each other by dragging.

Bars go downward, so that a bar of the one stands beside the bar of the other that sounds with it. Each boundary of a
phrase is a tooth; where two meet, they lock.
"""

from __future__ import annotations

import attrs
import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter, QPen, QPolygonF, QWheelEvent

from ...core.model.form import letter_number
from ...core.pairs import places
from ...core.pairs.meeting import Meeting
from ...core.pairs.side import Side
from ..theme.palette import tint
from ..theme.tr import tr
from .base import DragView, small

AROUND = 12
"""Bars that are shown before and after the overlap."""
TOOTH, MIDDLE, HEAD, SIDE = 9.0, 26.0, 40.0, 10.0
LOCKS = 0.5
ENTER, AT, LENGTH = "enter", "at", "length"
HANDLE_PX = 7


@attrs.frozen
class _Drag:
    what: str
    y: float
    scale: float
    bars: int = 0


class Zipper(DragView):
    """Emits `slid` with what was dragged (`ENTER`, `AT` or `LENGTH`) and by how many bars; `sliding` on the way."""

    sliding = pyqtSignal(str, int)
    slid = pyqtSignal(str, int)
    hovered = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__(tr("Zipper"), tr("The phrases of both tracks side by side; drag one to meet elsewhere."))
        self.leaving: Side | None = None
        self.coming: Side | None = None
        self.meeting: Meeting | None = None
        self.setMinimumWidth(190)

    def sizeHint(self) -> QSize:
        return QSize(210, 500)

    def show_pair(self, leaving: Side | None, coming: Side | None, meeting: Meeting | None) -> None:
        """Draw another pair, or another meeting of it."""
        self.leaving, self.coming, self.meeting = leaving, coming, meeting
        if meeting is None:
            self.forget()
        self.refresh()

    # places: bars from the meeting, downward

    @property
    def _bar_height(self) -> float:
        # while something is held the scale stays, whatever becomes of the overlap
        if self._drag is not None:
            return self._drag.scale
        bars = (self.meeting.bars if self.meeting is not None else 16) + 2 * AROUND
        return (self.height() - HEAD - 8) / bars

    def y_of(self, bars: float) -> float:
        """Vertical place of a bar, counted from the meeting, px."""
        return HEAD + (bars + AROUND) * self._bar_height

    def _columns(self) -> tuple[QRectF, QRectF]:
        wide = (self.width() - MIDDLE - 2 * SIDE) / 2
        tall = self.height() - HEAD - 8
        return QRectF(SIDE, HEAD, wide, tall), QRectF(self.width() - SIDE - wide, HEAD, wide, tall)

    def _size(self) -> float:
        assert self.leaving is not None and self.meeting is not None
        return float(self.leaving.grid.beats_per_bar(self.meeting.at))

    # hands

    def _grip(self, e: QMouseEvent) -> str:
        assert self.meeting is not None
        left, right = self._columns()
        if abs(e.position().y() - self.y_of(self.meeting.bars)) < HANDLE_PX:
            return LENGTH
        if right.contains(e.position()):
            return ENTER
        return AT if left.contains(e.position()) else ""

    def mousePressEvent(self, e: QMouseEvent | None) -> None:
        if e is None or self.meeting is None or e.button() != Qt.MouseButton.LeftButton:
            return
        what = self._grip(e)
        if what:
            self._drag = _Drag(what, e.position().y(), self._bar_height)

    def mouseMoveEvent(self, e: QMouseEvent | None) -> None:
        if e is None or self.meeting is None:
            return
        if self._drag is None:
            grip = self._grip(e)
            said = {
                ENTER: tr("Drag: the coming track enters earlier or later in itself"),
                AT: tr("Drag: they meet elsewhere in the leaving track"),
                LENGTH: tr("Drag: a longer or shorter overlap"),
            }
            self.hovered.emit(said.get(grip, ""))
            self.setCursor(Qt.CursorShape.SizeVerCursor if grip else Qt.CursorShape.ArrowCursor)
            return
        bars = round((e.position().y() - self._drag.y) / self._bar_height)
        if bars != self._drag.bars:
            self._drag = attrs.evolve(self._drag, bars=bars)
            self.sliding.emit(self._drag.what, bars)

    def mouseReleaseEvent(self, e: QMouseEvent | None) -> None:
        drag, self._drag = self._drag, None
        if drag is not None and drag.bars:
            self.slid.emit(drag.what, drag.bars)

    def wheelEvent(self, e: QWheelEvent | None) -> None:
        if e is not None and self.meeting is not None and e.angleDelta().y():
            self.slid.emit(ENTER, 1 if e.angleDelta().y() > 0 else -1)

    def leaveEvent(self, e: object) -> None:
        self.hovered.emit("")

    # paint

    def draw(self, p: QPainter) -> None:
        if self.leaving is None or self.coming is None or self.meeting is None:
            return
        pal, m = self.palette_, self.meeting
        left, right = self._columns()
        p.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        top, bottom = self.y_of(0), self.y_of(m.bars)
        p.fillRect(QRectF(0, top, self.width(), bottom - top), pal.color("zone"))
        p.setClipRect(QRectF(0, HEAD - 1, self.width(), self.height() - HEAD))
        mine = self._ladder(p, left, self.leaving, m.at, 1.0, (None, m.bars))
        theirs = self._ladder(p, right, self.coming, m.enter, m.level, (0, None))
        self._draw_teeth(p, left.right(), right.left(), mine, theirs)
        p.setPen(QPen(pal.color("ink"), 2))
        for y in (top, bottom):
            p.drawLine(QPointF(4, y), QPointF(self.width() - 4, y))
        p.setClipping(False)
        self._draw_head(p, left, right)

    def _draw_head(self, p: QPainter, left: QRectF, right: QRectF) -> None:
        assert self.leaving is not None and self.coming is not None and self.meeting is not None
        pal, m = self.palette_, self.meeting
        p.fillRect(QRectF(0, 0, self.width(), HEAD), pal.color("paper"))
        for r, side, beat, color, word in (
            (left, self.leaving, m.at, "percussive", "leaves"),
            (right, self.coming, m.enter, "coming", "comes"),
        ):
            p.setFont(small(8, bold=True))
            p.setPen(pal.color(color))
            p.drawText(QRectF(r.left(), 3, r.width() + 8, 16), Qt.AlignmentFlag.AlignLeft, word.upper())
            p.setFont(small(8))
            p.setPen(pal.color("ink"))
            text = p.fontMetrics().elidedText(
                places.name(side, beat), Qt.TextElideMode.ElideRight, int(r.width() + MIDDLE / 2 - 4)
            )
            p.drawText(QRectF(r.left(), 19, r.width() + MIDDLE / 2, 16), Qt.AlignmentFlag.AlignLeft, text)

    def _ladder(
        self,
        p: QPainter,
        column: QRectF,
        side: Side,
        at: float,
        level: float,
        heard: tuple[int | None, int | None],
    ) -> list[float]:
        """Draw the phrases of a track; returns where they begin, in bars from the meeting."""
        pal, size = self.palette_, self._size()
        form = side.form
        edges = np.array([*(q.start for q in form.phrases), form.end]) if form is not None else np.zeros(0)
        bars = (edges - at) / level / size
        start, stop = ((float(side.grid.beat_at(t)) - at) / level / size for t in (0.0, side.duration))
        whole = QRectF(column.left(), self.y_of(start), column.width(), self.y_of(stop) - self.y_of(start))
        p.fillRect(whole, pal.color("panel"))
        p.setFont(small(8))
        for i, q in enumerate(side.phrases):
            a, b = self.y_of(float(bars[i])), self.y_of(float(bars[i + 1]))
            r = QRectF(column.left(), a, column.width(), b - a)
            p.fillRect(r, tint(pal, letter_number(q.letter)))
            p.setPen(QPen(pal.color("ink", 0.6), 1))
            p.drawLine(r.topLeft(), r.topRight())
            seen = max(a, HEAD)
            if min(b, self.height()) - seen >= 13:
                p.setPen(pal.color("ink"))
                length = round(float(bars[i + 1] - bars[i]))
                text = f"{q.role} {length}" if q.role != "other" else f"{q.letter} {length}"
                p.drawText(QRectF(r.left() + 6, seen, r.width() - 10, 15), Qt.AlignmentFlag.AlignVCenter, text)
        # what isn't heard of it in this mix is pale
        veil = pal.color("paper", 0.62)
        first, last = heard
        if first is not None:
            p.fillRect(QRectF(column.left(), HEAD, column.width(), max(0.0, self.y_of(first) - HEAD)), veil)
        if last is not None:
            y = self.y_of(last)
            p.fillRect(QRectF(column.left(), y, column.width(), self.height() - y), veil)
        return [float(b) for b in bars]

    def _draw_teeth(self, p: QPainter, left: float, right: float, mine: list[float], theirs: list[float]) -> None:
        """A tooth where a phrase begins; two that meet are one bolt across."""
        pal = self.palette_
        assert self.meeting is not None
        inside = (-0.1, self.meeting.bars + 0.1)
        locked = {a for a in mine for b in theirs if abs(a - b) < LOCKS / self._size() and inside[0] <= a <= inside[1]}
        half = min(5.0, max(2.5, self._bar_height))
        for bars, x, way, color in ((mine, left, 1, "percussive"), (theirs, right, -1, "coming")):
            for b in bars:
                if any(abs(a - b) < LOCKS / self._size() for a in locked):
                    continue
                y = self.y_of(b)
                p.setPen(Qt.PenStyle.NoPen)
                p.setBrush(pal.color(color))
                tip = QPointF(x + way * TOOTH, y)
                p.drawPolygon(QPolygonF([QPointF(x, y - half), tip, QPointF(x, y + half)]))
        for a in locked:
            y = self.y_of(a)
            p.setPen(Qt.PenStyle.NoPen)
            p.setBrush(pal.color("ink"))
            p.drawRect(QRectF(left, y - half / 1.6, right - left, half * 1.25))
            p.setBrush(pal.color("paper"))
            p.drawEllipse(QPointF((left + right) / 2, y), half / 2.2, half / 2.2)
