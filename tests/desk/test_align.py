"""The day's work in the real window: real keys, mouse and drops."""

from __future__ import annotations

import threading
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from PyQt6.QtCore import QEvent, QMimeData, QPoint, QPointF, Qt, QUrl
from PyQt6.QtGui import QDragEnterEvent, QDropEvent, QMouseEvent
from PyQt6.QtWidgets import QApplication, QPushButton, QWidget
from pytestqt.qtbot import QtBot

from mervid import places
from mervid.core.model.beatgrid import Pin
from mervid.desk.session import exchange
from mervid.desk.widgets.file_dialogs import dropped_paths
from mervid.desk.window import Window
from mervid.formats import beatlist, wavcues
from tests.conftest import DEMO, RATE, band, truth
from tests.desk.conftest import FakeTime, align


def drop(window: Window, paths: list[Path]) -> None:
    """Let go of files over the window."""
    mime = QMimeData()
    mime.setUrls([QUrl.fromLocalFile(str(p)) for p in paths])
    where, copy, left = QPoint(600, 400), Qt.DropAction.CopyAction, Qt.MouseButton.LeftButton
    enter = QDragEnterEvent(where, copy, mime, left, Qt.KeyboardModifier.NoModifier)
    QApplication.sendEvent(window, enter)
    assert enter.isAccepted()
    QApplication.sendEvent(window, QDropEvent(QPointF(where), copy, mime, left, Qt.KeyboardModifier.NoModifier))


def mouse(view: QWidget, kind: QEvent.Type, x: float, y: float, *, shift: bool = False) -> None:
    """One mouse event with the left button held."""
    held = Qt.MouseButton.NoButton if kind == QEvent.Type.MouseButtonRelease else Qt.MouseButton.LeftButton
    button = Qt.MouseButton.NoButton if kind == QEvent.Type.MouseMove else Qt.MouseButton.LeftButton
    keys = Qt.KeyboardModifier.ShiftModifier if shift else Qt.KeyboardModifier.NoModifier
    place = QPointF(x, y)
    QApplication.sendEvent(
        view, QMouseEvent(kind, place, QPointF(view.mapToGlobal(place.toPoint())), button, held, keys)
    )


def drag(view: QWidget, start: tuple[float, float], stop: tuple[float, float], *, shift: bool = False) -> None:
    """Press, move in ten steps, release."""
    mouse(view, QEvent.Type.MouseButtonPress, *start, shift=shift)
    for k in range(1, 11):
        x, y = (a + (b - a) * k / 10 for a, b in zip(start, stop, strict=True))
        mouse(view, QEvent.Type.MouseMove, x, y, shift=shift)
    mouse(view, QEvent.Type.MouseButtonRelease, *stop, shift=shift)


def press(window: Window, qtbot: QtBot, keys: str) -> None:
    """Type a shortcut at the window."""
    qtbot.keySequence(window, keys)


def button(window: Window, text: str) -> QPushButton:
    """The button that says `text`."""
    return next(b for b in window.findChildren(QPushButton) if b.text() == text)


def follow(window: Window, qtbot: QtBot) -> None:
    qtbot.mouseClick(align(window).panel.follow, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: len(window.session.offers.found) == 2)


def test_drop_hear_follow(window: Window, qtbot: QtBot) -> None:
    """A recording is dropped, drawn before it is heard, heard by a worker, and followed."""
    assert window.pages.currentIndex() == 0
    seen: list[str] = []
    session = window.session
    session.track.sound_changed.connect(lambda: seen.append("waveform" if session.track.evidence is None else "late"))
    drop(window, [places.demo_folder() / "Copper Ferry.ogg"])
    assert window.pages.currentIndex() == 1 + list(window.stages).index("align")
    assert window.session.library.tracks()[0].title == "Copper Ferry"
    qtbot.waitUntil(lambda: session.track.evidence is not None)
    assert seen[0] == "waveform"
    qtbot.waitUntil(lambda: len(session.offers.found) == 2)
    readings = align(window).panel
    # a drummer opens followed; the steady tempo is one key away, and back again
    assert readings.follow.isChecked()
    press(window, qtbot, "S")
    qtbot.waitUntil(lambda: len(session.offers.found) == 2)
    assert readings.steady.isChecked()
    assert "worst 2" in readings.steady.text()
    follow(window, qtbot)
    assert readings.follow.isChecked()
    assert "100 % of the beats within tolerance" in readings.verdict.text()
    grid = session.track.preparation.grid
    assert grid is not None
    # far fewer pins than beats, though a drummer's are followed closely
    assert 4 <= len(grid.pins) < len(session.track.evidence.heard.times) / 5
    true = truth("Copper Ferry")["beats"]
    near = grid.time_at(np.round(grid.beat_at(true)))
    assert np.percentile(1000 * np.abs(near - true), 95) < 20


