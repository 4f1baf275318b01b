"""How the rows of the table of tracks are drawn: state by shape and word, drive as its course, form as a row of tints.

All cells of a column are drawn after each other, by what a track holds: no cell asks a model, and texts that were cut
to a width are kept. A table of thousands scrolls as one of ten does.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path

import numpy as np
from PyQt6.QtCore import QPointF, QRect, QRectF, Qt
from PyQt6.QtGui import QFont, QFontMetrics, QImage, QPainter, QPen, QPixmap, QPixmapCache, QPolygonF, QStaticText

from ...core.character import drive
from ...core.model.form import letter_number
from ...core.model.preparation import CHECKED, LOCKED
from ...store.track import FAILED, READY, Track
from ..theme.palette import Palette, tint
from ..theme.style import Theme, font
from ..theme.tr import tr
from .track_columns import Column, key, waits

COMPACT, ROOMY = 25, 46
PAD = 7
LEFT = int(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
RIGHT = int(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
MIDDLE = int(Qt.AlignmentFlag.AlignCenter)
LONGEST = 300
"""Letters of a text that are laid out: more fit no column."""
WIDEST = 1.2
"""Pixels of the widest usual letter for each point of its size: what is surely narrower need not be measured."""
KEPT = 6000
"""Texts that are kept cut to their widths."""
State = tuple[str, float | None, str]
"""Words for how far a track is, the share done while it is heard, and when it is played in its list."""
Cell = tuple[QRect, Track, State]


class RowPainter:
    """Draws columns of cells.

    Attributes
    ----------
    roomy : rows have two lines and a picture
    """

    def __init__(self, covers: Path) -> None:
        self.covers = covers
        self.roomy = False
        self._fonts: dict[tuple[float, bool], tuple[QFont, QFontMetrics]] = {}
        self._laid: dict[tuple[str, int, float, bool], QStaticText | str] = {}
        self._hills: dict[tuple[bytes, int, int, str], QImage] = {}
        self._own: dict[str, Callable[[QPainter, Sequence[Cell]], None]] = {
            "at": self._times,
            "readiness": self._states,
            "drive": self._drives,
            "form": self._forms,
            "title": self._titles,
            "finding": self._waits,
        }

    @property
    def row_height(self) -> int:
        """Pixels of a row."""
        return ROOMY if self.roomy else COMPACT

    def column(self, p: QPainter, column: Column, cells: Sequence[Cell]) -> None:
        """Draw the cells of one column."""
        own = self._own.get(column.name)
        if own is not None:
            own(p, cells)
            return
        flags = RIGHT if column.right else LEFT
        for r, track, _ in cells:
            text = column.text(track)
            if text:
                faint = track.gone or (column.name == "key" and key(track).endswith("?"))
                self._words(p, r.adjusted(PAD, 0, -PAD, 0), text, "faint" if faint else "ink", flags=flags)

    def _font(self, size: float, bold: bool) -> tuple[QFont, QFontMetrics]:
        if (size, bold) not in self._fonts:
            f = font(size, bold=bold)
            self._fonts[size, bold] = f, QFontMetrics(f)
        return self._fonts[size, bold]

    def _words(
        self, p: QPainter, r: QRect, text: str, role: str, *, size: float = 9.5, bold: bool = False, flags: int = LEFT
    ) -> None:
        f, metrics = self._font(size, bold)
        width = r.width()
        asked = (text[:LONGEST], width, size, bold)
        laid = self._laid.get(asked)
        p.setFont(f)
        p.setPen(Theme.palette.color(role))
        if laid is None:
            # what is seen for the first time is drawn at once, and laid out for good when it is seen again
            fits = WIDEST * size * len(asked[0]) < width
            cut = asked[0] if fits else metrics.elidedText(asked[0], Qt.TextElideMode.ElideRight, width)
            if len(self._laid) > KEPT:
                self._laid.clear()
            self._laid[asked] = cut
            p.drawText(r, flags, cut)
            return
        if isinstance(laid, str):
            laid = QStaticText(laid)
            laid.setTextFormat(Qt.TextFormat.PlainText)
            laid.prepare(font=f)
            self._laid[asked] = laid
        x = r.right() + 1 - round(laid.size().width()) if flags == RIGHT else r.left()
        p.drawStaticText(x, r.top() + (r.height() - metrics.height()) // 2, laid)

    def _times(self, p: QPainter, cells: Sequence[Cell]) -> None:
        for r, _, (_, _, at) in cells:
            if at:
                self._words(p, r.adjusted(PAD, 0, -PAD, 0), at, "faint", size=9, flags=RIGHT)

    def _titles(self, p: QPainter, cells: Sequence[Cell]) -> None:
        for r, t, _ in cells:
            role = "faint" if t.gone else "ink"
            if not self.roomy:
                self._words(p, r.adjusted(PAD, 0, -PAD, 0), t.title, role, bold=True)
                continue
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
            QPixmapCache.insert(tr("cover {0} {1}").format(name, side), found)
        return found

    # drawn columns

    def _states(self, p: QPainter, cells: Sequence[Cell]) -> None:
        """A ring for a draft, a tick for checked, in a box for locked, a dot while it waits, a cross for failed."""
        pal = Theme.palette
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        for r, t, _ in cells:
            self._sign(p, pal, QPointF(r.left() + 14, r.center().y() + 0.5), t)
            if not _bad(t) and waits(t):
                self._wedge(p, r.right() - 12, r.center().y() + 0.5)
        p.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        for r, t, (words, part, _) in cells:
            role = "attention" if _bad(t) else "ink" if t.state == READY else "faint"
            self._words(p, r.adjusted(28, 0, -4, 0), words, role, size=9)
            if part is not None:
                line = QRectF(r.left() + 28, r.bottom() - 4, r.width() - 36, 3)
                p.fillRect(line, pal.color("hairline"))
                p.fillRect(QRectF(line.left(), line.top(), line.width() * part, 3), pal.color("hand"))

    @staticmethod
    def _sign(p: QPainter, pal: Palette, c: QPointF, t: Track) -> None:
        bad = _bad(t)
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

    @staticmethod
    def _wedge(p: QPainter, x: float, y: float) -> None:
        """As at every finding that asks for a decision."""
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(Theme.palette.color("attention"))
        p.drawPolygon(QPolygonF([QPointF(x, y - 4.5), QPointF(x + 8, y), QPointF(x, y + 4.5)]))

    def _waits(self, p: QPainter, cells: Sequence[Cell]) -> None:
        for r, t, _ in cells:
            text = waits(t)
            if text:
                p.setRenderHint(QPainter.RenderHint.Antialiasing)
                self._wedge(p, r.left() + PAD, r.center().y() + 0.5)
                p.setRenderHint(QPainter.RenderHint.Antialiasing, False)
                self._words(p, r.adjusted(PAD + 13, 0, -PAD, 0), text, "ink", size=9)

    def _drives(self, p: QPainter, cells: Sequence[Cell]) -> None:
        """The number, and its course as a hill."""
        for r, t, _ in cells:
            if t.drive is None:
                continue
            box = QRect(r.left() + 2, r.top(), 20, r.height())
            self._words(p, box, f"{t.drive:.0f}", "ink", bold=True, flags=RIGHT)
            width, height = r.width() - 30 - PAD, r.height() - 8
            if t.course and width > 4:
                p.drawImage(r.left() + 30, r.top() + 4, self._hill(t.course, width, height))

    def _hill(self, course: bytes, width: int, height: int) -> QImage:
        pal = Theme.palette
        asked = (course, width, height, pal.name)
        found = self._hills.get(asked)
        if found is None:
            if len(self._hills) > KEPT // 10:
                self._hills.clear()
            found = self._hills[asked] = hill(drive.from_bytes(course), width, height, pal)
        return found

    def _forms(self, p: QPainter, cells: Sequence[Cell]) -> None:
        """A piece for each phrase, as long as it has bars, with its letter where there is room."""
        pal = Theme.palette
        p.setFont(self._font(7.5, False)[0])
        border, ink = pal.color("border"), pal.color("ink")
        for r, t, _ in cells:
            parts = phrases_of(t.form)
            total = sum(bars for _, bars in parts)
            if not total:
                continue
            height = min(16, r.height() - 8)
            left, width, top = r.left() + PAD, r.width() - 2 * PAD, r.center().y() - height // 2
            done = 0
            for letter, bars in parts:
                a, b = left + width * done // total, left + width * (done + bars) // total
                done += bars
                p.fillRect(a, top, max(1, b - a), height, tint(pal, letter_number(letter)))
                p.fillRect(a, top, 1, height, border)
                if 7 * len(letter) + 3 < b - a:
                    p.setPen(ink)
                    p.drawText(a, top, b - a, height, MIDDLE, letter)


def _bad(t: Track) -> bool:
    return t.gone or t.state == FAILED


def hill(course: np.ndarray, width: int, height: int, pal: Palette) -> QImage:
    """A course of 1 to 9 as a picture: ground below it, and its edge."""
    at = np.interp(np.linspace(0, 1, width), np.linspace(0, 1, len(course)), course)
    top = np.clip(np.rint((height - 1) * (1 - (at - 1) / 8)), 0, height - 1).astype(int)
    rows = np.arange(height)[:, None]
    # the edge is drawn as steep as it is
    before = np.concatenate([top[:1], top[:-1]])
    edge = (rows >= np.minimum(top, before)) & (rows <= np.maximum(top, before))
    out = np.zeros((height, width), np.uint32)
    out[rows > top] = pal.color("sustained").rgba()
    out[edge] = pal.color("percussive").rgba()
    return QImage(out.tobytes(), width, height, 4 * width, QImage.Format.Format_ARGB32).copy()


def phrases_of(form: str) -> list[tuple[str, int]]:
    """Letter and bars of each phrase of a form line; what can't be read is left out."""
    out = []
    for word in form.split():
        letter, _, bars = word.partition(":")
        if bars.isdigit() and letter:
            out.append((letter, int(bars)))
    return out
