"""Manners on a desktop: a notice when a long queue is heard, and no sleep while it plays.

Sources: Desktop Notifications Specification 1.2 and the login manager's Inhibit (freedesktop.org), recalled from
memory. Where nobody answers on the bus nothing happens.
"""

from __future__ import annotations

import logging
import time
from collections.abc import Callable

from PyQt6.QtCore import QObject
from PyQt6.QtDBus import QDBusConnection, QDBusMessage, QDBusPendingCallWatcher, QDBusPendingReply

from ..names import APPLICATION
from ..session.session import Session
from .bus import texts, uint

log = logging.getLogger(__name__)
LONG_S = 60.0
"""A queue that took so long is worth a notice; whoever waited for less is still looking."""
WAKE = ("org.freedesktop.ScreenSaver", "/org/freedesktop/ScreenSaver", "org.freedesktop.ScreenSaver")
NOTICE = ("org.freedesktop.Notifications", "/org/freedesktop/Notifications", "org.freedesktop.Notifications")


class Manners(QObject):
    """Watches the queue and the player."""

    def __init__(self, session: Session, bus: QDBusConnection, *, is_seen: Callable[[], bool] = lambda: False) -> None:
        super().__init__()
        self._session, self._bus, self._is_seen = session, bus, is_seen
        self._began: float | None = None
        self._most = 0
        self._cookie: int | None = None
        self._asked = False
        self._calls: list[QDBusPendingCallWatcher] = []
        session.queue.changed.connect(self._queue_changed)
        session.player.playing_changed.connect(self._playing)

    def close(self) -> None:
        """Let the computer sleep again."""
        self._playing(False)

    # a long queue

    def _queue_changed(self) -> None:
        left, _ = self._session.queue.outlook()
        if left:
            self._began = self._began or time.monotonic()
            self._most = max(self._most, left)
        elif self._began is not None:
            took, many = time.monotonic() - self._began, self._most
            self._began, self._most = None, 0
            if took >= LONG_S and not self._is_seen():
                self.notify("All recordings are heard", f"{many} recording{'s' if many != 1 else ''} wait for you.")

    def notify(self, summary: str, body: str) -> None:
        """Show a notice of the desktop."""
        hints, as_usual = {"desktop-entry": APPLICATION}, -1
        self._send(NOTICE, "Notify", ["Mervid", uint(0), APPLICATION, summary, body, texts([]), hints, as_usual])

    # awake while it plays

    def _playing(self, playing: bool) -> None:
        if playing and self._cookie is None and not self._asked:
            self._asked = True
            message = QDBusMessage.createMethodCall(*WAKE, "Inhibit")
            message.setArguments(["Mervid", "Music is playing"])
            self._wait(message)
        elif not playing:
            self._asked = False
            self._let_sleep()

    def _wait(self, message: QDBusMessage) -> None:
        watcher = QDBusPendingCallWatcher(self._bus.asyncCall(message), self)
        watcher.finished.connect(self._awake)
        self._calls.append(watcher)

    def _awake(self, watcher: QDBusPendingCallWatcher) -> None:
        self._calls.remove(watcher)
        reply = QDBusPendingReply(watcher)
        if reply.isError():
            log.info("The desktop can't be kept awake: %s", reply.error().message())
            return
        self._cookie = int(reply.argumentAt(0))
        if not self._asked:
            # it stopped before the answer came
            self._let_sleep()

    def _let_sleep(self) -> None:
        if self._cookie is not None:
            self._send(WAKE, "UnInhibit", [uint(self._cookie)])
            self._cookie = None

    def _send(self, to: tuple[str, str, str], method: str, arguments: list[object]) -> None:
        message = QDBusMessage.createMethodCall(*to, method)
        message.setArguments(arguments)
        self._bus.send(message)