def test_a_pin_dragged_in_the_close_up_snaps_to_the_attack_and_is_undone(ferry: Window, qtbot: QtBot) -> None:
    follow(ferry, qtbot)
    session, view = ferry.session, align(ferry).closeup
    before = session.track.preparation
    assert before.grid is not None
    ferry.session.player.seek(30.0)
    view.span = 2.0
    beat = float(np.ceil(before.grid.beat_at(30.0)))
    x, y = view.x_of(float(before.grid.time_at(beat))), view.height() / 2
    drag(view, (x, y), (x + 5, y))
    assert session.track.undo_name == "Add pin"
    pin = next(p for p in session.track.preparation.grid.pins if p.hand)
    assert pin.beat == beat
    assert session.track.attack[round(pin.time * 1000)] > 0.1
    press(ferry, qtbot, "Ctrl+Z")
    assert session.track.preparation == before
    press(ferry, qtbot, "Ctrl+Shift+Z")
    assert pin in session.track.preparation.grid.pins
    press(ferry, qtbot, "Ctrl+Z")
    drag(view, (x, y), (x + 5, y), shift=True)
    free = next(p for p in session.track.preparation.grid.pins if p.hand)
    assert free.time == pytest.approx(view.time_of(x + 5), abs=1e-9)
    press(ferry, qtbot, "Backspace")
    assert not any(p.hand for p in session.track.preparation.grid.pins)


def test_ink_dragged_onto_its_thread_is_pinned_there(ferry: Window, qtbot: QtBot) -> None:
    session, view = ferry.session, align(ferry).fold
    grid = session.track.preparation.grid
    assert grid is not None
    heard = session.track.evidence.heard.times
    time = float(heard[int(np.argmin(np.abs(heard - 80.0)))])
    late = float(grid.beat_at(time))
    x, y = view.place_of(late)
    goal = view.place_of(float(round(late)))[0]
    previews: list[int] = []
    session.track.shown_changed.connect(lambda: previews.append(len(session.track.shown.grid.pins)))
    y += view.row_height / 2
    drag(view, (x, y), (goal, y))
    assert previews.count(3) > 5
    pin = next(p for p in session.track.preparation.grid.pins if p.hand)
    assert pin.beat == round(late)
    assert pin.time == pytest.approx(time, abs=0.02)
    # let go between two threads: nothing is pinned
    press(ferry, qtbot, "Ctrl+Z")
    half = abs(view.place_of(late + 0.5)[0] - x)
    drag(view, (goal, y), (goal + half, y))
    assert session.track.shown is session.track.preparation
    assert not any(p.hand for p in session.track.preparation.grid.pins)


def test_keys_and_buttons_by_hand(ferry: Window, qtbot: QtBot) -> None:
    session = ferry.session
    start = session.track.preparation
    first = float(start.grid.time_at(0))
    press(ferry, qtbot, ".")
    qtbot.mouseClick(button(ferry, "+10"), Qt.MouseButton.LeftButton)
    assert float(session.track.preparation.grid.time_at(0)) == pytest.approx(first + 0.011)
    qtbot.mouseClick(button(ferry, "× 2"), Qt.MouseButton.LeftButton)
    assert session.track.preparation.grid.tempo_overall() == pytest.approx(2 * start.grid.tempo_overall())
    qtbot.mouseClick(button(ferry, "÷ 2"), Qt.MouseButton.LeftButton)
    field = align(ferry).panel.tempo
    field.setFocus()
    field.selectAll()
    qtbot.keyClicks(field, "114,25")
    qtbot.keyClick(field, Qt.Key.Key_Return)
    assert session.track.preparation.grid.tempi.tolist() == pytest.approx([114.25])
    field.selectAll()
    qtbot.keyClicks(field, "fast")
    qtbot.keyClick(field, Qt.Key.Key_Return)
    assert "'fast' is not a tempo" in ferry.note.text.text()
    align(ferry).fold.setFocus()
    ferry.session.player.seek(float(session.track.preparation.grid.time_at(33)))
    press(ferry, qtbot, "D")
    assert ferry.transport.place.text().endswith(".1")
    for _ in range(6):
        press(ferry, qtbot, "Ctrl+Z")
    assert session.track.preparation == start
    press(ferry, qtbot, "Ctrl+Z")
    assert "nothing to undo" in ferry.note.text.text()


