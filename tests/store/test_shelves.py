"""The library as it is gathered: searches, lists, words by hand, one way back, copies, files that move."""

from __future__ import annotations

import os
import random
import sqlite3
import threading
from pathlib import Path

import attrs
import numpy as np
import pytest

from mervid.core.character.describe import Character
from mervid.core.errors import Refused
from mervid.core.library import filters
from mervid.core.library.filters import Filter, Order, Search
from mervid.core.library.tags import FileWords, Tags
from mervid.core.library.words import fold
from mervid.core.sound.contents import digest_of
from mervid.jobs import rescan
from mervid.store import copies, facts, lists, moves, neighbours, others, tagging
from mervid.store.library import Library
from mervid.store.lists import Branch, Lists
from mervid.store.schema import StoreError
from mervid.store.search import Finder, states
from mervid.store.tagging import Tagging
from mervid.store.undo import Undo

TITLES = ("Night Bårge", "Copper Ferry", "NIGHT boat", "Pontoon Static", "Salt Ledger", "Slack Water", "night ledger")


@pytest.fixture
def library(tmp_path: Path) -> Library:
    """Seven tracks with words; numbers 1 to 7."""
    made = Library(tmp_path / "l.sqlite")
    ids, _ = made.add_many([tmp_path / "music" / f"{k}.flac" for k in range(len(TITLES))])
    tagging.keep_read(
        made,
        {
            i: FileWords(
                Tags(title=t, artists="Tern & Tiller" if k % 2 else "", genre="disco" if k < 3 else ""),
                "FLAC",
                lossless=k < 4,
            )
            for k, (i, t) in enumerate(zip(ids, TITLES, strict=True))
        },
    )
    return made


def heard(library: Library, number: int, **columns: object) -> None:
    """Say of a track what hearing would."""
    values = {"state": "ready", "readiness": "draft"} | columns
    with library.writing() as db:
        changes = ", ".join(f"{c}=?" for c in values)
        db.execute(f"UPDATE tracks SET {changes} WHERE id=?", (*values.values(), number))


def found(library: Library, text: str, *orders: Order) -> list[int]:
    return Finder(library).find(attrs.evolve(filters.parse(text), order=orders)).tolist()


def case(library: Library) -> tuple[Undo, Lists, Tagging]:
    undo = Undo(library)
    return undo, Lists(library, undo), Tagging(library, undo)


# finding


def test_words_are_found_by_their_beginnings_first(library: Library) -> None:
    assert found(library, "night") == [1, 3, 7]
    assert found(library, "nig barge") == [1]
    assert found(library, "LEDGER") == [5, 7]
    assert found(library, "tern copper") == [2]
    assert found(library, "zebra") == []
    # nothing begins so: what has it inside of a word
    assert found(library, "toon") == [4]
    assert found(library, "xx") == []
    assert found(library, "4") == [5]  # of the file's name


@pytest.mark.parametrize(
    "text", ['"', "'; DROP TABLE tracks", "*", "a OR b", "NEAR(a b)", "{", "^night", "-ledger", "\0"]
)
def test_signs_are_signs_and_no_language(library: Library, text: str) -> None:
    found(library, text)
    assert library.size() == 7


def test_finding_agrees_with_reading_every_title(library: Library, tmp_path: Path) -> None:
    """Against a plain search of all words, on 300 made-up titles."""
    rng = random.Random(4)
    parts = ["sal", "ta", "ri", "mö", "ken", "dú", "fa"]
    titles = [" ".join("".join(rng.choices(parts, k=rng.randint(1, 3))) for _ in range(3)) for _ in range(300)]
    ids, _ = library.add_many([tmp_path / f"x{k}.wav" for k in range(300)])
    tagging.keep_read(library, {i: FileWords(Tags(title=t)) for i, t in zip(ids, titles, strict=True)})
    for typed in ("s", "sa", "salta", "mo ta", "dufa", "x2", "ri ri sal"):
        wanted = [
            i
            for i, title in zip(ids, titles, strict=True)
            if all(
                any(w.startswith(q) for w in [*fold(title).split(), f"x{ids.index(i)}"]) for q in fold(typed).split()
            )
        ]
        assert [i for i in found(library, typed) if i > 7] == wanted, typed


