"""A difficult track made true by hand, in the real window: mouse, keys, typed values, and what locked tracks refuse."""

from __future__ import annotations

import random
from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import QEvent, QPoint, Qt, QTimer
from PyQt6.QtGui import QTextDocument
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QFileDialog, QLabel, QMenu, QMessageBox
from pytestqt.qtbot import QtBot

from mervid import places
from mervid.core.cues import cue_edits
from mervid.core.edits import count_edits, grid_edits, track_edits
from mervid.core.errors import Refused
from mervid.core.findings.recommendation import recommend
from mervid.core.fitting import drift
from mervid.core.model import preparation as pr
from mervid.core.model.beatgrid import Pin
from mervid.desk.theme.words import tip_of
from mervid.desk.widgets.finder import Edits, Finder, KeySheet
from mervid.desk.window import Window
from mervid.formats import exchange
from mervid.store.library import Library
from tests.conftest import heard_demo, truth
from tests.desk.conftest import align
from tests.desk.test_align import drag, follow, mouse, press


def left_over(window: Window) -> np.ndarray:
    """How far each true beat lies from the grid beyond its tolerance, ms; negative where it lies within."""
    p, beats = window.session.track.preparation, truth("Copper Ferry")["beats"]
    assert p.grid is not None
    error = drift.trace(beats, p.grid).error
    return np.abs(error) - p.tolerance.at(beats, p.mix_zones)


def type_in(window: Window, qtbot: QtBot, *values: str) -> None:
    """Fill in the line that is open, and press Enter."""
    edits = align(window).line.edits
    for edit, value in zip(edits, values, strict=True):
        edit.selectAll()
        qtbot.keyClicks(edit, value)
    qtbot.keyClick(edits[-1], Qt.Key.Key_Return)


def choose(window: Window, qtbot: QtBot, start: float, stop: float) -> None:
    window.session.player.seek(start)
    press(window, qtbot, "[")
    window.session.player.seek(stop)
    press(window, qtbot, "]")


def test_a_drifting_track_comes_within_tolerance_by_mouse_and_keys(ferry: Window, qtbot: QtBot) -> None:
    """The worst beat next, its ink pulled onto its thread; what was pinned before stays to the last bit."""
    session, view = ferry.session, align(ferry).fold
    press(ferry, qtbot, "F")
    beats = truth("Copper Ferry")["beats"]
    placed: list[Pin] = []
    for _ in range(12):
        over = left_over(ferry)
        if not placed or over.max() > 0:
            # also where following was enough, one beat is pulled: by the half of a row's height
            i = int(over.argmax())
            grid = session.track.preparation.grid
            assert grid is not None
            beat = float(np.round(grid.beat_at(beats[i])))
            goal, y = view.place_of(beat)
            y += view.row_height / 2
            # in the row that the beat belongs to: a bar's early ink is seen in its lead-in, too
            x = goal + (float(grid.beat_at(beats[i])) - beat) / view.rows.width * view._columns()  # type: ignore[union-attr]
            goal = goal if abs(goal - x) >= 4 else x + 4
            others = [q for q in placed if q.beat != beat]
            # where the attack is not the beat, it is pulled again, freely
            drag(view, (x, y), (goal, y), shift=len(others) < len(placed))
            assert session.track.undo_name == "Pull onto its thread"
            placed = [q for q in session.track.preparation.grid.pins if q.hand]  # type: ignore[union-attr]
            assert set(others) <= set(placed) and len(placed) == len(others) + 1
    assert left_over(ferry).max() <= 0
    press(ferry, qtbot, "Ctrl+Z")
    assert session.track.redo_name == "Pull onto its thread"


