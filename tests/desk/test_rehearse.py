"""Rehearse in the real window, by mouse and keys, on a fake clock."""

from __future__ import annotations

import json
import re
from pathlib import Path

import attrs
import numpy as np
import pytest
import soundfile
from PyQt6.QtCore import QEvent, Qt
from PyQt6.QtWidgets import QApplication, QFileDialog, QPushButton
from pytestqt.qtbot import QtBot

from mervid.core.edits import grid_edits
from mervid.core.model.beatgrid import Grid, Pin
from mervid.core.model.preparation import LOCKED
from mervid.core.pairs.meeting import GLIDE, STEADY
from mervid.core.pairs.tying import Tie
from mervid.core.rendering.duet import COMING, Duet
from mervid.desk.stages.rehearse.list_page import BELOW
from mervid.desk.stages.rehearse.stage import RehearseStage
from mervid.desk.stages.rehearse.surface import LIST, RehearseSurface
from mervid.desk.window import Window
from mervid.store import lists
from tests.desk.conftest import FakeTime, put
from tests.desk.test_align import drag, mouse, press


def rehearse(window: Window) -> RehearseSurface:
    """What the stage shows."""
    stage = window.stages["rehearse"]
    assert isinstance(stage, RehearseStage)
    return stage.view


def met(window: Window, qtbot: QtBot) -> None:
    """Wait until both are read and the player has them."""
    s = window.session
    qtbot.waitUntil(lambda: s.pairing.judged is not None and s.player.program is not None)


@pytest.fixture
def pair(window: Window, qtbot: QtBot) -> Window:
    """Copper Ferry leaves and Slack Water comes, both heard; a third track lies in the library."""
    ferry, water = put(window, "Copper Ferry"), put(window, "Slack Water")
    put(window, "Night Barge")
    window.session.open(ferry)
    qtbot.mouseClick(window.header.tabs["rehearse"], Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: window.session.pairing.leaving is not None)
    window.session.open(water)
    met(window, qtbot)
    return window


def middle(window: Window) -> float:
    """How far apart the two are in the middle, as it is drawn, ms."""
    judged = rehearse(window).line.judged
    assert judged is not None
    return float(np.median(judged.line.apart))


def types(window: Window, qtbot: QtBot, *texts: str) -> None:
    """Fill in the line of values and press Enter."""
    edits = rehearse(window).values.edits
    for edit, text in zip(edits, texts, strict=True):
        edit.setText(text)
    qtbot.keyClick(edits[0], Qt.Key.Key_Return)


def test_a_pair_is_chosen_laid_and_judged(pair: Window, qtbot: QtBot) -> None:
    s, view = pair.session, rehearse(pair)
    assert s.pairing.leaving_row is not None and s.pairing.leaving_row.title == "Copper Ferry"
    best = s.pairing.proposals[0]
    assert s.pairing.meeting == best.meeting
    assert [name.text() for name in view.panel.names] == ["Copper Ferry", "Slack Water"]
    assert "sure" in view.panel.verdict.text() and "Foretold" in view.panel.details.text()
    assert (
        view.fold.together is not None and view.line.judged is s.pairing.judged and view.zipper.meeting == best.meeting
    )
    assert len(view.panel.place_rows) == 3 and view.panel.place_rows[0][1].mark.text() == "●"
    # the player has both as one, and stands some bars before the meeting
    program = s.player.program
    assert program is not None and isinstance(program.samples, Duet)
    assert 4 < s.pairing.judged.together.start - s.player.position < 12  # type: ignore[union-attr]
    # a proposal is taken by its row, or by its key, and every step is taken back
    qtbot.mouseClick(view.panel.place_rows[1][1], Qt.MouseButton.LeftButton)
    assert s.pairing.meeting == s.pairing.proposals[1].meeting
    press(pair, qtbot, "P")
    assert s.pairing.meeting == s.pairing.proposals[2].meeting
    press(pair, qtbot, "Ctrl+Z")
    press(pair, qtbot, "Ctrl+Z")
    assert s.pairing.meeting == best.meeting and s.pairing.names() == (None, "Meet there")
    press(pair, qtbot, "Ctrl+Shift+Z")
    assert s.pairing.meeting == s.pairing.proposals[1].meeting
    # leaving the stage gives the open track back
    press(pair, qtbot, "F3")
    assert s.player.program is not None and s.player.program.samples is s.track.samples
    assert pair.session.track.undo_name is None, "nothing was done to a track"


