"""The transport's clockwork: silent clock, a device that comes, a device that dies, loops, jumps, half speed."""

from __future__ import annotations

import multiprocessing
import time

import attrs
import numpy as np
import pytest
from PyQt6.QtCore import QIODevice, QObject, pyqtSignal
from pytestqt.qtbot import QtBot

from mervid.core.model.beatgrid import Grid, Pin, steady
from mervid.core.playing import reference_beat
from mervid.core.playing.mixing import Jump, Program, Reel, render
from mervid.desk.sound import output
from mervid.desk.sound.output import DeviceOutput, SilentClock, Teller
from mervid.desk.sound.player import Player
from mervid.desk.sound.sound_process import STARTING, Clock, Feed, Maps
from tests.conftest import RATE
from tests.desk.conftest import FakeTime

PROGRAM = Program(
    np.random.default_rng(0).normal(0, 0.1, (10 * RATE, 2)).astype(np.float32), RATE, steady(tempo=120, first=0)
)


class FakeDevice(QObject):
    """A sound device whose clock the test turns."""

    found = pyqtSignal(dict, str)
    missing = pyqtSignal(str)
    died = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self.log: list[tuple[object, ...]] = []
        self.at = 0.0

    def start(self, program: Program, at: float) -> None:
        self.log.append(("start", at))
        self.at = at

    def change(self, program: Program, jump: Jump = Jump()) -> None:
        self.log.append(("change", program.beat, jump))
        if jump.to is not None:
            self.at = jump.to

    def choose(self, key: str) -> None:
        self.log.append(("choose", key))

    def stop(self) -> None:
        self.log.append(("stop",))

    def place(self) -> float:
        return self.at

    def close(self) -> None:
        self.log.append(("close",))


@pytest.fixture
def played(qtbot: QtBot, clock: FakeTime) -> tuple[Player, FakeDevice]:
    player = Player(clock=SilentClock(clock))
    device = FakeDevice()
    player._device = device  # type: ignore[assignment]
    device.found.connect(player._found)
    device.died.connect(player._died)
    player.load(PROGRAM)
    return player, device


def test_a_device_takes_over_where_the_silent_clock_is(played: tuple[Player, FakeDevice], clock: FakeTime) -> None:
    player, device = played
    player.seek(2.0)
    player.play()
    clock.now += 1.5
    device.found.emit({"a": "Speakers"}, "a")
    assert player.playing
    assert player.output_name == "Speakers"
    assert device.log[-1] == ("start", pytest.approx(3.5, abs=1e-3))
    device.at = 3.75
    player.tick()
    assert player.position == pytest.approx(3.75)


def test_a_device_that_dies_hands_over_to_the_silent_clock(played: tuple[Player, FakeDevice], clock: FakeTime) -> None:
    player, device = played
    said: list[tuple[str, str]] = []
    player.said.connect(lambda kind, text: said.append((kind, text)))
    device.found.emit({"a": "Speakers"}, "a")
    player.play()
    device.at = 4.0
    device.died.emit("the sound device stopped answering")
    assert player.playing
    assert player.output_name == "silent clock: the sound device stopped answering"
    assert said == [
        (
            "problem",
            "No sound: the sound device stopped answering. The silent clock goes on; "
            "choose an output at the right of the transport.",
        )
    ]
    clock.now += 1.0
    player.tick()
    assert player.position == pytest.approx(5.0, abs=1e-3)


def test_switching_devices_goes_on_where_it_was(played: tuple[Player, FakeDevice], clock: FakeTime) -> None:
    player, device = played
    device.found.emit({"a": "Speakers", "b": "Headphones"}, "a")
    player.play()
    device.at = 3.0
    player.choose_output("b")
    assert device.log[-1] == ("choose", "b")
    device.found.emit({"a": "Speakers", "b": "Headphones"}, "b")
    assert (player.output_name, device.log[-1]) == ("Headphones", ("start", 3.0))
    player.choose_output("")
    clock.now += 0.5
    player.tick()
    assert player.output_name == "silent clock: chosen"
    assert player.position == pytest.approx(3.5, abs=1e-3)


def test_seek_change_and_end_while_playing(played: tuple[Player, FakeDevice]) -> None:
    player, device = played
    device.found.emit({"a": "Speakers"}, "a")
    player.play()
    player.seek(6.0)
    assert device.log[-1] == ("change", "", Jump(to=6.0))
    player.change(beat=reference_beat.CLICK)
    assert device.log[-1] == ("change", reference_beat.CLICK, Jump())
    device.at = 10.0
    player.tick()
    assert not player.playing
    assert player.position == pytest.approx(10.0)
    player.play()
    assert device.log[-1] == ("start", 0.0)
    player.close()
    assert device.log[-1] == ("close",)


def test_loop_jump_and_half_speed_on_the_silent_clock(qtbot: QtBot, clock: FakeTime) -> None:
    player = Player(clock=SilentClock(clock))
    player.load(PROGRAM)

    def after(seconds: float) -> float:
        clock.now += seconds
        player.tick()
        return round(player.position, 3)

    player.play()
    player.set_loop((2.0, 4.0))
    assert [after(1.5), after(1.0), after(2.0)] == [3.5, 2.5, 2.5]
    player.jump(4)
    # the loop came along: 4.0 to 6.0
    assert (after(0.0), after(1.0), after(1.0)) == (4.5, 5.5, 4.5)
    player.change(half=True)
    assert after(1.0) == 5.0
    player.seek(8.0)
    assert player.program is not None
    assert player.program.loop is None
    assert after(1.0) == 8.5
    player.pause()
    player.set_loop((1.0, 1.5))
    assert player.position == 1.0
    player.jump(-40)
    assert player.position == 1.0


