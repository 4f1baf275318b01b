"""Speed of the window and of analysis: `.venv/bin/python bench/speed.py [--minutes N]`.

Start-up to a painted window; CPU and peak memory of analysing N minutes of band music; time of one frame while a pin is
dragged (edit, fold, trace, close-up and readings repainted), also with a hand pin on every beat; opening a prepared
track until it is painted; saving an edit; stalls of the window while two recordings are analysed.
These machines are noisy: compare figures of one run only.
"""

from __future__ import annotations

import argparse
import os
import re
import resource
import subprocess
import sys
import tempfile
import time
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT))

ANALYSE = """
import sys, time, resource
from pathlib import Path
from mervid.core.hearing import analysis
began = time.process_time()
facts, found = analysis.analyse(Path(sys.argv[1]))
cpu = time.process_time() - began
peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
print(f"analysis of {facts.duration / 60:.1f} min: {cpu:.1f} s CPU, {cpu / facts.duration * 60:.2f} s/min, "
      f"peak {peak:.0f} MB, {len(found.heard.times)} beats")
"""


def start_up(home: Path) -> None:
    """Seconds from the process's start to the first paint, five starts."""
    env = os.environ | {
        "MERVID_DATA": str(home),
        "MERVID_CACHE": str(home),
        "MERVID_LOG": "INFO",
        "MERVID_QUIT_AFTER": "1",
    }
    found = []
    for _ in range(6):
        done = subprocess.run(
            [sys.executable, "-m", "mervid"], env=env, capture_output=True, text=True, cwd=ROOT, check=False
        )
        match = re.search(r"Painted ([\d.]+) s", done.stderr)
        if match:
            found.append(float(match[1]))
    print(f"start-up to a painted window: {sorted(found[1:])} s (first, cold: {found[0]:.2f} s)")


def long_recording(path: Path, minutes: float) -> None:
    """Write `minutes` of the demo set, end to end, as Ogg Vorbis."""
    import numpy as np
    import soundfile

    from mervid import places
    from mervid.core.sound import decoding

    parts = [decoding.read(p)[0] for p in sorted(places.demo_folder().glob("*.ogg"))]
    music = np.concatenate([p if p.shape[1] == 2 else np.repeat(p, 2, axis=1) for p in parts])
    left = round(minutes * 60 * 44_100)
    with soundfile.SoundFile(path, "w", 44_100, 2, format="OGG", subtype="VORBIS") as f:
        while left > 0:
            for i in range(0, min(len(music), left), 65_536):
                f.write(music[i : min(i + 65_536, left)])
            left -= len(music)


def frames_and_stalls(home: Path) -> None:
    """Frame times while a pin is dragged, and how late the window's heartbeat is while two recordings are heard."""
    import numpy as np
    from PyQt6.QtCore import QElapsedTimer, QTimer
    from PyQt6.QtWidgets import QApplication

    from mervid import places
    from mervid.desk.app import make_window
    from mervid.desk.session.session import Session
    from mervid.desk.sound.output import SilentClock
    from mervid.desk.sound.player import Player
    from mervid.store.library import Library

    app = QApplication(["mervid-bench"])
    session = Session(Library(home / "speed.sqlite"), home, Player(clock=SilentClock()))
    window = make_window(session)
    window.show()
    # as the program does after its first paint
    warm: list[None] = []
    session.warm_up.done.connect(lambda: warm.append(None))
    session.warm_up.start()
    while not warm:
        app.processEvents()
        time.sleep(0.001)
    tracks = sorted(places.demo_folder().glob("*.ogg"))

    late: list[float] = []
    since = QElapsedTimer()
    beat = QTimer()
    beat.setInterval(8)
    beat.timeout.connect(lambda: late.append(since.restart() - 8))

    def spin(until) -> None:  # type: ignore[no-untyped-def]
        while not until():
            app.processEvents()
            time.sleep(0.0005)

    app.processEvents()
    since.start()
    beat.start()
    session.queue.add_files([*tracks[:1], home / "long.ogg"])
    spin(lambda: not session.queue.pool.busy)
    beat.stop()
    x = np.array(late)
    print(
        f"window while two recordings are analysed: heartbeat late by {np.median(x):.0f} ms median, "
        f"{np.percentile(x, 99):.0f} ms p99, {x.max():.0f} ms worst; over 50 ms: {np.sum(x > 50)} of {len(x)}"
    )
    for title in (tracks[0].stem, "long"):
        session.open(next(t.id for t in window.session.library.tracks() if t.title == title))
        spin(lambda: len(session.offers.found) == 2)
        window.ask_of("align", "fit", "follow")
        spin(lambda: len(session.offers.found) == 2)
        grid = session.track.preparation.grid
        assert grid is not None
        k = len(grid.pins) // 2
        dragged(window, app, grid.pins[k], title)
    every_beat(window, app, spin)
    print(f"window's peak memory: {resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024:.0f} MB")
    window.close()


