"""Kill -9 of the real window in the middle of work: what was shown as done is there, value by value, at the next start.

    python -m bench.faulting.windowed HOME SEED

is the victim of a kill: it opens the window over the library of HOME, works with real keys, and prints after each act
the step of the history in force and its preparation. Without SEED it opens the window with the settings in HOME, looks
at every stage and closes.
"""

from __future__ import annotations

import json
import os
import random
import select
import subprocess
import sys
import time
from contextlib import closing
from pathlib import Path
from typing import Any

from bench.faulting import kills, mutation
from bench.faulting.cases import BAD, RIGHT, Outcome
from bench.faulting.imports import prepared
from mervid.core.errors import MervidError
from mervid.core.model.preparation import to_json
from mervid.core.sound import decoding
from mervid.desk.names import APPLICATION
from mervid.jobs import pcm
from mervid.store.library import Library

LONGEST_S = 3.0
"""The window is killed within so many s of its first word."""
STARTS_S = 60.0


_NAMES = (
    "geometry", "stage", "workers", "tolerance_tight", "tolerance_loose", "template", "tap_delay", "straight", "stick",
    "size", "roomy", "quiet", "player", "paper_rows", "paper", "mixes", "looks", "look", "left", "keys", "delays",
    "columns_of", "columns", "calm", "cache_gib", "buffer_ms", "folder", "export", "recipe", "colours", "tempo",
)  # fmt: skip
_VALUES = (
    "", "-1", "0", "1e400", "nan", "true", "99999999999999999999", "@Invalid()", "@ByteArray(\\x1\\xff)", "@Size(-5 9)",
    "@Variant(\\0\\0\\0\\x7f\\0)", "[[[[", "{}", '"a, b"', "a, b, c", "/dev/null", "\\0", "x" * 100_000, "%s",
    "día", "align",
)  # fmt: skip


def opened(home: Path) -> tuple[Any, Any]:
    """The program and its window over the library of HOME, with the settings that are there."""
    from PyQt6.QtWidgets import QApplication

    from mervid.desk import names
    from mervid.desk.app import make_window, place_as_kept
    from mervid.desk.pads.ports import Ports
    from mervid.desk.session.session import Session
    from mervid.desk.sound.output import SilentClock
    from mervid.desk.sound.player import Player

    names.take()
    app = QApplication(["mervid-bench"])
    player = Player(clock=SilentClock(lambda: 0.0), look_for_device=False)
    session = Session(Library(home / kills.LIBRARY), home / "cache", player, ports=Ports(look=False))
    window: Any = make_window(session)
    place_as_kept(window)
    window.show()
    return app, window


def visit(home: Path) -> None:
    """Open the window with the settings that are there, look at every stage, close."""
    app, window = opened(home)
    window.session.open(1)
    for name in window.stages:
        window.go_to_stage(name)
        app.processEvents()
    window.close()
    print(json.dumps("done"), flush=True)


def victim(home: Path, seed: int) -> None:
    """Work until killed."""
    from PyQt6.QtCore import Qt
    from PyQt6.QtTest import QTest
    from PyQt6.QtWidgets import QLineEdit, QPlainTextEdit

    app, window = opened(home)
    session, player = window.session, window.session.player
    session.open(1)
    rng = random.Random(seed)

    def say() -> None:
        with closing(Library(home / kills.LIBRARY)) as library:
            head = library.track(1).head
        print(json.dumps([head, to_json(session.track.preparation)]), flush=True)

    say()
    while True:
        if rng.random() < 0.5:
            window.go_to_stage("phrase")
            player.seek(rng.uniform(0.0, 3.0))
            QTest.keyClick(window, Qt.Key(Qt.Key.Key_1.value + rng.randrange(8)))
        else:
            window.go_to_stage("align")
            # typed text, and any way of leaving it
            for field in window.findChildren((QLineEdit, QPlainTextEdit)):
                if field.isVisible() and field.isEnabled() and rng.random() < 0.7:
                    field.setFocus()
                    QTest.keyClicks(field, f"word {rng.randrange(1000)}")
                    QTest.keyClick(field, Qt.Key.Key_Tab)
        app.processEvents()
        say()


