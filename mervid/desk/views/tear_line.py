"""The tear line: how far the heard beats of both tracks fall apart over the overlap, and how long each kind of gear
would keep them together, drawn under it on the same bars."""

from __future__ import annotations

from typing import Any

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QBrush, QMouseEvent, QPainter, QPen

from ...core.figures import signed
from ...core.pairs import gear_clocks
from ...core.pairs.gear_clocks import FIXED, GRIDS, HAND, Run
from ...core.pairs.judgement import Judgement
from ..theme.figures import ms
from ..theme.tr import tr
from .base import MARGIN, View, dots_image, small

ROW, ROWS, GAP = 19.0, 3, 6.0
STEPS = (15, 25, 50, 100, 200, 500)
SHORT = {GRIDS: "grids", FIXED: "1 tempo", HAND: "hand"}


class TearLine(View):
    """Click to move the playhead."""

    seek = pyqtSignal(float)
    hovered = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__(
            tr("Tear line"), tr("How far the heard beats of both tracks fall apart, in milliseconds, beat by beat.")
        )
        self.judged: Judgement | None = None
        self.position = 0.0
        self.setMinimumHeight(150)

    def sizeHint(self) -> QSize:
        return QSize(640, 190)

    def show_judgement(self, judged: Judgement | None) -> None:
        """Draw another meeting."""
        self.judged = judged
        self.refresh()

    def set_position(self, position: float) -> None:
        """Move the playhead, s of the mix."""
        if position != self.position:
            self.position = position
            self.update()

    def limit(self) -> float:
        """Largest distance that fits, ms."""
        if self.judged is None or not len(self.judged.line.apart):
            return float(STEPS[0])
        need = float(np.percentile(np.abs(self.judged.line.apart), 98)) * 1.1
        return float(next((s for s in STEPS if s >= need), STEPS[-1]))

    # places: beats of the overlap go across, so that bars are as wide as each other

    def x_of(self, beat: Any) -> Any:
        """Horizontal place of a beat from the meeting, or of an array of them, px."""
        assert self.judged is not None
        return MARGIN + beat / max(self.judged.together.beats, 1e-9) * (self.width() - MARGIN - 12)

    def beat_of(self, x: float) -> float:
        """Beat from the meeting at a horizontal place."""
        assert self.judged is not None
        n = self.judged.together.beats
        return min(max((x - MARGIN) / max(1, self.width() - MARGIN - 12) * n, 0.0), n)

    @property
    def _bottom(self) -> float:
        return self.height() - ROWS * ROW - GAP - 6

    def mousePressEvent(self, e: QMouseEvent | None) -> None:
        if e is not None and self.judged is not None:
            t = self.judged.together
            self.seek.emit(float(t.clock.time_at(t.meeting.at + self.beat_of(e.position().x()))))

    def mouseMoveEvent(self, e: QMouseEvent | None) -> None:
        if e is None or self.judged is None or not len(self.judged.line.beats):
            return
        line = self.judged.line
        i = int(np.abs(line.beats - self.beat_of(e.position().x())).argmin())
        bars = self.judged.together.meeting.bars
        bar = int(np.clip(line.bars[i], 0, bars - 1))
        p95, worst = line.by_bar(bars)
        self.hovered.emit(
            tr("bar {0} of the overlap: {1} apart; in this bar 95 % within {2:.1f} ms, worst {3:.1f} ms").format(
                bar + 1, signed(line.apart[i], "ms", digits=1), p95[bar], worst[bar]
            )
        )

    def leaveEvent(self, e: object) -> None:
        self.hovered.emit("")

    # paint

    def draw(self, p: QPainter) -> None:
        if self.judged is None:
            return
        p.setFont(small())
        self._draw_tear(p, self.judged)
        self._draw_gear(p, self.judged)

    def _draw_tear(self, p: QPainter, judged: Judgement) -> None:
        pal, line = self.palette_, judged.line
        top, bottom = 6.0, self._bottom
        middle, limit = (top + bottom) / 2, self.limit()
        scale = (bottom - top) / 2 / limit
        right = self.width() - 12
        band = min(line.forgiven, limit) * scale
        p.fillRect(QRectF(MARGIN, middle - band, right - MARGIN, 2 * band), pal.color("band"))
        self._draw_bars(p, judged, top, self.height() - 6.0)
        p.setPen(pal.color("hairline"))
        p.drawLine(QPointF(MARGIN, middle), QPointF(right, middle))
        p.setPen(pal.color("faint"))
        for value, text in ((limit, f"+{limit:.0f}"), (0.0, tr("0 ms")), (-limit, f"−{limit:.0f}")):
            y = min(max(middle - value * scale - 7, top - 2), bottom - 12)
            p.drawText(QRectF(0, y, MARGIN - 6, 14), Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, text)
        over = np.abs(line.apart) > line.forgiven
        height = middle - np.clip(line.apart, -limit, limit) * scale
        image = dots_image(
            (self.height(), self.width()),
            np.asarray(self.x_of(line.beats)),
            height,
            0.35 + 0.65 * line.sure,
            over,
            (pal.ink, pal.attention),
        )
        p.drawImage(0, 0, image)
        said = tr("95 % within {0}, worst {1}; an ear forgives {2}").format(
            ms(line.p95), ms(line.worst), ms(line.forgiven)
        )
        said = said if line.p95 is not None else tr("Too few beats are heard in both to tell how far apart they fall.")
        wide = p.fontMetrics().horizontalAdvance(said) + 10
        p.fillRect(QRectF(MARGIN + 2, top - 2, wide, 16), pal.color("paper", 0.85))
        p.setPen(pal.color("ink"))
        p.drawText(QRectF(MARGIN + 6, top - 2, wide, 16), Qt.AlignmentFlag.AlignVCenter, said)

    def _draw_bars(self, p: QPainter, judged: Judgement, top: float, bottom: float) -> None:
        """Every fourth bar line of the overlap."""
        t = judged.together
        starts = t.clock.bar_start(t.first_bar + np.arange(t.meeting.bars + 1)) - t.meeting.at
        for i, beat in enumerate(starts.tolist()):
            if i % 4 == 0 or t.meeting.bars <= 8:
                p.setPen(QPen(self.palette_.color("ink", 0.28 if i % 8 == 0 else 0.14), 1))
                x = float(self.x_of(beat))
                p.drawLine(QPointF(x, top), QPointF(x, bottom))

    def _draw_gear(self, p: QPainter, judged: Judgement) -> None:
        """How many bars each kind of player keeps the two together."""
        bars = judged.together.meeting.bars
        for i, run in enumerate(judged.runs):
            self._draw_run(p, run, bars, self._bottom + GAP + i * ROW)

    def _draw_run(self, p: QPainter, run: Run, bars: int, y: float) -> None:
        pal = self.palette_
        left, right = float(MARGIN), float(self.width() - 12)
        align = Qt.AlignmentFlag.AlignVCenter
        p.setFont(small(8))
        p.setPen(pal.color("faint"))
        p.drawText(QRectF(0, y, MARGIN - 6, ROW), align | Qt.AlignmentFlag.AlignRight, SHORT[run.kind])
        whole = QRectF(left, y + 2, right - left, ROW - 4)
        held = run.bars or 0
        ends = left + (right - left) * held / bars
        p.fillRect(whole, pal.color("panel"))
        if held < bars:
            p.fillRect(QRectF(ends, y + 2, right - ends, ROW - 4), QBrush(pal.color("attention", 0.35), _HATCH))
        if held:
            p.fillRect(QRectF(left, y + 2, ends - left, ROW - 4), pal.color("band"))
            p.setPen(QPen(pal.color("ink"), 2))
            p.drawLine(QPointF(ends, y + 1), QPointF(ends, y + ROW - 1))
        p.setPen(pal.color("ink"))
        text = f"{gear_clocks.NAMES[run.kind]}: {gear_clocks.words(run, bars)}"
        text = p.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, int(right - left - 14))
        wide = p.fontMetrics().horizontalAdvance(text) + 8
        p.fillRect(QRectF(left + 4, y + 3, wide, ROW - 6), pal.color("paper", 0.8))
        p.drawText(QRectF(left + 8, y, right - left - 10, ROW), align, text)

    def draw_over(self, p: QPainter) -> None:
        """The playhead."""
        if self.judged is None:
            return
        t = self.judged.together
        beat = float(t.clock.beat_at(self.position)) - t.meeting.at
        if 0 <= beat <= t.beats:
            p.setPen(QPen(self.palette_.color("ink"), 2))
            x = float(self.x_of(beat))
            p.drawLine(QPointF(x, 0), QPointF(x, self.height()))


_HATCH = Qt.BrushStyle.BDiagPattern
