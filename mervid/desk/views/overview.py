"""The whole track at a glance: silhouette in two inks, cues above, mix zones shaded, and the drift ribbon below."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QLineF, QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter, QPen

from ...core.fitting.drift import Trace
from ...core.hearing.evidence import Evidence
from ...core.model.form import Form, letter_number
from ...core.model.preparation import Preparation
from ...core.sound.waveform import Waveform, columns
from ..theme.palette import tint
from ..theme.tr import tr
from .base import MARGIN, Backdrop, TimeView, draw_flag, draw_lines, draw_part, small

TOP, RIBBON, BAND = 18, 9, 13
GRAB = 4


def percussive_share(evidence: Evidence | None, edges: NDArray[np.float64]) -> NDArray[np.float32]:
    """Share of percussive sound at each time in s, (n,); all of it before analysis is done."""
    if evidence is None or not len(evidence.percussive):
        return np.zeros(len(edges), np.float32)
    i = np.clip((edges * 20).astype(int), 0, len(evidence.percussive) - 1)
    return evidence.percussive[i].astype(np.float32) / np.float32(255)


class Overview(TimeView):
    """Click or drag to move the playhead; drag with Shift to choose a part; drag the edge of a mix zone to move it.

    `zones_moving` and `zones_placed` tell the mix zones as they would be, and at which s the dragged edge is.
    """

    seek = pyqtSignal(float)
    part_chosen = pyqtSignal(object)
    dropped = pyqtSignal()
    zones_moving = pyqtSignal(object, float)
    zones_placed = pyqtSignal(object, float)

    def __init__(self) -> None:
        super().__init__(tr("Overview"), tr("The whole track. Click to move the playhead."))
        self.waveform: Waveform | None = None
        self.evidence: Evidence | None = None
        self.preparation = Preparation()
        self.trace: Trace | None = None
        self.form: Form | None = None
        self.unsure: NDArray[np.bool_] = np.zeros(0, bool)
        self.part: tuple[float, float] | None = None
        self._from: float | None = None
        self._edge: tuple[int, int] | None = None
        self._zones: tuple[tuple[float, float], ...] = ()
        self.message = ""
        self._backdrop = Backdrop()
        self.setMinimumHeight(92)

    def sizeHint(self) -> QSize:
        return QSize(700, 100)

    def show_sound(self, waveform: Waveform | None, evidence: Evidence | None, message: str = "") -> None:
        """Draw another recording; `message` stands in while there is none."""
        self.waveform, self.evidence, self.message = waveform, evidence, message
        self.duration = waveform.duration if waveform is not None else 0.0
        self._backdrop.forget()
        self.refresh()

    def show_preparation(
        self, preparation: Preparation, trace: Trace | None, unsure: NDArray[np.bool_], form: Form | None = None
    ) -> None:
        """Draw another preparation over the same recording; `unsure` says which beats of the trace are doubtful."""
        same = preparation is self.preparation and trace is self.trace and form is self.form
        if same and np.array_equal(unsure, self.unsure):
            return
        self.preparation, self.trace, self.unsure, self.form = preparation, trace, unsure, form
        self.refresh()

    def mousePressEvent(self, e: QMouseEvent | None) -> None:
        if e is None or self.waveform is None:
            return
        time = self.time_of(e.position().x())
        if e.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            self._from = time
            return
        self._edge, self._zones = self._edge_at(e.position().x()), self.preparation.mix_zones
        if self._edge is None:
            self.seek.emit(time)

    @property
    def dragging(self) -> bool:
        return self._edge is not None or self._from is not None

    def let_go(self) -> None:
        self.forget()
        self.dropped.emit()

    def forget(self) -> None:
        """What a hand held is not there any more: nothing is held."""
        self._edge = self._from = None

    def _edge_at(self, x: float) -> tuple[int, int] | None:
        """Which mix zone has an edge under `x`, and which edge: 0 its beginning, 1 its end."""
        for i, zone in enumerate(self.preparation.mix_zones):
            for side in (0, 1):
                if abs(self.x_of(zone[side]) - x) <= GRAB:
                    return i, side
        return None

    def _zones_with(self, time: float) -> tuple[tuple[float, float], ...]:
        """The mix zones with the dragged edge at `time`, s."""
        assert self._edge is not None
        i, side = self._edge
        zone = (time, self._zones[i][1]) if side == 0 else (self._zones[i][0], time)
        return (*self._zones[:i], zone, *self._zones[i + 1 :])

    def mouseMoveEvent(self, e: QMouseEvent | None) -> None:
        if e is None or self.waveform is None:
            return
        if not e.buttons() & Qt.MouseButton.LeftButton:
            over = self._edge_at(e.position().x()) is not None
            self.setCursor(Qt.CursorShape.SplitHCursor if over else Qt.CursorShape.ArrowCursor)
            return
        time = self.time_of(e.position().x())
        if self._edge is not None:
            self.zones_moving.emit(self._zones_with(time), time)
        elif self._from is None:
            self.seek.emit(time)
        else:
            self.part = (min(self._from, time), max(self._from, time))
            self.refresh()

    def mouseReleaseEvent(self, e: QMouseEvent | None) -> None:
        start, self._from = self._from, None
        if e is not None and self._edge is not None:
            time = self.time_of(e.position().x())
            zones, self._edge = self._zones_with(time), None
            self.zones_placed.emit(zones, time)
            return
        if e is None or start is None:
            return
        time = self.time_of(e.position().x())
        long = abs(time - start) > 0.5
        self.part_chosen.emit((max(0.0, min(start, time)), min(self.duration, max(start, time))) if long else None)

    def draw(self, p: QPainter) -> None:
        pal = self.palette_
        p.setFont(small())
        if self.waveform is None:
            self.draw_message(p, self.message)
            return
        band = BAND if self.form is not None and self.preparation.grid is not None else 0
        top, bottom = TOP + band, self.height() - RIBBON - 6
        self._backdrop.draw(
            p, self, (self.preparation.mix_zones, band), lambda inner: self._draw_sound(inner, top, bottom)
        )
        if band:
            self._draw_phrases(p)
        draw_part(p, self, self.part, top, bottom)
        self._draw_ribbon(p, bottom + 4)
        grid = self.preparation.grid
        places = [float(self.x_of(cue.at(grid))) for cue in self.preparation.cues]
        for cue, x, after in zip(self.preparation.cues, places, [*places[1:], 1e9], strict=False):
            p.setPen(QPen(pal.color("ink"), 1))
            p.drawLine(QPointF(x, 2), QPointF(x, bottom))
            draw_flag(p, x, 2, cue.name, cue.role, room=after - x - 1)

    def _draw_phrases(self, p: QPainter) -> None:
        """Over the silhouette: where phrases begin, and which are alike."""
        pal, grid, form = self.palette_, self.preparation.grid, self.form
        if grid is None or form is None:
            return
        times = grid.time_at([q.start for q in form.phrases] + [form.end])
        xs = self.x_of(np.clip(times, 0.0, self.duration)).tolist()
        p.setFont(small(7.5, bold=True))
        tints = {letter: tint(pal, letter_number(letter)) for letter in {q.letter for q in form.phrases}}
        for q, a, b in zip(form.phrases, xs[:-1], xs[1:], strict=True):
            r = QRectF(a, TOP, b - a, BAND - 1)
            p.fillRect(r, tints[q.letter])
            if r.width() < 6:
                continue
            p.setPen(QPen(pal.color("ink"), 1))
            for dx in (0.0, 2.0):
                p.drawLine(QLineF(a + dx, TOP, a + dx, TOP + BAND - 1))
            word = f"{q.letter} {q.role}"
            if p.fontMetrics().horizontalAdvance(word) + 7 > r.width():
                word = q.letter
            p.drawText(r.adjusted(5, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, word)

    def _draw_sound(self, p: QPainter, top: float, bottom: float) -> None:
        """Mix zones and silhouette: what stays while pins move."""
        pal = self.palette_
        assert self.waveform is not None
        width = self.width() - MARGIN - 8
        middle, half = (top + bottom) / 2, (bottom - top) / 2
        for a, b in self.preparation.mix_zones:
            p.fillRect(QRectF(self.x_of(a), top, self.x_of(b) - self.x_of(a), bottom - top), pal.color("zone"))
        self.draw_label(p, top, bottom - top, "whole\ntrack")
        shape = columns(self.waveform, 0.0, self.duration, max(1, width))
        loud = max(0.05, float(np.abs(shape).max()))
        share = percussive_share(self.evidence, (np.arange(width) + 0.5) / width * self.duration)
        height = np.abs(shape).max(axis=1) / loud * half
        p.setPen(pal.color("sustained"))
        draw_lines(p, _bars(MARGIN, middle, height))
        p.setPen(pal.color("percussive"))
        draw_lines(p, _bars(MARGIN, middle, height * share))

    def _draw_ribbon(self, p: QPainter, y: float) -> None:
        """Under the track: faint where the drift stays in tolerance, attention where it leaves it."""
        pal = self.palette_
        r = QRectF(MARGIN, y, self.width() - MARGIN - 8, RIBBON - 2)
        self.draw_label(p, y - 4, RIBBON + 6, "drift")
        p.fillRect(r, pal.color("hairline"))
        if self.trace is None or not len(self.trace.times):
            return
        times = self.trace.times
        edges = np.concatenate([[times[0]], (times[1:] + times[:-1]) / 2, [times[-1]]])
        over = np.abs(self.trace.error) > self.trace.tolerance
        for a, b in self._runs(over, edges):
            p.fillRect(QRectF(a, r.top(), max(1.0, b - a), r.height()), pal.color("attention"))
        if len(self.unsure) != len(times):
            return
        for a, b in self._runs(self.unsure, edges):
            p.fillRect(QRectF(a, r.top(), max(1.0, b - a), r.height()), Qt.BrushStyle.Dense4Pattern)
            p.fillRect(QRectF(a, r.bottom() - 1, max(1.0, b - a), 1), pal.color("ink"))

    def _runs(self, marked: NDArray[np.bool_], edges: NDArray[np.float64]) -> list[tuple[float, float]]:
        """From where to where beats between `edges`, s, are marked without a gap, px."""
        bounds = np.flatnonzero(np.diff(np.concatenate([[0], marked.astype(np.int8), [0]])))
        x = self.x_of(edges[bounds]).tolist()
        return list(zip(x[::2], x[1::2], strict=True))


def _bars(left: int, middle: float, height: NDArray[np.float32]) -> list[QLineF]:
    return [QLineF(left + x, middle - h, left + x, middle + h) for x, h in enumerate(height.tolist()) if h > 0.3]
