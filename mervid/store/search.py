"""Which tracks a search finds, and in which order: SQL for each filter, full-text indexes for words.

Numbers of tracks come as one text from SQLite and as one array from NumPy: of 50,000 that takes a tenth of the time
that rows take.
"""

from __future__ import annotations

import os
from collections.abc import Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..core.character import key as keys
from ..core.errors import Refused
from ..core.library import filters as f
from ..core.library.filters import Filter, Order, Search
from ..core.library.words import words_of
from ..core.model.preparation import CHECKED, DRAFT, LOCKED
from .library import Library
from .track import FAILED, READY, WAITING

Ids = NDArray[np.int64]
NEEDS_PERSON = (
    # each part by an index of its own: most tracks have none of it
    f"id IN (SELECT id FROM tracks WHERE state='{FAILED}' AND out=0 UNION SELECT id FROM tracks WHERE gone=1 UNION "
    f"SELECT id FROM tracks WHERE doubts>0 AND out=0 AND +state='{READY}' "
    f"AND readiness NOT IN ('{CHECKED}', '{LOCKED}'))"
)
"""A failed or vanished recording, or findings that ask for a decision on what nobody has checked."""
COLUMNS = {
    "readiness": "state, readiness",
    "finding": "doubts",
    "title": "title_fold",
    "artists": "artists_fold",
    "tempo": "tempo_low",
    "kind": "kind",
    "key": "key",
    "drive": "drive",
    "length": "seconds",
    "form": "form",
    "cues": "cues",
    "album": "album COLLATE NOCASE",
    "genre": "genre COLLATE NOCASE",
    "label": "label COLLATE NOCASE",
    "year": "year",
    "rating": "rating",
    "loudness": "lufs",
    "comment": "comment COLLATE NOCASE",
    "added": "added",
    "changed": "changed",
    "played": "played",
    "folder": "path",
    "format": "format",
}
"""What each column of a table is sorted by."""


def ids_of(library: Library, sql: str, values: Sequence[Any] = ()) -> Ids:
    """The numbers that a query for `i` gives, in its order."""
    (text,) = library.rows(f"SELECT group_concat(i) FROM ({sql})", values)[0]
    return np.fromstring(text, np.int64, sep=",") if text else np.zeros(0, np.int64)


def clause(x: Filter) -> tuple[str, list[Any]]:
    """One filter as a condition on the table of tracks."""
    if x.what == f.TEMPO:
        return _tempo(x)
    if x.what == f.KEY:
        fits = [k.name for k in keys.neighbours(keys.named(x.text))]
        return f"key IN ({','.join('?' * len(fits))})", fits
    if x.what in (f.YEAR, f.DRIVE):
        if x.low is None and x.high is None:
            return f"{x.what}=0 OR {x.what} IS NULL", []
        return f"{x.what} BETWEEN ? AND ?", [x.low if x.low is not None else 1, x.high if x.high is not None else 1e9]
    if x.what == f.READINESS:
        return _readiness(x.text)
    if x.what == f.CUES:
        if x.text in ("", f.ANY, f.NONE):
            return f"state='{READY}' AND cues{'=0' if x.text == f.NONE else '>0'}", []
        return "instr(',' || roles || ',', ?)>0", [f",{x.text},"]
    if x.what == f.FOLDER:
        low = os.fsencode(x.text.rstrip("/") + "/")
        return "path>=? AND path<?", [low, low[:-1] + b"0"]
    if x.what == f.LIST:
        return "id IN (SELECT track FROM entries WHERE list=?)" if x.number else (
            "id IN (SELECT track FROM entries JOIN lists ON lists.id=list WHERE lists.name=? COLLATE NOCASE)"
        ), [x.number or x.text]
    simple: dict[str, tuple[str, list[Any]]] = {
        f.PERSON: (NEEDS_PERSON, []),
        f.KIND: ("kind=?", [x.text]),
        f.GENRE: ("genre=? COLLATE NOCASE", [x.text]),
        f.ADDED: ("added>=?", [f.since(x)]),
        f.FORMAT: ("format=? COLLATE NOCASE", [x.text]),
        f.LOSSY: ("lossless=?", [x.text != f.YES]),
        f.UNLISTED: ("id NOT IN (SELECT track FROM entries)", []),
        f.PLAYED: ("played=0" if x.text == f.NO else "played>0", []),
        f.MISSING: ("gone=1", []),
        f.COPIES: (COPIED, []),
    }
    if x.what not in simple:
        raise Refused(f"The filter '{x.what}' is not known here.")
    return simple[x.what]