def _lay_out(home: Path) -> None:
    """A library with one track that was heard, so that all stages work on it."""
    kills.lay_out(home)
    with closing(Library(home / kills.LIBRARY)) as library:
        source = decoding.probe(home / kills.SONG)
        writer = pcm.Writer(home / "cache")
        told = decoding.decode(source, writer.push)
        writer.keep(told.identity)
        library.set_decoded(1, told)
        library.set_evidence(1, kills.heard(), kills.drawn(), prepared())


def case(folder: Path, number: int) -> Outcome:
    """Kill `number` of a window."""
    home = folder / "window"
    _lay_out(home)
    began, rng = time.monotonic(), random.Random(f"window {number}")
    errors = home / "errors"
    program = _started(home, errors, str(number))
    assert program.stdout is not None
    ready = bool(select.select([program.stdout], [], [], STARTS_S)[0])
    time.sleep(rng.uniform(0.0, LONGEST_S))
    program.kill()
    said = [json.loads(line) for line in program.stdout.read().split(b"\n")[:-1]]
    program.wait()
    raised = "Traceback" in errors.read_text("utf-8", "replace")
    words = "the window raised" if raised else "the window said nothing" if not ready or not said else ""
    try:
        words = words or _compared(home, said)
    except MervidError as e:
        words = f"{type(e).__name__}: {e}"
    kind = BAD if words else RIGHT
    return Outcome("window", number, kind, words or f"{len(said)} acknowledged", time.monotonic() - began)


def _started(home: Path, errors: Path, *more: str) -> subprocess.Popen[bytes]:
    env = os.environ | {
        "QT_QPA_PLATFORM": "offscreen", "MERVID_DATA": str(home), "MERVID_CACHE": str(home), "PULSE_SERVER": "none",
    }  # fmt: skip
    command = [sys.executable, "-m", "bench.faulting.windowed", str(home), *more]
    with errors.open("wb") as err:
        return subprocess.Popen(command, stdout=subprocess.PIPE, stderr=err, env=env)


def settings(folder: Path, number: int) -> Outcome:
    """Settings `number`, of values that nobody wrote there: the window opens, and nothing is raised."""
    home = folder / "window"
    _lay_out(home)
    began, rng = time.monotonic(), random.Random(f"settings {number}")
    lines = [f"{rng.choice(_NAMES)}={rng.choice(_VALUES)}" for _ in range(rng.randrange(1, 12))]
    data = "\n".join(["[General]", *lines, ""]).encode()
    if rng.random() < 0.2:
        data, _ = mutation.mutant(rng, data)
    path = home / APPLICATION / f"{APPLICATION}.ini"
    path.parent.mkdir(exist_ok=True)
    path.write_bytes(data)
    errors = home / "errors"
    program = _started(home, errors)
    try:
        said, _ = program.communicate(timeout=STARTS_S)
    except subprocess.TimeoutExpired:
        program.kill()
        said, _ = program.communicate()
    text = errors.read_text("utf-8", "replace")
    words = text.strip().splitlines()[-1] if "Traceback" in text else "" if b"done" in said else "it did not open"
    kind = BAD if words else RIGHT
    return Outcome("settings", number, kind, f"{words} {lines}" if words else "", time.monotonic() - began)


def _compared(home: Path, said: list[list[Any]]) -> str:
    head, value = said[-1]
    with closing(Library(home / kills.LIBRARY)) as library:
        now, there = library.track(1).head, to_json(library.history(1).preparation)
    if now == head:
        return "" if there == value else f"step {head} holds another value than was shown"
    return "" if now > head else f"step {now} is in force, {head} was shown"


if __name__ == "__main__":
    if len(sys.argv) > 2:
        victim(Path(sys.argv[1]), int(sys.argv[2]))
    else:
        visit(Path(sys.argv[1]))
