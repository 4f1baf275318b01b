"""The matrix of a list: each track leaves in its row and comes in its column; how far each pair may be trusted.

A full disc will hold, a half one probably, a ring perhaps; a cross can't meet at all. The paler the ground, the better.
"""

from __future__ import annotations

import attrs
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPen

from ...core.figures import faster, share
from ...core.pairs.meeting import MOST_STRETCH
from ...core.pairs.report import Report
from ..theme.tr import tr
from .base import View, small

NAMES, HEAD = 170, 26
LEAST_CELL, MOST_CELL = 12.0, 34.0
LEGEND = (
    "●  will stay together", "◐  will probably stay together", "○  may part", "×  can't meet",
    f"underlined: beyond ±{share(MOST_STRETCH)}, which is heard", "the redder, the riskier",
)  # fmt: skip


@attrs.frozen
class Row:
    """A track of the list."""

    number: int
    title: str


class PairMatrix(View):
    """Click a cell to rehearse the pair; arrow keys move, Return takes."""

    chosen = pyqtSignal(int, int)
    hovered = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__(
            tr("Matrix of pairs"), tr("Which track of the list may follow which. Rows leave, columns come.")
        )
        self.rows: tuple[Row, ...] = ()
        self.reports: dict[tuple[int, int], Report] = {}
        self.at = (0, 1)
        self.setMinimumHeight(120)

    def sizeHint(self) -> QSize:
        return QSize(640, 320)

    def show_reports(self, rows: tuple[Row, ...], reports: dict[tuple[int, int], Report]) -> None:
        """Show another list, or more of it."""
        self.rows, self.reports = rows, reports
        last = max(0, len(rows) - 1)
        self.at = (min(self.at[0], last), min(self.at[1], last))
        self.refresh()

    @property
    def cell(self) -> float:
        """Side of a cell, px."""
        n = max(1, len(self.rows))
        room = min(self.width() - NAMES - 12, (self.height() - HEAD - 8))
        return min(MOST_CELL, max(LEAST_CELL, room / n))

    def cell_at(self, x: float, y: float) -> tuple[int, int] | None:
        """Row and column under a place; None outside and on the diagonal."""
        row, column = int((y - HEAD) // self.cell), int((x - NAMES) // self.cell)
        n = len(self.rows)
        return (row, column) if 0 <= row < n and 0 <= column < n and row != column else None

    def _pair(self, cell: tuple[int, int]) -> tuple[int, int]:
        return self.rows[cell[0]].number, self.rows[cell[1]].number

    # hands

    def mousePressEvent(self, e: QMouseEvent | None) -> None:
        cell = self.cell_at(e.position().x(), e.position().y()) if e is not None else None
        if cell is not None:
            self.at = cell
            self.refresh()
            self.chosen.emit(*self._pair(cell))

    def mouseMoveEvent(self, e: QMouseEvent | None) -> None:
        cell = self.cell_at(e.position().x(), e.position().y()) if e is not None else None
        self.hovered.emit(self.words_of(cell) if cell is not None else "")

    def leaveEvent(self, e: object) -> None:
        self.hovered.emit("")

    def keyPressEvent(self, e: QKeyEvent | None) -> None:
        if e is None or not self.rows:
            return
        steps = {
            Qt.Key.Key_Up: (-1, 0), Qt.Key.Key_Down: (1, 0), Qt.Key.Key_Left: (0, -1), Qt.Key.Key_Right: (0, 1),
        }  # fmt: skip
        step, n = steps.get(Qt.Key(e.key())), len(self.rows)
        if step is not None:
            self.at = (min(max(self.at[0] + step[0], 0), n - 1), min(max(self.at[1] + step[1], 0), n - 1))
            self.hovered.emit(self.words_of(self.at))
            self.refresh()
        elif e.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.at[0] != self.at[1]:
            self.chosen.emit(*self._pair(self.at))
        else:
            super().keyPressEvent(e)

    def words_of(self, cell: tuple[int, int]) -> str:
        """A pair in words."""
        if cell[0] == cell[1]:
            return ""
        names = tr("{0}, then {1}").format(self.rows[cell[0]].title, self.rows[cell[1]].title)
        r = self.reports.get(self._pair(cell))
        if r is None:
            return tr("{0}: not judged yet").format(names)
        if r.meeting is None:
            return f"{names}: {r.problem}"
        return tr("{0}: within {1:.0f} ms, holds with {2}, {3}").format(
            names, r.expected.p95, share(r.expected.safe), faster(r.stretch)
        )

    # paint

    def draw(self, p: QPainter) -> None:
        pal, cell, n = self.palette_, self.cell, len(self.rows)
        if n < 2:
            self.draw_message(p, tr("A list of two tracks and more has pairs: choose one in Gather."))
            return
        p.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        p.setFont(small(8, bold=True))
        p.setPen(pal.color("faint"))
        p.drawText(QRectF(8, 4, NAMES - 12, 18), Qt.AlignmentFlag.AlignVCenter, "LEAVES ↓   COMES →")
        p.setFont(small(8 if cell >= 15 else 7))
        for i, row in enumerate(self.rows):
            y = HEAD + i * cell
            p.setPen(pal.color("ink"))
            text = p.fontMetrics().elidedText(f"{i + 1}  {row.title}", Qt.TextElideMode.ElideRight, NAMES - 16)
            p.drawText(QRectF(8, y, NAMES - 12, cell), Qt.AlignmentFlag.AlignVCenter, text)
            p.setPen(pal.color("faint"))
            p.drawText(QRectF(NAMES + i * cell, 4, cell, 18), Qt.AlignmentFlag.AlignCenter, str(i + 1))
            for k in range(n):
                self._draw_cell(p, (i, k), QRectF(NAMES + k * cell, y, cell - 1, cell - 1))
        self._draw_legend(p, NAMES + n * cell + 24)
        if self.hasFocus():
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.setPen(QPen(pal.color("hand"), 2))
            p.drawRect(QRectF(NAMES + self.at[1] * cell, HEAD + self.at[0] * cell, cell - 1, cell - 1))

    def _draw_legend(self, p: QPainter, left: float) -> None:
        """What the signs mean, where there is room beside the matrix."""
        if self.width() - left < 190:
            return
        p.setFont(small(8.5))
        p.setPen(self.palette_.color("faint"))
        for i, text in enumerate(LEGEND):
            p.drawText(QRectF(left, HEAD + i * 20, self.width() - left, 20), Qt.AlignmentFlag.AlignVCenter, text)

    def _draw_cell(self, p: QPainter, cell: tuple[int, int], r: QRectF) -> None:
        pal = self.palette_
        if cell[0] == cell[1]:
            p.fillRect(r, pal.color("hairline"))
            return
        report = self.reports.get(self._pair(cell))
        p.fillRect(r, pal.color("panel"))
        if report is None:
            return
        middle, size = r.center(), min(7.0, r.width() * 0.3)
        if report.meeting is None:
            p.setPen(QPen(pal.color("attention"), 1.5))
            p.drawLine(QPointF(middle.x() - size, middle.y() - size), QPointF(middle.x() + size, middle.y() + size))
            p.drawLine(QPointF(middle.x() - size, middle.y() + size), QPointF(middle.x() + size, middle.y() - size))
            return
        p.fillRect(r, pal.color("attention", 0.45 * report.risk))
        disc = QRectF(middle.x() - size, middle.y() - size, 2 * size, 2 * size)
        p.setPen(QPen(pal.color("ink"), 1.3))
        p.setBrush(pal.color("ink") if report.expected.is_safe else Qt.BrushStyle.NoBrush)
        p.drawEllipse(disc)
        if report.expected.is_probable and not report.expected.is_safe:
            p.setBrush(pal.color("ink"))
            p.drawPie(disc, 90 * 16, 180 * 16)
        if abs(report.stretch) > MOST_STRETCH:
            # so far from its own speed that it is heard
            p.setPen(QPen(pal.color("attention"), 1.5))
            p.drawLine(QPointF(r.left() + 2, r.bottom() - 2), QPointF(r.right() - 2, r.bottom() - 2))

    def focusInEvent(self, e: object) -> None:
        self.refresh()

    def focusOutEvent(self, e: object) -> None:
        self.refresh()