def test_the_spot_check(ferry: Window, qtbot: QtBot) -> None:
    session, view = ferry.session, align(ferry).spots
    follow(ferry, qtbot)
    press(ferry, qtbot, "Q")
    qtbot.waitUntil(view.isVisible)
    assert len(view.spots) == 5 and not any(s.seen for s in view.states)
    # an ink pulled 5 ms to the right: its beat was late for the eye, and comes earlier, on an attack if there is one
    row = view.rows(4)[2]
    r = view.plot(4)
    y = r.top() + 2.5 * r.height() / len(view.rows(4))
    pixels = 0.005 / view.reach * r.width() / 2
    drag(view, (r.center().x(), y), (r.center().x() + pixels, y), shift=True)
    grid = session.track.preparation.grid
    assert grid is not None
    pinned = next(q for q in grid.pins if q.hand)
    assert pinned.beat == row.beat and pinned.time == pytest.approx(row.time - 0.005, abs=1e-6)
    press(ferry, qtbot, "Ctrl+Z")
    press(ferry, qtbot, "I")
    assert (view.current, ferry.session.player.position) == (0, pytest.approx(view.spots[0].start))
    for seen in range(5):
        assert session.track.preparation.readiness == pr.DRAFT
        press(ferry, qtbot, "X")
        assert sum(s.seen for s in view.states) == seen + 1
    assert session.track.preparation.readiness == pr.CHECKED
    assert "checked" in ferry.note.text.text()
    tick = view._tick(2).center()
    qtbot.mouseClick(view, Qt.MouseButton.LeftButton, pos=tick.toPoint())
    assert session.track.preparation.readiness == pr.DRAFT
    qtbot.mouseClick(view, Qt.MouseButton.LeftButton, pos=tick.toPoint())
    assert session.track.preparation.readiness == pr.CHECKED
    press(ferry, qtbot, ".")
    assert session.track.preparation.readiness == pr.DRAFT
    assert not any(s.seen for s in view.states)
    press(ferry, qtbot, "Up")
    assert view.reach < 0.06
    press(ferry, qtbot, "Esc")
    assert align(ferry).pages.seen == "fold"


def test_values_are_typed_and_bad_ones_say_what_is_wrong(ferry: Window, qtbot: QtBot) -> None:
    session, form = ferry.session, align(ferry).line
    press(ferry, qtbot, "Alt+L")
    assert "Choose a part first" in ferry.note.text.text()
    choose(ferry, qtbot, 40.0, 60.0)
    press(ferry, qtbot, "Alt+L")
    assert form.isVisible() and [f.name for f in form.fields] == ["from", "to"]
    type_in(ferry, qtbot, "115", "5")
    assert "Tempo must lie between 20 and 999 BPM, not 5" in ferry.note.text.text()
    assert form.isVisible() and session.track.undo_name is None
    type_in(ferry, qtbot, "115 bpm", "112")
    assert not form.isVisible() and session.track.undo_name == "Ramp"
    grid = session.track.preparation.grid
    assert grid is not None and grid.tempo_at(41.0) > grid.tempo_at(50.0) > grid.tempo_at(58.0)
    press(ferry, qtbot, "Alt+T")
    type_in(ferry, qtbot, "0.1", "20")
    assert "between 1 and 100 ms" in ferry.note.text.text()
    type_in(ferry, qtbot, "6", "20 ms")
    assert (session.track.preparation.tolerance.tight, session.track.preparation.tolerance.loose) == (6, 20)
    press(ferry, qtbot, "Alt+T")
    qtbot.keyClick(form.edits[0], Qt.Key.Key_Return)
    assert not form.isVisible()
    press(ferry, qtbot, "M")
    qtbot.keyClick(form.edits[0], Qt.Key.Key_Escape)
    assert not form.isVisible()
    panel = align(ferry).panel
    panel.turn_to(1)
    for edit, text in zip(panel.part_edges, ("0:10", "0:09"), strict=True):
        edit.setText(text)
    qtbot.keyClick(panel.part_edges[1], Qt.Key.Key_Return)
    assert "end after it begins" in ferry.note.text.text()
    for edit, text in zip(panel.part_edges, ("0:10", "20.5 s"), strict=True):
        edit.setText(text)
    qtbot.keyClick(panel.part_edges[1], Qt.Key.Key_Return)
    assert ferry.session.part.value == (10.0, 20.5)
    panel.tempo.setText("113")
    qtbot.keyClick(panel.tempo, Qt.Key.Key_Return)
    assert "113 BPM is set, but beats lie up to" in ferry.note.text.text()


