"""Folders that are watched: what is new in them comes into the library by itself."""

from __future__ import annotations

import os
from pathlib import Path

from .file_paths import path_of
from .library import Library


def watched(library: Library) -> list[Path]:
    """The watched folders, by name."""
    return [path_of(raw) for (raw,) in library.rows("SELECT path FROM folders ORDER BY path")]


def watch(library: Library, folder: Path) -> None:
    """Watch a folder from now on."""
    with library.writing() as db:
        db.execute("INSERT OR IGNORE INTO folders VALUES (?)", (os.fsencode(os.path.abspath(folder)),))


def unwatch(library: Library, folder: Path) -> None:
    """Watch it no longer; its recordings stay."""
    with library.writing() as db:
        db.execute("DELETE FROM folders WHERE path=?", (os.fsencode(os.path.abspath(folder)),))