def dragged(window, app, pin, title: str) -> None:  # type: ignore[no-untyped-def]
    """Frames while a pin is dragged about its place."""
    import numpy as np

    from mervid.core.edits import grid_edits

    session, fold = window.session, window.stages["align"].view.fold
    session.player.seek(pin.time)
    app.processEvents()
    times = []
    for step in range(120):
        began = time.perf_counter()
        session.track.preview.show(
            "drag", grid_edits.add_pin(session.track.preparation, pin.beat, pin.time + 0.01 * np.sin(step / 9))
        )
        app.processEvents()
        times.append(1000 * (time.perf_counter() - began))
    session.track.preview.clear()
    print(
        f"dragging a pin, {title}, {len(session.track.preparation.grid.pins)} pins, {len(fold.rows.first)} rows: "
        f"{np.median(times):.1f} ms a frame median, {np.percentile(times, 95):.1f} ms p95"
    )


def every_beat(window, app, spin) -> None:  # type: ignore[no-untyped-def]
    """The long track with a hand pin on every beat: dragging, saving an edit, opening it again."""
    import numpy as np

    from mervid.core.edits import grid_edits, part_edits

    session = window.session
    track = session.track.row.id
    session.track.apply(part_edits.pin_every, session.track.heard, part_edits.Edges(None, None), 1.0)
    spin(lambda: len(session.offers.found) == 2)
    pins = session.track.preparation.grid.pins
    dragged(window, app, pins[len(pins) // 2], "a hand pin on every beat")
    saved, drawn = [], []
    for step in range(30):
        began = time.perf_counter()
        value = grid_edits.slide(session.track.preparation, 1.0 if step % 2 else -1.0)
        session.library.edit(track, "Slide grid", value)
        saved.append(1000 * (time.perf_counter() - began))
        session.open(track)
        spin(lambda: len(session.offers.found) == 2)
        began = time.perf_counter()
        session.track.apply(grid_edits.slide, 0.5)
        drawn.append(1000 * (time.perf_counter() - began))
        spin(lambda: len(session.offers.found) == 2)
        if step >= 4:
            break
    print(
        f"an edit with {len(pins)} pins on disk: {np.median(saved):.0f} ms median, {max(saved):.0f} ms worst; "
        f"and everything told of it: {np.median(drawn):.0f} ms"
    )
    others = [t.id for t in window.session.library.tracks() if t.id != track]
    opened: dict[int, list[float]] = {track: [], others[0]: []}
    for _ in range(6):
        for number, times in opened.items():
            spin(lambda: session.reports.fresh or session.reports.report is not None)
            began = time.perf_counter()
            session.open(number)
            # three turns: one for each group of views
            for _ in range(3):
                app.processEvents()
            times.append(1000 * (time.perf_counter() - began))
    print(
        f"opening a prepared track until it is painted: {np.median(opened[track]):.0f} ms (this one), "
        f"{np.median(opened[others[0]]):.0f} ms (a short one)"
    )


def main() -> int:
    """Print all figures."""
    parser = argparse.ArgumentParser(description=__doc__.split("\n")[0])
    parser.add_argument("--minutes", type=float, default=10.0, help="length of the long recording")
    options = parser.parse_args()
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    for name in ("OMP_NUM_THREADS", "OPENBLAS_NUM_THREADS"):
        os.environ[name] = "1"
    with tempfile.TemporaryDirectory() as folder:
        home = Path(folder)
        start_up(home)
        long_recording(home / "long.ogg", options.minutes)
        print(
            subprocess.run(
                [sys.executable, "-c", ANALYSE, str(home / "long.ogg")],
                capture_output=True,
                text=True,
                cwd=ROOT,
                check=True,
            ).stdout.strip()
        )
        frames_and_stalls(home)
    return 0


if __name__ == "__main__":
    sys.exit(main())
