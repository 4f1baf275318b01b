"""Text that a person types is saved, whichever way its field is left, and a request is carried out by its own stage."""

from __future__ import annotations

import ast
from collections.abc import Callable, Iterator
from pathlib import Path

import attrs
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QComboBox, QLineEdit, QPlainTextEdit, QWidget
from pytestqt.qtbot import QtBot

import mervid.desk
from mervid.desk.app import make_window
from mervid.desk.commands.command import Unhandled
from mervid.desk.session.session import Session
from mervid.desk.sound.output import SilentClock
from mervid.desk.sound.player import Player
from mervid.desk.stages.gather.search_bar import _Line as SearchLine
from mervid.desk.window import Window
from mervid.store.library import Library
from tests.desk.conftest import put

STAGES = Path(mervid.desk.__file__).parent / "stages"


# requests


def asked_in(path: Path) -> Iterator[str]:
    """The names of all requests that a module makes: constants in calls that ask, and in tables of buttons."""
    for node in ast.walk(ast.parse(path.read_text())):
        match node:
            case ast.Call(
                func=ast.Attribute(attr="emit", value=ast.Attribute(attr="asked" | "_asked")), args=[name, *_]
            ):
                yield from constants(name)
            case ast.Call(func=ast.Attribute(attr="emit", value=ast.Name(id="asked")), args=[name, *_]):
                yield from constants(name)
            case ast.Call(
                func=ast.Attribute(attr="ask", value=ast.Name(id="self") | ast.Name(id="window")), args=[name, *_]
            ):
                yield from constants(name)
            case ast.Call(func=ast.Name(id="asking"), args=[_, name, *_]):
                yield from constants(name)
            case ast.Call(func=ast.Attribute(attr="_button" | "_field"), args=[_, name, *_]):
                yield from constants(name)
            case ast.Call(func=ast.Attribute(attr="_row"), args=[_, ast.Tuple(elts=rows), *_]):
                yield from (name for row in rows if isinstance(row, ast.Tuple) for name in constants(row.elts[1]))


def constants(node: ast.expr) -> list[str]:
    return [node.value] if isinstance(node, ast.Constant) and isinstance(node.value, str) else []


def test_each_request_of_a_panel_is_carried_out_by_its_own_stage_or_by_all(window: Window) -> None:
    unhandled, count = [], 0
    for key, stage in window.stages.items():
        for path in sorted((STAGES / key).glob("*.py")):
            names = set(asked_in(path))
            count += len(names)
            unhandled += [f"{key}/{path.name}: {n}" for n in names if not stage.can(n) and n not in window._handlers]
    assert not unhandled
    # else the reader of the source has lost them
    assert count > 130


def test_a_request_that_a_stage_does_not_know_reaches_no_other_stage(window: Window) -> None:
    window.go_to_stage("deliver")
    with pytest.raises(Unhandled, match="align: write"):
        window.ask_of("align", "write")


# fields


@attrs.frozen
class Typed:
    """A field, the text that is typed into it, and what is saved of it afterwards."""

    stage: str
    page: str
    field: Callable[[Window], QWidget]
    text: str
    saved: Callable[[Session, int], object]
    value: object = None

    @property
    def expected(self) -> object:
        return self.text if self.value is None else self.value


def preparation(s: Session, track: int):
    return s.library.history(track).preparation


def view(window: Window, stage: str):
    return window.stages[stage].view  # type: ignore[attr-defined]


def first_rule(window: Window) -> QWidget:
    return view(window, "phrase").editor.rows[0].where.lineEdit()


def recipe_name(window: Window) -> QWidget:
    return view(window, "phrase").editor.name


def tag_edits(window: Window) -> dict[str, QLineEdit]:
    return view(window, "gather").panel.tags.edits


def recipe(s: Session, _: int):
    return s.recipes.recipe


def first_letter(s: Session, track: int) -> str:
    return preparation(s, track).form.phrases[0].letter


def tempo_of(s: Session, track: int) -> float:
    return round(preparation(s, track).grid.tempo_overall(), 3)


def comment(s: Session, track: int) -> str:
    return s.bookcase.tagging.said([track])[track].shown.comment


FIELDS = {
    "note": Typed("align", "", lambda w: view(w, "align").panel.notes, "mind it", lambda s, t: preparation(s, t).notes),
    "tempo": Typed("align", "", lambda w: view(w, "align").panel.tempo, "113.25", tempo_of, 113.25),
    "line": Typed("phrase", "", lambda w: view(w, "phrase").panel.line, "brass", lambda s, t: preparation(s, t).line),
    "letter": Typed("phrase", "", lambda w: view(w, "phrase").panel.letter, "Q", first_letter),
    "rule": Typed("phrase", "recipe", first_rule, "half of the intro", lambda s, t: recipe(s, t).rules[0].where),
    "recipe": Typed("phrase", "recipe", recipe_name, "mine", lambda s, t: recipe(s, t).name),
    "template": Typed(
        "deliver", "tags", lambda w: view(w, "deliver").tags.template, "comment: {drive}",
        lambda s, t: s.tag_writing.template.text,
    ),
    "title": Typed("gather", "", lambda w: tag_edits(w)["title"], "Ferryman", lambda s, t: s.library.track(t).title),
    "comment": Typed("gather", "", lambda w: tag_edits(w)["comment"], "from the harbour", comment),
}  # fmt: skip


