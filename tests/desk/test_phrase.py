"""The Phrase stage in the real window, by mouse and keys, on a fake clock."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import QEvent, QPoint, QPointF, QRect, Qt
from PyQt6.QtGui import QWheelEvent
from PyQt6.QtWidgets import QApplication, QPushButton
from pytestqt.qtbot import QtBot

from mervid.core.cues import cue_edits, player_profile
from mervid.core.form import phrase_edits
from mervid.core.model.preparation import Preparation
from mervid.desk.views.phrase_ladder import PhraseLadder
from mervid.desk.window import Window
from tests.desk.conftest import FakeTime, align, phrase, put
from tests.desk.test_align import drag, mouse, press
from tests.desk.test_by_ear import pass_by


@pytest.fixture
def song(window: Window, qtbot: QtBot) -> Window:
    """Lamplighter, heard and open in Phrase."""
    window.session.open(put(window, "Lamplighter"))
    qtbot.mouseClick(window.header.tabs["phrase"], Qt.MouseButton.LeftButton)
    QApplication.processEvents()
    return window


def starts(window: Window) -> list[float]:
    form = window.session.track.form
    assert form is not None
    return [q.start for q in form.phrases]


Place = tuple[float, float]


def at(ladder: PhraseLadder, row: int, beat: float, *, down: float = 0.6) -> Place:
    """A place in a row of the ladder."""
    return ladder.x_of(row, beat), ladder.row_top(row) + down * ladder.row_height


def bars_on(ladder: PhraseLadder, place: Place, bars: float) -> Place:
    """So many bars to the right of a place."""
    return place[0] + bars * ladder.bar_width, place[1]


def test_the_ladder_has_a_row_a_phrase_and_a_click_goes_there(song: Window, qtbot: QtBot) -> None:
    ladder, grid = phrase(song).ladder, song.session.track.grid
    assert ladder.isVisible()
    assert phrase(song).panel.line.text() == "4-bar intro, choruses at 13, 29, 4-bar outro"
    assert [round(b) for b in ladder.bars] == [4, 8, 8, 8, 8, 4]
    mouse(ladder, QEvent.Type.MouseButtonPress, *at(ladder, 2, 60.0))
    mouse(ladder, QEvent.Type.MouseButtonRelease, *at(ladder, 2, 60.0))
    assert song.session.player.position == pytest.approx(float(grid.time_at(60.0)), abs=0.05)
    assert song.session.phrases.chosen == 2
    assert phrase(song).panel.phrase_heading.text().startswith("PHRASE 3 OF 6")
    assert phrase(song).panel.reason.text().startswith("Chorus")
    # up and down go from phrase to phrase, here and in the overview
    press(song, qtbot, "Down")
    assert song.session.player.position == pytest.approx(float(grid.time_at(starts(song)[3])))
    press(song, qtbot, "Ctrl+Left")
    assert song.session.player.position == pytest.approx(float(grid.time_at(starts(song)[2])))
    assert phrase(song).overview.form is song.session.track.form
    assert song.transport.to_phrase.text() == "8.0"


def test_a_boundary_is_dragged_by_bars_and_undone(song: Window, qtbot: QtBot) -> None:
    ladder, before = phrase(song).ladder, starts(song)
    end = at(ladder, 1, before[2])
    drag(ladder, end, bars_on(ladder, end, -2.1))
    assert starts(song) == [*before[:2], before[2] - 8, *before[3:]]
    assert song.session.track.undo_name == "Move a phrase's beginning"
    press(song, qtbot, "Ctrl+Z")
    assert starts(song) == before
    # Escape lets go
    mouse(ladder, QEvent.Type.MouseButtonPress, *end)
    mouse(ladder, QEvent.Type.MouseMove, *bars_on(ladder, end, -3))
    qtbot.keyClick(ladder, Qt.Key.Key_Escape)
    mouse(ladder, QEvent.Type.MouseButtonRelease, *bars_on(ladder, end, -3))
    assert starts(song) == before
    # never so far that a phrase has no bar left
    drag(ladder, end, bars_on(ladder, end, -40))
    assert starts(song)[2] == before[1] + 4
    # it becomes part of the one before while it is held: the hand holds nothing
    press(song, qtbot, "Ctrl+Z")
    last = len(before) - 1
    end = at(ladder, last - 1, before[last])
    mouse(ladder, QEvent.Type.MouseButtonPress, *end)
    mouse(ladder, QEvent.Type.MouseMove, *bars_on(ladder, end, -2))
    press(song, qtbot, "Backspace")
    left = starts(song)
    mouse(ladder, QEvent.Type.MouseMove, *bars_on(ladder, end, -3))
    mouse(ladder, QEvent.Type.MouseButtonRelease, *bars_on(ladder, end, -3))
    assert not ladder.dragging and starts(song) == left == before[:last]


def test_split_merge_role_letter_and_as_heard_by_key(song: Window, qtbot: QtBot) -> None:
    before, grid = starts(song), song.session.track.grid
    song.session.player.seek(float(grid.time_at(before[1] + 17)))
    press(song, qtbot, "B")
    assert starts(song) == [*before[:2], before[1] + 16, *before[2:]]
    assert song.session.phrases.chosen == 2
    press(song, qtbot, "R")
    assert song.session.track.form.phrases[2].role == "chorus"
    # a choice that Tab has reached has the arrow keys
    phrase(song).panel.role.setFocus()
    qtbot.keyClick(phrase(song).panel.role, Qt.Key.Key_Down)
    assert song.session.track.form.phrases[2].role == "break"
    assert song.session.phrases.chosen == 2
    press(song, qtbot, "Shift+R")
    press(song, qtbot, "Alt+R")
    assert song.session.track.form.phrases[2].letter != song.session.track.form.phrases[1].letter
    press(song, qtbot, "Alt+Left")
    assert starts(song)[2] == before[1] + 12
    press(song, qtbot, "Backspace")
    assert starts(song) == before
    press(song, qtbot, "F")
    assert song.session.track.preparation.form is None
    for _ in range(8):
        press(song, qtbot, "Ctrl+Z")
    assert song.session.track.undo_name is None
    assert starts(song) == before


def test_the_key_of_the_music_goes_up_from_a_phrase_on(song: Window, qtbot: QtBot) -> None:
    ladder, track, panel = phrase(song).ladder, song.session.track, phrase(song).panel

    def raised() -> list[int]:
        assert track.form is not None
        return [q.raised for q in track.form.phrases]

    assert raised() == [0] * 6
    mouse(ladder, QEvent.Type.MouseButtonPress, *at(ladder, 4, starts(song)[4] + 8))
    mouse(ladder, QEvent.Type.MouseButtonRelease, *at(ladder, 4, starts(song)[4] + 8))
    before = ladder.grab().toImage()
    press(song, qtbot, "=")
    assert raised() == [0, 0, 0, 0, 1, 1]
    assert panel.line.text() == "4-bar intro, choruses at 13, 29, a semitone up at 29, 4-bar outro"
    assert panel.reason.text().endswith("The key here: a semitone up from the beginning.")
    # its mark stands beside the role of each raised row
    changed = ladder.grab().toImage()
    role = QRect(38, 2, 76, 22)
    places = [role.translated(0, int(ladder.row_top(row))) for row in range(6)]
    assert [before.copy(place) != changed.copy(place) for place in places] == [False] * 4 + [True] * 2
    press(song, qtbot, "-")
    press(song, qtbot, "-")
    assert raised() == [0, 0, 0, 0, -1, -1]
    for _ in range(3):
        press(song, qtbot, "Ctrl+Z")
    assert raised() == [0] * 6 and track.preparation.form is None
    press(song, qtbot, "Home")
    press(song, qtbot, "Up")
    press(song, qtbot, "=")
    assert raised() == [0] * 6 and "choose a later one" in song.note.text.text()


def test_a_line_of_words_is_kept_on_the_way_to_another_stage(song: Window, qtbot: QtBot) -> None:
    press(song, qtbot, "Shift+W")
    line = phrase(song).panel.line
    assert line.hasFocus()
    qtbot.keyClicks(line, "mind the break")
    qtbot.keySequence(line, "F5")
    assert song.seen == "rehearse" and song.session.track.preparation.line == "mind the break"
    # and while another track is opened: it is of the one it was typed for
    press(song, qtbot, "F4")
    s, first = song.session, song.session.track.row.id
    ferry = put(song, "Copper Ferry")
    press(song, qtbot, "Shift+W")
    qtbot.keyClicks(line, "quiet end")
    s.open(ferry)
    assert s.track.row.id == ferry and s.track.preparation.line == "" and line.text() != "quiet end"
    qtbot.keyClick(line, Qt.Key.Key_Return)
    assert s.track.preparation.line == "" and s.library.history(first).preparation.line == "quiet end"


def test_bars_count_from_the_drop(song: Window, qtbot: QtBot) -> None:
    press(song, qtbot, "O")
    assert "No phrase here is a drop" in song.note.text.text()
    song.session.phrases.choose(2)
    phrase(song).panel.role.textActivated.emit("drop")
    qtbot.mouseClick(phrase(song).panel.counting["drop"], Qt.MouseButton.LeftButton)
    song.session.player.seek(float(song.session.track.grid.time_at(starts(song)[2] - 4)))
    assert song.transport.place.text() == "-1.1"
    song.go_to_stage("align")
    assert align(song).fold._name(0) == str(-int(starts(song)[2] // 4))
    song.go_to_stage("phrase")
    assert song.transport.to_phrase.text() == "1.0"
    song.session.player.seek(float(song.session.track.grid.time_at(starts(song)[2])))
    assert song.transport.place.text() == "1.1"
    press(song, qtbot, "O")
    assert song.session.track.preparation.origin is None


def test_number_keys_set_cues_while_playing_and_hit_them_on_the_beat(
    song: Window, qtbot: QtBot, clock: FakeTime
) -> None:
    grid, player = song.session.track.grid, song.session.player
    chorus = starts(song)[2]
    player.seek(float(grid.time_at(chorus - 2)))
    player.play()
    pass_by(song, clock, float(grid.time_at(chorus)) - player.position + 0.04)
    press(song, qtbot, "3")
    (cue,) = song.session.track.preparation.cues
    assert (cue.beat, cue.slot, cue.role, cue.name) == (chorus, 2, "chorus", "Chorus")
    pass_by(song, clock, 9.3)
    beat = float(grid.beat_at(player.position))
    press(song, qtbot, "3")
    clock.now += 0.0
    player.tick()
    here = float(grid.beat_at(player.position))
    assert (here - beat) == pytest.approx(round(here - beat), abs=0.02), "the beat goes on"
    assert abs(here - chorus) < 0.55
    assert player.playing
    # a standby cue, and one set anywhere
    player.pause()
    player.seek(float(grid.time_at(chorus + 33.3)))
    press(song, qtbot, "Alt+C")
    song.ask("snap", cue_edits.HALF)
    press(song, qtbot, "Shift+3")
    kinds = sorted((c.kind, c.beat) for c in song.session.track.preparation.cues)
    assert kinds == [("hot", chorus + 33.5), ("standby", chorus + 32)]
    assert song.transport.to_cue.text() == "0.1"


def test_cues_are_moved_renamed_and_looped(song: Window, qtbot: QtBot) -> None:
    ladder, panel, grid = phrase(song).ladder, phrase(song).panel, song.session.track.grid
    verse = starts(song)[1]
    song.session.track.apply(cue_edits.add_cue, float(grid.time_at(verse)), name="In")
    flag = (ladder.x_of(1, verse) + 8, ladder.row_top(1) + 7)
    drag(ladder, flag, bars_on(ladder, flag, 4.2))
    (cue,) = song.session.track.preparation.cues
    assert cue.beat == verse + 16
    assert song.session.phrases.cue_id == cue.id
    panel.kind.textActivated.emit("both")
    panel.slot.activated.emit(6)
    panel.loop.activated.emit(cue_edits.LOOPS.index(4))
    panel.cue_role.textActivated.emit("vocal")
    (cue,) = song.session.track.preparation.cues
    assert (cue.kind, cue.slot, cue.bars, cue.role) == ("both", 6, 4, "vocal")
    assert panel.seam.text().startswith("seam ")
    qtbot.mouseClick(panel.hear, Qt.MouseButton.LeftButton)
    assert song.session.player.program.loop == pytest.approx(cue_edits.loop_of(song.session.track.preparation, cue))
    song.session.player.pause()
    panel.cues.item(0, 1).setText("Voice in")
    assert song.session.track.preparation.cues[0].name == "Voice in"
    panel.cues.item(0, 1).setText("  ")
    assert "needs a name" in song.note.text.text()
    assert panel.cues.item(0, 1).text() == "Voice in"
    panel.cues.setFocus()
    panel.cues.setCurrentCell(0, 1)
    qtbot.keyClick(panel.cues, Qt.Key.Key_Delete)
    assert not song.session.track.preparation.cues


def test_a_recipe_is_previewed_edited_applied_and_saved(song: Window, qtbot: QtBot, tmp_path: Path) -> None:
    state, editor, panel = song.session.recipes, phrase(song).editor, phrase(song).panel
    state.folder = tmp_path / "recipes"
    panel.recipes.activated.emit(1)
    press(song, qtbot, "Q")
    assert editor.isVisible()
    assert [r.rule.where for r in editor.rows][3] == "each chorus"
    assert {c.role for c in phrase(song).ladder.ghosts} >= {"first beat", "chorus", "outro"}
    assert editor.rows[3].outcome.toolTip() == "bar 13, 29"
    row = editor.rows[3]
    row.where.setCurrentText("each corus")
    row.where.lineEdit().editingFinished.emit()
    assert "not understood" in row.outcome.toolTip()
    assert state.recipe.rules[3].where == "each chorus"
    row.where.setCurrentText("4 bars before the first chorus")
    row.where.lineEdit().editingFinished.emit()
    assert state.recipe.rules[3].where == "4 bars before the first chorus"
    assert editor.rows[3].outcome.toolTip() == "bar 9"
    assert state.at == -1
    editor.name.setText("Mine")
    save = next(b for b in editor.findChildren(QPushButton) if b.text() == "Save")
    qtbot.mouseClick(save, Qt.MouseButton.LeftButton)
    assert (tmp_path / "recipes" / "Mine.toml").exists()
    assert panel.recipes.currentText() == "Mine (own)"
    press(song, qtbot, "A")
    assert {c.recipe for c in song.session.track.preparation.cues} == {"Mine"}
    press(song, qtbot, "Ctrl+Z")
    assert not song.session.track.preparation.cues
    broken = tmp_path / "broken.toml"
    broken.write_text('name = "x"\n\n[[rule]]\nwhat = "drop"\nwhere = "yonder"\n')
    song.stages["phrase"].recipes.open_recipe(broken)
    assert "broken.toml: Line 5, rule 1: where = 'yonder' is not understood" in song.note.text.text()


def test_a_broken_file_among_ones_own_recipes_is_named_until_it_is_mended(
    song: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    state, unread = song.session.recipes, phrase(song).panel.unread
    state.folder = tmp_path / "own recipes"
    state.folder.mkdir()
    path = state.folder / "broken.toml"
    path.write_text('name = "Mine"\nrules = 3\n')
    assert not unread.isVisible()
    song.ask("recipe-page")
    assert unread.isVisible()
    assert (
        unread.text() == "Left out: broken.toml: Line 2: 'rules' is no field of a recipe: name, about, sure, [[rule]]."
    )
    song.ask("recipe-page")
    path.write_text('name = "Mine"\n[[rule]]\nwhat = "drop"\nwhere = "the drop"\nas = "hot"\n')
    song.ask("recipe-page")
    assert not unread.isVisible()
    assert state.names[-1] == "Mine (own)"


def test_the_player_that_stands_in(song: Window, qtbot: QtBot, clock: FakeTime) -> None:
    page, grid = phrase(song).gear, song.session.track.grid
    for k, role in ((0, "first beat"), (1, "verse"), (2, "chorus"), (4, "drop")):
        song.session.track.apply(cue_edits.add_cue, float(grid.time_at(starts(song)[k])), role=role)
    song.session.track.apply(cue_edits.set_kind, song.session.track.preparation.cues[1].id, "both")
    press(song, qtbot, "Alt+Q")
    assert page.isVisible()
    assert page.warning.text() == "Every cue is there on this player."
    qtbot.mouseClick(page.gears.button(1), Qt.MouseButton.LeftButton)
    assert song.session.phrases.gear == player_profile.THREE
    assert "The drop would be lost" in page.warning.text()
    assert [b.isVisible() for b in page.slots] == [True] * 3 + [False] * 5
    qtbot.mouseClick(page.gears.button(2), Qt.MouseButton.LeftButton)
    assert "three are not kept as standby cues" in page.warning.text()
    qtbot.mouseClick(page.add, Qt.MouseButton.LeftButton)
    assert page.warning.text() == "Every cue is there on this player."
    assert not page.add.isEnabled()
    # played: it waits at the first standby cue, steps on, and counts down
    qtbot.mouseClick(page.load, Qt.MouseButton.LeftButton)
    assert song.session.player.position == pytest.approx(float(grid.time_at(starts(song)[0])))
    qtbot.mouseClick(page.on, Qt.MouseButton.LeftButton)
    assert song.session.player.position == pytest.approx(float(grid.time_at(starts(song)[1])))
    assert (page.count.text(), page.count_words.text()) == ("8.0", "until Chorus")
    qtbot.mouseClick(page.go, Qt.MouseButton.LeftButton)
    pass_by(song, clock, float(grid.time_at(starts(song)[2] - 5.5)) - song.session.player.position)
    assert page.count.text() == "1.2"
    qtbot.mouseClick(page.gears.button(0), Qt.MouseButton.LeftButton)
    qtbot.mouseClick(page.slots[3], Qt.MouseButton.LeftButton)
    song.session.player.tick()
    assert abs(float(grid.beat_at(song.session.player.position)) - starts(song)[4]) <= 0.51
    assert song.session.player.playing


def test_a_skip_is_heard_on_the_beat(song: Window, qtbot: QtBot, clock: FakeTime) -> None:
    grid, player = song.session.track.grid, song.session.player
    leave, enter = starts(song)[2], starts(song)[4]
    press(song, qtbot, "J")
    assert "16 bars are left out" in song.note.text.text()
    assert player.program.skip == pytest.approx((float(grid.time_at(leave)), float(grid.time_at(enter))))
    assert float(grid.beat_at(player.position)) == pytest.approx(leave - 8)
    assert phrase(song).ladder.left_out == pytest.approx((leave, enter))
    lead = float(grid.time_at(leave)) - player.position
    assert pass_by(song, clock, lead - 0.01) == pytest.approx(float(grid.time_at(leave)) - 0.01, abs=1e-3)
    assert pass_by(song, clock, 0.51) == pytest.approx(float(grid.time_at(enter)) + 0.5, abs=1e-3)
    # what is changed afterwards does not skip again
    song.transport.click.setChecked(True)
    assert pass_by(song, clock, 0.5) == pytest.approx(float(grid.time_at(enter)) + 1.0, abs=1e-3)
    player.seek(3.0)
    assert phrase(song).ladder.left_out is None
    press(song, qtbot, "Shift+Q")
    assert phrase(song).skips.rows[0][0].isVisible()


def test_locked_tracks_refuse_and_keep_their_phrases(song: Window, qtbot: QtBot) -> None:
    before = song.session.track.form
    press(song, qtbot, "Ctrl+L")
    assert song.session.track.preparation.form == before, "what was locked stays, whatever is heard later"
    for key in ("B", "R", "A", "C", "3"):
        song.note.hide()
        press(song, qtbot, key)
        assert "locked" in song.note.text.text(), key
    end = at(phrase(song).ladder, 1, starts(song)[2])
    drag(phrase(song).ladder, end, bars_on(phrase(song).ladder, end, -2))
    assert song.session.track.form == before


def test_keys_of_the_other_stage_say_where_they_belong(song: Window, qtbot: QtBot) -> None:
    grid = song.session.track.grid
    press(song, qtbot, "Z")
    assert song.note.text.text().startswith("In Align, Z is:")
    assert song.session.track.grid == grid
    press(song, qtbot, "F3")
    assert align(song).isVisible()
    song.run(next(c for c in song.table.commands if c.name == "merge"))
    assert phrase(song).isVisible()


def test_an_empty_library_and_a_track_without_beats(window: Window, qtbot: QtBot) -> None:
    assert not window.header.tabs["phrase"].isEnabled()
    press(window, qtbot, "F4")
    press(window, qtbot, "B")
    track = put(window, "Lamplighter")
    window.session.open(track)
    assert phrase(window).isVisible()
    window.session.library.edit(track, "x", Preparation())
    window.session.open(track)
    assert "no bars yet" in phrase(window).ladder.message
    for key in ("B", "Backspace", "R", "Alt+R", "O", "A", "J", "Q", "Alt+Q", "Up", "Alt+C", "3"):
        press(window, qtbot, key)
    assert window.session.track.preparation.cues == ()


def test_the_form_is_read_in_time_and_hands_survive_a_better_grid(song: Window, qtbot: QtBot) -> None:
    p = song.session.track.preparation
    times = [float(p.grid.time_at(b)) for b in starts(song)]
    song.ask("role", "intro")
    song.session.offers.use("follow")
    qtbot.waitUntil(lambda: song.session.track.undo_name == "Follow the recording")
    assert song.session.track.preparation.form is not None
    followed = [float(song.session.track.grid.time_at(b)) for b in starts(song)]
    assert np.abs(np.array(followed) - times).max() < 0.08
    assert phrase_edits.bars_in(song.session.track.grid, song.session.track.form) == [4, 8, 8, 8, 8, 4]


def test_the_ladder_tells_scrolls_and_asks(song: Window, qtbot: QtBot) -> None:
    """The mouse over a row, the wheel, the right button, and a beginning held at its own left edge."""
    ladder, before = phrase(song).ladder, starts(song)
    told: list[str] = []
    asked: list[int] = []
    ladder.hovered.connect(told.append)
    ladder.menu_wanted.disconnect()
    ladder.menu_wanted.connect(lambda row, _: asked.append(row))
    over = at(ladder, 2, before[2] + 9)
    mouse(ladder, QEvent.Type.MouseMove, *over)
    assert told[-1].endswith("chorus C, bar 3, 6 to go")
    mouse(ladder, QEvent.Type.MouseMove, over[0], 2.0)
    assert told[-1] == ""
    for place, shape in (
        (at(ladder, 1, before[2]), Qt.CursorShape.SplitHCursor),
        (over, Qt.CursorShape.ArrowCursor),
    ):
        mouse(ladder, QEvent.Type.MouseMove, *place)
        assert ladder.cursor().shape() == shape
    qtbot.mouseClick(ladder, Qt.MouseButton.RightButton, pos=QPoint(*(round(v) for v in at(ladder, 3, before[3] + 4))))
    assert asked == [3] and song.session.phrases.chosen == 3
    # at its own left edge a beginning moves to the right, in its own row
    edge = at(ladder, 2, before[2])
    drag(ladder, edge, bars_on(ladder, edge, 2.1))
    assert starts(song) == [*before[:2], before[2] + 8, *before[3:]]
    # where rows don't fit the wheel moves them, and what is chosen comes into sight
    ladder.setFixedHeight(150)
    QApplication.processEvents()
    assert ladder.row_top(5) > ladder.height()
    for delta in (-120, -120, -1200):
        wheel = QWheelEvent(
            QPointF(200, 60), QPointF(200, 60), QPoint(), QPoint(0, delta), Qt.MouseButton.NoButton,
            Qt.KeyboardModifier.NoModifier, Qt.ScrollPhase.NoScrollPhase, False,
        )  # fmt: skip
        QApplication.sendEvent(ladder, wheel)
    assert ladder.row_top(5) + ladder.row_height <= ladder.height()
    ladder.show_row(0)
    assert ladder.offset == 0.0
