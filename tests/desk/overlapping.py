"""Finding texts that lie over each other: what widgets paint, and labels and buttons beside each other."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator
from contextlib import contextmanager
from itertools import combinations, count
from typing import Any

from PyQt6 import sip
from PyQt6.QtCore import QPointF, QRect, QRectF
from PyQt6.QtGui import QColor, QFontMetricsF, QPainter, QPaintEvent
from PyQt6.QtWidgets import QWidget

from mervid.desk.views.base import Backdrop, View

SLACK = 2.0
"""Px that letters may reach into each other's boxes: boxes hold room that letters don't use."""
_LETTER = 4.0
"""Px; nothing narrower hides a word."""
Drawn = tuple[QRectF, str]
Key = tuple[int, int]
"""What is painted: which painting of which view, or addresses of a painter and of what it draws on."""


def _box(painter: QPainter, args: tuple[Any, ...]) -> tuple[QRectF, str]:
    """Where the letters of one call of `drawText` lie, before any transform, and what they are."""
    metrics = QFontMetricsF(painter.font())
    if isinstance(args[0], int | float):
        x, y, text = args[0], args[1], args[2]
        if not isinstance(text, str):
            # a box in four numbers
            return painter.boundingRect(QRectF(*args[:4]), args[4], args[5]), args[5]
        return metrics.tightBoundingRect(text).translated(x, y), text
    if isinstance(args[0], QRectF) or hasattr(args[0], "width"):
        area, text = QRectF(args[0]), next(a for a in args if isinstance(a, str))
        flags = args[1] if len(args) > 2 and args[1] is not text else None
        whole = painter.boundingRect(area, int(flags), text) if flags is not None else area
        ink = metrics.tightBoundingRect(text)
        if whole.height() < 1.5 * metrics.height():
            # one line: its letters, not the room between lines
            whole = QRectF(whole.left(), whole.top() + metrics.ascent() + ink.top(), whole.width(), ink.height())
        return whole, text
    return metrics.tightBoundingRect(args[1]).translated(QPointF(args[0])), args[1]


@contextmanager
def recorded() -> Iterator[list[tuple[Key, QRectF, str]]]:
    """All texts that painters draw meanwhile, in the pixels of what they are drawn on."""
    out: list[tuple[Key, QRectF, str]] = []
    # a plain attribute would not be bound to its painter when it is put back
    assert QPainter.drawText is not None and QPainter.fillRect is not None
    draw = QPainter.__dict__["drawText"]

    def key_of(painter: QPainter) -> Key:
        # a view may paint through pictures that it keeps: all of it lies in its own pixels
        return views[-1] if views else (sip.unwrapinstance(painter), sip.unwrapinstance(painter.device()))

    def noted(painter: QPainter, *args: Any) -> Any:
        box, text = _box(painter, args)
        there = painter.combinedTransform().mapRect(box)
        if painter.hasClipping():
            there &= painter.combinedTransform().mapRect(painter.clipBoundingRect())
        if (on := painter.device()) is not None:
            ratio = on.devicePixelRatio()
            there &= QRectF(0, 0, on.width() / ratio, on.height() / ratio)
        if text.strip() and painter.opacity() > 0.05 and painter.pen().color().alpha() > 10:
            out.append((key_of(painter), there, text))
        return draw.__get__(painter)(*args)

    fill = QPainter.__dict__["fillRect"]

    def covered(painter: QPainter, *args: Any) -> Any:
        """Text that is painted over is not seen any more."""
        colour = args[-1] if isinstance(args[-1], QColor) else None
        if colour is not None and colour.alpha() > 200 and isinstance(args[0], QRect | QRectF):
            box = painter.combinedTransform().mapRect(QRectF(args[0]))
            if box.width() > _LETTER and box.height() > SLACK:
                key = key_of(painter)
                for i, (k, there, text) in enumerate(out):
                    if k == key and there.intersects(box):
                        out[i] = key, left_of(there, box), text
        return fill.__get__(painter)(*args)

    views: list[Key] = []
    painted = count(1)
    paint = View.paintEvent

    def in_a_view(view: View, event: QPaintEvent | None) -> None:
        views.append((next(painted), id(view)))
        paint(view, event)
        views.pop()

    QPainter.fillRect = covered  # type: ignore[method-assign,assignment]
    QPainter.drawText = noted  # type: ignore[method-assign,assignment]
    View.paintEvent = in_a_view  # type: ignore[method-assign]
    try:
        yield out
    finally:
        QPainter.fillRect = fill  # type: ignore[method-assign]
        QPainter.drawText = draw  # type: ignore[method-assign]
        View.paintEvent = paint  # type: ignore[method-assign]


def left_of(there: QRectF, box: QRectF) -> QRectF:
    """What of a text is still seen once `box` is painted over it, where that is an upper or lower part of it."""
    if box.left() > there.left() or box.right() < there.right():
        return there
    if box.contains(there.topLeft()) and box.bottom() < there.bottom():
        return QRectF(there.left(), box.bottom(), there.width(), there.bottom() - box.bottom())
    if box.contains(there.bottomLeft()) and box.top() > there.top():
        return QRectF(there.left(), there.top(), there.width(), box.top() - there.top())
    return QRectF() if box.contains(there) else there


def over_each_other(texts: list[Drawn]) -> list[str]:
    """Which of the texts reach into each other by more than `SLACK` px either way.

    The same text twice at one place is one that is painted bolder.
    """
    out = []
    for (a, one), (b, two) in combinations(texts, 2):
        shared = a & b
        if min(shared.width(), shared.height()) > SLACK and one != two:
            out.append(f"'{one}' and '{two}' share {shared.width():.0f} x {shared.height():.0f}")
    return out


def overlapping(root: QWidget) -> list[str]:
    """What lies over each other in a window, painted anew."""
    for view in [*([root] if isinstance(root, View) else []), *root.findChildren(View)]:
        view.refresh()
        for kept in vars(view).values():
            if isinstance(kept, Backdrop):
                kept.forget()
    with recorded() as drawn:
        root.grab()
    by_painter: dict[Key, list[Drawn]] = defaultdict(list)
    for key, there, text in drawn:
        by_painter[key].append((there, text))
    return sorted({words for texts in by_painter.values() for words in over_each_other(texts)})