def test_what_parts_on_fixed_tempo_is_straightened_in_deliver(pair: Window, qtbot: QtBot) -> None:
    panel = pair.stages["rehearse"].view.panel  # type: ignore[attr-defined]
    judged = pair.session.pairing.judged
    assert judged is not None
    remark = next(r for r in judged.remarks if r.straighten is not None)
    # of the two the one that wanders more
    assert remark.straighten is pair.session.pairing.leaving and remark.straighten.title == "Copper Ferry"
    wanted = f"Straighten {remark.straighten.title}"
    button = next(b for b in panel.findChildren(QPushButton) if b.text() == wanted)
    qtbot.mouseClick(button, Qt.MouseButton.LeftButton)
    assert pair.seen == "deliver" and pair.stages["deliver"].place == "straight"
    assert pair.session.track.row is not None and pair.session.track.row.title == "Copper Ferry"


def test_it_plays_is_nudged_and_the_nudge_is_kept(pair: Window, qtbot: QtBot, clock: FakeTime) -> None:
    s, view = pair.session, rehearse(pair)
    press(pair, qtbot, "G")
    press(pair, qtbot, "Space")
    clock.now += 11.0
    s.player.tick()
    t = s.pairing.judged.together  # type: ignore[union-attr]
    assert t.start < s.player.position < t.stop
    assert pair.transport.tempo.text().startswith("11")
    # heard at once, and no gap: it plays on from where it was
    place, before_it = s.player.position, middle(pair)
    for key in ("Shift+.", ".", ","):
        press(pair, qtbot, key)
    assert s.pairing.meeting.nudge == 10.0 and s.player.playing  # type: ignore[union-attr]
    assert s.player.now() == pytest.approx(place, abs=0.05)
    assert s.player.program.samples.coming.mix[0] == pytest.approx(float(t.coming.mix[0]) + 0.01)  # type: ignore[union-attr]
    assert view.panel.nudge.text() == "+10 ms"
    # seen as two: the line has moved by as much
    assert middle(pair) == pytest.approx(before_it + 10.0)
    # a remark says so, and its button mends it
    rows = [view.panel.remarks.itemAt(i).widget() for i in range(view.panel.remarks.count())]  # type: ignore[union-attr]
    found = [b for row in rows if row is not None for b in row.findChildren(QPushButton)]
    (button,) = (b for b in found if b.text().startswith("Nudge it by"))
    qtbot.mouseClick(button, Qt.MouseButton.LeftButton)
    assert abs(middle(pair)) < 3.0
    press(pair, qtbot, "Backspace")
    press(pair, qtbot, "Shift+.")
    # into the grid of the coming track: heard the same, by an edit of that track
    before = s.track.grid
    press(pair, qtbot, "Shift+U")
    assert s.pairing.meeting.nudge == 0.0 and s.track.undo_name == "Slide grid"  # type: ignore[union-attr]
    assert s.track.preparation == grid_edits.slide(
        s.library.first(s.track.row.id),
        -10.0,  # type: ignore[union-attr]
    )
    assert before is not None
    assert middle(pair) == pytest.approx(before_it + 10.0, abs=1.0)
    press(pair, qtbot, "Space")


