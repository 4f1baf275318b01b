"""The real window with a library of its own, a fake clock, and no sound device."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest
from PyQt6.QtCore import QSettings
from pytestqt.qtbot import QtBot

from mervid import places
from mervid.core import analysis, audio
from mervid.core import preparation as pr
from mervid.core.waveform import WaveformMaker
from mervid.desk.app import make_window
from mervid.desk.player import Player, SilentClock
from mervid.desk.window import Window
from mervid.desk.workbench import Workbench
from mervid.jobs import pcm
from mervid.store.library import Library
from tests.conftest import heard_demo


class FakeTime:
    """A clock that goes only when told."""

    def __init__(self) -> None:
        self.now = 0.0

    def __call__(self) -> float:
        return self.now


@pytest.fixture
def clock() -> FakeTime:
    return FakeTime()


@pytest.fixture
def window(qtbot: QtBot, tmp_path: Path, clock: FakeTime) -> Iterator[Window]:
    """An empty Mervid, shown."""
    QSettings.setDefaultFormat(QSettings.Format.IniFormat)
    QSettings.setPath(QSettings.Format.IniFormat, QSettings.Scope.UserScope, str(tmp_path / "settings"))
    bench = Workbench(Library(tmp_path / "library.sqlite"), tmp_path / "cache")
    w = make_window(bench, Player(clock=SilentClock(clock)))
    qtbot.addWidget(w)
    w.resize(1280, 800)
    w.show()
    qtbot.waitExposed(w)
    yield w
    w.close()


def put(window: Window, name: str) -> int:
    """Put a demo recording into the library as it is heard; the hearing itself is done once for all tests."""
    bench = window.bench
    path = places.demo_folder() / f"{name}.ogg"
    facts, evidence = heard_demo(name)
    maker = WaveformMaker(facts.rate)
    writer = pcm.Writer(bench.cache)

    def sink(block) -> None:
        maker.push(block)
        writer.push(block)

    audio.decode(audio.probe(path), sink)
    writer.keep(facts.identity)
    track, _ = bench.library.add(path)
    bench.library.set_decoded(track.id, facts)
    first = pr.propose(evidence.heard, facts.duration)
    bench.library.set_evidence(track.id, analysis.to_bytes(evidence), maker.finish().to_bytes(), first)
    bench.tracks_changed.emit()
    return track.id


@pytest.fixture
def ferry(window: Window, qtbot: QtBot) -> Window:
    """The window with Copper Ferry heard and open."""
    window.bench.open(put(window, "Copper Ferry"))
    qtbot.waitUntil(lambda: len(window.bench.offers) == 2, timeout=20_000)
    return window
