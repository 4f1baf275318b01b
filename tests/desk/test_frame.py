"""The frame of the stages: a stage of a few lines is found everywhere, and nothing on screen is unfindable."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from PyQt6.QtCore import QSettings, Qt
from PyQt6.QtGui import QFontMetrics
from PyQt6.QtWidgets import QLabel, QVBoxLayout, QWidget
from pytestqt.qtbot import QtBot

from mervid.desk.app import make_window
from mervid.desk.commands.command import CommandSet, answering, command
from mervid.desk.commands.letters import LETTERS, letter_of
from mervid.desk.session.session import Session
from mervid.desk.sound.output import SilentClock
from mervid.desk.sound.player import Player
from mervid.desk.stages import STAGES
from mervid.desk.stages.frame import Page, Pages, Stage
from mervid.desk.widgets.finder import Finder, KeySheet
from mervid.desk.widgets.track_list import fitting
from mervid.desk.window import Window
from mervid.store.library import Library
from tests.desk.conftest import put


class LanternCommands(CommandSet):
    """Two commands under a heading of their own."""

    def __init__(self, session: Session, words: QLabel) -> None:
        self.session, self.words = session, words

    @command("Ctrl+Alt+L", "Light a lantern", "Lanterns", "lit", also="lamp shine")
    @command("", "Put the lantern out", "Lanterns", "out", also="dark")
    def lantern(self, state: object) -> None:
        self.words.setText(f"{state} on {self.session.track.row.title}")  # type: ignore[union-attr]


class LanternStage(Stage):
    """A stage that is thrown away afterwards."""

    key, title, tip, shortcut = "lantern", "Lanterns", "Lights on the water", "F9"
    sets = (LanternCommands,)

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.words = QLabel("out")
        self.pages = Pages((Page("deck", "DECK", "The deck at night", self.words),))
        column = QVBoxLayout(self)
        column.addWidget(self.pages)
        self.use(LanternCommands(session, self.words))

    def waiting(self) -> tuple[int, str]:
        return 5, "unlit"


@pytest.fixture
def lit(qtbot: QtBot, tmp_path: Path) -> Window:
    """The window with a third stage, and a track open."""
    QSettings.setDefaultFormat(QSettings.Format.IniFormat)
    QSettings.setPath(QSettings.Format.IniFormat, QSettings.Scope.UserScope, str(tmp_path))
    session = Session(Library(tmp_path / "library.sqlite"), tmp_path / "cache", Player(clock=SilentClock()))
    window = make_window(session, (*STAGES, LanternStage))
    qtbot.addWidget(window)
    window.show()
    qtbot.waitExposed(window)
    session.open(put(window, "Copper Ferry"))
    return window


def test_a_third_stage_is_found_in_tabs_menus_finder_and_key_sheet(lit: Window, qtbot: QtBot) -> None:
    tab = lit.header.tabs["lantern"]
    assert tab.text() == "Lanterns   5"
    assert "5 tracks are unlit" in tab.toolTip()
    # by a tab, by its own key, by a menu of another stage
    qtbot.mouseClick(tab, Qt.MouseButton.LeftButton)
    assert lit.seen == "lantern"
    words = lit.stages["lantern"].words  # type: ignore[attr-defined]
    assert words.isVisible()
    qtbot.keyClick(lit, Qt.Key.Key_L, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier)
    assert words.text() == "lit on Copper Ferry"
    menu = next(a.menu() for a in lit.header.buttons["pen"].menu().actions() if a.text() == "Lanterns")
    assert [a.text() for a in menu.actions()] == ["Light a lantern\tCtrl+Alt+L", "Put the lantern out\t"]
    lit.go_to_stage("align")
    menu.actions()[1].trigger()
    assert (lit.seen, words.text()) == ("lantern", "out on Copper Ferry")
    lit.go_to_stage("align")
    qtbot.keyClick(lit, Qt.Key.Key_L, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier)
    assert "In Lanterns, Ctrl+Alt+L is: light a lantern." in lit.note.text.text()
    qtbot.keyClick(lit, Qt.Key.Key_F9)
    assert lit.seen == "lantern"
    finder = Finder(lit, lit.table)
    finder.fill("lamp")
    assert [finder.list.item(i).text() for i in range(finder.list.count())] == ["Light a lantern"]  # type: ignore[union-attr]
    sheet = KeySheet(lit, lit.table, "lantern", ())
    told = [label.text() for label in sheet.findChildren(QLabel)]
    assert {"LANTERNS", "Ctrl+Alt+L", "Light a lantern"} <= set(told)
    assert "BAR" not in told and "Follow the recording" not in told


@pytest.mark.parametrize(
    ("words", "finds"),
    [
        ("drift", "Follow the recording"), ("steady", "One steady tempo"), ("metronome", "Reference beat on or off"),
        ("half time", "Count every second beat"), ("first beat", "Call the first bar of the music bar 1"),
        ("export", "Export JAMS"), ("save", "Export a beat list"), ("bpm", "Type a tempo"), ("zoom", "Closer"),
        ("acapella", "Borrow the grid of the full recording"), ("hot cue", "Set a cue on the nearest downbeat"),
        ("tolerance", "Type how far a beat may stray"), ("section", "Split: a phrase begins on the bar line"),
        ("second opinion", "Show the next way to read the track"), ("verify", "Spot check"), ("dark", "Day or night"),
        ("automatic cues", "Apply the recipe in hand"), ("history", "All edits of this track"), ("latency", "Measure"),
    ],
)  # fmt: skip
def test_the_finder_knows_other_words_for_a_thing(window: Window, words: str, finds: str) -> None:
    found = [c.words for c in window.table.found(words)]
    assert any(w.startswith(finds) for w in found), found


def test_nothing_that_stands_on_screen_is_unfindable(window: Window) -> None:
    """Every tab, leaf and button that says something is reached by typing what it says."""
    said = set()
    for button in window.findChildren(QWidget):
        if button.objectName() in ("page", "leaf", "stage"):
            said.add(button.text().split("  ")[0].strip())  # type: ignore[attr-defined]
    assert {"BAR FOLD", "SPOT CHECK", "HAND", "RECIPE", "SKIPS", "Align"} <= said
    for words in said:
        assert window.table.found(words), words


def test_keys_and_handlers_belong_together(window: Window) -> None:
    """In one stage each key asks for one thing, and each command has somebody to carry it out."""
    for key, stage in window.stages.items():
        own = [c for c in stage.commands() if c.keys]
        assert len({c.keys for c in own}) == len(own), key
        assert all(stage.can(c.name) for c in stage.commands())
    everywhere = [c for c in window.table.commands if not c.stage and c.keys]
    assert len({c.keys for c in everywhere}) == len(everywhere)


DESKTOP = {
    "Ctrl+Q": "Quit", "Ctrl+W": "Close this window", "Ctrl+P": "Print: the prep sheet", "Ctrl+O": "Open recordings",
    "Ctrl+S": "Save: everything is saved as you work", "Ctrl+Z": "Undo", "Ctrl+Shift+Z": "Redo", "Ctrl+,": "Settings",
}  # fmt: skip
"""The desktop's keys that hold in every stage: QKeySequence::StandardKey, as Qt names them on freedesktop systems."""

