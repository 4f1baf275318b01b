"""The prep sheet as it is drawn, on paper and on screen by the same strokes: light ink, all lengths in points."""

from __future__ import annotations

from typing import Any

import attrs
from PyQt6.QtCore import QPointF, QRectF, QSize, QSizeF, Qt
from PyQt6.QtGui import QColor, QFont, QFontMetricsF, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from ...core.delivery.sheet import A4, FOUR, HALF, LETTER, LINE, Row, Sheet, clock
from ..theme.palette import ROLES
from ..theme.style import FAMILY
from ..theme.tr import tr

INK, FAINT, HAIR = QColor("#1a1a1a"), QColor("#5a5a5a"), QColor("#b4b4b4")
PAPER_PT = {A4: (595.0, 842.0), LETTER: (612.0, 792.0)}
MARGIN, HEAD, FOOT = 34.0, 30.0, 16.0
TALL = {LINE: 19.0, FOUR: 66.0}
FINE = 10.0
"""Fonts are measured and drawn so many times larger, and scaled back."""


@attrs.frozen
class Setting:
    """How a sheet is laid out: paper and size of rows."""

    paper: str = A4
    size: str = FOUR

    @property
    def page(self) -> tuple[float, float]:
        """Width and height, points."""
        return PAPER_PT[self.paper]

    def tall(self) -> float:
        """Height of a row, points."""
        if self.size == HALF:
            return (self.page[1] - 2 * MARGIN - HEAD - FOOT) / 2
        return TALL[self.size]

    def rows_a_page(self) -> int:
        """How many rows a page holds."""
        return max(1, int((self.page[1] - 2 * MARGIN - HEAD - FOOT + 0.01) / self.tall()))

    def pages(self, sheet: Sheet) -> int:
        """How many pages a sheet has; an empty one has one."""
        return max(1, -(-len(sheet.rows) // self.rows_a_page()))


class SheetPainter:
    """Draws pages onto any painter whose units are points."""

    def __init__(self, sheet: Sheet, setting: Setting) -> None:
        self.sheet, self.setting = sheet, setting

    def page(self, p: QPainter, number: int) -> None:
        """Page `number`, from 0."""
        wide, tall = self.setting.page
        self._text(p, QRectF(MARGIN, MARGIN - 6, wide - 2 * MARGIN - 90, 18), self.sheet.title, 13, bold=True)
        total = sum(r.length for r in self.sheet.rows)
        about = tr("{0} tracks, {1}").format(len(self.sheet.rows), clock(total))
        if self.sheet.notes:
            about += f" · {self.sheet.notes}"
        self._text(p, QRectF(MARGIN, MARGIN + 11, wide - 2 * MARGIN, 12), about, 8, FAINT)
        pages = self.setting.pages(self.sheet)
        foot = QRectF(MARGIN, tall - MARGIN + 2, wide - 2 * MARGIN, 12)
        self._text(p, foot, f"{number + 1} / {pages}", 7.5, FAINT, right=True)
        n, each = self.setting.rows_a_page(), self.setting.tall()
        top = MARGIN + HEAD
        for k, row in enumerate(self.sheet.rows[number * n : (number + 1) * n]):
            box = QRectF(MARGIN, top + k * each, wide - 2 * MARGIN, each)
            p.setPen(QPen(HAIR, 0.4))
            p.drawLine(box.topLeft(), box.topRight())
            {LINE: self._line, FOUR: self._four, HALF: self._half}[self.setting.size](p, box, row)

    # rows

    def _line(self, p: QPainter, box: QRectF, r: Row) -> None:
        x, y, w = box.left(), box.top() + 3, box.width()
        self._text(p, QRectF(x, y, 20, 12), str(r.number), 9, FAINT, right=True)
        name = f"{r.title}  {r.artists}" if r.artists else r.title
        self._text(p, QRectF(x + 26, y, w * 0.36 - 26, 12), name, 9)
        self._text(p, QRectF(x + w * 0.37, y, 36, 12), r.tempo, 9, bold=True, right=True)
        self._text(p, QRectF(x + w * 0.37 + 40, y, 30, 12), r.key.replace(" minor", "m").replace(" major", ""), 9)
        self._text(p, QRectF(x + w * 0.37 + 70, y, 28, 12), clock(r.length), 9, FAINT, right=True)
        strip = QRectF(x + w * 0.37 + 104, y + 1, w * 0.63 - 104, 11)
        self._strip(p, strip, r, lengths=True, cues=False)

    def _four(self, p: QPainter, box: QRectF, r: Row) -> None:
        x, y, w = box.left(), box.top() + 4, box.width()
        self._heading(p, QRectF(x, y, w, 13), r)
        self._strip(p, QRectF(x + 26, y + 23, w - 26, 13), r, lengths=True, cues=True)
        words = ", ".join(f"{_cue(c.slot, c.role)} {c.name} {clock(c.time)}" for c in r.cues) or tr("no cues")
        self._text(p, QRectF(x + 26, y + 38, w - 26, 11), words, 7.5, FAINT if not r.cues else INK)
        told = "; ".join(filter(None, (f"next: {r.next}" if r.next else "", r.holds, r.notes)))
        self._text(p, QRectF(x + 26, y + 49, w - 26, 11), told, 7.5, FAINT)

    def _half(self, p: QPainter, box: QRectF, r: Row) -> None:
        x, y, w = box.left(), box.top() + 8, box.width()
        self._heading(p, QRectF(x, y, w, 16), r, size=12.5)
        self._strip(p, QRectF(x, y + 36, w, 26), r, lengths=True, cues=True, size=8.5)
        top = y + 78
        for k, c in enumerate(r.cues[:16]):
            column, at_row = divmod(k, 8)
            at = QRectF(x + column * w / 2, top + at_row * 14, w / 2 - 10, 12)
            self._text(p, QRectF(at.left(), at.top(), 26, 12), _cue(c.slot, c.role), 9, bold=True)
            self._text(p, QRectF(at.left() + 28, at.top(), 40, 12), clock(c.time), 9)
            self._text(p, QRectF(at.left() + 66, at.top(), 46, 12), tr("bar {0}").format(c.bar), 9, FAINT)
            self._text(p, QRectF(at.left() + 114, at.top(), at.width() - 114, 12), c.name, 9)
        if not r.cues:
            self._text(p, QRectF(x, top, w, 12), tr("no cues"), 9, FAINT)
        low = top + 14 * min(8, max(1, len(r.cues))) + 8
        if r.next:
            self._text(p, QRectF(x, low, w, 12), f"Next: {r.next}", 9)
        if r.holds:
            self._text(p, QRectF(x, low + 13, w, 12), r.holds, 9, FAINT)
        if r.notes:
            self._text(p, QRectF(x, low + 28, w, 12), r.notes, 9)
        # room for a hand
        p.setPen(QPen(HAIR, 0.4, Qt.PenStyle.DotLine))
        line = low + 58
        while line < box.bottom() - 8:
            p.drawLine(QPointF(x, line), QPointF(x + w, line))
            line += 20

    def _heading(self, p: QPainter, box: QRectF, r: Row, *, size: float = 10.0) -> None:
        (x, y), (w, h) = (box.left(), box.top()), (box.width(), box.height())
        self._text(p, QRectF(x, y, 20, h), str(r.number), size - 1, FAINT, right=True)
        right = 206.0
        title = self._text(p, QRectF(x + 26, y, w - 26 - right, h), r.title, size, bold=True)
        self._text(p, QRectF(x + 34 + title, y, max(0, w - 34 - title - right), h), r.artists, size - 1, FAINT)
        at = x + w - right
        self._text(p, QRectF(at, y, 38, h), r.tempo, size, bold=True, right=True)
        self._text(p, QRectF(at + 43, y, 74, h), r.behaves, size - 2, FAINT)
        self._text(p, QRectF(at + 118, y, 52, h), r.key, size - 1)
        self._text(p, QRectF(at + 170, y, 36, h), clock(r.length), size - 1, FAINT, right=True)

    def _strip(self, p: QPainter, box: QRectF, r: Row, *, lengths: bool, cues: bool, size: float = 7.0) -> None:
        """The track as a bar: a box a phrase with its letter and length, and cues above it as flags."""
        if r.length <= 0:
            return
        scale = box.width() / r.length
        p.setPen(QPen(HAIR, 0.5))
        p.drawRect(box)
        for q in r.phrases:
            part = QRectF(box.left() + q.start * scale, box.top(), (q.stop - q.start) * scale, box.height())
            p.setPen(QPen(FAINT, 0.6))
            p.drawLine(part.topLeft(), part.bottomLeft())
            # so strong a part has a second line, light as ink on paper may be
            if q.role in ("drop", "chorus"):
                p.setPen(QPen(INK, 1.2))
                p.drawLine(QPointF(part.left() + 1, part.bottom()), QPointF(part.right() - 1, part.bottom()))
            if lengths:
                for words in (f"{q.role} {q.bars}", f"{q.role[:3]} {q.bars.split(' ')[0]}", q.bars.split(" ")[0]):
                    if self._wide(words, size) < part.width() - 3:
                        self._text(p, part.adjusted(2, 0, -1, 0), words, size, FAINT)
                        break
        if not cues:
            return
        last = -100.0
        for c in r.cues:
            x = box.left() + c.time * scale
            p.setPen(QPen(INK, 0.8))
            p.drawLine(QPointF(x, box.top() - 2), QPointF(x, box.bottom()))
            words = _cue(c.slot, c.role)
            if words and x - last > self._wide(words, size) + 2:
                self._text(p, QRectF(x - 12, box.top() - 10.5, 24, 9), words, size, centre=True)
                last = x

    # words

    def _wide(self, text: str, size: float) -> float:
        return QFontMetricsF(_units(size)).horizontalAdvance(text) / FINE

    def _text(
        self,
        p: QPainter,
        box: QRectF,
        text: str,
        size: float,
        color: QColor = INK,
        *,
        bold: bool = False,
        right: bool = False,
        centre: bool = False,
    ) -> float:
        """One line, cut where there is no room; how wide it is."""
        font = _units(size, bold=bold)
        told = QFontMetricsF(font).elidedText(text, Qt.TextElideMode.ElideRight, box.width() * FINE)
        p.save()
        p.setFont(font)
        p.setPen(color)
        p.scale(1 / FINE, 1 / FINE)
        across = Qt.AlignmentFlag.AlignLeft
        if right or centre:
            across = Qt.AlignmentFlag.AlignRight if right else Qt.AlignmentFlag.AlignHCenter
        large = QRectF(box.left() * FINE, box.top() * FINE, box.width() * FINE, box.height() * FINE)
        p.drawText(large, int(across | Qt.AlignmentFlag.AlignVCenter), told)
        p.restore()
        return QFontMetricsF(font).horizontalAdvance(told) / FINE


def _cue(slot: str, role: str) -> str:
    """A cue in letters: its slot and its role's letter."""
    return f"{slot}{ROLES.get(role, ('', ''))[1]}" or "·"


def _units(size: float, *, bold: bool = False) -> QFont:
    """A font whose height is in the units of the painter, whatever it draws on."""
    f = QFont(FAMILY)
    # in tenths, which are scaled back: whole pixels are too coarse for print
    f.setPixelSize(round(size * FINE))
    f.setWeight(QFont.Weight.DemiBold if bold else QFont.Weight.Normal)
    return f


class SheetView(QWidget):
    """A sheet on screen: its pages under each other, as wide as there is room."""

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName(tr("Prep sheet"))
        self.sheet, self.setting = Sheet("", ()), Setting()

    def show_sheet(self, sheet: Sheet, setting: Setting) -> None:
        """Draw another sheet."""
        self.sheet, self.setting = sheet, setting
        self._fit()
        self.update()

    def resizeEvent(self, e: Any) -> None:
        self._fit()

    @property
    def zoom(self) -> float:
        """Pixels a point."""
        return max(0.4, min(1.6, (self.width() - 24) / self.setting.page[0]))

    def _fit(self) -> None:
        tall = (self.setting.page[1] * self.zoom + 16) * self.setting.pages(self.sheet) + 16
        self.setMinimumHeight(round(tall))

    def sizeHint(self) -> QSize:
        return QSizeF(self.setting.page[0] + 24, self.minimumHeight()).toSize()

    def paintEvent(self, e: QPaintEvent | None) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        draws = SheetPainter(self.sheet, self.setting)
        wide, tall = self.setting.page
        left = (self.width() - wide * self.zoom) / 2
        for k in range(self.setting.pages(self.sheet)):
            top = 12 + k * (tall * self.zoom + 16)
            if e is not None and not e.rect().intersects(
                QRectF(left, top, wide * self.zoom, tall * self.zoom).toRect()
            ):
                continue
            p.save()
            p.translate(left, top)
            p.scale(self.zoom, self.zoom)
            p.fillRect(QRectF(0, 0, wide, tall), QColor("#ffffff"))
            draws.page(p, k)
            p.restore()
        p.end()
