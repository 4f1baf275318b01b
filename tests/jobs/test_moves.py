"""Recordings that move keep their work, whichever way they come back; another recording never inherits it."""

from __future__ import annotations

import os
import shutil
from collections.abc import Callable, Iterator
from contextlib import closing
from pathlib import Path

import attrs
import mutagen.flac
import numpy as np
import pytest
import soundfile

from mervid import cli
from mervid.core.edits import track_edits
from mervid.core.model.preparation import Preparation
from mervid.core.sound import decoding
from mervid.jobs import rescan
from mervid.store import facts, moves
from mervid.store.library import Library

RATE = 8000


def record(path: Path, seed: int, seconds: float = 1.0) -> Path:
    """A short recording of noise; its bytes and its audio are those of no other seed."""
    path.parent.mkdir(parents=True, exist_ok=True)
    noise = np.random.default_rng(seed).uniform(-0.4, 0.4, round(RATE * seconds))
    soundfile.write(path, noise.astype(np.float32), RATE, subtype="PCM_16")
    return path


def decoded(path: Path) -> decoding.Decoded:
    return decoding.decode(decoding.probe(path), lambda block: None)


def analyse(library: Library, track_id: int) -> None:
    """What analysis does with a new track, as far as moves are concerned."""
    told = decoded(library.track(track_id).path)
    again = moves.reunite(library, track_id, told)
    if again is None:
        library.set_decoded(track_id, told)
    same = library.known(told.identity, track_id)
    if again is None and same is not None:
        facts.copy_work(library, same.id, track_id)
    elif again is None:
        library.set_evidence(track_id, b"heard", b"drawn", Preparation())


@pytest.fixture
def music(tmp_path: Path) -> Path:
    return tmp_path / "music"


@pytest.fixture
def library(tmp_path: Path, music: Path) -> Iterator[Library]:
    """Three recordings, analysed; each has a note."""
    with closing(Library(tmp_path / "l.sqlite")) as made:
        ids, _ = made.add_many([record(music / f"{k}.flac", k) for k in range(3)])
        for number in ids:
            analyse(made, number)
            made.edit(number, "Write notes", track_edits.write_notes(Preparation(), f"note {number}"))
        yield made


def notes(library: Library) -> dict[str, str]:
    """The note of each track, by the name of its file; files that are missing by 'missing'."""
    return {
        t.path.name if t.path.exists() else "missing": library.history(t.id).preparation.notes for t in library.tracks()
    }


def retag(path: Path) -> None:
    tags = mutagen.flac.FLAC(path)
    tags["TITLE"] = "Other Words"
    tags.save()


def move_only(music: Path) -> Path:
    (music / "deep").mkdir()
    return Path(shutil.move(music / "0.flac", music / "deep" / "0.flac"))


def rename_only(music: Path) -> Path:
    return (music / "0.flac").rename(music / "renamed.flac")


def move_and_rename(music: Path) -> Path:
    (music / "deep").mkdir()
    return Path(shutil.move(music / "0.flac", music / "deep" / "other.flac"))


def move_rename_and_tag(music: Path) -> Path:
    path = move_and_rename(music)
    retag(path)
    return path


def another_disk(music: Path) -> Path:
    """As between disks: another inode, and another date."""
    path = shutil.copyfile(music / "0.flac", music.parent / "disk.flac")
    (music / "0.flac").unlink()
    os.utime(path, (1e9, 1e9))
    return Path(path)


WAYS = [move_only, rename_only, move_and_rename, move_rename_and_tag, another_disk]


@pytest.mark.parametrize("way", WAYS)
@pytest.mark.parametrize("by_watching", [False, True])
def test_a_recording_that_moved_keeps_its_work(
    library: Library, music: Path, way: Callable[[Path], Path], by_watching: bool
) -> None:
    """Named by a person, as on the command line and in a drop, or found in a watched folder."""
    path = way(music)
    if by_watching:
        assert library.path is not None
        added = rescan.rescan(library.path, [path.parent]).added
    else:
        moves.follow(library, [path])
        _, added = library.add_many([path])
    for number in added:
        analyse(library, number)
    assert notes(library) == {path.name: "note 1", "1.flac": "note 2", "2.flac": "note 3"}
    assert not library.track(1).gone


def test_a_folder_of_thirty_moves_at_once(library: Library, music: Path, tmp_path: Path) -> None:
    ids, _ = library.add_many([record(music / f"more {k}.flac", 100 + k, 0.6) for k in range(30)])
    for number in ids:
        analyse(library, number)
        library.edit(number, "Write notes", track_edits.write_notes(Preparation(), f"note {number}"))
    before = {n: t for n, t in notes(library).items() if n.startswith("more")}
    os.rename(music, tmp_path / "elsewhere")
    assert library.path is not None
    seen = rescan.rescan(library.path, [tmp_path / "elsewhere"])
    assert (len(seen.moved), seen.added, seen.gone) == (33, (), ())
    assert {n: t for n, t in notes(library).items() if n.startswith("more")} == before


