"""Gather in the real window: thousands of rows by keys and mouse, lists, words, files that move on a real disk."""

from __future__ import annotations

import os
from functools import cache
from pathlib import Path

import pytest
from PyQt6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PyQt6.QtGui import QDragEnterEvent, QDropEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QLineEdit
from pytestqt.qtbot import QtBot

from mervid import places
from mervid.core.library import filters
from mervid.core.library.filters import Order
from mervid.core.library.tags import FileWords, Tags
from mervid.desk.stages.gather.stage import GatherStage
from mervid.desk.stages.gather.surface import GatherSurface
from mervid.desk.widgets.track_columns import COLUMNS, INDEX
from mervid.desk.window import Window
from mervid.store import lists, others, tagging
from mervid.store.library import Library
from tests.desk.conftest import put

MANY = 5000
NOUNS = ("boat", "ferry", "ledger", "lantern", "quay", "tide")
ADJECTIVES = ("night", "copper", "brass", "salt", "slack", "long", "low")


def gather(window: Window) -> GatherSurface:
    stage = window.stages["gather"]
    assert isinstance(stage, GatherStage)
    return stage.view


@cache
def template() -> Library:
    """5,000 heard tracks, made once for all tests."""
    library = Library(None)
    ids, _ = library.add_many([Path(f"/music/{k}.flac") for k in range(MANY)])
    words = {
        i: FileWords(Tags(title=f"{ADJECTIVES[i % 7].title()} {NOUNS[i % 6].title()} {i}", artists=f"Band {i % 40}"))
        for i in ids
    }
    tagging.keep_read(library, words)
    with library.writing() as db:
        db.execute(
            "UPDATE tracks SET state='ready', readiness='draft', tempo_low=80+id%60, tempo_high=80+id%60, "
            "key=CASE id%3 WHEN 0 THEN 'A minor' ELSE 'F# major' END, doubts=(id%50=0), finding='Half or double?'"
        )
    return library


@pytest.fixture
def many(window: Window) -> Window:
    """Gather with 5,000 tracks that nobody has to hear."""
    window.session.queue.pool._feed = lambda: None  # type: ignore[method-assign]
    with template().reading() as source, window.session.library.reading() as target:
        source.backup(target)
    window.session.catalogue.reread()
    window.go_to_stage("gather")
    return window


def type_words(window: Window, qtbot: QtBot, text: str) -> None:
    line = gather(window).search.line
    line.setFocus()
    line.clear()
    QTest.keyClicks(line, text)
    qtbot.wait(30)


