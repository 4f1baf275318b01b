"""The close-up: the waveform around the playhead in two inks, beat lines, heard onsets, and pins to drag.

A beat line dragged sideways becomes a hand pin; it snaps to the beginning of an attack unless Shift is held.
"""

from __future__ import annotations

import attrs
import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QLineF, QPointF, QRect, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QMouseEvent, QPainter, QPen, QPixmap, QWheelEvent

from ...core.form.phrase_edits import place_of
from ...core.hearing.evidence import Evidence
from ...core.model.form import Form
from ...core.model.preparation import Preparation
from ...core.sound.decoding import Kept
from ...core.sound.waveform import BASE, Waveform, columns, exact_columns
from ..theme.palette import role_state
from ..theme.tr import tr
from .base import PinView, bars_image, draw_flag, draw_lines, picture, small
from .drift_trace import draw_pin
from .overview import percussive_share

LONGEST, SHORTEST = 20.0, 0.004
GRAB = 7
TOP, FOOT = 18, 18
STRIP, BEHIND = 3, 0.4
"""The picture is so many times as wide as the view, and begins so many views before it."""
MOVES = 3
"""So often the playhead moves over the same before beats and cues go into the picture, too."""
LEAST_LOUD = 0.05
"""What is quieter is drawn no larger, full scale is 1."""


@attrs.frozen
class _Drag:
    beat: float
    index: int
    x: float
    time: float


@attrs.frozen
class _Strip:
    """A picture of a stretch of time, s; `key` says what it depends on."""

    key: object
    start: float
    stop: float
    picture: QPixmap

    def covers(self, start: float, stop: float) -> bool:
        """Whether a stretch lies within it."""
        return self.start <= start + 1e-9 and stop <= self.stop + 1e-9