IN_STAGE = {
    "A": "phrase: apply apply-all learn-habit",
    "B": "align: beat; phrase: split-here",
    "C": "-: cue; phrase: standby",
    "D": "align: downbeat restart two-points; phrase: section; rehearse: land-drop",
    "E": "rehearse: solo split-ears",
    "F": "align: fit follow-part; phrase: as-heard; rehearse: pull-here",
    "G": "rehearse: go-to-meeting",
    "H": "-: half-speed; align: edit; phrase: fold fold-all",
    "I": "align: spot",
    "J": "gather: only-needing; align: next-doubt; phrase: try-skip; rehearse: next-torn",
    "K": "-: click next-beat beat-halves",
    "L": "align: own-tempo own-tempo-typed ramp",
    "M": "align: meter zone",
    "N": "gather: hear-next; align: pin-by; rehearse: next-pair",
    "O": "align: opinion part; phrase: count-toggle count-here",
    "P": "-: learn board; align: pin; rehearse: next-place",
    "Q": "align: page tour; phrase: recipe-page skips-page player-page; rehearse: list-page",
    "R": "phrase: next-role next-letter",
    "S": "align: fit part; rehearse: next-clock pitch; deliver: straighten",
    "T": "gather: only-tempo; align: type-tempo round tolerance; rehearse: type-place",
    "U": "rehearse: leaves nudge-grid swap",
    "V": "gather: roomy columns; align: compare rows halves",
    "W": "gather: next-leaf; align: leaf notes; phrase: line",
    "X": "align: seen to-fix",
    "Y": "gather: only-key set-key",
    "Z": "align: pause part",
}
"""What each letter asks for, alone, with Shift or with Alt, by stage; '-' for all: nothing outside its idea."""


