"""Settings in the real window: each does what it says at once, keys can be changed, and a start finds all again."""

from __future__ import annotations

import json
from pathlib import Path

import pytest
from PyQt6.QtCore import QSettings, Qt
from PyQt6.QtGui import QKeySequence
from pytestqt.qtbot import QtBot

from mervid import cli
from mervid.core.pads.messages import CONTROL, NOTE, Control
from mervid.desk import settings
from mervid.desk.app import place_as_kept
from mervid.desk.names import kept_folder
from mervid.desk.stages.common.settings_commands import SettingsCommands
from mervid.desk.theme import palette, style
from mervid.desk.theme.palette import DAY, NIGHT, role_inks
from mervid.desk.theme.style import Theme
from mervid.desk.widgets.settings.cue_colours_page import CueColoursPage
from mervid.desk.widgets.settings.dialog import SettingsDialog
from mervid.desk.widgets.settings.keys_page import KeysPage, name_of
from mervid.desk.widgets.settings.pads_page import PadsPage
from mervid.desk.widgets.settings.pages import LookPage, MusicPage, SoundPage, WorkPage
from mervid.desk.window import Window
from mervid.formats import pad_files
from mervid.jobs import pcm
from mervid.store.lists import LIST
from tests.desk.conftest import align, put

LEFT = Qt.MouseButton.LeftButton


def opened(window: Window, qtbot: QtBot, page: str) -> SettingsDialog:
    """The dialog, by its key, turned to a page by its list."""
    qtbot.keyClick(window, Qt.Key.Key_Comma, Qt.KeyboardModifier.ControlModifier)
    dialog = next(c for c in window._common if isinstance(c, SettingsCommands)).dialog
    assert dialog is not None
    (item,) = dialog.list.findItems(page, Qt.MatchFlag.MatchExactly)
    qtbot.mouseClick(dialog.list.viewport(), LEFT, pos=dialog.list.visualItemRect(item).center())
    assert dialog.page.title == page
    return dialog


def pick(box, value: object) -> None:
    """Choose one of several as a person does."""
    box.setCurrentIndex(box.findData(value))
    box.activated.emit(box.currentIndex())


def test_what_is_set_holds_at_once_and_at_the_next_start(ferry: Window, qtbot: QtBot) -> None:
    session = ferry.session
    dialog = opened(ferry, qtbot, "Work")
    work = dialog.page
    assert isinstance(work, WorkPage)
    qtbot.mouseClick(work.quiet, LEFT)
    assert session.queue.quiet and settings.quiet()
    used = sum(f.stat().st_size for f in pcm.files(session.cache))
    assert used > 0 and f"{used / settings.GIB:.2f} GiB are used" in work.cache_words.text()
    look = opened(ferry, qtbot, "Look").page
    assert isinstance(look, LookPage)
    pick(look.look, settings.NIGHT)
    assert Theme.palette is NIGHT and settings.look() == settings.NIGHT
    qtbot.keyClick(ferry, Qt.Key.Key_F8)
    assert Theme.palette is DAY and settings.look() == settings.DAY
    pick(look.look, settings.DESKTOP)
    assert settings.look() == settings.DESKTOP
    qtbot.mouseClick(look.calm, LEFT)
    assert session.player._timer.interval() == 250
    pick(look.scale, 120)
    assert settings.size() == 120
    music = opened(ferry, qtbot, "Music").page
    assert isinstance(music, MusicPage)
    music.tight.setValue(6.0)
    pick(music.range, music.range.itemData(1))
    assert session.offers.range == settings.tempo_range_chosen() == music.range.itemData(1)
    assert ferry.side.range.text().startswith("Expect hip-hop")
    put(ferry, "Salt Ledger")
    sound = opened(ferry, qtbot, "Sound").page
    assert isinstance(sound, SoundPage)
    sound.tap.setValue(34)
    assert session.tapping.delay == pytest.approx(0.034)
    qtbot.mouseClick(sound.forget, LEFT)
    assert not session.tapping.calibrated


def test_day_and_night_follow_the_desktop_until_one_is_chosen(window: Window, monkeypatch: pytest.MonkeyPatch) -> None:
    scheme = [Qt.ColorScheme.Dark]

    class Hints:
        def colorScheme(self) -> Qt.ColorScheme:
            return scheme[0]

    monkeypatch.setattr(style.QGuiApplication, "styleHints", Hints)
    assert settings.look() == settings.DESKTOP
    window.follow_desktop()
    assert Theme.palette is NIGHT
    scheme[0] = Qt.ColorScheme.Light
    window.follow_desktop()
    assert Theme.palette is DAY
    window.toggle_night()
    assert Theme.palette is NIGHT
    window.follow_desktop()
    assert Theme.palette is NIGHT
    window.use_look(settings.DESKTOP)
    assert Theme.palette is DAY