def test_all_bars_get_a_size_and_where_they_begin_is_heard(ferry: Window, qtbot: QtBot) -> None:
    session, form = ferry.session, align(ferry).line
    before = session.track.preparation
    assert before.grid is not None
    press(ferry, qtbot, "Ctrl+M")
    assert [e.text() for e in form.edits] == ["4"] and "All bars" in form.edits[0].accessibleName()
    type_in(ferry, qtbot, "17")
    assert "must be whole and lie between 2 and 16" in ferry.note.text.text() and form.isVisible()
    type_in(ferry, qtbot, "4")
    assert "Bars have 4 beats here already" in ferry.note.text.text()
    align(ferry).fold.setFocus()
    press(ferry, qtbot, "Ctrl+M")
    assert ferry.focusWidget() is form.edits[0]
    type_in(ferry, qtbot, "5")
    # keys go to the fold again
    assert ferry.focusWidget() is align(ferry).fold
    grid = session.track.preparation.grid
    assert session.track.undo_name == "Set beats a bar" and grid is not None
    assert {m.beats_per_bar for m in grid.meter} == {5} and np.array_equal(grid.times, before.grid.times)
    press(ferry, qtbot, "Ctrl+Z")
    assert session.track.preparation == before
    # a part alone: what lies outside keeps its bars
    choose(ferry, qtbot, 40.0, 60.0)
    press(ferry, qtbot, "Ctrl+M")
    assert "this part" in form.edits[0].accessibleName()
    type_in(ferry, qtbot, "3")
    assert session.part.value is None
    grid = session.track.preparation.grid
    assert grid is not None and grid.beats_per_bar(float(grid.beat_at(50.0))) == 3
    assert grid.beats_per_bar(float(grid.beat_at(20.0))) == grid.beats_per_bar(float(grid.beat_at(80.0))) == 4


def test_tempo_from_two_points(ferry: Window, qtbot: QtBot) -> None:
    downs = truth("Copper Ferry")["downbeats"]
    ferry.session.player.seek(float(downs[2]))
    press(ferry, qtbot, "Alt+D")
    assert "First downbeat marked" in ferry.note.text.text()
    ferry.session.player.seek(float(downs[40]))
    press(ferry, qtbot, "Alt+D")
    assert align(ferry).line.edits[0].text() == "38"
    qtbot.keyClick(align(ferry).line.edits[0], Qt.Key.Key_Return)
    grid = ferry.session.track.preparation.grid
    assert grid is not None and len(grid.pins) == 2
    assert grid.tempo_overall() == pytest.approx(60 * 38 * 4 / (downs[40] - downs[2]), rel=1e-3)


def test_find_a_command_by_plain_words(ferry: Window, qtbot: QtBot) -> None:
    before = ferry.session.track.preparation.grid
    press(ferry, qtbot, "/")
    finder = ferry.findChild(Finder)
    assert finder is not None
    qtbot.keyClicks(finder.text, "no such thing")
    assert finder.nothing.isVisible() and not finder.list.count()
    finder.text.clear()
    qtbot.keyClicks(finder.text, "second beat")
    assert finder.list.item(0).text() == "Count every second beat"  # type: ignore[union-attr]
    qtbot.keyClick(finder.text, Qt.Key.Key_Return)
    after = ferry.session.track.preparation.grid
    assert before is not None and after is not None
    assert after.tempo_overall() == pytest.approx(before.tempo_overall() / 2)
    press(ferry, qtbot, "F1")
    sheet = ferry.findChild(KeySheet)
    assert sheet is not None and sheet.width() <= 1400


