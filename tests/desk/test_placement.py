"""The window fits the space that a desktop leaves, at the sizes of common screens, whatever it was kept for."""

from __future__ import annotations

import json
import os
import shutil
import subprocess
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

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


needs_screen = pytest.mark.skipif(
    not (shutil.which("Xvfb") and shutil.which("openbox")), reason="no screen here: apt-get install xvfb openbox"
)


@contextmanager
def screen_with_manager(folder: Path, size: tuple[int, int]) -> Iterator[str]:
    """A screen of its own with a window manager; its name."""
    reading, writing = os.pipe()
    server = subprocess.Popen(
        ["Xvfb", "-displayfd", str(writing), "-screen", "0", f"{size[0]}x{size[1]}x24", "-nolisten", "tcp"],
        pass_fds=(writing,), stderr=subprocess.DEVNULL,
    )  # fmt: skip
    os.close(writing)
    with os.fdopen(reading) as number:
        name = f":{number.readline().strip()}"
    env = os.environ | {"DISPLAY": name, "HOME": str(folder)}
    manager = subprocess.Popen(["openbox"], env=env, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    try:
        yield name
    finally:
        for one in (manager, server):
            one.terminate()
            one.wait()


@needs_screen
@pytest.mark.parametrize(
    ("size", "scale"),
    [((1024, 768), 1.0), ((1280, 720), 1.0), ((1280, 800), 1.0), ((1366, 768), 1.25), ((1920, 1080), 2.0)],
)
def test_with_a_window_manager_all_of_it_lies_on_the_screen(
    tmp_path: Path, size: tuple[int, int], scale: float
) -> None:
    with screen_with_manager(tmp_path, size) as name:
        env = os.environ | {
            "DISPLAY": name, "QT_QPA_PLATFORM": "xcb", "QT_SCALE_FACTOR": str(scale), "MERVID_DATA": str(tmp_path),
            "MERVID_CACHE": str(tmp_path), "PULSE_SERVER": "none", "HOME": str(tmp_path),
        }  # fmt: skip
        done = subprocess.run(
            [sys.executable, "-m", "tests.desk.framed", str(tmp_path)],
            env=env, capture_output=True, text=True, timeout=120, check=False,
        )  # fmt: skip
    if "could not load the Qt platform plugin" in done.stderr.lower():
        pytest.skip("this machine lacks libraries of the screen's: apt-get install libxcb-cursor0")
    assert done.returncode == 0, done.stderr
    first, second = json.loads(done.stdout)
    for start in (first, second):
        outer, space, inner = (QRect(*start[key]) for key in ("outer", "space", "inner"))
        # the title bar is there, and counted
        assert inner.top() > outer.top()
        assert space.contains(outer), start
        # the transport, at the bottom, is whole
        assert start["bottom"] <= inner.height()
