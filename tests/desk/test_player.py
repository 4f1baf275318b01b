"""The transport's clockwork: silent clock, a device that comes, a device that dies."""

from __future__ import annotations

import numpy as np
import pytest
from PyQt6.QtCore import QIODevice, QObject, pyqtSignal
from pytestqt.qtbot import QtBot

from mervid.core.grid import steady
from mervid.core.playback import Program, render
from mervid.desk.player import Player, SilentClock, _Device, _Feed
from tests.conftest import RATE
from tests.desk.conftest import FakeTime

PROGRAM = Program(
    np.random.default_rng(0).normal(0, 0.1, (10 * RATE, 2)).astype(np.float32), RATE, steady(tempo=120, first=0)
)


class FakeDevice(QObject):
    """A sound device whose clock the test turns."""

    found = pyqtSignal(str)
    missing = pyqtSignal(str)
    died = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self.log: list[tuple[object, ...]] = []
        self.seconds = 0.0

    def start(self, program: Program, frame: int = 0) -> None:
        self.log.append(("start", frame))
        self.seconds = 0.0

    def change(self, program: Program) -> None:
        self.log.append(("change", program.click))

    def stop(self) -> None:
        self.log.append(("stop",))

    def elapsed(self) -> float:
        return self.seconds

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
    device.found.emit("Speakers")
    assert player.playing
    assert player.output_name == "Speakers"
    assert device.log[-1] == ("start", round(3.5 * RATE))
    device.seconds = 0.25
    player.tick()
    assert player.position == pytest.approx(3.75)


def test_a_device_that_dies_hands_over_to_the_silent_clock(played: tuple[Player, FakeDevice], clock: FakeTime) -> None:
    player, device = played
    device.found.emit("Speakers")
    player.play()
    device.seconds = 4.0
    device.died.emit("the sound device stopped answering")
    assert player.playing
    assert player.output_name == "silent clock: the sound device stopped answering"
    clock.now += 1.0
    player.tick()
    assert player.position == pytest.approx(5.0)


def test_seek_change_and_end_while_playing(played: tuple[Player, FakeDevice]) -> None:
    player, device = played
    device.found.emit("Speakers")
    player.play()
    player.seek(6.0)
    assert device.log[-1] == ("start", 6 * RATE)
    player.change(click=True)
    assert device.log[-1] == ("change", True)
    device.seconds = 4.5
    player.tick()
    assert not player.playing
    assert player.position == pytest.approx(10.0)
    player.play()
    assert device.log[-1] == ("start", 0)
    player.close()
    assert device.log[-1] == ("close",)


def test_nothing_loaded_is_no_error(qtbot: QtBot) -> None:
    player = Player(clock=SilentClock())
    player.toggle()
    player.seek(5.0)
    player.change(click=True)
    assert (player.playing, player.position, player.duration) == (False, 0.0, 0.0)


def test_the_feed_hands_out_the_mix_frame_by_frame(qtbot: QtBot) -> None:
    feed = _Feed(PROGRAM, 1000)
    feed.open(QIODevice.OpenModeFlag.ReadOnly)
    parts = [np.frombuffer(feed.readData(8 * n), np.float32).reshape(-1, 2) for n in (100, 4096, 1)]
    np.testing.assert_array_equal(np.concatenate(parts), render(PROGRAM, 1000, 4197))
    assert feed.readData(3) == b""
    assert feed.isSequential()


class StuckSink:
    """A sink that claims to play and never moves."""

    def processedUSecs(self) -> int:
        return 40_000

    def stop(self) -> None:
        return None

    def deleteLater(self) -> None:
        return None


def test_the_watchdog_notices_a_device_that_does_not_move(qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> None:
    now = [100.0]
    monkeypatch.setattr("mervid.desk.player.time.perf_counter", lambda: now[0])
    device = _Device()
    said: list[str] = []
    device.died.connect(said.append)
    device._sink = StuckSink()  # type: ignore[assignment]
    device._moved = now[0]
    device._watch()
    assert device.played == pytest.approx(0.04)
    now[0] += 0.4
    device._watch()
    assert said == []
    now[0] += 0.2
    device._watch()
    assert said == ["the sound device stopped answering"]
    assert device._sink is None
