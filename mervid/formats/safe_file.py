"""The one way in which a file leaves Mervid: never over a recording, never half, never through somebody else's link.

What stands under a name already may be written over only where it is plainly an earlier file of the same kind. The new
one is written beside it under a random name, flushed to the disk, and renamed.
"""

from __future__ import annotations

import contextlib
import fcntl
import os
import shutil
import stat
import tempfile
import time
from collections.abc import Callable, Iterable
from pathlib import Path
from typing import BinaryIO

from ..core.errors import FormatError
from ..core.sound.decoding import SUFFIXES
from ..core.sound.names import shown
from . import riff

TEXT, MIDI, WAVE, MIX, STRAIGHT, PDF, BACKUP = (
    "text", "MIDI", "WAV", "mix", "straightened", "PDF", "backup",
)  # fmt: skip
"""Kinds of files that are written."""
SOUND_KINDS = (WAVE, MIX, STRAIGHT)
_MORE = """
    3gp ac3 aif alac amr ape au avi caf dff dsf dts m4b m4p m4r mka mkv mov mp1 mp2 mpc mpg ra shn snd
    spx tta w64 webm wma wv
"""
SOUNDS = SUFFIXES | {f".{ending}" for ending in _MORE.split()}
"""Endings of recordings: nothing else is written under such a name. Common practice, no source."""
MARK = b"mrvd"
"""A chunk of this name is in each WAV copy that Mervid writes: it says that the file is no recording."""
MIX_MARK = b"Mervid mix"
"""Each mix that is written says so in its head."""
STRAIGHT_MARK = b"Straightened by Mervid"
"""So does each recording that was straightened, among its tags."""
PDF_MARK = b"Mervid prep sheet"
BACKUP_MARK = b"mervid-backup.json"
"""The first file of a backup."""
_MOST_TAGS = 1 << 20
_HEAD = 4096
PART = ".mervid-"
_STALE_S = 86_400.0
"""Where files can't be locked, what was left half written is cleaned away after a day."""


def check(path: Path, kind: str, sources: Iterable[Path] = ()) -> None:
    """Raise `FormatError` unless a file of this kind may be written as `path`.

    Parameters
    ----------
    sources : recordings that are known, which are never written over, whatever their names
    """
    name = shown(path)
    if kind not in SOUND_KINDS and path.suffix.lower() in SOUNDS:
        raise FormatError(f"{name} is the name of a recording: choose another name, ending in .jams, .txt or .mid.")
    # asked once: a library may know many thousand recordings
    here, real = path.stat() if path.exists() else None, os.path.realpath(path)
    if any(_leads_to(source, here, real) for source in sources):
        raise FormatError(f"{name} is the recording itself, which is never written: choose another name.")
    if not os.path.lexists(path):
        return
    if here is None:
        raise FormatError(f"{name} is a link to something that is not there: choose another name.")
    if not stat.S_ISREG(here.st_mode):
        raise FormatError(f"{name} is not a file: choose another name.")
    found = what_is(path)
    if found and found != kind:
        names = {
            WAVE: "a WAV copy", MIX: "a mix", STRAIGHT: "a straightened recording", MIDI: "a MIDI file",
            PDF: "a prep sheet", BACKUP: "a backup",
        }  # fmt: skip
        what = names.get(found, "a text" if found == TEXT else found)
        raise FormatError(f"{name} is {what}, which is not written over: choose another name.")


def _leads_to(source: Path, here: os.stat_result | None, real: str) -> bool:
    """Whether a recording is the file `here`, or, where one of both has gone, lies where `real` says."""
    if here is not None:
        with contextlib.suppress(OSError):
            return os.path.samestat(source.stat(), here)
    return os.path.realpath(source) == real


def what_is(path: Path) -> str:
    """One of our kinds (`WAVE` for a copy of our own); else words for it; nothing for an empty file."""
    with path.open("rb") as f:
        head = f.read(_HEAD)
        if not head:
            return ""
        if head[:4] == b"MThd":
            return MIDI
        if head[:4] == b"PK\x03\x04":
            return BACKUP if BACKUP_MARK in head[:100] else "an archive of something else"
        if head[:4] == b"%PDF":
            f.seek(0)
            # its title and maker stand in UTF-16
            ours = PDF_MARK.decode().encode("utf-16-be") in f.read(1 << 26)
            return PDF if ours else "a PDF of another program"
        if head[:4] in (b"fLaC", b"RIFF", b"RF64") and MIX_MARK in head:
            return MIX
        if head[:4] == b"fLaC" and STRAIGHT_MARK in _flac_tags(f):
            return STRAIGHT
        if head[:4] == b"FORM" and STRAIGHT_MARK in head:
            return STRAIGHT
        if head[:4] in (b"RIFF", b"RF64") and head[8:12] == b"WAVE":
            if STRAIGHT_MARK in head:
                return STRAIGHT
            ours = head[:4] == b"RIFF" and any(name == MARK for name, _, _ in riff.chunks(f))
            return WAVE if ours else "a recording"
    # a text in any encoding of ours holds no zero byte and is UTF-8; a recording's tags may be, its sound is not
    try:
        text = path.read_bytes() if path.stat().st_size < 1 << 26 else b"\0"
        return "a recording or another file that is no text" if b"\0" in text or not text.decode("utf-8") else TEXT
    except UnicodeDecodeError:
        return "a recording or another file that is no text"


