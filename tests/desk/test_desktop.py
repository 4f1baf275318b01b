"""On a desktop: a real bus of the tests' own, asked with the bus's own tool; and tracks that are dragged out as files.

The names and types are those of the MPRIS D-Bus Interface Specification 2.2 and the Desktop Notifications
Specification 1.2 (freedesktop.org).
"""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
from collections.abc import Callable, Iterator
from contextlib import closing
from pathlib import Path

import pytest
from PyQt6.QtCore import QMimeData, QPointF, Qt
from PyQt6.QtDBus import QDBusMessage
from PyQt6.QtGui import QDropEvent
from PyQt6.QtWidgets import QAbstractButton, QMessageBox
from pytestqt.qtbot import QtBot

from mervid import places
from mervid.desk.desktop import manners
from mervid.desk.desktop.attach import attach
from mervid.desk.desktop.manners import Manners
from mervid.desk.desktop.offered import Offered
from mervid.desk.widgets import outward
from mervid.desk.window import Window
from mervid.store.library import Library
from tests.conftest import wait_for
from tests.desk.conftest import keep_heard, put

needs_bus = pytest.mark.skipif(
    not (shutil.which("dbus-daemon") and shutil.which("dbus-send")), reason="no D-Bus here: apt-get install dbus"
)
Ask = Callable[..., str]


@pytest.fixture
def address() -> Iterator[str]:
    """A bus of our own."""
    daemon = subprocess.Popen(
        ["dbus-daemon", "--session", "--nofork", "--print-address"],
        stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True,
    )  # fmt: skip
    assert daemon.stdout is not None
    yield daemon.stdout.readline().strip()
    daemon.terminate()
    daemon.wait()


@pytest.fixture
def heard(address: str, tmp_path: Path) -> Iterator[Callable[[], list[str]]]:
    """A desktop in a process of its own, which falls asleep unless asked not to and shows notices; what it heard."""
    path = tmp_path / "heard.txt"
    desktop = subprocess.Popen([sys.executable, "-c", DESKTOP, address, str(path)])
    wait_for(path.exists)
    yield lambda: path.read_text().splitlines()[1:]
    desktop.kill()
    desktop.wait()


@pytest.fixture
def ask(address: str, heard: object, tmp_path: Path) -> Iterator[Ask]:
    """The program itself on that bus, with two tracks in its library; asked by `dbus-send`.

    In a process of its own: Qt's bus thread and Python's collector must not meet in the tests'.
    """
    data, cache = tmp_path / "data", tmp_path / "cache"
    data.mkdir()
    with closing(Library(data / "library.sqlite")) as library:
        for name in ("Copper Ferry", "Salt Ledger"):
            path = places.demo_folder() / f"{name}.ogg"
            keep_heard(library, cache, path, path)
    env = os.environ | {
        "MERVID_DATA": str(data), "MERVID_CACHE": str(cache), "DBUS_SESSION_BUS_ADDRESS": address,
        "QT_QPA_PLATFORM": "offscreen", "PULSE_SERVER": "none",
    }  # fmt: skip
    program = subprocess.Popen([sys.executable, "-m", "mervid"], env=env, stderr=subprocess.DEVNULL)

    def send(method: str, *arguments: str) -> str:
        done = subprocess.run(
            ["dbus-send", f"--bus={address}", "--print-reply", "--dest=org.mpris.MediaPlayer2.mervid",
             "/org/mpris/MediaPlayer2", method, *arguments],
            stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True, check=False,
        )  # fmt: skip
        return " ".join(done.stdout.split())

    yield send
    program.terminate()
    program.wait()


PLAYER = "org.mpris.MediaPlayer2.Player"