def test_the_coming_track_is_pushed_by_hand_in_the_fold(pair: Window, qtbot: QtBot) -> None:
    s, fold = pair.session, rehearse(pair).fold
    x, y = fold.place_of(s.pairing.meeting.at + 1.0)  # type: ignore[union-attr]
    wide = fold._columns() / 4.0
    drag(fold, (x, y + 2), (x + wide / 10, y + 2))
    # a tenth of a beat of some 520 ms
    assert s.pairing.meeting.nudge == pytest.approx(52, abs=6)  # type: ignore[union-attr]
    nudged = s.pairing.meeting
    mouse(fold, QEvent.Type.MouseButtonPress, x, y + 2)
    mouse(fold, QEvent.Type.MouseMove, x + wide / 4, y + 2)
    assert fold.together is not s.pairing.judged.together  # type: ignore[union-attr]
    qtbot.keyClick(fold, Qt.Key.Key_Escape)
    assert s.pairing.meeting == nudged and fold.together is s.pairing.judged.together  # type: ignore[union-attr]
    # a click goes there
    mouse(fold, QEvent.Type.MouseButtonPress, x, y + 2)
    mouse(fold, QEvent.Type.MouseButtonRelease, x, y + 2)
    clock = s.pairing.judged.together.clock  # type: ignore[union-attr]
    assert s.player.position == pytest.approx(float(clock.time_at(nudged.at + 1.0)), abs=0.02)  # type: ignore[union-attr]
    # the pair goes while it is held: the hand holds nothing
    (new,) = s.catalogue.add([Path(__file__)])
    mouse(fold, QEvent.Type.MouseButtonPress, x, y + 2)
    s.open(new)
    qtbot.waitUntil(lambda: s.pairing.judged is None and fold.together is None)
    mouse(fold, QEvent.Type.MouseMove, x + wide / 4, y + 2)
    mouse(fold, QEvent.Type.MouseButtonRelease, x + wide / 4, y + 2)
    assert not fold.dragging and s.pairing.meeting is None


def strayed(window: Window, track_id: int, beat: float, ms: float) -> None:
    """Let the fitted grid of a track stray at a beat, as if that had been heard wrongly."""
    s = window.session
    p = s.library.history(track_id).preparation
    assert p.grid is not None
    far = [q for q in p.grid.pins if abs(q.beat - beat) > 8]
    pins = [*far, *(Pin(float(p.grid.time_at(b)), b) for b in (beat - 8, beat + 8))]
    pins.append(Pin(float(p.grid.time_at(beat)) + ms / 1000, beat))
    grid = Grid(tuple(sorted(pins, key=lambda q: q.beat)), p.grid.meter)
    s.catalogue.edit(track_id, "Stray", attrs.evolve(p, grid=grid))


@pytest.mark.parametrize("coming", [False, True])
def test_where_they_part_the_grid_that_strays_is_pulled(pair: Window, qtbot: QtBot, coming: bool) -> None:
    s, view = pair.session, rehearse(pair)
    key = s.pairing.key
    assert key is not None

    def offered(words: str) -> QPushButton:
        def seen() -> list[QPushButton]:
            return [b for b in view.panel.findChildren(QPushButton) if b.isVisible() and re.fullmatch(words, b.text())]

        qtbot.waitUntil(lambda: len(seen()) == 1)
        return seen()[0]

    # both are counted by one tempo yet, which neither keeps
    for title in ("Slack Water", "Copper Ferry"):
        (remark,) = (r for r in s.pairing.judged.remarks if r.follow is not None)  # type: ignore[union-attr]
        assert remark.text.startswith("They part at bar ") and remark.follow.title == title  # type: ignore[union-attr]
        qtbot.mouseClick(offered("Let it follow the recording"), Qt.MouseButton.LeftButton)
        assert pair.note.text.text() == f"The grid of {title} follows its recording."
        qtbot.waitUntil(lambda r=remark: r not in s.pairing.judged.remarks)  # type: ignore[misc,union-attr]
    m = s.pairing.meeting
    assert m is not None
    whole = s.pairing.judged.line.worst  # type: ignore[union-attr]
    press(pair, qtbot, "F3")
    strayed(pair, key[coming], (m.enter if coming else m.at) + 40.0, 45.0)
    if coming:
        s.track.reread()
    press(pair, qtbot, "F5")
    qtbot.waitUntil(lambda: s.pairing.judged is not None and s.pairing.judged.line.worst > 30)  # type: ignore[operator]
    met(pair, qtbot)
    # seen, found, and gone to
    title = "Slack Water" if coming else "Copper Ferry"
    assert any(f"{title} is heard" in r.text for r in s.pairing.judged.remarks)  # type: ignore[union-attr]
    torn = s.pairing.judged.line  # type: ignore[union-attr]
    s.player.seek(0.0)
    press(pair, qtbot, "J")
    assert s.player.position == pytest.approx(torn.times[np.abs(torn.apart) > torn.forgiven][0], abs=0.02)

    def mended() -> bool:
        worst = s.pairing.judged.line.worst if s.pairing.judged is not None else None
        return worst is not None and worst < max(6.0, 1.5 * whole)

    # by its button, by the hand and by a key: each is one edit of that track, and taken back here
    before = s.library.history(key[coming]).preparation
    x, y = view.fold.place_of(m.at + 40.0)
    ms = view.fold._ms_per_px(m.at + 40.0)
    half = y + view.fold.row_height * (0.75 if coming else 0.25)

    def by_hand() -> None:
        mouse(view.fold, QEvent.Type.MouseButtonPress, x - 45 / ms, half, shift=True)
        mouse(view.fold, QEvent.Type.MouseMove, x - 20 / ms, half, shift=True)
        mouse(view.fold, QEvent.Type.MouseMove, x, half, shift=True)
        assert view.fold.together is not s.pairing.judged.together  # type: ignore[union-attr]
        mouse(view.fold, QEvent.Type.MouseButtonRelease, x, half, shift=True)

    def by_key() -> None:
        s.player.seek(float(s.pairing.judged.together.clock.time_at(m.at + 40.0)))  # type: ignore[union-attr]
        press(pair, qtbot, "F")

    def by_button() -> None:
        qtbot.mouseClick(offered("Pull it onto its thread, bar 1[01]"), Qt.MouseButton.LeftButton)

    for act in (by_button, by_hand, by_key):
        act()
        qtbot.waitUntil(mended)
        assert s.library.history(key[coming]).undo == "Pull onto its thread" and s.pairing.meeting == m
        assert title in pair.note.text.text() and re.search(
            r"bar 1[01] of the overlap moved by −", pair.note.text.text()
        )
        press(pair, qtbot, "Ctrl+Z")
        qtbot.waitUntil(lambda: not mended())
        assert s.library.history(key[coming]).preparation == before
    press(pair, qtbot, "Ctrl+Shift+Z")
    qtbot.waitUntil(mended)
    # what was edited since can't be taken back from here
    s.catalogue.edit(key[coming], "Other", before)
    press(pair, qtbot, "Ctrl+Z")
    assert f"{title} was edited since" in pair.note.text.text()


