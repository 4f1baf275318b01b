"""What tags were before Mervid wrote into files, so that any batch can be taken back byte for byte.

Only what differs is kept: sound stays where it was, moved by a little. Of each file the journal has the bytes before
and behind the longest run that both have, and, inside that run, the few that were changed (an Ogg stream numbers its
pages anew). A file that shares nothing is kept whole. An entry is on the disk before the file is changed, and it says
by a hash which file it belongs to: what another program has written to since is left alone.
"""

from __future__ import annotations

import hashlib
import json
import os
import shutil
import time
import uuid
from collections.abc import Callable
from pathlib import Path
from typing import Any, BinaryIO

import attrs
import numpy as np

from .. import places
from ..core.errors import FormatError
from . import safe_file

_ENTRIES = "[0-9]" * 5 + ".json"
_PROBE = 64
_AT_ONCE = 1 << 20
_LOOKED = 4 << 20
"""So far from where it was, and from where growth would put it, is sound looked for."""
_SAME_SHARE = 0.5
"""A run is one as long as half the bytes of each piece are the same: else it has ended."""
_GROUP = 32
"""Differences closer than so many bytes are kept as one."""

Replace = Callable[[Path, Callable[[BinaryIO], object], int], None]
"""Puts a new file, which is filled by a function, in the place of one; with its time of change in ns."""


@attrs.frozen
class Batch:
    """One writing of tags: when, what it was called, and how many files it changed."""

    id: str
    made: float
    name: str
    files: int


@attrs.frozen
class Undone:
    """What became of a batch that was taken back: files put back, and a sentence for each that wasn't."""

    back: tuple[Path, ...]
    problems: tuple[str, ...]


def folder() -> Path:
    """Where the journal is."""
    return places.data_folder() / "tags-before"


class Journal:
    """One batch that is being written."""

    def __init__(self, name: str, home: Path | None = None) -> None:
        self.id = f"{time.strftime('%Y%m%d-%H%M%S')}-{uuid.uuid4().hex[:6]}"
        self._folder = (home or folder()) / self.id
        self._name, self._count = name, 0

    def note(self, path: Path, new: Path) -> None:
        """Keep what takes `new`, which is about to replace `path`, back to what is there now. Raises `OSError`."""
        if not self._count:
            places.make_private(self._folder.parent)
            places.make_private(self._folder)
            about = {"name": self._name, "made": time.time()}
            _write(self._folder / "batch.json", json.dumps(about).encode())
        self._count += 1
        stem = f"{self._count:05d}"
        patch = self._folder / f"{stem}.patch"
        with patch.open("wb") as out:
            difference(path, new, out)
            out.flush()
            os.fsync(out.fileno())
        entry = {
            "path": os.fsencode(path).decode("utf-8", "surrogateescape"),
            "old": _hash(path),
            "new": _hash(new),
            "mtime_ns": path.stat().st_mtime_ns,
        }
        _write(self._folder / f"{stem}.json", json.dumps(entry).encode())

    def forget_unless(self, path: Path) -> None:
        """Forget what was noted last, where that file was not changed after all. Raises `OSError`."""
        entry = self._folder / f"{self._count:05d}.json"
        if entry.exists():
            said = json.loads(entry.read_bytes())
            if os.fsencode(path) == said["path"].encode("utf-8", "surrogateescape") and _hash(path) == said["old"]:
                entry.unlink()
                entry.with_suffix(".patch").unlink(missing_ok=True)


def _write(path: Path, data: bytes) -> None:
    part = path.with_suffix(".part")
    with part.open("wb") as f:
        f.write(data)
        f.flush()
        os.fsync(f.fileno())
    part.replace(path)
    safe_file.flush_folder(path.parent)


def _hash(path: Path) -> str:
    with path.open("rb") as f:
        return hashlib.file_digest(f, "sha256").hexdigest()


# differences


def difference(old: Path, new: Path, out: BinaryIO) -> None:
    """Write what makes `old` out of `new`.

    A line of JSON, then bytes: what comes first, the changed places inside the run, what comes last.
    """
    with old.open("rb") as a, new.open("rb") as b:
        size, other = (os.fstat(f.fileno()).st_size for f in (a, b))
        start, at, long, places_ = _run(a, b, size, other)
        a.seek(0)
        about = {"first": start, "at": at, "run": long, "last": size - start - long, "places": places_}
        line = json.dumps(about, separators=(",", ":")).encode()
        out.write(len(line).to_bytes(8, "little") + line)
        _pass(a, out, start)
        for where, count in places_:
            a.seek(start + where)
            _pass(a, out, count)
        a.seek(start + long)
        _pass(a, out, size - start - long)


def _pass(a: BinaryIO, out: BinaryIO, count: int) -> None:
    while count > 0 and (block := a.read(min(_AT_ONCE, count))):
        out.write(block)
        count -= len(block)


def _run(a: BinaryIO, b: BinaryIO, size: int, other: int) -> tuple[int, int, int, list[tuple[int, int]]]:
    """Where a long run of both begins in each, how long it is, and what differs inside it: (place, bytes)."""
    for share in (0.5, 0.75, 0.25, 0.9):
        at = int(size * share)
        a.seek(at)
        probe = a.read(_PROBE)
        if len(probe) < _PROBE:
            continue
        # tags are at the end or at the beginning: sound lies where it did, or further by what was added
        by = next((d for d in (0, other - size) if _at(b, at + d, _PROBE) == probe), None)
        if by is None:
            around = abs(size - other) + _LOOKED
            found = _find(b, probe, max(0, at - around), at + around) if len(set(probe)) >= 8 else None
            if found is None:
                continue
            by = found - at
        first = _reach(a, b, at, by, back=True)
        last = _reach(a, b, at, by, back=False, most=min(size, other - by))
        if last - first > size // 4:
            return first, first + by, last - first, _differences(a, b, first, last, by)
    return 0, 0, 0, []