@needs_bus
def test_the_desktop_sees_what_plays_steers_it_and_stays_awake(ask: Ask, heard: Callable[[], list[str]]) -> None:
    def player(name: str) -> str:
        return ask("org.freedesktop.DBus.Properties.Get", f"string:{PLAYER}", f"string:{name}")

    def position() -> float:
        return int(player("Position").split()[-1]) / 1e6

    length = f'"mpris:length" variant int64 {int(97.166553e6)}'
    wait_for(lambda: length in player("Metadata"))
    told = player("Metadata")
    assert 'string "xesam:title" variant string "Copper Ferry"' in told
    assert 'object path "/mervid/track/1"' in told and "Copper%20Ferry.ogg" in told
    assert "Stopped" in player("PlaybackStatus")
    hold, free = "hold|Mervid|Music is playing", "free|41"
    ask(f"{PLAYER}.PlayPause")
    assert "Playing" in player("PlaybackStatus")
    wait_for(lambda: heard() == [hold], instead=heard)
    ask(f"{PLAYER}.Pause")
    wait_for(lambda: heard() == [hold, free], instead=heard)
    before = position()
    ask(f"{PLAYER}.Seek", "int64:7000000")
    assert position() == pytest.approx(before + 7, abs=0.01)
    ask(f"{PLAYER}.SetPosition", "objpath:/mervid/track/1", "int64:12000000")
    ask(f"{PLAYER}.SetPosition", "objpath:/mervid/track/999", "int64:1000000")
    assert position() == pytest.approx(12.0, abs=0.01)
    ask(f"{PLAYER}.Stop")
    assert position() == 0
    ask(f"{PLAYER}.Next")
    wait_for(lambda: "Salt Ledger" in player("Metadata"))
    root = ask("org.freedesktop.DBus.Properties.GetAll", "string:org.mpris.MediaPlayer2")
    assert 'string "Identity" variant string "Mervid"' in root
    assert 'string "DesktopEntry" variant string "mervid"' in root
    ask("org.mpris.MediaPlayer2.Quit")
    wait_for(lambda: "ServiceUnknown" in ask(f"{PLAYER}.Play"))


DESKTOP = """
import sys
from PyQt6.QtCore import QCoreApplication, QObject, pyqtClassInfo, pyqtSlot
from PyQt6.QtDBus import QDBusAbstractAdaptor, QDBusConnection

def note(*words):
    with open(sys.argv[2], "a") as f:
        print(*words, sep="|", file=f)

@pyqtClassInfo("D-Bus Interface", "org.freedesktop.ScreenSaver")
class Saver(QDBusAbstractAdaptor):
    @pyqtSlot(str, str, result="uint")
    def Inhibit(self, who, why):
        note("hold", who, why)
        return 41

    @pyqtSlot("uint")
    def UnInhibit(self, cookie):
        note("free", cookie)

@pyqtClassInfo("D-Bus Interface", "org.freedesktop.Notifications")
class Notices(QDBusAbstractAdaptor):
    @pyqtSlot(str, "uint", str, str, str, "QStringList", "QVariantMap", int, result="uint")
    def Notify(self, app, replaces, icon, summary, body, actions, hints, lasts):
        note("notice", summary, body)
        return 1

app = QCoreApplication([])
bus = QDBusConnection.connectToBus(sys.argv[1], "desktop")
holders = []
for name, kind in (("org.freedesktop.ScreenSaver", Saver), ("org.freedesktop.Notifications", Notices)):
    holder = QObject()
    holders.append((holder, kind(holder)))
    bus.registerObject("/" + name.replace(".", "/"), holder, QDBusConnection.RegisterOption.ExportAdaptors)
    bus.registerService(name)
note("there")
app.exec()
"""


class _Bus:
    """Takes messages, and sends none."""

    def __init__(self) -> None:
        self.sent: list[QDBusMessage] = []

    def send(self, message: QDBusMessage) -> bool:
        self.sent.append(message)
        return True


def test_a_notice_comes_after_a_long_queue_and_not_after_a_short_one(
    window: Window, monkeypatch: pytest.MonkeyPatch
) -> None:
    bus, left = _Bus(), [3]
    good = Manners(window.session, bus)  # type: ignore[arg-type]
    monkeypatch.setattr(window.session.queue, "outlook", lambda: (left[0], None))

    def queue_of(*lengths: int) -> None:
        for left[0] in lengths:
            window.session.queue.changed.emit()

    # whoever waited a moment is still looking
    queue_of(3, 0)
    assert bus.sent == []
    monkeypatch.setattr(manners, "LONG_S", 0.0)
    queue_of(0, 5, 2, 0, 0)
    (message,) = bus.sent
    assert (message.service(), message.member()) == ("org.freedesktop.Notifications", "Notify")
    said: list[tuple[str, str]] = []
    monkeypatch.setattr(good, "notify", lambda *words: said.append(words))
    queue_of(5, 2, 0)
    assert said == [("All recordings are heard", "5 recordings wait for you.")]
    good._is_seen = lambda: True
    queue_of(2, 0)
    assert len(said) == 1