def test_mix_zones_and_tolerance_are_dragged(ferry: Window, qtbot: QtBot) -> None:
    session, view, panel = ferry.session, align(ferry).overview, align(ferry).panel
    follow(ferry, qtbot)
    (_, end), second = session.track.preparation.mix_zones
    y = float(view.height() // 2)
    drag(view, (view.x_of(end), y), (view.x_of(40.0), y))
    (_, now), same = session.track.preparation.mix_zones
    grid = session.track.preparation.grid
    assert grid is not None and same == second
    assert now == pytest.approx(float(grid.time_at(grid.bar_line_near(40.0))), abs=0.8)
    assert float(grid.bar_index(round(float(grid.beat_at(now)), 6))[1]) == pytest.approx(0, abs=1e-5)
    # let go by Escape, it stays
    mouse(view, QEvent.Type.MouseButtonPress, view.x_of(now), y)
    mouse(view, QEvent.Type.MouseMove, view.x_of(70.0), y)
    assert session.track.shown.mix_zones != session.track.preparation.mix_zones
    qtbot.keyClick(view, Qt.Key.Key_Escape)
    mouse(view, QEvent.Type.MouseButtonRelease, view.x_of(70.0), y)
    assert (
        session.track.shown.mix_zones
        == session.track.preparation.mix_zones
        == ((session.track.preparation.mix_zones[0][0], now), second)
    )
    choose(ferry, qtbot, 41.0, 60.0)
    press(ferry, qtbot, "Shift+M")
    assert len(session.track.preparation.mix_zones) == 3
    choose(ferry, qtbot, 45.0, 50.0)
    press(ferry, qtbot, "Shift+M")
    assert len(session.track.preparation.mix_zones) == 2
    pins = len(grid.pins)
    slider = panel.tolerances[1].slider
    slider.setFocus()
    slider.setSliderDown(True)
    slider.setValue(4)
    qtbot.waitUntil(lambda: "within 8, 8 ms" in panel.follow.text())
    assert len(session.track.preparation.grid.pins) == pins  # type: ignore[union-attr]
    slider.setSliderDown(False)
    assert session.track.undo_name == "Set tolerance" and session.track.preparation.tolerance.loose == 8
    assert f"{len(session.track.preparation.grid.pins)} pins" in panel.verdict.text()  # type: ignore[union-attr]
    found = session.track.drift()
    assert found is not None and found[1].within == 1.0


def test_compare_and_go_back(ferry: Window, qtbot: QtBot) -> None:
    session = ferry.session
    press(ferry, qtbot, "Ctrl+L")
    locked = session.track.preparation.grid
    press(ferry, qtbot, "Ctrl+L")
    follow(ferry, qtbot)
    press(ferry, qtbot, "Shift+.")
    now = session.track.preparation.grid
    qtbot.waitUntil(lambda: len(session.offers.found) == 2)
    shown = []
    for _ in range(3):
        press(ferry, qtbot, "V")
        shown.append(session.track.shown.grid)
        assert session.track.preparation.grid == now
    assert shown[1] == locked and shown[2] == now and shown[0] not in (locked, now)
    for _ in range(2):
        press(ferry, qtbot, "V")
    assert "when last locked" in align(ferry).hint.text()
    press(ferry, qtbot, "Return")
    assert session.track.preparation.grid == locked and session.track.undo_name == "Go back to the locked grid"
    press(ferry, qtbot, "H")
    press(ferry, qtbot, "Ctrl+Shift+R")
    opened = recommend(heard_demo("Copper Ferry")[1], session.track.duration)
    assert session.track.preparation.grid == opened.grid != now
    press(ferry, qtbot, "Ctrl+U")
    edits = ferry.findChild(Edits)
    assert edits is not None
    assert edits.list.item(0).text().startswith("5   Go back to what was heard")  # type: ignore[union-attr]
    edits._take(edits.list.item(edits.list.count() - 2))  # type: ignore[arg-type]
    assert session.track.undo_name == "Follow the recording"
    assert session.track.redo_name == "Slide grid"


def test_the_table_twin(ferry: Window, qtbot: QtBot) -> None:
    session, tables = ferry.session, align(ferry).tables
    follow(ferry, qtbot)
    press(ferry, qtbot, "Shift+Q")
    rows = tables.pins.rows
    grid = session.track.preparation.grid
    assert grid is not None
    assert rows.rowCount() == len(grid.pins) and tables.bars.rows.rowCount() > 40 and tables.spots.rows.rowCount() == 5
    assert rows.lines[1][0] == grid.name_at(grid.pins[1].beat) and rows.lines[1][4] == "fit"
    rows.setData(rows.index(1, 1), "later")
    assert "'later' is not a time" in ferry.note.text.text()
    rows.setData(rows.index(1, 1), f"{grid.pins[1].time + 0.002:.6f}")
    moved = session.track.preparation.grid.pins[1]  # type: ignore[union-attr]
    assert moved.hand and moved.time == pytest.approx(grid.pins[1].time + 0.002, abs=1e-6)
    assert rows.lines[1][4] == "hand"
    tables.pins.setCurrentIndex(rows.index(1, 0))
    qtbot.keyClick(tables.pins, Qt.Key.Key_Delete)
    assert rows.rowCount() == len(grid.pins) - 1
    tables.pins.setCurrentIndex(rows.index(2, 0))
    qtbot.keyClick(tables.pins, Qt.Key.Key_Return)
    assert ferry.session.player.position == pytest.approx(session.track.preparation.grid.pins[2].time)  # type: ignore[union-attr]


def test_a_hit_is_picked_by_clicking_it(ferry: Window, qtbot: QtBot) -> None:
    """A syncopated reading: Ctrl and a click on the hit that is the beat, in the close-up or in the fold."""
    session = ferry.session
    heard = session.track.heard
    assert heard is not None
    between = float((heard.times[60] + heard.times[61]) / 2)
    ferry.session.player.seek(between)
    view = align(ferry).closeup
    where = QPoint(round(view.x_of(between)), view.height() // 2)
    QTest.mouseClick(view, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ControlModifier, where)
    assert session.track.undo_name == "This is a beat"
    pin = next(q for q in session.track.preparation.grid.pins if q.hand)  # type: ignore[union-attr]
    assert pin.time == pytest.approx(between, abs=0.03)
    press(ferry, qtbot, "Alt+V")
    assert view.halves and align(ferry).fold.halves


LEFT_OUT = ("demo", "take-out", "take-out-wholly", "quit", "close")


def test_a_locked_track_refuses_every_command_and_no_command_needs_a_track(
    window: Window, ferry: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    session = ferry.session
    for dialog in (Finder, KeySheet, Edits):
        monkeypatch.setattr(dialog, "open", lambda self: None)
    monkeypatch.setattr(QFileDialog, "getOpenFileNames", lambda *_: ([], ""))
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: ("", ""))
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_, **__: ("", ""))
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *_, **__: "")
    monkeypatch.setattr(QMenu, "exec", lambda *_: None)
    press(ferry, qtbot, "Ctrl+L")
    kept = session.track.preparation
    # what belongs to the library changes no track, and what takes one out of it is undone there; some end the window
    all_commands = [c for c in window.table.commands if c.name not in LEFT_OUT]
    for command in all_commands:
        choose(ferry, qtbot, 30.0, 60.0)
        if command.name not in ("lock", "readiness"):
            ferry.run(command)
            if align(ferry).line.isVisible():
                align(ferry).line.take()
                align(ferry).line.close_line()
        assert session.track.preparation == kept, command.words
    with pytest.raises(Refused, match="locked"):
        # batch work, which knows nothing of the window
        session.library.edit(session.track.row.id, "Batch", pr.Preparation())  # type: ignore[union-attr]
    session.queue.forget([session.track.row.id])  # type: ignore[union-attr]
    for command in all_commands:
        ferry.run(command)
    assert session.track.row is None


