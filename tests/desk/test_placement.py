"""The window fits the space that a desktop leaves, at the sizes of common screens, whatever it was kept for."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import QMargins, QRect, QSize
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from mervid.desk.placement import fit, inside
from mervid.desk.window import LEAST, Window

FRAME = QMargins(2, 36, 2, 2)
PANEL = 28


@pytest.mark.parametrize("screen", [(1024, 768), (1280, 720), (1280, 800), (1366, 768), (2560, 1440)])
@pytest.mark.parametrize("scale", [1.0, 1.25, 1.5, 2.0])
@pytest.mark.parametrize("kept", [QRect(0, 0, 1280, 800), QRect(-400, -300, 1900, 1200), QRect(3000, 1500, 1280, 800)])
def test_frame_and_all_lie_inside_what_panels_leave(screen: tuple[int, int], scale: float, kept: QRect) -> None:
    width, height = (round(x / scale) for x in screen)
    space = QRect(0, PANEL, width, height - PANEL)
    found = inside(kept, space, FRAME)
    assert space.contains(found.marginsAdded(FRAME))
    # as large as it was, where there is room
    assert found.size() == kept.size().boundedTo(space.marginsRemoved(FRAME).size())


def test_a_window_that_has_room_stays_where_it_is() -> None:
    wanted = QRect(100, 120, 1000, 600)
    assert inside(wanted, QRect(0, 0, 1280, 800), FRAME) == wanted


def test_the_real_window_is_not_larger_than_the_screen(window: Window, qtbot: QtBot) -> None:
    """Without a screen Qt has one of 800 x 800: smaller than the least size, which gives way."""
    screen = QApplication.primaryScreen()
    assert screen is not None
    window.setGeometry(5000, 4000, 2400, 1500)
    fit(window, LEAST)
    assert screen.availableGeometry().contains(window.frameGeometry())
    window.setMinimumSize(QSize(0, 0))
