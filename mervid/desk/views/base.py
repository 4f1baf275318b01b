"""What all painted views share: paper, focus ring, fonts, and images made of ink."""

from __future__ import annotations

import math
from collections.abc import Callable
from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QEvent, QLineF, QPointF, QRect, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QFont, QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPixmap, QPolygonF
from PyQt6.QtWidgets import QWidget

from ...core.arrays import Floats
from ..theme.palette import Palette, letter_of, role_inks, role_state
from ..theme.style import Theme, font

# room for words left of what spans the whole track
MARGIN = 46


@lru_cache(maxsize=32)
def ramp(low: str, high: str, missing: str, gamma: float = 1.15) -> NDArray[np.uint32]:
    """257 colours as 0xffRRGGBB: from `low` to `high`, and last the one for 'nothing there'."""
    a, b, m = (np.array(QColor(c).getRgb()[:3], float) for c in (low, high, missing))
    t = np.linspace(0, 1, 256)[:, None] ** gamma
    rgb = np.concatenate([a + (b - a) * t, m[None]]).round().astype(np.uint32)
    return np.asarray(0xFF000000 | rgb[:, 0] << 16 | rgb[:, 1] << 8 | rgb[:, 2], np.uint32)


def ink_pixels(values: NDArray[np.float32], colors: NDArray[np.uint32]) -> NDArray[np.uint32]:
    """(rows, columns) in [0, 1], NaN where nothing is, as 0xffRRGGBB."""
    index = np.where(np.isnan(values), np.float32(256), np.minimum(values * np.float32(255), np.float32(255)))
    return np.asarray(colors[index.astype(np.int32)])


def image_of(pixels: NDArray[np.uint32]) -> QImage:
    """A QImage over (rows, columns) 0xffRRGGBB; it shares the memory, so the array must outlive it."""
    return _image(pixels, QImage.Format.Format_RGB32)


def _image(pixels: NDArray[np.uint32], form: QImage.Format) -> QImage:
    height, width = pixels.shape
    # the stubs know bytes only
    return QImage(pixels.data, width, height, width * 4, form)  # type: ignore[call-overload]


def draw_lines(p: QPainter, lines: list[QLineF]) -> None:
    """Many lines in one call."""
    # the stubs know one array of Python's own only
    p.drawLines(lines)  # type: ignore[call-overload]


def small(size: float = 8.5, *, bold: bool = False) -> QFont:
    """The font of scales and labels."""
    return font(size, bold=bold)


# how a flag ends, by role: (x from its end, share of its height) from top to bottom
_ENDS = {
    "first beat": ((0, 0), (-4, 0.5), (0, 1)),
    "mid-intro": ((-4, 0), (-4, 0.3), (0, 0.5), (-4, 0.7), (-4, 1)),
    "vocal": ((-3, 0), (0, 0.25), (0, 0.75), (-3, 1)),
    "verse": ((0, 0), (-5, 1)),
    "chorus": ((0, 0), (0, 1)),
    "break": ((0, 0), (-3, 0.25), (0, 0.5), (-3, 0.75), (0, 1)),
    "build": ((-6, 0), (0, 1)),
    "drop": ((-5, 0), (0, 0.5), (-5, 1)),
    "outro": ((0, 0), (0, 0.5), (-5, 1)),
    "mid-outro": ((0, 0), (0, 0.4), (-4, 0.4), (-4, 1)),
    "loop": ((-5, 0), (0, 0.2), (-5, 0.4), (-5, 0.6), (0, 0.8), (-5, 1)),
}


