"""The contact sheet, sections and the learned habit in the real window, by mouse and keys."""

from __future__ import annotations

from pathlib import Path

import attrs
import pytest
from PyQt6.QtCore import QItemSelectionModel, QPoint, Qt
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from mervid import places
from mervid.core.cues import cue_edits, recipe_places
from mervid.core.cues.recipe_places import Place
from mervid.core.cues.recipes import Recipe, Rule
from mervid.core.form import phrase_edits
from mervid.core.hearing.evidence import to_bytes
from mervid.core.model.form import Form, Phrase
from mervid.core.model.preparation import LOCKED
from mervid.core.sound.decoding import Decoded
from mervid.desk.views.contact_cards import ContactCards
from mervid.desk.widgets.habit_dialog import HabitDialog
from mervid.desk.window import Window
from tests.desk.conftest import phrase, put
from tests.desk.test_align import press

MINE = Recipe("Mine", (Rule("drop", "the drop or first chorus"), Rule("outro", "the outro")))


def edit(window: Window, number: int, **changes: object) -> None:
    library = window.session.library
    library.replace(number, attrs.evolve(library.history(number).preparation, **changes))


def form_of(window: Window, number: int) -> Form:
    library = window.session.library
    kept = library.evidence(number)
    assert kept is not None
    found = phrase_edits.form_of(library.history(number).preparation, kept[0], library.track(number).duration)
    assert found is not None
    return found


@pytest.fixture
def three(window: Window, qtbot: QtBot) -> dict[str, int]:
    """Lamplighter with all roles certain, Pontoon Static with a drop in doubt, Copper Ferry locked; all are chosen."""
    ids = {name: put(window, name) for name in ("Lamplighter", "Pontoon Static", "Copper Ferry")}
    for name in ("Lamplighter", "Pontoon Static"):
        form = form_of(window, ids[name])
        roles = (
            [q.role for q in form.phrases] if name == "Lamplighter" else ["intro", "verse", "build", "drop", "outro"]
        )
        sure = [0.95 if r != "drop" else 0.45 for r in roles]
        phrases = [attrs.evolve(q, role=r, chance=c) for q, r, c in zip(form.phrases, roles, sure, strict=True)]
        edit(window, ids[name], form=Form(tuple(phrases), form.end))
    edit(window, ids["Copper Ferry"], readiness=LOCKED)
    window.session.open(ids["Lamplighter"])
    qtbot.mouseClick(window.header.tabs["phrase"], Qt.MouseButton.LeftButton)
    selection = window.list.selectionModel()
    for row in range(3):
        selection.select(window.list.tracks.index(row), QItemSelectionModel.SelectionFlag.Select)
    assert len(window.session.selection.ids) == 3
    window.session.recipes.change(MINE)
    QApplication.processEvents()
    return ids


def begin(window: Window, qtbot: QtBot) -> ContactCards:
    press(window, qtbot, "Shift+A")
    sheet = window.session.sheet
    qtbot.waitUntil(lambda: len(sheet.seen) == 3 and not sheet.waiting)
    cards = phrase(window).sheet.cards
    assert cards.isVisible()
    assert cards.hasFocus()
    return cards


def hit(cards: ContactCards, qtbot: QtBot, x: float, y: float) -> None:
    qtbot.mouseClick(cards.viewport(), Qt.MouseButton.LeftButton, pos=QPoint(round(x), round(y)))


def cues(window: Window, number: int) -> set[str]:
    return {c.role for c in window.session.library.history(number).preparation.cues}


