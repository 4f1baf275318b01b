"""Decoded audio on disk: one file a recording, named by the sound's identity, as it is heard to the last bit.

A compressed file is decoded once, in order; playing and looking closely then read from here. Samples that all are
whole 16-bit steps are kept as such (.i16), all others as float32 (.f32), interleaved both. Files that were used longest
ago go first when the folder grows beyond its limit. A file appears under its name only when it is complete.
"""

from __future__ import annotations

import contextlib
import errno
import os
from pathlib import Path
from typing import Any, BinaryIO

import numpy as np
from numpy.typing import NDArray

from .. import places
from ..core.arrays import Samples
from ..core.errors import AudioError
from ..core.sound.decoding import FULL_16, Kept

LIMIT = 4 * 1024**3
"""Bytes, unless a person wants another limit."""
KINDS: dict[str, Any] = {".i16": np.int16, ".f32": np.float32}
_CONVERTED_AT_ONCE = 1 << 22


def _found(folder: Path, identity: str) -> tuple[Path, int] | None:
    """The file of `identity` and its size."""
    for ending in KINDS:
        path = folder / "pcm" / f"{identity}{ending}"
        with contextlib.suppress(OSError):
            return path, path.stat().st_size
    return None


def load(folder: Path, identity: str, frames: int) -> Kept | None:
    """The samples (frames, channels), int16 or float32, as a read-only memory map; None when they aren't there."""
    found = _found(folder, identity) if identity and frames else None
    if found is None:
        return None
    path, size = found
    kind = KINDS[path.suffix]
    channels, rest = divmod(size, frames * np.dtype(kind).itemsize)
    if rest or not channels:
        # a file of another length is another decoder's
        return None
    try:
        os.utime(path)
        return np.memmap(path, kind, "r", shape=(frames, channels))
    except OSError:
        return None


class Writer:
    """Writes one recording's samples; `keep` gives them their name, `drop` forgets them."""

    def __init__(self, folder: Path, limit: int | None = None) -> None:
        self._folder = folder / "pcm"
        self._limit = LIMIT if limit is None else limit
        self._temporary = self._folder / f"writing-{os.getpid()}.part"
        self._ending = ".i16"
        try:
            places.make_private(self._folder.parent)
            places.make_private(self._folder)
            clear_unfinished(folder)
            self._file: BinaryIO = places.open_private(self._temporary, "w+b")
        except OSError as e:
            raise _no_room(self._folder, e) from None

    def push(self, block: Samples) -> None:
        """Append (frames, channels)."""
        try:
            if self._ending == ".i16":
                steps = block * np.float32(FULL_16)
                whole = np.rint(steps)
                if np.array_equal(whole, steps) and np.abs(steps + 0.5).max(initial=0) < FULL_16:
                    self._file.write(whole.astype(np.int16).tobytes())
                    return
                self._widen()
            self._file.write(block.tobytes())
        except OSError as e:
            raise _no_room(self._folder, e) from None

    def _widen(self) -> None:
        """What was written so far in 16 bits, as float32: the source is finer."""
        self._ending = ".f32"
        end = self._file.tell()
        # from the back, so that nothing is written over before it was read
        for stop in range(end, 0, -_CONVERTED_AT_ONCE):
            start = max(0, stop - _CONVERTED_AT_ONCE)
            self._file.seek(start)
            part: NDArray[np.int16] = np.frombuffer(self._file.read(stop - start), np.int16)
            self._file.seek(2 * start)
            self._file.write((part.astype(np.float32) / np.float32(FULL_16)).tobytes())
        self._file.seek(2 * end)

    def keep(self, identity: str) -> Path:
        """Finish, and make room by deleting the files that were used longest ago."""
        target = self._folder / f"{identity}{self._ending}"
        try:
            self._file.close()
            os.replace(self._temporary, target)
        except OSError as e:
            raise _no_room(self._folder, e) from None
        _tidy(self._folder, target, self._limit)
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
        # another Mervid may be writing just now: the name says which process
        if not Path("/proc", f.stem.split("-")[1]).exists():
            with contextlib.suppress(OSError):
                f.unlink()


def files(folder: Path) -> list[Path]:
    """The files of decoded sound in a cache."""
    try:
        return [f for f in (folder / "pcm").iterdir() if f.suffix in KINDS]
    except OSError:
        return []


def empty(folder: Path, *, keep: str = "") -> int:
    """Throw decoded sound away, but for the recording of this identity. How many bytes that gave."""
    freed = 0
    for f in files(folder):
        if not keep or f.stem != keep:
            with contextlib.suppress(OSError):
                size = f.stat().st_size
                f.unlink()
                freed += size
    return freed


def _no_room(folder: Path, e: OSError) -> AudioError:
    if e.errno == errno.ENOSPC:
        return AudioError(f"The disk is full: there is no room for decoded audio in {folder}.")
    return AudioError(f"Decoded audio can't be kept in {folder}: {e.strerror or e}.")


def _tidy(folder: Path, newest: Path, limit: int) -> None:
    files = []
    for f in folder.iterdir():
        if f.suffix in KINDS:
            with contextlib.suppress(OSError):
                s = f.stat()
                files.append((s.st_mtime, s.st_size, f))
    total = sum(size for _, size, _ in files)
    for _, size, f in sorted(files):
        if total <= limit or f == newest:
            break
        f.unlink(missing_ok=True)
        total -= size
