"""Findings, second opinions and parts in the real window: seen, tried, taken and undone by mouse and by key."""

from __future__ import annotations

import attrs
import numpy as np
import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtGui import QContextMenuEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QMenu
from pytestqt.qtbot import QtBot

from mervid.core.fitting import proposal
from mervid.core.hearing import evidence
from mervid.core.hearing.evidence import to_bytes
from mervid.core.model import tempo_range
from mervid.core.model.hints import COUNT, DOWNBEAT, EVEN, QUIET, TEMPO
from mervid.core.model.preparation import Preparation
from mervid.desk import settings
from mervid.desk.stages.align.findings_list import Row
from mervid.desk.widgets.tempo_range_menu import RangeDialog
from mervid.desk.window import Window
from tests.conftest import heard_demo
from tests.desk.conftest import align
from tests.desk.test_align import button, press


def told(window: Window, qtbot: QtBot) -> None:
    """Wait until the findings are about what is saved."""
    qtbot.waitUntil(lambda: window.session.reports.fresh)


def row(window: Window, words: str) -> Row:
    """The finding that says `words`."""
    return next(r for r in align(window).panel.findings.rows if words in r.finding.text)


@pytest.fixture
def half_bar(ferry: Window, qtbot: QtBot) -> Window:
    """Copper Ferry heard with its bars half a bar late, and Mervid not sure of it."""
    session = ferry.session
    _, found = heard_demo("Copper Ferry")
    numbers = found.heard.numbers - 2
    wrong = attrs.evolve(found, heard=attrs.evolve(found.heard, numbers=numbers, phase_chance=0.45))
    waveform = session.track.waveform
    assert waveform is not None
    assert session.track.row is not None
    session.library.set_evidence(session.track.row.id, evidence.to_bytes(wrong), waveform.to_bytes(), Preparation())
    session.library.edit(session.track.row.id, "Analysis", proposal.propose(wrong.heard, session.track.duration))
    session.open(session.track.row.id)
    told(ferry, qtbot)
    return ferry


def test_a_fix_is_seen_taken_and_undone(ferry: Window, qtbot: QtBot) -> None:
    told(ferry, qtbot)
    session, start = ferry.session, ferry.session.track.preparation
    assert "1 to decide" in align(ferry).panel.findings_heading.text()
    assert ferry.session.library.tracks()[0].doubts == 1
    assert "wandering" in ferry.list.tracks.state_of(ferry.session.library.tracks()[0])[0]
    drift = row(ferry, "begins to drift")
    assert drift.fix is not None
    # pointing at it shows it in the fold, and nothing is saved
    drift.fix.looked.emit(True)
    assert len(session.track.shown.grid.pins) > 4
    assert align(ferry).fold.preparation is session.track.shown
    assert session.track.preparation is start
    drift.fix.looked.emit(False)
    assert session.track.shown is start
    qtbot.mouseClick(drift.fix, Qt.MouseButton.LeftButton)
    assert session.track.undo_name == "Follow the recording"
    assert not session.reports.fresh
    assert all(not r.fix.isEnabled() for r in align(ferry).panel.findings.rows if r.fix)
    told(ferry, qtbot)
    assert not any("begins to drift" in r.finding.text for r in align(ferry).panel.findings.rows)
    assert ferry.session.library.tracks()[0].doubts == 0
    press(ferry, qtbot, "Ctrl+Z")
    assert session.track.preparation == start
    # locked: the fix is refused, and said so
    told(ferry, qtbot)
    press(ferry, qtbot, "Ctrl+L")
    fix = row(ferry, "begins to drift").fix
    assert fix is not None
    qtbot.mouseClick(fix, Qt.MouseButton.LeftButton)
    assert "locked" in ferry.note.text.text()
    assert session.track.preparation.grid == start.grid