def _at(b: BinaryIO, place: int, count: int) -> bytes:
    b.seek(max(0, place))
    return b.read(count) if place >= 0 else b""


def _find(b: BinaryIO, probe: bytes, start: int, stop: int) -> int | None:
    b.seek(start)
    place = b.read(stop - start + _PROBE).find(probe)
    return start + place if place >= 0 else None


def _alike(a: BinaryIO, b: BinaryIO, start: int, stop: int, by: int) -> Any:
    a.seek(start)
    b.seek(start + by)
    x, y = (np.frombuffer(f.read(stop - start), np.uint8) for f in (a, b))
    n = min(len(x), len(y))
    return x[:n] == y[:n]


def _reach(a: BinaryIO, b: BinaryIO, at: int, by: int, *, back: bool, most: int = 0) -> int:
    """How far both run alike from `at`, all but a few bytes."""
    step = 1 << 14
    while True:
        start, stop = (max(0, -by, at - step), at) if back else (at, min(most, at + step))
        if stop <= start:
            return at
        same = _alike(a, b, start, stop, by)
        if same.mean() < _SAME_SHARE or not same.all():
            # small pieces tell where it ends; a page of Ogg differs in a few bytes and goes on
            wrong = np.flatnonzero(~same)
            if same.mean() < _SAME_SHARE:
                return int(start + wrong[-1] + 1) if back else int(start + wrong[0])
        at = start if back else start + len(same)


def _differences(a: BinaryIO, b: BinaryIO, first: int, last: int, by: int) -> list[tuple[int, int]]:
    out: list[tuple[int, int]] = []
    for start in range(first, last, _AT_ONCE):
        wrong = np.flatnonzero(~_alike(a, b, start, min(last, start + _AT_ONCE), by)) + (start - first)
        if not len(wrong):
            continue
        cuts = np.flatnonzero(np.diff(wrong) > _GROUP) + 1
        for group in np.split(wrong, cuts):
            out.append((int(group[0]), int(group[-1] - group[0] + 1)))
    return out


def restored(new: Path, patch: Path, out: BinaryIO) -> None:
    """Write the old file, made out of the new one and its patch. Raises `FormatError` where the patch is damaged."""
    with patch.open("rb") as p, new.open("rb") as b:
        try:
            about = json.loads(p.read(int.from_bytes(p.read(8), "little")))
            _pass(p, out, about["first"])
            at, done = about["at"], 0
            for where, count in about["places"]:
                b.seek(at + done)
                _pass(b, out, where - done)
                _pass(p, out, count)
                done = where + count
            b.seek(at + done)
            _pass(b, out, about["run"] - done)
            _pass(p, out, about["last"])
        except (ValueError, KeyError, TypeError):
            raise FormatError(f"{patch.name} in the journal is damaged.") from None


# the kept batches


def batches(home: Path | None = None) -> list[Batch]:
    """What can be taken back, newest first."""
    out = []
    for about in sorted((home or folder()).glob("*/batch.json"), reverse=True):
        try:
            said = json.loads(about.read_bytes())
            files = len(list(about.parent.glob(_ENTRIES)))
            if files:
                out.append(Batch(about.parent.name, float(said["made"]), str(said["name"]), files))
        except (OSError, ValueError, KeyError):
            continue
    return out


def undo(batch: str, replace: Replace, home: Path | None = None) -> Undone:
    """Take a batch back; what was put back is forgotten, what can't be is said and stays in the journal.

    Parameters
    ----------
    replace : puts a new file in the place of one, whole or not at all, with its time of change in ns
    """
    where = (home or folder()) / batch
    back: list[Path] = []
    problems: list[str] = []
    for entry in sorted(where.glob(_ENTRIES), reverse=True):
        try:
            said = json.loads(entry.read_bytes())
            path = Path(os.fsdecode(said["path"].encode("utf-8", "surrogateescape")))
            now = _hash(path)
            if now == said["new"] and now != said["old"]:
                _put_back(path, entry.with_suffix(".patch"), said, replace)
            elif now != said["old"]:
                problems.append(f"{path.name} was changed since: it is left as it is.")
                continue
            back.append(path)
            entry.unlink()
            entry.with_suffix(".patch").unlink(missing_ok=True)
        except FileNotFoundError:
            problems.append(f"{path.name} is not there any more.")
        except OSError as e:
            problems.append(f"{path.name}: {e.strerror or e}.")
        except (FormatError, ValueError, KeyError) as e:
            problems.append(f"{entry.stem} of the journal: {e}")
    if not any(where.glob(_ENTRIES)):
        shutil.rmtree(where, ignore_errors=True)
    return Undone(tuple(back), tuple(problems))


def _put_back(path: Path, patch: Path, said: dict[str, Any], replace: Replace) -> None:
    def fill(out: BinaryIO) -> None:
        restored(path, patch, out)
        out.flush()
        if _hash(Path(f"/proc/self/fd/{out.fileno()}")) != said["old"]:
            raise FormatError("what is kept doesn't give the old file back")

    replace(path, fill, int(said["mtime_ns"]))


def clear(batch: str, home: Path | None = None) -> None:
    """Forget how to take a batch back."""
    shutil.rmtree((home or folder()) / batch, ignore_errors=True)
