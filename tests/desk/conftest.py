"""The real window with a library of its own, a fake clock, and no sound device."""

from __future__ import annotations

import faulthandler
import gc
import os
import pickle
import shutil
import tempfile
from collections.abc import Callable, Iterator
from functools import cache
from hashlib import sha256
from pathlib import Path

import pytest
from PyQt6.QtCore import QCoreApplication, QEvent, QSettings
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from mervid import places
from mervid.core.findings import report
from mervid.core.fitting import proposal
from mervid.core.hearing.evidence import to_bytes
from mervid.core.sound import decoding
from mervid.core.sound.waveform import WaveformMaker
from mervid.desk.app import make_window
from mervid.desk.pads.ports import Ports
from mervid.desk.session.session import Session
from mervid.desk.sound.output import SilentClock
from mervid.desk.sound.player import Player
from mervid.desk.stages.align.stage import AlignStage
from mervid.desk.stages.align.surface import AlignSurface
from mervid.desk.stages.phrase.stage import PhraseStage
from mervid.desk.stages.phrase.surface import PhraseSurface
from mervid.desk.window import Window
from mervid.jobs import fitter, pcm
from mervid.jobs.lifeline import OneProcess
from mervid.store.library import Library
from tests.conftest import PATIENCE_S, analysed, ours


class FakeTime:
    """A clock that goes only when told."""

    def __init__(self) -> None:
        self.now = 0.0

    def __call__(self) -> float:
        return self.now


class PatientBot(QtBot):
    """Waits as long as any machine may need; where that was in vain, tells what the window said and threads did."""

    def waitUntil(self, callback: Callable[[], bool | None], *, timeout: int = round(PATIENCE_S * 1000)) -> None:
        try:
            super().waitUntil(callback, timeout=timeout)
        except self.TimeoutError as e:
            with tempfile.TemporaryFile("w+") as f:
                faulthandler.dump_traceback(f)
                f.seek(0)
                stood = ours(f.read())
            shown = [w.note.text.text() for w in QApplication.topLevelWidgets() if isinstance(w, Window)]
            raise self.TimeoutError(f"{e}; said last: {shown}\n{stood}") from None


@pytest.fixture(scope="session", autouse=True)
def frozen() -> None:
    """What is there for all tests isn't looked through for garbage after each of them."""
    gc.collect()
    gc.freeze()


@pytest.fixture(scope="session", autouse=True)
def answered() -> Iterator[None]:
    """What was worked out once for a question about a track is not worked out for the next window that asks it."""
    known: dict[tuple[str, bytes], object] = {}
    call = OneProcess.call

    def asked(one: OneProcess, function, *args, **rest):
        if function.__module__ not in (fitter.__name__, report.__name__) or one._closed:
            return call(one, function, *args, **rest)
        question = function.__qualname__, sha256(pickle.dumps(args)).digest()
        if question not in known:
            known[question] = call(one, function, *args, **rest)
        return known[question]

    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(OneProcess, "call", asked)
        yield


@pytest.fixture
def qtbot(qapp: QApplication, request: pytest.FixtureRequest) -> QtBot:
    """The windows of tests before are gone, and with them what Python still knew of them, before another is made."""
    QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    gc.collect()
    return PatientBot(request)


@pytest.fixture
def clock() -> FakeTime:
    return FakeTime()


@pytest.fixture
def window(qtbot: QtBot, tmp_path: Path, clock: FakeTime) -> Iterator[Window]:
    """An empty Mervid, shown."""
    QSettings.setDefaultFormat(QSettings.Format.IniFormat)
    QSettings.setPath(QSettings.Format.IniFormat, QSettings.Scope.UserScope, str(tmp_path / "settings"))
    session = Session(
        Library(tmp_path / "library.sqlite"),
        tmp_path / "cache",
        Player(clock=SilentClock(clock)),
        ports=Ports(look=False),
    )
    w = make_window(session)
    qtbot.addWidget(w)
    w.resize(1280, 800)
    w.show()
    qtbot.waitExposed(w)
    # a track that is opened is worked on here
    w.go_to_stage("align")
    yield w
    w.close()


def align(window: Window) -> AlignSurface:
    """What the Align stage shows."""
    stage = window.stages["align"]
    assert isinstance(stage, AlignStage)
    return stage.view


def phrase(window: Window) -> PhraseSurface:
    """What the Phrase stage shows."""
    stage = window.stages["phrase"]
    assert isinstance(stage, PhraseStage)
    return stage.view


def _share(source: str, target: str) -> None:
    """A second name for a file, or a copy where that can't be."""
    try:
        os.link(source, target)
    except OSError:
        shutil.copy2(source, target)


@cache
def decoded(path: Path) -> tuple[tempfile.TemporaryDirectory[str], bytes, bytes]:
    """A recording decoded once for all tests: a folder with its samples, its waveform and its evidence."""
    facts, evidence = analysed(path)
    folder = tempfile.TemporaryDirectory()
    maker, writer = WaveformMaker(facts.rate), pcm.Writer(Path(folder.name))

    def sink(block) -> None:
        maker.push(block)
        writer.push(block)

    decoding.decode(decoding.probe(path), sink)
    writer.keep(facts.identity)
    return folder, maker.finish().to_bytes(), to_bytes(evidence)


def keep_heard(library: Library, cache: Path, source: Path, path: Path) -> int:
    """Put `path`, which is `source` or a copy of it, into a library as it is heard."""
    facts, evidence = analysed(source)
    folder, drawn, heard = decoded(source)
    # the samples are only read: one copy serves all windows
    shutil.copytree(folder.name, cache, copy_function=_share, dirs_exist_ok=True)
    track, _ = library.add(path)
    library.set_decoded(track.id, facts)
    library.set_evidence(track.id, heard, drawn, proposal.propose(evidence.heard, facts.duration))
    return track.id


def put(window: Window, recording: str | Path, into: Path | None = None) -> int:
    """Put a recording into the window's library; it is heard once for all tests.

    Parameters
    ----------
    recording : a file, or the name of one of the demo
    into : a folder for a copy of it, for what writes beside recordings or into them
    """
    session = window.session
    source = recording if isinstance(recording, Path) else places.demo_folder() / f"{recording}.ogg"
    path = source if into is None else Path(shutil.copy(source, into))
    number = keep_heard(session.library, session.cache, source, path)
    session.catalogue.reread()
    return number


@pytest.fixture
def ferry(window: Window, qtbot: QtBot) -> Window:
    """The window with Copper Ferry heard and open."""
    window.session.open(put(window, "Copper Ferry"))
    qtbot.waitUntil(lambda: len(window.session.offers.found) == 2)
    return window
