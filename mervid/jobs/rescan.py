"""What became of the files of the library: which are new in watched folders, moved, vanished, or there again.

A file of the same size and time of change as one that vanished is that one, moved or renamed: it keeps all work done on
it. One whose time of change is another is told by its sound when it is heard.
"""

from __future__ import annotations

import os
from collections.abc import Iterable, Sequence
from contextlib import closing
from pathlib import Path

import attrs

from ..core.errors import Refused
from ..store import facts
from ..store.library import Library
from .gathering import gather


@attrs.frozen
class Rescanned:
    """Tracks by number: new, moved, vanished, there again; what is to be said; the folders in which files may come."""

    added: tuple[int, ...] = ()
    moved: tuple[int, ...] = ()
    gone: tuple[int, ...] = ()
    back: tuple[int, ...] = ()
    remarks: tuple[str, ...] = ()
    below: tuple[str, ...] = ()

    @property
    def changed(self) -> list[int]:
        """All whose row looks different now."""
        return [*self.moved, *self.gone, *self.back]


def rescan(library: Path, folders: Sequence[Path], *, among: Iterable[int] | None = None) -> Rescanned:
    """Look at the files of all tracks (or of these), and for new ones in `folders`.

    Raises
    ------
    StoreError
        The library can't be read or written.
    """
    found = gather(f for f in folders if f.is_dir())
    away = tuple(f"The watched folder {f} is not there." for f in folders if not f.is_dir())
    with closing(Library(library)) as own:
        wanted = None if among is None else set(among)
        known = own.rows("SELECT id, path, gone, size, changed_ns, out FROM tracks")
        paths = {bytes(path) for _, path, *_ in known}
        gone, back, vanished = [], [], []
        for number, path, was_gone, size, changed_ns, out in known:
            if out or (wanted is not None and number not in wanted):
                continue
            if os.path.lexists(path):
                if was_gone:
                    back.append(int(number))
            else:
                vanished.append((int(number), int(size), int(changed_ns)))
                if not was_gone:
                    gone.append(int(number))
        new = [f for f in found.files if os.fsencode(os.path.abspath(f)) not in paths]
        moved = _moves(own, vanished, new)
        taken = set(moved.values())
        own_gone = [i for i in gone if i not in moved]
        facts.set_gone(own, own_gone, back)
        # what was taken out by a person doesn't come back by itself
        fresh = [f for f in new if f not in taken]
        _, added = own.add_many(fresh)
    remarks = (*found.remarks, *away)
    return Rescanned(tuple(added), tuple(moved), tuple(own_gone), tuple(back), remarks, below(folders))


def below(folders: Iterable[Path]) -> tuple[str, ...]:
    """These folders and all in them, links left alone."""
    out: dict[str, None] = {}
    for folder in folders:
        for here, names, _ in os.walk(folder):
            out[here] = None
            names[:] = [n for n in names if not os.path.islink(os.path.join(here, n))]
    return tuple(out)


def _moves(library: Library, vanished: list[tuple[int, int, int]], new: list[Path]) -> dict[int, Path]:
    """New files that are vanished ones; each track's new file."""
    lost: dict[tuple[int, int], list[int]] = {}
    for number, size, changed_ns in vanished:
        if size:
            lost.setdefault((size, changed_ns), []).append(number)
    out: dict[int, Path] = {}
    for path in new if lost else ():
        try:
            state = path.stat()
        except OSError:
            continue
        numbers = lost.get((state.st_size, state.st_mtime_ns), [])
        if len(numbers) == 1:
            try:
                facts.set_path(library, numbers[0], path)
            except Refused:
                continue
            out[numbers[0]] = path
            numbers.clear()
    return out


def point_at(library: Path, ids: Sequence[int], folder: Path) -> tuple[list[int], int]:
    """Look for the files of these vanished tracks in a folder and below: those found, and how many weren't.

    A file counts where it has the same name and, where that is known, the same size; of several, the one that shares
    most of its path.
    """
    there: dict[str, list[Path]] = {}
    for f in gather([folder]).files:
        there.setdefault(f.name, []).append(f)
    found: list[int] = []
    with closing(Library(library)) as own:
        for track in (own.track(i) for i in ids):
            fitting = [p for p in there.get(track.path.name, ()) if not track.size or _size(p) == track.size]
            if not fitting:
                continue
            best = max(fitting, key=lambda p: _shared(p, track.path))
            try:
                facts.set_path(own, track.id, best)
            except Refused:
                continue
            found.append(track.id)
    return found, len(ids) - len(found)


def _size(path: Path) -> int:
    try:
        return path.stat().st_size
    except OSError:
        return -1


def _shared(a: Path, b: Path) -> int:
    """How many last parts of two paths are the same."""
    count = 0
    for x, y in zip(reversed(a.parts), reversed(b.parts), strict=False):
        if x != y:
            break
        count += 1
    return count
