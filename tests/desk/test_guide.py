"""The guide and the guided start: what the guide names exists, and the eight steps can be gone as they say."""

from __future__ import annotations

import ast
import re
from functools import cache
from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from pytestqt.qtbot import QtBot

import mervid
from mervid import cli, guide
from mervid.desk.session.first_minutes import FIRST, SECOND, STEPS
from mervid.desk.stages.common.guide_commands import GuideCommands
from mervid.desk.widgets.guide_window import GuideWindow
from mervid.desk.window import Window
from tests.desk.conftest import FakeTime, put

LEFT = Qt.MouseButton.LeftButton
CTRL = Qt.KeyboardModifier.ControlModifier
SOURCE = Path(mervid.__file__).parent
# keys that lists, fields, views and windows have of their own
OWN_KEYS = {"Enter", "Tab", "F2", "Shift+Enter"}
NAMED = "Enter|Return|Escape|Esc|Space|Tab|Del|Delete|Backspace|Home|End|Up|Down|Left|Right|PgUp|PgDown"
KEY = re.compile(rf"(?:(?:Ctrl|Shift|Alt)\+)*(?:[A-Z0-9/.,=\[\]-]|F\d{{1,2}}|{NAMED})")
# what Qt calls otherwise
SAME = {"Enter": "Return", "Del": "Delete"}


@cache
def words_on_screen() -> str:
    """All text in the source of what is shown, folded and on one line: f-strings with their fixed parts."""
    out = []
    for path in [*SOURCE.glob("desk/**/*.py"), *SOURCE.glob("core/**/*.py"), *SOURCE.glob("formats/*.py")]:
        for node in ast.walk(ast.parse(path.read_text("utf-8"))):
            if isinstance(node, ast.Constant) and isinstance(node.value, str):
                out.append(node.value)
    out += [p.read_text("utf-8") for p in (*SOURCE.glob("recipes/*.toml"), *SOURCE.glob("players/*.toml"))]
    return "\n".join(out).casefold()


def test_every_key_that_the_guide_names_exists(window: Window) -> None:
    known = {c.keys for c in window.usual.commands} | OWN_KEYS
    unknown = []
    for page in guide.pages():
        for bold in re.findall(r"\*\*([^*]+)\*\*", page.text):
            parts = bold.split("+")
            called = "+".join([*parts[:-1], SAME.get(parts[-1], parts[-1])])
            if KEY.fullmatch(bold) and not {bold, called} & known:
                unknown.append((page.name, bold))
    assert unknown == []
    # enough of them that the pattern can't have missed all
    assert sum(len(re.findall(r"\*\*(?:Ctrl|Shift|Alt)\+", p.text)) for p in guide.pages()) > 60


def test_every_label_that_the_guide_names_is_on_screen() -> None:
    text = words_on_screen()
    unknown = []
    named = 0
    for page in guide.pages():
        prose = re.sub(r"\*\*[^*]+\*\*|`[^`]+`", "", page.text)
        for label in re.findall(r"(?<!\*)\*([A-Z][^*\n]{2,60})\*(?!\*)", prose):
            # what is a sentence of its own says an example; what ends in … or a full stop is the same without
            wanted = label.rstrip("….").casefold()
            parts = re.split(r"\d[\d.,]*|…|→", wanted)
            named += 1
            if not all(part.strip(" ,:") in text for part in parts):
                unknown.append((page.name, label))
    assert unknown == []
    assert named > 40


def test_links_pictures_and_commands_of_the_guide_are_there() -> None:
    for page in guide.pages():
        for name, heading in re.findall(r"\]\(([a-z]+)\.md(?:#([^)]+))?\)", page.text):
            assert name in guide.NAMES, (page.name, name)
            if heading:
                slugs = {re.sub(r"[^\w ]", "", p.heading).casefold().replace(" ", "-") for p in guide.page(name).parts}
                assert heading in slugs
        for picture in re.findall(r"\]\((pictures/[^)]+)\)", page.text):
            assert (guide.FOLDER / picture).is_file(), picture
        for command in re.findall(r"`mervid ([a-z]+)", page.text):
            assert command in cli.COMMANDS, command
    assert {p.stem for p in (guide.FOLDER / "pictures").glob("*.png")} == {
        m for p in guide.pages() for m in re.findall(r"\]\(pictures/(\S+)\.png\)", p.text)
    }
    assert (
        f"lists {['ten', 'eleven', 'twelve', 'thirteen', 'fourteen', 'fifteen'][len(cli.COMMANDS) - 10]} commands"
        in guide.page("home").text
    )


def window_of(window: Window) -> GuideWindow:
    opened = next(c for c in window._common if isinstance(c, GuideCommands)).window
    assert opened is not None
    return opened


