"""What became of the files of the library: which are new in watched folders, moved, vanished, or there again.

A new file with the same bytes as one that vanished is that one, moved or renamed: it keeps all work done on it (see
`store.moves`). One whose bytes are others, as after new tags, is recognised by its audio once it is decoded.
"""

from __future__ import annotations

import os
from collections.abc import Iterable, Sequence
from contextlib import closing
from pathlib import Path

import attrs

from ..core.errors import AudioError, Refused
from ..core.sound import decoding
from ..store import facts, moves
from ..store.library import Library
from .gathering import gather


@attrs.frozen
class Rescanned:
    """Tracks by number: new, moved, vanished, there again, and copies joined with the track that they are.

    Then remarks, and the folders in which files may come.
    """

    added: tuple[int, ...] = ()
    moved: tuple[int, ...] = ()
    gone: tuple[int, ...] = ()
    back: tuple[int, ...] = ()
    joined: tuple[int, ...] = ()
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
        known = own.rows("SELECT id, path, gone, out FROM tracks")
        paths = {bytes(path) for _, path, *_ in known}
        gone, back = [], []
        for number, path, was_gone, out in known:
            if out or (wanted is not None and number not in wanted):
                continue
            if os.path.lexists(path):
                if was_gone:
                    back.append(int(number))
            elif not was_gone:
                gone.append(int(number))
        new = [f for f in found.files if os.fsencode(os.path.abspath(f)) not in paths]
        moved = moves.follow(own, new)
        taken = set(moved.values())
        own_gone = [i for i in gone if i not in moved]
        facts.set_gone(own, own_gone, back)
        joined = moves.join_moved_copies(own, own_gone)
        own_gone = [i for i in own_gone if i not in joined]
        out_of_sight = {int(i) for i, _, _, out in known if out}
        # what was taken out by a person doesn't come back by itself
        fresh = [f for f in new if f not in taken]
        _, added = own.add_many(fresh)
    remarks = (*found.remarks, *away)
    shown = tuple(i for i in (*moved, *joined) if i not in out_of_sight)
    there = tuple(joined.values())
    return Rescanned(tuple(added), shown, tuple(own_gone), tuple(back), there, remarks, below(folders))


def below(folders: Iterable[Path]) -> tuple[str, ...]:
    """These folders and all in them, links left alone."""
    out: dict[str, None] = {}
    for folder in folders:
        for here, names, _ in os.walk(folder):
            out[here] = None
            names[:] = [n for n in names if not os.path.islink(os.path.join(here, n))]
    return tuple(out)


def point_at(library: Path, ids: Sequence[int], folder: Path) -> tuple[list[int], int]:
    """Look for the files of these vanished tracks in a folder and below: those found, and how many weren't.

    A file of the same bytes counts, whatever its name. Where the bytes are not known, or were changed, one of the same
    name counts if it holds the same audio, and for a track that was never decoded if it is the only one of its name.
    """
    files = gather([folder]).files
    with closing(Library(library)) as own:
        wanted = set(ids)
        found = [i for i in moves.follow(own, files) if i in wanted]
        there: dict[str, list[Path]] = {}
        for f in files:
            there.setdefault(f.name, []).append(f)
        for track in own.tracks([i for i in ids if i not in found]):
            named = sorted(there.get(track.path.name, ()), key=lambda p: -moves.shared_parts(p, track.path))
            same = [p for p in named if _audio_of(p) == track.identity] if track.identity else named
            if not same or (not track.identity and len(same) > 1):
                continue
            try:
                moves.set_path(own, track.id, same[0])
            except Refused:
                continue
            found.append(track.id)
    return found, len(ids) - len(found)


def _audio_of(path: Path) -> str:
    """The identity of a file's audio; empty where it can't be decoded."""
    try:
        return decoding.decode(decoding.probe(path), lambda block: None).identity
    except (AudioError, OSError):
        return ""
