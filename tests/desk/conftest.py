"""The real window with a library of its own, a fake clock, and no sound device."""

from __future__ import annotations

import os
import shutil
import tempfile
from collections.abc import Iterator
from functools import cache
from pathlib import Path

import pytest
from PyQt6.QtCore import QSettings
from pytestqt.qtbot import QtBot

from mervid import places
from mervid.core.fitting import proposal
from mervid.core.hearing.evidence import to_bytes
from mervid.core.sound import decoding
from mervid.core.sound.waveform import WaveformMaker
from mervid.desk.app import make_window
from mervid.desk.session.open_track import Workbench
from mervid.desk.sound.output import SilentClock
from mervid.desk.sound.player import Player
from mervid.desk.window import Window
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


def _share(source: str, target: str) -> None:
    """A second name for a file, or a copy where that can't be."""
    try:
        os.link(source, target)
    except OSError:
        shutil.copy2(source, target)


@cache
def decoded(name: str) -> tuple[tempfile.TemporaryDirectory[str], bytes, bytes]:
    """A demo recording decoded once for all tests: a folder with its samples, its waveform and its evidence."""
    facts, evidence = heard_demo(name)
    folder = tempfile.TemporaryDirectory()
    maker, writer = WaveformMaker(facts.rate), pcm.Writer(Path(folder.name))

    def sink(block) -> None:
        maker.push(block)
        writer.push(block)

    decoding.decode(decoding.probe(places.demo_folder() / f"{name}.ogg"), sink)
    writer.keep(facts.identity)
    return folder, maker.finish().to_bytes(), to_bytes(evidence)


def put(window: Window, name: str) -> int:
    """Put a demo recording into the library as it is heard; the hearing itself is done once for all tests."""
    bench = window.bench
    path = places.demo_folder() / f"{name}.ogg"
    facts, evidence = heard_demo(name)
    folder, drawn, heard = decoded(name)
    # the samples are only read: one copy serves all windows
    shutil.copytree(folder.name, bench.cache, copy_function=_share, dirs_exist_ok=True)
    track, _ = bench.library.add(path)
    bench.library.set_decoded(track.id, facts)
    first = proposal.propose(evidence.heard, facts.duration)
    bench.library.set_evidence(track.id, heard, drawn, first)
    bench.tracks_changed.emit()
    return track.id


@pytest.fixture
def ferry(window: Window, qtbot: QtBot) -> Window:
    """The window with Copper Ferry heard and open."""
    window.bench.open(put(window, "Copper Ferry"))
    qtbot.waitUntil(lambda: len(window.bench.offers) == 2, timeout=20_000)
    return window
