"""On a desktop: a real bus of the tests' own, asked with the bus's own tool; and tracks that are dragged out as files.

The names and types are those of the MPRIS D-Bus Interface Specification 2.2 and the Desktop Notifications
Specification 1.2 (freedesktop.org).
"""

from __future__ import annotations

import shutil
import subprocess
import sys
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from PyQt6.QtCore import QMimeData, QPointF, Qt
from PyQt6.QtDBus import QDBusConnection
from PyQt6.QtGui import QDropEvent
from pytestqt.qtbot import QtBot

from mervid.desk.desktop import manners
from mervid.desk.desktop.attach import attach
from mervid.desk.desktop.manners import Manners
from mervid.desk.desktop.media import Media
from mervid.desk.widgets import outward
from mervid.desk.window import Window
from tests.desk.conftest import FakeTime, put

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
def bus(address: str) -> Iterator[QDBusConnection]:
    yield QDBusConnection.connectToBus(address, "mervid-test")
    QDBusConnection.disconnectFromBus("mervid-test")


@pytest.fixture
def ask(address: str, qtbot: QtBot) -> Ask:
    """Asks the player by `dbus-send`, while the window runs."""

    def send(method: str, *arguments: str) -> str:
        asked = subprocess.Popen(
            ["dbus-send", f"--bus={address}", "--print-reply", "--dest=org.mpris.MediaPlayer2.mervid",
             "/org/mpris/MediaPlayer2", method, *arguments],
            stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True,
        )  # fmt: skip
        qtbot.waitUntil(lambda: asked.poll() is not None)
        assert asked.stdout is not None
        return " ".join(asked.stdout.read().split())

    return send


@needs_bus
def test_the_desktop_sees_what_plays_and_steers_it(
    ferry: Window, bus: QDBusConnection, ask: Ask, clock: FakeTime
) -> None:
    session = ferry.session
    media = Media(session, bus)
    media.step.connect(lambda step: ferry.ask("next-track", step))
    told = ask("org.freedesktop.DBus.Properties.GetAll", "string:org.mpris.MediaPlayer2.Player")
    assert 'string "xesam:title" variant string "Copper Ferry"' in told
    assert f'"mpris:length" variant int64 {int(session.player.duration * 1e6)}' in told
    assert f'object path "/mervid/track/{session.track.row.id}"' in told
    assert 'string "PlaybackStatus" variant string "Stopped"' in told
    player = "org.mpris.MediaPlayer2.Player"
    ask(f"{player}.PlayPause")
    assert session.player.playing
    ask(f"{player}.Seek", "int64:7000000")
    assert session.player.position == pytest.approx(7.0)
    track = f"objpath:/mervid/track/{session.track.row.id}"
    ask(f"{player}.SetPosition", track, "int64:12000000")
    ask(f"{player}.SetPosition", "objpath:/mervid/track/999", "int64:1000000")
    assert session.player.position == pytest.approx(12.0)
    assert "Playing" in ask("org.freedesktop.DBus.Properties.Get", f"string:{player}", "string:PlaybackStatus")
    ask(f"{player}.Stop")
    assert not session.player.playing and session.player.position == 0
    other = put(ferry, "Salt Ledger")
    ask(f"{player}.Next")
    assert session.track.is_open(other)
    root = ask("org.freedesktop.DBus.Properties.GetAll", "string:org.mpris.MediaPlayer2")
    assert (
        'string "Identity" variant string "Mervid"' in root and 'string "DesktopEntry" variant string "mervid"' in root
    )
    media.close()
    assert "ServiceUnknown" in ask(f"{player}.Play")


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


@pytest.fixture
def heard(address: str, tmp_path: Path, qtbot: QtBot) -> Iterator[Callable[[], list[str]]]:
    """A desktop in a process of its own, which falls asleep unless asked not to and shows notices; what it heard."""
    path = tmp_path / "heard.txt"
    desktop = subprocess.Popen([sys.executable, "-c", DESKTOP, address, str(path)])
    qtbot.waitUntil(path.exists, timeout=20_000)
    yield lambda: path.read_text().splitlines()[1:]
    desktop.kill()
    desktop.wait()


@needs_bus
def test_no_sleep_while_it_plays_and_a_notice_after_a_long_queue(
    ferry: Window, bus: QDBusConnection, heard: Callable[[], list[str]], qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    good = Manners(ferry.session, bus)
    ferry.session.player.play()
    hold, free = "hold|Mervid|Music is playing", "free|41"
    qtbot.waitUntil(lambda: heard() == [hold] and good._cookie == 41)
    ferry.session.player.pause()
    qtbot.waitUntil(lambda: heard() == [hold, free])
    # stopped before the desktop answered: it is let go all the same
    ferry.session.player.play()
    ferry.session.player.pause()
    qtbot.waitUntil(lambda: heard() == [hold, free] * 2)
    left = [3]
    monkeypatch.setattr(ferry.session.queue, "outlook", lambda: (left[0], None))

    def queue_of(*lengths: int) -> None:
        for left[0] in lengths:
            ferry.session.queue.changed.emit()

    # whoever waited a moment is still looking
    queue_of(3, 0)
    monkeypatch.setattr(manners, "LONG_S", 0.0)
    queue_of(0, 5, 2, 0, 0)
    qtbot.waitUntil(lambda: len(heard()) == 5)
    assert heard()[-1] == "notice|All recordings are heard|5 recordings wait for you."


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