def test_filters_say_who_stays(library: Library) -> None:
    heard(
        library,
        1,
        tempo_low=100.0,
        tempo_high=104.0,
        key="A minor",
        drive=5.0,
        kind="wandering",
        cues=2,
        roles="drop,verse",
    )
    heard(library, 2, tempo_low=120.0, tempo_high=120.0, key="C major", drive=8.0, readiness="locked", doubts=2)
    heard(library, 3, tempo_low=60.0, tempo_high=60.0, key="G major", doubts=1, year=1978, played=5.0)
    heard(library, 4, state="failed", readiness="", message="damaged")
    with library.writing() as db:
        db.execute("UPDATE tracks SET gone=1 WHERE id=5")
        db.execute("UPDATE tracks SET added=1.0 WHERE id=6")
        db.execute("UPDATE tracks SET copy=2 WHERE id IN (2, 3)")
    for text, ids in {
        "tempo:103-110": [1], "tempo:118-122": [2], "tempo:118-122*": [2, 3], "key:Am": [1, 2], "key:C": [1, 2, 3],
        "drive:6-": [2], "readiness:locked": [2], "readiness:ready": [2], "readiness:draft": [1, 3],
        "kind:wandering": [1], "cues:any": [1], "cues:none": [2, 3], "cues:drop": [1], "cues:outro": [],
        "person:": [3, 4, 5],
        "genre:DISCO": [1, 2, 3], "year:1970-1979": [3], "missing:": [5], "played:yes": [3], "copies:": [2, 3],
        "lossy:no": [1, 2, 3, 4], "format:flac lossy:yes": [5, 6, 7], "added:7": [1, 2, 3, 4, 5, 7],
        "readiness:draft person:": [3],
    }.items():  # fmt: skip
        assert found(library, text) == ids, text
    assert found(library, "unlisted:") == [1, 2, 3, 4, 5, 6, 7]
    folder = Filter(filters.FOLDER, text=str(library.track(1).path.parent))
    assert len(Finder(library).find(Search(filters=(folder,)))) == 7
    assert not len(Finder(library).find(Search(filters=(attrs.evolve(folder, text=folder.text[:-1]),))))


def test_several_columns_sort_as_sorted_does_and_blanks_come_last(library: Library) -> None:
    rng = random.Random(1)
    years = {i: rng.choice([0, 1974, 1978, 1979]) for i in range(1, 8)}
    genres = {i: rng.choice(["", "disco", "funk"]) for i in range(1, 8)}
    for i in range(1, 8):
        heard(library, i, year=years[i], genre=genres[i])

    def key(i: int, down: bool) -> tuple[object, ...]:
        year = -years[i] if down else years[i]
        return (genres[i] == "", genres[i], years[i] == 0, year, i)

    for down in (False, True):
        # the last column's equal ones come as they came, downward the other way round
        wanted = sorted(range(1, 8), key=lambda i: key(i, down))
        got = found(library, "", Order("genre"), Order("year", down))
        assert [(genres[i], years[i]) for i in got] == [(genres[i], years[i]) for i in wanted]
        single = [years[i] for i in found(library, "", Order("year", down))]
        some = [y for y in single if y]
        assert single == sorted(some, reverse=down) + [0] * (7 - len(some))
    titles = [fold(library.track(i).title) for i in found(library, "", Order("title"))]
    assert titles == sorted(titles)


# lists


def test_lists_in_folders_with_everything_taken_back(library: Library) -> None:
    undo, shelves, _ = case(library)
    begun = library.rows("SELECT * FROM lists"), library.rows("SELECT * FROM entries")
    seen = []
    folder = shelves.make(lists.FOLDER, "Saturday")
    gig = shelves.make(lists.LIST, "Gig list", parent=folder)
    shelves.add(gig, [3, 1, 3])
    shelves.add(gig, [7, 2], place=1)
    assert shelves.tracks(gig).tolist() == [3, 7, 2, 1, 3]
    shelves.shift(gig, [0, 3], 3)
    assert shelves.tracks(gig).tolist() == [7, 2, 3, 1, 3]
    shelves.take(gig, [4, 0])
    assert shelves.tracks(gig).tolist() == [2, 3, 1]
    other = shelves.make(lists.LIST, "Later")
    shelves.move(other, folder, 0)
    assert [s.name for s in shelves.all() if s.parent == folder] == ["Later", "Gig list"]
    shelves.set_begins(gig, "9:5")
    shelves.set_notes(gig, "slow at first")
    shelves.rename(gig, " Boat\n list ")
    assert (shelves.one(gig).begins, shelves.one(gig).name) == ("09:05", "Boat list")
    assert shelves.tracks(folder).tolist() == [2, 3, 1]
    shelves.delete(folder)
    assert shelves.all() == []
    steps = len(undo.done)
    for _ in range(steps):
        seen.append(
            (library.rows("SELECT * FROM lists ORDER BY id"), library.rows("SELECT * FROM entries ORDER BY id"))
        )
        undo.undo()
    assert (library.rows("SELECT * FROM lists"), library.rows("SELECT * FROM entries")) == begun
    assert undo.undo() is None
    for state in reversed(seen):
        undo.redo()
        assert (
            library.rows("SELECT * FROM lists ORDER BY id"),
            library.rows("SELECT * FROM entries ORDER BY id"),
        ) == state
    assert undo.redo() is None