def test_playing_on_a_fake_clock(ferry: Window, qtbot: QtBot, clock: FakeTime) -> None:
    player, grid = ferry.session.player, ferry.session.track.preparation.grid
    assert "silent clock" in ferry.transport.output.text()
    player.seek(10.0)
    press(ferry, qtbot, "Space")
    assert player.playing
    clock.now += 2.5
    player.tick()
    assert player.position == pytest.approx(12.5)
    assert ferry.transport.time.text() == "0:12.500"
    assert ferry.transport.place.text() == grid.name_at(float(grid.beat_at(12.5)))
    assert {
        v.position
        for v in (
            align(ferry).overview,
            align(ferry).trace,
            align(ferry).fold,
            align(ferry).closeup,
        )
    } == {12.5}
    press(ferry, qtbot, "K")
    assert player.program.beat == "click"
    press(ferry, qtbot, "Space")
    clock.now += 5
    player.tick()
    assert player.position == pytest.approx(12.5)
    press(ferry, qtbot, "Right")
    assert float(grid.beat_at(player.position)) == pytest.approx(np.ceil(grid.beat_at(12.5)))
    press(ferry, qtbot, "Shift+Right")
    assert ferry.transport.place.text().endswith(".1")
    bar = ferry.transport.place.text()
    press(ferry, qtbot, "Shift+Left")
    press(ferry, qtbot, "Shift+Right")
    assert ferry.transport.place.text() == bar
    view = align(ferry).overview
    qtbot.mouseClick(view, Qt.MouseButton.LeftButton, pos=QPoint(round(view.x_of(50.0)), 40))
    assert player.position == pytest.approx(50.0, abs=0.2)
    player.seek(player.duration - 1)
    player.play()
    clock.now += 3
    player.tick()
    assert not player.playing
    assert player.position == pytest.approx(player.duration)


def test_cues(ferry: Window, qtbot: QtBot) -> None:
    session, readings = ferry.session, align(ferry).panel
    ferry.session.player.seek(17.2)
    press(ferry, qtbot, "C")
    cue = session.track.preparation.cues[0]
    assert session.track.preparation.grid.name_at(cue.beat).endswith(".1")
    assert abs(cue.at(session.track.preparation.grid) - 17.2) < 1.1
    ferry.session.player.seek(31.234)
    press(ferry, qtbot, "Shift+C")
    assert session.track.preparation.cues[1].time == pytest.approx(31.234)
    press(ferry, qtbot, "1")
    assert ferry.session.player.position == pytest.approx(cue.at(session.track.preparation.grid))
    readings.cues.item(0).setText("Band in")
    assert session.track.preparation.cues[0].name == "Band in"
    readings.cues.item(0).setText("  ")
    assert "needs a name" in ferry.note.text.text()
    assert readings.cues.item(0).text() == "Band in"
    readings.cues.setFocus()
    readings.cues.setCurrentRow(1)
    qtbot.keyClick(readings.cues, Qt.Key.Key_Delete)
    assert [c.name for c in session.track.preparation.cues] == ["Band in"]
    # snapped cues follow the grid
    ferry.ask("slide", 10.0)
    assert session.track.preparation.cues[0].at(session.track.preparation.grid) == pytest.approx(
        cue.at(session.track.preparation.grid)
    )


def test_a_locked_track_says_why_it_does_not_change(ferry: Window, qtbot: QtBot) -> None:
    session = ferry.session
    press(ferry, qtbot, "Ctrl+L")
    locked = session.track.preparation
    assert locked.locked
    view = align(ferry).closeup
    ferry.session.player.seek(20.0)
    x = view.x_of(float(locked.grid.time_at(np.ceil(locked.grid.beat_at(20.0)))))
    for attempt in (
        lambda: press(ferry, qtbot, "."),
        lambda: press(ferry, qtbot, "C"),
        lambda: follow_click(ferry, qtbot),
        lambda: drag(view, (x, 60), (x + 9, 60)),
    ):
        ferry.note.hide()
        attempt()
        assert session.track.preparation == locked
        assert session.track.shown == locked
        assert "Unlock it (Ctrl+L)" in ferry.note.text.text()
        assert ferry.note.isVisible()
    press(ferry, qtbot, "Ctrl+L")
    press(ferry, qtbot, ".")
    assert session.track.preparation.grid != locked.grid