DAMAGED = {
    "workers": "many", "cache_gib": "nan", "keys": "[1", "delays": '{"a": "x"}', "tolerance_tight": "-4",
    "tempo range": "[1]", "own ranges": "7", "look": "?", "left": "[]", "size": "1e9", "looks": "[3]",
}  # fmt: skip


def test_damaged_settings_do_no_harm(window: Window) -> None:
    for key, text in DAMAGED.items():
        QSettings().setValue(key, text)
    settings.workers(), settings.cache_bytes(), settings.own_keys(), settings.delays(), settings.own_ranges()
    assert 1 <= settings.tolerance().tight <= 100 and settings.tempo_range_chosen() is None
    assert settings.look() in settings.LOOKS and 80 <= settings.size() <= 140
    window._look_so()
    window.session.whereabouts.take_up()


def test_a_key_is_changed_everywhere_and_clashes_are_told(ferry: Window, qtbot: QtBot) -> None:
    page = opened(ferry, qtbot, "Keys").page
    assert isinstance(page, KeysPage)

    def choose(words: str) -> None:
        page.search.clear()
        qtbot.keyClicks(page.search, words)
        page.table.setCurrentCell(0, 0)

    def type_key(key: Qt.Key, modifier: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier) -> None:
        page.keys.setFocus()
        qtbot.keyClick(page.keys, key, modifier)
        page.keys.editingFinished.emit()

    choose("half speed")
    type_key(Qt.Key.Key_F12)
    assert ferry.table.keys_of("half-speed") == "F12"
    assert "(F12)" in ferry.transport.half.toolTip()
    before = ferry.session.player.program.half
    qtbot.keyClick(ferry, Qt.Key.Key_F12)
    assert ferry.session.player.program.half != before
    qtbot.keyClick(ferry, Qt.Key.Key_H, Qt.KeyboardModifier.AltModifier)
    assert ferry.session.player.program.half != before
    # the same key twice in one place
    choose("one steady tempo")
    type_key(Qt.Key.Key_F)
    assert "F is two things" in page.told.text() and "Follow the recording" in page.told.text()
    qtbot.mouseClick(page.back, LEFT)
    assert ferry.table.keys_of("fit", "steady") == "S"
    # a key of one's own goes before the one that a stage comes with: that is told, too
    choose("split: the track")
    type_key(Qt.Key.Key_B)
    assert "In Align, B is 'Split: the track" in page.told.text()
    # keys by which windows are used are spared
    type_key(Qt.Key.Key_Return)
    assert "choose another" in page.told.text()
    qtbot.mouseClick(page.all, LEFT)
    assert settings.own_keys() == {} and ferry.table == ferry.usual
    assert "(Alt+H)" in ferry.transport.half.toolTip()


def test_no_two_commands_come_with_one_key(window: Window) -> None:
    assert window.usual.clashes() == []
    ids = [c.id for c in window.usual.commands]
    assert len(ids) == len(set(ids))
    # what is written as a key is one that Qt knows
    for c in window.usual.commands:
        assert name_of(QKeySequence(c.keys)) == c.keys


