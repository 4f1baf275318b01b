"""Putting the window on the desktop's bus, where there is one."""

from __future__ import annotations

import logging
import os
from pathlib import Path

from PyQt6.QtDBus import QDBusConnection

from ..window import Window
from .manners import Manners
from .media import Media
from .offered import Offered

log = logging.getLogger(__name__)


def attach(window: Window) -> tuple[Media, Manners] | None:
    """Media keys, notices and staying awake; None without a bus, which is never started for this."""
    if "DBUS_SESSION_BUS_ADDRESS" not in os.environ and not Path(f"/run/user/{os.getuid()}/bus").exists():
        return None
    bus = QDBusConnection.sessionBus()
    if not bus.isConnected():
        log.info("The desktop's bus does not answer: no media keys, no notices.")
        return None
    media, manners = Media(window.session, bus), Manners(window.session, bus, is_seen=window.isActiveWindow)
    media.raised.connect(window.come_forward)
    media.quit_wanted.connect(window.close)
    media.offered.connect(Offered(window.session, window).take)
    media.step.connect(lambda step: window.ask("next-track", step))
    return media, manners
