"""The library on disk: history, restart, migration, refusal, and a disk that says no."""

from __future__ import annotations

import os
import sqlite3
import subprocess
import sys
import threading
from contextlib import closing
from pathlib import Path

import attrs
import numpy as np
import pytest

from bench.faulting import older
from mervid.core.cues import cue_edits
from mervid.core.edits import grid_edits, track_edits
from mervid.core.errors import FormatError
from mervid.core.hearing import ear, evidence
from mervid.core.hearing.evidence import Evidence
from mervid.core.model.beatgrid import steady
from mervid.core.model.preparation import DRAFT, LOCKED, Preparation, set_readiness
from mervid.core.sound.decoding import Decoded
from mervid.core.sound.waveform import Waveform
from mervid.store import care, facts, schema, summary
from mervid.store.library import Library
from mervid.store.schema import StoreError
from mervid.store.track import READY, WAITING
from tests.conftest import beats_heard

FACTS = Decoded(44_100, 2, 441_000, "ab12", "libsndfile WAV", True)
WAVE = Waveform(np.zeros((10, 2), np.int16), 44_100, 441_000).to_bytes()
START = Preparation(grid=steady(tempo=120, first=0.5))


def blob(problem: str = "") -> bytes:
    heard = beats_heard(np.arange(0.5, 9.5, 0.5))
    attack, percussive = np.zeros(10_000, np.uint8), np.zeros(200, np.uint8)
    return evidence.to_bytes(Evidence(heard, attack, percussive, heard.times, np.ones(18, np.float32), problem))


def filled(path: Path) -> tuple[Library, int]:
    library = Library(path)
    track, new = library.add(path.parent / "a.wav")
    assert new
    library.set_decoded(track.id, FACTS)
    library.set_evidence(track.id, blob(), WAVE, START)
    return library, track.id


