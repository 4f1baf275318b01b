"""Work by ear in the real window, on a fake clock: reference beat, loops, nudging, the tour, tapping, borrowing."""

from __future__ import annotations

import numpy as np
import pytest
from PyQt6.QtCore import QEvent, QPointF, Qt
from PyQt6.QtGui import QDragEnterEvent, QDragMoveEvent, QDropEvent
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from mervid.core.edits import grid_edits, track_edits
from mervid.core.fitting.drift import lately
from mervid.core.model import preparation as pr
from mervid.core.model.beatgrid import Pin, steady
from mervid.core.model.preparation import LOCKED
from mervid.core.playing import reference_beat
from mervid.core.playing.mixing import render
from mervid.desk.widgets.borrow_dialog import BorrowDialog
from mervid.desk.window import Window
from tests.conftest import RATE, VOICE, truth
from tests.desk.conftest import FakeTime, align, put
from tests.desk.test_align import drag, mouse, press


def listen_to(window: Window, clock: FakeTime, at: float) -> None:
    """Play from `at` s with the reference beat."""
    window.session.player.seek(at)
    window.transport.click.setChecked(True)
    window.session.player.play()
    pass_by(window, clock, 0.0)


def pass_by(window: Window, clock: FakeTime, seconds: float) -> float:
    """Let time pass, and say where the playhead is."""
    clock.now += seconds
    window.session.player.tick()
    return window.session.player.position


def test_the_reference_beat_is_chosen_balanced_and_split(ferry: Window, qtbot: QtBot) -> None:
    program = lambda: ferry.session.player.program  # noqa: E731
    assert program().beat == reference_beat.OFF
    press(ferry, qtbot, "K")
    assert program().beat == reference_beat.CLICK
    press(ferry, qtbot, "Shift+K")
    assert program().beat == reference_beat.KICK_HAT
    assert ferry.transport.choice.text().startswith("Kick and hat")
    press(ferry, qtbot, "Alt+K")
    press(ferry, qtbot, "Ctrl+K")
    ferry.transport.balance.setValue(40)
    assert (program().halves, program().split, program().balance) == (True, True, 0.4)
    # it follows the loudness of this track
    np.testing.assert_array_equal(program().loudness, ferry.session.track.evidence.loudness)
    sound = render(program(), 30 * RATE, RATE)
    assert np.abs(sound[:, 1]).max() > 0.05
    qtbot.mouseClick(ferry.transport.click, Qt.MouseButton.LeftButton)
    assert program().beat == reference_beat.OFF


def test_a_loop_of_bars_goes_round_and_follows_a_nudged_grid(ferry: Window, qtbot: QtBot, clock: FakeTime) -> None:
    player, session = ferry.session.player, ferry.session
    grid = session.track.preparation.grid
    start, stop = (float(t) for t in grid.time_at([40, 56]))
    player.seek(float(grid.time_at(41.5)))
    press(ferry, qtbot, "Ctrl+J")
    assert player.program.loop == pytest.approx((start, stop))
    assert ferry.transport.loop.isChecked()
    listen_to(ferry, clock, start + 1.0)
    assert pass_by(ferry, clock, stop - start) == pytest.approx(start + 1.0, abs=1e-3)
    press(ferry, qtbot, "Alt+Down")
    assert player.program.loop == pytest.approx((start, float(grid.time_at(48))))
    # nudged by 10 ms: beat and loop move in the same breath
    press(ferry, qtbot, "Shift+.")
    assert player.program.loop == pytest.approx((start + 0.01, float(grid.time_at(48)) + 0.01))
    assert player.program.grid is session.track.preparation.grid
    press(ferry, qtbot, "Ctrl+J")
    assert player.program.loop is None
    # a chosen part is what goes round
    session.part.choose((20.0, 24.0))
    press(ferry, qtbot, "Ctrl+J")
    beats = session.track.preparation.grid.beat_at(player.program.loop)
    np.testing.assert_allclose(beats, np.rint(beats), atol=1e-6)
    assert player.program.loop == pytest.approx((20.0, 24.0), abs=0.3)


def test_jumps_while_playing_stay_on_the_beat(ferry: Window, qtbot: QtBot, clock: FakeTime) -> None:
    grid = ferry.session.track.preparation.grid
    listen_to(ferry, clock, 20.0)
    for keys, beats in (("Right", 1), ("Shift+Right", 4), ("Left", -1)):
        before = float(grid.beat_at(pass_by(ferry, clock, 0.7)))
        press(ferry, qtbot, keys)
        assert float(grid.beat_at(pass_by(ferry, clock, 0.0))) == pytest.approx(before + beats, abs=1e-3)
    # phrases begin where they are heard; the place inside the beat stays
    starts = np.array([q.start for q in ferry.session.track.form.phrases])
    for keys in ("Ctrl+Right", "Ctrl+Left"):
        before = float(grid.beat_at(pass_by(ferry, clock, 0.7)))
        press(ferry, qtbot, keys)
        after = float(grid.beat_at(pass_by(ferry, clock, 0.0)))
        assert after - before == pytest.approx(round(after - before), abs=1e-3)
        assert np.abs(starts - after).min() <= 0.5
    press(ferry, qtbot, "Alt+H")
    assert ferry.transport.half.isChecked()
    here = pass_by(ferry, clock, 0.0)
    assert pass_by(ferry, clock, 2.0) == pytest.approx(here + 1.0, abs=1e-3)


