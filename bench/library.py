"""How the window bears a large library: the same actions with 8 tracks and with 50,000, side by side in one run.

    .venv/bin/python bench/library.py [TRACKS ...]

Each size runs in a process of its own, twice, in turn. Times are medians in ms; the last column is the largest size
over the smallest. 'plain' is the same done to a bare Qt table of the same rows in the same process: what cannot be gone
below. Targets: painted 1.5 times; a key press in the search 15 ms until the table is painted; sorting 60 ms; 12 ms a
frame of scrolling; an edit 1.2 times, touching one row; switching 1.5 times; a file added 5 ms; no stall over 50 ms
while 5,000 files are dropped; 50,000 paths in 60 s; 60 MB more than at 8 tracks; 300 kB on disk for 4 minutes.
"""

from __future__ import annotations

import json
import os
import sqlite3
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

from PyQt6.QtCore import QEvent, QObject, QTimer

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT))
SIZES = (8, 50_000)
DROPPED = 5_000


def make_library(home: Path, tracks: int) -> None:
    """A library in which one demo recording stands under many names, each with its own preparation."""
    import numpy as np

    from mervid import places
    from mervid.core.character.describe import describe
    from mervid.core.fitting import proposal
    from mervid.core.hearing import analysis, evidence
    from mervid.store import facts as store_facts
    from mervid.store import words as store_words
    from mervid.store.library import Library

    path = places.demo_folder() / "Copper Ferry.ogg"
    facts, drawn, heap = analysis.decode(path, lambda block: None, progress=lambda part: None)
    found = analysis.conclude(heap, progress=lambda part: None)
    library = Library(home / "library.sqlite")
    track, _ = library.add(path)
    library.set_decoded(track.id, facts)
    library.set_evidence(track.id, evidence.to_bytes(found), drawn.to_bytes(), proposal.propose(found.heard, 97.0))
    library.close()
    heard = evidence.to_bytes(found)
    facts_of = describe(found, facts.duration)
    library = Library(home / "library.sqlite")
    store_facts.set_character(library, track.id, facts_of)
    library.close()
    size = (len(heard) + len(drawn.to_bytes()) + len(facts_of.print)) * 240 / facts.duration
    (home / "track_kb").write_text(str(size / 1000))
    rng = np.random.default_rng(1)
    parts = (
        "sal",
        "ta",
        "ri",
        "mo",
        "ken",
        "du",
        "fa",
        "lo",
        "per",
        "ni",
        "ga",
        "bro",
        "chi",
        "wen",
        "tor",
        "ash",
        "vor",
    )

    def words(most: int) -> str:
        return " ".join("".join(rng.choice(parts, rng.integers(1, 4))) for _ in range(rng.integers(1, most + 1)))

    with sqlite3.connect(home / "library.sqlite") as db:
        columns = [r[1] for r in db.execute("PRAGMA table_info(tracks)") if r[1] not in ("id", "path", "title")]
        same = ", ".join(columns)
        db.executemany(
            f"INSERT INTO tracks (id, path, title, {same}) SELECT ?, ?, ?, {same} FROM tracks WHERE id=?",
            [(n, f"/music/{n}.ogg".encode(), f"{words(4)} {n}", track.id) for n in range(2, tracks + 1)],
        )
        genres = ("disco", "funk", "hip-hop", "soul", "house", "")
        db.executemany(
            "UPDATE tracks SET artists=?, album=?, genre=?, year=?, drive=?, tempo_low=tempo_low*?, "
            "tempo_high=tempo_high*?, "
            "identity='i' || id, file_tags='{}', copy=0 WHERE id=?",
            [
                (words(2), words(3), genres[rng.integers(6)], int(rng.integers(1970, 2020)), float(rng.uniform(1, 9)),
                 (k := float(rng.uniform(0.8, 1.2))), k, n)
                for n in range(1, tracks + 1)
            ],
        )  # fmt: skip
        store_words.fill(db)
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
    from PyQt6.QtCore import QElapsedTimer, QSettings
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
    session.open(int(session.shown.ids[0]))
    settle()
    out["painted"] = 1000 * (time.perf_counter() - began)

    def wait_for_report() -> None:
        end = time.monotonic() + 20
        while not session.reports.fresh and time.monotonic() < end:
            app.processEvents()
            time.sleep(0.002)

    out["memory, MB"] = memory()
    # the first words right after a track was opened, while it is still worked at; the others when that is done
    out["key press, just opened"] = max(type_words(app, window, ("sal",)))
    wait_for_report()
    out |= gather(app, window, session)
    window.go_to_stage("align")
    wait_for_report()
    touched: list[object] = []
    session.shown.touched.connect(touched.append)
    times = []
    for k in range(15):
        began = time.perf_counter()
        session.track.apply(grid_edits.slide, 1.0 if k % 2 else -1.0)
        window.repaint()
        settle()
        times.append(1000 * (time.perf_counter() - began))
    out["edit"] = float(np.median(times))
    out["rows an edit touches"] = len(set(touched))
    times = []
    for k in range(12):
        began = time.perf_counter()
        session.open(int(session.shown.ids[(k + 1) % 8]))
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
    before = len(session.shown.ids)
    since.start()
    beat.start()
    began = time.perf_counter()
    session.queue.add_files([folder])
    while len(session.shown.ids) < before + DROPPED or session.queue._due:
        app.processEvents()
    settle()
    beat.stop()
    out["5,000 dropped, all"] = 1000 * (time.perf_counter() - began)
    out["5,000 dropped, worst stall"] = max(late)
    window.close()
    return out


