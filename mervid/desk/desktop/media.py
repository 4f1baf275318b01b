# PyQt gives its decorators no types
# mypy: disable-error-code="untyped-decorator"
"""What plays, for the desktop: media keys, lock screens and panels see it and steer it.

Source: the MPRIS D-Bus Interface Specification 2.2 (freedesktop.org), recalled from memory.
"""

from __future__ import annotations

import os
from typing import Any

from PyQt6.QtCore import QObject, QUrl, pyqtSignal, pyqtSlot
from PyQt6.QtDBus import QDBusAbstractAdaptor, QDBusConnection, QDBusMessage, QDBusObjectPath

from ..names import APPLICATION
from ..session.session import Session
from ..widgets.outward import url_of
from .bus import exported, interface, long, texts

SERVICE, PATH = f"org.mpris.MediaPlayer2.{APPLICATION}", "/org/mpris/MediaPlayer2"
ROOT, PLAYER = "org.mpris.MediaPlayer2", "org.mpris.MediaPlayer2.Player"
NOTHING = "/org/mpris/MediaPlayer2/TrackList/NoTrack"
US = 1_000_000


class Media(QObject):
    """The program as a player on the bus.

    `raised` and `quit_wanted` are for the window, `step` for its list, `offered` brings a URI.
    """

    raised = pyqtSignal()
    quit_wanted = pyqtSignal()
    step = pyqtSignal(int)
    offered = pyqtSignal(str)

    def __init__(self, session: Session, bus: QDBusConnection) -> None:
        super().__init__()
        self.session, self._bus = session, bus
        self._root, self._player = _Root(self), _Player(self)
        # several Mervids may run, each with a library of its own
        self.service = SERVICE
        if not bus.registerService(self.service):
            self.service = f"{SERVICE}.instance{os.getpid()}"
            bus.registerService(self.service)
        bus.registerObject(PATH, self, QDBusConnection.RegisterOption.ExportAdaptors)
        session.player.playing_changed.connect(lambda _: self._tell("PlaybackStatus"))
        session.player.program_changed.connect(lambda: self._tell("Metadata", "PlaybackStatus"))
        session.track.opened.connect(lambda: self._tell("Metadata", "PlaybackStatus", "CanPlay"))

    def close(self) -> None:
        """Leave the bus."""
        self._bus.unregisterObject(PATH)
        self._bus.unregisterService(self.service)

    def _tell(self, *names: str) -> None:
        """Say what has changed (org.freedesktop.DBus.Properties)."""
        message = QDBusMessage.createSignal(PATH, "org.freedesktop.DBus.Properties", "PropertiesChanged")
        message.setArguments([PLAYER, {name: getattr(self._player, name) for name in names}, texts([])])
        self._bus.send(message)


@interface("D-Bus Interface", ROOT)
class _Root(QDBusAbstractAdaptor):
    """The program: it can come to the front and be closed."""

    def __init__(self, media: Media) -> None:
        super().__init__(media)
        self._media = media

    @pyqtSlot()
    def Raise(self) -> None:
        self._media.raised.emit()

    @pyqtSlot()
    def Quit(self) -> None:
        self._media.quit_wanted.emit()

    @exported(bool)
    def CanQuit(self) -> bool:
        return True

    @exported(bool)
    def CanRaise(self) -> bool:
        return True

    @exported(bool)
    def HasTrackList(self) -> bool:
        return False

    @exported(str)
    def Identity(self) -> str:
        return "Mervid"

    @exported(str)
    def DesktopEntry(self) -> str:
        return APPLICATION

    @exported("QStringList")
    def SupportedUriSchemes(self) -> list[str]:
        return ["file"]

    @exported("QStringList")
    def SupportedMimeTypes(self) -> list[str]:
        return ["audio/flac", "audio/mpeg", "audio/ogg", "audio/x-wav", "audio/x-aiff", "audio/mp4"]


@interface("D-Bus Interface", PLAYER)
class _Player(QDBusAbstractAdaptor):
    """What plays: times are in µs."""

    Seeked = pyqtSignal("qlonglong")

    def __init__(self, media: Media) -> None:
        super().__init__(media)
        self._media, self._session = media, media.session
        self._sound = media.session.player

    @pyqtSlot()
    def Play(self) -> None:
        self._sound.play()

    @pyqtSlot()
    def Pause(self) -> None:
        self._sound.pause()

    @pyqtSlot()
    def PlayPause(self) -> None:
        self._sound.toggle()

    @pyqtSlot()
    def Stop(self) -> None:
        self._sound.pause()
        self._sound.seek(0.0)

    @pyqtSlot()
    def Next(self) -> None:
        self._media.step.emit(1)

    @pyqtSlot()
    def Previous(self) -> None:
        self._media.step.emit(-1)

    @pyqtSlot("qlonglong")
    def Seek(self, by: int) -> None:
        self._go(self._sound.now() + by / US)

    @pyqtSlot(QDBusObjectPath, "qlonglong")
    def SetPosition(self, track: QDBusObjectPath, to: int) -> None:
        if track.path() == self._track():
            self._go(to / US)

    @pyqtSlot(str)
    def OpenUri(self, uri: str) -> None:
        self._media.offered.emit(uri)

    def _go(self, seconds: float) -> None:
        self._sound.seek(seconds)
        self.Seeked.emit(int(self._sound.position * US))

    def _track(self) -> str:
        row = self._session.track.row
        return NOTHING if row is None else f"/{APPLICATION}/track/{row.id}"

    @exported(str)
    def PlaybackStatus(self) -> str:
        if self._sound.playing:
            return "Playing"
        return "Paused" if self._sound.program is not None and self._sound.position > 0 else "Stopped"

    @exported("QVariantMap")
    def Metadata(self) -> dict[str, Any]:
        row = self._session.track.row
        told: dict[str, Any] = {"mpris:trackid": QDBusObjectPath(self._track())}
        if row is not None:
            told |= {"mpris:length": long(int(self._sound.duration * US)), "xesam:title": row.title}
            told["xesam:url"] = url_of(row.path).toString(QUrl.ComponentFormattingOption.FullyEncoded)
        return told

    @exported("qlonglong")
    def Position(self) -> int:
        return int(self._sound.now() * US)

    @exported(float)
    def Rate(self) -> float:
        return 1.0

    @exported(float)
    def MinimumRate(self) -> float:
        return 1.0

    @exported(float)
    def MaximumRate(self) -> float:
        return 1.0

    @exported(float)
    def Volume(self) -> float:
        return 1.0

    @exported(bool)
    def CanGoNext(self) -> bool:
        return True

    @exported(bool)
    def CanGoPrevious(self) -> bool:
        return True

    @exported(bool)
    def CanPlay(self) -> bool:
        return self._session.track.row is not None

    @exported(bool)
    def CanPause(self) -> bool:
        return True

    @exported(bool)
    def CanSeek(self) -> bool:
        return True

    @exported(bool)
    def CanControl(self) -> bool:
        return True
