"""How the Phrase stage bears much: a track of 480 phrases, and a recipe over 1,000 tracks.

    .venv/bin/python bench/phrases.py [TRACKS]

The long track is a demo recording that was heard once, laid end to end 42 times (68 minutes). Times are medians and
worst in ms until all is painted; targets: any action 60 ms, opening 300 ms; while 1,000 tracks are looked at and cues
are put down, no stall above 50 ms.
"""

from __future__ import annotations

import os
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT))

import attrs
import numpy as np
from PyQt6.QtCore import QElapsedTimer, QSettings, Qt, QTimer
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from mervid import places
from mervid.core.findings.recommendation import recommend
from mervid.core.form import phrase_edits
from mervid.core.hearing import analysis, evidence
from mervid.core.hearing.evidence import Evidence
from mervid.core.model.form import Form, Phrase
from mervid.core.sound.waveform import Waveform
from mervid.desk.app import make_window
from mervid.desk.session.session import Session
from mervid.desk.sound.output import SilentClock
from mervid.desk.sound.player import Player
from mervid.store.library import Library

TIMES, PHRASES = 42, 480
PARTS = (
    ("verse", "A", False),
    ("verse", "A", True),
    ("chorus", "B", False),
    ("break", "C", False),
    ("drop", "D", False),
)


