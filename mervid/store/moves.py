"""Recordings whose files have moved: a track goes on with the file that holds its audio, wherever that is now.

A file is believed to be a moved one only where its bytes are the same, or, once it is decoded, its audio. Its name, its
size and its date prove nothing.
"""

from __future__ import annotations

import os
import time
from collections.abc import Iterable, Sequence
from pathlib import Path

from ..core.errors import Refused
from ..core.sound.contents import digest_of
from ..core.sound.decoding import Decoded
from . import words
from .file_paths import path_of
from .library import Library

_AT_ONCE = 500
JUST_ADDED_S = 86400.0
"""A copy that came within a day before its original went is the original, moved to another disk."""


def set_path(library: Library, track_id: int, path: Path) -> None:
    """The file has moved. Raises `Refused` where another track has that file."""
    raw = library.free_path(path, track_id)
    with library.writing() as db:
        db.execute("UPDATE tracks SET path=?, gone=0 WHERE id=?", (raw, track_id))
        words.index(db, [track_id])


def follow(library: Library, paths: Sequence[Path]) -> dict[int, Path]:
    """Give tracks whose files have gone those of `paths` that hold the same bytes; each track's new file.

    Raises
    ------
    StoreError
        The library can't be read or written.
    """
    sizes: dict[int, list[Path]] = {}
    for path in paths:
        size = size_of(path)
        if size > 0:
            sizes.setdefault(size, []).append(path)
    lost = _lost_by_size(library, list(sizes))
    taken = {bytes(raw) for raw in _stored(library, [p for size in lost for p in sizes[size]])}
    out: dict[int, Path] = {}
    for size, tracks in lost.items():
        for path in sizes[size]:
            if not tracks or os.fsencode(os.path.abspath(path)) in taken:
                continue
            try:
                digest = digest_of(path)
            except OSError:
                continue
            same = [t for t in tracks if t[2] == digest]
            if not same:
                continue
            # of several copies the one of this name, then the one with most work
            found = max(same, key=lambda t: (shared_parts(path, t[1]), t[3], -t[0]))
            try:
                set_path(library, found[0], path)
            except Refused:
                continue
            tracks.remove(found)
            out[found[0]] = path
    return out


def may_have_moved(library: Library, paths: Sequence[Path]) -> bool:
    """Whether any track whose file has gone has the size of one of these files: a quick look, without reading them."""
    return bool(_lost_by_size(library, [size for size in map(size_of, paths) if size > 0]))


def _lost_by_size(library: Library, sizes: list[int]) -> dict[int, list[tuple[int, Path, str, int]]]:
    """Tracks of these sizes whose files are not there: number, path, digest and step of the history, by size."""
    out: dict[int, list[tuple[int, Path, str, int]]] = {}
    for a in range(0, len(sizes), _AT_ONCE):
        some = sizes[a : a + _AT_ONCE]
        marks = ",".join("?" * len(some))
        sql = f"SELECT id, path, size, contents, head FROM tracks WHERE contents<>'' AND size IN ({marks})"
        for number, raw, size, contents, head in library.rows(sql, some):
            if not os.path.lexists(raw):
                out.setdefault(int(size), []).append((int(number), path_of(raw), contents, int(head)))
    return out


def _stored(library: Library, paths: Sequence[Path]) -> Iterable[bytes]:
    """Those of these paths that are tracks already."""
    raws = [os.fsencode(os.path.abspath(p)) for p in paths]
    for a in range(0, len(raws), _AT_ONCE):
        some = raws[a : a + _AT_ONCE]
        for (raw,) in library.rows(f"SELECT path FROM tracks WHERE path IN ({','.join('?' * len(some))})", some):
            yield raw


def size_of(path: Path) -> int:
    """The size of a file, bytes; -1 where there is none."""
    try:
        return path.stat().st_size
    except (OSError, ValueError):
        return -1


def shared_parts(a: Path, b: Path) -> int:
    """How many last parts of two paths are the same."""
    count = 0
    for x, y in zip(reversed(a.parts), reversed(b.parts), strict=False):
        if x != y:
            break
        count += 1
    return count


def vanished(library: Library, identity: str, other_than: int) -> int | None:
    """The track with this audio whose file is not there any more, the one with most work; None where there is none."""
    sql = "SELECT id, path FROM tracks WHERE identity=? AND id<>? ORDER BY out<>0, head DESC, id"
    for number, raw in library.rows(sql, (identity, other_than)) if identity else ():
        if not os.path.lexists(raw):
            return int(number)
    return None


def move_into(library: Library, new: int, old: int) -> None:
    """The file of a new track is that of an old one, moved: the new track goes, the old one has its file and lists."""
    (raw,) = library.row("SELECT path FROM tracks WHERE id=?", (new,)) or (b"",)
    with library.writing() as db:
        db.execute("UPDATE entries SET track=? WHERE track=?", (old, new))
        db.execute("UPDATE OR IGNORE pairs SET leaving=? WHERE leaving=?", (old, new))
        db.execute("UPDATE OR IGNORE pairs SET coming=? WHERE coming=?", (old, new))
        db.execute("UPDATE straightened SET source=? WHERE source=?", (old, new))
        db.execute("UPDATE straightened SET made=? WHERE made=?", (old, new))
        # somebody added its file: it was taken out of the library no longer
        db.execute("UPDATE tracks SET out=0, file_tags='' WHERE id=?", (old,))
    library.remove(new)
    set_path(library, old, path_of(raw))


def reunite(library: Library, track_id: int, told: Decoded) -> int | None:
    """Once a new file is decoded: the track that goes on with it, where that track's own file has gone.

    None where the file is a recording of its own, or a copy of one that is still there.
    """
    head = library.row("SELECT head FROM tracks WHERE id=?", (track_id,))
    lost = vanished(library, told.identity, track_id) if head is not None and head[0] < 0 else None
    if lost is not None:
        move_into(library, track_id, lost)
        library.set_decoded(lost, told)
    return lost


def join_moved_copies(library: Library, gone: Sequence[int]) -> dict[int, int]:
    """Join tracks that have just gone with copies of them that came shortly before: files moved to another disk.

    A copy is joined only where no work was done on it alone. The track that goes is by its number the key, the copy
    that is removed the value.
    """
    out: dict[int, int] = {}
    for old in gone:
        row = library.row("SELECT identity, added FROM tracks WHERE id=?", (old,))
        if row is None or not row[0]:
            continue
        sql = "SELECT id, path FROM tracks WHERE identity=? AND id<>? AND out=0 AND added>?"
        for new, raw in library.rows(sql, (row[0], old, max(float(row[1]), time.time() - JUST_ADDED_S))):
            if os.path.lexists(raw) and new not in out.values() and _untouched(library, int(new), old):
                move_into(library, int(new), old)
                out[old] = int(new)
                break
    return out


def _untouched(library: Library, copy: int, original: int) -> bool:
    """Whether nothing was done to a copy that was not done to its original, too."""
    tags = "SELECT own_tags FROM tracks WHERE id=?"
    own, first = library.row(tags, (copy,)), library.row(tags, (original,))
    if own is None or first is None or own[0] not in ("", "{}", first[0]):
        return False
    sql = "SELECT seq, value FROM history WHERE track_id=? ORDER BY seq"
    work = library.rows(sql, (copy,))
    return len(work) <= 1 or set(work) <= set(library.rows(sql, (original,)))