def test_without_a_bus_nothing_is_missing(ferry: Window, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.delenv("DBUS_SESSION_BUS_ADDRESS", raising=False)
    monkeypatch.setattr(Path, "exists", lambda self: False)
    assert attach(ferry) is None


def test_tracks_are_dragged_out_as_files_to_copy_and_never_taken_in_again(ferry: Window, qtbot: QtBot) -> None:
    put(ferry, "Salt Ledger")
    ferry.go_to_stage("gather")
    table = ferry.stages["gather"].view.table  # type: ignore[attr-defined]
    model = table.model()
    mime = model.mimeData([model.index(0, 0), model.index(1, 0), model.index(1, 3)])
    paths = {Path(u.toLocalFile()) for u in mime.urls()}
    assert paths == {t.path for t in ferry.session.library.tracks()}
    # a file manager may copy or link, and is never offered a move
    assert not model.supportedDragActions() & Qt.DropAction.MoveAction
    assert not ferry.list.model().supportedDragActions() & Qt.DropAction.MoveAction
    one = ferry.list.model().mimeData([ferry.list.model().index(0)])
    assert len(one.urls()) == 1
    added: list[object] = []
    ferry.session.queue.add_files = lambda *a, **k: added.append(a)  # type: ignore[method-assign]
    for data, taken in ((mime, 0), (one, 0)):
        drop = QDropEvent(
            QPointF(5, 5), Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
        )
        ferry.dropEvent(drop)
        assert len(added) == taken
    foreign = QMimeData()
    foreign.setUrls([outward.url_of(Path("/music/a tide.ogg"))])
    ferry.dropEvent(
        QDropEvent(
            QPointF(5, 5), Qt.DropAction.CopyAction, foreign, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
        )
    )
    assert len(added) == 1
    # a name that is bytes
    strange = Path("/music/caf\udce9 100%.mp3")
    assert outward.url_of(strange).toEncoded().data() == b"file:///music/caf%E9%20100%25.mp3"


def test_what_another_program_offers_is_shown_before_it_is_added(window: Window, qtbot: QtBot, tmp_path: Path) -> None:
    song, text = tmp_path / "a b.ogg", tmp_path / "text.wav"
    song.write_bytes((places.demo_folder() / "Copper Ferry.ogg").read_bytes())
    text.write_text("no sound")
    pipe = tmp_path / "pipe.wav"
    os.mkfifo(pipe)
    said: list[str] = []
    window.session.say.said.connect(lambda _, words: said.append(words))
    offered = Offered(window.session, window)
    here = song.as_uri()
    refused = (
        "file:///etc/passwd", "file:///dev/zero", here.replace("file://", "file://host"), here.replace("%20", "%00"),
        here.replace("file:", "http:"), text.as_uri(), pipe.as_uri(), tmp_path.as_uri(), "a b.ogg", "", "\0",
    )  # fmt: skip
    for uri in refused:
        offered.take(uri)
        assert offered.question is None, uri
    assert len(said) == len(refused) and not window.session.library.any()

    offered.take(here)
    first = offered.question
    assert first is not None and first.isVisible() and "a b.ogg" in first.text()
    offered.take(here)
    assert offered.question is first and len(said) == len(refused) + 1
    qtbot.mouseClick(button_of(first, "Don't add it"), Qt.MouseButton.LeftButton)
    assert offered.question is None and not window.session.library.any()

    offered.take(here)
    assert offered.question is not None
    qtbot.mouseClick(button_of(offered.question, "Add it"), Qt.MouseButton.LeftButton)
    qtbot.waitUntil(window.session.library.any)


def button_of(box: QMessageBox, words: str) -> QAbstractButton:
    return next(b for b in box.buttons() if b.text().replace("&", "") == words)
