"""For all eyes and hands: everything by keyboard, names for what has no text, and pictures said in figures."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QAbstractButton, QApplication, QLabel, QWidget
from pytestqt.qtbot import QtBot

from mervid.core.cues import cue_edits
from mervid.desk.session import in_figures
from mervid.desk.widgets.figures_dialog import FiguresDialog
from mervid.desk.window import Window
from tests.desk.conftest import align, put


def tab_round(window: Window, start: QWidget) -> list[QWidget]:
    """What Tab reaches, in order, from a widget on."""
    start.setFocus(Qt.FocusReason.TabFocusReason)
    seen: list[QWidget] = []
    now = QApplication.focusWidget()
    while now is not None and now not in seen and len(seen) < 300:
        seen.append(now)
        window.focusNextPrevChild(True)
        now = QApplication.focusWidget()
    return seen


def name_of(w: QWidget) -> str:
    """What a screen reader would say."""
    return w.accessibleName() or (w.text() if isinstance(w, QAbstractButton | QLabel) else "")


@pytest.mark.parametrize("stage", ["gather", "align", "phrase", "rehearse", "deliver"])
def test_tab_reaches_everything_and_everything_has_a_name(ferry: Window, qtbot: QtBot, stage: str) -> None:
    ferry.activateWindow()
    ferry.go_to_stage(stage)
    qtbot.wait(50)
    seen = tab_round(ferry, ferry.stages[stage].first)
    assert [w for w in seen if not name_of(w)] == []
    reachable = {
        w for w in ferry.findChildren(QWidget)
        if w.isVisible() and w.isEnabled() and w.focusPolicy() & Qt.FocusPolicy.TabFocus and w.window() is ferry
        # of buttons one of which is down, the arrows reach the others; a field in a field has its own
        and not (isinstance(w, QAbstractButton) and w.group() is not None and not w.isChecked())
        and not w.focusProxy() and name_of(w)
    }  # fmt: skip
    assert {name_of(w) for w in reachable - set(seen)} == set()


def test_findings_come_before_what_stands_below_them(ferry: Window, qtbot: QtBot) -> None:
    qtbot.waitUntil(lambda: bool(align(ferry).panel.findings.rows), timeout=20_000)
    ferry.activateWindow()
    seen = tab_round(ferry, align(ferry).fold)
    at = {w: i for i, w in enumerate(seen)}
    rows = align(ferry).panel.findings.rows
    cards = [w for w in seen if type(w).__name__ == "FitCard"]
    assert all(at[r] < at[cards[0]] for r in rows)


def test_pictures_are_said_in_figures(ferry: Window, qtbot: QtBot) -> None:
    session = ferry.session
    session.track.apply(cue_edits.add_cue, 20.0, snap=cue_edits.DOWNBEAT, name="Band in")
    bars, phrases, cues = in_figures.of_track(session.track)
    grid, form = session.track.grid, session.track.form
    assert len(bars.rows) == len(bars.times) > 40 and all(len(r) == len(bars.heads) for r in bars.rows)
    # the same that the trace paints: the worst of all bars is the worst there is
    trace, _ = session.track.drift()
    worst = max(float(r[4].split()[0]) for r in bars.rows if r[4] != "–")
    inside = abs(trace.error)[(trace.times >= bars.times[0])]
    assert worst == pytest.approx(inside.max(), abs=0.6)
    assert [r[3] for r in phrases.rows] == [q.role for q in form.phrases]
    assert sum(int(r[2]) for r in phrases.rows) == round((form.end - form.phrases[0].start) / 4)
    assert cues.rows[0][1] == "Band in" and cues.times[0] == pytest.approx(session.track.preparation.cues[0].at(grid))
    qtbot.keyClick(ferry, Qt.Key.Key_F1, Qt.KeyboardModifier.ControlModifier)
    (dialog,) = ferry.findChildren(FiguresDialog)
    dialog.tabs.setCurrentIndex(1)
    table = dialog.tabs.currentWidget()
    table.setCurrentCell(2, 0)  # type: ignore[union-attr]
    qtbot.keyClick(table, Qt.Key.Key_Return)
    assert session.player.position == pytest.approx(phrases.times[2])
    dialog._copy()
    assert QApplication.clipboard().text() == phrases.tsv
    dialog.accept()


def test_a_pair_is_said_in_figures(ferry: Window, qtbot: QtBot) -> None:
    session = ferry.session
    other = put(ferry, "Pontoon Static")
    ferry.go_to_stage("rehearse")
    assert in_figures.of_pair(session.pairing) == [] or session.pairing.judged is not None
    ferry.ask("pair", (session.track.row.id, other))
    qtbot.waitUntil(lambda: session.pairing.judged is not None, timeout=20_000)
    by_bar, gear, places = in_figures.of_pair(session.pairing)
    line = session.pairing.judged.line
    worst = max(float(r[3].split()[0]) for r in by_bar.rows if r[3] != "nothing heard")
    assert worst == pytest.approx(line.worst, abs=0.6)
    assert len(gear.rows) == 3 and len(places.rows) == len(session.pairing.proposals) > 0
    assert all(len(t.heads) == len(row) for t in (by_bar, gear, places) for row in t.rows)