def test_nudging_while_it_plays_is_heard_at_once(ferry: Window, qtbot: QtBot, clock: FakeTime) -> None:
    session, player = ferry.session, ferry.session.player
    press(ferry, qtbot, "S")
    listen_to(ferry, clock, 30.0)
    reel = player._clock._reel
    before = session.track.preparation.grid
    for keys, by in (("Ctrl+Up", 0.01), ("Ctrl+Shift+Up", 0.001), ("Ctrl+Down", -0.01)):
        tempo = session.track.preparation.grid.tempo_overall()
        press(ferry, qtbot, keys)
        assert session.track.preparation.grid.tempo_overall() == pytest.approx(tempo + by, abs=1e-9)
        assert float(session.track.preparation.grid.time_at(0)) == pytest.approx(float(before.time_at(0)), abs=1e-9)
        # what is handed out next is along the new grid, without a stop
        assert reel.program.grid is session.track.preparation.grid
        assert player.playing
    align(ferry).panel.turn_to(4)
    jog = align(ferry).panel.ear.slide
    first = float(session.track.preparation.grid.pins[0].time)
    mouse(jog, QEvent.Type.MouseButtonPress, 40, 12)
    mouse(jog, QEvent.Type.MouseMove, 65, 12)
    # heard while it is dragged, kept when it is let go
    assert reel.program.grid.pins[0].time == pytest.approx(first + 0.005)
    assert session.track.preparation.grid.pins[0].time == pytest.approx(first)
    mouse(jog, QEvent.Type.MouseButtonRelease, 65, 12)
    assert session.track.preparation.grid.pins[0].time == pytest.approx(first + 0.005)
    drag(align(ferry).panel.ear.tempo, (10, 12), (35, 12))
    assert session.track.undo_name == "Change the tempo"
    for _ in range(6):
        press(ferry, qtbot, "Ctrl+Z")
    assert float(session.track.preparation.grid.time_at(0)) == pytest.approx(float(before.time_at(0)))


def test_the_meter_says_early_or_late_over_two_bars(ferry: Window, qtbot: QtBot, clock: FakeTime) -> None:
    align(ferry).panel.turn_to(4)
    meter = align(ferry).panel.ear.meter
    listen_to(ferry, clock, 40.0)
    trace, _ = ferry.session.track.drift()
    assert meter.value == pytest.approx(lately(trace, ferry.session.track.grid, 40.0))
    was = meter.value
    press(ferry, qtbot, "Shift+.")
    assert meter.value == pytest.approx(was - 10, abs=0.6)
    assert meter.words.endswith("early" if meter.value < 0 else "late")
    ferry.session.player.seek(0.0)
    assert meter.words == "nothing heard here"


def test_the_tour_plays_two_bars_at_each_place(ferry: Window, qtbot: QtBot, clock: FakeTime) -> None:
    session, player, grid = ferry.session, ferry.session.player, ferry.session.track.preparation.grid
    press(ferry, qtbot, "Shift+X")
    assert "No listening check is running" in ferry.note.text.text()
    press(ferry, qtbot, "Alt+Q")
    assert align(ferry).pages.seen == "spots"
    assert player.playing
    assert player.program.beat != reference_beat.OFF
    heard = []
    for k in range(2):
        a, b = (float(x) for x in grid.beat_at(player.program.loop))
        heard.append(round(a))
        assert b - a == pytest.approx(8, abs=0.01)
        assert session.spots.current == k
        press(ferry, qtbot, "X")
    assert heard == sorted(set(heard))
    assert sum(s.seen for s in session.spots.states()) == 2
    press(ferry, qtbot, "Shift+X")
    assert player.playing
    assert player.program.loop is not None
    assert "Mend it here" in ferry.note.text.text()
    press(ferry, qtbot, "Alt+Q")
    for _ in range(3):
        press(ferry, qtbot, "X")
    assert session.track.preparation.readiness == pr.CHECKED
    assert not ferry.session.listening.touring
    assert not player.playing