def test_a_locked_track_is_not_pulled(pair: Window, qtbot: QtBot) -> None:
    s = pair.session
    s.track.set_readiness(LOCKED)
    before = s.track.preparation
    tie = Tie(True, 24.0, float(before.grid.time_at(24.0)) + 0.02, 20.0, 6)  # type: ignore[union-attr]
    rehearse(pair).panel.asked.emit("pull", tie)
    assert "locked" in pair.note.text.text() and s.track.preparation == before and s.pairing.names()[0] is None


def test_the_zipper_slides_by_bars_and_the_line_takes_what_is_typed(pair: Window, qtbot: QtBot) -> None:
    s, zipper = pair.session, rehearse(pair).zipper
    begun = s.pairing.meeting
    assert begun is not None
    right = zipper._columns()[1].center().x()
    middle = zipper.y_of(2.0)
    drag(zipper, (right, middle), (right, middle - 4 * zipper._bar_height))
    assert s.pairing.meeting is not None and s.pairing.meeting.enter == begun.enter + 16
    end = zipper.y_of(begun.bars)
    drag(zipper, (right, end), (right, end - 8 * zipper._bar_height))
    assert s.pairing.meeting.bars == begun.bars - 8
    # beyond the track nothing happens, and it is said why
    drag(zipper, (right, middle), (right, middle + 300))
    assert s.pairing.meeting.enter == begun.enter + 16
    assert "outside the coming track" in pair.note.text.text() or "ends" in pair.note.text.text()
    press(pair, qtbot, "T")
    types(pair, qtbot, "17", "intro", "8")
    assert (s.pairing.meeting.at, s.pairing.meeting.enter, s.pairing.meeting.bars) == (64.0, 0.0, 8)
    press(pair, qtbot, "T")
    types(pair, qtbot, "the moon", "intro", "8")
    assert "is no place in Copper Ferry" in pair.note.text.text() and rehearse(pair).values.isVisible()
    qtbot.keyClick(rehearse(pair).values.edits[0], Qt.Key.Key_Escape)
    press(pair, qtbot, "]")
    assert s.pairing.meeting.bars == 16
    press(pair, qtbot, "Ctrl+Right")
    assert s.pairing.meeting.enter == s.pairing.coming.phrases[1].start  # type: ignore[union-attr]


