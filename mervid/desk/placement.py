"""Where the window is on the screen: whole, with its frame, inside the space that the desktop leaves."""

from __future__ import annotations

from PyQt6.QtCore import QMargins, QRect, QSize, QTimer
from PyQt6.QtGui import QGuiApplication
from PyQt6.QtWidgets import QWidget

USUAL_FRAME = QMargins(4, 34, 4, 4)
"""Px of a title bar and borders, before the window manager has told its own; common practice, no source."""
TRIES = 4
"""Looks at the frame, `SETTLES_MS` apart: a manager may move a window after it has framed it."""
SETTLES_MS = 150
"""A window manager has put its frame around a new window by then."""


def inside(wanted: QRect, space: QRect, frame: QMargins) -> QRect:
    """The geometry of a window, without its frame, that is nearest to `wanted` and lies inside `space` with its frame.

    >>> inside(QRect(0, 0, 1280, 800), QRect(0, 0, 1280, 760), QMargins(1, 30, 1, 1))
    PyQt6.QtCore.QRect(1, 30, 1278, 729)
    """
    room = space.marginsRemoved(frame)
    size = wanted.size().boundedTo(room.size())
    left = max(room.left(), min(wanted.left(), room.right() + 1 - size.width()))
    top = max(room.top(), min(wanted.top(), room.bottom() + 1 - size.height()))
    return QRect(left, top, size.width(), size.height())


def fit(window: QWidget, least: QSize) -> None:
    """Move and shrink a window that is larger than the space its screen leaves, or beyond it.

    Parameters
    ----------
    least : the smallest size that the window should have where there is room for it
    """
    # a window that was kept for a screen that is gone comes to the one there is
    screen = QGuiApplication.screenAt(window.geometry().center()) or window.screen() or QGuiApplication.primaryScreen()
    if screen is None or window.isMaximized() or window.isFullScreen():
        return
    outer, inner = window.frameGeometry(), window.geometry()
    frame = QMargins(
        inner.left() - outer.left(), inner.top() - outer.top(),
        outer.right() - inner.right(), outer.bottom() - inner.bottom(),
    )  # fmt: skip
    if frame.isNull() and not window.isVisible():
        frame = USUAL_FRAME
    space = screen.availableGeometry()
    window.setMinimumSize(least.boundedTo(space.marginsRemoved(frame).size()))
    fitted = inside(inner, space, frame)
    if fitted != inner:
        window.setGeometry(fitted)


def fit_first(window: QWidget, least: QSize) -> None:
    """Fit a window before it is shown, and again once its frame is known: managers answer in their own way."""
    fit(window, least)
    timer = QTimer(window)
    left = [TRIES]

    def again() -> None:
        fit(window, least)
        left[0] -= 1
        if not left[0]:
            timer.deleteLater()

    timer.timeout.connect(again)
    timer.start(SETTLES_MS)