def test_what_was_heard_without_the_ear_is_heard_again_once_it_is_back(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    library, i = filled(tmp_path / "l.sqlite")
    library.set_evidence(i, blob("The ear's weights are missing."), WAVE, START)
    assert library.evidence(i) is None
    monkeypatch.setattr(ear, "problem", lambda: "The ear's weights are missing.")
    kept = library.evidence(i)
    assert kept is not None
    assert kept[0].problem == "The ear's weights are missing."


@pytest.mark.parametrize(("drums", "voice", "again"), [(0.0, 0.9, True), (0.6, 0.9, False), (0.0, 0.1, False)])
def test_of_what_was_heard_before_only_voices_alone_are_heard_again(
    tmp_path: Path, drums: float, voice: float, again: bool
) -> None:
    library, i = filled(tmp_path / "l.sqlite")
    none = np.zeros(500, np.float32)
    said = ear.Strengths(none, none, none, none + drums, none + voice, np.full((500, 32), 1 / 32, np.float32))
    found = attrs.evolve(evidence.from_bytes(blob()), strengths=said)
    library.set_evidence(i, evidence.to_bytes(found), WAVE, START)
    assert library.evidence(i) is not None
    for version, stands in ((evidence.STANDS, not again), (evidence.STANDS - 1, False), (evidence.VERSION + 1, False)):
        with library.writing() as db:
            db.execute("UPDATE evidence SET version=?", (version,))
        assert (library.evidence(i) is not None) == stands


def test_everything_is_there_after_a_restart(tmp_path: Path) -> None:
    library, i = filled(tmp_path / "l.sqlite")
    slid = grid_edits.slide(START, 10)
    library.edit(i, "Slide grid", slid)
    library.edit(i, "Slide grid", grid_edits.slide(slid, 1))
    library.undo(i)
    # no close: what was committed must be there for the next program
    again = Library(tmp_path / "l.sqlite")
    assert again.track(i).state == READY
    history = again.history(i)
    assert (history.preparation, history.undo, history.redo) == (slid, "Slide grid", "Slide grid")
    found = again.evidence(i)
    assert found is not None
    np.testing.assert_array_equal(found[0].heard.times, np.arange(0.5, 9.5, 0.5))
    assert found[1].frames == 441_000


def test_undo_and_redo_without_limit(tmp_path: Path) -> None:
    library, i = filled(tmp_path / "l.sqlite")
    values = [START]
    for _ in range(60):
        values.append(grid_edits.slide(values[-1], 1))
        library.edit(i, "Slide grid", values[-1])
    for value in values[-2::-1]:
        assert library.undo(i)
        assert library.history(i).preparation == value
    assert not library.undo(i)
    for value in values[1:]:
        assert library.redo(i)
        assert library.history(i).preparation == value
    assert not library.redo(i)
    library.undo(i)
    library.edit(i, "Set tempo", grid_edits.set_tempo(START, 90))
    assert library.history(i).redo is None


def test_reanalysis_keeps_what_a_person_did(tmp_path: Path) -> None:
    library, i = filled(tmp_path / "l.sqlite")
    mine = grid_edits.slide(START, 10)
    library.edit(i, "Slide grid", mine)
    library.set_evidence(i, blob(), WAVE, Preparation())
    assert library.history(i).preparation == mine


def test_the_same_sound_elsewhere_brings_its_work_along(tmp_path: Path) -> None:
    library, i = filled(tmp_path / "l.sqlite")
    library.edit(i, "Slide grid", grid_edits.slide(START, 10))
    other, _ = library.add(tmp_path / "moved" / "b.wav")
    library.set_decoded(other.id, FACTS)
    same = library.known("ab12", other.id)
    assert same is not None
    facts.copy_work(library, same.id, other.id)
    assert library.history(other.id).preparation == grid_edits.slide(START, 10)
    assert library.evidence(other.id) is not None


def test_paths_are_bytes_and_come_once(tmp_path: Path) -> None:
    library = Library(None)
    odd = Path(os.fsdecode(os.fsencode(tmp_path) + b"/caf\xe9.mp3"))
    track, new = library.add(odd)
    assert new
    assert track.title == "caf\ufffd"
    assert track.state == WAITING
    assert os.fsencode(library.tracks()[0].path) == os.fsencode(odd)
    assert not library.add(odd)[1]
    library.remove(track.id)
    assert library.tracks() == []
    with pytest.raises(StoreError, match="not in the library"):
        library.track(track.id)


def test_damaged_evidence_is_said(tmp_path: Path) -> None:
    library, i = filled(tmp_path / "l.sqlite")
    library.close()
    with sqlite3.connect(tmp_path / "l.sqlite") as db:
        db.execute("UPDATE evidence SET heard = x'00ff00ff'")
    with pytest.raises(FormatError, match="damaged"):
        Library(tmp_path / "l.sqlite").evidence(i)


def test_an_older_library_is_migrated_after_a_copy(tmp_path: Path) -> None:
    path = tmp_path / "l.sqlite"
    filled(path)[0].close()

    def add_column(db: sqlite3.Connection) -> None:
        db.execute("ALTER TABLE tracks ADD COLUMN stars INTEGER DEFAULT 3")

    schema.prepare(path, migrations=(*schema.MIGRATIONS, add_column))
    with sqlite3.connect(path) as db:
        assert db.execute("SELECT stars, title FROM tracks").fetchall() == [(3, "a")]
        assert db.execute("PRAGMA user_version").fetchone() == (schema.VERSION + 1,)
    copy = path.with_name(f"{path.name}.version{schema.VERSION}")
    with sqlite3.connect(copy) as db:
        assert db.execute("SELECT title FROM tracks").fetchall() == [("a",)]


def test_a_library_of_version_1_keeps_its_tracks(tmp_path: Path) -> None:
    path = tmp_path / "l.sqlite"
    library, i = filled(path)
    library.close()
    with sqlite3.connect(path) as db:
        older.make_version_6(db)
        db.execute("DROP INDEX ix_tracks_state")
        for column in (
            "locked",
            "kind",
            "doubts",
            "readiness",
            "tempo_low",
            "tempo_high",
            "cues",
            "summed",
            "size",
            "changed_ns",
        ):
            db.execute(f"ALTER TABLE tracks DROP COLUMN {column}")
        db.execute("PRAGMA user_version=1")
    again = Library(path)
    assert (again.track(i).title, again.track(i).kind, again.track(i).doubts) == ("a", "", 0)
    assert again.history(i).preparation.hints == ()
    again.set_outlook(i, "wandering", 2)
    assert (again.track(i).kind, again.track(i).doubts) == ("wandering", 2)
    again.close()


def test_lists_show_what_the_preparation_says_however_it_changed(tmp_path: Path) -> None:
    library, i = filled(tmp_path / "l.sqlite")

    def shown() -> tuple[str, float | None, float | None, int]:
        t = library.track(i)
        return t.readiness, t.tempo_low, t.tempo_high, t.cues

    assert shown() == (DRAFT, 120.0, 120.0, 0)
    assert (facts.unchecked(library), facts.without_cues(library)) == (1, 1)
    cued = cue_edits.add_cue(grid_edits.add_pin(START, 8.0, 4.51), 0.5)
    library.edit(i, "Set cue", cued)
    assert cued.grid is not None
    assert shown() == (DRAFT, cued.grid.tempi.min(), 120.0, 1)
    assert cued.grid.tempi.min() < 119.5
    library.undo(i)
    assert shown() == (DRAFT, 120.0, 120.0, 0)
    library.redo(i)
    library.replace(i, set_readiness(cued, LOCKED))
    assert shown()[0] == LOCKED
    assert (facts.unchecked(library), facts.without_cues(library)) == (0, 0)
    other, _ = library.add(tmp_path / "b.wav")
    facts.copy_work(library, i, other.id)
    same = attrs.evolve(library.track(other.id), id=i, path=library.track(i).path, title="a", added=0, changed=0)
    assert same == attrs.evolve(library.track(i), identity="", rate=0, frames=0, seconds=0, added=0, changed=0)


def test_an_older_library_is_summed_up_on_the_side_and_goes_on_after_a_stop(tmp_path: Path) -> None:
    path = tmp_path / "l.sqlite"
    library, i = filled(path)
    ids = [i]
    for n in range(summary.AT_ONCE + 20):
        ids.append(library.add(tmp_path / f"{n}.wav")[0].id)
        facts.copy_work(library, i, ids[-1])
    wanted = library.tracks()
    with sqlite3.connect(path) as db:
        db.execute("UPDATE tracks SET readiness='', tempo_low=NULL, tempo_high=NULL, cues=9, summed=0")
        db.execute("UPDATE history SET value='{' WHERE track_id=?", (ids[5],))
    assert library.unsummed() == len(ids)
    stop, told = threading.Event(), []

    def once(done: int, of: int) -> None:
        told.append((done, of))
        stop.set()

    summary.fill(path, progress=once, stop=stop)
    assert told == [(summary.AT_ONCE, len(ids))]
    # an edit meanwhile is not written over
    late = ids[-1]
    library.edit(late, "Set tempo", grid_edits.set_tempo(START, 90))
    summary.fill(path, progress=lambda done, of: None, stop=threading.Event())
    assert library.unsummed() == 0
    assert library.track(late).tempo_low == pytest.approx(90)
    # one whose value is damaged is told as a draft without a grid, and spoils no other
    assert (library.track(ids[5]).readiness, library.track(ids[5]).tempo_low) == (DRAFT, None)
    assert [t for t in library.tracks() if t.id not in (late, ids[5])] == [
        t for t in wanted if t.id not in (late, ids[5])
    ]


def test_thousands_are_added_at_once_and_only_once(tmp_path: Path) -> None:
    library = Library(tmp_path / "l.sqlite")
    first, _ = library.add(tmp_path / "7.wav")
    paths = [tmp_path / f"{n}.wav" for n in range(3000)]
    # named again, and by another way
    ids, new = library.add_many([*paths, *paths[:5], tmp_path / "below" / ".." / "9.wav"])
    assert ids[3000:] == [*ids[:5], ids[9]]
    assert ids[7] == first.id
    assert len(new) == 2999
    assert library.waiting() == library.ids() == sorted(set(ids))
    assert library.add_many([]) == ([], [])


@pytest.mark.parametrize("act", ["edit", "remove", "undo", "add"])
def test_a_library_that_another_program_holds_is_told_in_words(tmp_path: Path, act: str) -> None:
    library, i = filled(tmp_path / "l.sqlite")
    library.edit(i, "Slide grid", grid_edits.slide(START, 10))
    library._db.execute("PRAGMA busy_timeout=10")
    tries = {
        "edit": lambda: library.edit(i, "Slide grid", grid_edits.slide(START, 20)),
        "remove": lambda: library.remove(i),
        "undo": lambda: library.undo(i),
        "add": lambda: library.add(tmp_path / "b.wav"),
    }
    with sqlite3.connect(tmp_path / "l.sqlite", isolation_level=None) as other:
        other.execute("BEGIN EXCLUSIVE")
        with pytest.raises(StoreError, match="another Mervid is using it"):
            tries[act]()
        other.execute("ROLLBACK")
    assert library.history(i).preparation == grid_edits.slide(START, 10)
    tries[act]()


def test_a_failed_migration_changes_nothing(tmp_path: Path) -> None:
    path = tmp_path / "l.sqlite"
    filled(path)[0].close()

    def fail(db: sqlite3.Connection) -> None:
        db.execute("DELETE FROM tracks")
        db.execute("SELECT * FROM nowhere")

    with pytest.raises(StoreError, match="could not be brought up to date"):
        schema.prepare(path, migrations=(*schema.MIGRATIONS, fail))
    assert [t.title for t in Library(path).tracks()] == ["a"]


def test_a_newer_library_is_refused_untouched(tmp_path: Path) -> None:
    path = tmp_path / "l.sqlite"
    filled(path)[0].close()
    with sqlite3.connect(path) as db:
        db.execute("PRAGMA user_version=99")
    before = path.read_bytes()
    with pytest.raises(StoreError, match=r"newer Mervid \(library version 99"):
        Library(path)
    assert path.read_bytes() == before


@pytest.mark.parametrize("content", [b"not a database at all, just words" * 40, None])
def test_something_else_in_its_place(tmp_path: Path, content: bytes | None) -> None:
    path = tmp_path / "l.sqlite"
    if content is None:
        with sqlite3.connect(path) as db:
            db.execute("CREATE TABLE recipes (name TEXT)")
    else:
        path.write_bytes(content)
    with pytest.raises(StoreError, match=r"can't be used|something else"):
        Library(path)


def test_a_folder_that_cannot_be_made(tmp_path: Path) -> None:
    (tmp_path / "file").write_text("")
    with pytest.raises(StoreError, match="can't be made"):
        Library(tmp_path / "file" / "data" / "l.sqlite")


def test_a_full_disk_is_said_and_loses_nothing(tmp_path: Path) -> None:
    library, i = filled(tmp_path / "l.sqlite")
    (pages,) = library._db.execute("PRAGMA page_count").fetchone()
    # a page limit is SQLite's own way to say that the disk is full
    library._db.execute(f"PRAGMA max_page_count={pages}")
    big = track_edits.write_notes(START, "x" * 2_000_000)
    with pytest.raises(StoreError, match="disk is full"):
        library.edit(i, "Write notes", big)
    assert library.history(i).preparation == START


@pytest.mark.parametrize("value", ['{"grid": 3}', "x", '{"cues":[{"beat":"x"}]}', "\x00"])
def test_a_step_that_cannot_be_read_gives_way_to_the_newest_that_can(tmp_path: Path, value: str) -> None:
    """What is broken is kept aside, and the track can be worked on again; also where nothing can be read."""
    library, i = filled(tmp_path / "l.sqlite")
    steps = [attrs.evolve(START, notes=text) for text in ("one", "two", "three")]
    for step in steps:
        library.edit(i, "Write notes", step)
    with sqlite3.connect(tmp_path / "l.sqlite") as db:
        db.execute("UPDATE history SET value=? WHERE seq>=2", (value,))
    with pytest.raises(FormatError):
        library.history(i)
    assert library.mend(i) == (
        "The last 2 edits of this track can't be read any more and were put aside. It stands after 'Write notes'."
    )
    assert library.history(i).preparation == steps[0]
    library.edit(i, "Write notes", steps[2])
    assert library.history(i).undo == "Write notes"
    with sqlite3.connect(tmp_path / "l.sqlite") as db:
        assert db.execute("SELECT track_id, seq, value FROM broken").fetchall() == [(i, 2, value), (i, 3, value)]
        db.execute("UPDATE history SET value=?", (value,))
    assert "without a grid" in library.mend(i)
    assert library.history(i).preparation == Preparation()


def test_a_damaged_title_empties_no_list(tmp_path: Path) -> None:
    library = filled(tmp_path / "l.sqlite")[0]
    with sqlite3.connect(tmp_path / "l.sqlite") as db:
        db.execute("UPDATE tracks SET title=CAST(x'61ff62' AS TEXT)")
    assert [t.title for t in library.tracks()] == ["a�b"]


@pytest.mark.parametrize("name", ["what?", "100%20", "a#b", "two words", "line\nbreak", "ünï"])
def test_any_folder_can_hold_a_library(tmp_path: Path, name: str) -> None:
    path = tmp_path / name / "l.sqlite"
    library, i = filled(path)
    library.close()
    assert Library(path).history(i).preparation == START
    assert Library.copy_of(path).history(i).preparation == START
    assert [f.name for f in tmp_path.iterdir()] == [name]


def test_a_second_connection_takes_no_lock_away(tmp_path: Path) -> None:
    """Another program lets go of a library that this one has open twice: the log of what was written stays."""
    path = tmp_path / "library.sqlite"
    kept = Library(path)
    kept.add_many([Path("/music/Buoy.flac")])
    # a thread's own connection comes and goes
    Library(path).close()
    code = f"from pathlib import Path\nfrom mervid.store.library import Library\nLibrary(Path({str(path)!r})).close()"
    subprocess.run([sys.executable, "-c", code], check=True)
    assert path.with_name("library.sqlite-wal").exists()
    kept.add_many([Path("/music/Quay.flac")])
    with closing(Library(path)) as other:
        assert [t.title for t in other.tracks()] == ["Buoy", "Quay"]
    assert [t.title for t in kept.tracks()] == ["Buoy", "Quay"]
    assert care.check(path) == ""
    kept.close()