def _flac_tags(f: BinaryIO) -> bytes:
    """The comment block of a FLAC file (RFC 9639, 8.6); empty where there is none."""
    f.seek(4)
    while len(head := f.read(4)) == 4:
        size = int.from_bytes(head[1:], "big")
        if head[0] & 0x7F == 4:
            return f.read(min(size, _MOST_TAGS))
        if head[0] & 0x80:
            break
        f.seek(size, os.SEEK_CUR)
    return b""


def write(path: Path, fill: Callable[[BinaryIO], object], *, kind: str = TEXT, sources: Iterable[Path] = ()) -> None:
    """Let `fill` write a new file, and put it where `path` says once it is whole and on the disk.

    Raises
    ------
    FormatError
        Something stands there that is not written over, see `check`.
    OSError
        It can't be written; what stood there stands.
    """
    known = tuple(sources)
    check(path, kind, known)
    # a link to an earlier export stays a link
    target = Path(os.path.realpath(path))
    clean(target.parent)
    # made anew under a name that nobody knows, so that no link can be waiting there
    number, name = tempfile.mkstemp(prefix=PART, suffix=".part", dir=target.parent)
    part = Path(name)
    try:
        with os.fdopen(number, "w+b") as f:
            with contextlib.suppress(OSError):
                # held while it is written, and let go by the system whatever ends this program
                fcntl.flock(f, fcntl.LOCK_EX | fcntl.LOCK_NB)
            fill(f)
            f.flush()
            os.fsync(f.fileno())
        dress(part, target)
        # hours may have passed over a long copy
        check(path, kind, known)
        part.replace(target)
        flush_folder(target.parent)
    finally:
        part.unlink(missing_ok=True)


def put_new(target: Path, fill: Callable[[Path], object], *, over: bool = False) -> None:
    """Let `fill` make a file by its name, and put it at `target` once it is whole.

    Parameters
    ----------
    over : what stands there gives way: for whoever knows that it is their own

    Raises
    ------
    FormatError
        Something stands there that is not to give way.
    OSError
        It can't be written; nothing is left.
    """
    clean(target.parent)
    number, name = tempfile.mkstemp(prefix=PART, suffix=f".part{target.suffix}", dir=target.parent)
    part = Path(name)
    try:
        with os.fdopen(number, "r+b") as f:
            with contextlib.suppress(OSError):
                fcntl.flock(f, fcntl.LOCK_EX | fcntl.LOCK_NB)
            dress(part, target)
            fill(part)
            with part.open("rb") as again:
                os.fsync(again.fileno())
            if not over and os.path.lexists(target):
                raise FormatError(f"{shown(target)} stands there already: it is left as it is.")
            part.replace(target)
        flush_folder(target.parent)
    finally:
        part.unlink(missing_ok=True)


def dress(part: Path, target: Path) -> None:
    """The rights of the file it replaces, or those that any new file gets."""
    mask = os.umask(0)
    os.umask(mask)
    # a stick's file system may know no rights
    with contextlib.suppress(PermissionError):
        if target.exists():
            shutil.copymode(target, part)
        else:
            part.chmod(0o666 & ~mask)


def flush_folder(folder: Path) -> None:
    """Have the new name on the disk too; some file systems know no such thing."""
    with contextlib.suppress(OSError):
        number = os.open(folder, os.O_RDONLY | os.O_DIRECTORY)
        try:
            os.fsync(number)
        finally:
            os.close(number)


def clean(folder: Path) -> None:
    """Take away what a killed program left half written here; what another one is writing now stays."""
    with contextlib.suppress(OSError):
        for left in folder.glob(f"{PART}*.part*"):
            if _writer_is_gone(left):
                left.unlink(missing_ok=True)


def _writer_is_gone(part: Path) -> bool:
    """Whether nobody holds the lock of a half-written file; where locks aren't known, whether it is a day old."""
    number = os.open(part, os.O_RDONLY | os.O_NOFOLLOW | os.O_CLOEXEC)
    try:
        fcntl.flock(number, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except BlockingIOError:
        return False
    except OSError:
        return time.time() - os.fstat(number).st_mtime > _STALE_S
    finally:
        os.close(number)
    return True