def follow_click(window: Window, qtbot: QtBot) -> None:
    qtbot.mouseClick(align(window).panel.follow, Qt.MouseButton.LeftButton)


def test_export_and_import(ferry: Window, qtbot: QtBot, tmp_path: Path) -> None:
    follow(ferry, qtbot)
    session = ferry.session
    ferry.ask("cue", False)
    before = session.track.preparation
    exchange.export(session.track, tmp_path / "x.jams", session.watch)
    exchange.export(session.track, tmp_path / "x.beats.txt", session.watch)
    assert "Written" in ferry.note.text.text()
    ferry.ask("fit", "steady")
    exchange.import_beats(session.track, tmp_path / "x.jams")
    assert session.track.preparation == before
    ferry.ask("fit", "steady")
    exchange.import_beats(session.track, tmp_path / "x.beats.txt")
    times, _ = beatlist.read((tmp_path / "x.beats.txt").read_text())
    again, _, _ = session.track.preparation.grid.positions(times[0] - 1e-3, times[-1] + 1e-3)
    np.testing.assert_allclose(again, times, atol=1e-6)
    (tmp_path / "no.txt").write_bytes(b"\xff\xfe\x00binary")
    exchange.import_beats(session.track, tmp_path / "no.txt")
    assert "no.txt is not text" in ferry.note.text.text()
    exchange.import_beats(session.track, tmp_path / "gone.txt")
    assert "gone.txt can't be read: No such file" in ferry.note.text.text()
    exchange.export(session.track, tmp_path / "nowhere" / "x.jams", session.watch)
    assert "can't be written" in ferry.note.text.text()


