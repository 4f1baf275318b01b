"""The spot check: five places side by side, each beat of two bars under the others, the grid's line down the middle.

Hits on the line are right; hits right of it are late. A row dragged sideways onto the line becomes a hand pin. Drift
that is invisible at the start of a track is plain in the last panel.
"""

from __future__ import annotations

import attrs
import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QLineF, QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QMouseEvent, QPainter, QPen, QPixmap, QPolygonF, QWheelEvent

from ...core.edits.spot_check import Spot, State
from ...core.figures import signed
from ...core.fitting.drift import Trace
from ...core.model.preparation import Preparation
from ...core.sound.decoding import Kept, floats
from ..theme.figures import clock
from ..theme.tr import tr
from .base import PinView, draw_lines, picture, small
from .drift_trace import draw_pin

HEAD, FOOT, GAP, LABEL = 68, 16, 6, 14
WIDEST, CLOSEST = 0.2, 0.01
KEPT = 400


@attrs.frozen
class _Drag:
    """A row picked up: the beat, its time then, and where."""

    beat: float
    time: float
    x: float
    panel: int


@attrs.frozen
class _Row:
    """One beat of a spot: where the grid has it, its number and its place in the bar."""

    time: float
    beat: float
    place: int


class SpotCheck(PinView):
    """Emits `chosen` for a panel, `seek` for a row, `marked` for its seen mark, and `pin_*` while a row is dragged."""

    chosen = pyqtSignal(int)
    marked = pyqtSignal(int)
    seek = pyqtSignal(float)
    pin_moving = pyqtSignal(float, float, bool)
    pin_placed = pyqtSignal(float, float, bool)

    def __init__(self) -> None:
        super().__init__(
            tr("Spot check"), tr("Five places of the track, beat under beat. Drag a hit onto the line to pin it.")
        )
        self.samples: Kept | None = None
        self.rate = 44100
        self.attack: NDArray[np.float32] = np.zeros(0, np.float32)
        self.preparation = Preparation()
        self.trace: Trace | None = None
        self.spots: tuple[Spot, ...] = ()
        self.states: tuple[State, ...] = ()
        self.current = 0
        self.position = 0.0
        self.reach = 0.06
        self.message = ""
        self._hits: dict[object, QPixmap] = {}

    def sizeHint(self) -> QSize:
        return QSize(700, 320)

    # what is shown

    def show_sound(self, samples: Kept | None, rate: int, attack: NDArray[np.float32], message: str = "") -> None:
        """Draw another recording: (frames, channels) samples at `rate` Hz, and attack strength 1000 a second."""
        self.samples, self.rate, self.attack, self.message = samples, rate, attack, message
        self._hits.clear()
        self.refresh()

    def show_spots(
        self,
        preparation: Preparation,
        trace: Trace | None,
        spots: tuple[Spot, ...],
        states: tuple[State, ...],
        current: int,
    ) -> None:
        """Draw these places under this grid."""
        self.preparation, self.trace = preparation, trace
        if len(spots) != len(self.spots):
            self.forget()
        self.spots, self.states, self.current = spots, states, current
        self.refresh()

    def set_position(self, position: float) -> None:
        """Move the playhead: the row it lies in is marked."""
        before, self.position = self._here(), position
        if self._here() != before:
            self.refresh()

    def _here(self) -> list[tuple[int, int]]:
        """The rows that hold the playhead: panel and row."""
        found = []
        for i, spot in enumerate(self.spots):
            if not spot.start - 1 < self.position < spot.stop + 1:
                continue
            rows = self.rows(i)
            beat = rows[1].time - rows[0].time if len(rows) > 1 else 1.0
            found += [(i, k) for k, row in enumerate(rows) if row.time <= self.position + 1e-3 < row.time + beat]
        return found

    # places

    def panel(self, i: int) -> QRectF:
        """Where a spot is drawn."""
        wide = (self.width() - GAP) / max(1, len(self.spots)) - GAP
        return QRectF(GAP + i * (wide + GAP), 2, wide, self.height() - 4)

    def plot(self, i: int) -> QRectF:
        """Where its rows are drawn."""
        return self.panel(i).adjusted(LABEL, HEAD, -4, -FOOT)

    def rows(self, i: int) -> list[_Row]:
        """The beats of a spot."""
        grid = self.preparation.grid
        if grid is None:
            return []
        spot = self.spots[i]
        times, beats, place = grid.positions(spot.start - 0.01, spot.stop - 0.05)
        return [_Row(float(t), float(b), int(q)) for t, b, q in zip(times, beats, place, strict=True)]

    def x_of(self, i: int, offset: float) -> float:
        """Horizontal place of `offset` s off the grid's line in panel `i`."""
        r = self.plot(i)
        return r.center().x() + offset / self.reach * r.width() / 2

    def _panel_at(self, x: float) -> int:
        return next((i for i in range(len(self.spots)) if self.panel(i).contains(x, 10.0)), -1)

    def _row_at(self, i: int, y: float) -> _Row | None:
        rows, r = self.rows(i), self.plot(i)
        if not rows or not r.top() <= y < r.bottom():
            return None
        return rows[min(len(rows) - 1, int((y - r.top()) / r.height() * len(rows)))]

    def _tick(self, i: int) -> QRectF:
        r = self.panel(i)
        return QRectF(r.right() - 24, r.top() + 4, 20, 18)

    # hands

    def mousePressEvent(self, e: QMouseEvent | None) -> None:
        if e is None or e.button() != Qt.MouseButton.LeftButton:
            return
        x, y = e.position().x(), e.position().y()
        i = self._panel_at(x)
        if i < 0:
            return
        if self._tick(i).contains(e.position()):
            self.marked.emit(i)
            return
        self.chosen.emit(i)
        row = self._row_at(i, y)
        if row is not None:
            self._drag = _Drag(row.beat, row.time, x, i)

    def _dragged(self, x: float) -> float:
        """Where the beat would lie: ink pulled to the right was early for the hand, so its beat comes earlier."""
        drag = self._drag
        return float(drag.time - (x - drag.x) / self.plot(drag.panel).width() * 2 * self.reach)

    def mouseMoveEvent(self, e: QMouseEvent | None) -> None:
        if e is None:
            return
        x = e.position().x()
        if self._drag is not None and e.buttons() & Qt.MouseButton.LeftButton:
            if abs(x - self._drag.x) >= 3:
                self.pin_moving.emit(self._dragged(x), self._drag.beat, self.snaps(e))
            return
        i = self._panel_at(x)
        over = i >= 0 and self.plot(i).contains(e.position())
        self.setCursor(Qt.CursorShape.SizeHorCursor if over else Qt.CursorShape.ArrowCursor)

    def mouseReleaseEvent(self, e: QMouseEvent | None) -> None:
        if e is None or self._drag is None:
            return
        x, drag = e.position().x(), self._drag
        time = self._dragged(x)
        self._drag = None
        if abs(x - drag.x) < 3:
            self.seek.emit(max(0.0, drag.time))
        else:
            self.pin_placed.emit(time, drag.beat, self.snaps(e))

    def wheelEvent(self, e: QWheelEvent | None) -> None:
        if e is not None:
            self.zoom(0.8 if e.angleDelta().y() > 0 else 1.25)

    def zoom(self, factor: float) -> None:
        """Show `factor` times as much on either side of the line."""
        self.reach = float(np.clip(self.reach * factor, CLOSEST, WIDEST))
        self.refresh()

    # paint

    def draw(self, p: QPainter) -> None:
        p.setFont(small())
        if not self.spots or self.preparation.grid is None:
            self.draw_message(p, self.message or tr("There is no grid to check yet."))
            return
        for i, (spot, state) in enumerate(zip(self.spots, self.states, strict=True)):
            self._draw_head(p, i, spot, state)
            self._draw_rows(p, i)

    def _draw_head(self, p: QPainter, i: int, spot: Spot, state: State) -> None:
        pal, grid = self.palette_, self.preparation.grid
        assert grid is not None
        r = self.panel(i)
        p.fillRect(r, pal.color("panel", 0.6 if i == self.current else 0.25))
        if i == self.current:
            p.setPen(Qt.PenStyle.NoPen)
            p.fillRect(QRectF(r.left(), r.top(), r.width(), 3), pal.color("ink"))
        x, w = r.left() + 6, r.width() - 10
        left = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
        p.setFont(small(8.5, bold=True))
        p.setPen(pal.color("attention" if spot.doubt else "ink"))
        title = spot.doubt or spot.name
        title = p.fontMetrics().elidedText(title, Qt.TextElideMode.ElideRight, int(w - 24))
        p.drawText(QRectF(x, r.top() + 5, w - 22, 16), left, title)
        p.setFont(small(8))
        p.setPen(pal.color("faint"))
        bar = grid.name_at(float(grid.beat_at(spot.start + 0.02))).split(".")[0]
        p.drawText(QRectF(x, r.top() + 20, w, 14), left, tr("bar {0}, {1}").format(bar, clock(spot.start)))
        p.setFont(small(12, bold=True))
        p.setPen(pal.color("attention" if self._out(spot, state) else "ink"))
        typical = tr("not heard") if state.typical is None else signed(state.typical, "ms", digits=1)
        p.drawText(QRectF(x, r.top() + 33, w, 20), left, typical)
        p.setFont(small(8))
        p.setPen(pal.color("attention" if self._out(spot, state) else "faint"))
        worst = "" if state.worst is None else tr("worst {0}").format(signed(state.worst, digits=1))
        p.drawText(QRectF(x, r.top() + 51, w, 14), left, worst)
        self._draw_tick(p, self._tick(i), state.seen)

    def _out(self, spot: Spot, state: State) -> bool:
        middle = np.array([(spot.start + spot.stop) / 2])
        limit = float(self.preparation.tolerance.at(middle, self.preparation.mix_zones)[0])
        return state.worst is not None and abs(state.worst) > limit

    def _draw_tick(self, p: QPainter, r: QRectF, seen: bool) -> None:
        """An open ring to be marked, or a filled one with a tick: seen."""
        pal = self.palette_
        p.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        c = r.center()
        p.setPen(QPen(pal.color("ink"), 1.3))
        p.setBrush(pal.color("ink") if seen else Qt.BrushStyle.NoBrush)
        p.drawEllipse(c, 7.0, 7.0)
        if seen:
            p.setPen(QPen(pal.color("paper"), 1.8))
            p.drawPolyline(
                QPolygonF([QPointF(c.x() - 3, c.y()), c + QPointF(-0.5, 3), QPointF(c.x() + 3.5, c.y() - 3)])
            )
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setRenderHint(QPainter.RenderHint.Antialiasing, False)

    def _draw_rows(self, p: QPainter, i: int) -> None:
        pal, rows, r = self.palette_, self.rows(i), self.plot(i)
        p.fillRect(r, pal.color("paper"))
        if not rows:
            return
        h, marked = r.height() / len(rows), self._here()
        times = np.array([q.time for q in rows])
        limit = self.preparation.tolerance.at(times, self.preparation.mix_zones) / 1000
        for k, row in enumerate(rows):
            top = r.top() + k * h
            a, b = max(r.left(), self.x_of(i, -limit[k])), min(r.right(), self.x_of(i, limit[k]))
            p.fillRect(QRectF(a, top + 1, b - a, h - 1), pal.color("band"))
            self._draw_hit(p, QRectF(r.left(), top, r.width(), h), row.time)
            here = (i, k) in marked
            p.setFont(small(8, bold=row.place == 1 or here))
            p.setPen(pal.color("ink" if row.place == 1 or here else "faint"))
            p.drawText(QRectF(r.left() - LABEL, top, LABEL - 3, h), Qt.AlignmentFlag.AlignCenter, str(row.place))
            if row.place == 1 and k:
                p.setPen(QPen(pal.color("border"), 1))
                p.drawLine(QPointF(r.left(), top), QPointF(r.right(), top))
        p.setPen(QPen(pal.color("ink", 0.8), 1.4))
        middle = self.x_of(i, 0.0)
        p.drawLine(QPointF(middle, r.top()), QPointF(middle, r.bottom()))
        self._draw_heard(p, i, rows, h)
        p.setFont(small(7.5))
        p.setPen(pal.color("faint"))
        foot = QRectF(r.left(), r.bottom(), r.width(), FOOT)
        for align, text in (
            (Qt.AlignmentFlag.AlignLeft, f"−{self.reach * 1000:.0f}"),
            (Qt.AlignmentFlag.AlignHCenter, "0"),
            (Qt.AlignmentFlag.AlignRight, f"+{self.reach * 1000:.0f} ms"),
        ):
            p.drawText(foot, align | Qt.AlignmentFlag.AlignVCenter, text)

    def _draw_hit(self, p: QPainter, r: QRectF, time: float) -> None:
        """The sound around a beat; the picture is kept while the beat stays, so that a drag paints few."""
        ratio = self.devicePixelRatioF()
        key = (time, r.width(), r.height(), self.reach, self.palette_.name, ratio)
        hit = self._hits.get(key)
        if hit is None:
            if len(self._hits) >= KEPT:
                self._hits.clear()
            box = QRectF(0, 0, r.width(), r.height())
            hit = picture(r.width(), r.height() + 1, ratio, lambda inner: self._paint_hit(inner, box, time))
            self._hits[key] = hit
        p.drawPixmap(r.topLeft(), hit)

    def _paint_hit(self, p: QPainter, r: QRectF, time: float) -> None:
        """The sound around a beat: its wave in one ink, the beginnings of hits in the other."""
        pal = self.palette_
        n = int(r.width())
        base, tall = r.bottom() - 1, r.height() - 4
        if self.samples is not None and len(self.samples):
            edges = np.rint((time - self.reach + np.arange(n + 1) / n * 2 * self.reach) * self.rate).astype(int)
            low, high = int(np.clip(edges[0], 0, len(self.samples))), int(np.clip(edges[-1], 0, len(self.samples)))
            if high - low > n:
                wave = np.abs(floats(self.samples[low:high])).max(axis=1)
                cuts = np.clip(edges[:-1] - low, 0, len(wave) - 1)
                peak = np.maximum.reduceat(wave, cuts)
                peak[(edges[:-1] < 0) | (edges[:-1] >= len(self.samples))] = 0
                height = peak / max(0.05, float(peak.max())) * tall
                p.setPen(QColor(pal.sustained))
                x0 = r.left()
                draw_lines(
                    p, [QLineF(x0 + x, base, x0 + x, base - y) for x, y in enumerate(height.tolist()) if y > 0.4]
                )
        start = round((time - self.reach) * 1000)
        part = self.attack[max(0, start) : max(0, round((time + self.reach) * 1000) + 1)]
        if not len(part):
            return
        p.setPen(QPen(pal.color("percussive"), 1.2))
        strong = np.flatnonzero(part > 0.08)
        lines = []
        for k in strong.tolist():
            x = r.left() + (max(0, start) + k - start) / 1000 / (2 * self.reach) * r.width()
            lines.append(QLineF(x, base, x, base - float(part[k]) * tall))
        draw_lines(p, lines)

    def _draw_heard(self, p: QPainter, i: int, rows: list[_Row], h: float) -> None:
        """Where each beat was heard, and the pins that stand here."""
        pal, r, grid = self.palette_, self.plot(i), self.preparation.grid
        assert grid is not None
        p.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        pinned = {q.beat: q for q in grid.pins}
        for k, row in enumerate(rows):
            y = r.top() + (k + 0.5) * h
            if self.trace is not None and len(self.trace.times):
                j = int(np.abs(self.trace.times - row.time).argmin())
                off = float(self.trace.times[j]) - row.time
                if abs(off) <= self.reach:
                    out = abs(self.trace.error[j]) > self.trace.tolerance[j]
                    p.setPen(QPen(pal.color("paper"), 1))
                    p.setBrush(pal.color("attention" if out else "ink"))
                    p.drawEllipse(QPointF(self.x_of(i, off), y), 3.6, 3.6)
            if row.beat in pinned:
                draw_pin(p, r.right() - 7, y, pinned[row.beat].hand, False, pal)
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setRenderHint(QPainter.RenderHint.Antialiasing, False)
