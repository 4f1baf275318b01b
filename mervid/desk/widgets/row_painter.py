"""How the cells of the table of tracks are drawn: state by shape and word, drive as its course, form as a row of tints."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from PyQt6.QtCore import QModelIndex, QPointF, QRect, QRectF, QSize, Qt
from PyQt6.QtGui import QFont, QFontMetrics, QPainter, QPen, QPixmap, QPixmapCache, QPolygonF
from PyQt6.QtWidgets import QStyle, QStyledItemDelegate, QStyleOptionViewItem

from ...core.character import drive
from ...core.model.form import letter_number
from ...core.model.preparation import CHECKED, LOCKED
from ...store.track import FAILED, READY, Track
from ..theme.palette import tint
from ..theme.style import Theme, font
from .track_columns import COLUMNS, Column, key, waits

COMPACT, ROOMY = 25, 46
PAD = 7
ELIDE = Qt.TextElideMode.ElideRight
LEFT = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
RIGHT = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
LONGEST = 300
"""Letters of a text that are laid out: more fit no column."""


class RowPainter(QStyledItemDelegate):
    """Draws cells from the track of their row; one for a whole table."""

    def __init__(self, table: object, covers: Path) -> None:
        super().__init__()
        self.table, self.covers = table, covers
        self.roomy = False
        self._fonts: dict[tuple[float, bool], tuple[QFont, QFontMetrics]] = {}

    def _font(self, size: float, bold: bool) -> tuple[QFont, QFontMetrics]:
        if (size, bold) not in self._fonts:
            f = font(size, bold=bold)
            self._fonts[size, bold] = f, QFontMetrics(f)
        return self._fonts[size, bold]

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        return QSize(COLUMNS[index.column()].width, ROOMY if self.roomy else COMPACT)

    def paint(self, p: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        if p is None:
            return
        pal, r = Theme.palette, option.rect
        track = index.data(Qt.ItemDataRole.UserRole)
        if option.state & QStyle.StateFlag.State_Selected:
            p.fillRect(r, pal.color("selected"))
        p.setPen(pal.color("hairline"))
        p.drawLine(r.bottomLeft(), r.bottomRight())
        if not isinstance(track, Track):
            return
        column = COLUMNS[index.column()]
        if column.name == "readiness":
            self._state(p, r, track, index)
        elif column.name == "drive":
            self._drive(p, r, track)
        elif column.name == "form":
            self._form(p, r, track)
        elif column.name == "title":
            self._title(p, r, track)
        elif column.name == "finding":
            self._waits(p, r, track)
        else:
            faint = column.name == "key" and key(track).endswith("?")
            self._text(p, r, column, track, "faint" if faint or track.gone else "ink")

    def _text(self, p: QPainter, r: QRect, column: Column, track: Track, role: str) -> None:
        text = column.text(track)
        if text:
            self._words(p, r.adjusted(PAD, 0, -PAD, 0), text, role, right=column.right)

    def _words(
        self, p: QPainter, r: QRect, text: str, role: str, *, size: float = 9.5, bold: bool = False, right: bool = False
    ) -> None:
        f, metrics = self._font(size, bold)
        p.setFont(f)
        p.setPen(Theme.palette.color(role))
        p.drawText(r, RIGHT if right else LEFT, metrics.elidedText(text[:LONGEST], ELIDE, r.width()))

    def _title(self, p: QPainter, r: QRect, t: Track) -> None:
        role = "faint" if t.gone else "ink"
        if not self.roomy:
            self._words(p, r.adjusted(PAD, 0, -PAD, 0), t.title, role, bold=True)
            return
        side = ROOMY - 8
        picture = self._cover(t.cover, side)
        left = PAD
        if picture is not None:
            p.drawPixmap(r.left() + PAD, r.top() + 4, picture)
            left += side + 8
        above = QRect(r.left() + left, r.top() + 4, r.width() - left - PAD, 20)
        self._words(p, above, t.title, role, size=10, bold=True)
        self._words(p, above.translated(0, 18), t.artists or t.album, "faint", size=9)

    def _cover(self, name: str, side: int) -> QPixmap | None:
        if not name:
            return None
        found = QPixmapCache.find(f"cover {name} {side}")
        if found is None:
            found = QPixmap(str(self.covers / name))
            if found.isNull():
                return None
            mode = Qt.AspectRatioMode.KeepAspectRatio
            found = found.scaled(side, side, mode, Qt.TransformationMode.SmoothTransformation)
            QPixmapCache.insert(f"cover {name} {side}", found)
        return found

    # drawn columns

    def _state(self, p: QPainter, r: QRect, t: Track, index: QModelIndex) -> None:
        """A ring for a draft, a tick for checked, a tick in a box for locked, a dot while it waits, a cross for what failed."""
        pal = Theme.palette
        words, part = index.data(Qt.ItemDataRole.DisplayRole), index.data(Qt.ItemDataRole.UserRole + 1)
        c = QPointF(r.left() + 14, r.center().y() + 0.5)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        bad = t.gone or t.state == FAILED
        p.setPen(QPen(pal.color("attention" if bad else "ink"), 1.7))
        p.setBrush(Qt.BrushStyle.NoBrush)
        if bad:
            p.drawLine(c + QPointF(-4, -4), c + QPointF(4, 4))
            p.drawLine(c + QPointF(4, -4), c + QPointF(-4, 4))
        elif t.state != READY:
            p.setPen(Qt.PenStyle.NoPen)
            p.setBrush(pal.color("border"))
            p.drawEllipse(c, 2.5, 2.5)
        elif t.readiness in (CHECKED, LOCKED):
            p.drawPolyline(QPolygonF([c + QPointF(-4, 0), c + QPointF(-1, 3.5), c + QPointF(5, -4)]))
            if t.readiness == LOCKED:
                p.setPen(QPen(pal.color("ink"), 1.2))
                p.drawRect(QRectF(c.x() - 7.5, c.y() - 7.5, 15, 15))
        else:
            p.drawEllipse(c, 4.5, 4.5)
        p.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        role = "attention" if bad else "ink" if t.state == READY else "faint"
        self._words(p, r.adjusted(28, 0, -4, 0), str(words), role, size=9)
        if not bad and waits(t):
            self._wedge(p, r.right() - 12, r.center().y() + 0.5)
        if part is not None:
            line = QRectF(r.left() + 28, r.bottom() - 4, r.width() - 36, 3)
            p.fillRect(line, pal.color("hairline"))
            p.fillRect(QRectF(line.left(), line.top(), line.width() * part, 3), pal.color("hand"))

    def _waits(self, p: QPainter, r: QRect, t: Track) -> None:
        """A wedge before the words, as at every finding that asks for a decision."""
        text = waits(t)
        if not text:
            return
        self._wedge(p, r.left() + PAD, r.center().y() + 0.5)
        self._words(p, r.adjusted(PAD + 13, 0, -PAD, 0), text, "ink", size=9)

    @staticmethod
    def _wedge(p: QPainter, x: float, y: float) -> None:
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(Theme.palette.color("attention"))
        p.drawPolygon(QPolygonF([QPointF(x, y - 4.5), QPointF(x + 8, y), QPointF(x, y + 4.5)]))
        p.setRenderHint(QPainter.RenderHint.Antialiasing, False)

    def _drive(self, p: QPainter, r: QRect, t: Track) -> None:
        """The number, and its course as a hill."""
        if t.drive is None:
            return
        self._words(p, QRect(r.left() + 2, r.top(), 20, r.height()), f"{t.drive:.0f}", "ink", bold=True, right=True)
        if not t.course:
            return
        course = drive.from_bytes(t.course)
        low, high = r.bottom() - 4.0, r.top() + 4.0
        xs = np.linspace(r.left() + 30, r.right() - PAD, len(course))
        ys = low - (low - high) * np.clip((course - 1) / 8, 0, 1)
        points = [QPointF(x, y) for x, y in zip(xs.tolist(), ys.tolist(), strict=True)]
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(Theme.palette.color("sustained"))
        p.drawPolygon(QPolygonF([QPointF(xs[0], low), *points, QPointF(xs[-1], low)]))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(Theme.palette.color("percussive"))
        p.drawPolyline(QPolygonF(points))

    def _form(self, p: QPainter, r: QRect, t: Track) -> None:
        """A piece for each phrase, as long as it has bars, with its letter where there is room."""
        parts = phrases_of(t.form)
        total = sum(bars for _, bars in parts)
        if not total:
            return
        pal = Theme.palette
        height = min(16, r.height() - 8)
        left, width = r.left() + PAD, r.width() - 2 * PAD
        f, metrics = self._font(7.5, False)
        p.setFont(f)
        top = r.center().y() - height // 2
        done = 0
        for letter, bars in parts:
            a, b = left + width * done // total, left + width * (done + bars) // total
            done += bars
            box = QRect(a, top, max(1, b - a), height)
            p.fillRect(box, tint(pal, letter_number(letter)))
            p.setPen(pal.color("border"))
            p.drawLine(a, top, a, top + height - 1)
            if metrics.horizontalAdvance(letter) + 3 < b - a:
                p.setPen(pal.color("ink"))
                p.drawText(box, Qt.AlignmentFlag.AlignCenter, letter)


def phrases_of(form: str) -> list[tuple[str, int]]:
    """Letter and bars of each phrase of a form line; what can't be read is left out."""
    out = []
    for word in form.split():
        letter, _, bars = word.partition(":")
        if bars.isdigit() and letter:
            out.append((letter, int(bars)))
    return out