def test_a_copy_with_cue_points_is_written_while_the_window_goes_on(
    ferry: Window, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    follow(ferry, qtbot)
    ferry.ask("cue", False)
    go, write = threading.Event(), wavcues.write

    def slowly(*args: Any, **kwargs: Any) -> None:
        assert go.wait(20)
        write(*args, **kwargs)

    monkeypatch.setattr(wavcues, "write", slowly)
    exchange.export(ferry.session.track, tmp_path / "x.cues.wav", ferry.session.watch)
    assert ferry.note.text.text() == "Writing x.cues.wav …"
    # it holds what stood there when it was asked for
    ferry.ask("fit", "steady")
    before = len(ferry.session.track.preparation.cues)
    ferry.session.player.seek(20.0)
    ferry.ask("cue", False)
    assert not (tmp_path / "x.cues.wav").exists()
    go.set()
    qtbot.waitUntil(lambda: "Written" in ferry.note.text.text())
    points = [m for m in wavcues.read(tmp_path / "x.cues.wav") if m.end == m.start]
    assert len(points) == before < len(ferry.session.track.preparation.cues)
    exchange.export(ferry.session.track, tmp_path / "nowhere" / "x.cues.wav", ferry.session.watch)
    qtbot.waitUntil(lambda: "can't be written" in ferry.note.text.text())


def test_folders_and_playlists_are_dropped_whole(window: Window, qtbot: QtBot, tmp_path: Path, wav) -> None:
    (tmp_path / "box" / "side b").mkdir(parents=True)
    for name in ("box/one.wav", "box/side b/two.wav", "three.wav"):
        wav(name, band(12.0, 112.0, seed=len(name)))
    (tmp_path / "gig.m3u8").write_text("three.wav\nbox/one.wav\ngone.wav\n", "utf-8")
    drop(window, [tmp_path / "gig.m3u8"])
    qtbot.waitUntil(lambda: "gone.wav" in window.note.text.text())
    assert "1 of its 3 entries are not there" in window.note.text.text()
    drop(window, [tmp_path / "box"])
    qtbot.waitUntil(lambda: len(window.session.library.tracks()) == 3)
    qtbot.waitUntil(lambda: not window.session.queue.pool.busy)
    assert [t.title for t in window.session.library.tracks()] == ["three", "one", "two"]


def test_bad_files_are_named_and_the_rest_goes_on(window: Window, qtbot: QtBot, tmp_path: Path, wav) -> None:
    (tmp_path / "words.mp3").write_text("these are words, not sound\n" * 60)
    (tmp_path / "empty.flac").write_bytes(b"")
    wav("short.wav", band(3.0)[: RATE // 5])
    wav("silent.wav", band(3.0) * 0)
    wav("fine.wav", band(20.0, 112.0))
    names = ["words.mp3", "empty.flac", "short.wav", "silent.wav", "gone.mp3", "fine.wav"]
    drop(window, [tmp_path / n for n in names])
    qtbot.waitUntil(lambda: not window.session.queue.pool.busy)
    said = {t.title: (t.state, t.message) for t in window.session.library.tracks()}
    assert said["words"] == (
        "failed",
        "words.mp3 is not a recording Mervid can read (WAV, AIFF, FLAC, MP3, Ogg, Opus or M4A).",
    )
    assert "is empty" in said["empty"][1]
    assert "too short" in said["short"][1]
    assert "digital silence" in said["silent"][1]
    assert "not there any more" in said["gone"][1]
    assert said["fine"] == ("ready", "")
    window.session.open(window.session.library.tracks()[0].id)
    assert "not a recording" in align(window).overview.message
    assert window.note.isVisible()


def test_without_the_ears_weights_the_window_says_so_and_hears_all_the_same(
    window: Window, qtbot: QtBot, wav, monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    monkeypatch.setenv("MERVID_EAR", str(tmp_path / "gone.npz"))
    window.session.queue.add_files([wav("band.wav", band(20.0, 112.0))])
    qtbot.waitUntil(lambda: window.session.track.evidence is not None)
    assert "weights are missing (gone.npz)" in window.note.text.text()
    assert window.note.isVisible()
    assert window.session.track.grid is not None
    assert window.session.track.grid.tempo_overall() == pytest.approx(112, rel=0.002)
    # heard once, not again and again
    qtbot.wait(200)
    assert not window.session.queue.pool.busy


def test_an_analysis_is_taken_back_and_repeated(window: Window, qtbot: QtBot, wav) -> None:
    drop(window, [wav(f"{n}.wav", band(12.0, 112.0)) for n in DEMO])
    last = window.session.library.tracks()[-1]
    window.list.setCurrentIndex(window.list.tracks.index(len(DEMO) - 1))
    qtbot.keyClick(window.list, Qt.Key.Key_Escape)
    qtbot.waitUntil(lambda: window.session.library.track(last.id).state == "failed")
    assert "you took it back" in window.session.library.track(last.id).message
    window.session.queue.analyse(last.id)
    assert window.session.queue.pool.has(last.id)
    window.list.setFocus()
    qtbot.keyClick(window.list, Qt.Key.Key_Delete)
    assert last.id not in [t.id for t in window.session.library.tracks()]
    qtbot.waitUntil(lambda: not window.session.queue.pool.busy)
    assert "not in the library" not in window.note.text.text()


def test_dropped_names_need_not_be_utf8() -> None:
    assert dropped_paths([QUrl.fromEncoded(b"file:///tmp/caf%E9%20x.mp3")]) == [Path("/tmp/caf\udce9 x.mp3")]


def test_the_whole_bench_at_night_and_small(ferry: Window, qtbot: QtBot) -> None:
    press(ferry, qtbot, "F8")
    ferry.resize(960, 600)
    qtbot.wait(50)
    image = ferry.grab().toImage()
    dark = sum(image.pixelColor(x, y).lightness() < 90 for x in range(0, 960, 40) for y in range(0, 600, 40))
    assert dark > 200
    for n in (2, 4, 8, 1):
        press(ferry, qtbot, "Shift+V")
        assert align(ferry).fold.bars == n
    press(ferry, qtbot, "F1")
    qtbot.waitUntil(lambda: QApplication.activeModalWidget() is not None)
    QApplication.activeModalWidget().close()


def test_hover_reads_bar_beat_time_and_error(ferry: Window, qtbot: QtBot) -> None:
    view = align(ferry).fold
    x, y = view.place_of(41.0)
    text = view.reading_at(x, y + 2)
    assert text.startswith("bar 11, beat 2.0")
    assert " ms" in text
    assert view.reading_at(2, 2) == ""


def test_pins_are_hand_pins_at_the_playhead(ferry: Window, qtbot: QtBot) -> None:
    time = float(ferry.session.track.evidence.heard.times[40])
    ferry.session.player.seek(time)
    press(ferry, qtbot, "P")
    beat = float(np.round(ferry.session.track.preparation.grid.beat_at(time)))
    pin = next(p for p in ferry.session.track.preparation.grid.pins if p.hand)
    assert pin == Pin(pin.time, beat, hand=True)
    assert pin.time == pytest.approx(time, abs=0.012)


def test_pins_by_keyboard_alone(ferry: Window, qtbot: QtBot) -> None:
    follow(ferry, qtbot)
    grid = ferry.session.track.preparation.grid
    ferry.session.player.seek(0.0)
    press(ferry, qtbot, "Alt+Right")
    assert "No pin is chosen" in ferry.note.text.text()
    for _ in range(3):
        press(ferry, qtbot, "N")
    assert ferry.session.player.position == pytest.approx(grid.pins[2].time)
    press(ferry, qtbot, "Shift+N")
    for _ in range(4):
        press(ferry, qtbot, "Alt+Left")
    moved = ferry.session.track.preparation.grid.pins[1]
    assert moved.hand
    assert moved.time == pytest.approx(grid.pins[1].time - 0.004)


def test_lists_and_buttons_keep_their_own_keys(ferry: Window, qtbot: QtBot) -> None:
    ferry.session.library.add(places.demo_folder() / "Night Barge.ogg")
    ferry.session.catalogue.reread()
    ferry.list.setFocus()
    span = align(ferry).closeup.span
    qtbot.keyClick(ferry.list, Qt.Key.Key_Down)
    assert ferry.session.track.row.title == "Night Barge"
    assert align(ferry).closeup.span == span
    qtbot.keyClick(ferry.list, Qt.Key.Key_Up)
    assert ferry.session.track.row.title == "Copper Ferry"
    cue = button(ferry, "Set cue")
    qtbot.mouseClick(cue, Qt.MouseButton.LeftButton)
    press(ferry, qtbot, "Space")
    assert ferry.session.player.playing
    assert len(ferry.session.track.preparation.cues) == 1
    ferry.session.player.pause()
    ferry.session.player.seek(60.0)
    cue.setFocus(Qt.FocusReason.TabFocusReason)
    press(ferry, qtbot, "Space")
    assert not ferry.session.player.playing
    assert len(ferry.session.track.preparation.cues) == 2


def test_a_second_of_sound_can_still_be_gridded_by_hand(window: Window, qtbot: QtBot, tmp_path: Path, wav) -> None:
    drop(window, [wav("blip.wav", band(1.2))])
    qtbot.waitUntil(lambda: window.session.track.evidence is not None)
    assert "no beats could be heard" in window.note.text.text()
    readings = align(window).panel
    assert readings.verdict.text().startswith("No grid yet")
    for request, says in (
        (lambda: press(window, qtbot, "F"), "Too few beats"),
        (lambda: press(window, qtbot, "P"), "no grid yet"),
    ):
        window.note.hide()
        request()
        assert says in window.note.text.text()
    readings.tempo.setFocus()
    qtbot.keyClicks(readings.tempo, "120")
    qtbot.keyClick(readings.tempo, Qt.Key.Key_Return)
    assert window.session.track.preparation.grid.tempi.tolist() == [120.0]
    align(window).fold.setFocus()
    press(window, qtbot, "C")
    exchange.export(window.session.track, tmp_path / "blip.beats.txt", window.session.watch)
    times, _ = beatlist.read((tmp_path / "blip.beats.txt").read_text())
    assert times.tolist() == [0.0, 0.5, 1.0]
    press(window, qtbot, "Ctrl+Z")
    press(window, qtbot, "Ctrl+Z")
    assert window.session.track.preparation.grid is None


def test_a_cue_asks_for_no_new_fit_and_a_fit_keeps_the_cue(ferry: Window, qtbot: QtBot) -> None:
    session = ferry.session
    before = session.offers.found
    ferry.session.player.seek(20.0)
    press(ferry, qtbot, "C")
    assert session.offers.found is before
    press(ferry, qtbot, "F")
    assert session.track.undo_name == "Follow the recording"
    assert [c.name for c in session.track.preparation.cues] == ["Cue 1"]
    assert session.offers.found == {}
