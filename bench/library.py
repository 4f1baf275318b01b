"""How the window bears a large library: the same actions with 8 tracks and with 50,000, side by side in one run.

    .venv/bin/python bench/library.py [TRACKS ...]

Each size runs in a process of its own, twice, in turn. Times are medians in ms; the last column is the largest size
over the smallest. Targets: painted 1.5 times, an edit 1.3 times, switching 1.5 times, a file added 5 ms, no stall over
50 ms while 5,000 files are dropped.
"""

from __future__ import annotations

import json
import os
import sqlite3
import subprocess
import sys
import tempfile
import time
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT))
SIZES = (8, 50_000)
DROPPED = 5_000


def make_library(home: Path, tracks: int) -> None:
    """A library in which one demo recording stands under many names, each with its own preparation."""
    from mervid import places
    from mervid.core.fitting import proposal
    from mervid.core.hearing import analysis, evidence
    from mervid.store.library import Library

    path = places.demo_folder() / "Copper Ferry.ogg"
    facts, drawn, heap = analysis.decode(path, lambda block: None, progress=lambda part: None)
    found = analysis.conclude(heap, progress=lambda part: None)
    library = Library(home / "library.sqlite")
    track, _ = library.add(path)
    library.set_decoded(track.id, facts)
    library.set_evidence(track.id, evidence.to_bytes(found), drawn.to_bytes(), proposal.propose(found.heard, 97.0))
    library.close()
    with sqlite3.connect(home / "library.sqlite") as db:
        columns = [r[1] for r in db.execute("PRAGMA table_info(tracks)") if r[1] not in ("id", "path", "title")]
        same = ", ".join(columns)
        db.executemany(
            f"INSERT INTO tracks (id, path, title, {same}) SELECT ?, ?, ?, {same} FROM tracks WHERE id=?",
            [(n, f"/music/{n}.ogg".encode(), f"Lantern {n}", track.id) for n in range(2, tracks + 1)],
        )
        db.execute(
            "INSERT INTO history SELECT t.id, 0, h.name, h.made, h.value FROM history h, tracks t WHERE t.id > 1"
        )
        # evidence of a few is enough to open them
        db.execute(
            "INSERT INTO evidence SELECT t.id, e.version, e.heard, e.waveform FROM evidence e, tracks t "
            "WHERE t.id BETWEEN 2 AND 8"
        )


def measure(home: Path) -> dict[str, float]:
    """Medians in ms of what a person waits for."""
    import numpy as np
    from PyQt6.QtCore import QElapsedTimer, QSettings, QTimer
    from PyQt6.QtWidgets import QApplication

    from mervid.core.edits import grid_edits
    from mervid.desk.app import make_window
    from mervid.desk.session.session import Session
    from mervid.desk.sound.output import SilentClock
    from mervid.desk.sound.player import Player
    from mervid.store.library import Library

    app = QApplication(["mervid-bench"])
    QSettings.setDefaultFormat(QSettings.Format.IniFormat)
    QSettings.setPath(QSettings.Format.IniFormat, QSettings.Scope.UserScope, str(home))
    out: dict[str, float] = {}

    def settle() -> None:
        for _ in range(4):
            app.processEvents()

    began = time.perf_counter()
    session = Session(Library(home / "library.sqlite"), home, Player(clock=SilentClock(), look_for_device=False))
    session.queue.pool._feed = lambda: None  # type: ignore[method-assign]
    window = make_window(session)
    window.show()
    settle()
    session.open(window.list.tracks.ids[0])
    settle()
    out["painted"] = 1000 * (time.perf_counter() - began)

    def wait_for_report() -> None:
        end = time.monotonic() + 20
        while not session.reports.fresh and time.monotonic() < end:
            app.processEvents()
            time.sleep(0.002)

    wait_for_report()
    times = []
    for k in range(15):
        began = time.perf_counter()
        session.track.apply(grid_edits.slide, 1.0 if k % 2 else -1.0)
        window.repaint()
        settle()
        times.append(1000 * (time.perf_counter() - began))
    out["edit"] = float(np.median(times))
    times = []
    for k in range(12):
        began = time.perf_counter()
        session.open(window.list.tracks.ids[(k + 1) % 8])
        settle()
        times.append(1000 * (time.perf_counter() - began))
    out["switch"] = float(np.median(times))
    folder = home / "new"
    folder.mkdir()
    times = []
    for k in range(15):
        path = folder / f"one {k}.wav"
        path.write_bytes(b"RIFF")
        began = time.perf_counter()
        session.catalogue.add([path])
        settle()
        times.append(1000 * (time.perf_counter() - began))
    out["file added"] = float(np.median(times))
    for k in range(DROPPED):
        (folder / f"many {k}.wav").touch()
    late: list[float] = []
    since, beat = QElapsedTimer(), QTimer()
    beat.setInterval(4)
    beat.timeout.connect(lambda: late.append(since.restart() - 4))
    before = len(window.list.tracks.ids)
    since.start()
    beat.start()
    began = time.perf_counter()
    session.queue.add_files([folder])
    while len(window.list.tracks.ids) < before + DROPPED or session.queue._due:
        app.processEvents()
    settle()
    beat.stop()
    out["5,000 dropped, all"] = 1000 * (time.perf_counter() - began)
    out["5,000 dropped, worst stall"] = max(late)
    window.close()
    return out


def main() -> int:
    """The table."""
    sizes = [int(a) for a in sys.argv[1:]] or list(SIZES)
    env = os.environ | {"QT_QPA_PLATFORM": os.environ.get("QT_QPA_PLATFORM", "offscreen"), "PYTHONPATH": str(ROOT)}
    found: dict[int, list[dict[str, float]]] = {n: [] for n in sizes}
    with tempfile.TemporaryDirectory() as base:
        for n in sizes:
            home = Path(base, str(n))
            home.mkdir()
            make_library(home, n)
        for turn in range(2):
            for n in sizes:
                home = Path(base, f"{n}-{turn}")
                home.mkdir()
                (home / "library.sqlite").write_bytes(Path(base, str(n), "library.sqlite").read_bytes())
                done = subprocess.run(
                    [sys.executable, __file__, "--measure", str(home)],
                    env=env,
                    capture_output=True,
                    text=True,
                    check=True,
                )
                found[n].append(json.loads(done.stdout.splitlines()[-1]))
    print(f"{'ms':28}" + "".join(f"{n:>12,}" for n in sizes) + f"{'ratio':>9}")
    for name in found[sizes[0]][0]:
        row = [min(turn[name] for turn in found[n]) for n in sizes]
        print(f"{name:28}" + "".join(f"{x:12.1f}" for x in row) + f"{row[-1] / max(row[0], 1e-9):9.2f}")
    return 0


if __name__ == "__main__":
    if sys.argv[1:2] == ["--measure"]:
        print(json.dumps(measure(Path(sys.argv[2]))))
    else:
        sys.exit(main())
