"""For all eyes and hands: everything by keyboard, names for what has no text, and pictures said in figures."""

from __future__ import annotations

import html
import importlib.util
import math
import re
from collections.abc import Iterator
from pathlib import Path

import pytest
from PyQt6.QtCore import Qt, QTranslator
from PyQt6.QtWidgets import QAbstractButton, QApplication, QLabel, QWidget
from pytestqt.qtbot import QtBot

import mervid
from mervid.core.cues import cue_edits
from mervid.desk.session import in_figures
from mervid.desk.stages.frame import Pages
from mervid.desk.theme.tr import CONTEXT
from mervid.desk.widgets.figures_dialog import FiguresDialog
from mervid.desk.window import Window
from tests.desk.conftest import align, put
from tests.desk.cutting import cut

TEXTS = Path(mervid.__file__).parent / "translations" / "mervid.ts"


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


def test_tab_reaches_everything_and_everything_has_a_name(ferry: Window, qtbot: QtBot) -> None:
    qtbot.waitUntil(lambda: bool(align(ferry).panel.findings.rows))
    ferry.activateWindow()
    for stage in ferry.stages:
        reach_all_of(ferry, stage, qtbot)
    # what is made late stands where it is seen: findings before what lies below them
    ferry.go_to_stage("align")
    seen = tab_round(ferry, align(ferry).fold)
    card = next(i for i, w in enumerate(seen) if type(w).__name__ == "FitCard")
    assert all(seen.index(r) < card for r in align(ferry).panel.findings.rows)


def reach_all_of(ferry: Window, stage: str, qtbot: QtBot) -> None:
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
    ferry.ask_of("rehearse", "pair", (session.track.row.id, other))
    qtbot.waitUntil(lambda: session.pairing.judged is not None)
    by_bar, gear, places = in_figures.of_pair(session.pairing)
    line = session.pairing.judged.line
    worst = max(float(r[3].split()[0]) for r in by_bar.rows if r[3] != "nothing heard")
    assert worst == pytest.approx(line.worst, abs=0.6)
    assert len(gear.rows) == 3 and len(places.rows) == len(session.pairing.proposals) > 0
    assert all(len(t.heads) == len(row) for t in (by_bar, gear, places) for row in t.rows)


class _Longer(QTranslator):
    """A language that nobody speaks: accents on every letter, and a third longer."""

    def __init__(self) -> None:
        super().__init__()
        self.asked: set[str] = set()

    def translate(self, context: str, source: str, disambiguation: str | None = None, n: int = -1) -> str:
        if context != CONTEXT:
            return ""
        self.asked.add(source)
        return longer(source)


def longer(text: str) -> str:
    """With accents, and a third longer; what is filled in later stays."""
    parts = re.split(r"(\{[^{}]*\})", text)
    told = "".join(p if p.startswith("{") else p.translate(ACCENTS) for p in parts)
    return told + "·" * math.ceil(sum(c.isalpha() for c in text) / 3)


ACCENTS = str.maketrans("aceilnorsuyzAEIOU", "àçéîļñöŕšûýžÀÉÎÖÛ")


def pages_of(window: Window, stage: str) -> list[str]:
    pages = getattr(getattr(window.stages[stage], "view", None), "pages", None)
    return [p.name for p in pages.pages] if isinstance(pages, Pages) else [""]


def look_everywhere(window: Window, qtbot: QtBot) -> list[str]:
    """What is cut on any page of any stage."""
    out = []
    for stage in window.stages:
        window.go_to_stage(stage)
        for page in pages_of(window, stage):
            if page:
                window.stages[stage].view.pages.turn_to(page)  # type: ignore[attr-defined]
            qtbot.wait(30)
            # layouts settle in a few rounds
            found = cut(window)
            for _ in range(15):
                if found:
                    qtbot.wait(60)
                    found = cut(window)
            out += [f"{stage} {page}: {words}" for words in found]
    return out


def test_nothing_is_cut_in_the_smallest_window(ferry: Window, qtbot: QtBot) -> None:
    ferry.resize(960, 600)
    ferry.ask_of("rehearse", "pair", (ferry.session.track.row.id, put(ferry, "Pontoon Static")))
    assert "\n".join(look_everywhere(ferry, qtbot)) == ""


@pytest.fixture
def tongue(qapp: QApplication) -> Iterator[_Longer]:
    """Before any window is made."""
    made = _Longer()
    qapp.installTranslator(made)
    yield made
    qapp.removeTranslator(made)


def test_a_longer_language_is_not_cut(tongue: _Longer, ferry: Window, qtbot: QtBot) -> None:
    ferry.resize(1280, 800)
    assert ferry.header.tabs["align"].text().startswith(longer("Align"))
    assert ferry.table.commands[0].words == longer(ferry.stages["gather"].commands()[0].words)
    assert "\n".join(look_everywhere(ferry, qtbot)) == ""
    # what was asked for is what the translators' file holds
    listed = set(re.findall(r"<source>(.*?)</source>", TEXTS.read_text("utf-8"), re.S))
    assert {html.escape(t, quote=True).replace("&#x27;", "'") for t in tongue.asked} - {
        s.replace("&apos;", "'") for s in listed
    } == set()


def test_the_translators_file_is_up_to_date() -> None:
    spec = importlib.util.spec_from_file_location("texts", Path(mervid.__file__).parents[1] / "packaging/texts.py")
    assert spec is not None and spec.loader is not None
    module = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(module)
    told = html.unescape(TEXTS.read_text("utf-8"))
    assert [t for t in module.texts() if f"<source>{t}</source>" not in told] == []
    assert len(module.texts()) > 900