def laid_end_to_end(found: Evidence, drawn: Waveform, seconds: float) -> tuple[Evidence, Waveform]:
    """The same recording again and again, as if it had been heard so."""
    at = np.repeat(np.arange(TIMES) * seconds, len(found.heard.times))
    heard = attrs.evolve(
        found.heard,
        times=np.tile(found.heard.times, TIMES) + at,
        numbers=np.tile(found.heard.numbers, TIMES)
        + np.repeat(np.arange(TIMES) * int(found.heard.numbers[-1] + 1), len(at) // TIMES),
        confidence=np.tile(found.heard.confidence, TIMES),
    )
    ear = found.strengths
    assert ear is not None
    rows = {name: np.tile(getattr(ear, name), TIMES) for name in ("beat", "downbeat", "section", "drums", "voice")}
    onsets = np.repeat(np.arange(TIMES) * seconds, len(found.onset_times))
    whole = attrs.evolve(
        found,
        heard=heard,
        attack=np.tile(found.attack, TIMES),
        percussive=np.tile(found.percussive, TIMES),
        onset_times=np.tile(found.onset_times, TIMES) + onsets,
        onset_strengths=np.tile(found.onset_strengths, TIMES),
        strengths=attrs.evolve(ear, tempo=np.tile(ear.tempo, (TIMES, 1)), **rows),
        loudness=np.tile(found.loudness, TIMES),
        colour=np.tile(found.colour, (TIMES, 1)),
        chroma=np.tile(found.chroma, (TIMES, 1)),
    )
    return whole, Waveform(np.tile(drawn.extremes, (TIMES, 1)), drawn.rate, drawn.frames * TIMES)


def make_library(path: Path, tracks: int) -> tuple[int, list[int]]:
    """The long track, and so many of the usual length."""
    source = places.demo_folder() / "Copper Ferry.ogg"
    facts, drawn, heap = analysis.decode(source, lambda block: None, progress=lambda part: None)
    found = analysis.conclude(heap, progress=lambda part: None)
    library = Library(path)
    long, _ = library.add(path.parent / "long.ogg")
    whole, wave = laid_end_to_end(found, drawn, facts.duration)
    seconds = facts.duration * TIMES
    p = recommend(whole, seconds)
    assert p.grid is not None
    count = int(p.grid.bar_index(p.grid.beat_at(seconds))[0])
    starts = [float(p.grid.bar_start(k * count // PHRASES)) for k in range(PHRASES)]
    parts = [PARTS[k % len(PARTS)] for k in range(PHRASES)]
    rows = tuple(Phrase(b, r, x, 0.8, joins=j) for b, (r, x, j) in zip(starts, parts, strict=True))
    library.set_decoded(long.id, attrs.evolve(facts, frames=facts.frames * TIMES, identity="long"))
    kept = attrs.evolve(p, form=Form(rows, float(p.grid.bar_start(count))))
    library.set_evidence(long.id, evidence.to_bytes(whole), wave.to_bytes(), kept)
    first, small, shape = recommend(found, facts.duration), evidence.to_bytes(found), drawn.to_bytes()
    ids = []
    for k in range(tracks):
        track, _ = library.add(path.parent / f"{k}.ogg")
        library.set_decoded(track.id, attrs.evolve(facts, identity=f"t{k}"))
        library.set_evidence(track.id, small, shape, first)
        ids.append(track.id)
    library.close()
    return long.id, ids


class Bench:
    """The window, and how long things take in it."""

    def __init__(self, home: Path, app: QApplication) -> None:
        self.app = app
        player = Player(clock=SilentClock(), look_for_device=False)
        self.session = Session(Library(home / "library.sqlite"), home, player)
        self.session.queue.pool._feed = lambda: None  # type: ignore[method-assign]
        self.window = make_window(self.session)
        self.window.resize(1280, 800)
        self.window.show()
        self.window.go_to_stage("phrase")
        self.settle()

    def settle(self) -> None:
        for _ in range(4):
            self.app.processEvents()

    def wait(self, done: Callable[[], bool], seconds: float = 600) -> float:
        """Seconds until something is done."""
        began = time.perf_counter()
        while not done() and time.perf_counter() - began < seconds:
            self.app.processEvents()
            time.sleep(0.001)
        return time.perf_counter() - began

    def timed(self, name: str, act: Callable[[int], object], times: int = 6) -> None:
        took = []
        for k in range(times):
            began = time.perf_counter()
            act(k)
            self.settle()
            took.append(1000 * (time.perf_counter() - began))
        print(f"{name:34}{np.median(took):8.1f}{max(took):8.1f}", flush=True)

    def key(self, key: Qt.Key, modifier: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier) -> None:
        QTest.keyClick(self.window.focusWidget() or self.window, key, modifier)


def long_track(b: Bench, long: int, other: int) -> None:
    """What can be done to a track of 480 phrases."""
    s = b.session
    s.open(long)
    b.wait(lambda: s.reports.fresh)

    def open_it(k: int) -> None:
        s.open(long if k % 2 else other)

    took = []
    for k in range(8):
        began = time.perf_counter()
        open_it(k)
        b.settle()
        took.append(1000 * (time.perf_counter() - began))
    print(f"{'opening it':34}{np.median(took[1::2]):8.1f}{max(took[1::2]):8.1f}")
    b.wait(lambda: s.reports.fresh)
    t, choice = s.track, s.phrases
    ladder = b.window.stages["phrase"].view.ladder  # type: ignore[attr-defined]
    ladder.setFocus()

    def role(k: int) -> None:
        choice.choose(20 + k)
        t.apply(phrase_edits.set_role, choice.kept_form(), 20 + k, "build")

    b.timed("next phrase", lambda k: b.key(Qt.Key.Key_Down))
    b.timed("a role", role)
    b.timed("merge", lambda k: t.apply(phrase_edits.merge, choice.kept_form(), 30))
    b.timed("undo", lambda k: t.undo())
    b.timed("close or open a section", lambda k: choice.fold(0))
    b.timed("close or open all sections", lambda k: choice.fold_all())
    b.timed("begin or join a section", lambda k: (choice.choose(6), b.key(Qt.Key.Key_D)))
    b.timed("recipe page", lambda k: b.key(Qt.Key.Key_G))
    b.timed("apply a recipe, undo", lambda k: b.key(Qt.Key.Key_A) if k % 2 == 0 else t.undo())
    b.timed("set a cue", lambda k: (s.player.seek(100 + 10 * k), b.key(Qt.Key.Key_N)))


def sheet(b: Bench, ids: list[int]) -> None:
    """A recipe over many tracks, with the longest time in which the window didn't answer."""
    s, late = b.session, list[float]()
    since, beat = QElapsedTimer(), QTimer()
    beat.setInterval(4)
    beat.timeout.connect(lambda: late.append(since.restart() - 4))
    recipe = s.recipes.recipe
    assert recipe is not None
    s.selection.choose(ids)
    since.start()
    beat.start()
    b.key(Qt.Key.Key_A, Qt.KeyboardModifier.ShiftModifier)
    looked = b.wait(lambda: len(s.sheet.seen) == len(ids))
    print(f"{len(ids):,} tracks looked at in {looked:.1f} s, worst stall {max(late):.0f} ms")
    late.clear()
    since.restart()
    s.sheet.put_down()
    put = b.wait(lambda: bool(s.sheet.outcomes))
    print(
        f"put down in {put:.1f} s, worst stall {max(late):.0f} ms; {sum(o.head >= 0 for o in s.sheet.outcomes)} changed"
    )


def main() -> int:
    """The table."""
    tracks = int(sys.argv[1]) if len(sys.argv) > 1 else 1000
    with tempfile.TemporaryDirectory() as base:
        home = Path(base)
        os.environ["MERVID_DATA"] = base
        long, ids = make_library(home / "library.sqlite", tracks)
        app = QApplication(["mervid-bench"])
        QSettings.setDefaultFormat(QSettings.Format.IniFormat)
        QSettings.setPath(QSettings.Format.IniFormat, QSettings.Scope.UserScope, base)
        b = Bench(home, app)
        print(f"{'ms, 480 phrases':34}{'median':>8}{'worst':>8}")
        long_track(b, long, ids[0])
        sheet(b, ids)
        b.window.close()
    return 0


if __name__ == "__main__":
    sys.exit(main())