def test_what_cannot_be_done_to_lists_is_said(library: Library) -> None:
    _, shelves, _ = case(library)
    outer = shelves.make(lists.FOLDER, "outer")
    inner = shelves.make(lists.FOLDER, "inner", parent=outer)
    gig = shelves.make(lists.LIST, "gig", parent=inner)
    for act, why in (
        (lambda: shelves.move(outer, inner, 0), "into itself"),
        (lambda: shelves.make(lists.LIST, "x", parent=gig), "Only a folder"),
        (lambda: shelves.add(outer, [1]), "lists only"),
        (lambda: shelves.rename(gig, " \0 "), "needs a name"),
        (lambda: shelves.set_begins(gig, "25:00"), "no time of the day"),
        (lambda: shelves.tracks(99), "not there any more"),
        (lambda: shelves.set_order(gig, [1]), "changed meanwhile"),
    ):
        with pytest.raises(Refused, match=why):
            act()
    assert shelves.tracks(gig).tolist() == []


def test_a_folder_becomes_lists_as_deep_as_it_is(library: Library) -> None:
    undo, shelves, _ = case(library)
    deep = Branch("2 - deep", (4,))
    for k in range(30):
        deep = Branch(f"level {k}", (), (deep,))
    shelves.make_branch(Branch("boxes of tape", (1,), (Branch("1 - one", (2, 3)), deep)))
    rows = shelves.all()
    assert [s.name for s in rows if s.kind == lists.LIST][:2] == ["boxes of tape", "1 - one"]
    assert len(rows) < 20  # below the deepest folder all is one list
    undo.undo()
    assert shelves.all() == []


def test_a_list_knows_what_is_unready_in_it(library: Library) -> None:
    _, shelves, _ = case(library)
    heard(library, 1, readiness="locked")
    heard(library, 2)
    with library.writing() as db:
        db.execute("UPDATE tracks SET gone=1 WHERE id=3")
    gig = shelves.make(lists.LIST, "Gig list")
    shelves.add(gig, [1, 1, 2, 3, 4])
    assert states(library, gig) == {"ready": 2, "to check": 1, "not heard": 1, "missing": 1}
    assert shelves.with_track(1) == ["Gig list"]
    assert found(library, "list:'Gig'") == []
    assert found(library, 'list:"gig list"') == [1, 2, 3, 4]


# words by hand


def test_a_persons_words_go_before_the_files_and_back(library: Library) -> None:
    undo, _, words = case(library)
    assert words.set_field([1, 2], "title", "The  Boat") == 2
    assert library.track(1).title == "The Boat"
    assert found(library, "boat") == [1, 2, 3]
    # the file is read again and says something else: the person's word stays
    tagging.keep_read(library, {1: FileWords(Tags(title="Other", genre="soul"))})
    assert (library.track(1).title, library.track(1).genre) == ("The Boat", "soul")
    assert words.as_in_file([1]) == 1
    assert library.track(1).title == "Other"
    undo.undo()
    undo.undo()
    assert library.track(2).title == "Copper Ferry"
    assert found(library, "boat") == [3]
    assert words.set_field([3], "title", "") == 1
    # without a word the name of the file is shown
    assert library.track(3).title == "2"
    with pytest.raises(Refused):
        words.set_field([1], "year", "soon")
    with pytest.raises(Refused):
        words.set_field([], "title", "x")


