"""Hands that do anything: `.venv/bin/python bench/any_hands.py [SEED ...] [--seconds N] [--pause S]`.

Every seed drives the real window over copies of the demo set: any key of any command, words and numbers into whatever
has the focus, clicks and drags anywhere, with keys and other tracks in the middle of a drag. Whatever is raised is
printed, and the exit code is 1. No dialog is left open; what would be written goes into a folder of its own.
A run of more than two minutes also compares the memory of each process at minute 2 with that at the end: one that
takes more than twice as much then is printed, and counts as raised.
"""

from __future__ import annotations

import argparse
import os
import random
import shutil
import sys
import tempfile
import time
import traceback
from pathlib import Path
from typing import Any

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT))
TYPED = ("33", "61.2s", "drop", "outro", "-6", "x", "9999", "0", "1e9", "nan", "120", "128.5", "3", "12,5", "tempo:1")


SETTLED_S = 120.0
"""From here on no process may double its memory."""


def memory() -> dict[int, tuple[str, float]]:
    """Name and resident memory, MB, of this process and all below it: proc(5)."""
    parents, found = {}, {}
    for folder in Path("/proc").glob("[0-9]*"):
        try:
            name, _, rest = (folder / "stat").read_text().rpartition(")")
            pages = int((folder / "statm").read_text().split()[1])
            command = (folder / "cmdline").read_bytes().replace(b"\0", b" ").decode(errors="replace")
        except (OSError, IndexError):
            # it ended meanwhile
            continue
        pid = int(folder.name)
        parents[pid] = int(rest.split()[1])
        kind = "helper" if "spawn_main" in command else "tracker" if "tracker" in command else name.partition("(")[2]
        found[pid] = (kind, pages * os.sysconf("SC_PAGE_SIZE") / 1e6)
    ours = {os.getpid()}
    while more := {pid for pid, parent in parents.items() if parent in ours} - ours:
        ours |= more
    return {pid: found[pid] for pid in ours if pid in found}


def doubled(early: dict[int, tuple[str, float]], late: dict[int, tuple[str, float]]) -> list[str]:
    """What is said of processes that take more than twice of what they took."""
    return [
        f"{late[pid][0]} {pid}: {mb:.0f} MB, then {late[pid][1]:.0f} MB"
        for pid, (_, mb) in early.items()
        if pid in late and late[pid][1] > 2 * mb
    ]


class Hands:
    """One window, and a row of chances."""

    def __init__(self, seed: int, home: Path) -> None:
        from PyQt6.QtCore import QTimer
        from PyQt6.QtWidgets import QApplication

        from mervid import places
        from mervid.desk.app import make_window
        from mervid.desk.pads.ports import Ports
        from mervid.desk.session.session import Session
        from mervid.desk.sound.output import SilentClock
        from mervid.desk.sound.player import Player
        from mervid.store.library import Library

        self.app, self.chance, self.now = QApplication.instance(), random.Random(seed), 0.0
        player = Player(clock=SilentClock(lambda: self.now), look_for_device=False)
        self.session = Session(Library(home / "library.sqlite"), home, player, ports=Ports(look=False))
        self.window: Any = make_window(self.session)
        self.window.resize(1280, 800)
        self.window.show()
        # copies: tags may be written
        music = Path(shutil.copytree(places.demo_folder(), home / "music"))
        self.session.queue.add_files(sorted(music.glob("*.ogg")))
        while self.session.queue.pool.busy:
            self.wait(0.05)
        self.ids = [t.id for t in self.session.library.tracks()]
        self.keys = [c.keys for c in self.window.table.commands if c.keys and c.name not in ("quit", "close")]
        self.shutting = QTimer()
        self.shutting.timeout.connect(self.shut)
        self.shutting.start(300)

    def wait(self, seconds: float) -> None:
        """Let the window go on."""
        end = time.monotonic() + seconds
        while time.monotonic() < end:
            self.app.processEvents()
            time.sleep(0.005)

    def shut(self) -> None:
        """Menus and dialogs wait for nobody."""
        for one in (self.app.activePopupWidget(), self.app.activeModalWidget()):
            if one is not None:
                one.close()

    def step(self) -> str:
        """Do something; what it was."""
        acts = ((self.key, 45), (self.type, 10), (self.mouse, 20), (self.track, 10), (self.stage, 5), (self.play, 10))
        (act,) = self.chance.choices([a for a, _ in acts], [w for _, w in acts])
        said = act()
        self.app.processEvents()
        return f"{act.__name__} {said}"

    def _focus(self) -> Any:
        return self.app.focusWidget() or self.window

    def key(self) -> str:
        from PyQt6.QtGui import QKeySequence
        from PyQt6.QtTest import QTest

        name = self.chance.choice([*self.keys, "Escape", "Return", "Tab", "Ctrl+Z", "Ctrl+Shift+Z"])
        one = QKeySequence(name)[0]
        QTest.keyClick(self._focus(), one.key(), one.keyboardModifiers())
        return name

    def type(self) -> str:
        from PyQt6.QtCore import Qt
        from PyQt6.QtTest import QTest

        text, focus = self.chance.choice(TYPED), self._focus()
        QTest.keyClicks(focus, text)
        if self.chance.random() < 0.7:
            QTest.keyClick(self._focus(), Qt.Key.Key_Return)
        return text

    def mouse(self) -> str:
        from PyQt6 import sip
        from PyQt6.QtCore import QPoint, Qt
        from PyQt6.QtTest import QTest

        x, y = self.chance.randrange(self.window.width()), self.chance.randrange(45, self.window.height())
        widget = self.window.childAt(x, y) or self.window
        place, left = widget.mapFrom(self.window, QPoint(x, y)), Qt.MouseButton.LeftButton
        none = Qt.KeyboardModifier.NoModifier
        held = self.chance.choice((none, none, Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier))
        if self.chance.random() < 0.5:
            QTest.mouseClick(widget, left, held, place)
            return f"click {x} {y} {type(widget).__name__} {held.name}"
        QTest.mousePress(widget, left, held, place)
        done = []
        for _ in range(3):
            if self.chance.random() < 0.5:
                done.append(self.chance.choice((self.key, self.track, self.stage))())
            self.app.processEvents()
            place += QPoint(self.chance.randrange(-80, 80), self.chance.randrange(-40, 40))
            if sip.isdeleted(widget):
                break
            QTest.mouseMove(widget, place)
        if not sip.isdeleted(widget):
            QTest.mouseRelease(widget, left, held, place)
        return f"drag {x} {y} {held.name} with {done}"

    def track(self) -> str:
        one, two = self.chance.choice(self.ids), self.chance.choice(self.ids)
        if self.chance.random() < 0.5:
            self.session.open(one)
            return f"open {one}"
        self.window.ask_of("rehearse", "pair", (one, two))
        return f"pair {one} {two}"

    def stage(self) -> str:
        name = self.chance.choice(list(self.window.stages))
        self.window.go_to_stage(name)
        return str(name)

    def play(self) -> str:
        self.now += self.chance.random() * 5
        self.session.player.tick()
        self.wait(self.chance.choice((0.0, 0.0, 0.3)))
        return ""


