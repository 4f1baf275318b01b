"""Tags of many files, read in a process of their own: what a damaged file does to a parser stays there."""

from __future__ import annotations

import contextlib
import hashlib
import logging
import os
from collections import deque
from collections.abc import Sequence
from contextlib import closing
from pathlib import Path

from ..core.errors import Cancelled, FormatError, MervidError
from ..core.library.tags import FileWords
from ..formats import tag_files
from ..store import tagging
from ..store.library import Library
from ..store.schema import StoreError
from .lifeline import OneProcess, limit_memory, step_back, taken

log = logging.getLogger(__name__)
SIDE = 112
"""Pixels of a small picture."""
MOST_COVERS = 64 << 20
"""Bytes that small pictures may take in the cache: some ten thousand."""


def _start() -> None:
    limit_memory()
    step_back(10)


def covers_folder(cache: Path) -> Path:
    """Where small pictures are."""
    return cache / "covers"


def read_many(files: Sequence[tuple[int, bytes]], cache: str) -> dict[int, FileWords]:
    """Tags of these files by number; one that can't be read is as one that says nothing."""
    out: dict[int, FileWords] = {}
    folder = covers_folder(Path(cache))
    for number, raw in files:
        try:
            words, picture = tag_files.read(Path(os.fsdecode(raw)))
        except FormatError:
            out[number] = FileWords()
            continue
        out[number] = tag_files.with_cover(words, _keep(picture, folder)) if picture else words
    _bound(folder)
    return out


def _keep(picture: bytes, folder: Path) -> str:
    """The name of the small picture of a picture; the same one is kept once for a whole album."""
    name = f"{hashlib.sha1(picture, usedforsecurity=False).hexdigest()[:24]}.jpg"
    path = folder / name
    if path.exists():
        return name
    small = tag_files.thumbnail(picture, SIDE)
    if not small:
        return ""
    try:
        folder.mkdir(parents=True, exist_ok=True)
        part = path.with_suffix(f".{os.getpid()}.part")
        part.write_bytes(small)
        part.replace(path)
    except OSError:
        return ""
    return name


def _bound(folder: Path, *, most: int = MOST_COVERS) -> None:
    """The oldest pictures go where there are too many."""
    with contextlib.suppress(OSError):
        there = [(e.stat().st_mtime_ns, e.stat().st_size, e.path) for e in os.scandir(folder)]
        too_much = sum(size for _, size, _ in there) - most
        for _, size, path in sorted(there):
            if too_much <= 0:
                break
            os.unlink(path)
            too_much -= size


class TagReader:
    """Reads tags of one lot of files after the other, and keeps them; which are kept is told when it is asked for."""

    def __init__(self, library: Path, cache: Path) -> None:
        self._library, self._cache = library, cache
        self._process = OneProcess("tags", initializer=_start)
        self._answers: deque[list[int]] = deque()
        self.busy = False

    def ask(self, files: Sequence[tuple[int, Path]]) -> None:
        """Read these files."""
        self.busy = True
        self._process.later(self._read, [(i, os.fsencode(p)) for i, p in files])

    def _read(self, files: list[tuple[int, bytes]]) -> None:
        try:
            self._keep(self._process.call(read_many, files, str(self._cache)))
        except Cancelled:
            return
        except Exception as e:
            if not isinstance(e, MervidError):
                log.warning("Tags of %d files could not be read at once: %s", len(files), e)
            if len(files) > 1:
                # one of them ended the process: each is tried alone
                for one in files:
                    self._read([one])
                return
            self._keep({files[0][0]: FileWords()})

    def _keep(self, found: dict[int, FileWords]) -> None:
        """In the hand's thread, on a connection of its own: the window waits for no write."""
        try:
            with closing(Library(self._library)) as own:
                tagging.keep_read(own, found)
        except StoreError as e:
            log.warning("Tags could not be kept: %s", e)
            self._answers.append([])
            return
        self._answers.append(list(found))

    def poll(self) -> list[list[int]]:
        """Tracks whose tags were read since the last call; an empty lot where they can't be kept."""
        return taken(self._answers)

    def close(self) -> None:
        """End the process."""
        self._process.close()
