"""Decoded audio on disk: float32, interleaved, one file a recording, named by the sound's identity.

A compressed file is decoded once, in order; playing and looking closely then read from here. Oldest files go first
when the folder grows beyond its limit. A file appears under its name only when it is complete.
"""

from __future__ import annotations

import contextlib
import errno
import os
from pathlib import Path
from typing import BinaryIO

import numpy as np
from numpy.typing import NDArray

from ..core.arrays import Samples
from ..core.errors import AudioError

LIMIT = 6 * 1024**3


def path_of(folder: Path, identity: str) -> Path:
    """Where the samples of `identity` lie."""
    return folder / "pcm" / f"{identity}.f32"


def load(folder: Path, identity: str, channels_of: int, frames: int) -> NDArray[np.float32] | None:
    """The samples (frames, channels) as a read-only memory map; None when they aren't there."""
    path = path_of(folder, identity)
    try:
        if path.stat().st_size != frames * channels_of * 4:
            return None
        os.utime(path)
        return np.memmap(path, np.float32, "r", shape=(frames, channels_of))
    except OSError:
        return None


def channels(folder: Path, identity: str, frames: int) -> int:
    """How many channels the stored samples have; 0 when they aren't there."""
    try:
        size = path_of(folder, identity).stat().st_size
    except OSError:
        return 0
    return size // (frames * 4) if frames and size % (frames * 4) == 0 else 0


class Writer:
    """Writes one recording's samples; `keep` gives them their name, `drop` forgets them."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder / "pcm"
        self._temporary = self._folder / f"writing-{os.getpid()}.part"
        try:
            self._folder.mkdir(parents=True, exist_ok=True)
            self._file: BinaryIO = self._temporary.open("wb")
        except OSError as e:
            raise _no_room(self._folder, e) from None

    def push(self, block: Samples) -> None:
        """Append (frames, channels)."""
        try:
            self._file.write(block.tobytes())
        except OSError as e:
            raise _no_room(self._folder, e) from None

    def keep(self, identity: str) -> Path:
        """Finish, and make room by deleting the files that were used longest ago."""
        target = self._folder / f"{identity}.f32"
        try:
            self._file.close()
            os.replace(self._temporary, target)
        except OSError as e:
            raise _no_room(self._folder, e) from None
        _tidy(self._folder, target)
        return target

    def drop(self) -> None:
        """Forget what was written."""
        # a full disk fails the last flush too: the file goes anyway
        with contextlib.suppress(OSError):
            self._file.close()
        self._temporary.unlink(missing_ok=True)


def clear_unfinished(folder: Path) -> None:
    """Delete what a killed worker left half written."""
    for f in (folder / "pcm").glob("writing-*.part"):
        # another Mervid may be writing just now
        if not Path("/proc", f.stem.removeprefix("writing-")).exists():
            f.unlink(missing_ok=True)


def _no_room(folder: Path, e: OSError) -> AudioError:
    if e.errno == errno.ENOSPC:
        return AudioError(f"The disk is full: there is no room for decoded audio in {folder}.")
    return AudioError(f"Decoded audio can't be kept in {folder}: {e.strerror or e}.")


def _tidy(folder: Path, newest: Path) -> None:
    files = []
    for f in folder.glob("*.f32"):
        try:
            s = f.stat()
            files.append((s.st_mtime, s.st_size, f))
        except OSError:
            continue
    total = sum(size for _, size, _ in files)
    for _, size, f in sorted(files):
        if total <= LIMIT or f == newest:
            break
        f.unlink(missing_ok=True)
        total -= size
