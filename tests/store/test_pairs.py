"""Pairs in the library: kept, taken back, gone with their tracks, and brought along from an older library."""

from __future__ import annotations

import sqlite3
from contextlib import closing
from pathlib import Path

import pytest

from mervid.core.edits import grid_edits
from mervid.core.errors import Refused
from mervid.core.model.beatgrid import steady
from mervid.core.model.preparation import Preparation
from mervid.core.pairs.meeting import GLIDE, Meeting, to_json
from mervid.store import moves, schema, sides
from mervid.store.library import Library
from mervid.store.pairs import Pairs
from mervid.store.tagging import Tagging
from mervid.store.undo import Undo


def made(path: Path | None) -> tuple[Library, Undo, Pairs, list[int]]:
    library = Library(path)
    ids, _ = library.add_many([Path(f"/music/{name}.flac") for name in ("Buoy", "Quay", "Mole")])
    undo = Undo(library)
    return library, undo, Pairs(library, undo), ids


def test_pairs_are_kept_listed_at_both_tracks_and_taken_back() -> None:
    library, undo, pairs, (a, b, c) = made(None)
    first, second = Meeting(128, 0), Meeting(96, -4, 16, GLIDE, nudge=4.5)
    pairs.keep(a, b, first, notes="mind the horns")
    pairs.keep(b, c, second)
    pairs.keep(a, b, second)
    kept = pairs.of(a, b)
    assert kept is not None and (kept.meeting, kept.notes) == (second, "mind the horns")
    assert pairs.of(b, a) is None
    assert [(p.leaving, p.coming) for p in pairs.with_track(b)] == [(b, c), (a, b)]
    assert set(pairs.among([a, b, c])) == {(a, b), (b, c)} and set(pairs.among([a, b])) == {(a, b)}
    undo.undo()
    assert (kept := pairs.of(a, b)) is not None and kept.meeting == first
    pairs.forget(a, b)
    assert pairs.of(a, b) is None
    for _ in range(3):
        undo.undo()
    assert not pairs.with_track(b)
    for _ in range(4):
        undo.redo()
    assert pairs.of(a, b) is None and pairs.of(b, c) is not None
    # what is out of the library is in no pair, and comes back with it
    Tagging(library, undo).take_out([c])
    assert pairs.of(b, c) is None
    undo.undo()
    assert pairs.of(b, c) is not None
    library.remove(c)
    assert library.rows("SELECT * FROM pairs") == []


def test_pairs_go_along_with_a_file_that_moved_and_a_damaged_one_is_no_meeting() -> None:
    library, _, pairs, (a, b, c) = made(None)
    pairs.keep(a, b, Meeting(0, 0))
    moves.move_into(library, a, c)
    assert pairs.of(c, b) is not None
    with library.writing() as db:
        db.execute("UPDATE pairs SET meeting='{\"at\":'")
    kept = pairs.of(c, b)
    assert kept is not None and kept.meeting is None
    with pytest.raises(Refused, match="isn't heard yet"):
        sides.side(library, library.track(c))


def test_a_kept_pair_stays_in_its_place_when_a_track_is_counted_otherwise() -> None:
    library, _, pairs, (a, b, _) = made(None)
    for track in (a, b):
        library.begin(track, "", Preparation(steady(tempo=120.0, first=0.5)))
    old, new = Meeting(64, 0, 8), Meeting(128, 16, 16)
    pairs.keep(a, b, new)
    with library.writing() as db:
        # as earlier versions kept them
        db.execute("INSERT INTO pairs (leaving, coming, meeting) SELECT coming, leaving, ? FROM pairs", (to_json(old),))
    library.edit(a, "Halve", grid_edits.halve(library.history(a).preparation))
    found = pairs.among([a, b])
    assert found[a, b].meeting == Meeting(64, 16, 8, level=2.0) and found[b, a].meeting == old
    library.undo(a)
    assert pairs.among([a, b])[a, b].meeting == new


def test_a_library_of_version_7_gets_its_pairs(tmp_path: Path) -> None:
    path = tmp_path / "library.sqlite"
    library, *_ = made(path)
    library.close()
    with closing(sqlite3.connect(path)) as db:
        db.execute("DROP TABLE pairs")
        db.execute("DROP TABLE straightened")
        db.execute("ALTER TABLE tracks DROP COLUMN contents")
        db.execute("PRAGMA user_version=7")
        db.commit()
    with closing(Library(path)) as again:
        assert schema.version_of(path) == schema.VERSION == 11
        assert path.with_name("library.sqlite.version7").exists()
        ids = again.ids()
        pairs = Pairs(again, Undo(again))
        pairs.keep(ids[0], ids[1], Meeting(4, 0))
        assert pairs.of(ids[0], ids[1]) is not None