def test_tools_over_many_and_a_key_by_hand(library: Library) -> None:
    undo, _, words = case(library)
    assert words.apply([1, 3, 7], ["title", "artists"], "Each Word Large") == 2
    assert library.track(3).title == "Night Boat"
    changed, unfit = words.from_names([1, 2], "{number}")
    assert (changed, unfit) == (2, 0)
    assert words.said([2])[2].shown.number == "1"
    facts.set_character(library, 1, Character(key="A minor", key_chance=0.4, second="C major"))
    words.set_key([1, 2], "bb min")
    facts.set_character(library, 1, Character(key="E minor", key_chance=0.4))
    assert library.track(1).key == "Bb minor"
    words.set_key([1], "")
    assert library.track(1).key == "E minor"
    undo.undo()
    assert library.track(1).key == "Bb minor"
    with library.writing() as db:
        db.execute("UPDATE tracks SET title='CafÃ©' WHERE id=5")
    assert words.repair([5, 6]) == 1
    assert library.track(5).title == "Café"


def test_taking_out_of_the_library_is_taken_back_with_all_work(library: Library) -> None:
    undo, shelves, words = case(library)
    gig = shelves.make(lists.LIST, "Gig list")
    shelves.add(gig, [1, 2, 4, 5])
    words.take_out([2, 3])
    # rows are those that are seen: the hidden one stays where it is
    shelves.take(gig, [1])
    assert shelves.tracks(gig).tolist() == [1, 5]
    undo.undo()
    undo.undo()
    assert shelves.tracks(gig).tolist() == [1, 2, 4, 5]
    words.take_out([2, 3])
    assert library.ids() == [1, 4, 5, 6, 7]
    assert found(library, "copper") == []
    assert shelves.tracks(gig).tolist() == [1, 4, 5]
    undo.undo()
    assert library.size() == 7
    words.take_out([2])
    # named again it comes back with what it had
    ids, new = library.add_many([library.track(2).path])
    assert (ids, new) == ([2], [2])
    words.take_out([3])
    facts.forget_old(library, days=-1)
    assert not library.has(3)


def test_an_act_that_fails_changes_nothing_and_is_no_step(library: Library) -> None:
    undo, shelves, _ = case(library)
    with pytest.raises(StoreError), undo.act("nonsense") as db:
        db.execute("INSERT INTO lists (kind, name) VALUES ('list', 'half')")
        db.execute("SELECT nonsense")
    assert shelves.all() == []
    assert undo.done == []


# copies


def print_of(seed: int, *, noise: float = 0.0, cut: int = 0) -> bytes:
    rng = np.random.default_rng(seed)
    rows = rng.normal(0, 1, (90, 20)).cumsum(axis=0)
    rows = (rows - rows.mean(axis=0)) / rows.std(axis=0) + rng.normal(0, 3, 20)
    rows += np.random.default_rng(99).normal(0, noise, rows.shape)
    return np.clip(rows[cut:] * 12, -127, 127).astype(np.int8).tobytes()


def test_copies_are_groups_and_the_better_one_is_said(library: Library) -> None:
    for number, kept in ((1, print_of(1)), (2, print_of(2)), (3, print_of(1, noise=0.1, cut=4)), (4, print_of(3))):
        heard(library, number, seconds=90.0)
        facts.set_character(library, number, Character(print=kept))
    with library.writing() as db:
        db.execute("UPDATE tracks SET lossless=0, bitrate=320000 WHERE id=1")
    assert sorted(copies.compare_new(library)) == [1, 3]
    assert copies.compare_new(library) == []
    assert found(library, "copies:") == [1, 3]
    group = copies.group_of(library, library.track(1))
    assert group is not None
    assert ([t.id for t in group.tracks], group.why) == ([3, 1], "lossless")
    assert copies.group_of(library, library.track(2)) is None
    # a third one joins; stopped before it began, it goes on later
    heard(library, 5, seconds=90.0)
    facts.set_character(library, 5, Character(print=print_of(1, noise=0.05)))
    stop = threading.Event()
    stop.set()
    assert copies.compare_new(library, stop) == []
    assert sorted(copies.compare_new(library)) == [1, 3, 5]


def test_what_fits_after_a_track(library: Library) -> None:
    heard(library, 1, tempo_low=112.0, tempo_high=113.0, key="A minor", drive=6.0, form="A:8 B:16")
    heard(library, 2, tempo_low=113.0, tempo_high=113.0, key="E minor", drive=6.5, form="A:16 B:16")
    heard(library, 3, tempo_low=116.0, tempo_high=116.0, key="F# major", drive=2.0)
    heard(library, 4, tempo_low=56.2, tempo_high=56.2, key="A minor", drive=6.0)
    heard(library, 5, tempo_low=140.0, tempo_high=140.0, key="A minor", drive=6.0)
    fits = neighbours.neighbours(library, library.track(1))
    assert [n.track.id for n in fits] == [2, 4, 3]
    assert "a fifth up" in fits[0].words
    assert "16 bars to mix over" in fits[0].words
    assert "at half" in fits[1].words
    assert neighbours.neighbours(library, library.track(6)) == []