def test_clocks_pitch_fades_and_what_is_heard_of_it(pair: Window, qtbot: QtBot) -> None:
    s, panel = pair.session, rehearse(pair).panel
    press(pair, qtbot, "S")
    assert rehearse(pair).values.isVisible()
    types(pair, qtbot, "115")
    m = s.pairing.meeting
    assert m is not None and (m.clock, m.tempo) == (STEADY, 115.0)
    assert s.pairing.judged.together.clock.tempo_overall() == pytest.approx(115.0)  # type: ignore[union-attr]
    press(pair, qtbot, "S")
    assert s.pairing.meeting.clock == GLIDE  # type: ignore[union-attr]
    assert s.pairing.leaving is not None and s.pairing.coming is not None
    s.pairing.leaving = attrs.evolve(s.pairing.leaving, key="A minor")
    s.pairing.coming = attrs.evolve(s.pairing.coming, key="Bb minor")
    press(pair, qtbot, "Shift+S")
    # on the glide the coming track runs 1 % slower than it is, the leaving one as much faster: a third of a semitone
    assert re.search(r"Keys differ \(A minor, Bb minor but 3\d cents flat\)\.$", panel.details.text())
    press(pair, qtbot, "Shift+S")
    assert panel.details.text().endswith("Keys differ (A minor, Bb minor).")
    press(pair, qtbot, "Shift+S")
    panel.fade_in.activated.emit(0)
    panel.low.activated.emit(1)
    m = s.pairing.meeting
    assert m is not None and (m.hold_pitch, m.fade_in, m.swap) == (False, "cut", m.bars // 2)
    press(pair, qtbot, "E")
    press(pair, qtbot, "Alt+E")
    duet = s.player.program.samples  # type: ignore[union-attr]
    assert isinstance(duet, Duet) and (duet.solo, duet.split, duet.meeting) == (COMING, True, m)
    assert panel.solo_coming.isChecked() and panel.split.isChecked()
    # loops go along the clock of the mix
    press(pair, qtbot, "Ctrl+J")
    loop = s.player.program.loop  # type: ignore[union-attr]
    assert loop is not None
    beats = s.pairing.judged.together.clock.beat_at(loop)  # type: ignore[union-attr]
    assert beats[1] - beats[0] == pytest.approx(16)
    press(pair, qtbot, "C")
    assert "Cues are set in Align and Phrase" in pair.note.text.text() and not s.track.preparation.cues


def test_the_drop_lands_where_it_is_told(pair: Window, qtbot: QtBot) -> None:
    s = pair.session
    s.open(next(t.id for t in s.library.tracks() if t.title == "Night Barge"))
    met(pair, qtbot)
    press(pair, qtbot, "D")
    types(pair, qtbot, "41", "10")
    assert "has no drop" in pair.note.text.text()
    rehearse(pair).values.close_line()
    coming = s.pairing.coming
    assert coming is not None
    chorus = coming.phrases[3]
    from mervid.core.cues import cue_edits

    s.track.apply(cue_edits.add_cue, float(coming.grid.time_at(chorus.start)), role="drop")
    press(pair, qtbot, "D")
    types(pair, qtbot, "41", "10")
    m = s.pairing.meeting
    assert m is not None and (m.at, m.bars, m.enter) == (120.0, 10, chorus.start - 40)


def test_a_meeting_is_kept_undone_and_found_again(pair: Window, qtbot: QtBot) -> None:
    s, panel = pair.session, rehearse(pair).panel
    press(pair, qtbot, "Shift+.")
    press(pair, qtbot, "Ctrl+S")
    assert s.pairing.is_kept and panel.keep.text() == "Kept"
    key, kept = s.pairing.key, s.pairing.meeting
    assert key is not None and s.pairing.pairs.of(*key).meeting == kept  # type: ignore[union-attr]
    press(pair, qtbot, "Ctrl+Z")
    assert s.pairing.pairs.of(*key) is None and panel.keep.text() == "Keep this meeting"
    press(pair, qtbot, "Ctrl+Shift+Z")
    assert s.pairing.pairs.of(*key) is not None
    # the next pair of the list: the coming track leaves
    press(pair, qtbot, "N")
    qtbot.waitUntil(lambda: s.pairing.key is not None and s.pairing.key != key and s.pairing.judged is not None)
    assert s.pairing.leaving_row.title == "Slack Water" and s.track.row.title == "Night Barge"  # type: ignore[union-attr]
    (other,) = (panel.others.itemAt(i).widget() for i in range(panel.others.count()))  # type: ignore[union-attr]
    assert isinstance(other, QPushButton) and other.text() == "Copper Ferry → Slack Water"
    # and back by the kept meeting, which is met as it was kept
    qtbot.mouseClick(other, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: s.pairing.key == key and s.pairing.judged is not None)
    assert s.pairing.meeting == kept
    press(pair, qtbot, "Alt+U")
    qtbot.waitUntil(lambda: s.pairing.key == (key[1], key[0]) and s.pairing.judged is not None)


def test_a_meeting_stays_when_its_tracks_are_counted_otherwise(pair: Window, qtbot: QtBot) -> None:
    s = pair.session
    press(pair, qtbot, "P")
    press(pair, qtbot, "Ctrl+S")
    before, judged = s.pairing.meeting, s.pairing.judged
    assert before is not None and judged is not None
    press(pair, qtbot, "F3")
    assert s.track.apply(grid_edits.halve)
    press(pair, qtbot, "F5")
    met(pair, qtbot)
    there = s.pairing.meeting
    assert there is not None and (there.enter, there.level) == (before.enter / 2, 0.5) and s.pairing.is_kept
    assert s.pairing.judged.together.start == pytest.approx(judged.together.start)  # type: ignore[union-attr]
    # places are proposed anew, in the beats that there are now; steps back go to where they were
    qtbot.waitUntil(lambda: s.pairing.proposals[0].meeting.level == 0.5)
    press(pair, qtbot, "P")
    assert s.pairing.meeting in [p.meeting for p in s.pairing.proposals]
    press(pair, qtbot, "Ctrl+Z")
    assert s.pairing.meeting == there
    press(pair, qtbot, "F3")
    press(pair, qtbot, "Ctrl+Z")
    press(pair, qtbot, "F5")
    assert s.pairing.meeting == before and s.pairing.is_kept


def test_the_mix_is_written_while_the_window_goes_on(
    pair: Window, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    s, path = pair.session, tmp_path / "mix.flac"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(path), "FLAC"))
    press(pair, qtbot, "Ctrl+Shift+S")
    qtbot.waitUntil(lambda: "is written, " in pair.note.text.text())
    info = soundfile.info(path)
    t = s.pairing.judged.together  # type: ignore[union-attr]
    assert info.subtype == "PCM_24" and info.duration > t.stop - t.start
    assert json.loads(path.with_suffix(".jams").read_text())["annotations"][0]["namespace"] == "beat"
    # a recording is never written over
    song = tmp_path / "song.flac"
    soundfile.write(song, np.zeros((1000, 2)), 44_100)
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(song), "FLAC"))
    press(pair, qtbot, "Ctrl+Shift+S")
    qtbot.waitUntil(lambda: "song.flac is a recording" in pair.note.text.text())
    assert soundfile.info(song).frames == 1000