def another_track(window: Window, other: int) -> None:
    window.session.open(other)


def another_stage(window: Window, other: int) -> None:
    window.go_to_stage("rehearse")


def first_stage_by_key(window: Window, other: int) -> None:
    command = next(c for c in window.table.commands if c.name == "to-stage" and c.argument == "deliver")
    window.keyboard._press(command.keys, [command])
    window.go_to_stage("gather")


def another_list(window: Window, other: int) -> None:
    case = window.session.bookcase
    window.session.shown.show(case.lists.make("list", "Late"))
    window.session.shown.show(0)
    window.session.open(other)


def close(window: Window, other: int) -> None:
    window.close()


@pytest.mark.parametrize("leave", [another_track, another_stage, first_stage_by_key, another_list, close])
def test_what_is_typed_is_saved_whichever_way_the_field_is_left(
    ferry: Window, qtbot: QtBot, tmp_path: Path, leave: Callable[[Window, int], None]
) -> None:
    """Each field in turn; the last time the window is closed, and all is there at the next start."""
    track = ferry.session.track.row.id
    other = put(ferry, "Pontoon Static")
    session = ferry.session
    for name, typed in FIELDS.items():
        ferry.session.open(track)
        ferry.go_to_stage(typed.stage)
        if typed.page:
            view(ferry, typed.stage).pages.turn_to(typed.page)
        if typed.stage == "gather":
            view(ferry, "gather").panel.tags.show_tracks([track])
        field = typed.field(ferry)
        field.setFocus()
        field.selectAll()  # type: ignore[attr-defined]
        qtbot.keyClicks(field, typed.text)
        if leave is close and name != list(FIELDS)[-1]:
            continue
        leave(ferry, other)
        if leave is not close:
            assert typed.saved(session, track) == typed.expected, name
    ferry.close()
    again = Session(Library(tmp_path / "library.sqlite"), tmp_path / "cache", Player(clock=SilentClock()))
    window = make_window(again)
    qtbot.addWidget(window)
    assert {n: f.saved(again, track) for n, f in FIELDS.items()} == {n: f.expected for n, f in FIELDS.items()}
    assert preparation(again, other).notes == ""
    window.close()


def test_no_field_of_a_stage_is_forgotten_here(ferry: Window) -> None:
    """Fields that a stage has and that the test above does not type into are known by their names."""
    ferry.go_to_stage("phrase")
    view(ferry, "phrase").pages.turn_to("recipe")
    tried = {id(f.field(ferry)) for f in FIELDS.values()}
    others = set()
    for stage in ferry.stages.values():
        for kind in (QLineEdit, QPlainTextEdit):
            for field in stage.findChildren(kind):
                combo = isinstance(field.parentWidget(), QComboBox)
                if (
                    id(field) not in tried
                    and not isinstance(field, SearchLine)
                    and not field.isReadOnly()
                    and not combo
                ):
                    others.add(field.accessibleName())
    # other tags go as title and comment do; fields of a playlist and of straightening have tests of their own
    tags = {e.accessibleName() for e in tag_edits(ferry).values()}
    assert others - tags == {
        "The part begins at", "The part ends at", "When the first track of the list is played", "Notes on the list",
        "Tempo, BPM", "Drift taken out, %", "Glide, bars",
    }  # fmt: skip


def test_a_note_is_not_lost_while_a_pad_learns(ferry: Window, qtbot: QtBot) -> None:
    notes = view(ferry, "align").panel.notes
    notes.setFocus()
    qtbot.keyClicks(notes, "slow start")
    ferry.session.pads.choosing = True
    ferry.go_to_stage("phrase")
    assert ferry.session.track.preparation.notes == "slow start"


def test_a_tempo_that_was_used_for_a_selection_is_not_set_for_the_track_later(ferry: Window, qtbot: QtBot) -> None:
    panel, before = view(ferry, "align").panel, ferry.session.track.preparation.grid
    ferry.session.part.choose((10.0, 20.0))
    panel.tempo.setFocus()
    panel.tempo.selectAll()
    qtbot.keyClicks(panel.tempo, "113")
    ferry.ask("part", "tempo")
    after = ferry.session.track.preparation.grid
    assert after.tempo_at(40.0) == pytest.approx(before.tempo_at(40.0), rel=0.01)
    ferry.go_to_stage("gather")
    assert ferry.session.track.preparation.grid == after


def test_a_field_that_is_left_as_it_was_changes_nothing(ferry: Window, qtbot: QtBot) -> None:
    """No edit is made by walking through all fields with Tab."""
    for typed in FIELDS.values():
        ferry.go_to_stage(typed.stage)
        if typed.page:
            view(ferry, typed.stage).pages.turn_to(typed.page)
        field = typed.field(ferry)
        field.setFocus()
        qtbot.keyClick(field, Qt.Key.Key_Tab)
        ferry.go_to_stage("rehearse")
    assert ferry.session.track.undo_name is None