def draw_flag(p: QPainter, x: float, top: float, label: str, role: str, room: float = 1e9) -> QRectF:
    """A cue's flag on a pole at `x`: hue, letter and shape by role, its words only as far as there is room for them.

    Returns its rectangle.
    """
    (hue, ink), letter = role_inks(Theme.palette, role), letter_of(role)
    text = f"{letter} {label}".strip()
    p.setFont(small(8, bold=True))
    if p.fontMetrics().horizontalAdvance(text) + 13 > room:
        text = p.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, max(0, int(room) - 13))
        text = text if len(text) > 3 else letter
    width = p.fontMetrics().horizontalAdvance(text) + 13
    r = QRectF(x, top, width, 14)
    p.setPen(Qt.PenStyle.NoPen)
    p.setBrush(hue)
    end = [QPointF(r.right() + dx, r.top() + y * r.height()) for dx, y in _ENDS.get(role, _ENDS["first beat"])]
    p.drawPolygon(QPolygonF([r.topLeft(), *end, r.bottomLeft()]))
    p.setPen(ink)
    p.drawText(r.adjusted(4, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, text)
    return r


def picture(width: float, height: float, ratio: float, paint: Callable[[QPainter], None]) -> QPixmap:
    """A clear picture of so many px, painted on by `paint`: quick to draw many times."""
    out = QPixmap(math.ceil(width * ratio), math.ceil(height * ratio))
    out.setDevicePixelRatio(ratio)
    out.fill(Qt.GlobalColor.transparent)
    p = QPainter(out)
    paint(p)
    p.end()
    return out


class Backdrop:
    """A picture kept between paints while what it shows stays the same."""

    def __init__(self) -> None:
        self._key: object = None
        self._pixmap: QPixmap | None = None

    def forget(self) -> None:
        """Paint anew next time: what is shown is another thing."""
        self._pixmap = None

    def draw(self, p: QPainter, view: QWidget, key: object, paint: Callable[[QPainter], None]) -> None:
        """Draw the kept picture, made anew by `paint` when `key`, size or screen changed."""
        ratio = view.devicePixelRatioF()
        full = (key, view.width(), view.height(), ratio, Theme.palette.name, role_state())
        if self._pixmap is None or self._key != full:
            pixmap = QPixmap(view.size() * ratio)
            pixmap.setDevicePixelRatio(ratio)
            pixmap.fill(Theme.palette.color("paper"))
            inner = QPainter(pixmap)
            inner.setFont(small())
            paint(inner)
            inner.end()
            self._key, self._pixmap = full, pixmap
        p.drawPixmap(0, 0, self._pixmap)


def bars_image(height: int, bars: tuple[tuple[NDArray[np.float32], NDArray[np.float32], QColor], ...]) -> QImage:
    """Upright bars, one a column, in a transparent image of `height` px: (top, bottom, colour) from back to front.

    Parameters
    ----------
    bars : tops and bottoms, each (columns,), px from the upper edge; a bar shorter than half a px isn't drawn
    """
    y = np.arange(height, dtype=np.float32)[:, None] + np.float32(0.5)
    pixels = np.zeros((height, len(bars[0][0])), np.uint32)
    for top, bottom, color in bars:
        alpha = color.alphaF()
        r, g, b = (round(c * alpha) for c in color.getRgb()[:3])
        inside = (y >= top) & (y <= bottom) & (bottom - top >= 0.5)
        pixels[inside] = round(255 * alpha) << 24 | r << 16 | g << 8 | b
    return _image(pixels, QImage.Format.Format_ARGB32_Premultiplied).copy()


# how much of each pixel a round dot of four pixels covers
_DOT = np.array([[0.55, 0.95, 0.95, 0.55], [0.95, 1, 1, 0.95], [0.95, 1, 1, 0.95], [0.55, 0.95, 0.95, 0.55]])


@lru_cache(maxsize=8)
def _dot_colors(plain: str, marked: str) -> NDArray[np.uint32]:
    """Premultiplied ARGB: 0 is clear, 1 to 127 the plain colour ever denser, 128 to 255 the marked one."""
    out = np.zeros(256, np.uint32)
    for start, color in ((1, plain), (128, marked)):
        n = 127 if start == 1 else 128
        alpha = np.arange(1, n + 1) / n
        parts = [np.rint(alpha * c).astype(np.uint32) for c in (255, *QColor(color).getRgb()[:3])]
        out[start : start + n] = parts[0] << 24 | parts[1] << 16 | parts[2] << 8 | parts[3]
    return out


def dots_image(
    shape: tuple[int, int],
    x: NDArray[np.float64],
    y: NDArray[np.float64],
    opacity: NDArray[np.float64],
    marked: NDArray[np.bool_],
    colors: tuple[str, str],
) -> QImage:
    """Round dots centred on (x, y) px in a transparent image of (height, width): `marked` ones in the second colour.

    Hundreds of dots are stamped at once, several times faster than painting each.
    """
    height, width = shape
    canvas = np.zeros(height * width, np.uint8)
    left = np.clip(np.rint(x).astype(int) - 2, 0, max(0, width - 4))
    top = np.clip(np.rint(y).astype(int) - 2, 0, max(0, height - 4))
    grid = np.arange(4)
    at = (top[:, None, None] + grid[:, None]) * width + left[:, None, None] + grid
    level = (np.where(marked, 128, 1)[:, None, None] + 126 * opacity[:, None, None] * _DOT).astype(np.uint8)
    # faintest first, so that where dots overlap the densest shows
    order = np.argsort(level, axis=None, kind="stable")
    canvas[at.ravel()[order]] = level.ravel()[order]
    pixels = _dot_colors(*colors)[canvas]
    return _image(pixels.reshape(height, width), QImage.Format.Format_ARGB32_Premultiplied).copy()


def draw_marks(p: QPainter, mark: QPixmap, x: Floats, y: NDArray[np.floating[Any]]) -> None:
    """One picture, made at twice the size, centred on each (x, y) px: many at once are cheaper than one by one."""
    whole, make = QRectF(mark.rect()), QPainter.PixmapFragment.create
    at = [make(QPointF(*place), whole, 0.5, 0.5) for place in zip(x.tolist(), y.tolist(), strict=True)]
    if at:
        # the stubs know an array of Python's own only
        p.drawPixmapFragments(at, mark)  # type: ignore[arg-type]


class View(QWidget):
    """A painted view with keyboard focus and a visible ring."""

    def __init__(self, name: str, description: str) -> None:
        super().__init__()
        self.setAccessibleName(name)
        self.setAccessibleDescription(description)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self._layer: QPixmap | None = None
        self._layer_of: object = None

    @property
    def palette_(self) -> Palette:
        """The palette in force."""
        return Theme.palette

    def draw(self, p: QPainter) -> None:
        """Paint what stands still while the playhead moves; it is kept as a picture until `refresh`."""

    def draw_over(self, p: QPainter) -> None:
        """Paint the playhead, and what else moves with it."""

    def refresh(self) -> None:
        """What is shown is another thing: paint it anew."""
        self._layer = None
        self.update()

    def paint_ground(self, p: QPainter, seen: QRect) -> None:
        """What `draw` paints, from the kept picture, as far as it is `seen`."""
        ratio = self.devicePixelRatioF()
        state = (self.size(), ratio, self.palette_.name, role_state())
        if self._layer is None or self._layer_of != state:
            self._layer, self._layer_of = QPixmap(self.size() * ratio), state
            self._layer.setDevicePixelRatio(ratio)
            self._layer.fill(self.palette_.color("paper"))
            inner = QPainter(self._layer)
            self.draw(inner)
            inner.end()
        corner = QRectF(seen.x() * ratio, seen.y() * ratio, seen.width() * ratio, seen.height() * ratio)
        p.drawPixmap(QRectF(seen), self._layer, corner)

    def draw_message(self, p: QPainter, message: str) -> None:
        """Words where there is nothing to draw yet."""
        p.setPen(self.palette_.color("faint"))
        p.drawText(
            self.rect().adjusted(12, 0, -12, 0), Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, message
        )

    @property
    def dragging(self) -> bool:
        """Whether something is held by the mouse here."""
        return False

    def let_go(self) -> None:
        """Escape was pressed while something was dragged: all is to be as it was."""

    def event(self, e: QEvent | None) -> bool:
        # while something is dragged Escape is ours, whatever it does elsewhere
        if isinstance(e, QKeyEvent) and e.key() == Qt.Key.Key_Escape and self.dragging:
            if e.type() == QEvent.Type.ShortcutOverride:
                e.accept()
                return True
            if e.type() == QEvent.Type.KeyPress:
                self.let_go()
                return True
        return super().event(e)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        p = QPainter(self)
        self.paint_ground(p, event.rect() if event is not None else self.rect())
        self.draw_over(p)
        if self.hasFocus():
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.setPen(QPen(self.palette_.color("hand"), 2))
            p.drawRect(self.rect().adjusted(1, 1, -1, -1))
        p.end()


class TimeView(View):
    """A view of the whole track from left to right; all of them share one scale, so that they line up."""

    def __init__(self, name: str, description: str) -> None:
        super().__init__(name, description)
        self.duration = 0.0
        self.position = 0.0

    def x_of(self, time: Any) -> Any:
        """Horizontal place of a time, or of an array of them, px."""
        return MARGIN + time / max(self.duration, 1e-9) * (self.width() - MARGIN - 8)

    def time_of(self, x: float) -> float:
        """Time at a horizontal place, s; never outside the track."""
        return min(max((x - MARGIN) / max(1, self.width() - MARGIN - 8) * self.duration, 0.0), self.duration)

    def set_position(self, position: float) -> None:
        """Move the playhead; repaints two narrow strips only."""
        for t in (self.position, position) if self.duration else ():
            self.update(int(self.x_of(t)) - 3, 0, 7, self.height())
        self.position = position

    def draw_label(self, p: QPainter, top: float, height: float, text: str) -> None:
        """Words in the left margin."""
        p.setPen(self.palette_.color("faint"))
        align = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight
        p.drawText(QRectF(0, top, MARGIN - 6, height), align, text)

    def draw_over(self, p: QPainter) -> None:
        """The playhead: a line from top to bottom."""
        if not self.duration:
            return
        x = self.x_of(self.position)
        p.setPen(QPen(self.palette_.color("ink"), 2))
        p.drawLine(QPointF(x, 0), QPointF(x, self.height()))


class DragView(View):
    """A view in which something is dragged; Escape lets go and leaves all as it was."""

    dropped = pyqtSignal()

    def __init__(self, name: str, description: str) -> None:
        super().__init__(name, description)
        self._drag: Any = None

    @property
    def dragging(self) -> bool:
        return self._drag is not None

    def let_go(self) -> None:
        self._drag = None
        self.dropped.emit()

    def forget(self) -> None:
        """What a hand held is not there any more: nothing is held."""
        self._drag = None


class PinView(DragView):
    """A view in which pins are dragged."""

    @staticmethod
    def snaps(e: QMouseEvent) -> bool:
        """Whether what is dragged goes to attacks: always, but while Shift is held."""
        return not e.modifiers() & Qt.KeyboardModifier.ShiftModifier


def draw_part(p: QPainter, view: TimeView, part: tuple[float, float] | None, top: float, bottom: float) -> None:
    """The part that a person chose: a veil of the hand's colour between two strokes."""
    if part is None:
        return
    pal = view.palette_
    a, b = view.x_of(part[0]), view.x_of(part[1])
    p.fillRect(QRectF(a, top, b - a, bottom - top), pal.color("hand", 0.14))
    p.setPen(QPen(pal.color("hand"), 1.5))
    for x in (a, b):
        p.drawLine(QPointF(x, top), QPointF(x, bottom))
