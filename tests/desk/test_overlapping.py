"""No two texts lie over each other: in every stage and page, at every width, and in rare states."""

from __future__ import annotations

import sqlite3
from collections.abc import Callable
from contextlib import closing

import pytest
from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QPainter
from pytestqt.qtbot import QtBot

from mervid import places
from mervid.desk.stages.frame import Pages
from mervid.desk.views.base import View
from mervid.desk.window import Window
from tests.desk.conftest import put
from tests.desk.overlapping import overlapping

LONG = "A Very Long Title That Somebody Typed Late at Night (the Second Long Version, with Everything)"


class Two(View):
    """A view that paints two texts, one in its ground and one over it."""

    def __init__(self, apart: float) -> None:
        super().__init__("two", "")
        self.apart = apart

    def draw(self, p: QPainter) -> None:
        p.drawText(QPointF(10, 20), "4.0 s wide")

    def draw_over(self, p: QPainter) -> None:
        p.drawText(QPointF(10 + self.apart, 22), "A intro")


@pytest.mark.parametrize(("apart", "count"), [(20, 1), (200, 0)])
def test_what_lies_over_each_other_is_found(qtbot: QtBot, apart: float, count: int) -> None:
    view = Two(apart)
    qtbot.addWidget(view)
    view.resize(400, 60)
    view.show()
    # a kept picture is painted anew for it
    assert len(overlapping(view)) == len(overlapping(view)) == count


def everywhere(window: Window, qtbot: QtBot) -> list[str]:
    """What lies over each other on any page of any stage."""
    out = []
    for name, stage in window.stages.items():
        window.go_to_stage(name)
        pages = getattr(getattr(stage, "view", None), "pages", None)
        for page in [p.name for p in pages.pages] if isinstance(pages, Pages) else [""]:
            if isinstance(pages, Pages):
                pages.turn_to(page)
            qtbot.wait(20)
            out += [f"{window.width()} {name} {page}: {words}" for words in overlapping(window)]
    return out


WIDTHS = (960, 1100, 1280, 1920)


def test_with_a_pair_open(ferry: Window, qtbot: QtBot) -> None:
    session = ferry.session
    ferry.ask_of("rehearse", "pair", (session.track.row.id, put(ferry, "Pontoon Static")))
    ferry.go_to_stage("rehearse")
    qtbot.waitUntil(lambda: session.pairing.judged is not None)
    found = []
    for width in WIDTHS:
        ferry.resize(width, 700)
        found += everywhere(ferry, qtbot)
        # the close-up and the fold at places all over the track
        ferry.go_to_stage("align")
        for k in range(8):
            session.player.seek(12.0 * k + 0.3)
            qtbot.wait(10)
            found += [f"{width} at {12 * k} s: {words}" for words in overlapping(ferry)]
    assert "\n".join(sorted(set(found))) == ""


def write(window: Window, sql: str, values: tuple[object, ...]) -> None:
    with closing(sqlite3.connect(window.session.library.path)) as db, db:
        db.execute(sql, values)


def nothing(window: Window) -> None:
    """An empty library."""


def one_long_title(window: Window) -> None:
    number = put(window, "Salt Ledger")
    write(window, "UPDATE tracks SET title=?, artists=? WHERE id=?", (LONG, LONG, number))
    window.session.catalogue.reread()
    window.session.open(number)


def thousands(window: Window) -> None:
    number = put(window, "Salt Ledger")
    names = "title, added, state, message, seconds, tempo_low, tempo_high, key, cues, readiness"
    write(
        window,
        f"INSERT INTO tracks (path, {names}) WITH n(k) AS (SELECT 1 UNION ALL SELECT k+1 FROM n WHERE k<50000) "
        f"SELECT cast('/music/'||k||'.wav' AS blob), {names} FROM n, tracks WHERE id=?",
        (number,),
    )
    window.session.catalogue.reread()


def a_message(window: Window) -> None:
    put(window, "Salt Ledger")
    window.session.say.problem("The disk is full: nothing more can be saved. " + LONG)


def waiting_and_failed(window: Window) -> None:
    for state, message in (
        ("waiting", ""),
        ("failed", "It is damaged and can't be read beyond 1:23."),
        ("waiting", ""),
    ):
        number = window.session.library.add(places.demo_folder() / f"{state}{message[:2]}{window.width()}.wav")[0].id
        write(window, "UPDATE tracks SET state=?, message=? WHERE id=?", (state, message, number))
    window.session.catalogue.reread()


@pytest.mark.parametrize("state", [nothing, one_long_title, thousands, a_message, waiting_and_failed])
@pytest.mark.parametrize("width", [960, 1280])
def test_in_states_that_are_rarely_looked_at(
    window: Window, qtbot: QtBot, width: int, state: Callable[[Window], None]
) -> None:
    window.resize(width, 600)
    state(window)
    assert "\n".join(sorted(set(everywhere(window, qtbot)))) == ""