def test_the_pairs_of_a_list_and_an_order(pair: Window, qtbot: QtBot) -> None:
    s, view = pair.session, rehearse(pair)
    ids = s.library.ids()
    number = s.bookcase.make(lists.LIST, "Tonight")
    assert number is not None
    s.bookcase.add(number, [ids[0], ids[2], ids[1]])
    s.bookcase.tag(ids, lambda t: t.set_key(ids, "bb min"))
    s.shown.show(number)
    press(pair, qtbot, "Q")
    assert view.pages.seen == LIST and not view.panel.isVisible()
    qtbot.waitUntil(lambda: len(s.pair_table.reports) == 2)
    plan = view.list.plan
    assert [plan.item(r, 1).text() for r in range(2)] == ["Copper Ferry", "Night Barge"]  # type: ignore[union-attr]
    assert all(plan.item(r, 4).text().endswith("ms") for r in range(2))  # type: ignore[union-attr]
    assert plan.item(0, 1).toolTip().endswith("Keys fit (Bb minor to Bb minor, same).")  # type: ignore[union-attr]
    # where they meet and how far apart on each kind of gear stands below
    first = [plan.item(0, c).data(BELOW) for c in range(12)]  # type: ignore[union-attr]
    report = s.pair_table.reports[ids[0], ids[2]]
    assert first[1] == report.where[0] and first[2].startswith(f"{report.where[1]}, ") and first[2].endswith(" bars")
    assert [t.endswith(" ms") for t in first[5:8]] == [True] * 3 and first[0] == ""
    # a grid that is edited, and a key that is typed, are judged anew
    press(pair, qtbot, "F3")
    s.open(ids[2])
    s.track.apply(grid_edits.slide, 9.0)
    s.bookcase.tag(ids[2:], lambda t: t.set_key(ids[2:], "c maj"))
    press(pair, qtbot, "F5")
    qtbot.waitUntil(lambda: s.pair_table.reports.get((ids[0], ids[2]), report) != report)
    again = s.pair_table.reports[ids[0], ids[2]]
    assert again.keys.startswith("keys differ") and abs(again.expected.p95 - report.expected.p95) > 5
    assert plan.item(0, 4).text() != "" and plan.item(0, 8).text() == "differ"  # type: ignore[union-attr]
    # a note is kept with the pair, at the meeting that was judged
    plan.item(0, 11).setText("mind the horns")  # type: ignore[union-attr]
    kept = s.pairing.pairs.of(ids[0], ids[2])
    assert kept is not None and kept.notes == "mind the horns"
    assert plan.item(0, 0).data(BELOW) == "kept"  # type: ignore[union-attr]
    # a row that says the same as before is not made anew: a list may have a thousand
    there = [plan.item(r, 1) for r in range(2)]
    view.list.show_table(s.pair_table)
    assert [plan.item(r, 1) is there[r] for r in range(2)] == [True, True]
    qtbot.mouseClick(view.list.every, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: len(s.pair_table.reports) == 6 and not s.pair_table.busy)
    # the order that is proposed is a list like any other, and is taken back
    before = s.shown.ids.tolist()
    qtbot.mouseClick(view.list.order, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: "order" in pair.note.text.text())
    assert s.shown.ids.tolist()[0] == before[0] and sorted(s.shown.ids.tolist()) == sorted(before)
    # by hand: Alt and an arrow
    now = s.shown.ids.tolist()
    plan.setCurrentCell(0, 1)
    qtbot.keyClick(plan, Qt.Key.Key_Down, Qt.KeyboardModifier.AltModifier)
    assert s.shown.ids.tolist() == [now[0], now[2], now[1]]
    # a cell of the matrix is a pair
    cell = view.list.matrix.cell
    mouse(view.list.matrix, QEvent.Type.MouseButtonPress, 170 + 2.5 * cell, 26 + 0.5 * cell)
    qtbot.waitUntil(lambda: s.pairing.judged is not None and view.pages.seen != LIST)
    rows = view.list.matrix.rows
    assert s.pairing.key == (rows[0].number, rows[2].number)


