"""Tags written into a recording itself: in a copy beside it, which takes its place once its sound is proved the same.

The one place where a file that Mervid did not make is replaced. A kill at any moment leaves the old or the new file.
"""

from __future__ import annotations

import contextlib
import fcntl
import os
import shutil
import stat
import tempfile
from collections.abc import Callable, Mapping
from pathlib import Path
from typing import BinaryIO

import attrs

from ..core.errors import FormatError
from ..core.sound import packets
from ..core.sound.names import shown
from . import riff, safe_file, tag_writing, wavcues
from .tag_journal import Journal
from .tag_writing import Marks

_ROOM = 1 << 20


def write(
    path: Path, values: Mapping[str, str], marks: Marks | None = None, *, journal: Journal | None, rate: int = 0
) -> None:
    """Write words and marks into a recording.

    Parameters
    ----------
    journal : where the old bytes are kept; None for a file that Mervid itself made
    rate : samples a second, for cue points of a WAV file; 0 leaves them out

    Raises
    ------
    FormatError
        The format holds no tags, the file is a name of several (a hard link), it was changed meanwhile, or its sound
        would not have stayed the same.
    OSError
        It can't be read or written: it is not there, read-only, or the disk is full. Nothing is changed.
    """
    real = Path(os.path.realpath(path))
    before = _checked(real)
    old = packets.digest(real)

    def edit(part: Path) -> None:
        with part.open("rb") as f:
            points = marks is not None and rate > 0 and riff.is_wave(f)
        # a WAV file has points of its own: readers would find everything twice
        tag_writing.apply(part, values, attrs.evolve(marks, chapters=()) if marks is not None and points else marks)
        if marks is not None and points:
            wavcues.put(part, list(marks.chapters), rate=rate)
        if packets.digest(part) != old:
            raise FormatError(f"{shown(path)}: its sound would not have stayed the same, so nothing was written.")
        if journal is not None:
            journal.note(real, part)

    try:
        _replace(real, before, edit)
    except BaseException:
        if journal is not None:
            with contextlib.suppress(OSError):
                journal.forget_unless(real)
        raise


def holds_tags(path: Path) -> bool:
    """Whether a file's format has a place for tags."""
    return path.suffix.lower() != ".aac"


def _checked(real: Path) -> os.stat_result:
    """The state of a file that may be written to. Raises `FormatError`, `OSError`."""
    before = real.stat()
    if not stat.S_ISREG(before.st_mode):
        raise FormatError(f"{shown(real)} is no file.")
    if before.st_nlink > 1:
        raise FormatError(
            f"{shown(real)} has {before.st_nlink} names on this disk (hard links); writing would part them, "
            "so nothing was written."
        )
    if not before.st_mode & 0o222 or not os.access(real, os.W_OK):
        raise PermissionError(13, "it is read-only")
    if not os.access(real.parent, os.W_OK):
        raise PermissionError(13, "its folder is read-only")
    free = shutil.disk_usage(real.parent).free
    if free < before.st_size + _ROOM:
        raise OSError(28, f"the disk is too full: {free >> 20} MB are left, and {before.st_size >> 20} MB are needed")
    return before


def _replace(real: Path, before: os.stat_result, edit: Callable[[Path], None], mtime_ns: int | None = None) -> None:
    """Let `edit` work on a copy, dress it as the old file was, and put it in its place."""
    safe_file.clean(real.parent)
    # its ending tells tag writers what it is
    number, name = tempfile.mkstemp(prefix=safe_file.PART, suffix=f".part{real.suffix}", dir=real.parent)
    part = Path(name)
    try:
        with os.fdopen(number, "r+b") as f:
            with contextlib.suppress(OSError):
                # held while it is written, so that nobody takes it for a leftover
                fcntl.flock(f, fcntl.LOCK_EX | fcntl.LOCK_NB)
            with real.open("rb") as source:
                shutil.copyfileobj(source, f, 1 << 20)
            f.flush()
            edit(part)
            with part.open("rb") as again:
                os.fsync(again.fileno())
        # mode, times and extended attributes; the owner where that is allowed
        shutil.copystat(real, part)
        with contextlib.suppress(OSError):
            os.chown(part, before.st_uid, before.st_gid)
        if mtime_ns is not None:
            os.utime(part, ns=(before.st_atime_ns, mtime_ns))
        now = real.stat()
        if (now.st_size, now.st_mtime_ns, now.st_ino) != (before.st_size, before.st_mtime_ns, before.st_ino):
            raise FormatError(f"{shown(real)} was changed by another program meanwhile, so nothing was written.")
        part.replace(real)
        safe_file.flush_folder(real.parent)
    finally:
        part.unlink(missing_ok=True)


def put_back(real: Path, fill: Callable[[BinaryIO], object], mtime_ns: int) -> None:
    """Put an earlier state of a file in its place; for `tag_journal.undo`. Raises `FormatError`, `OSError`."""

    def edit(part: Path) -> None:
        with part.open("r+b") as f:
            f.truncate(0)
            fill(f)

    _replace(real, _checked(real), edit, mtime_ns)