COPIED = "copy<>0 AND copy IN (SELECT copy FROM tracks WHERE copy<>0 AND out=0 GROUP BY copy HAVING count(*)>1)"


def _tempo(x: Filter) -> tuple[str, list[Any]]:
    low, high = x.low if x.low is not None else 0.0, x.high if x.high is not None else 1e9
    parts, values = [], []
    for factor in (1.0, 0.5, 2.0) if x.wide else (1.0,):
        parts.append("(tempo_low<=? AND tempo_high>=?)")
        # what wanders is found where any of it lies within
        values += [high * factor, low * factor]
    return " OR ".join(parts), values


def _readiness(text: str) -> tuple[str, list[Any]]:
    if text == f.UNHEARD:
        return f"state IN ('{WAITING}', '{FAILED}')", []
    wanted = {f.READY: (CHECKED, LOCKED), f.DRAFT: (DRAFT,)}.get(text, (text,))
    return f"state='{READY}' AND readiness IN ({','.join('?' * len(wanted))})", list(wanted)


class Finder:
    """Finds tracks. Orders are kept until `forget`: what is edited keeps its place meanwhile, so that no row jumps."""

    def __init__(self, library: Library) -> None:
        self.library = library
        self._ranks: dict[Order, tuple[Ids, Ids]] = {}
        self._orders: dict[tuple[Order, ...], Ids] = {}

    def forget(self) -> None:
        """Sort anew from now on."""
        self._ranks.clear()
        self._orders.clear()

    def find(self, search: Search, *, among: Ids | None = None) -> Ids:
        """The tracks that are found, in order.

        Parameters
        ----------
        among : those of a list in its order, duplicates included; it is kept where the search names no order

        Raises
        ------
        Refused, StoreError
            A filter says nothing; the library can't be read.
        """
        found = self._filtered(search)
        if among is not None and not search.order:
            order = among
        else:
            order = self._order(search.order)
            if among is not None:
                order = _repeated(order, among)
        if found is None:
            return order if among is None or search.order else order[self._there(order)]
        return order[_marked(found, order)]

    def count(self, search: Search) -> int:
        """How many tracks are found."""
        found = self._filtered(search)
        return len(found) if found is not None else self.library.size()

    def _there(self, ids: Ids) -> NDArray[np.bool_]:
        return _marked(ids_of(self.library, "SELECT id AS i FROM tracks WHERE out=0"), ids)

    def _filtered(self, search: Search) -> Ids | None:
        """All that pass the filters and hold the words, in no order; None for all there are."""
        out: Ids | None = None
        if search.filters:
            parts, values = [], []
            for x in search.filters:
                sql, some = clause(x)
                parts.append(f"({sql})")
                values += some
            out = ids_of(self.library, f"SELECT id AS i FROM tracks WHERE out=0 AND {' AND '.join(parts)}", values)
        wanted = words_of(search.words)
        if wanted:
            hits = self._with_words(wanted)
            out = hits if out is None else out[_marked(hits, out)]
        return out

    def _with_words(self, wanted: Sequence[str]) -> Ids:
        """Tracks with words that begin so; where there are none, with what was typed inside of words."""
        match = " ".join(f'"{w}"*' for w in wanted)
        hits = ids_of(self.library, "SELECT rowid AS i FROM words WHERE words MATCH ?", (match,))
        long = [w for w in wanted if len(w) >= 3]
        if not len(hits) and long:
            match = " ".join(f'"{w}"' for w in long)
            hits = ids_of(self.library, "SELECT rowid AS i FROM inside WHERE inside MATCH ?", (match,))
        return hits

    def _order(self, orders: tuple[Order, ...]) -> Ids:
        """All tracks in an order; equal ones as they came."""
        if orders not in self._orders:
            if not orders:
                self._orders[orders] = np.sort(ids_of(self.library, "SELECT id AS i FROM tracks WHERE out=0"))
            elif len(orders) == 1:
                self._orders[orders] = self._single(orders[0])
            else:
                by_id = np.sort(ids_of(self.library, "SELECT id AS i FROM tracks WHERE out=0"))
                columns = []
                for k, o in enumerate(orders):
                    some, rank = self._rank(o, last=k == len(orders) - 1)
                    full = np.zeros(int(by_id[-1]) + 1 if len(by_id) else 1, np.int64)
                    full[some] = rank
                    columns.append(full[by_id])
                self._orders[orders] = by_id[np.lexsort([by_id, *reversed(columns)])]
        return self._orders[orders]

    def _single(self, order: Order) -> Ids:
        """All tracks by one column: no ranks are needed for that."""
        what = COLUMNS[order.column]
        ids = ids_of(self.library, f"SELECT id AS i FROM tracks WHERE out=0 ORDER BY {what}")
        blank = 0
        if self._begins_blank(order.column):
            first = what.split(",")[0].split(" ")[0]
            none = f"({first} IS NULL OR {first}='' OR {first}=0)"
            blank = int(self.library.rows(f"SELECT count(*) FROM tracks WHERE out=0 AND {none}")[0][0])
        filled = ids[blank:]
        return np.concatenate([filled[::-1] if order.down else filled, ids[:blank]])

    def _begins_blank(self, column: str) -> bool:
        """Whether the first track by a column has nothing in it."""
        what = COLUMNS[column]
        found = self.library.rows(f"SELECT {what} FROM tracks WHERE out=0 ORDER BY {what} LIMIT 1")
        first = found[0][0] if found else 1
        return first is None or first in ("", b"") or (column in _NO_ZERO and not first)

    def _rank(self, order: Order, *, last: bool) -> tuple[Ids, Ids]:
        """All tracks by one column, and the rank of each: equal ones share it, empty ones come last.

        Parameters
        ----------
        last : it is the last column sorted by: equal ones need not share a rank, which is faster
        """
        if last:
            ids = self._single(order)
            return ids, np.arange(len(ids))
        if order not in self._ranks:
            what = COLUMNS[order.column]
            ids = ids_of(self.library, f"SELECT id AS i FROM tracks WHERE out=0 ORDER BY {what}")
            groups = f"SELECT count(*) AS i FROM tracks WHERE out=0 GROUP BY {what} ORDER BY {what}"
            sizes = ids_of(self.library, groups)
            rank = np.repeat(np.arange(len(sizes)), sizes)[: len(ids)]
            blank = (rank == 0) & self._begins_blank(order.column)
            self._ranks[order] = ids, np.where(blank, _LAST, -rank if order.down else rank)
        return self._ranks[order]