def test_pads_are_seen_taken_away_and_exchanged(
    ferry: Window, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setenv("MERVID_DATA", str(tmp_path / "data"))
    ferry.session.pads.load()
    page = opened(ferry, qtbot, "Pads").page
    assert isinstance(page, PadsPage)
    assert page.bindings.rowCount() == 19 and "not plugged in" in page.device.currentText()
    qtbot.mouseClick(page.board, LEFT)
    assert page.device.currentText() == "Pad board"
    assert ferry.board is not None
    # what is moved is chosen
    qtbot.keyClick(ferry.board.wheels[1], Qt.Key.Key_Up)
    qtbot.waitUntil(lambda: page.bindings.key_of(page.bindings.currentRow()) == Control(CONTROL, 1, 21))
    page.bindings.setCurrentCell(0, 0)
    qtbot.mouseClick(page.away, LEFT)
    assert ferry.session.pads.map_of("Pad board").at(Control(NOTE, 1, 36)) is None
    out = tmp_path / "map.toml"
    monkeypatch.setattr("PyQt6.QtWidgets.QFileDialog.getSaveFileName", lambda *a: (str(out), ""))
    qtbot.mouseClick(page.write, LEFT)
    text = out.read_text().replace("Pad board", "Quay Nine")
    assert len(pad_files.read(text).bindings) == 18
    out.write_text(text)
    monkeypatch.setattr("PyQt6.QtWidgets.QFileDialog.getOpenFileName", lambda *a: (str(out), ""))
    qtbot.mouseClick(page.take, LEFT)
    assert page.device.currentData() == "Quay Nine" and page.bindings.rowCount() == 18


def test_where_a_person_was_is_taken_up_again(ferry: Window, qtbot: QtBot) -> None:
    session = ferry.session
    ledger = put(ferry, "Salt Ledger")
    number = session.bookcase.lists.make(LIST, "Saturday")
    session.bookcase.lists.add(number, [ledger])
    session.shown.show(number)
    session.open(ledger)
    qtbot.waitUntil(lambda: session.player.duration > 30)
    session.player.seek(21.5)
    align(ferry).show_rows(4)
    ferry.ask("zoom", 0.7)
    span = align(ferry).closeup.span
    session.whereabouts.keep()
    kept = {key: stage.looks() for key, stage in ferry.stages.items()}
    QSettings().setValue("looks", json.dumps(kept))
    # as if it were started anew
    session.shown.show(0)
    session.open(next(t.id for t in session.library.tracks() if t.title == "Copper Ferry"))
    align(ferry).show_rows(1)
    align(ferry).closeup.zoom(2)
    ferry._look_so()
    session.whereabouts.take_up()
    assert session.shown.number == number and session.track.is_open(ledger)
    qtbot.waitUntil(lambda: session.player.position == pytest.approx(21.5))
    assert align(ferry).fold.bars == 4 and align(ferry).closeup.span == pytest.approx(span)
    # what is gone is passed over
    QSettings().setValue("left", json.dumps({"list": 999, "track": 999, "place": 3}))
    session.shown.show(0)
    session.whereabouts.take_up()
    assert session.shown.number == 0 and session.track.row is not None


def test_config_shows_where_all_lies(tmp_path: Path, capsys, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("MERVID_DATA", str(tmp_path / "data"))
    assert cli.main(["config"]) == 0
    assert f"{tmp_path / 'data' / 'library.sqlite'}   (not made yet)" in capsys.readouterr().out
    assert cli.main(["config", "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    assert told["places"]["maps of pads"] == str(tmp_path / "data" / "pads")
    assert not (tmp_path / "data" / "library.sqlite").exists()


def test_a_role_has_a_colour_of_ones_own(ferry: Window, qtbot: QtBot, tmp_path: Path) -> None:
    """Chosen, seen in a view at once, warned of where it can't be seen or told apart, there again, and reset."""
    ferry.ask("settings", "Cue colours")
    page = next(iter(ferry.findChildren(CueColoursPage)))
    before = role_inks(Theme.palette, "drop")[0].name()
    drawn = align(ferry).overview.grab().toImage()
    ferry.ask("cue", False)
    cue = ferry.session.track.preparation.cues[0]
    assert cue.role == "own"
    marked = align(ferry).overview.grab().toImage()
    assert marked != drawn
    page.set_colour("own", "#c71585")
    assert role_inks(Theme.palette, "own")[0].name() == "#c71585"
    assert align(ferry).overview.grab().toImage() != marked
    assert page.problems() == []
    page.set_colour("drop", Theme.palette.paper)
    assert "contrast with the background is 1.0:1" in page.warning.text()
    page.set_colour("drop", "#c71686")
    assert "Drop and own look alike" in page.warning.text() or "Own and drop look alike" in page.warning.text()
    assert settings.role_colours() == {"own": "#c71585", "drop": "#c71686"}
    qtbot.mouseClick(page.resets["drop"], LEFT)
    assert role_inks(Theme.palette, "drop")[0].name() == before
    # what a damaged file of settings says is passed over
    palette.use_role_colours({"drop": "no colour", "no role": "#112233"})
    assert role_inks(Theme.palette, "drop")[0].name() == before
    qtbot.mouseClick(page.all, LEFT)
    assert settings.role_colours() == {} and page.warning.text() == ""
    assert align(ferry).overview.grab().toImage() == marked


@pytest.mark.parametrize("kept", ["x" * 100_000, "/" + "x" * 300, "/a\0b", 17, ["a", "b"], b"\x01\xff", "", "here"])
def test_settings_that_nobody_wrote_stop_nothing(window: Window, kept: object) -> None:
    settings = QSettings()
    for key in ("stick", "straight", "export", "folder", "geometry"):
        settings.setValue(key, kept)
    place_as_kept(window)
    assert kept_folder("stick") is None and window.session.straightening.folder() is None
    window.session.delivering.look()


def test_a_folder_that_is_kept_is_taken(window: Window, tmp_path: Path) -> None:
    QSettings().setValue("export", str(tmp_path))
    assert kept_folder("export") == tmp_path
