"""How soon a pad is heard: from its message, in the thread of its cable, to the command that it asks for.

    .venv/bin/python bench/pads.py

Target: 5 ms. Messages come at uneven times while the window rests, while it plays in Align, and while four recordings
are heard in the background. Also: how far a tap's time is from its message's while the window is held up for 200 ms.
"""

from __future__ import annotations

import os
import sys
import tempfile
import threading
import time
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT))
MESSAGES, DEVICE = 400, "Bench"


def main() -> None:
    """The figures."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    with tempfile.TemporaryDirectory() as folder:
        os.environ["MERVID_DATA"] = folder
        measure(Path(folder))


def measure(home: Path) -> None:
    """In a library of its own."""
    import numpy as np
    from PyQt6.QtCore import QEventLoop, QSettings, QTimer
    from PyQt6.QtWidgets import QApplication

    from mervid import places
    from mervid.core.pads.messages import NOTE, Control
    from mervid.core.pads.pad_map import PadMap, Press, Request
    from mervid.desk.app import make_window
    from mervid.desk.pads.ports import Ports
    from mervid.desk.session.session import Session
    from mervid.desk.sound.output import SilentClock
    from mervid.desk.sound.player import Player
    from mervid.store.library import Library

    app = QApplication(["mervid-bench"])
    QSettings.setDefaultFormat(QSettings.Format.IniFormat)
    QSettings.setPath(QSettings.Format.IniFormat, QSettings.Scope.UserScope, str(home))
    player = Player(clock=SilentClock(), look_for_device=False)
    session = Session(Library(home / "library.sqlite"), home, player, workers=1, ports=Ports(look=False))
    window = make_window(session)
    window.show()

    class Cable:
        def send(self, data: bytes) -> None: ...

        def close(self) -> None: ...

    pads = session.pads
    pads.maps[DEVICE] = PadMap(DEVICE, (Press(Control(NOTE, 1, 36), Request("tap", "beat")),))
    pads.ports.plug(DEVICE, Cable())
    took: list[float] = []
    window._handlers["tap"] = lambda _: took.append(1000 * pads.ago)

    def spin(seconds: float) -> None:
        # the event loop itself, as the program runs: asking for events again and again would wait between them
        loop = QEventLoop()
        QTimer.singleShot(int(1000 * seconds), loop.quit)
        loop.exec()

    def strike(name: str) -> None:
        took.clear()
        rng = np.random.default_rng(1)
        waits = rng.uniform(0.004, 0.03, MESSAGES)

        def hands() -> None:
            for wait in waits:
                time.sleep(wait)
                pads.ports.receive(DEVICE, bytes([0x90, 36, 90]))

        thread = threading.Thread(target=hands)
        thread.start()
        spin(float(waits.sum()) + 2.5)
        thread.join()
        at = np.array(took)
        shares = ", ".join(f"{q} % {np.percentile(at, q):.2f}" for q in (50, 95, 99))
        print(
            f"{name}: {len(at)} of {MESSAGES} heard; {shares}, worst {at.max():.1f} ms; {np.mean(at <= 5):.3f} in 5 ms"
        )

    strike("empty library, at rest")
    files = sorted(places.demo_folder().glob("*.ogg"))
    session.queue.add_files(files[:2])
    end = time.monotonic() + 120
    while (session.queue.pool.busy or not session.reports.fresh) and time.monotonic() < end:
        spin(0.05)
    window.go_to_stage("align")
    spin(0.5)
    strike("a track in Align, at rest")
    player.play()
    strike("playing in Align")
    player.pause()
    session.queue.add_files(files[2:6])
    spin(0.3)
    strike("while recordings are heard")
    took.clear()
    for _ in range(5):
        sent = threading.Thread(target=pads.ports.receive, args=(DEVICE, bytes([0x90, 36, 90])))
        sent.start()
        sent.join()
        # nothing is carried out meanwhile
        time.sleep(0.2)
        app.processEvents()
    print(f"a tap while the window is held up for 200 ms is put {np.median(took):.1f} ms back (200 is right)")
    window.close()


if __name__ == "__main__":
    main()
