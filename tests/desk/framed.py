"""Started by `test_placement.py` on a screen with a window manager: opens the real window and tells where it lies.

    python -m tests.desk.framed FOLDER

Prints JSON: the window with its frame, the space the desktop leaves, and what is left of it on the second start, for
which the window was kept larger than the screen.
"""

from __future__ import annotations

import json
import sys
from pathlib import Path

from PyQt6.QtCore import QEventLoop, QRect, QSettings, QTimer
from PyQt6.QtWidgets import QApplication

from mervid.desk.app import make_window, place_as_kept
from mervid.desk.pads.ports import Ports
from mervid.desk.session.session import Session
from mervid.desk.sound.output import SilentClock
from mervid.desk.sound.player import Player
from mervid.store.library import Library

SETTLES_MS = 1500
"""Longer than a window manager takes to put its frame around a window, and `placement` to answer to it."""


def place(home: Path, kept: QRect | None) -> dict[str, object]:
    """Open a window, wait for its frame, and tell where it lies; then close it as it would be kept for `kept`."""
    player = Player(clock=SilentClock(lambda: 0.0), look_for_device=False)
    window = make_window(Session(Library(home / "library.sqlite"), home, player, ports=Ports(look=False)))
    place_as_kept(window)
    window.show()
    loop = QEventLoop()
    QTimer.singleShot(SETTLES_MS, loop.quit)
    loop.exec()
    outer, screen = window.frameGeometry(), window.screen()
    assert screen is not None
    said: dict[str, object] = {
        "outer": outer.getRect(),
        "inner": window.geometry().getRect(),
        "space": screen.availableGeometry().getRect(),
        "bottom": window.transport.mapTo(window, window.transport.rect().bottomLeft()).y(),
    }
    if kept is not None:
        window.setGeometry(kept)
    window.close()
    return said


def main() -> None:
    """Two starts."""
    home = Path(sys.argv[1])
    QSettings.setDefaultFormat(QSettings.Format.IniFormat)
    QSettings.setPath(QSettings.Format.IniFormat, QSettings.Scope.UserScope, str(home))
    app = QApplication(["mervid-test"])
    print(json.dumps([place(home, QRect(-300, -200, 2400, 1500)), place(home, None)]))
    app.quit()


if __name__ == "__main__":
    main()
