"""A bar fold to look at, and under it how far attacks on beats lie from one steady line: before, or after."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QLineF, QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPen

from ...core.arrays import Floats, Singles
from ...core.fitting import bar_fold
from ...core.model.beatgrid import Grid, steady
from ..theme.tr import tr
from .base import View, draw_lines, image_of, ink_pixels, ramp, small

HEAD, LINE, GAP = 20, 74, 8
MOST_MS = 40.0
_SCALE = 60
"""Px that the words of the scale take at the right."""


class StillFold(View):
    """The fold of a track under a steady grid: what drifts leans, what is straight stands."""

    def __init__(self, name: str) -> None:
        super().__init__(
            name, tr("The track cut at every bar of one steady tempo. Straight threads: it runs at that tempo.")
        )
        self.title, self.message = name, ""
        self._ink: Singles = np.zeros(0, np.float32)
        self._grid: Grid | None = None
        self._times: Floats = np.zeros(0)
        self._off: Floats = np.zeros(0)
        self.duration = 0.0
        self.setMinimumHeight(180)

    def sizeHint(self) -> QSize:
        return QSize(360, 320)

    def show_none(self, message: str) -> None:
        """There is nothing to see, and why."""
        self.message, self._grid = message, None
        self.refresh()

    def show_track(self, title: str, ink: Singles, grid: Grid, onsets: Floats, duration: float) -> None:
        """Draw a track: its ink, its own grid, its attacks, s.

        The steady grid is the line that fits its beats best.
        """
        self.title, self._ink, self.duration, self.message = title, ink, duration, ""
        beats = np.arange(np.ceil(float(grid.beat_at(0.0))), np.floor(float(grid.beat_at(duration))) + 1)
        if len(beats) < 2:
            self.show_none(tr("There are too few beats."))
            return
        slope, first = np.polyfit(beats, np.asarray(grid.time_at(beats)), 1)
        self._grid = Grid(steady(tempo=60 / float(slope), first=float(first)).pins, grid.meter)
        own = np.asarray(grid.time_at(beats))
        if len(onsets) > 1:
            i = np.clip(np.searchsorted(onsets, own), 1, len(onsets) - 1)
            near = np.where(np.abs(onsets[i - 1] - own) < np.abs(onsets[i] - own), onsets[i - 1], onsets[i])
            struck = np.abs(near - own) < 0.04
            self._times, self._off = near[struck], (near - first - slope * beats)[struck] * 1000
        else:
            self._times, self._off = own, (own - first - slope * beats) * 1000
        self.refresh()

    def draw(self, p: QPainter) -> None:
        pal = self.palette_
        p.setFont(small(9, bold=True))
        p.setPen(pal.color("ink"))
        room = self.width() - 16 - _SCALE
        title = p.fontMetrics().elidedText(self.title, Qt.TextElideMode.ElideRight, room)
        p.drawText(QRectF(8, 0, room, HEAD), Qt.AlignmentFlag.AlignVCenter, title)
        # what is cut is said whole under the pointer
        self.setToolTip(self.title if title != self.title else "")
        p.setFont(small())
        if self._grid is None:
            self.draw_message(p, self.message)
            return
        box = QRectF(8, HEAD, self.width() - 16, self.height() - HEAD - LINE - GAP)
        rows = bar_fold.rows(self._grid, self.duration)
        columns = max(16, int(box.width()))
        values = bar_fold.image(self._ink, self._grid, rows, columns=columns)
        self._pixels = ink_pixels(values, ramp(pal.paper, pal.percussive, pal.panel))
        p.drawImage(box, image_of(self._pixels))
        p.setPen(QPen(pal.color("hairline"), 1))
        for beat in range(int(rows.width)):
            x = box.left() + (beat + bar_fold.LEAD) / rows.width * box.width()
            p.drawLine(QPointF(x, box.top()), QPointF(x, box.bottom()))
        self._line(p, QRectF(8, self.height() - LINE, self.width() - 16, LINE - 6))

    def _line(self, p: QPainter, box: QRectF) -> None:
        """Attacks against the steady line, ms."""
        pal = self.palette_
        most = max(MOST_MS, float(np.abs(self._off).max(initial=0.0)) * 1.05)
        middle = box.center().y()
        p.fillRect(
            QRectF(box.left(), middle - 8 / most * box.height() / 2, box.width(), 16 / most * box.height() / 2),
            pal.color("band"),
        )
        p.setPen(QPen(pal.color("border"), 1))
        p.drawLine(QPointF(box.left(), middle), QPointF(box.right(), middle))
        p.setPen(QPen(pal.color("ink"), 2))
        x = box.left() + self._times / max(self.duration, 1e-9) * box.width()
        y = middle - self._off / most * box.height() / 2
        draw_lines(p, [QLineF(a, b, a + 0.1, b) for a, b in zip(x.tolist(), y.tolist(), strict=True)])
        told = f"±{most:.0f} ms"
        label = QRectF(box.right() - p.fontMetrics().horizontalAdvance(told) - 6, HEAD / 2 - 8, 80, 16)
        p.setPen(pal.color("faint"))
        p.drawText(label, Qt.AlignmentFlag.AlignVCenter, told)
