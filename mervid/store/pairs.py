"""Pairs that were kept: where a leaving and a coming track meet, and a note about it."""

from __future__ import annotations

from collections.abc import Sequence
from functools import cache

import attrs

from ..core.errors import FormatError
from ..core.model.beatgrid import Grid
from ..core.pairs import placed
from ..core.pairs.meeting import Meeting
from ..core.pairs.placed import Placed
from .library import Library
from .undo import Undo


@attrs.frozen
class Pair:
    """A kept pair; `meeting` names beats as they are counted now, and is None where what is stored can't be read."""

    leaving: int
    coming: int
    meeting: Meeting | None
    notes: str = ""


class Pairs:
    """Reads and writes the pairs of a library; every write is one act that can be taken back. Raises `StoreError`."""

    def __init__(self, library: Library, undo: Undo) -> None:
        self._library, self._undo = library, undo
        self._read_as: dict[int, tuple[object, Meeting | None]] = {}

    def of(self, leaving: int, coming: int) -> Pair | None:
        """The pair of these two, in this order."""
        found = self._read("leaving=? AND coming=?", (leaving, coming))
        return found[0] if found else None

    def with_track(self, track_id: int) -> list[Pair]:
        """All pairs that a track is in, those it leaves first."""
        return self._read("leaving=?", (track_id,)) + self._read("coming=? AND leaving<>coming", (track_id,))

    def among(self, tracks: Sequence[int]) -> dict[tuple[int, int], Pair]:
        """Pairs both of whose tracks are among these."""
        marks = ",".join("?" * len(tracks))
        # the plus keeps SQLite from looking up every leaving track with every coming one in its index
        found = self._read(f"leaving IN ({marks}) AND +coming IN ({marks})", (*tracks, *tracks))
        return {(p.leaving, p.coming): p for p in found}

    def _read(self, where: str, values: Sequence[int]) -> list[Pair]:
        rows = self._library.rows(
            "SELECT pairs.id, leaving, coming, notes, meeting, a.changed, b.changed FROM pairs "
            "JOIN tracks a ON a.id=leaving AND a.out=0 JOIN tracks b ON b.id=coming AND b.out=0 "
            f"WHERE {where} ORDER BY pairs.id",
            values,
        )
        grid = cache(self._grid)
        out = []
        for number, a, b, notes, *as_of in rows:
            # grids are read again only where a meeting or one of its tracks changed since
            known = self._read_as.get(number)
            if known is None or known[0] != as_of:
                known = self._read_as[number] = as_of, _meeting(as_of[0], grid(a), grid(b))
            out.append(Pair(int(a), int(b), known[1], str(notes)))
        return out

    def _grid(self, track_id: int) -> Grid | None:
        try:
            return self._library.history(track_id).preparation.grid
        except FormatError:
            return None

    def keep(self, leaving: int, coming: int, value: Meeting, *, notes: str | None = None) -> None:
        """Keep where these two meet; a note stays unless another is given."""
        before = self.of(leaving, coming)
        note = notes if notes is not None else before.notes if before is not None else ""
        a, b = self._grid(leaving), self._grid(coming)
        kept = Placed.of(value, a, b) if a is not None and b is not None else Placed(value)
        with self._undo.act("Keep a meeting") as db:
            db.execute("DELETE FROM pairs WHERE leaving=? AND coming=?", (leaving, coming))
            db.execute(
                "INSERT INTO pairs (leaving, coming, meeting, notes) VALUES (?, ?, ?, ?)",
                (leaving, coming, placed.to_json(kept), note),
            )

    def forget(self, leaving: int, coming: int) -> None:
        """Forget where these two meet."""
        with self._undo.act("Forget a meeting") as db:
            db.execute("DELETE FROM pairs WHERE leaving=? AND coming=?", (leaving, coming))


def _meeting(text: str, leaving: Grid | None, coming: Grid | None) -> Meeting | None:
    """The meeting that is kept, as both are counted now."""
    try:
        kept = placed.from_json(text)
    except FormatError:
        return None
    return kept.under(leaving, coming) if leaving is not None and coming is not None else kept.meeting
