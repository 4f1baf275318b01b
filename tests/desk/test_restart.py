"""The next day, and the power cut: what is on the screen is already on disk."""

from __future__ import annotations

import os
import shutil
import signal
import subprocess
import sys
from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from pytestqt.qtbot import QtBot

from mervid import places
from mervid.core.cues import cue_edits
from mervid.core.model.preparation import LOCKED
from mervid.desk.app import make_window, open_library
from mervid.desk.session.open_track import Workbench
from mervid.desk.sound.output import SilentClock
from mervid.desk.sound.player import Player
from mervid.desk.window import Window
from mervid.store.library import READY, WAITING, Library
from mervid.store.schema import StoreError
from tests.conftest import band

KILLED = """
import os, signal, sys, time
from pathlib import Path
os.environ["QT_QPA_PLATFORM"] = "offscreen"
from PyQt6.QtWidgets import QApplication
from mervid.core.cues import cue_edits
from mervid.core.edits import grid_edits
from mervid.desk.app import make_window
from mervid.desk.sound.player import Player
from mervid.desk.sound.output import SilentClock
from mervid.desk.session.open_track import Workbench
from mervid.store.library import Library

def main():
    home, recording, when = Path(sys.argv[1]), Path(sys.argv[2]), sys.argv[3]
    app = QApplication([])
    bench = Workbench(Library(home / "library.sqlite"), home)
    window = make_window(bench, Player(clock=SilentClock()))
    window.show()
    bench.intake.add_files([recording])
    end = time.monotonic() + 60
    while time.monotonic() < end:
        app.processEvents()
        time.sleep(0.005)
        if when == "hearing" and bench.intake.early_waveforms:
            os.kill(os.getpid(), signal.SIGKILL)
        if when == "editing" and bench.evidence is not None:
            bench.apply(grid_edits.slide, 7.0)
            bench.apply(cue_edits.add_cue, 8.0, name="Kept")
            bench.preview(grid_edits.slide(bench.preparation, 400.0))
            os.kill(os.getpid(), signal.SIGKILL)

if __name__ == "__main__":
    main()
"""


def run_and_kill(tmp_path: Path, recording: Path, when: str) -> None:
    script = tmp_path / "killed.py"
    script.write_text(KILLED)
    done = subprocess.run([sys.executable, str(script), str(tmp_path), str(recording), when], timeout=90, check=False)
    assert done.returncode == -signal.SIGKILL


def test_kill_while_editing_loses_only_the_drag(tmp_path: Path, wav) -> None:
    run_and_kill(tmp_path, wav("band.wav", band(20.0, 112.0)), "editing")
    library = Library(tmp_path / "library.sqlite")
    (track,) = library.tracks()
    history = library.history(track.id)
    assert history.undo == "Set cue"
    assert [c.name for c in history.preparation.cues] == ["Kept"]
    library.undo(track.id)
    library.undo(track.id)
    before = library.history(track.id).preparation.grid
    library.redo(track.id)
    after = library.history(track.id).preparation.grid
    assert before is not None
    assert after is not None
    assert after.times[0] - before.times[0] == pytest.approx(0.007)


def test_kill_while_hearing_is_taken_up_again(tmp_path: Path, qtbot: QtBot) -> None:
    run_and_kill(tmp_path, places.demo_folder() / "Night Barge.ogg", "hearing")
    bench = Workbench(Library(tmp_path / "library.sqlite"), tmp_path)
    window = make_window(bench, Player(clock=SilentClock()))
    qtbot.addWidget(window)
    (track,) = bench.library.tracks()
    assert track.state == WAITING
    bench.intake.resume()
    qtbot.waitUntil(lambda: bench.library.track(track.id).state == READY, timeout=60_000)
    assert not list((tmp_path / "pcm").glob("*.part"))
    window.close()


def test_the_next_day_everything_is_there(ferry: Window, qtbot: QtBot, tmp_path: Path) -> None:
    ferry.align.ask("slide", 10.0)
    ferry.player.seek(20.0)
    ferry.align.ask("cue", False)
    ferry.align.ask("lock")
    kept = ferry.bench.preparation
    ferry.close()
    bench = Workbench(Library(tmp_path / "library.sqlite"), tmp_path / "cache")
    window = make_window(bench, Player(clock=SilentClock()))
    qtbot.addWidget(window)
    window.show()
    bench.tracks_changed.emit()
    bench.open(window.list.tracks.rows[0].id)
    assert bench.preparation == kept
    assert bench.preparation.readiness == LOCKED
    assert bench.evidence is not None
    assert bench.samples is not None
    qtbot.mouseClick(window.buttons["undo"], Qt.MouseButton.LeftButton)
    assert bench.preparation == kept
    assert "Unlock it" in window.note.text.text()
    qtbot.mouseClick(window.buttons["lock"], Qt.MouseButton.LeftButton)
    for _ in range(4):
        bench.undo()
    assert bench.undo_name is None
    assert bench.preparation.cues == ()
    window.close()


