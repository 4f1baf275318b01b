"""A recording that was replaced, grew or got other tags under its name, in the real window."""

from __future__ import annotations

import os
import shutil
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
import soundfile
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFileDialog
from pytestqt.qtbot import QtBot

from mervid.core.cues import cue_edits
from mervid.core.siblings import carry_over
from mervid.desk.session import exchange
from mervid.desk.widgets.replaced_dialog import ReplacedDialog
from mervid.desk.window import Window
from mervid.store.track import READY
from tests.conftest import RATE, band, wait_for
from tests.desk.conftest import put

LEAD = 2.345
"""s by which the music begins later in the file that grew."""


@pytest.fixture(scope="module")
def recording(tmp_path_factory: pytest.TempPathFactory) -> Path:
    path = tmp_path_factory.mktemp("recording") / "take.wav"
    soundfile.write(path, band(40.0, 112.0), RATE, subtype="PCM_16")
    return path


@pytest.fixture
def take(window: Window, recording: Path, tmp_path: Path) -> Path:
    """A recording that was heard, with a cue of one's own."""
    window.session.open(put(window, recording, tmp_path))
    window.session.track.apply(cue_edits.add_cue, 5.0, name="Mine")
    return tmp_path / "take.wav"


def grow(path: Path, lead: float = LEAD) -> None:
    """The same music with a longer beginning."""
    sound, rate = soundfile.read(path, dtype="float32")
    soundfile.write(path, np.concatenate([np.zeros((round(lead * rate), 2), np.float32), sound]), rate)


def reopened(window: Window, qtbot: QtBot) -> ReplacedDialog:
    """Open the track again; the dialog that appears."""
    window.session.open(window.session.track.row.id)
    qtbot.waitUntil(lambda: bool(window.findChildren(ReplacedDialog)))
    return window.findChildren(ReplacedDialog)[0]


def test_another_tag_is_no_other_recording(window: Window, qtbot: QtBot, take: Path) -> None:
    session = window.session
    before = session.track.row
    assert before.size == take.stat().st_size
    # RIFF list of one's own behind the sound: other bytes, other date, the same samples
    with take.open("ab") as f:
        f.write(b"note\x08\0\0\0by hand.")
    session.open(before.id)
    qtbot.waitUntil(lambda: session.track.row.size == take.stat().st_size)
    assert session.track.row.identity == before.identity
    assert not window.findChildren(ReplacedDialog)
    assert session.track.row.state == READY


def test_a_file_that_grew_takes_the_preparation_along(window: Window, qtbot: QtBot, take: Path) -> None:
    session = window.session
    pins = [q.time for q in session.track.preparation.grid.pins]
    grow(take)
    dialog = reopened(window, qtbot)
    assert "2.3 s longer" in window.note.text.text()
    qtbot.mouseClick(dialog.buttons[0], Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: session.track.undo_name == "Take over to the changed recording")
    moved = [q.time - t for q, t in zip(session.track.preparation.grid.pins, pins, strict=True)]
    assert np.allclose(moved, LEAD, atol=0.002)
    assert [c.name for c in session.track.preparation.cues] == ["Mine"]
    assert abs(session.track.preparation.cues[0].at(session.track.preparation.grid) - 5.0 - LEAD) < 0.3
    session.track.undo()
    assert [q.time for q in session.track.preparation.grid.pins] == pins


def test_a_stranger_under_the_name_is_heard_anew_and_nothing_is_moved(
    window: Window, qtbot: QtBot, take: Path, wav: Callable[..., Path]
) -> None:
    session = window.session
    first, prepared = session.track.row.identity, session.track.preparation
    wav("take.wav", band(34.0, 124.0, seed=5))
    dialog = reopened(window, qtbot)
    qtbot.mouseClick(dialog.buttons[0], Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: "doesn't run along with the old one" in window.note.text.text())
    assert session.track.row.identity != first
    assert session.track.preparation == prepared


def test_what_is_written_while_it_is_compared_is_compared_once_more(window: Window, qtbot: QtBot, take: Path) -> None:
    watch = window.session.watch
    os.utime(take, (1, 1))
    watch.look()
    qtbot.waitUntil(lambda: bool(watch._asked))
    # the answer is there, and nobody has read it yet
    wait_for(lambda: watch._identifier._answers)
    grow(take)
    dialog = reopened(window, qtbot)
    assert "2.3 s longer" in window.note.text.text()
    dialog.reject()


def test_the_old_recording_can_be_pointed_at(
    window: Window, qtbot: QtBot, take: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    session = window.session
    old = tmp_path / "elsewhere" / "old take.wav"
    old.parent.mkdir()
    shutil.copy(take, old)
    grow(take)
    dialog = reopened(window, qtbot)
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *a, **k: (str(take), ""))
    qtbot.mouseClick(dialog.buttons[2], Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: "holds another sound" in window.note.text.text())
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *a, **k: (str(old), ""))
    qtbot.mouseClick(dialog.buttons[2], Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: session.track.row.path == old)
    assert session.track.row.duration == 40.0


def test_nothing_is_handed_over_for_another_recording(window: Window, qtbot: QtBot, take: Path, tmp_path: Path) -> None:
    session = window.session
    grow(take)
    out = tmp_path / "take.jams"
    exchange.export(session.track, out, session.watch)
    qtbot.waitUntil(lambda: bool(window.findChildren(ReplacedDialog)))
    assert not out.exists()
    window.findChildren(ReplacedDialog)[0].reject()
    exchange.export(session.track, out, session.watch)
    assert not out.exists()
    assert "is not the recording that was heard" in window.note.text.text()


def test_handing_over_goes_on_by_itself_where_only_the_date_changed(
    window: Window, qtbot: QtBot, take: Path, tmp_path: Path
) -> None:
    os.utime(take, (1, 1))
    exchange.export(window.session.track, tmp_path / "take.jams", window.session.watch)
    qtbot.waitUntil((tmp_path / "take.jams").exists)


def test_playing_notices_it_too(window: Window, qtbot: QtBot, take: Path) -> None:
    grow(take)
    window.session.player.play()
    qtbot.waitUntil(lambda: bool(window.findChildren(ReplacedDialog)))
    # what is heard is what was prepared: it lies in the cache
    assert window.session.track.samples is not None
    assert len(window.session.track.samples) == 40 * RATE


@pytest.mark.parametrize("lag", [0.0, 0.026, -3.5, 12.0])
def test_offsets_are_found_to_the_millisecond(lag: float) -> None:
    rng = np.random.default_rng(3)
    struck = (rng.random(90_000) < 0.004) * rng.uniform(90, 255, 90_000)
    old = struck[5_000:80_000].astype(np.uint8)
    k = 5_000 - round(lag * 1000)
    there = np.roll(struck, -k) if k >= 0 else np.concatenate([np.zeros(-k), struck])
    new = np.clip(there * rng.uniform(0.8, 1.1, len(there)) + rng.uniform(0, 12, len(there)), 0, 255).astype(np.uint8)
    found = carry_over.offset(old, new[:75_000])
    assert found is not None
    assert abs(found - lag) < 0.001
    assert carry_over.offset(old, rng.permutation(new)) is None
    assert carry_over.offset(old[:900], new) is None
