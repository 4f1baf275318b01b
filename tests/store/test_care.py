"""The library looks after itself: closed to others, checked, copied every day, mended when pages are damaged."""

from __future__ import annotations

import random
import sqlite3
import stat
import threading
import time
from contextlib import closing
from pathlib import Path

import attrs
import pytest

from mervid.core.edits import track_edits
from mervid.core.model.preparation import Preparation
from mervid.desk import app
from mervid.jobs import pcm
from mervid.store import care, salvage, schema
from mervid.store.library import Library
from mervid.store.schema import StoreError

PAGE = 4096


def filled(path: Path, count: int = 200) -> dict[int, str]:
    """A library of `count` tracks with a note each, closed; the notes by track."""
    library = Library(path)
    ids, _ = library.add_many([Path(f"/music/{k}.wav") for k in range(count)])
    with library.writing() as db:
        db.executemany(
            "INSERT INTO evidence VALUES (?, 5, ?, ?)", [(i, random.Random(i).randbytes(3000), b"drawn") for i in ids]
        )
    notes = {}
    for i in ids:
        notes[i] = f"note {i} " + "x" * 700
        library.edit(i, "Write notes", track_edits.write_notes(Preparation(), notes[i]))
    library.close()
    return notes


def damage(path: Path, seed: int, pages: int) -> None:
    """Overwrite so many pages, but not the first, with noise."""
    rng = random.Random(seed)
    data = bytearray(path.read_bytes())
    for _ in range(pages):
        at = PAGE * rng.randrange(1, len(data) // PAGE)
        data[at : at + PAGE] = rng.randbytes(PAGE)
    path.write_bytes(data)


def notes_of(library: Library) -> dict[int, str]:
    return {i: library.history(i).preparation.notes for i in library.ids()}


def test_folders_and_files_are_their_owners_alone(tmp_path: Path) -> None:
    data, cache = tmp_path / "mervid", tmp_path / "cache" / "mervid"
    data.mkdir(mode=0o755)
    Library(data / "library.sqlite").close()
    care.copy_of_today(data / "library.sqlite")
    writer = pcm.Writer(cache)
    for folder in (data, data / "copies", cache, cache / "pcm"):
        assert stat.S_IMODE(folder.stat().st_mode) == 0o700
    files = [p for folder in (data, cache) for p in folder.rglob("*") if p.is_file()]
    assert len(files) >= 3
    assert {stat.S_IMODE(p.stat().st_mode) for p in files} == {0o600}
    writer.drop()


def test_a_folder_that_a_person_named_stays_as_open_as_it_is(tmp_path: Path) -> None:
    (tmp_path / "shared").mkdir(mode=0o755)
    (tmp_path / "shared").chmod(0o755)
    Library(tmp_path / "shared" / "library.sqlite").close()
    assert stat.S_IMODE((tmp_path / "shared").stat().st_mode) == 0o755


def test_copies_of_seven_days_are_kept(tmp_path: Path) -> None:
    path = tmp_path / "library.sqlite"
    filled(path, 3)
    day = 86_400.0
    made = [care.copy_of_today(path, now=day * k) for k in range(1000, 1010)]
    assert all(made)
    assert care.copy_of_today(path, now=day * 1009 + 60) is None
    assert care.copies(path) == made[:2:-1]
    assert all(not care.check(p) for p in care.copies(path))


@pytest.mark.parametrize("large", [False, True])
def test_a_copy_holds_one_state_while_edits_go_on(tmp_path: Path, large: bool, monkeypatch: pytest.MonkeyPatch) -> None:
    path = tmp_path / "library.sqlite"
    filled(path, 120)
    if large:
        monkeypatch.setattr(care, "MOST_WHOLE", 0)
    library = Library(path)
    made: list[Path | None] = []
    copying = threading.Thread(target=lambda: made.append(care.copy_of_today(path)))
    copying.start()
    worst, number = 0.0, 0
    while copying.is_alive() or number < 20:
        began = time.perf_counter()
        # two tracks in one transaction: a copy has both or neither
        with library.writing() as db:
            db.execute("UPDATE tracks SET title=? WHERE id IN (1, 120)", (f"state {number}",))
        worst = max(worst, time.perf_counter() - began)
        number += 1
    copying.join()
    library.close()
    assert worst < 1.0
    assert made[0] is not None
    assert not care.check(made[0])
    copy = Library(made[0])
    first, last = copy.track(1).title, copy.track(120).title
    assert first == last or (first, last) == ("0", "119")
    assert len(copy.ids()) == 120
    heard = copy.row("SELECT count(*) FROM evidence")
    assert heard == ((0,) if large else (120,))
    copy.close()


@pytest.mark.parametrize("seed", range(12))
def test_damaged_pages_take_only_their_own_rows(tmp_path: Path, seed: int) -> None:
    path = tmp_path / "library.sqlite"
    notes = filled(path)
    damage(path, seed, pages=3)
    done = salvage.salvage(path)
    assert done.kept.exists()
    assert not care.check(path)
    library = Library(path)
    kept = notes_of(library)
    # a page of the tree's inside can hide many rows, but never changes one
    assert all(text in (notes[i], "") for i, text in kept.items())
    assert sum(text == notes[i] for i, text in kept.items()) > 0.5 * len(notes)
    library.edit(next(iter(kept)), "Write notes", attrs.evolve(Preparation(), notes="goes on"))
    library.close()


def test_what_can_not_be_read_comes_from_the_copy(tmp_path: Path) -> None:
    path = tmp_path / "library.sqlite"
    notes = filled(path)
    care.copy_of_today(path)
    damage(path, 5, pages=40)
    done = salvage.salvage(path)
    assert done.tracks == len(notes)
    assert done.from_copy > 0
    assert "of them as they were in the last copy" in done.words()
    library = Library(path)
    assert notes_of(library) == notes
    library.close()


def test_a_file_of_noise_gives_way_to_the_copy_and_stays_without_one(tmp_path: Path) -> None:
    path = tmp_path / "library.sqlite"
    notes = filled(path, 30)
    care.copy_of_today(path)
    noise = random.Random(1).randbytes(50_000)
    path.write_bytes(noise)
    assert salvage.needed(path)
    done = salvage.salvage(path)
    assert (done.tracks, done.from_copy) == (30, 30)
    assert done.kept.read_bytes() == noise
    library = Library(path)
    assert notes_of(library) == notes
    library.close()
    alone = tmp_path / "alone" / "library.sqlite"
    alone.parent.mkdir()
    alone.write_bytes(noise)
    assert not salvage.needed(alone)
    with pytest.raises(StoreError, match="there is no copy"):
        salvage.salvage(alone)
    assert alone.read_bytes() == noise


def test_a_library_found_damaged_is_mended_at_the_next_start(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("MERVID_DATA", str(tmp_path))
    path = tmp_path / "library.sqlite"
    notes = filled(path)
    damage(path, 3, pages=6)
    assert care.check(path)
    care.mark(path).touch()
    library, words = app.open_library()
    assert "Your library was damaged and has been mended" in words
    assert len(library.ids()) > 0.5 * len(notes)
    library.close()
    assert not salvage.needed(path)
    assert app.open_library()[1] == ""


def test_an_older_library_is_salvaged_into_the_present_form(tmp_path: Path) -> None:
    path = tmp_path / "library.sqlite"
    filled(path, 20)
    with closing(sqlite3.connect(path)) as db:
        for column in ("size", "changed_ns"):
            db.execute(f"ALTER TABLE tracks DROP COLUMN {column}")
        db.execute("PRAGMA user_version=5")
        db.commit()
    salvage.salvage(path)
    assert schema.version_of(path) == schema.VERSION
    library = Library(path)
    assert library.unsummed() == 20
    library.close()