# files


def test_files_that_move_vanish_and_come_back(tmp_path: Path) -> None:
    """A real folder: one file new, one renamed, one gone, one there again; taken out stays out."""
    music = tmp_path / "music"
    (music / "below").mkdir(parents=True)
    for k in range(4):
        (music / f"{k}.wav").write_bytes(b"RIFF" + bytes([k]) * (100 + k))
    library = Library(tmp_path / "l.sqlite")
    path = tmp_path / "l.sqlite"
    assert rescan.rescan(path, [music]).added == (1, 2, 3, 4)
    with library.writing() as db:
        for k in range(4):
            file = music / f"{k}.wav"
            known = (file.stat().st_size, digest_of(file), k + 1)
            db.execute("UPDATE tracks SET size=?, contents=? WHERE id=?", known)
    os.rename(music / "0.wav", music / "below" / "renamed.wav")
    (music / "1.wav").unlink()
    (music / "new.wav").write_bytes(b"RIFF")
    Tagging(library, Undo(library)).take_out([3])
    seen = rescan.rescan(path, [music])
    assert (seen.moved, seen.gone, len(seen.added)) == ((1,), (2,), 1)
    assert library.track(1).path == music / "below" / "renamed.wav"
    assert library.track(2).gone
    assert library.ids() == [1, 2, 4, 5]
    (music / "1.wav").write_bytes(b"RIFF" + bytes([1]) * 101)
    assert rescan.rescan(path, []).back == (2,)
    assert rescan.rescan(path, [tmp_path / "no disk"]).remarks == (
        f"The watched folder {tmp_path / 'no disk'} is not there.",
    )
    # all of it goes to another disk, and a person points there
    os.rename(music, tmp_path / "disk")
    assert set(rescan.rescan(path, []).gone) == {1, 2, 4, 5}
    found_again, missing = rescan.point_at(path, [1, 2, 4, 5], tmp_path / "disk")
    assert (sorted(found_again), missing) == ([1, 2, 4, 5], 0)
    assert library.track(1).path == tmp_path / "disk" / "below" / "renamed.wav"


def test_a_moved_file_of_another_date_is_known_by_its_sound(library: Library, tmp_path: Path) -> None:
    _, shelves, _ = case(library)
    heard(library, 2, identity="same", head=3)
    gig = shelves.make(lists.LIST, "Gig list")
    ids, _ = library.add_many([tmp_path / "again.flac"])
    shelves.add(gig, ids)
    lost = moves.vanished(library, "same", ids[0])
    assert lost == 2
    moves.move_into(library, ids[0], 2)
    assert library.track(2).path == tmp_path / "again.flac"
    assert not library.track(2).gone
    assert shelves.tracks(gig).tolist() == [2]
    (tmp_path / "again.flac").touch()
    assert moves.vanished(library, "same", 7) is None


def test_two_programs_write_at_once_and_nothing_is_lost(tmp_path: Path) -> None:
    """Two connections, as a window and the command line have: each sees what the other wrote."""
    one, two = Library(tmp_path / "l.sqlite"), Library(tmp_path / "l.sqlite")
    done: list[Exception] = []

    def write(library: Library, name: str) -> None:
        try:
            own = Library(tmp_path / "l.sqlite")
            shelves = Lists(own, Undo(own))
            for k in range(20):
                own.add_many([tmp_path / f"{name} {k}.wav"])
                shelves.make(lists.LIST, f"{name} {k}")
            own.close()
        except (StoreError, sqlite3.Error) as e:
            done.append(e)

    threads = [threading.Thread(target=write, args=(x, n)) for x, n in ((one, "a"), (two, "b"))]
    for t in threads:
        t.start()
    for t in threads:
        t.join()
    assert done == []
    assert one.size() == two.size() == 40
    assert len(Lists(one, Undo(one)).all()) == 40
    before = others.announced(one.path)
    others.announce(two.path)
    assert others.announced(one.path) > before