def tap_along(window: Window, qtbot: QtBot, clock: FakeTime, times: np.ndarray, down: np.ndarray) -> None:
    """Strike the pad's keys when the music is at `times` s, which runs from its first tap on."""
    pad = align(window).pad
    zero = clock.now - window.session.player.now()
    for at, one in zip(times, down, strict=True):
        clock.now = zero + float(at)
        qtbot.keyClick(pad, Qt.Key.Key_Return if one else Qt.Key.Key_Space)


def test_tapping_with_a_calibrated_hand_gives_a_precise_grid(ferry: Window, qtbot: QtBot, clock: FakeTime) -> None:
    rng = np.random.default_rng(4)
    session, player, tapping = ferry.session, ferry.session.player, ferry.session.tapping
    # this hand is 40 ms late, on the calibration click, too
    press(ferry, qtbot, "0")
    press(ferry, qtbot, "Ctrl+0")
    assert tapping.calibrating
    assert player.program.samples is not session.track.samples
    clicks = 1.0 + np.arange(23) * 0.6 + 0.04 + rng.normal(0, 0.025, 23)
    tap_along(ferry, qtbot, clock, clicks, np.zeros(23, bool))
    assert not tapping.calibrating
    assert player.program.samples is session.track.samples
    assert tapping.delay == pytest.approx(0.04, abs=0.015)
    assert "You tap" in ferry.note.text.text()
    # a grid far from right, then most of a minute of taps, two beats left out
    session.track.apply(grid_edits.set_tempo, 150.0)
    beats, downs = truth("Copper Ferry")["beats"], truth("Copper Ferry")["downbeats"]
    part = beats[(beats > 12) & (beats < 57)]
    kept = np.delete(part, [17, 44])
    down = np.isin(kept, downs)
    times = kept + 0.04 + rng.normal(0, 0.025, len(kept))
    order = np.argsort(times)
    player.seek(11.0)
    qtbot.keyClick(align(ferry).pad, Qt.Key.Key_Space)
    assert player.playing
    tap_along(ferry, qtbot, clock, times[order], down[order])
    assert len(tapping.taps) == len(kept)
    assert tapping.reading.enough
    assert tapping.reading.tempo == pytest.approx(113.5, abs=1.5)
    qtbot.keyClick(align(ferry).pad, Qt.Key.Key_Return, Qt.KeyboardModifier.ControlModifier)
    grid = session.track.preparation.grid
    error = grid.time_at(np.round(grid.beat_at(beats[:-1]))) - beats[:-1]
    assert np.median(np.abs(error)) < 0.008
    assert (grid.bar_index(np.round(grid.beat_at(downs[1:-1])))[1] == 0).mean() > 0.95
    assert session.track.undo_name == "Tap along"
    press(ferry, qtbot, "Ctrl+Z")
    assert session.track.preparation.grid.tempo_overall() == pytest.approx(150.0)


def test_the_pad_by_mouse_says_what_is_missing(ferry: Window, qtbot: QtBot, clock: FakeTime) -> None:
    press(ferry, qtbot, "0")
    pad, tapping = align(ferry).pad, ferry.session.tapping
    qtbot.mouseClick(align(ferry).tap_clear, Qt.MouseButton.LeftButton)
    qtbot.keyClick(pad, Qt.Key.Key_Return, Qt.KeyboardModifier.ControlModifier)
    assert "Tap at least 5 beats first" in ferry.note.text.text()
    middle = pad._pad().center().toPoint()
    qtbot.mouseClick(pad, Qt.MouseButton.LeftButton, pos=middle)
    for k in range(6):
        clock.now += 0.5
        button = Qt.MouseButton.RightButton if k == 4 else Qt.MouseButton.LeftButton
        qtbot.mouseClick(pad, button, pos=middle)
    assert [t.down for t in tapping.taps] == [False] * 4 + [True, False]
    assert tapping.reading.tempo == pytest.approx(120, abs=0.1)
    # a rest, or music that jumped back, begins another row
    ferry.session.player.seek(2.0)
    qtbot.mouseClick(pad, Qt.MouseButton.LeftButton, pos=middle)
    assert len(tapping.taps) == 1
    qtbot.keyClick(pad, Qt.Key.Key_Escape)
    assert align(ferry).pages.seen == "fold"
    press(ferry, qtbot, "Space")
    assert not ferry.session.player.playing


def dialog(window: Window, qtbot: QtBot) -> BorrowDialog:
    qtbot.waitUntil(lambda: bool(window.findChildren(BorrowDialog)))
    return window.findChildren(BorrowDialog)[-1]


def right(window: Window) -> bool:
    """Whether the open voice's grid is true within 5 ms."""
    grid, beats = window.session.track.preparation.grid, truth(VOICE)["beats"][:-1]
    return bool(np.abs(grid.time_at(np.round(grid.beat_at(beats))) - beats).max() < 0.005)