def test_another_recording_of_equal_size_and_date_inherits_nothing(library: Library, music: Path) -> None:
    a, b = record(music / "a.wav", 7), record(music.parent / "b.wav", 8)
    (number,), _ = library.add_many([a])
    analyse(library, number)
    library.edit(number, "Write notes", track_edits.write_notes(Preparation(), "of a"))
    state = a.stat()
    a.unlink()
    b.rename(music / "b.wav")
    os.utime(music / "b.wav", ns=(state.st_atime_ns, state.st_mtime_ns))
    assert (music / "b.wav").stat().st_size == state.st_size
    assert library.path is not None
    seen = rescan.rescan(library.path, [music])
    for added in seen.added:
        analyse(library, added)
    assert (seen.moved, seen.gone, len(seen.added)) == ((), (number,), 1)
    assert notes(library)["missing"] == "of a"
    assert notes(library)["b.wav"] == ""


def test_two_living_copies_stay_two_tracks(library: Library, music: Path) -> None:
    shutil.copyfile(music / "0.flac", music / "copy.flac")
    moves.follow(library, [music / "copy.flac"])
    (number,), new = library.add_many([music / "copy.flac"])
    analyse(library, number)
    assert new == [number]
    assert library.track(1).identity == library.track(number).identity
    assert len(library.tracks()) == 4


def test_files_that_are_copied_first_and_removed_then_are_joined(library: Library, music: Path, tmp_path: Path) -> None:
    """As when a folder moves to another disk while it is watched: for a while each recording is there twice."""
    assert library.path is not None
    shutil.copytree(music, tmp_path / "disk")
    for number in rescan.rescan(library.path, [tmp_path / "disk"]).added:
        analyse(library, number)
    assert len(library.tracks()) == 6
    # work on a copy alone is work: that one is not joined
    last = max(library.ids())
    library.edit(last, "Write notes", track_edits.write_notes(Preparation(), "own"))
    shutil.rmtree(music)
    seen = rescan.rescan(library.path, [tmp_path / "disk"])
    assert (set(seen.moved), len(seen.joined), seen.gone) == ({1, 2}, 2, (3,))
    assert sorted(library.history(t.id).preparation.notes for t in library.tracks()) == [
        "note 1", "note 2", "note 3", "own",
    ]  # fmt: skip


def test_a_track_that_was_removed_stays_out_when_its_file_moves(library: Library, music: Path) -> None:
    with library.writing() as db:
        db.execute("UPDATE tracks SET out=1 WHERE id=1")
    path = rename_only(music)
    assert library.path is not None
    seen = rescan.rescan(library.path, [music])
    assert (seen.added, seen.moved, library.ids()) == ((), (), [2, 3])
    # a person who adds it has it back, with its work
    library.add_many([path])
    assert notes(library)["renamed.flac"] == "note 1"


def test_added_on_the_command_line(tmp_path: Path, monkeypatch: pytest.MonkeyPatch, capsys) -> None:
    """Moved and renamed, then with new tags as well: no recording is new, none is missing, and the note is there."""
    monkeypatch.setenv("MERVID_DATA", str(tmp_path / "data"))
    monkeypatch.setenv("MERVID_CACHE", str(tmp_path / "cache"))
    folder = tmp_path / "music"
    record(folder / "a.flac", 1, 4.0)
    assert cli.main(["add", str(folder), "--jobs", "1"]) == 0
    assert capsys.readouterr().out == "1 recordings, 1 of them new\n"
    with closing(Library(tmp_path / "data" / "library.sqlite")) as made:
        made.edit(1, "Write notes", attrs.evolve(made.history(1).preparation, notes="mine"))
    (folder / "deep").mkdir()
    path = (folder / "a.flac").rename(folder / "deep" / "b.flac")
    for change in (lambda: None, lambda: retag(path.rename(folder / "c.flac"))):
        change()
        assert cli.main(["add", str(folder), "--jobs", "1"]) == 0
        assert capsys.readouterr().out == "1 recordings, 0 of them new, 1 moved: their work is kept\n"
    with closing(Library(tmp_path / "data" / "library.sqlite")) as made:
        (track,) = made.tracks()
        assert (track.path, track.gone, track.title) == (folder / "c.flac", False, "Other Words")
        assert made.history(1).preparation.notes == "mine"