def test_a_cleared_cache_is_decoded_again(ferry: Window, qtbot: QtBot) -> None:
    for f in (ferry.bench.cache / "pcm").iterdir():
        f.unlink()
    track = ferry.bench.track
    ferry.bench.open(track.id)
    assert ferry.bench.samples is None
    qtbot.waitUntil(lambda: ferry.bench.samples is not None, timeout=60_000)
    qtbot.waitUntil(lambda: not ferry.bench.intake.pool.busy, timeout=60_000)
    assert ferry.bench.library.track(track.id).state == READY


def test_a_file_that_became_another_recording_is_heard_again(window: Window, qtbot: QtBot, wav) -> None:
    bench = window.bench
    path = wav("take.wav", band(12.0, 112.0))
    bench.intake.add_files([path])
    qtbot.waitUntil(lambda: bench.evidence is not None, timeout=60_000)
    bench.apply(cue_edits.add_cue, 5.0, name="Mine")
    first = bench.track.identity
    shutil.rmtree(bench.cache)
    wav("take.wav", band(14.0, 124.0, seed=5))
    bench.open(bench.track.id)
    qtbot.waitUntil(lambda: abs(bench.duration - 14.0) < 1e-6 and not bench.intake.pool.busy, timeout=60_000)
    assert "is not the sound it was" in window.note.text.text()
    assert bench.track.identity != first
    assert bench.track.state == READY
    assert [c.name for c in bench.preparation.cues] == ["Mine"]


def test_a_data_folder_that_cannot_be_written(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    (tmp_path / "file").write_text("in the way")
    monkeypatch.setenv("MERVID_DATA", str(tmp_path / "file" / "data"))
    library, problem = open_library()
    assert "can't be made" in problem
    assert "nothing will be kept" in problem
    assert library.add(tmp_path / "a.wav")[1]


def test_a_library_that_cannot_be_written_is_still_shown(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("MERVID_DATA", str(tmp_path))
    kept = Library(tmp_path / "library.sqlite")
    kept.add(tmp_path / "a.wav")
    kept.close()
    before = (tmp_path / "library.sqlite").read_bytes()
    real = Library.__init__

    def refuse(self: Library, path: Path | None) -> None:
        # the tests may run as root, whom no read-only folder stops
        if path is not None:
            raise StoreError(f"Your library {path} can't be saved: the folder or file is read-only.")
        real(self, path)

    monkeypatch.setattr(Library, "__init__", refuse)
    library, problem = open_library()
    assert "read-only" in problem
    assert [t.title for t in library.tracks()] == ["a"]
    library.add(tmp_path / "b.wav")
    assert (tmp_path / "library.sqlite").read_bytes() == before


def test_a_full_cache_disk_is_said(window: Window, qtbot: QtBot, tmp_path: Path, wav) -> None:
    (tmp_path / "cache").write_text("a file where the folder should be")
    window.bench.intake.add_files([wav("band.wav", band(5.0))])
    qtbot.waitUntil(lambda: not window.bench.intake.pool.busy, timeout=60_000)
    assert "Decoded audio can't be kept in" in window.bench.library.tracks()[0].message


def test_a_killed_worker_is_said_and_the_next_analysis_works(window: Window, qtbot: QtBot, wav) -> None:
    bench = window.bench
    bench.intake.add_files([places.demo_folder() / "Copper Ferry.ogg"])
    # at work, whatever it does just then
    qtbot.waitUntil(lambda: any(stage != "waiting" for stage, _ in bench.intake.progress.values()), timeout=60_000)
    for pid in bench.intake.pool.processes:
        os.kill(pid, signal.SIGKILL)
    qtbot.waitUntil(lambda: not bench.intake.pool.busy, timeout=20_000)
    assert "worker process died" in bench.library.tracks()[0].message
    bench.intake.add_files([wav("band.wav", band(12.0))])
    qtbot.waitUntil(lambda: bench.library.tracks()[1].state == READY, timeout=60_000)


def test_opening_starts_no_process() -> None:
    """Workers and fitter start when there is work, not on import: a child would otherwise start children."""
    program = "import mervid.desk.app, multiprocessing as m; print(m.active_children())"
    done = subprocess.run([sys.executable, "-c", program], capture_output=True, text=True, check=True)
    assert done.stdout.strip() == "[]"
