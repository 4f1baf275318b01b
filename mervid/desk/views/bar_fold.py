"""The bar fold: the track cut at every bar and stacked, attack strength as ink.

Under a true grid each kind of hit makes a straight vertical thread; drift bends the threads. Ink is dragged sideways
onto its thread to place a hand pin.
"""

from __future__ import annotations

import math
from functools import lru_cache

import attrs
import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QImage, QMouseEvent, QPainter, QPen, QPixmap, QPolygonF, QWheelEvent

from ...core.figures import signed
from ...core.fitting import bar_fold
from ...core.fitting.bar_fold import LEAD, Rows
from ...core.fitting.drift import Trace
from ...core.model.beatgrid import Grid, bar_name
from ...core.model.preparation import Preparation
from ..theme.style import Theme
from ..theme.tr import tr
from .base import PinView, draw_flag, draw_marks, image_of, ink_pixels, picture, ramp, small

GUTTER, HEAD, RIGHT = 56, 22, 12
LEAST_ROW, MOST_ROW = 5.0, 40.0
IN_MARGIN = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter


@attrs.frozen
class _Drag:
    """Ink picked up at `time`, lying at `beat` of the grid as it was."""

    time: float
    beat: float
    x: float


class BarFold(PinView):
    """Emits `seek` on a click and `pin_*` while ink is dragged."""

    seek = pyqtSignal(float)
    pin_moving = pyqtSignal(float, float, bool)
    pin_placed = pyqtSignal(float, float, bool)
    hovered = pyqtSignal(str)
    beat_picked = pyqtSignal(float)

    def __init__(self) -> None:
        super().__init__(
            tr("Bar fold"), tr("The track cut at every bar and stacked. Straight threads mean a true grid.")
        )
        self.inks: NDArray[np.float32] = np.zeros(0, np.float32)
        self.preparation = Preparation()
        self.trace: Trace | None = None
        self.unsure: NDArray[np.bool_] | None = None
        self.duration = 0.0
        self.position = 0.0
        self.bars = 1
        self.message = ""
        self.halves = False
        self.rows: Rows | None = None
        self.offset = 0.0
        self._grid: Grid | None = None
        self._ink: NDArray[np.float32] | None = None
        self._image: QImage | None = None
        self._pixels: NDArray[np.uint32] | None = None
        self._cut_rows: NDArray[np.bool_] = np.zeros(0, bool)
        self._colors = ""
        self.setMinimumHeight(150)

    def sizeHint(self) -> QSize:
        return QSize(700, 320)

    # what is shown

    def show_sound(self, inks: NDArray[np.float32], duration: float, message: str = "") -> None:
        """Draw another recording."""
        self.inks, self.duration, self.message = inks, duration, message
        self._grid = self._ink = self.rows = None
        self.offset = 0.0
        self.refresh()

    def show_preparation(
        self, preparation: Preparation, trace: Trace | None, unsure: NDArray[np.bool_] | None = None
    ) -> None:
        """Draw under another grid; only rows whose times changed are cut again.

        `unsure` says which beats of the trace are doubtful.
        """
        self.preparation, self.trace, self.unsure = preparation, trace, unsure
        if preparation.grid is None:
            self.forget()
        self._cut()
        self.refresh()

    def set_bars(self, bars: int) -> None:
        """Rows of 1, 2, 4 or 8 bars."""
        self.bars, self._grid = bars, None
        self._cut()
        self.refresh()

    def _columns(self) -> int:
        return max(16, self.width() - GUTTER - RIGHT)

    def _cut(self) -> None:
        grid = self.preparation.grid
        if grid is None or not len(self.inks) or self.width() < 100:
            self.rows = self._ink = self._image = self._grid = None
            return
        old_grid, old_rows, old_ink = self._grid, self.rows, self._ink
        self.rows = bar_fold.rows(grid, self.duration, bars=self.bars)
        only = None
        if old_grid is not None and old_rows is not None and old_ink is not None:
            only = self._changed(old_grid, grid, old_rows, old_ink)
            if only is not None and only[0] >= only[1]:
                self._grid = grid
                return
        shape = (len(self.rows.first), self._columns())
        if only is None or self._ink is None or self._pixels is None:
            self._ink = np.full(shape, np.nan, np.float32)
            self._pixels = np.zeros(shape, np.uint32)
            self._cut_rows = np.zeros(shape[0], bool)
            self._image = image_of(self._pixels)
        else:
            self._cut_rows[only[0] : only[1]] = False
        self._grid = grid
        self._colors = self.palette_.name

    def _rows_in_sight(self) -> tuple[int, int]:
        """First and one past the last row that the window shows."""
        h = self.row_height
        return int(self.offset // h), int((self.offset + self.height()) // h) + 1

    def _cut_seen(self) -> None:
        """Cut the rows in sight that haven't been: two hours have thousands, a window shows a hundred."""
        if self._ink is None or self._pixels is None or self.rows is None or self._grid is None:
            return
        first, last = self._rows_in_sight()
        todo = np.flatnonzero(~self._cut_rows[first:last]) + first
        if not len(todo):
            return
        a, b = int(todo[0]), int(todo[-1]) + 1
        pal = self.palette_
        bar_fold.image(self.inks, self._grid, self.rows, columns=self._columns(), only=(a, b), into=self._ink)
        self._pixels[a:b] = ink_pixels(self._ink[a:b], ramp(pal.paper, pal.percussive, pal.panel))
        self._cut_rows[a:b] = True

    def _changed(self, old: Grid, new: Grid, old_rows: Rows, ink: NDArray[np.float32]) -> tuple[int, int] | None:
        """Rows that must be cut again, or None for all."""
        assert self.rows is not None
        same = (
            old.meter == new.meter
            and ink.shape == (len(self.rows.first), self._columns())
            and np.array_equal(old_rows.first, self.rows.first)
            and self._colors == self.palette_.name
        )
        if not same:
            return None
        edges = np.append(self.rows.first - LEAD, self.rows.first[-1] + self.rows.width)
        # a grid is piecewise linear: a row is untouched when its ends and every pin in it stay
        ends = np.abs(old.time_at(edges) - new.time_at(edges)) > 1e-9
        moved = ends[:-1] | ends[1:]
        for beats in (old.beats, new.beats):
            apart = np.abs(old.time_at(beats) - new.time_at(beats)) > 1e-9
            moved[np.clip(np.searchsorted(self.rows.first, beats[apart], "right") - 1, 0, len(moved) - 1)] = True
        at = np.flatnonzero(moved)
        # rows overlap by their lead-in: one more on each side
        return (max(0, int(at[0]) - 1), min(len(moved), int(at[-1]) + 2)) if len(at) else (0, 0)

    # places

    def _numbered_every(self) -> int:
        """Every so many rows there is room for a number."""
        return next(n for n in (1, 2, 4, 8, 16, 32, 64, 128, 10**6) if n * self.row_height >= 13)

    @property
    def row_height(self) -> float:
        """Height of a row, px."""
        if self.rows is None:
            return LEAST_ROW
        return min(max((self.height() - HEAD - 4) / max(1, len(self.rows.first)), LEAST_ROW), MOST_ROW)

    def _most_scroll(self) -> float:
        if self.rows is None:
            return 0.0
        return max(0.0, len(self.rows.first) * self.row_height - (self.height() - HEAD - 4))

    def place_of(self, beat: float) -> tuple[float, float]:
        """Left edge x and row top y of a beat, px."""
        assert self.rows is not None
        row = self.rows.row_of(beat)
        x = GUTTER + (beat - self.rows.first[row] + LEAD) / self.rows.width * self._columns()
        return x, HEAD + row * self.row_height - self.offset

    def beat_at(self, x: float, y: float) -> float | None:
        """Beat under a place; None outside the rows."""
        if self.rows is None or self._grid is None:
            return None
        row = int((y - HEAD + self.offset) // self.row_height)
        if not 0 <= row < len(self.rows.first) or x < GUTTER - 2:
            return None
        return float(self.rows.first[row] + (x - GUTTER) / self._columns() * self.rows.width - LEAD)

    def _name(self, index: int) -> str:
        """What a bar is called: counted from bar 1, or from the drop."""
        p = self.preparation
        if p.origin is not None and p.grid is not None:
            index -= int(p.grid.bar_index(p.origin + 1e-6)[0])
        return bar_name(index)

    # hands

    def mousePressEvent(self, e: QMouseEvent | None) -> None:
        if e is None or e.button() != Qt.MouseButton.LeftButton or self.preparation.grid is None:
            return
        beat = self.beat_at(e.position().x(), e.position().y())
        if beat is not None and e.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.beat_picked.emit(float(self.preparation.grid.time_at(beat)))
        elif beat is not None:
            self._drag = _Drag(float(self.preparation.grid.time_at(beat)), beat, e.position().x())

    def mouseMoveEvent(self, e: QMouseEvent | None) -> None:
        if e is None:
            return
        if self._drag is not None and e.buttons() & Qt.MouseButton.LeftButton:
            if abs(e.position().x() - self._drag.x) >= 3:
                self.pin_moving.emit(self._drag.time, self._beat_dragged(e.position().x()), self.snaps(e))
            return
        self.hovered.emit(self.reading_at(e.position().x(), e.position().y()))

    def _beat_dragged(self, x: float) -> float:
        assert self._drag is not None and self.rows is not None
        return self._drag.beat + (x - self._drag.x) / self._columns() * self.rows.width

    def mouseReleaseEvent(self, e: QMouseEvent | None) -> None:
        drag, self._drag = self._drag, None
        if e is None or drag is None:
            return
        if abs(e.position().x() - drag.x) < 3:
            self.seek.emit(drag.time)
            return
        self._drag = drag
        beat = self._beat_dragged(e.position().x())
        self._drag = None
        if abs(beat - round(beat)) <= 0.3:
            self.pin_placed.emit(drag.time, float(round(beat)), self.snaps(e))
        else:
            self.dropped.emit()

    def leaveEvent(self, e: object) -> None:
        self.hovered.emit("")

    def wheelEvent(self, e: QWheelEvent | None) -> None:
        if e is not None:
            self.offset = float(np.clip(self.offset - e.angleDelta().y() / 3, 0, self._most_scroll()))
            self.refresh()

    def resizeEvent(self, e: object) -> None:
        self._grid = None
        self._cut()
        self.offset = min(self.offset, self._most_scroll())

    def reading_at(self, x: float, y: float) -> str:
        """Bar, beat, time and nearest error under a place, as text."""
        beat = self.beat_at(x, y)
        grid = self.preparation.grid
        if beat is None or grid is None:
            return ""
        time = float(grid.time_at(beat))
        if not 0 <= time <= self.duration:
            return ""
        index, within = grid.bar_index(beat)
        text = tr("bar {0}, beat {1:.2f}, at {2:.3f} s").format(self._name(int(index)), float(within) + 1, time)
        if self.trace is not None and len(self.trace.times):
            i = int(np.argmin(np.abs(self.trace.times - time)))
            if abs(self.trace.times[i] - time) < 0.5:
                text += tr(", nearest beat {0}").format(signed(self.trace.error[i], "ms", digits=1))
        return text

    def set_position(self, position: float) -> None:
        """Move the playhead, and scroll so that its row is seen."""
        before, self.position = self._playhead(), position
        here = self._playhead()
        if before is not None and here is not None:
            for top in {int(before[1]), int(here[1])}:
                self.update(0, top - 5, self.width(), int(self.row_height) + 11)
        if self.rows is not None and self._grid is not None and self._most_scroll() > 0:
            _, y = self.place_of(float(self._grid.beat_at(position)))
            if y < HEAD or y > self.height() - 2 * self.row_height:
                middle = y + self.offset - self.height() / 2
                self.offset = float(np.clip(middle, 0, self._most_scroll()))
                self.refresh()

    def _playhead(self) -> tuple[float, float, int] | None:
        """Where the playhead is: x and the top of its row, px, and the row."""
        if self.rows is None or self._grid is None:
            return None
        beat = float(self._grid.beat_at(self.position))
        row = self.rows.row_of(beat)
        x = GUTTER + (beat - float(self.rows.first[row]) + LEAD) / self.rows.width * self._columns()
        return x, HEAD + row * self.row_height - self.offset, row

    # paint

    def draw(self, p: QPainter) -> None:
        pal = self.palette_
        if self.rows is not None and self._colors != pal.name:
            self._grid = None
            self._cut()
        p.setFont(small())
        if self.rows is None or self._image is None or self._grid is None:
            self.draw_message(p, self.message)
            return
        self._cut_seen()
        h = self.row_height
        rows = len(self.rows.first)
        p.setClipRect(QRectF(0, HEAD, self.width(), self.height() - HEAD))
        p.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, False)
        p.drawImage(QRectF(GUTTER, HEAD - self.offset, self._columns(), rows * h), self._image)
        self._draw_lines(p, rows * h)
        self._draw_margin(p, h)
        self._draw_marks(p, h)
        p.setClipping(False)
        self._draw_head(p)

    def _draw_lines(self, p: QPainter, height: float) -> None:
        """Beat lines by weight: full ink on downbeats, hairlines on beats."""
        assert self.rows is not None
        pal = self.palette_
        size = self._grid.beats_per_bar(0.0) if self._grid else 4
        bottom = min(HEAD - self.offset + height, self.height())
        for beat in range(math.ceil(self.rows.width)):
            x = GUTTER + (beat + LEAD) / self.rows.width * self._columns()
            if beat % size == 0:
                p.setPen(QPen(pal.color("ink", 0.55), 1))
            else:
                p.setPen(QPen(pal.color("ink", 0.16), 1))
            p.drawLine(QPointF(x, HEAD), QPointF(x, bottom))
            if self.halves:
                x = GUTTER + (beat + 0.5 + LEAD) / self.rows.width * self._columns()
                p.setPen(QPen(pal.color("ink", 0.3), 1, Qt.PenStyle.DotLine))
                p.drawLine(QPointF(x, HEAD), QPointF(x, bottom))

    def _draw_head(self, p: QPainter) -> None:
        """Beat numbers above the threads."""
        assert self.rows is not None and self._grid is not None
        pal = self.palette_
        p.fillRect(QRectF(0, 0, self.width(), HEAD), pal.color("paper"))
        size = self._grid.beats_per_bar(0.0)
        p.setPen(pal.color("faint"))
        p.setFont(small(8))
        p.drawText(QRectF(0, 2, GUTTER - 8, HEAD - 4), IN_MARGIN, "bar")
        for beat in range(math.ceil(self.rows.width)):
            x = GUTTER + (beat + LEAD) / self.rows.width * self._columns()
            down = beat % size == 0
            p.setFont(small(9 if down else 8, bold=down))
            p.setPen(pal.color("ink" if down else "faint"))
            name = str(beat % size + 1) if self.bars <= 2 or down else ""
            if self.bars > 1 and down:
                name = f"+{beat // size}" if beat else "1"
            p.drawText(QRectF(x - 20, 2, 40, HEAD - 4), Qt.AlignmentFlag.AlignCenter, name)

    def _draw_margin(self, p: QPainter, h: float) -> None:
        """Bar numbers, a bar where a row's beats leave their tolerance, and a ring where they are doubtful."""
        assert self.rows is not None and self._grid is not None
        pal = self.palette_
        doubt, unsure = np.zeros(len(self.rows.first)), np.zeros(len(self.rows.first), bool)
        if self.trace is not None and len(self.trace.times):
            row = np.clip(
                np.searchsorted(self.rows.first, self._grid.beat_at(self.trace.times) + 0.5, "right") - 1,
                0,
                len(doubt) - 1,
            )
            np.maximum.at(doubt, row, np.abs(self.trace.error) / self.trace.tolerance)
            if self.unsure is not None and len(self.unsure) == len(row):
                np.logical_or.at(unsure, row, self.unsure)
        every = self._numbered_every()
        p.setFont(small(8))
        first, last = self._rows_in_sight()
        for i in range(first, min(last, len(self.rows.index))):
            index = int(self.rows.index[i])
            y = HEAD + i * h - self.offset
            if doubt[i] > 1:
                wide = 3.0 + 5.0 * min(1.0, math.log2(doubt[i]) / 4)
                p.fillRect(QRectF(GUTTER - 4 - wide, y + 0.5, wide, max(1.5, h - 1)), pal.color("attention"))
            if unsure[i]:
                size = min(6.0, h - 1)
                p.setPen(QPen(pal.color("ink"), 1.2))
                p.drawEllipse(QRectF(GUTTER - 20, y + (h - size) / 2, size, size))
            if (index // self.bars) % every == 0:
                p.setPen(pal.color("faint"))
                self._draw_number(p, i)

    def _draw_number(self, p: QPainter, row: int) -> None:
        """What the first bar of a row is called."""
        assert self.rows is not None
        y = HEAD + (row + 0.5) * self.row_height - self.offset
        p.drawText(QRectF(0, y - 7, GUTTER - 23, 14), IN_MARGIN, self._name(int(self.rows.index[row])))

    def _draw_marks(self, p: QPainter, h: float) -> None:
        """Hand pins, cues and the playhead in their rows."""
        assert self._grid is not None and self.rows is not None
        pal = self.palette_
        p.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        hand = np.array([q.beat for q in self._grid.hand_pins])
        row = self.rows.rows_of(hand)
        first, last = self._rows_in_sight()
        hand, row = hand[(row >= first) & (row <= last)], row[(row >= first) & (row <= last)]
        size = 2 * max(3.5, min(6.0, h / 2)) + 2
        mark = _diamond(size, pal.name)
        across = GUTTER + (hand - self.rows.first[row] + LEAD) / self.rows.width * self._columns()
        draw_marks(p, mark, across, HEAD + (row + 0.5) * h - self.offset)
        for cue in self.preparation.cues:
            x, y = self.place_of(float(self._grid.beat_at(cue.at(self._grid))) + 1e-6)
            p.setPen(QPen(QColor(pal.hand), 1))
            draw_flag(p, x, y + h / 2 - 7, cue.name, cue.role)

    def draw_over(self, p: QPainter) -> None:
        """The playhead in its row."""
        if self.rows is None or self._grid is None or self._image is None:
            return
        pal, h = self.palette_, self.row_height
        place = self._playhead()
        assert place is not None
        x, y, here = place
        p.setClipRect(QRectF(0, HEAD, self.width(), self.height() - HEAD))
        p.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        p.setPen(QPen(pal.color("ink"), 2))
        p.drawLine(QPointF(x, y - 3), QPointF(x, y + h + 3))
        p.fillRect(QRectF(GUTTER, y + h - 0.5, x - GUTTER, 1), pal.color("ink", 0.35))
        if (int(self.rows.index[here]) // self.bars) % self._numbered_every() == 0:
            p.setFont(small(8))
            self._draw_number(p, here)
        p.setClipping(False)


@lru_cache(maxsize=16)
def _diamond(size: float, palette: str) -> QPixmap:
    """A hand pin as a picture; one for each palette."""

    def paint(p: QPainter) -> None:
        p.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        p.setPen(QPen(Theme.palette.color("paper"), 1))
        p.setBrush(Theme.palette.color("hand"))
        c, r = math.ceil(size) / 2, size / 2 - 1
        p.drawPolygon(QPolygonF([QPointF(c, c - r), QPointF(c + r, c), QPointF(c, c + r), QPointF(c - r, c)]))

    return picture(math.ceil(size), math.ceil(size), 2, paint)