def test_nothing_loaded_is_no_error(qtbot: QtBot) -> None:
    player = Player(clock=SilentClock())
    player.toggle()
    player.seek(5.0)
    player.change(beat=reference_beat.CLICK)
    player.jump(4)
    player.set_loop((0.0, 1.0))
    assert (player.playing, player.position, player.duration, player.now()) == (False, 0.0, 0.0, 0.0)


def test_the_feed_hands_out_the_mix_frame_by_frame(qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> None:
    now = [50.0]
    monkeypatch.setattr("mervid.desk.sound.sound_process.time.monotonic", lambda: now[0])
    feed = Feed(Reel(PROGRAM, 1000 / RATE), 0.25)
    feed.open(QIODevice.OpenModeFlag.ReadOnly)
    parts = [np.frombuffer(feed.readData(8 * n), np.float32).reshape(-1, 2) for n in (100, 4096, 1)]
    np.testing.assert_array_equal(np.concatenate(parts), render(PROGRAM, 1000, 4197))
    assert feed.readData(3) == b""
    assert feed.isSequential()
    for _ in range(STARTING):
        feed.readData(800)
    now[0] += 0.2
    feed.readData(800)
    assert feed.stumbles == 0
    now[0] += 0.3
    feed.readData(800)
    assert feed.stumbles == 1


def test_a_device_that_counts_in_chunks_is_smoothed() -> None:
    clock = Clock()
    told = [clock.heard(10 + t, np.floor(t / 0.046) * 0.046) for t in np.arange(0, 2, 0.012)]
    steps = np.diff(told[80:])
    assert 0.008 < steps.min() <= steps.max() < 0.016


@pytest.fixture
def device(qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> tuple[DeviceOutput, object, list[float]]:
    """The window's side, with the other end of the pipe in the test's hand."""
    mine, theirs = multiprocessing.Pipe()
    now = [100.0]
    monkeypatch.setattr("mervid.desk.sound.output.time.monotonic", lambda: now[0])
    out = DeviceOutput()
    out._pipe, out._teller = mine, Teller(mine)
    return out, theirs, now


def test_telling_never_waits_for_a_process_that_does_not_listen() -> None:
    mine, theirs = multiprocessing.Pipe()
    teller = Teller(mine)
    beats = np.arange(3000.0)
    grid = Grid(tuple(Pin(float(b) / 2, float(b)) for b in beats))
    began = time.perf_counter()
    for _ in range(300):
        # some 100 kB each: far more than a pipe holds
        teller.tell("change", attrs.evolve(PROGRAM, samples=np.zeros((0, 2), np.float32), grid=grid), Jump(by=1.0))
    teller.tell("stop")
    assert time.perf_counter() - began < 2.0
    told = []
    while not told or told[-1][0] != "stop":
        told.append(theirs.recv())
    jumps = [t[2].by for t in told[:-1]]
    assert sum(jumps) == 300, "none is lost"
    assert len(jumps) < 20, "but those that waited became one"
    teller.close()


def test_the_window_is_told_where_the_sound_is(device: tuple[DeviceOutput, object, list[float]]) -> None:
    out, pipe, now = device
    out.start(PROGRAM, 2.0)
    what, _, told, _ = pipe.recv()  # type: ignore[attr-defined]
    assert what == "start"
    np.testing.assert_array_equal(Maps().resolved(told).samples, PROGRAM.samples)
    assert out.place() == 2.0
    out._take("at", 1, 2.5, 100.0)
    now[0] += 0.05
    assert out.place() == pytest.approx(2.55)
    now[0] += 5.0
    assert out.place() == pytest.approx(2.6), "never carried on far beyond what was told"
    # another program of the same samples names the same file
    out.change(PROGRAM, Jump(by=4))
    what, again, _ = pipe.recv()  # type: ignore[attr-defined]
    assert what == "change" and again.samples == told.samples
    out._take("ended", 1)
    assert out.place() == PROGRAM.duration


def test_the_watchdog_notices_a_device_that_does_not_move(device: tuple[DeviceOutput, object, list[float]]) -> None:
    out, pipe, now = device
    said: list[str] = []
    out.died.connect(said.append)
    out.start(PROGRAM, 0.0)
    out._take("at", 1, 0.04, 100.0)
    now[0] += output.DEAD_AFTER_S - 0.1
    out._look_alive()
    assert said == []
    now[0] += 0.2
    out._look_alive()
    assert said == ["the sound device stopped answering"]
    assert pipe.poll()  # type: ignore[attr-defined]


def test_a_sound_process_that_is_killed_is_noticed(device: tuple[DeviceOutput, object, list[float]]) -> None:
    out, pipe, _ = device
    said: list[str] = []
    out.died.connect(said.append)
    out.start(PROGRAM, 0.0)
    pipe.close()  # type: ignore[attr-defined]
    out._hear()
    assert said == ["the sound process ended"]
    out.change(PROGRAM)
    out.stop()