def test_the_sheet_is_looked_at_thinned_out_put_down_and_taken_back(
    window: Window, qtbot: QtBot, three: dict[str, int]
) -> None:
    cards, sheet, page = begin(window, qtbot), window.session.sheet, phrase(window).sheet
    # doubtful ones first, what can't have it last, and nothing was done yet
    assert [x.track for x in sheet.seen] == [three[n] for n in ("Pontoon Static", "Lamplighter", "Copper Ferry")]
    assert page.words.text() == "3 tracks: 1 in doubt, 1 can't have it."
    assert cards.cards[0].words == "Drop 45 % sure"
    assert cards.cards[2].words == "It is locked."
    assert not cues(window, three["Pontoon Static"])
    # a single flag by mouse, the whole track by its box, and back in by key
    (flag, box), *_ = cards.flags_of(0)
    assert flag.cue.role == "drop"
    hit(cards, qtbot, box.center().x(), box.center().y())
    assert sheet.left[three["Pontoon Static"]] == {flag.key}
    # the same as tables, for who can't see the cards
    tracks, flags = window.stages["phrase"].in_figures()
    assert tracks.rows[0][0] == "Pontoon Static" and tracks.rows[0][2] == cards.cards[0].words
    assert [r[5] for r in flags.rows if r[:3] == ("Pontoon Static", "Drop", "drop")] == ["left out"]
    tick = cards.tick_of(1).center()
    hit(cards, qtbot, tick.x(), tick.y())
    assert sheet.out == {three["Lamplighter"]}
    assert page.apply.text() == "Put down in 1 track"
    qtbot.keyClick(cards, Qt.Key.Key_Space)
    assert not sheet.out
    # the next in doubt, and it is called fine
    qtbot.keyClick(cards, Qt.Key.Key_N)
    assert sheet.at == 0
    qtbot.keyClick(cards, Qt.Key.Key_X)
    assert sheet.doubtful == []
    # the flag that was taken out is taken in by keys, and out again
    qtbot.keyClick(cards, Qt.Key.Key_Period)
    qtbot.keyClick(cards, Qt.Key.Key_Delete)
    assert sheet.left[three["Pontoon Static"]] == frozenset()
    qtbot.keyClick(cards, Qt.Key.Key_Backspace)
    qtbot.mouseClick(page.apply, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: sheet.outcomes != [])
    assert cues(window, three["Pontoon Static"]) == {"outro"}
    assert cues(window, three["Lamplighter"]) == {"drop", "outro"}
    assert not cues(window, three["Copper Ferry"])
    assert window.session.track.preparation.cues, "the open one shows it"
    # the account is kept, and can be written elsewhere
    assert sheet.report is not None
    assert sheet.report.parent == places.reports_folder()
    lines = sheet.report.read_text().splitlines()
    assert lines[1].split("\t") == ["Mine", "Pontoon Static", "1", "drop, the drop or first chorus: left out by hand"]
    assert "it is locked" in lines[3]
    target = places.reports_folder() / "mine.tsv"
    sheet.export(target)
    assert target.read_text() == sheet.report.read_text()
    # one way back for all of it
    qtbot.mouseClick(page.back, Qt.MouseButton.LeftButton)
    assert not any(cues(window, n) for n in three.values())
    assert "Taken back in 2 tracks" in window.note.text.text()


def test_one_in_doubt_is_fixed_in_phrase_and_comes_back_fine(
    window: Window, qtbot: QtBot, three: dict[str, int]
) -> None:
    cards, sheet = begin(window, qtbot), window.session.sheet
    assert sheet.chosen is not None
    assert sheet.chosen.track == three["Pontoon Static"]
    qtbot.keyClick(cards, Qt.Key.Key_Return)
    surface = phrase(window)
    assert not cards.isVisible()
    assert surface.ladder.isVisible()
    assert window.session.track.is_open(three["Pontoon Static"])
    assert surface.to_sheet.text().endswith("3 tracks, 1 still in doubt")
    form = window.session.track.form
    assert form is not None
    drop = next(i for i, q in enumerate(form.phrases) if q.role == "drop")
    window.session.phrases.choose(drop)
    surface.panel.role.textActivated.emit("drop")
    qtbot.mouseClick(surface.to_sheet, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: sheet.doubtful == [])
    assert cards.isVisible()
    assert all(f.chance > 0.9 for f in sheet.seen[0].flags)
    # left alone it stays; closed it is gone
    qtbot.keyClick(cards, Qt.Key.Key_Escape)
    assert surface.ladder.isVisible()
    assert sheet.stands
    press(window, qtbot, "Shift+A")
    qtbot.mouseClick(surface.sheet.shut, Qt.MouseButton.LeftButton)
    assert not sheet.stands
    assert not surface.to_sheet.isVisible()


