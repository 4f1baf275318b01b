"""Tracks dragged out of the window are files for other programs, to be copied or linked, never to be moved away."""

from __future__ import annotations

import os
from collections.abc import Iterable
from pathlib import Path
from urllib.parse import quote

from PyQt6.QtCore import QMimeData, Qt, QUrl

ONE, MANY = "application/x-mervid-track", "application/x-mervid-tracks"
ACTIONS = Qt.DropAction.CopyAction | Qt.DropAction.LinkAction
"""A file manager that was offered a move would take the recording out of its folder."""


def url_of(path: Path) -> QUrl:
    """The address of a file; its name is bytes, whatever they mean.

    >>> url_of(Path("/music/a tide.ogg")).toString(QUrl.ComponentFormattingOption.FullyEncoded)
    'file:///music/a%20tide.ogg'
    """
    return QUrl.fromEncoded(b"file://" + quote(os.fsencode(path.absolute())).encode())


def add_files(mime: QMimeData, paths: Iterable[Path]) -> None:
    """Let other programs take these files."""
    mime.setUrls([url_of(p) for p in paths])


def is_from_outside(mime: QMimeData | None) -> bool:
    """Whether files come from another program: those that are dragged within Mervid are there already."""
    return mime is not None and mime.hasUrls() and not mime.hasFormat(ONE) and not mime.hasFormat(MANY)