@pytest.fixture
def choir(window: Window) -> Window:
    """The voice open, its song pinned true, and a stranger in the library."""
    full = put(window, "Lamplighter")
    put(window, "Copper Ferry")
    window.session.open(full)
    pins = tuple(Pin(float(t), float(i)) for i, t in enumerate(truth("Lamplighter")["beats"]))
    grid = pr.Grid(pins)
    window.session.track.apply(track_edits.take_over, grid, ())
    window.session.open(put(window, VOICE))
    return window


def test_borrowing_by_dialog_and_refusing_the_wrong_sibling(choir: Window, qtbot: QtBot) -> None:
    session = choir.session
    before = session.track.preparation
    press(choir, qtbot, "Ctrl+B")
    box = dialog(choir, qtbot)
    names = [box.list.item(i).text() for i in range(box.list.count())]
    assert names == ["Lamplighter", "Copper Ferry"]
    box.list.setCurrentRow(1)
    qtbot.waitUntil(lambda: bool(choir.session.borrowing.refusal))
    assert box.words.text().startswith("These don't fit: of ")
    assert not box.take.isEnabled()
    box.list.setCurrentRow(0)
    qtbot.waitUntil(lambda: choir.session.borrowing.match is not None)
    assert "This recording begins 0:08.200 into it and runs as fast." in box.words.text()
    qtbot.mouseClick(box.take, Qt.MouseButton.LeftButton)
    assert right(choir)
    assert session.track.undo_name == "Borrow the grid"
    assert "borrowed from Lamplighter" in choir.note.text.text()
    qtbot.mouseClick(choir.header.buttons["undo"], Qt.MouseButton.LeftButton)
    assert session.track.preparation == before


def test_borrowing_by_dragging_one_track_onto_another(choir: Window, qtbot: QtBot) -> None:
    model = choir.list.tracks
    row = {t.title: i for i, t in enumerate(choir.session.library.tracks())}
    choir.session.open(int(choir.session.shown.ids[row["Copper Ferry"]]))
    mime = model.mimeData([model.index(row["Lamplighter"])])
    onto = QPointF(choir.list.visualRect(model.index(row[VOICE])).center())
    copy, left, none = Qt.DropAction.CopyAction, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    view = choir.list.viewport()
    enter = QDragEnterEvent(onto.toPoint(), copy, mime, left, none)
    QApplication.sendEvent(view, enter)
    over = QDragMoveEvent(onto.toPoint(), copy, mime, left, none)
    QApplication.sendEvent(view, over)
    assert enter.isAccepted()
    assert over.isAccepted()
    QApplication.sendEvent(view, QDropEvent(onto, copy, mime, left, none))
    box = dialog(choir, qtbot)
    assert choir.session.track.row.title == VOICE
    assert box.list.currentItem().text() == "Lamplighter"
    qtbot.waitUntil(lambda: choir.session.borrowing.match is not None)
    qtbot.mouseClick(box.take, Qt.MouseButton.LeftButton)
    assert right(choir)


def test_what_is_locked_or_unheard_is_left_alone(choir: Window, qtbot: QtBot, clock: FakeTime) -> None:
    session = choir.session
    session.track.set_readiness(LOCKED)
    value = session.track.preparation
    for keys in ("Ctrl+B", "Ctrl+Up", "Ctrl+Shift+Down"):
        press(choir, qtbot, keys)
        assert "locked" in choir.note.text.text()
    mouse(align(choir).panel.ear.slide, QEvent.Type.MouseButtonPress, 40, 12)
    mouse(align(choir).panel.ear.slide, QEvent.Type.MouseMove, 90, 12)
    assert session.track.shown is value
    mouse(align(choir).panel.ear.slide, QEvent.Type.MouseButtonRelease, 90, 12)
    assert session.track.preparation is value
    assert not choir.findChildren(BorrowDialog)


def test_without_a_sibling_a_typed_tempo_and_a_downbeat_by_ear_will_do(choir: Window, qtbot: QtBot) -> None:
    session, beats = choir.session, truth(VOICE)["beats"]
    session.track.apply(track_edits.take_over, steady(tempo=100.0, first=0.0), ())
    choir.session.player.seek(float(truth(VOICE)["downbeats"][2]))
    choir.ask("tempo", f"{60 / np.median(np.diff(beats)):.2f}")
    session.track.apply(
        grid_edits.slide,
        (
            choir.session.player.position
            - float(session.track.grid.time_at(round(float(session.track.grid.beat_at(choir.session.player.position)))))
        )
        * 1000,
    )
    press(choir, qtbot, "D")
    near = beats[(beats > choir.session.player.position - 3) & (beats < choir.session.player.position + 3)]
    grid = session.track.preparation.grid
    assert np.abs(grid.time_at(np.round(grid.beat_at(near))) - near).max() < 0.05
    assert choir.transport.place.text().endswith(".1")