def test_what_was_changed_after_it_was_seen_is_left_alone(window: Window, qtbot: QtBot, three: dict[str, int]) -> None:
    begin(window, qtbot)
    number = three["Lamplighter"]
    window.session.library.edit(number, "Write notes", attrs.evolve(
        window.session.library.history(number).preparation, notes="changed by another hand"))  # fmt: skip
    window.session.sheet.put_down()
    qtbot.waitUntil(lambda: window.session.sheet.outcomes != [])
    told = {o.track_id: o for o in window.session.sheet.outcomes}
    assert told[number].skipped == "it was changed after it was looked at"
    assert not cues(window, number)
    assert cues(window, three["Pontoon Static"])


def test_stopping_in_the_middle_keeps_what_was_put_down_and_says_so(
    window: Window, qtbot: QtBot, three: dict[str, int]
) -> None:
    begin(window, qtbot)
    sheet = window.session.sheet
    first, second = three["Pontoon Static"], three["Lamplighter"]
    sheet.stepped.connect(lambda done, of: sheet.stop())
    sheet.put_down()
    qtbot.waitUntil(lambda: sheet.outcomes != [])
    assert cues(window, first)
    assert not cues(window, second)
    told = {o.track_id: o.skipped for o in sheet.outcomes}
    assert told[second] == "not reached before it was stopped"
    # another track that is opened is shown, and the sheet stands behind it
    window.session.open(three["Copper Ferry"])
    assert phrase(window).ladder.isVisible()
    assert sheet.stands
    # other tracks than those that were put down begin another sheet
    window.session.selection.choose([first, second])
    press(window, qtbot, "Shift+A")
    qtbot.waitUntil(lambda: len(sheet.seen) == 2 and not sheet.waiting)
    assert not sheet.outcomes


def test_nothing_to_put_down_is_said(window: Window, qtbot: QtBot, three: dict[str, int]) -> None:
    begin(window, qtbot)
    for k in range(2):
        window.session.sheet.toggle(k)
    assert not phrase(window).sheet.apply.isEnabled()
    window.session.sheet.put_down()
    assert window.note.text.text() == "Nothing is left that would be placed."


# sections


@pytest.fixture
def verses(window: Window, qtbot: QtBot) -> Window:
    """Lamplighter, each of its parts in two phrases of one section."""
    number = put(window, "Lamplighter")
    form = form_of(window, number)
    ends = [q.start for q in form.phrases[1:]] + [form.end]
    phrases: list[Phrase] = []
    for q, end in zip(form.phrases, ends, strict=True):
        middle = q.start + (end - q.start) / 2
        phrases += [attrs.evolve(q, joins=False), attrs.evolve(q, start=middle, joins=True)]
    edit(window, number, form=Form(tuple(phrases), form.end))
    window.session.open(number)
    qtbot.mouseClick(window.header.tabs["phrase"], Qt.MouseButton.LeftButton)
    QApplication.processEvents()
    return window


def test_sections_are_closed_to_one_row_and_opened(verses: Window, qtbot: QtBot) -> None:
    ladder, choice = phrase(verses).ladder, verses.session.phrases
    assert [round(b) for b in ladder.bars] == [2, 2, 4, 4, 4, 4, 4, 4, 4, 4, 2, 2]
    choice.choose(3)
    press(verses, qtbot, "H")
    assert [round(b) for b in ladder.bars] == [2, 2, 8, 4, 4, 4, 4, 4, 4, 2, 2]
    assert ladder.current == 2
    # what is said of a closed section is said of all of it
    phrase(verses).panel.role.textActivated.emit("break")
    form = verses.session.track.form
    assert form is not None
    assert [q.role for q in form.phrases[1:5]] == ["intro", "break", "break", "chorus"]
    press(verses, qtbot, "Shift+H")
    press(verses, qtbot, "Shift+H")
    assert [round(b) for b in ladder.bars] == [4, 8, 8, 8, 8, 4]
    # a click on the fifth row chooses the first phrase of that section
    y = ladder.row_top(4) + ladder.row_height / 2
    qtbot.mouseClick(ladder, Qt.MouseButton.LeftButton, pos=QPoint(300, round(y)))
    assert choice.chosen == 8
    press(verses, qtbot, "Shift+H")
    assert len(ladder.bars) == 12


