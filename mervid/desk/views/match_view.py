"""How a sibling lies in the full recording: its time across, the other's upward, a dot for each stretch, and errors."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QLineF, QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPen

from ...core.figures import signed
from ...core.siblings.recording_match import Match
from ..theme.figures import clock
from ..theme.tr import tr
from .base import Backdrop, View, small

_ERRORS = 64.0
_LEFT, _RIGHT, _TOP, _FOOT = 58.0, 14.0, 10.0, 22.0


class MatchView(View):
    """Dots on the line belong together; open dots were not found there. Below, how far off each is, in ms."""

    def __init__(self) -> None:
        super().__init__(tr("Match"), tr("Where each stretch of this recording lies in the other, and how exactly."))
        self.match: Match | None = None
        self.durations = (0.0, 0.0)
        self.names = ("", "")
        self.message = ""
        self._back = Backdrop()
        self.setMinimumSize(420, 300)

    def sizeHint(self) -> QSize:
        return QSize(520, 360)

    def show_match(
        self, match: Match | None, durations: tuple[float, float], names: tuple[str, str], message: str = ""
    ) -> None:
        """Draw a match of recordings that last `durations` s, or say why there is none."""
        self.match, self.durations, self.names, self.message = match, durations, names, message
        self._back.forget()
        self.refresh()

    def draw(self, p: QPainter) -> None:
        if self.match is None or not all(self.durations):
            self.draw_message(p, self.message)
            return
        self._course(p, QRectF(_LEFT, _TOP, self.width() - _LEFT - _RIGHT, self.height() - _ERRORS - _TOP - _FOOT - 18))
        self._errors(p, QRectF(_LEFT, self.height() - _ERRORS - _FOOT, self.width() - _LEFT - _RIGHT, _ERRORS))

    def _x(self, r: QRectF, time: float) -> float:
        return r.left() + time / self.durations[0] * r.width()

    def _course(self, p: QPainter, r: QRectF) -> None:
        pal, m = self.palette_, self.match
        assert m is not None
        mine, full = self.durations

        def y_of(place: float) -> float:
            return r.bottom() - place / full * r.height()

        p.fillRect(r, pal.color("raised"))
        p.setFont(small(8))
        for k in range(5):
            y = r.bottom() - k / 4 * r.height()
            p.setPen(QPen(pal.color("hairline"), 1))
            p.drawLine(QLineF(r.left(), y, r.right(), y))
            p.setPen(pal.color("faint"))
            p.drawText(
                QRectF(0, y - 8, _LEFT - 8, 16),
                Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
                clock(k / 4 * full),
            )
        p.save()
        p.setClipRect(r)
        p.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        for k, piece in enumerate(m.pieces):
            a, b = piece.start, min(piece.stop, mine)
            p.setPen(QPen(pal.color("ink"), 1.4))
            p.drawLine(
                QLineF(
                    self._x(r, a),
                    y_of(piece.offset + m.ratio * a),
                    self._x(r, b),
                    y_of(piece.offset + m.ratio * b),
                )
            )
            if k:
                p.setPen(QPen(pal.color("attention"), 1, Qt.PenStyle.DashLine))
                p.drawLine(QLineF(self._x(r, a), r.top(), self._x(r, a), r.bottom()))
        for s in m.stretches:
            at = QPointF(self._x(r, s.time), y_of(s.place))
            if s.error is None:
                p.setPen(QPen(pal.color("attention"), 1.4))
                p.setBrush(Qt.BrushStyle.NoBrush)
                p.drawEllipse(at, 3.0, 3.0)
            else:
                p.setPen(Qt.PenStyle.NoPen)
                p.setBrush(pal.color("ink", float(np.clip(0.35 + s.score / 30, 0.35, 1.0))))
                p.drawEllipse(at, 3.4, 3.4)
        p.restore()
        p.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        p.setFont(small(8, bold=True))
        p.setPen(pal.color("ink"))
        p.drawText(
            r.adjusted(8, 4, -8, 0), Qt.AlignmentFlag.AlignTop | Qt.AlignmentFlag.AlignLeft, f"↑ {self.names[1]}"
        )
        p.drawText(
            QRectF(r.left(), r.bottom() - 18, r.width() - 6, 16),
            Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
            f"{self.names[0]} →",
        )

    def _errors(self, p: QPainter, r: QRectF) -> None:
        pal, m = self.palette_, self.match
        assert m is not None
        found = [s for s in m.stretches if s.error is not None]
        most = max([5.0, *(abs(s.error or 0.0) * 1000 for s in found)])
        p.fillRect(r, pal.color("raised"))
        middle = r.center().y()
        reach = r.height() / 2 - 4
        p.fillRect(QRectF(r.left(), middle - 5 / most * reach, r.width(), 10 / most * reach), pal.color("band"))
        p.setPen(QPen(pal.color("border"), 1))
        p.drawLine(QLineF(r.left(), middle, r.right(), middle))
        p.setFont(small(8))
        p.setPen(pal.color("faint"))
        for ms in (most, 0.0, -most):
            p.drawText(
                QRectF(0, middle - ms / most * reach - 8, _LEFT - 8, 16),
                Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
                signed(ms, "ms") if ms else "0",
            )
        p.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(pal.color("ink"))
        for s in found:
            y = middle - (s.error or 0.0) * 1000 / most * reach
            p.drawEllipse(QPointF(self._x(r, s.time), y), 2.6, 2.6)
        p.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        p.setPen(pal.color("faint"))
        for k in range(5):
            x = r.left() + k / 4 * r.width()
            box = QRectF(x - 40, r.bottom() + 3, 80, 16)
            align = Qt.AlignmentFlag.AlignHCenter
            if k == 4:
                box, align = QRectF(r.right() - 80, r.bottom() + 3, 80, 16), Qt.AlignmentFlag.AlignRight
            p.drawText(box, align, clock(k / 4 * self.durations[0]))