def test_what_cannot_be_rehearsed_says_why(window: Window, qtbot: QtBot) -> None:
    press(window, qtbot, "F5")
    s, panel = window.session, rehearse(window).panel
    for key in [
        "P",
        "T",
        "D",
        "]",
        "U",
        "Ctrl+S",
        "Ctrl+Shift+S",
        "G",
        "N",
        "E",
        "Alt+E",
        "Alt+U",
        "Shift+S",
        "S",
        "[",
        "Q",
        "Q",
    ]:
        press(window, qtbot, key)
    ferry = put(window, "Copper Ferry")
    s.open(ferry)
    QApplication.processEvents()
    qtbot.waitUntil(lambda: "Choose a second track" in panel.verdict.text())
    press(window, qtbot, "Ctrl+S")
    assert "Choose a second track" in window.note.text.text()
    # one whose file is not a recording was never heard
    (new,) = s.catalogue.add([Path(__file__)])
    s.open(new)
    qtbot.waitUntil(lambda: "isn't heard" in panel.verdict.text() or "has no grid" in panel.verdict.text())
    assert s.player.program is None


def test_a_meeting_outlives_a_visit_to_another_stage(pair: Window, qtbot: QtBot) -> None:
    s = pair.session
    press(pair, qtbot, "Shift+.")
    pair.ask("tone", COMING)
    types(pair, qtbot, "-6", "0", "1,5")
    m = s.pairing.meeting
    assert m is not None and (m.nudge, m.coming_tone.low, m.coming_tone.high) == (10.0, -6.0, 1.5)
    # the nudge goes into the grid, and both come back together
    first, before = s.track.preparation, middle(pair)
    press(pair, qtbot, "Shift+U")
    assert s.track.preparation != first and s.pairing.meeting.nudge == 0.0  # type: ignore[union-attr]
    press(pair, qtbot, "Ctrl+Z")
    assert s.track.preparation == first and s.pairing.meeting == m
    assert middle(pair) == pytest.approx(before)
    press(pair, qtbot, "Ctrl+Shift+Z")
    assert s.track.undo_name == "Slide grid"
    press(pair, qtbot, "Ctrl+Z")
    # mended in Align meanwhile: it is still this meeting, judged by the grid that is there now
    press(pair, qtbot, "F3")
    s.track.apply(grid_edits.slide, 5.0)
    press(pair, qtbot, "F5")
    assert s.pairing.meeting == m and s.pairing.names()[0] == "Tone"
    assert middle(pair) == pytest.approx(before - 5.0, abs=0.5)
    assert isinstance(s.player.program.samples, Duet)  # type: ignore[union-attr]
    # what was slid can't be taken back past another edit
    press(pair, qtbot, "Shift+U")
    press(pair, qtbot, "F3")
    s.track.apply(grid_edits.slide, 1.0)
    s.track.apply(grid_edits.set_tempo, 115.0)
    press(pair, qtbot, "F5")
    press(pair, qtbot, "Ctrl+Z")
    assert "edited since" in pair.note.text.text()