def test_a_finding_leads_to_its_place_by_mouse_and_by_keys(ferry: Window, qtbot: QtBot) -> None:
    told(ferry, qtbot)
    drift = row(ferry, "begins to drift")
    ferry.session.player.seek(50.0)
    qtbot.mouseClick(drift, Qt.MouseButton.LeftButton, pos=QPoint(100, 8))
    assert ferry.session.player.position == pytest.approx(drift.finding.start)
    first = align(ferry).panel.findings.rows[0]
    first.setFocus()
    QTest.keyClick(first, Qt.Key.Key_Down)
    assert align(ferry).panel.findings.rows[1].hasFocus()
    QTest.keyClick(align(ferry).panel.findings.rows[1], Qt.Key.Key_Up)
    ferry.session.player.seek(50.0)
    QTest.keyClick(first, Qt.Key.Key_Return)
    assert ferry.session.player.position == pytest.approx(first.finding.start)
    press(ferry, qtbot, "J")
    trace = ferry.session.track.drift()[0]
    here = int(np.abs(trace.times - ferry.session.player.position).argmin())
    assert abs(trace.error[here]) > trace.tolerance[here]


def test_second_opinions_are_stepped_through_kept_and_undone(half_bar: Window, qtbot: QtBot) -> None:
    session, start = half_bar.session, half_bar.session.track.preparation
    names = [o.name for o in session.reports.report.opinions]
    k = next(i for i, name in enumerate(names) if "bars begin 2 beats" in name)
    assert f"Other readings {len(names) - 1}" in align(half_bar).others.text()
    for _ in range(k):
        press(half_bar, qtbot, "O")
    assert align(half_bar).hint.text().startswith(f"{k} of {len(names) - 1}: bars begin 2 beats")
    assert session.track.shown.hints[0].kind == DOWNBEAT
    assert session.track.preparation is start
    press(half_bar, qtbot, "Esc")
    assert session.track.shown is start
    assert not align(half_bar).keep.isVisible()
    for _ in range(k):
        press(half_bar, qtbot, "O")
    press(half_bar, qtbot, "Return")
    assert session.track.undo_name == "Listen again"
    heard = session.track.heard
    assert heard is not None
    right = heard_demo("Copper Ferry")[1].heard
    assert np.isin(heard.downbeats, right.downbeats).mean() > 0.95
    told(half_bar, qtbot)
    # what was decided is not asked again
    assert not any("downbeat" in r.finding.text for r in align(half_bar).panel.findings.rows)
    press(half_bar, qtbot, "Ctrl+Z")
    assert session.track.preparation == start
    for _ in range(len(names)):
        press(half_bar, qtbot, "O")
    assert session.track.shown is session.track.preparation or session.reports.opinion is None


def test_one_key_on_a_downbeat_repairs_the_bars(half_bar: Window, qtbot: QtBot) -> None:
    right = heard_demo("Copper Ferry")[1].heard
    half_bar.session.player.seek(float(right.downbeats[12]) + 0.02)
    press(half_bar, qtbot, "D")
    heard = half_bar.session.track.heard
    assert heard is not None
    assert np.isin(heard.downbeats, right.downbeats).mean() > 0.95
    press(half_bar, qtbot, "B")
    assert any(p.hand for p in half_bar.session.track.preparation.grid.pins)
    assert half_bar.session.track.undo_name == "This is a beat"


def test_a_part_is_chosen_and_listened_to_again(ferry: Window, qtbot: QtBot) -> None:
    told(ferry, qtbot)
    session, view, panel = ferry.session, align(ferry).overview, align(ferry).panel
    qtbot.mouseClick(button(ferry, "No beats"), Qt.MouseButton.LeftButton)
    assert "Choose a part first" in ferry.note.text.text()
    y = view.height() // 2
    a, b = QPoint(round(view.x_of(30.0)), y), QPoint(round(view.x_of(45.0)), y)
    shift = Qt.KeyboardModifier.ShiftModifier
    QTest.mousePress(view, Qt.MouseButton.LeftButton, shift, a)
    QTest.mouseMove(view, b)
    QTest.mouseRelease(view, Qt.MouseButton.LeftButton, shift, b)
    assert ferry.session.part.value == pytest.approx((30.0, 45.0), abs=0.2)
    assert [e.text()[:4] for e in panel.part_edges] in (["0:30", "0:45"], ["0:30", "0:44"], ["0:29", "0:45"])
    qtbot.mouseClick(button(ferry, "Even"), Qt.MouseButton.LeftButton)
    assert session.track.preparation.hints[-1].kind == EVEN
    assert ferry.session.part.value is None
    heard = session.track.heard
    assert heard is not None
    inside = heard.times[(heard.times > 31) & (heard.times < 44)]
    assert np.ptp(np.diff(inside)) < 1e-6
    ferry.session.player.seek(60.0)
    press(ferry, qtbot, "[")
    ferry.session.player.seek(70.0)
    press(ferry, qtbot, "]")
    assert ferry.session.part.value == pytest.approx((60.0, 70.0))
    press(ferry, qtbot, "Esc")
    assert ferry.session.part.value is None
    press(ferry, qtbot, "[")
    qtbot.mouseClick(button(ferry, "No beats"), Qt.MouseButton.LeftButton)
    assert session.track.preparation.hints[-1].kind == QUIET
    assert session.track.heard.times[-1] < 70.01
    panel.tempo.setText("57")
    qtbot.mouseClick(button(ferry, "Near tempo"), Qt.MouseButton.LeftButton)
    assert session.track.preparation.hints[-1].kind == TEMPO
    assert 60 / np.median(np.diff(session.track.heard.times)) == pytest.approx(57, abs=2)
    for _ in range(3):
        press(ferry, qtbot, "Ctrl+Z")
    assert session.track.preparation.hints == ()