def test_two_hundred_edits_back_and_forth_across_a_restart(ferry: Window, qtbot: QtBot) -> None:
    session, rng = ferry.session, random.Random(5)
    track = session.track.row
    assert track is not None
    values = [session.track.preparation]
    choices = [
        lambda: session.track.apply(grid_edits.slide, rng.uniform(-20, 20)),
        lambda: (
            len(session.track.preparation.cues) < 8
            and session.track.apply(cue_edits.add_cue, rng.uniform(1, 90), snap=cue_edits.FREE)
        ),
        lambda: (
            session.track.preparation.cues
            and session.track.apply(cue_edits.delete_cue, rng.choice(session.track.preparation.cues).id)
        ),
        lambda: session.track.apply(
            grid_edits.move_pin, 0, session.track.preparation.grid.pins[0].time + rng.uniform(-0.01, 0.01)
        ),  # type: ignore[union-attr]
        lambda: session.track.apply(count_edits.slide_beats, rng.choice([-0.5, 0.5])),
        lambda: session.track.apply(track_edits.write_notes, str(rng.random())),
        lambda: session.track.apply(track_edits.set_tolerance, rng.uniform(2, 9), rng.uniform(10, 20)),
    ]
    while len(values) < 201:
        if rng.choice(choices)():
            values.append(session.track.preparation)
        if len(values) % 10 == 0:
            # the event loop comes round, as it does between two hands' edits
            qtbot.wait(1)
    for value in values[-2::-1]:
        session.track.undo()
        assert session.track.preparation == value
        if rng.random() < 0.1:
            qtbot.wait(1)
    assert session.track.undo_name is None
    # forth again in a library opened anew, as after a restart
    path = session.library.path
    assert path is not None
    again = Library(path)
    assert len(again.names(track.id)[0]) == 200
    for value in values[1:]:
        assert again.redo(track.id)
        assert again.history(track.id).preparation == value
    again.close()