_LAST = 1 << 40
_NO_ZERO = ("year", "rating", "played", "length", "finding")


def _marked(wanted: Ids, ids: Ids) -> NDArray[np.bool_]:
    """Which of `ids` are among `wanted`."""
    most = int(max(wanted.max(initial=0), ids.max(initial=0)))
    mask = np.zeros(most + 1, bool)
    mask[wanted] = True
    return mask[ids]


def _repeated(order: Ids, among: Ids) -> Ids:
    """Those of `order` that are in `among`, as often as there."""
    if not len(among):
        return among
    times = np.bincount(among, minlength=int(order.max(initial=0)) + 1)
    return np.repeat(order, times[order])


def states(library: Library, number: int) -> dict[str, int]:
    """How many entries of a list are ready, wait for a person, are missing, or not heard yet."""
    sql = (
        "SELECT CASE WHEN gone=1 THEN 'missing' "
        f"WHEN state='{WAITING}' THEN 'not heard' "
        f"WHEN state='{FAILED}' OR readiness NOT IN ('{CHECKED}', '{LOCKED}') THEN 'to check' "
        "ELSE 'ready' END, count(*) "
        "FROM entries JOIN tracks ON tracks.id=track WHERE list=? AND out=0 GROUP BY 1"
    )
    found = dict(library.rows(sql, (number,)))
    return {name: int(found.get(name, 0)) for name in ("ready", "to check", "not heard", "missing")}