def test_a_section_is_divided_and_joined_and_undone(verses: Window, qtbot: QtBot) -> None:
    track = verses.session.track
    verses.session.phrases.choose(3)
    press(verses, qtbot, "D")
    assert track.form is not None
    assert len(track.form.sections) == 7
    assert track.undo_name == "Begin a section"
    press(verses, qtbot, "D")
    assert len(track.form.sections) == 6
    press(verses, qtbot, "Ctrl+Z")
    press(verses, qtbot, "Ctrl+Z")
    assert [len(s) for s in track.form.sections] == [2] * 6


# the habit


def test_a_habit_is_read_from_cues_and_taken_in_hand(window: Window, qtbot: QtBot, tmp_path: Path) -> None:
    library = window.session.library
    window.session.open(put(window, "Copper Ferry"))
    qtbot.mouseClick(window.header.tabs["phrase"], Qt.MouseButton.LeftButton)
    press(window, qtbot, "Alt+A")
    qtbot.waitUntil(lambda: "from 10 on a habit can be read" in window.note.text.text())
    first = put(window, "Lamplighter")
    kept, p = library.evidence(first), library.history(first).preparation
    assert kept is not None
    assert p.grid is not None
    place = Place(p.grid, form_of(window, first), kept[1].duration)
    heard, drawn = to_bytes(kept[0]), kept[1].to_bytes()
    before = attrs.evolve(p, form=place.form)
    for k in range(11):
        number = library.add(tmp_path / f"copy {k}.ogg")[0].id
        library.set_decoded(number, Decoded(kept[1].rate, 2, kept[1].frames, f"copy{k}", "FFmpeg vorbis", True))
        library.set_evidence(number, heard, drawn, before)
        p = before
        where = ("first downbeat", "first chorus", "the outro" if k < 9 else "last 8 bars")
        for n, (role, words) in enumerate(zip(("first beat", "chorus", "outro"), where, strict=True)):
            spot = recipe_places.parse(words)(place)[0]
            p = cue_edits.add_cue(p, float(place.grid.time_at(spot.beat)), role=role, slot=n)
        library.edit(number, "Set a cue", p)
    window.session.open(first)
    press(window, qtbot, "Alt+A")
    qtbot.waitUntil(lambda: window.findChildren(HabitDialog) != [])
    dialog = window.findChildren(HabitDialog)[-1]
    sentences = [box.text() for box in dialog.boxes]
    assert "Put a first beat at first downbeat as hot in slot 1: holds in 11 of 11" in sentences
    assert "Put an outro at the outro as hot in slot 3: holds in 9 of 11" in sentences
    qtbot.mouseClick(next(b for b in dialog.boxes if "chorus" in b.text()), Qt.MouseButton.LeftButton, pos=QPoint(8, 8))
    qtbot.mouseClick(dialog.take, Qt.MouseButton.LeftButton)
    recipe = window.session.recipes.recipe
    assert recipe is not None
    assert (recipe.name, {r.what for r in recipe.rules}) == ("My habit", {"first beat", "outro"})
    assert recipe.about == "Read from the cues that a hand set in 11 tracks."
    assert phrase(window).editor.isVisible()


def test_how_sure_a_role_must_be_is_set_and_kept(window: Window, three: dict[str, int], qtbot: QtBot) -> None:
    window.session.open(three["Pontoon Static"])
    press(window, qtbot, "Q")
    shelf, page = window.session.recipes, phrase(window).editor
    shelf.use(4)
    assert shelf.recipe is not None
    assert shelf.recipe.sure == 0
    page.sure.setCurrentIndex(2)
    page.sure.activated.emit(2)
    assert shelf.recipe.sure == 0.6
    outcome = shelf.outcome()
    assert outcome is not None
    assert any("only 45 % sure" in x for x in outcome[1].problems)
    path = shelf.save(shelf.recipe)
    assert "sure = 0.6" in path.read_text()