def test_a_letter_keeps_its_idea_in_every_stage(window: Window) -> None:
    found: dict[str, dict[str, set[str]]] = {}
    for c in window.usual.commands:
        if letter := letter_of(c.keys):
            found.setdefault(letter, {}).setdefault(c.stage or "-", set()).add(c.name)
    held = {
        letter: {one.split(": ")[0]: set(one.split(": ")[1].split()) for one in words.split("; ")}
        for letter, words in IN_STAGE.items()
    }
    assert found == held
    assert set(held) == set(LETTERS)


def test_function_keys_and_the_keys_of_the_desktop_mean_one_thing(window: Window) -> None:
    keys = [(c.keys, c.words) for c in window.usual.commands if re.fullmatch(r"F\d+", c.keys)]
    assert [k for k, _ in sorted(keys)] == ["F1", "F2", "F3", "F4", "F5", "F6", "F7", "F8"]
    assert {c.keys: c.words for c in window.usual.commands if c.keys in DESKTOP and not c.stage} == DESKTOP
    own = {c.keys: c.words for c in window.usual.commands if c.keys in DESKTOP and c.stage}
    # a stage saves, and takes back, what is its own
    assert set(own) <= {"Ctrl+S", "Ctrl+Z", "Ctrl+Shift+Z"}


def test_a_key_of_ones_own_goes_before_any_that_came_later(window: Window, qtbot: QtBot) -> None:
    """A person had Alt+D for half speed; Alt+D came to mean something in Align: it is half speed there, too."""
    table = window.usual.with_keys({"- half-speed": "Alt+D"})
    commands = [c for c in table.commands if c.keys == "Alt+D"]
    assert {c.name for c in commands} == {"half-speed", "two-points"}
    assert answering(commands, "align").name == "half-speed"  # type: ignore[union-attr]
    assert answering([c for c in commands if not c.is_own], "align").name == "two-points"  # type: ignore[union-attr]


def test_a_row_drops_the_length_before_it_cuts_a_word(window: Window) -> None:
    metrics = QFontMetrics(window.font())
    whole, less = "102.1–107.9  wandering  1:30", "102.1–107.9  wandering"
    wide = metrics.horizontalAdvance(whole)
    assert fitting(metrics, whole, wide) == whole
    assert fitting(metrics, whole, wide - 1) == less
    assert fitting(metrics, "no beats heard here", 40).endswith("…")
    # a message keeps what comes after two spaces in a name as far as there is room
    message = "Night  Ferry.ogg can't be read"
    assert fitting(metrics, message, metrics.horizontalAdvance(message) - 1, whole=True).startswith("Night  Ferry.ogg")
