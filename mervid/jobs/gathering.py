"""Which recordings there are behind what a person named: files, folders with all below them, playlists."""

from __future__ import annotations

import os
from collections.abc import Iterable, Iterator, Mapping
from pathlib import Path

import attrs

from ..core.errors import FormatError
from ..core.sound.decoding import SUFFIXES
from ..core.sound.names import shown
from ..formats import playlist, safe_file
from ..store.lists import DEEPEST, Branch

_NAMED = 3


@attrs.frozen
class FileList:
    """A playlist or a folder: its name, its recordings in order, and for a folder the folders in it."""

    name: str
    files: tuple[Path, ...]
    below: tuple[FileList, ...] = ()


@attrs.frozen
class Gathered:
    """Recordings in order, each once; what is to be said of those that aren't there; the lists among what was named."""

    files: tuple[Path, ...]
    remarks: tuple[str, ...] = ()
    lists: tuple[FileList, ...] = ()


def is_list(path: Path) -> bool:
    """Whether a file is a playlist, by its ending."""
    return path.suffix.lower() in playlist.ENDINGS


def gather(paths: Iterable[Path], *, folders_too: bool = False) -> Gathered:
    """Everything behind `paths`.

    A file stands for itself, whatever it is: opening it says what is wrong with it. A folder stands for the recordings
    in it and below, by name; one that links lead back to is read once. A playlist stands for its files in its order;
    lists inside it aren't followed.

    Parameters
    ----------
    folders_too : make a list of each folder, too, with one in it for each folder below
    """
    files: dict[Path, None] = {}
    lot = Lot()
    for path in walk(paths, lot, folders_too=folders_too):
        files[path] = None
    return Gathered(tuple(files), tuple(lot.remarks), tuple(lot.lists))


class Lot:
    """What is said, and which lists there are, as a walk goes on."""

    def __init__(self) -> None:
        self.remarks: list[str] = []
        self.lists: list[FileList] = []


def walk(paths: Iterable[Path], lot: Lot, *, folders_too: bool = False) -> Iterator[Path]:
    """The same one after the other, as they are found; a file may come more than once."""
    for path in paths:
        # asked so, a name that no disk can hold is no folder and raises nothing
        if os.path.isdir(path):
            found = []
            for f in _below(path, lot.remarks):
                found.append(f)
                yield f
            if folders_too:
                lot.lists.append(_tree(path, found))
        elif is_list(path):
            title, entries = _listed(path, lot.remarks)
            yield from entries
            if entries:
                lot.lists.append(FileList(title, tuple(entries)))
        else:
            yield path


def _tree(folder: Path, files: list[Path], depth: int = 0) -> FileList:
    """A folder's recordings, by the folders they lie in; what lies deeper than lists nest is with the deepest."""
    below: dict[str, list[Path]] = {}
    own: list[Path] = []
    for f in files:
        if f.parent == folder or depth >= DEEPEST:
            own.append(f)
        else:
            below.setdefault(f.relative_to(folder).parts[0], []).append(f)
    lists = tuple(_tree(folder / name, some, depth + 1) for name, some in below.items())
    return FileList(shown(folder), tuple(own), lists)


def branch(of: FileList, numbers: Mapping[Path, int]) -> Branch:
    """A list of files as one of tracks, given the number of each file's track."""
    tracks = tuple(numbers[f] for f in of.files if f in numbers)
    return Branch(of.name, tracks, tuple(branch(x, numbers) for x in of.below))


def _below(folder: Path, remarks: list[str]) -> Iterator[Path]:
    seen: set[tuple[int, int]] = set()
    closed: list[Path] = []
    due = [folder]
    while due:
        here = due.pop()
        try:
            state = here.stat()
            if (state.st_dev, state.st_ino) in seen:
                continue
            seen.add((state.st_dev, state.st_ino))
            with os.scandir(here) as entries:
                found = sorted((e.is_dir(), e.name) for e in entries)
        except OSError:
            closed.append(here)
            continue
        # files of a folder come first, then its folders by name: a stack gives the last one first
        due += [here / name for is_folder, name in reversed(found) if is_folder]
        for is_folder, name in found:
            if not is_folder and os.path.splitext(name)[1].lower() in SUFFIXES and not name.startswith(safe_file.PART):
                yield here / name
    if closed:
        remarks.append(f"{_count(len(closed), 'folder')} can't be read: {_names(closed)}.")


def _listed(path: Path, remarks: list[str]) -> tuple[str, list[Path]]:
    """The title of a playlist, and those of its files that are there."""
    try:
        found = playlist.read(path)
    except FormatError as e:
        remarks.append(str(e))
        return "", []
    missing = [f for f in found.files if not f.is_file()]
    nested = [f for f in found.files if f.is_file() and is_list(f)]
    files = [f for f in found.files if f.is_file() and not is_list(f)]
    there = [f for f in files if f.suffix.lower() in SUFFIXES]
    strange = [f for f in files if f.suffix.lower() not in SUFFIXES]
    name, total = shown(path), len(found.files) + len(found.elsewhere)
    if missing:
        remarks.append(f"{name}: {len(missing)} of its {_count(total, 'entry')} are not there: {_names(missing)}.")
    if nested:
        remarks.append(f"{name}: lists inside a list are not followed: {_names(nested)}.")
    if strange:
        remarks.append(f"{name}: {_count(len(strange), 'entry')} of it can't be recordings: {_names(strange)}.")
    if found.elsewhere:
        remarks.append(f"{name}: {_count(len(found.elsewhere), 'entry')} of it can't be opened, being no file.")
    if not total:
        remarks.append(f"{name} is empty.")
    return found.title, there


def _count(n: int, what: str) -> str:
    many = f"{what[:-1]}ies" if what.endswith("y") else f"{what}s"
    return f"{n} {what if n == 1 else many}"


def _names(paths: list[Path]) -> str:
    rest = len(paths) - _NAMED
    return ", ".join(shown(p) for p in paths[:_NAMED]) + (f" and {rest} more" if rest > 0 else "")
