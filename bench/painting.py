"""What painting costs: playing in each stage, a repaint of the ladder, dragging a pin among 1,200, the first opening.

    .venv/bin/python bench/painting.py

Shares are of one core, at 60 frames a second on the silent clock. Targets: playing 12 %, ladder 5 ms, a drag frame
12 ms, first opening no stall over 100 ms, start to a painted window .6 s of CPU with the demo set.
"""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
import time
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT))
PLAYED_S = 6.0
BARE = """
import sys, time
from PyQt6.QtWidgets import QApplication, QMainWindow
import numpy
app = QApplication(sys.argv)
w = QMainWindow()
w.show()
app.processEvents()
print(time.process_time())
"""
STARTED = """
import sys, time
from pathlib import Path
from PyQt6.QtWidgets import QApplication
from mervid.desk.app import make_window
from mervid.desk.session.session import Session
from mervid.desk.sound.player import Player
from mervid.store.library import Library
if __name__ == "__main__":
    app = QApplication(sys.argv)
    home = Path(sys.argv[1])
    window = make_window(Session(Library(home / "library.sqlite"), home, Player(look_for_device=False)))
    window.show()
    app.processEvents()
    print(time.process_time())
    window.close()
"""


def start_up(home: Path, env: dict[str, str]) -> None:
    """CPU from the start of the process to the first paint, the least of five, beside a bare window's."""
    told = {}
    for name, program, args in (("bare PyQt6 + numpy", BARE, []), ("Mervid, demo set", STARTED, [str(home)])):
        runs = [
            float(subprocess.run([sys.executable, "-c", program, *args], env=env, capture_output=True, text=True,
                                 check=True).stdout.split()[-1])
            for _ in range(5)
        ]  # fmt: skip
        told[name] = min(runs)
    print("start to a painted window, s CPU: " + ", ".join(f"{name} {x:.2f}" for name, x in told.items()))


def main() -> None:
    """The figures."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    import numpy as np
    from PyQt6.QtCore import QElapsedTimer, QEventLoop, QSettings, QTimer
    from PyQt6.QtWidgets import QApplication

    from mervid import places
    from mervid.core.edits import grid_edits, part_edits
    from mervid.desk.app import make_window
    from mervid.desk.session.preview import DRAG
    from mervid.desk.session.session import Session
    from mervid.desk.sound.output import SilentClock
    from mervid.desk.sound.player import Player
    from mervid.store.library import Library

    app = QApplication(["mervid-bench"])
    with tempfile.TemporaryDirectory() as folder:
        home = Path(folder)
        QSettings.setDefaultFormat(QSettings.Format.IniFormat)
        QSettings.setPath(QSettings.Format.IniFormat, QSettings.Scope.UserScope, folder)
        session = Session(Library(home / "library.sqlite"), home, Player(clock=SilentClock(), look_for_device=False))
        window = make_window(session)
        window.show()

        def spin(until, limit: float = 120.0) -> None:  # type: ignore[no-untyped-def]
            end = time.monotonic() + limit
            while not until() and time.monotonic() < end:
                app.processEvents()
                time.sleep(0.001)

        late: list[float] = []
        since, beat = QElapsedTimer(), QTimer()
        beat.setInterval(4)
        beat.timeout.connect(lambda: late.append(since.restart() - 4))
        since.start()
        beat.start()
        warm: list[None] = []
        session.warm_up.done.connect(lambda: warm.append(None))
        session.warm_up.start()
        spin(lambda: bool(warm))
        session.queue.add_files(sorted(places.demo_folder().glob("*.ogg")))
        spin(lambda: not session.queue.pool.busy and session.reports.fresh)
        beat.stop()
        print(f"while the demo set is taken in, heard and shown: worst stall {max(late):.0f} ms of {len(late)} beats")
        ferry = next(t.id for t in session.library.tracks() if t.title == "Copper Ferry")
        session.open(ferry)
        spin(lambda: session.reports.fresh)
        window.ask_of("align", "fit", "follow")
        spin(lambda: session.reports.fresh)
        for key in window.stages:
            window.go_to_stage(key)
            session.player.seek(20.0)
            spin(lambda: False, 0.3)
            frames: list[float] = []
            session.player.moved.connect(frames.append)
            session.player.play()
            began, cpu = time.perf_counter(), time.process_time()
            loop = QEventLoop()
            QTimer.singleShot(int(PLAYED_S * 1000), loop.quit)
            loop.exec()
            wall, cpu = time.perf_counter() - began, time.process_time() - cpu
            session.player.pause()
            session.player.moved.disconnect(frames.append)
            rate = len(frames) / wall
            print(f"playing in {window.stages[key].title}: {cpu / wall:.0%} of a core at {rate:.0f} frames a second")
        window.go_to_stage("phrase")
        spin(lambda: False, 0.2)
        ladder = window.stages["phrase"].view.ladder  # type: ignore[attr-defined]
        times = []
        for _ in range(40):
            ladder.refresh()
            began = time.perf_counter()
            ladder.repaint()
            times.append(1000 * (time.perf_counter() - began))
        print(f"a repaint of the ladder: {np.median(times):.1f} ms median")
        drag(window, app, spin, np, grid_edits, part_edits, DRAG)
        window.close()
        env = os.environ | {"PYTHONPATH": str(ROOT)}
        start_up(home, env)


def drag(window, app, spin, np, grid_edits, part_edits, owner) -> None:  # type: ignore[no-untyped-def]
    """Frames while a pin among some 1,200 of ten minutes is dragged, in every stage."""
    from mervid.core.model.beatgrid import Grid, Pin

    session = window.session
    p = session.track.preparation
    rng = np.random.default_rng(1)
    times = 0.5 + np.cumsum(rng.normal(0.5, 0.004, 1200))
    import attrs

    from mervid.core.sound.waveform import Waveform

    rate = session.track.waveform.rate
    frames = int(620 * rate)
    drawn = np.tile(session.track.waveform.extremes, (8, 1))[: frames // 128]
    session.track.waveform = Waveform(drawn, rate, frames)
    session.track.ink = np.tile(session.track.ink, 8)
    session.track.sound_changed.emit()
    grid = Grid(tuple(Pin(float(t), float(k), hand=True) for k, t in enumerate(times)))
    session.track.commit("Bench", attrs.evolve(p, grid=grid, form=None))
    spin(lambda: False, 0.5)
    for key in window.stages:
        window.go_to_stage(key)
        session.player.seek(300.0)
        spin(lambda: False, 0.3)
        pin = grid.pins[600]
        took = []
        for step in range(60):
            began = time.perf_counter()
            value = grid_edits.add_pin(session.track.preparation, pin.beat, pin.time + 0.01 * np.sin(step / 9))
            session.track.preview.show(owner, value)
            app.processEvents()
            took.append(1000 * (time.perf_counter() - began))
        session.track.preview.clear()
        print(
            f"dragging a pin among {len(grid.pins)} in {window.stages[key].title}: "
            f"{np.median(took):.1f} ms a frame median, {np.percentile(took, 95):.1f} ms p95"
        )


if __name__ == "__main__":
    main()