def harmless(home: Path) -> None:
    """No dialog waits for an answer, and none leads out of the folder."""
    from PyQt6.QtGui import QDesktopServices
    from PyQt6.QtWidgets import QDialog, QFileDialog, QMenu

    nothing: dict[str, Any] = {
        "getOpenFileName": ("", ""), "getOpenFileNames": ([], ""), "getExistingDirectory": str(home / "out"),
        "getSaveFileName": (str(home / "out" / "written.flac"), "FLAC"),
    }  # fmt: skip
    (home / "out").mkdir()
    for name, answer in nothing.items():
        setattr(QFileDialog, name, staticmethod(lambda *_, a=answer, **__: a))
    QDialog.exec = lambda self: 0  # type: ignore[method-assign,assignment]
    QMenu.exec = lambda self, *_: None  # type: ignore[method-assign,assignment]
    QDesktopServices.openUrl = staticmethod(lambda _: True)  # type: ignore[method-assign,assignment]


def run(seed: int, seconds: float, pause: float = 0.0) -> int:
    """One seed, with `pause` s between acts; how often something was raised or a process doubled."""
    from PyQt6.QtCore import QSettings

    raised: list[str] = []
    lately: list[str] = []

    def hook(kind: type[BaseException], value: BaseException, trace: Any) -> None:
        raised.append("".join(traceback.format_exception(kind, value, trace)))
        print(f"seed {seed}, after {lately[-4:]}:\n{raised[-1]}", flush=True)

    with tempfile.TemporaryDirectory() as folder:
        home = Path(folder)
        QSettings.setDefaultFormat(QSettings.Format.IniFormat)
        QSettings.setPath(QSettings.Format.IniFormat, QSettings.Scope.UserScope, folder)
        os.environ |= {"MERVID_DATA": folder, "MERVID_CACHE": folder}
        harmless(home)
        hands, steps = Hands(seed, home), 0
        sys.excepthook = hook
        began, early, told = time.monotonic(), {}, 0
        while (now := time.monotonic() - began) < seconds:
            lately.append(hands.step())
            steps += 1
            hands.wait(pause)
            if not early and now > SETTLED_S:
                early = memory()
            if now // 300 > told:
                told = int(now // 300)
                each = sorted(memory().values(), key=lambda one: -one[1])
                print(f"minute {5 * told}:", ", ".join(f"{kind} {mb:.0f}" for kind, mb in each), "MB", flush=True)
        grown = doubled(early, memory())
        hands.shutting.stop()
        hands.window.close()
    for line in grown:
        print(f"seed {seed}: more than doubled: {line}")
    print(f"seed {seed}: {steps} steps, raised {len(raised)} times, {len(grown)} of {len(early)} processes doubled")
    return len(raised) + len(grown)


def main() -> int:
    """All seeds."""
    from PyQt6.QtWidgets import QApplication

    p = argparse.ArgumentParser(description=__doc__)
    p.add_argument("seeds", nargs="*", type=int, default=[1])
    p.add_argument("--seconds", type=float, default=120.0)
    p.add_argument("--pause", type=float, default=0.0, help="s between acts")
    options = p.parse_args()
    app = QApplication(["mervid-bench"])
    raised = sum(run(seed, options.seconds, options.pause) for seed in options.seeds)
    app.quit()
    return int(raised > 0)


if __name__ == "__main__":
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    sys.exit(main())