def test_tempo_ranges_for_the_program_and_for_one_track(
    ferry: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    told(ferry, qtbot)
    ferry.side.set_range(tempo_range.of(150, 250))
    told(ferry, qtbot)
    assert "Expect your range (150–250)" in ferry.side.range.text()
    assert settings.tempo_range_chosen() == tempo_range.of(150, 250)
    out = row(ferry, "lies outside your range (150–250)")
    assert out.fix is not None
    qtbot.mouseClick(out.fix, Qt.MouseButton.LeftButton)
    assert ferry.session.track.preparation.hints[-1].kind == COUNT
    assert ferry.session.track.preparation.grid.tempo_overall() > 200
    press(ferry, qtbot, "Ctrl+Z")
    shown: list[QMenu] = []
    monkeypatch.setattr(QMenu, "exec", lambda self, *_: shown.append(self))
    at = ferry.list.visualRect(ferry.list.tracks.index(0)).center()
    ferry.list.contextMenuEvent(QContextMenuEvent(QContextMenuEvent.Reason.Mouse, at, QPoint(0, 0)))
    expected = next(a.menu() for a in shown[0].actions() if a.text() == "Tempo expected here")
    next(a for a in expected.actions() if a.text().startswith("funk")).trigger()
    assert ferry.session.track.preparation.tempo_range == (75, 130)
    told(ferry, qtbot)
    assert not any("lies outside" in r.finding.text for r in align(ferry).panel.findings.rows)
    made: list[object] = []
    dialog = RangeDialog(ferry, made.append)
    qtbot.addWidget(dialog)
    for low, says in (("fast", "as numbers"), ("200", "the first must be the smaller")):
        dialog.low.setText(low)
        dialog.high.setText("120")
        dialog._done()
        assert says in dialog.problem.text()
    dialog.name.setText("club")
    dialog.low.setText("118")
    dialog.high.setText("132")
    dialog._done()
    assert made == [tempo_range.TempoRange("club", 118, 132)]
    assert settings.own_ranges() == made


def test_where_to_look_is_marked(ferry: Window, qtbot: QtBot) -> None:
    told(ferry, qtbot)
    heard = ferry.session.track.evidence.heard
    confidence = heard.confidence.copy()
    confidence[60:64] = 0.2
    before = align(ferry).fold.grab().toImage()
    evidence = attrs.evolve(ferry.session.track.evidence, heard=attrs.evolve(heard, confidence=confidence))
    ferry.session.library.set_evidence(
        ferry.session.track.row.id, to_bytes(evidence), ferry.session.track.waveform.to_bytes(), Preparation()
    )
    ferry.session.open(ferry.session.track.row.id)
    qtbot.wait(50)
    assert ferry.session.reports.unsure()[60:64].all()
    assert align(ferry).fold.grab().toImage() != before
    grid = ferry.session.track.grid
    assert grid is not None
    _, y = align(ferry).fold.place_of(float(grid.beat_at(heard.times[61])))
    margin = align(ferry).fold.grab().copy(30, int(y) - 2, 14, 12).toImage()
    dark = sum(margin.pixelColor(x, z).lightness() < 110 for x in range(margin.width()) for z in range(margin.height()))
    assert dark > 4
