"""Lists in folders: playlists, whose order a person makes, and standing searches, which fill themselves."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable, Sequence
from pathlib import Path

import attrs

from ..core.errors import Refused
from ..core.library import filters
from ..core.library.filters import Search
from ..core.library.tags import clean
from .library import Library
from .search import Ids, ids_of
from .undo import Undo

FOLDER, LIST, SEARCH = "folder", "list", "search"
DEEPEST = 12
"""Folders in folders; beyond that nobody finds anything."""


@attrs.frozen
class Shelf:
    """A folder, a list or a standing search; `parent` is 0 at the top, `begins` the clock time of the first track."""

    id: int
    parent: int
    place: int
    kind: str
    name: str
    search: str = ""
    notes: str = ""
    begins: str = ""


_HELD = "entries JOIN tracks ON tracks.id=track WHERE tracks.out=0"
_PLACED = "place, entries.id"
_COLUMNS = "id, parent, place, kind, name, search, notes, begins"


@attrs.frozen
class Branch:
    """A folder on its way to become lists: its own tracks, and what lies in it."""

    name: str
    tracks: tuple[int, ...] = ()
    below: tuple[Branch, ...] = ()


class Lists:
    """Reads and writes the lists of a library; every write is one act that can be taken back.

    Raises `Refused` where something can't be done, and `StoreError`.
    """

    def __init__(self, library: Library, undo: Undo) -> None:
        self._library, self._undo = library, undo

    # reading

    def all(self) -> list[Shelf]:
        """All folders, lists and searches, in the order of their places."""
        return [Shelf(*row) for row in self._library.rows(f"SELECT {_COLUMNS} FROM lists ORDER BY parent, place, id")]

    def one(self, number: int) -> Shelf:
        """One of them."""
        row = self._library.row(f"SELECT {_COLUMNS} FROM lists WHERE id=?", (number,))
        if row is None:
            raise Refused("This list is not there any more.")
        return Shelf(*row)

    def tracks(self, number: int) -> Ids:
        """The tracks of a list in its order, also what is in it twice; of a folder, those of all lists below."""
        if self.one(number).kind == FOLDER:
            below = self._below([number])
            marks = ",".join("?" * len(below))
            sql = f"SELECT track AS i FROM {_HELD} AND list IN ({marks}) GROUP BY track ORDER BY min(list), min(place)"
            return ids_of(self._library, sql, below)
        return ids_of(self._library, f"SELECT track AS i FROM {_HELD} AND list=? ORDER BY {_PLACED}", (number,))

    def sizes(self) -> dict[int, int]:
        """How many entries each list has."""
        rows = self._library.rows(f"SELECT list, count(*) FROM {_HELD} GROUP BY list")
        return {int(number): int(count) for number, count in rows}

    def seconds(self, number: int) -> float:
        """How long a list lasts, s, one track after the other."""
        sql = f"SELECT coalesce(sum(seconds), 0) FROM {_HELD} AND list=?"
        return float(self._library.rows(sql, (number,))[0][0])

    def lengths(self, number: int) -> dict[int, float]:
        """How long each track of a list lasts, s."""
        sql = f"SELECT DISTINCT track, seconds FROM {_HELD} AND list=?"
        return {int(i): float(s) for i, s in self._library.rows(sql, (number,))}

    def search(self, number: int) -> Search:
        """What a standing search looks for. Raises `FormatError` where it can't be read."""
        return filters.from_json(self.one(number).search)

    def with_track(self, track_id: int) -> list[str]:
        """The names of the lists that a track is in."""
        sql = "SELECT DISTINCT name FROM lists JOIN entries ON list=lists.id WHERE track=? ORDER BY name"
        return [str(name) for (name,) in self._library.rows(sql, (track_id,))]

    def _below(self, numbers: list[int]) -> list[int]:
        """These and all that lies in them."""
        out, layer = list(numbers), list(numbers)
        while layer:
            marks = ",".join("?" * len(layer))
            rows = self._library.rows(f"SELECT id FROM lists WHERE parent IN ({marks})", layer)
            layer = [int(i) for (i,) in rows if int(i) not in out]
            out += layer
        return out

    # making

    def make(self, kind: str, name: str, *, parent: int = 0, search: Search | None = None) -> int:
        """A new folder, list or standing search, at the end of its folder."""
        plain = _named(name)
        self._may_hold(parent)
        with self._undo.act(f"New {'standing search' if kind == SEARCH else kind}") as db:
            return _add(db, kind, plain, parent, filters.to_json(search) if search is not None else "")

    def make_branch(self, branch: Branch, *, parent: int = 0) -> int:
        """Lists for a folder and all below; one with folders in it becomes a folder, with a list of its own tracks."""
        with self._undo.act("Lists of a folder") as db:
            return self._grow(db, branch, parent, 0)

    def _grow(self, db: sqlite3.Connection, branch: Branch, parent: int, depth: int) -> int:
        kind = FOLDER if branch.below and depth < DEEPEST else LIST
        made = _add(db, kind, _named(branch.name), parent)
        if kind == LIST:
            _fill(db, made, branch.tracks)
            return made
        if branch.tracks:
            _fill(db, _add(db, LIST, _named(branch.name), made), branch.tracks)
        for one in branch.below:
            self._grow(db, one, made, depth + 1)
        return made

    def rename(self, number: int, name: str) -> None:
        """Another name."""
        self._set(number, "Rename", "name", _named(name))

    def set_notes(self, number: int, notes: str) -> None:
        """What a person wants to remember about a list."""
        self._set(number, "Notes", "notes", notes[:20_000])

    def set_begins(self, number: int, begins: str) -> None:
        """The clock time at which its first track is played: '22:30', or nothing."""
        plain = begins.strip()
        if plain:
            hours, _, minutes = plain.partition(":")
            if not (hours.isdigit() and minutes.isdigit() and int(hours) < 24 and int(minutes) < 60):
                raise Refused(f"'{plain}' is no time of the day: write it as 22:30.")
            plain = f"{int(hours):02d}:{int(minutes):02d}"
        self._set(number, "Time of a list", "begins", plain)

    def set_search(self, number: int, search: Search) -> None:
        """Let a standing search look for something else."""
        self._set(number, "Change a standing search", "search", filters.to_json(search))

    def _set(self, number: int, act: str, column: str, value: str) -> None:
        self.one(number)
        with self._undo.act(act) as db:
            db.execute(f"UPDATE lists SET {column}=? WHERE id=?", (value, number))

    def move(self, number: int, parent: int, place: int) -> None:
        """Into another folder, or to another place in its own: before what stands at `place` now."""
        self._may_hold(parent)
        if parent in self._below([number]):
            raise Refused("A folder can't be put into itself.")
        with self._undo.act("Move a list") as db:
            rows = db.execute("SELECT id FROM lists WHERE parent=? AND id<>? ORDER BY place, id", (parent, number))
            order = [int(i) for (i,) in rows.fetchall()]
            order.insert(max(0, min(place, len(order))), number)
            db.execute("UPDATE lists SET parent=? WHERE id=?", (parent, number))
            db.executemany("UPDATE lists SET place=? WHERE id=? AND place<>?", [(k, i, k) for k, i in enumerate(order)])

    def delete(self, number: int) -> None:
        """A list, or a folder with all in it; no track is touched."""
        below = self._below([number])
        with self._undo.act("Delete a list") as db:
            for i in below:
                db.execute("DELETE FROM entries WHERE list=?", (i,))
                db.execute("DELETE FROM lists WHERE id=?", (i,))

    def _may_hold(self, parent: int) -> None:
        if parent and self.one(parent).kind != FOLDER:
            raise Refused("Only a folder holds lists.")

    # entries

    def add(self, number: int, tracks: Iterable[int], *, place: int | None = None) -> None:
        """Put tracks into a list, at its end or before `place`; the same track may be in it more than once."""
        if self.one(number).kind != LIST:
            raise Refused("Tracks can be put into lists only: a folder holds lists, a search fills itself.")
        new = [int(t) for t in tracks]
        order = [*self.tracks(number).tolist()]
        where = len(order) if place is None else max(0, min(place, len(order)))
        with self._undo.act("Put into a list") as db:
            if where < len(order):
                self._shift(db, number, where, len(new))
            else:
                (where,) = db.execute(
                    "SELECT coalesce(max(place)+1, 0) FROM entries WHERE list=?", (number,)
                ).fetchone()
            _fill(db, number, new, first=where)

    @staticmethod
    def _shift(db: sqlite3.Connection, number: int, where: int, by: int) -> None:
        """Make room for so many entries before the one that is seen at `where`."""
        rows = _entries(db, number)
        db.executemany(
            "UPDATE entries SET place=? WHERE id=?", [(k + (by if k >= where else 0), i) for k, i in enumerate(rows)]
        )

    def take(self, number: int, places: Sequence[int]) -> None:
        """Take what stands at these places out of a list."""
        with self._undo.act("Take out of a list") as db:
            rows = _entries(db, number)
            db.executemany("DELETE FROM entries WHERE id=?", [(rows[k],) for k in set(places) if 0 <= k < len(rows)])

    def shift(self, number: int, places: Sequence[int], before: int) -> None:
        """Put what stands at these places before what stands at `before` now."""
        with self._undo.act("Order of a list") as db:
            rows = _entries(db, number)
            moved = [rows[k] for k in sorted(set(places)) if 0 <= k < len(rows)]
            chosen = set(moved)
            head = [i for i in rows[:before] if i not in chosen]
            tail = [i for i in rows[before:] if i not in chosen]
            order = [*head, *moved, *tail]
            db.executemany(
                "UPDATE entries SET place=? WHERE id=? AND place<>?", [(k, i, k) for k, i in enumerate(order)]
            )

    def set_order(self, number: int, tracks: Sequence[int]) -> None:
        """Keep a list in this order of its own tracks, as a sorted table shows them."""
        if sorted(tracks) != sorted(self.tracks(number).tolist()):
            raise Refused("The list has changed meanwhile.")
        with self._undo.act("Order of a list") as db:
            db.executemany("DELETE FROM entries WHERE id=?", [(i,) for i in _entries(db, number)])
            _fill(db, number, tracks)

    def paths(self, number: int) -> list[tuple[Path, str, str, float]]:
        """File, title, artists and length in s of each entry, in order."""
        order = self.tracks(number).tolist()
        known = {t.id: t for a in range(0, len(order), 500) for t in self._library.tracks(order[a : a + 500])}
        return [(t.path, t.title, t.artists, t.duration) for t in (known[i] for i in order if i in known)]


def _entries(db: sqlite3.Connection, number: int) -> list[int]:
    """The entries of a list in their order; tracks that were taken out of the library aren't seen, and stay."""
    rows = db.execute(f"SELECT entries.id FROM {_HELD} AND list=? ORDER BY {_PLACED}", (number,))
    return [int(i) for (i,) in rows]


def _named(name: str) -> str:
    plain = clean(name)[:200]
    if not plain:
        raise Refused("A list needs a name.")
    return plain


def _add(db: sqlite3.Connection, kind: str, name: str, parent: int, search: str = "") -> int:
    (place,) = db.execute("SELECT coalesce(max(place)+1, 0) FROM lists WHERE parent=?", (parent,)).fetchone()
    made = db.execute(
        "INSERT INTO lists (parent, place, kind, name, search) VALUES (?, ?, ?, ?, ?)",
        (parent, place, kind, name, search),
    )
    return int(made.lastrowid or 0)


def _fill(db: sqlite3.Connection, number: int, tracks: Iterable[int], *, first: int = 0) -> None:
    rows = [(number, first + k, t) for k, t in enumerate(tracks)]
    db.executemany("INSERT INTO entries (list, place, track) VALUES (?, ?, ?)", rows)