def test_a_recording_that_vanished_is_said_and_the_figures_stay(pair: Window, qtbot: QtBot, tmp_path: Path) -> None:
    s = pair.session
    ids = {t.title: t.id for t in s.library.tracks()}
    barge = s.library.track(ids["Night Barge"])
    # neither its file nor its decoded sound is there any more
    with s.library.writing() as db:
        db.execute("UPDATE tracks SET path=? WHERE id=?", (str(tmp_path / "gone.ogg").encode(), barge.id))
    for kept in (s.cache / "pcm").glob(f"{barge.identity}.*"):
        kept.unlink()
    pair.ask("pair", (barge.id, ids["Slack Water"]))
    qtbot.waitUntil(lambda: s.pairing.judged is not None and "gone.ogg" in pair.note.text.text())
    assert "sure" in rehearse(pair).panel.verdict.text() and s.player.program is None
    press(pair, qtbot, "Space")
    press(pair, qtbot, "Ctrl+Shift+S")
    assert not s.player.playing and "sound of both isn't there" in pair.note.text.text()
    # taken out of the library, it leaves no more
    s.take_out([barge.id])
    press(pair, qtbot, "F3")
    press(pair, qtbot, "F5")
    pair.ask("pair", (ids["Copper Ferry"], ids["Slack Water"]))
    met(pair, qtbot)
    assert s.pairing.leaving_row.title == "Copper Ferry"  # type: ignore[union-attr]


def test_tracks_far_apart_are_counted_at_half_and_the_order_needs_a_list(pair: Window, qtbot: QtBot) -> None:
    s = pair.session
    slow = put(pair, "Salt Ledger")
    s.track.apply(grid_edits.double)
    assert s.track.grid is not None and s.track.grid.tempo_overall() > 200
    pair.ask("pair", (s.library.ids()[0], s.track.row.id))  # type: ignore[union-attr]
    met(pair, qtbot)
    assert s.pairing.meeting.level == 2.0  # type: ignore[union-attr]
    assert "at double" in rehearse(pair).panel.bars.text()
    pair.ask("count")
    assert s.pairing.meeting.level in (1.0, 0.5, 2.0)  # type: ignore[union-attr]
    pair.ask("pair", (s.library.ids()[0], slow))
    met(pair, qtbot)
    # 113 to 88: beyond what is unheard, and said so
    assert "beyond 8 %" in rehearse(pair).panel.details.text()
    pair.ask("propose-order")
    assert "choose one in Gather" in pair.note.text.text()