def test_the_guide_opens_at_what_is_seen_and_is_searched(ferry: Window, qtbot: QtBot) -> None:
    places = {("align", "tap"): ("ear", "Tapping"), ("align", "spots"): ("align", "The spot check"),
              ("phrase", "recipe"): ("phrase", "Recipes"), ("deliver", "paper"): ("deliver", "Paper"),
              ("rehearse", "list"): ("rehearse", "The pairs of a list"), ("gather", ""): ("gather", "")}  # fmt: skip
    for (stage, page), wanted in places.items():
        ferry.go_to_stage(stage)
        if page:
            ferry.stages[stage].view.pages.turn_to(page)  # type: ignore[attr-defined]
        qtbot.keyClick(ferry, Qt.Key.Key_F1, Qt.KeyboardModifier.ShiftModifier)
        assert window_of(ferry).shown == wanted
    # every page of every stage leads to a heading that is there
    for stage in ferry.stages.values():
        for page, heading in stage.guide.values():
            assert heading in ("", *(p.heading for p in guide.page(page).parts))
    shown = window_of(ferry)
    qtbot.keyClicks(shown.search, "wheel fader")
    qtbot.keyClick(shown.search, Qt.Key.Key_Return)
    assert shown.shown == ("pads", "Learning")
    qtbot.waitUntil(lambda: shown.text.verticalScrollBar().value() > 0)
    shown.search.clear()
    qtbot.keyClicks(shown.search, "xyzzy")
    assert "Nothing in the guide" in shown.list.item(0).text()
    shown.show_at("keys")
    assert "Count every second beat" in shown.text.toPlainText()
    # nothing is fetched from anywhere: all pictures come from the folder
    shown.show_at("rehearse")
    assert shown.text.loadResource(2, __import__("PyQt6.QtCore").QtCore.QUrl("pictures/rehearse.png")) is not None


def test_the_first_ten_minutes_are_gone_as_they_say(
    window: Window, qtbot: QtBot, clock: FakeTime, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    session, minutes, strip = window.session, window.session.first_minutes, window.strip
    assert not window.session.library.any()
    monkeypatch.setattr(session.queue, "add_files", lambda *a, **k: None)
    first = window.pages.widget(0)
    qtbot.mouseClick(first.buttons["first-minutes"], LEFT)  # type: ignore[union-attr]
    assert strip.isVisible() and strip.title.text() == STEPS[0].title
    copper, static = put(window, FIRST), put(window, SECOND)
    qtbot.wait(400)
    assert not minutes.done[0]

    def done(step: int) -> None:
        qtbot.waitUntil(lambda: minutes.done[step])
        assert strip.title.text() == f"{STEPS[step].title}: done"
        qtbot.mouseClick(strip.next, LEFT)

    session.open(copper)
    done(0)
    window.go_to_stage("align")
    qtbot.waitUntil(lambda: len(session.offers.found) == 2)
    qtbot.keyClick(window, Qt.Key.Key_S)
    done(1)
    qtbot.keyClick(window, Qt.Key.Key_F)
    done(2)
    qtbot.keyClick(window, Qt.Key.Key_K)
    session.player.play()
    done(3)
    session.player.pause()
    # a button does it for who can't find the key
    qtbot.mouseClick(strip.act, LEFT)
    assert window.seen == "phrase"
    done(4)
    qtbot.keyClick(window, Qt.Key.Key_L, CTRL)
    done(5)
    window.go_to_stage("rehearse")
    qtbot.keyClick(window, Qt.Key.Key_U)
    session.open(static)
    qtbot.waitUntil(lambda: session.pairing.judged is not None)
    qtbot.keyClick(window, Qt.Key.Key_G)
    qtbot.waitUntil(lambda: session.player.program is not None)
    session.player.play()
    done(6)
    session.player.pause()
    window.go_to_stage("deliver")
    stick = tmp_path / "stick"
    stick.mkdir()
    session.delivering.set_out(stick)
    qtbot.waitUntil(lambda: session.delivering.plan is not None)
    session.delivering.write()
    done(7)
    assert minutes.is_over and "That was it" in strip.title.text()
    assert session.delivering.report.written and any(p.stat().st_size > 100_000 for p in stick.rglob("*"))
    qtbot.mouseClick(strip.leave, LEFT)
    assert not strip.isVisible()


def test_the_guided_start_can_be_passed_over_and_left(window: Window, qtbot: QtBot) -> None:
    minutes, strip = window.session.first_minutes, window.strip
    minutes.begin()
    for _ in STEPS:
        assert strip.next.text() == "Pass over"
        qtbot.mouseClick(strip.next, LEFT)
    assert strip.title.text() == "That was it: 0 of 8 steps done"
    qtbot.mouseClick(strip.back, LEFT)
    assert strip.title.text() == STEPS[-1].title
    # with an empty library its buttons do no harm
    qtbot.mouseClick(strip.act, LEFT)
    minutes.leave()
    assert minutes.at is None
    # what the steps ask for exists, in their stages
    for step in STEPS:
        assert window.stages[step.stage].can(step.request) or step.request in window._handlers