def test_handing_over_asks_before_it_replaces_and_never_touches_a_recording(
    ferry: Window, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    session, answers, shown = ferry.session, [False, True], list[str]()
    song, again = tmp_path / "Song.ogg", tmp_path / "x.jams"
    song.write_bytes(session.track.row.path.read_bytes())
    before = song.read_bytes()

    def give(path: Path) -> None:
        monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_, **__: (str(path), ""))
        ferry.ask("export", exchange.JAMS)

    def answer() -> None:
        box = QApplication.activeModalWidget()
        if not isinstance(box, QMessageBox):
            QTimer.singleShot(10, answer)
            return
        shown.append(box.text())
        wanted = "Replace it" if answers.pop(0) else "Keep it"
        QTest.mouseClick(next(b for b in box.buttons() if b.text() == wanted), Qt.MouseButton.LeftButton)

    for path in (song, session.track.row.path):
        give(path)
        assert "recording" in ferry.note.text.text()
    assert song.read_bytes() == before
    give(again)
    assert ferry.note.text.text() == f"Written: {again}"
    first = again.read_bytes()
    press(ferry, qtbot, ".")
    for changed in (False, True):
        QTimer.singleShot(0, answer)
        give(again)
        assert (again.read_bytes() != first) == changed
    assert len(shown) == 2 and shown[0].startswith("x.jams is there already: JAMS, ") and "KB, written" in shown[0]


def test_names_are_words_and_never_markup(window: Window, qtbot: QtBot, tmp_path: Path) -> None:
    """A file may be called anything: it is shown as it is, in one line, in notes, headings, lists and tips."""
    path = tmp_path / "<b>bold<b> & <img src=x>\nsecond\u202eline.ogg"
    path.symlink_to(places.demo_folder() / "Salt Ledger.ogg")
    title = "<b>bold<b> & <img src=x>·second·line"
    session = window.session
    track, _ = session.library.add(path)
    session.catalogue.reread()
    session.open(track.id)
    assert session.track.row.title == title and align(window).panel.title.text() == title
    session.say.problem(f"{title} can't be read")
    labels = window.findChildren(QLabel)
    assert any(title in x.text() for x in labels) and all(x.textFormat() == Qt.TextFormat.PlainText for x in labels)
    tip = tip_of(title)
    document = QTextDocument()
    document.setHtml(tip) if Qt.mightBeRichText(tip) else document.setPlainText(tip)
    assert document.toPlainText() == title