def memory() -> float:
    """Resident memory of this process, MB."""
    return int(Path("/proc/self/statm").read_text().split()[1]) * os.sysconf("SC_PAGE_SIZE") / 1e6


def painted(app: Any, widget: Any, act: Callable[[], object]) -> float:
    """ms from before `act` until the widget has been painted after it."""
    done: list[float] = []
    watch = Watch(done)
    widget.installEventFilter(watch)
    began = time.perf_counter()
    act()
    while not done:
        app.processEvents()
    widget.removeEventFilter(watch)
    return 1000 * (done[0] - began)


def type_words(app: Any, window: Any, words: tuple[str, ...]) -> list[float]:
    """ms of each key press in the search until the table is painted."""
    from PyQt6.QtCore import Qt
    from PyQt6.QtTest import QTest

    view = window.stages["gather"].view
    line, seen = view.search.line, view.table.viewport()
    line.setFocus()
    times: list[float] = []
    for word in words:
        times += [painted(app, seen, lambda k=k: QTest.keyClick(line, k)) for k in word]
        times.append(painted(app, seen, lambda: QTest.keyClick(line, Qt.Key.Key_Backspace)))
        line.clear()
        app.processEvents()
    return times


def gather(app: Any, window: Any, session: Any) -> dict[str, float]:
    """What a person waits for in the table, and in a bare one."""
    import numpy as np
    from PyQt6.QtCore import QAbstractTableModel, Qt
    from PyQt6.QtWidgets import QTableView

    from mervid.core.library.filters import Order, Search

    out: dict[str, float] = {}
    table = window.stages["gather"].view.table
    times = type_words(app, window, ("sal", "d", "ta", "chi"))
    out["key press in the search, worst"] = max(times)
    out["key press in the search"] = float(np.median(times))
    times = []
    for orders in (("title", False), ("tempo", True), ("drive", False), ("genre", False)):
        session.shown.finder.forget()
        times.append(painted(app, table.viewport(), lambda o=orders: session.shown.sort((Order(*o),))))
    out["sort"] = max(times)
    two = (Order("genre"), Order("title"))
    session.shown.finder.forget()
    out["sort by two"] = painted(app, table.viewport(), lambda: session.shown.sort(two))
    session.shown.ask(Search())
    app.processEvents()

    def scroll(of: Any) -> float:
        bar = of.verticalScrollBar()
        bar.setValue(0)
        app.processEvents()
        times = []
        for k in range(40):
            began = time.perf_counter()
            bar.setValue(bar.value() + 60 + 7 * k)
            of.viewport().repaint()
            times.append(1000 * (time.perf_counter() - began))
        return float(np.median(times))

    out["scroll, a frame"] = scroll(table)

    class Plain(QAbstractTableModel):
        def rowCount(self, parent: Any = None) -> int:
            return len(session.shown)

        def columnCount(self, parent: Any = None) -> int:
            return 9

        def data(self, index: Any, role: int = 0) -> Any:
            return f"Lantern {index.row()}" if role == Qt.ItemDataRole.DisplayRole else None

    plain = QTableView()
    plain.setModel(Plain())
    plain.resize(table.size())
    plain.show()
    app.processEvents()
    out["scroll, a frame, plain"] = scroll(plain)
    plain.close()
    began = time.perf_counter()
    table.selectAll()
    app.processEvents()
    out["select all"] = 1000 * (time.perf_counter() - began)
    table.clearSelection()
    return out


class Watch(QObject):
    """Notes when a widget has been asked to paint, after all that was due before."""

    def __init__(self, done: list[float]) -> None:
        super().__init__()
        self.done = done

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if event is not None and event.type() == QEvent.Type.Paint:
            # the paint itself comes after this filter: its end is seen in the next turn
            QTimer.singleShot(0, lambda: self.done.append(time.perf_counter()))
        return False


def add_paths(home: Path, count: int = 50_000) -> float:
    """Seconds to take in so many files that are there."""
    from mervid.jobs.gathering import gather as found_below
    from mervid.store.library import Library

    folder = home / "files"
    for k in range(count):
        if not k % 500:
            (folder / str(k)).mkdir(parents=True)
        (folder / str(k - k % 500) / f"{k}.wav").touch()
    began = time.perf_counter()
    library = Library(home / "added.sqlite")
    library.add_many(found_below([folder]).files)
    library.close()
    return time.perf_counter() - began


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
        with_paths = Path(base, "paths")
        with_paths.mkdir()
        added = add_paths(with_paths)
        track_kb = float(Path(base, str(sizes[0]), "track_kb").read_text())
    print(f"{'ms':28}" + "".join(f"{n:>12,}" for n in sizes) + f"{'ratio':>9}")
    for name in found[sizes[0]][0]:
        row = [min(turn[name] for turn in found[n]) for n in sizes]
        print(f"{name:28}" + "".join(f"{x:12.1f}" for x in row) + f"{row[-1] / max(row[0], 1e-9):9.2f}")
    print(f"50,000 paths added in {added:.1f} s; a track of 4 minutes takes {track_kb:.0f} kB on disk")
    return 0


if __name__ == "__main__":
    if sys.argv[1:2] == ["--measure"]:
        print(json.dumps(measure(Path(sys.argv[2]))))
    else:
        sys.exit(main())
