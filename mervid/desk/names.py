"""What the program calls itself to Qt and to the desktop, and so where its settings are kept."""

from __future__ import annotations

import os
from pathlib import Path

from PyQt6.QtCore import QCoreApplication, QSettings

from .. import __version__, places
from ..core.sound.names import is_name

APPLICATION = "mervid"


def take() -> None:
    """Take the names; before the application is made, since its settings are read before that."""
    QCoreApplication.setApplicationName(APPLICATION)
    QCoreApplication.setOrganizationName(APPLICATION)
    QCoreApplication.setApplicationVersion(__version__)
    if os.environ.get("MERVID_DATA"):
        QSettings.setDefaultFormat(QSettings.Format.IniFormat)
        QSettings.setPath(QSettings.Format.IniFormat, QSettings.Scope.UserScope, str(places.data_folder()))


def kept_folder(key: str) -> Path | None:
    """The folder that is kept under a name; None where there is none, or what is kept can't be a path."""
    kept = QSettings().value(key)
    return Path(kept) if isinstance(kept, str) and is_name(os.fsencode(kept)) else None


def settings_at_rest() -> QSettings:
    """The settings, without an application."""
    take()
    return QSettings()


def settings_file() -> Path:
    """The file they are kept in."""
    return Path(settings_at_rest().fileName())
