"""The next day, and the power cut: what is on the screen is already on disk."""

from __future__ import annotations

import os
import signal
import sqlite3
import subprocess
import sys
from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from pytestqt.qtbot import QtBot

from mervid import places
from mervid.core.model.preparation import LOCKED
from mervid.desk.app import make_window, open_library
from mervid.desk.session.session import Session
from mervid.desk.sound.output import SilentClock
from mervid.desk.sound.player import Player
from mervid.desk.window import Window
from mervid.store.library import Library
from mervid.store.schema import StoreError
from mervid.store.track import READY, WAITING
from tests.conftest import PATIENCE_S, band
from tests.desk.test_align import follow, press

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
from mervid.desk.session.session import Session
from mervid.store.library import Library

def main():
    home, recording, when = Path(sys.argv[1]), Path(sys.argv[2]), sys.argv[3]
    app = QApplication([])
    session = Session(Library(home / "library.sqlite"), home, Player(clock=SilentClock()))
    window = make_window(session)
    window.show()
    session.queue.add_files([recording])
    end = time.monotonic() + 120
    while time.monotonic() < end:
        app.processEvents()
        time.sleep(0.005)
        if when == "hearing" and session.queue.early_waveforms:
            os.kill(os.getpid(), signal.SIGKILL)
        if when == "editing" and session.track.evidence is not None:
            session.track.apply(grid_edits.slide, 7.0)
            session.track.apply(cue_edits.add_cue, 8.0, name="Kept")
            session.track.preview.show("drag", grid_edits.slide(session.track.preparation, 400.0))
            os.kill(os.getpid(), signal.SIGKILL)

if __name__ == "__main__":
    main()
"""


def run_and_kill(tmp_path: Path, recording: Path, when: str) -> None:
    script = tmp_path / "killed.py"
    script.write_text(KILLED)
    done = subprocess.run(
        [sys.executable, str(script), str(tmp_path), str(recording), when], timeout=PATIENCE_S, check=False
    )
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


def test_kill_while_hearing_is_taken_up_again(tmp_path: Path, qtbot: QtBot, wav) -> None:
    run_and_kill(tmp_path, wav("band.wav", band(20.0, 112.0)), "hearing")
    session = Session(Library(tmp_path / "library.sqlite"), tmp_path, Player(clock=SilentClock()))
    window = make_window(session)
    qtbot.addWidget(window)
    (track,) = session.library.tracks()
    assert track.state == WAITING
    session.queue.resume()
    qtbot.waitUntil(lambda: session.library.track(track.id).state == READY)
    assert not list((tmp_path / "pcm").glob("*.part"))
    window.close()


def test_the_next_day_everything_is_there(ferry: Window, qtbot: QtBot, tmp_path: Path) -> None:
    ferry.ask("slide", 10.0)
    ferry.session.player.seek(20.0)
    ferry.ask("cue", False)
    ferry.ask("lock")
    kept = ferry.session.track.preparation
    ferry.close()
    session = Session(Library(tmp_path / "library.sqlite"), tmp_path / "cache", Player(clock=SilentClock()))
    window = make_window(session)
    qtbot.addWidget(window)
    window.show()
    session.catalogue.reread()
    session.open(window.session.library.tracks()[0].id)
    assert session.track.preparation == kept
    assert session.track.preparation.readiness == LOCKED
    assert session.track.evidence is not None
    assert session.track.samples is not None
    qtbot.mouseClick(window.header.buttons["undo"], Qt.MouseButton.LeftButton)
    assert session.track.preparation == kept
    assert "Unlock it" in window.note.text.text()
    qtbot.mouseClick(window.header.buttons["lock"], Qt.MouseButton.LeftButton)
    for _ in range(4):
        session.track.undo()
    assert session.track.undo_name is None
    assert session.track.preparation.cues == ()
    window.close()


def test_a_cleared_cache_is_decoded_again(ferry: Window, qtbot: QtBot) -> None:
    for f in (ferry.session.cache / "pcm").iterdir():
        f.unlink()
    track = ferry.session.track.row
    ferry.session.open(track.id)
    assert ferry.session.track.samples is None
    qtbot.waitUntil(lambda: ferry.session.track.samples is not None)
    qtbot.waitUntil(lambda: not ferry.session.queue.pool.busy)
    assert ferry.session.library.track(track.id).state == READY


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
    window.session.queue.add_files([wav("band.wav", band(5.0))])
    qtbot.waitUntil(lambda: not window.session.queue.pool.busy)
    assert "Decoded audio can't be kept in" in window.session.library.tracks()[0].message


def test_a_killed_worker_is_said_and_the_next_analysis_works(window: Window, qtbot: QtBot, wav) -> None:
    session = window.session
    session.queue.add_files([places.demo_folder() / "Copper Ferry.ogg"])
    # at work, whatever it does just then
    qtbot.waitUntil(lambda: any(stage != "waiting" for stage, _ in session.queue.progress.values()))
    for pid in session.queue.pool.processes:
        os.kill(pid, signal.SIGKILL)
    qtbot.waitUntil(lambda: not session.queue.pool.busy)
    assert "worker process died" in session.library.tracks()[0].message
    session.queue.add_files([wav("band.wav", band(12.0))])
    qtbot.waitUntil(lambda: session.library.tracks()[1].state == READY)


def test_opening_starts_no_process() -> None:
    """Workers and fitter start when there is work, not on import: a child would otherwise start children."""
    program = "import mervid.desk.app, multiprocessing as m; print(m.active_children())"
    done = subprocess.run([sys.executable, "-c", program], capture_output=True, text=True, check=True)
    assert done.stdout.strip() == "[]"


def test_a_track_whose_last_edit_is_damaged_opens_as_it_was_before(ferry: Window, qtbot: QtBot, tmp_path: Path) -> None:
    session = ferry.session
    track = session.track.row.id
    follow(ferry, qtbot)
    before = session.track.preparation
    press(ferry, qtbot, ".")
    with sqlite3.connect(session.library.path) as db:
        db.execute("UPDATE history SET value='{\"cues\": 3}' WHERE seq=(SELECT head FROM tracks WHERE id=?)", (track,))
    session.open(track)
    assert "The last edit of this track can't be read any more" in ferry.note.text.text()
    assert session.track.preparation == before
    press(ferry, qtbot, ".")
    press(ferry, qtbot, "Ctrl+Z")
    assert session.track.preparation == before
