"""Controllers in the real window: the pad board is played by mouse and keys, and its bytes do the rest."""

from __future__ import annotations

import sys
import threading
import time
from collections.abc import Callable
from pathlib import Path

import pytest
from PyQt6.QtCore import QPoint, Qt
from pytestqt.qtbot import QtBot

from mervid.core.cues import cue_edits
from mervid.core.pads.messages import CONTROL, NOTE, Control
from mervid.core.pads.pad_map import Level, PadMap, Press, Request, Turn
from mervid.desk.pads.ports import Ports, plain
from mervid.desk.widgets.pad_board import NAME, PadBoard
from mervid.desk.window import Window
from mervid.formats import pad_files
from tests.desk.conftest import FakeTime, align

LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def board(ferry: Window, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> PadBoard:
    monkeypatch.setenv("MERVID_DATA", str(tmp_path / "data"))
    ferry.session.pads.load()
    qtbot.keyClick(ferry, Qt.Key.Key_P, Qt.KeyboardModifier.AltModifier | Qt.KeyboardModifier.ShiftModifier)
    assert ferry.board is not None
    qtbot.waitExposed(ferry.board)
    return ferry.board


def test_pads_set_off_what_is_written_on_them_and_are_lit(ferry: Window, board: PadBoard, qtbot: QtBot) -> None:
    session = ferry.session
    session.track.apply(cue_edits.add_cue, 3.0, snap=cue_edits.DOWNBEAT)
    cue = session.track.preparation.cues[0]
    assert cue.slot == 0
    qtbot.waitUntil(lambda: board.pads[0].lit and not board.pads[1].lit)
    qtbot.mouseClick(board.pads[0], LEFT)
    qtbot.waitUntil(lambda: session.player.position == pytest.approx(cue.at(session.track.grid)))
    play = next(p for p in board.pads if p.text() == "Play or pause")
    qtbot.mouseClick(play, LEFT)
    qtbot.waitUntil(lambda: session.player.playing and play.lit)
    qtbot.keyClick(play, Qt.Key.Key_Space)
    qtbot.waitUntil(lambda: not session.player.playing and not play.lit)


def test_a_wheel_slides_the_grid_and_nudges_in_rehearse(ferry: Window, board: PadBoard, qtbot: QtBot) -> None:
    track = ferry.session.track
    before = track.grid.pins[0].time
    for _ in range(3):
        qtbot.keyClick(board.wheels[0], Qt.Key.Key_Up)
    qtbot.waitUntil(lambda: track.grid.pins[0].time == pytest.approx(before + 0.003))
    qtbot.mousePress(board.wheels[0], LEFT, pos=QPoint(20, 60))
    qtbot.mouseMove(board.wheels[0], QPoint(20, 79))
    qtbot.mouseRelease(board.wheels[0], LEFT, pos=QPoint(20, 79))
    qtbot.waitUntil(lambda: track.grid.pins[0].time == pytest.approx(before))
    ferry.go_to_stage("phrase")
    qtbot.keyClick(board.wheels[0], Qt.Key.Key_Up)
    qtbot.waitUntil(lambda: "In Align, this pad is: slide the grid" in ferry.note.text.text())
    ferry.go_to_stage("rehearse")
    asked: list[tuple[str, object]] = []
    stage = ferry.stages["rehearse"]
    stage._handlers["slide"] = lambda by: asked.append(("slide", by))
    qtbot.keyClick(board.wheels[0], Qt.Key.Key_Down)
    qtbot.waitUntil(lambda: asked == [("slide", -1.0)])


def test_the_fader_sets_the_balance(ferry: Window, board: PadBoard, qtbot: QtBot) -> None:
    board.fader.setValue(board.fader.maximum())
    qtbot.waitUntil(lambda: ferry.transport.balance.value() == 100)
    board.fader.setValue(0)
    qtbot.waitUntil(lambda: ferry.transport.balance.value() == -100)


def test_a_pad_learns_by_a_key_and_a_move(ferry: Window, board: PadBoard, qtbot: QtBot) -> None:
    pads = ferry.session.pads
    qtbot.keyClick(ferry, Qt.Key.Key_P, Qt.KeyboardModifier.AltModifier)
    assert pads.choosing
    # the key says what; nothing is done by it
    before = ferry.session.track.preparation
    qtbot.keyClick(ferry, Qt.Key.Key_H)
    assert pads.lesson is not None and pads.lesson.wanted.argument == "halve"
    assert ferry.session.track.preparation is before
    qtbot.mouseClick(board.pads[15], LEFT)
    qtbot.waitUntil(lambda: pads.lesson is None)
    bound = pads.map_of(NAME).at(Control(NOTE, 1, 51))
    assert isinstance(bound, Press) and bound.does.argument == "halve"
    kept = pad_files.load(pad_files.own_folder() / f"{NAME}.toml")
    assert set(kept.bindings) == set(pads.map_of(NAME).bindings)
    assert board.pads[15].text() == "Count every second beat"
    tempo = ferry.session.track.grid.tempo_at(5.0)
    qtbot.mouseClick(board.pads[15], LEFT)
    qtbot.waitUntil(lambda: ferry.session.track.grid.tempo_at(5.0) == pytest.approx(tempo / 2))


def test_a_wheel_and_a_fader_learn_and_escape_lets_it_be(ferry: Window, board: PadBoard, qtbot: QtBot) -> None:
    pads = ferry.session.pads
    ferry.run(next(c for c in ferry.table.commands if c.name == "learn"))
    qtbot.keyClick(ferry, Qt.Key.Key_Period)
    for _ in range(3):
        qtbot.keyClick(board.wheels[1], Qt.Key.Key_Up)
    qtbot.waitUntil(lambda: pads.lesson is None)
    turn = pads.map_of(NAME).at(Control(CONTROL, 1, 21))
    assert isinstance(turn, Turn) and (turn.on.argument, turn.back.argument) == (1.0, -1.0)
    ferry.ask("learn-level", "tempo")
    board.fader.setValue(4000)
    board.fader.setValue(5000)
    qtbot.waitUntil(lambda: pads.lesson is None)
    assert pads.map_of(NAME).at(Control(CONTROL, 1, 7)) == Level(Control(CONTROL, 1, 7), "tempo", fine=True)
    ferry.ask("learn")
    qtbot.keyClick(ferry, Qt.Key.Key_Escape)
    assert not pads.choosing and "No pad was learned" in ferry.note.text.text()


def test_a_tap_lies_where_the_pad_was_struck_not_where_the_window_got_to(
    ferry: Window, board: PadBoard, qtbot: QtBot, clock: FakeTime
) -> None:
    session = ferry.session
    ferry.ask("tap-page")
    assert align(ferry).pages.seen == "tap"
    session.player.play()
    clock.now = 10.0
    session.player.tick()
    # struck in another thread, while the window is held up for a quarter of a second
    struck = threading.Thread(target=session.pads.ports.receive, args=(NAME, bytes([0x90, 46, 90])))
    struck.start()
    struck.join()
    time.sleep(0.25)
    qtbot.waitUntil(lambda: len(session.tapping.taps) == 1)
    assert session.tapping.taps[0].time == pytest.approx(session.player.now() - 0.25 - session.tapping.delay, abs=0.03)


def test_a_device_comes_and_goes_and_damaged_maps_are_named(ferry: Window, board: PadBoard, qtbot: QtBot) -> None:
    pads = ferry.session.pads

    class Cable:
        def __init__(self) -> None:
            self.sent: list[bytes] = []

        def send(self, data: bytes) -> None:
            raise OSError("pulled")

        def close(self) -> None:
            self.sent.append(b"closed")

    cable = Cable()
    pads.ports.plug("Quay Nine", cable)
    assert "Quay Nine is there. Nothing is learned" in ferry.note.text.text()
    # half messages, running status and what no hand made do no harm
    for data in (b"\x90", b"\x24", b"\x40\x25\x40", b"\xf0\x01\x02\xf7", b"\xff", bytes(range(256))):
        pads.ports.receive("Quay Nine", data)
    pads.ports.receive("nobody", b"\x90\x24\x40")
    pads.ports.send("Quay Nine", b"\x90\x24\x40")
    pads.ports.unplug("Quay Nine")
    assert cable.sent == [b"closed"] and "Quay Nine is gone" in ferry.note.text.text()
    board.close()
    assert NAME not in pads.ports.devices
    pad_files.own_folder().mkdir(parents=True, exist_ok=True)
    (pad_files.own_folder() / "bad.toml").write_text("device = 3")
    pads.load()
    assert any("bad.toml" in p for p in pads.problems)
    assert pads.take_file(pad_files.own_folder() / "bad.toml") is None


def test_without_a_midi_system_a_sentence_says_so(qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("mervid.desk.pads.ports.SEQUENCER", "/nowhere/seq")
    ports = Ports(look=False)
    ports.begin()
    assert "no MIDI system" in ports.problem
    ports.close()
    assert plain("Quay Nine:Quay Nine MIDI 1 20:0") == plain("Quay Nine:Quay Nine MIDI 1 24:0")


class _Wires:
    """A MIDI system of the test's own, with the interface of python-rtmidi: what is plugged in, and what it is told."""

    def __init__(self) -> None:
        self.ins: list[str] = []
        self.outs: list[str] = []
        self.callbacks: dict[str, Callable[[tuple[list[int], float], object], None]] = {}
        self.told: list[tuple[str, list[int]]] = []
        self.closed: list[str] = []
        wires = self

        class MidiIn:
            def __init__(self, name: str) -> None:
                self.port = ""

            def get_ports(self) -> list[str]:
                return list(wires.ins)

            def open_port(self, at: int, name: str) -> None:
                self.port = wires.ins[at]

            def ignore_types(self, **kinds: bool) -> None: ...

            def set_callback(self, heard: Callable[[tuple[list[int], float], object], None]) -> None:
                wires.callbacks[self.port] = heard

            def cancel_callback(self) -> None:
                wires.callbacks.pop(self.port, None)

            def close_port(self) -> None:
                wires.closed.append(self.port)

        class MidiOut(MidiIn):
            def get_ports(self) -> list[str]:
                return list(wires.outs)

            def open_port(self, at: int, name: str) -> None:
                self.port = wires.outs[at]

            def send_message(self, data: list[int]) -> None:
                wires.told.append((self.port, data))

        self.MidiIn, self.MidiOut = MidiIn, MidiOut


def test_controllers_of_the_system_are_heard_lit_and_may_be_pulled(
    ferry: Window, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setenv("MERVID_DATA", str(tmp_path / "data"))
    wires, ports = _Wires(), ferry.session.pads.ports
    monkeypatch.setattr("mervid.desk.pads.ports.SEQUENCER", str(tmp_path))
    monkeypatch.setitem(sys.modules, "rtmidi", wires)
    map_ = PadMap("Quay Nine", (Press(Control(NOTE, 1, 8), Request("play")),))
    pad_files.save(map_)
    ferry.session.pads.load()
    ports.begin()
    assert ports.devices == {}
    # plugged in while the program runs; the system gives it other numbers each time
    name = "Quay Nine:Quay Nine MIDI 1 24:0"
    wires.ins, wires.outs = ["Mervid:Mervid 128:0", name], [name]
    ports.look()
    assert list(ports.devices) == ["Quay Nine"]
    struck = threading.Thread(target=wires.callbacks[wires.ins[1]], args=(([0x90, 8, 99], 0.0), None))
    struck.start()
    struck.join()
    qtbot.waitUntil(lambda: ferry.session.player.playing)
    qtbot.waitUntil(lambda: wires.told[-1:] == [(wires.outs[0], [0x90, 8, 127])])
    ferry.session.player.pause()
    qtbot.waitUntil(lambda: wires.told[-1:] == [(wires.outs[0], [0x90, 8, 0])])
    # pulled, and plugged in again elsewhere: it does the same
    wires.ins, wires.outs = [], []
    ports.look()
    assert ports.devices == {} and wires.closed != []
    wires.ins = ["Quay Nine:Quay Nine MIDI 1 32:0"]
    ports.look()
    wires.callbacks[wires.ins[0]](([0x90, 8, 99], 0.0), None)
    qtbot.waitUntil(lambda: ferry.session.player.playing)
    ports.close()