def head(window: Window, name: str) -> QPoint:
    heads = gather(window).table.horizontalHeader()
    assert heads is not None
    return QPoint(heads.sectionViewportPosition(INDEX[name]) + 10, heads.height() // 2)


def named(window: Window, row: int) -> str:
    track = window.session.shown.track(row)
    assert track is not None
    return track.title


def test_thousands_are_found_sorted_and_left_out_by_hands(many: Window, qtbot: QtBot) -> None:
    view, shown = gather(many), many.session.shown
    assert view.search.count.text() == "5,000 tracks"
    qtbot.keyClick(many, Qt.Key.Key_F, Qt.KeyboardModifier.ControlModifier)
    assert view.search.line.hasFocus()
    type_words(many, qtbot, "salt tid")
    wanted = [i for i in range(1, MANY + 1) if i % 7 == 3 and i % 6 == 5]
    assert shown.ids.tolist() == wanted
    assert view.search.count.text() == f"{len(wanted):,} of 5,000"
    # a filter typed in the same line becomes a chip
    QTest.keyClicks(view.search.line, " tempo:100-110 ")
    qtbot.waitUntil(lambda: bool(view.search.shown_filters))
    assert [f.words for f in view.search.shown_filters] == ["tempo 100 to 110 BPM"]
    assert shown.ids.tolist() == [i for i in wanted if 100 <= 80 + i % 60 <= 110]
    # heads sort: up, down, with Shift by another one as well
    heads = view.table.horizontalHeader()
    assert heads is not None
    qtbot.mouseClick(heads.viewport(), Qt.MouseButton.LeftButton, pos=head(many, "tempo"))
    assert shown.search.order == (Order("tempo"),)
    qtbot.mouseClick(heads.viewport(), Qt.MouseButton.LeftButton, pos=head(many, "tempo"))
    qtbot.mouseClick(
        heads.viewport(), Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ShiftModifier, head(many, "artists")
    )
    assert shown.search.order == (Order("tempo", True), Order("artists"))
    tempi = [80 + i % 60 for i in shown.ids.tolist()]
    assert tempi == sorted(tempi, reverse=True)
    # the chip lets go, Escape lets go of the words
    chip = next(c for c in view.search.chips.children() if hasattr(c, "filter") and not c.dropped)
    qtbot.mouseClick(chip, Qt.MouseButton.LeftButton)
    assert not shown.search.filters
    view.search.line.setFocus()
    qtbot.keyClick(view.search.line, Qt.Key.Key_Escape)
    qtbot.waitUntil(lambda: len(shown) == MANY)


def test_keys_walk_the_table_and_one_key_goes_to_what_needs_a_person(many: Window, qtbot: QtBot) -> None:
    view, session = gather(many), many.session
    type_words(many, qtbot, "night")
    qtbot.keyClick(view.search.line, Qt.Key.Key_Down)
    assert view.table.hasFocus()
    qtbot.keyClick(view.table, Qt.Key.Key_Down)
    qtbot.keyClick(view.table, Qt.Key.Key_Down)
    row = view.table.currentIndex().row()
    assert row == 2
    qtbot.waitUntil(lambda: session.track.row is not None and session.track.row.id == int(session.shown.ids[row]))
    assert view.panel.title.text() == named(many, row)
    # the side list of the other stages is the same list
    qtbot.keyClick(view.table, Qt.Key.Key_Return)
    assert many.seen == "align"
    assert many.side.isVisible()
    assert many.list.tracks.rowCount() == len(session.shown) == MANY // 7
    many.ask("next-needing", 1)
    track = session.track.row
    assert track is not None
    assert (track.doubts, session.shown.row_of(track.id) > row) == (1, True)
    # round the end, and backwards
    assert session.shown.next_needing(4900) in (350, 700)
    assert session.shown.next_needing(1050, -1) == 700


def test_columns_are_chosen_moved_and_kept(many: Window, qtbot: QtBot) -> None:
    view = gather(many)
    heads = view.table.horizontalHeader()
    assert heads is not None
    view.table.show_column(INDEX["year"], True)
    view.table.show_column(INDEX["artists"], False)
    heads.moveSection(heads.visualIndex(INDEX["key"]), 1)
    many.ask("roomy")
    state = [(view.table.isColumnHidden(i), heads.visualIndex(i)) for i in range(len(COLUMNS))]
    from mervid.desk.widgets.track_table import TrackTable

    again = TrackTable(many.session, places.cache_folder())
    qtbot.addWidget(again)
    kept = again.horizontalHeader()
    assert kept is not None
    assert [(again.isColumnHidden(i), kept.visualIndex(i)) for i in range(len(COLUMNS))] == state
    assert again.painter_of.roomy
    again.set_roomy(False)


def test_lists_by_keys_and_mouse_with_everything_taken_back(many: Window, qtbot: QtBot) -> None:
    view, session = gather(many), many.session
    view.table.choose([7, 3, 11])
    view.table.setFocus()
    qtbot.keyClick(many, Qt.Key.Key_N, Qt.KeyboardModifier.ControlModifier)
    edit = QApplication.focusWidget()
    assert isinstance(edit, QLineEdit)
    QTest.keyClicks(edit, "Gig list")
    qtbot.keyClick(edit, Qt.Key.Key_Return)
    assert session.shown.title == "Gig list"
    assert session.shown.ids.tolist() == [3, 7, 11]
    assert view.head.isVisible()
    assert "3 to check" in view.head.stands.text()
    # dragged to another place
    mime = view.table.model_of.mimeData([view.table.model_of.index(0, 1)])
    view.table.moved.emit([0], 3)
    assert session.shown.ids.tolist() == [7, 11, 3]
    # dragged onto the list once more: what is in it twice is there twice
    tree = view.side.tree
    item = next(i for i in tree._items() if i.text(0) == "Gig list")
    at = QPointF(tree.visualItemRect(item).center())
    copy, left, none = Qt.DropAction.CopyAction, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    QApplication.sendEvent(tree.viewport(), QDragEnterEvent(at.toPoint(), copy, mime, left, none))
    QApplication.sendEvent(tree.viewport(), QDropEvent(at, copy, mime, left, none))
    qtbot.waitUntil(lambda: session.shown.ids.tolist() == [7, 11, 3, 3])
    # Delete takes it out of the list, not out of the library
    view.table.setFocus()
    view.table.selectRow(3)
    qtbot.keyClick(view.table, Qt.Key.Key_Delete)
    assert session.shown.ids.tolist() == [7, 11, 3]
    assert session.library.size() == MANY
    for _ in range(5):
        many.ask("undo")
    assert session.bookcase.lists.all() == []
    # the list that was shown is gone: all tracks are seen again
    assert (session.shown.number, len(session.shown)) == (0, MANY)
    assert "nothing more" not in many.note.text.text()
    many.ask("undo")
    assert "nothing more" in many.note.text.text()


def test_a_standing_search_fills_itself(many: Window, qtbot: QtBot) -> None:
    view, session = gather(many), many.session
    type_words(many, qtbot, "quay")
    many.ask("only-needing")
    view.search.keep.click()
    edit = QApplication.focusWidget()
    assert isinstance(edit, QLineEdit)
    assert edit.text() == "quay, needs a person"
    qtbot.keyClick(edit, Qt.Key.Key_Return)
    before = len(session.shown)
    assert before
    assert session.shown.kind == lists.SEARCH
    with session.library.writing() as db:
        db.execute("UPDATE tracks SET doubts=1 WHERE id=4")
    session.catalogue.reread()
    assert len(session.shown) == before + 1


def test_words_of_many_are_typed_once(many: Window, qtbot: QtBot) -> None:
    view, session = gather(many), many.session
    view.table.choose([1, 2, 3])
    many.ask("edit-tags")
    form = view.panel.tags
    assert form.edits["title"].placeholderText() == "(several)"
    edit = form.edits["genre"]
    edit.setFocus()
    QTest.keyClicks(edit, "disco")
    qtbot.keyClick(edit, Qt.Key.Key_Return)
    assert [session.library.track(i).genre for i in (1, 2, 3, 4)] == ["disco"] * 3 + [""]
    form.edits["year"].setFocus()
    QTest.keyClicks(form.edits["year"], "soon")
    qtbot.keyClick(form.edits["year"], Qt.Key.Key_Return)
    assert "is no year" in many.note.text.text()
    many.ask("undo")
    assert session.library.track(1).genre == ""
    # others are chosen before the key that ends it: it is of those it was typed for
    edit.setFocus()
    edit.selectAll()
    QTest.keyClicks(edit, "funk")
    view.table.choose([4])
    qtbot.waitUntil(lambda: form.ids == [4])
    qtbot.keyClick(edit, Qt.Key.Key_Return)
    assert [session.library.track(i).genre for i in (1, 2, 3, 4)] == ["funk"] * 3 + [""]


def test_words_are_typed_in_the_table(many: Window, qtbot: QtBot) -> None:
    """Shift+Enter opens the cell, Enter keeps, Escape lets go; what can't be is said and nothing changes."""
    view, session = gather(many), many.session
    view.table.setFocus()
    for name, typed, key, kept in (
        ("title", "Quay Song", Qt.Key.Key_Return, "Quay Song"),
        ("title", "no", Qt.Key.Key_Escape, "Quay Song"),
        ("year", "1978", Qt.Key.Key_Return, "1978"),
        ("key", "bb min", Qt.Key.Key_Return, "Bb minor"),
        ("key", "purple", Qt.Key.Key_Return, "Bb minor"),
    ):
        view.table.show_column(INDEX[name], True)
        view.table.setCurrentIndex(view.table.model_of.index(4, INDEX[name]))
        qtbot.keyClick(view.table, Qt.Key.Key_Return, Qt.KeyboardModifier.ShiftModifier)
        editor = QApplication.focusWidget()
        assert isinstance(editor, QLineEdit)
        assert many.seen == "gather"
        editor.selectAll()
        QTest.keyClicks(editor, typed)
        qtbot.keyClick(editor, key)
        qtbot.waitUntil(lambda n=name, k=kept: str(getattr(session.library.track(5), n)) == k)
        qtbot.waitUntil(lambda: not isinstance(QApplication.focusWidget(), QLineEdit))
        view.table.setFocus()
    assert "purple" in many.note.text.text()
    view.table.setCurrentIndex(view.table.model_of.index(4, INDEX["drive"]))
    qtbot.keyClick(view.table, Qt.Key.Key_Return, Qt.KeyboardModifier.ShiftModifier)
    assert not isinstance(QApplication.focusWidget(), QLineEdit)


def test_taken_out_and_back(many: Window, qtbot: QtBot) -> None:
    session, view = many.session, gather(many)
    view.table.choose([2, 4])
    view.table.setFocus()
    qtbot.keyClick(view.table, Qt.Key.Key_Delete)
    assert session.library.size() == MANY - 2
    assert "no file is touched" in many.note.text.text()
    qtbot.keyClick(many, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert len(session.shown) == MANY


def test_titles_of_any_kind_are_text(many: Window, qtbot: QtBot) -> None:
    """HTML, control characters, right-to-left and combining letters, and 10,000 letters: drawn as they are."""
    titles = ("<b>bold</b><img src=x>", "\u202eאור", "a\u0301" * 50, "x" * 10_000, "tab\tline\nend\0", "🚢" * 40)
    many.session.bookcase.tagging.change({i + 1: {"title": t} for i, t in enumerate(titles)})
    many.session.catalogue.reread()
    view = gather(many)
    for roomy in (False, True):
        view.table.set_roomy(roomy)
        for i in range(len(titles)):
            view.table.choose([i + 1])
            view.panel.turn(i % 3)
        view.table.grab()
    view.table.set_roomy(False)
    view.table.choose([1])
    assert view.panel.title.text() == titles[0]
    assert len(many.session.shown) == MANY


def test_the_empty_library_shows_four_ways_in(window: Window, qtbot: QtBot) -> None:
    window.go_to_stage("gather")
    assert window.pages.currentIndex() == 0
    window.session.queue.pool._feed = lambda: None  # type: ignore[method-assign]
    from mervid.desk.widgets.empty import Empty

    page = window.pages.currentWidget()
    assert isinstance(page, Empty)
    assert list(page.buttons) == ["add-folder", "open", "first-minutes", "demo"]
    qtbot.mouseClick(page.buttons["demo"], Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: window.session.library.size() == 8)
    assert window.pages.currentIndex() == 1
    qtbot.waitUntil(lambda: window.session.library.track(1).artists != "")
    row = window.session.track.row
    assert row is not None
    # while the first analyses wait, all can be left out again
    window.session.take_out([t.id for t in window.session.library.tracks()])
    assert window.pages.currentIndex() == 0


def test_a_dropped_folder_becomes_lists_and_a_playlist_one(window: Window, qtbot: QtBot, tmp_path: Path) -> None:
    window.go_to_stage("gather")
    window.session.queue.pool._feed = lambda: None  # type: ignore[method-assign]
    for name in ("a/1.wav", "a/deep/2.wav", "3.wav"):
        path = tmp_path / "records" / name
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(b"RIFF")
    (tmp_path / "gig.m3u8").write_text("#EXTM3U\nrecords/3.wav\nrecords/a/1.wav\nrecords/3.wav\nrecords/none.wav\n")
    view = gather(window)
    mime = QMimeData()
    mime.setUrls([QUrl.fromLocalFile(str(tmp_path / "records"))])
    copy, left, none = Qt.DropAction.CopyAction, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    at = QPointF(30, 90)
    QApplication.sendEvent(view.side.tree.viewport(), QDragEnterEvent(at.toPoint(), copy, mime, left, none))
    QApplication.sendEvent(view.side.tree.viewport(), QDropEvent(at, copy, mime, left, none))
    qtbot.waitUntil(lambda: len(window.session.bookcase.lists.all()) >= 4)
    assert [(s.kind, s.name) for s in window.session.bookcase.lists.all()] == [
        ("folder", "records"), ("list", "records"), ("folder", "a"), ("list", "a"), ("list", "deep"),
    ]  # fmt: skip
    window.session.queue.add_files([tmp_path / "gig.m3u8"])
    qtbot.waitUntil(lambda: any(s.name == "gig" for s in window.session.bookcase.lists.all()))
    gig = next(s for s in window.session.bookcase.lists.all() if s.name == "gig")
    order = window.session.bookcase.lists.tracks(gig.id).tolist()
    assert [window.session.library.track(i).path.name for i in order] == ["3.wav", "1.wav", "3.wav"]
    assert "none.wav" in window.note.text.text()
    # out again, with paths from its own folder
    assert window.session.bookcase.write_list(gig.id, tmp_path / "out.m3u8", relative=True)
    assert "records/3.wav" in (tmp_path / "out.m3u8").read_text()
    assert not window.session.bookcase.write_list(gig.id, tmp_path / "records" / "3.wav", relative=True)
    assert (tmp_path / "records" / "3.wav").read_bytes() == b"RIFF"


def test_a_watched_folder_is_followed_on_the_disk(window: Window, qtbot: QtBot, tmp_path: Path) -> None:
    """A real folder: a file comes, is heard, edited, renamed and moved below; it keeps what was done to it."""
    session = window.session
    folder = tmp_path / "music"
    (folder / "below").mkdir(parents=True)
    track_id = put(window, "Copper Ferry")
    source = session.library.track(track_id).path
    (folder / "ferry.ogg").write_bytes(source.read_bytes())
    state = (folder / "ferry.ogg").stat()
    with session.library.writing() as db:
        db.execute(
            "UPDATE tracks SET path=?, size=?, changed_ns=? WHERE id=?",
            (os.fsencode(folder / "ferry.ogg"), state.st_size, state.st_mtime_ns, track_id),
        )
    session.queue.pool._feed = lambda: None  # type: ignore[method-assign]
    session.folders.watch(folder)
    qtbot.waitUntil(lambda: not session.folders._asked)
    assert session.library.size() == 1
    (folder / "new.wav").write_bytes(b"RIFF")
    qtbot.waitUntil(lambda: session.library.size() == 2)
    session.open(track_id)
    window.ask("cue", False)
    os.rename(folder / "ferry.ogg", folder / "below" / "renamed.ogg")
    qtbot.waitUntil(lambda: session.library.track(track_id).path.name == "renamed.ogg")
    assert session.library.track(track_id).cues == 1
    assert session.library.size() == 2
    os.rename(folder / "below", tmp_path / "away")
    qtbot.waitUntil(lambda: session.library.track(track_id).gone)
    session.folders.point_at([track_id], tmp_path / "away")
    qtbot.waitUntil(lambda: not session.library.track(track_id).gone)
    assert session.library.track(track_id).path == tmp_path / "away" / "renamed.ogg"


def test_the_queue_pauses_and_what_another_program_does_is_seen(many: Window, qtbot: QtBot, tmp_path: Path) -> None:
    session, view = many.session, gather(many)
    added, _ = session.library.add_many([tmp_path / f"new {k}.wav" for k in range(3)])
    session.catalogue.reread()
    qtbot.waitUntil(lambda: session.queue.outlook()[0] == 3)
    view.queue.refresh()
    assert "3 recordings to hear" in view.queue.words.text()
    view.queue.pause.click()
    assert session.queue.pool.held
    assert "Paused" in view.queue.words.text()
    view.queue.pause.click()
    other = Library(session.library.path)
    with other.writing() as db:
        db.execute("UPDATE tracks SET state='ready', title='Heard elsewhere' WHERE id=?", (added[0],))
    others.announce(other.path)
    qtbot.waitUntil(lambda: session.queue.outlook()[0] == 2)
    assert not session.queue.pool.has(added[0])
    other.close()
    session.queue.pause(False)
    session.queue.use(1, quiet=True)
    session.queue.keep_quiet(True)
    assert session.queue.pool.held
    session.queue.keep_quiet(False)
    assert not session.queue.pool.held


def test_a_filter_of_a_newer_program_is_said(many: Window) -> None:
    session = many.session
    number = session.bookcase.make(lists.SEARCH, "later", search=filters.parse("boat"))
    assert number is not None
    with session.library.writing() as db:
        db.execute('UPDATE lists SET search=\'{"words": "", "order": [], "filters": [{"what": "weather"}]}\'')
    session.shown.show(number)
    assert "weather" in many.note.text.text()
    assert len(session.shown) == MANY


def test_a_list_says_when_each_track_is_played(many: Window) -> None:
    session, view = many.session, gather(many)
    with session.library.writing() as db:
        db.execute("UPDATE tracks SET seconds=300 WHERE id<=4")
    number = session.bookcase.make(lists.LIST, "Gig list")
    assert number is not None
    session.bookcase.add(number, [4, 2, 4])
    session.shown.show(number)
    assert view.table.isColumnHidden(INDEX["at"])
    session.bookcase.set_begins(number, "23:55")
    assert not view.table.isColumnHidden(INDEX["at"])
    assert [session.shown.clock_at(row) for row in range(4)] == ["23:55", "00:00", "00:05", ""]
    view.head.show_list()
    assert "15:00" in view.head.stands.text()
    assert "23:55 to 00:10" in view.head.stands.text()
    session.shown.sort([Order("title")])
    assert session.shown.clock_at(0) == ""
    # what is taken out of a sorted list is what was chosen, not what stands at that row of the list
    rows = [k for k, i in enumerate(session.shown.ids.tolist()) if i == 4]
    view.table.selectRow(rows[1])
    many.ask("take-out")
    assert session.bookcase.lists.tracks(number).tolist() == [4, 2]
    # a note is of the list it was typed for, whichever is seen when it ends
    other = session.bookcase.make(lists.LIST, "Another")
    assert other is not None
    session.shown.show(number)
    view.head.notes.setFocus()
    QTest.keyClicks(view.head.notes, "no smoke")
    session.shown.show(other)
    QTest.keyClick(view.head.notes, Qt.Key.Key_Return)
    assert [session.bookcase.lists.one(n).notes for n in (number, other)] == ["no smoke", ""]


def test_work_on_one_copy_is_handed_to_the_better_one(window: Window, qtbot: QtBot, tmp_path: Path) -> None:
    """A lossless file of the same performance that begins 0.8 s later: found, called better, and given the grid."""
    import numpy as np
    import soundfile

    from mervid.core.character.describe import describe
    from mervid.core.fitting import proposal
    from mervid.core.hearing import analysis, evidence
    from mervid.store import facts
    from tests.conftest import heard_demo

    session = window.session
    first = put(window, "Salt Ledger")
    told, heard = heard_demo("Salt Ledger")
    facts.set_character(session.library, first, describe(heard, told.duration))
    sound, rate = soundfile.read(places.demo_folder() / "Salt Ledger.ogg", dtype="float32")
    soundfile.write(tmp_path / "later.flac", np.concatenate([np.zeros((int(0.8 * rate), 2), np.float32), sound]), rate)
    now, drawn, heap = analysis.decode(tmp_path / "later.flac", lambda b: None, progress=lambda p: None)
    later = analysis.conclude(heap, progress=lambda p: None)
    second, _ = session.library.add(tmp_path / "later.flac")
    session.library.set_decoded(second.id, now)
    session.library.set_evidence(
        second.id, evidence.to_bytes(later), drawn.to_bytes(), proposal.propose(later.heard, now.duration)
    )
    facts.set_character(session.library, second.id, describe(later, now.duration))
    with session.library.writing() as db:
        db.execute("UPDATE tracks SET lossless=1 WHERE id=?", (second.id,))
    session.catalogue.reread()
    session.copies.look()
    qtbot.waitUntil(lambda: session.library.track(first).copy != 0)
    window.go_to_stage("gather")
    view = gather(window)
    view.table.choose([second.id])
    group = session.copies.group_of(session.library.track(first))
    assert group is not None
    assert (group.tracks[0].id, group.why) == (second.id, "lossless")
    session.open(first)
    window.go_to_stage("align")
    window.ask("cue", False)
    grid = session.track.grid
    assert grid is not None
    session.copies.hand_over(first, second.id)
    qtbot.waitUntil(lambda: session.library.track(second.id).cues == 1)
    moved = session.library.history(second.id).preparation.grid
    assert moved is not None
    assert float(moved.time_at(0.0)) - float(grid.time_at(0.0)) == pytest.approx(0.8, abs=0.003)
    assert "later" in window.note.text.text()