class CloseUp(PinView):
    """Wheel zooms; dragging the ground moves along; dragging a beat line or pin moves it."""

    seek = pyqtSignal(float)
    pin_moving = pyqtSignal(float, float, bool)
    pin_placed = pyqtSignal(float, float, bool)
    pin_chosen = pyqtSignal(int)
    beat_picked = pyqtSignal(float)

    def __init__(self) -> None:
        super().__init__(tr("Close-up"), tr("The waveform around the playhead. Drag a beat line to place a hand pin."))
        self.waveform: Waveform | None = None
        self.samples: Kept | None = None
        self.evidence: Evidence | None = None
        self.preparation = Preparation()
        self.form: Form | None = None
        self.onsets: tuple[NDArray[np.float64], NDArray[np.float32]] = (np.zeros(0), np.zeros(0, np.float32))
        self.position = 0.0
        self.span = 4.0
        self.centre = 0.0
        self.chosen = -1
        self.halves = False
        self.message = ""
        self._ground: tuple[float, float] | None = None
        self._moved = False
        self._loudest = LEAST_LOUD
        self._heard: _Strip | None = None
        self._marked: _Strip | None = None
        self._moves = 0
        self._marks: tuple[object, ...] | None = None
        self._lens: tuple[float, float] | None = None
        self.setMinimumHeight(110)

    def sizeHint(self) -> QSize:
        return QSize(700, 150)

    def show_sound(
        self,
        waveform: Waveform | None,
        samples: Kept | None,
        evidence: Evidence | None,
        onsets: tuple[NDArray[np.float64], NDArray[np.float32]],
        message: str = "",
    ) -> None:
        """Draw another recording."""
        self.waveform, self.samples, self.evidence = waveform, samples, evidence
        self.onsets, self.message = onsets, message
        loudest = np.abs(waveform.extremes).max() / 32767 if waveform is not None and len(waveform.extremes) else 0.0
        self._loudest = max(LEAST_LOUD, float(loudest))
        self._heard = self._marked = None
        self.refresh()

    def show_preparation(self, preparation: Preparation, form: Form | None = None) -> None:
        """Draw other pins over the same recording, and where phrases begin."""
        if preparation is self.preparation and form is self.form:
            return
        self.preparation, self.form = preparation, form
        self.refresh()

    def forget(self) -> None:
        super().forget()
        self._ground = None

    def set_position(self, position: float) -> None:
        """Move the playhead and what is seen with it."""
        self.position = position
        self._moves += 1
        if self._drag is None and self._ground is None:
            self.centre = position
        self.update()

    def x_of(self, time: float) -> float:
        """Horizontal place of a time, px."""
        left, per_second = self._lens or (self.time_of(0), self.width() / self.span)
        return (time - left) * per_second

    def time_of(self, x: float) -> float:
        """Time at a horizontal place, s."""
        return self.centre + (x - self.width() / 2) / self.width() * self.span

    def zoom(self, factor: float, x: float | None = None) -> None:
        """Show `factor` times as long a stretch, keeping the time at `x` (or the middle) in place."""
        x = self.width() / 2 if x is None else x
        keep = self.time_of(x)
        self.span = float(np.clip(self.span * factor, SHORTEST, LONGEST))
        self.centre = keep - (x - self.width() / 2) / self.width() * self.span
        self.refresh()

    # hands

    def beat_near(self, x: float) -> tuple[float, int] | None:
        """The beat whose line is within reach of `x`, and its pin's index or -1."""
        grid = self.preparation.grid
        if grid is None or self.waveform is None:
            return None
        for i, pin in enumerate(grid.pins):
            if abs(self.x_of(pin.time) - x) <= GRAB:
                return pin.beat, i
        beat = float(np.round(grid.beat_at(self.time_of(x))))
        return (beat, -1) if abs(self.x_of(float(grid.time_at(beat))) - x) <= GRAB else None

    def mousePressEvent(self, e: QMouseEvent | None) -> None:
        if e is None or e.button() != Qt.MouseButton.LeftButton or self.waveform is None:
            return
        x = e.position().x()
        self._moved = False
        if e.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.beat_picked.emit(self.time_of(x))
            return
        near = self.beat_near(x)
        if near is not None and self.preparation.grid is not None:
            beat, index = near
            self._drag = _Drag(beat, index, x, float(self.preparation.grid.time_at(beat)))
            if index >= 0:
                self.pin_chosen.emit(index)
        else:
            self._ground = (x, self.centre)

    def mouseMoveEvent(self, e: QMouseEvent | None) -> None:
        if e is None:
            return
        x = e.position().x()
        if self._drag is not None:
            if abs(x - self._drag.x) >= 2:
                self._moved = True
            if self._moved:
                self.pin_moving.emit(self._time_dragged(x), self._drag.beat, self.snaps(e))
        elif self._ground is not None:
            if abs(x - self._ground[0]) >= 3:
                self._moved = True
            self.centre = self._ground[1] - (x - self._ground[0]) / self.width() * self.span
            self.refresh()
        else:
            shape = Qt.CursorShape.SizeHorCursor if self.beat_near(x) else Qt.CursorShape.ArrowCursor
            self.setCursor(shape)

    def _time_dragged(self, x: float) -> float:
        assert self._drag is not None
        return self._drag.time + (x - self._drag.x) / self.width() * self.span

    def mouseReleaseEvent(self, e: QMouseEvent | None) -> None:
        if e is None:
            return
        drag, ground, moved = self._drag, self._ground, self._moved
        if drag is not None and moved:
            time = self._time_dragged(e.position().x())
            self._drag = None
            self.pin_placed.emit(time, drag.beat, self.snaps(e))
        self._drag = self._ground = None
        if not moved and (drag is not None or ground is not None):
            self.seek.emit(max(0.0, drag.time if drag is not None else self.time_of(e.position().x())))

    def wheelEvent(self, e: QWheelEvent | None) -> None:
        if e is not None:
            self.zoom(0.8 if e.angleDelta().y() > 0 else 1.25, e.position().x())

    # paint

    def paint_ground(self, p: QPainter, seen: QRect) -> None:
        """All but the playhead, from a picture wider than the view, so that playing only moves it along.

        What hands change is painted each time, until the playhead has moved some times over the same.
        """
        if self.waveform is None:
            self._heard = self._marked = None
            super().paint_ground(p, seen)
            return
        heard = (self.span, self.size(), self.devicePixelRatioF(), self.palette_.name, role_state())
        marks = (heard, self.preparation, self.form, self.chosen, self.halves)
        if self._marks != marks:
            self._marks, self._moves = marks, 0
        left, right = self.time_of(0), self.time_of(self.width())
        strip = self._marked
        if strip is None or strip.key != marks or not strip.covers(left, right):
            strip = self._marked = self._paint_strip(marks, marked=True) if self._moves >= MOVES else None
        marked = strip is not None
        if strip is None:
            strip = self._heard
            if strip is None or strip.key != heard or not strip.covers(left, right):
                strip = self._heard = self._paint_strip(heard, marked=False)
        p.fillRect(seen, self.palette_.color("paper"))
        p.drawPixmap(round((strip.start - left) / self.span * self.width()), 0, strip.picture)
        if not marked:
            self._draw_marks(p, left, right)

    def _paint_strip(self, key: object, *, marked: bool) -> _Strip:
        """Three times as much as is seen, most of it ahead."""
        width, per_second = STRIP * self.width(), self.width() / self.span
        start = self.time_of(0) - BEHIND * self.span
        stop = start + STRIP * self.span
        self._lens = (start, per_second)

        def paint(inner: QPainter) -> None:
            inner.fillRect(0, 0, width, self.height(), self.palette_.color("paper"))
            self._draw_sound(inner, start, stop, width)
            self._draw_onsets(inner, start, stop)
            if marked:
                self._draw_marks(inner, start, stop)

        made = _Strip(key, start, stop, picture(width, self.height(), self.devicePixelRatioF(), paint))
        self._lens = None
        return made

    def draw(self, p: QPainter) -> None:
        p.setFont(small())
        self.draw_message(p, self.message)

    def _draw_marks(self, p: QPainter, start: float, stop: float) -> None:
        """Beats, phrases and cues."""
        pal = self.palette_
        self._draw_beats(p, start, stop)
        self._draw_phrases(p, start, stop)
        for cue in self.preparation.cues:
            t = cue.at(self.preparation.grid)
            if start - 1 <= t <= stop:
                x = self.x_of(t)
                p.setPen(QPen(QColor(pal.ink), 1))
                p.drawLine(QPointF(x, TOP), QPointF(x, self.height() - FOOT))
                draw_flag(p, x, TOP + 2, cue.name, cue.role)

    def draw_over(self, p: QPainter) -> None:
        """The playhead, and how wide the view is."""
        if self.waveform is None:
            return
        pal, x = self.palette_, self.x_of(self.position)
        p.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        p.setPen(QPen(pal.color("ink"), 2))
        p.drawLine(QPointF(x, 0), QPointF(x, self.height()))
        p.setFont(small())
        p.setPen(pal.color("faint"))
        span = f"{self.span:.1f} s" if self.span >= 1 else f"{self.span * 1000:.0f} ms"
        words = tr("{0} wide").format(span)
        width = p.fontMetrics().horizontalAdvance(words) + 12
        box = QRectF(self.width() - width, 0, width, TOP)
        # the name of a phrase that begins there goes under it
        p.fillRect(box, pal.color("paper"))
        p.drawText(box, Qt.AlignmentFlag.AlignCenter, words)

    def _draw_phrases(self, p: QPainter, start: float, stop: float) -> None:
        """A double line where a phrase begins, with what it is."""
        grid = self.preparation.grid
        if grid is None or self.form is None:
            return
        pal = self.palette_
        times = grid.time_at([q.start for q in self.form.phrases])
        for q, t in zip(self.form.phrases, times.tolist(), strict=True):
            if start <= t <= stop:
                x = self.x_of(t)
                p.setPen(QPen(pal.color("ink"), 1.6))
                for dx in (0.0, 4.0):
                    p.drawLine(QPointF(x + dx, TOP - 8), QPointF(x + dx, self.height() - FOOT))
                p.setFont(small(8.5, bold=True))
                p.drawText(QRectF(x + 8, 0, 120, TOP), Qt.AlignmentFlag.AlignVCenter, f"{q.letter} {q.role}")

    def _draw_sound(self, p: QPainter, start: float, stop: float, n: int) -> None:
        """The waveform from `start` to `stop` in `n` columns."""
        assert self.waveform is not None
        pal = self.palette_
        close = (stop - start) * self.waveform.rate / n < BASE
        if close and self.samples is not None:
            shape = exact_columns(self.samples, self.waveform.rate, start, stop, n)
        else:
            shape = columns(self.waveform, start, stop, n)
        height = self.height() - TOP - FOOT
        middle, half = np.float32(height / 2), height / 2 - 2
        lo, hi = shape[:, 0] / self._loudest * half, shape[:, 1] / self._loudest * half
        share = percussive_share(self.evidence, np.linspace(start, stop, n))
        # silence is a line, too
        whole = (middle - np.maximum(hi, 0.5), middle - np.minimum(lo, -0.5), pal.color("sustained"))
        struck = (middle - hi * share, middle - lo * share, pal.color("percussive"))
        p.drawImage(0, TOP, bars_image(height, (whole, struck)))

    def _draw_onsets(self, p: QPainter, start: float, stop: float) -> None:
        """Heard onsets as ticks along the foot, longer for stronger."""
        times, strength = self.onsets
        a, b = np.searchsorted(times, [start, stop])
        if b - a > 400 * (stop - start) / self.span:
            return
        p.setPen(QPen(self.palette_.color("faint"), 1))
        base = self.height() - FOOT
        draw_lines(
            p,
            [
                QLineF(self.x_of(t), base, self.x_of(t), base - 3 - 9 * s)
                for t, s in zip(times[a:b].tolist(), strength[a:b].tolist(), strict=True)
            ],
        )

    def _draw_beats(self, p: QPainter, start: float, stop: float) -> None:
        grid = self.preparation.grid
        if grid is None:
            return
        pal = self.palette_
        times, beats, position = grid.positions(start, stop)
        # a picture three times as wide has three times as many
        wide = (stop - start) / self.span
        if len(times) > 400 * wide:
            return
        p.setFont(small(8))
        for t, beat, place in zip(times.tolist(), beats.tolist(), position.tolist(), strict=True):
            x = self.x_of(t)
            down = place == 1
            p.setPen(QPen(pal.color("ink", 0.95 if down else 0.4), 1.6 if down else 1))
            p.drawLine(QPointF(x, TOP - 4 if down else TOP), QPointF(x, self.height() - FOOT))
            if down or wide * self.width() / max(1, len(times)) > 34:
                p.setPen(pal.color("ink" if down else "faint"))
                p.drawText(
                    QRectF(x - 30, self.height() - FOOT, 60, FOOT),
                    Qt.AlignmentFlag.AlignCenter,
                    place_of(grid, beat, self.preparation.origin),
                )
        if self.halves and len(beats):
            p.setPen(QPen(pal.color("ink", 0.5), 1, Qt.PenStyle.DotLine))
            between = grid.time_at(np.append(beats[0] - 1, beats) + 0.5)
            draw_lines(p, [QLineF(x, TOP + 8, x, self.height() - FOOT) for x in map(self.x_of, between.tolist())])
        a, b = np.searchsorted(grid.times, [start, stop])
        for i, pin in enumerate(grid.pins[a:b], int(a)):
            if start <= pin.time <= stop:
                x = self.x_of(pin.time)
                if pin.hand:
                    p.setPen(QPen(pal.color("hand"), 1.6))
                    p.drawLine(QPointF(x, TOP - 6), QPointF(x, self.height() - FOOT))
                draw_pin(p, x, 9, pin.hand, i == self.chosen, pal)
