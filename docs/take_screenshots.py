"""Make all pictures from the demo set: `.venv/bin/python docs/take_screenshots.py [FOLDER]`.

One of each main view goes to docs/screenshots, what the guide shows to mervid/guide/pictures, smaller.

Runs the real window on whatever screen Qt finds (QT_QPA_PLATFORM=offscreen will do), in a library of its own.
"""

from __future__ import annotations

import os
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT))
GUIDE = ROOT / "mervid" / "guide"
MAIN = (
    "empty", "first-minutes", "gather", "align", "align-night", "findings", "by-ear", "phrase", "recipe",
    "sheet-of-cues", "player", "rehearse", "rehearse-list", "deliver", "straighten", "sheet", "settings", "board",
    "guide",
)  # fmt: skip
GUIDE_PX, GUIDE_INKS = 930, 128


def keep(picture: Path, name: str, main: Path) -> None:
    """Put a picture where it is shown: as it is, and smaller in few inks for the guide."""
    from PIL import Image

    if any(f"](pictures/{name}.png)" in page.read_text("utf-8") for page in GUIDE.glob("*.md")):
        image = Image.open(picture).convert("RGB")
        if image.width > GUIDE_PX:
            image = image.resize((GUIDE_PX, round(image.height * GUIDE_PX / image.width)), Image.Resampling.LANCZOS)
        (GUIDE / "pictures").mkdir(exist_ok=True)
        # few inks, and the rare ones among them: a track's, a warning's
        few = image.quantize(GUIDE_INKS, method=Image.Quantize.MAXCOVERAGE, kmeans=3)
        few.save(GUIDE / "pictures" / f"{name}.png", optimize=True)
    if name in MAIN:
        picture.replace(main / f"{name}.png")
    print(name)


def by_ear(window: Any, now: list[float], shoot: Callable[[str], None]) -> None:
    """The tour, and a person who taps along: 20 ms scatter, one beat left out, on a clock that the script turns."""
    import json

    import numpy as np

    from mervid import places

    session, player = window.session, window.session.player
    window.ask("tour")
    now[0] += 1.3
    player.tick()
    shoot("by-ear")
    session.listening.end_tour()
    truth = json.loads((places.demo_folder() / "Copper Ferry.json").read_text("utf-8"))
    rng = np.random.default_rng(3)
    beats = [t for t in truth["beats"] if 14 < t < 46]
    del beats[21]
    window.ask("tap-page")
    player.seek(13.0)
    player.play()
    zero = now[0] - 13.0
    for beat in beats:
        now[0] = zero + beat + float(rng.normal(0, 0.02))
        session.tapping.tap(down=beat in truth["downbeats"])
    player.pause()
    shoot("tap")
    session.tapping.clear()
    window.stages["align"].view.pages.turn_to("fold")
    window.transport.click.setChecked(False)


def gather(window: Any, titles: dict[str, int], shoot: Callable[[str], None]) -> None:
    """A gig list with what is ready in it, then filters over the whole library."""
    from mervid.core.library import filters
    from mervid.core.model import preparation

    session, view = window.session, window.stages["gather"].view
    case = session.bookcase
    for name in ("Copper Ferry", "Brass Tide"):
        p = session.library.history(titles[name]).preparation
        session.library.replace(titles[name], preparation.set_readiness(p, preparation.LOCKED))
    folder = case.make("folder", "The lantern boat")
    first = case.make("list", "Warm-up", parent=folder)
    case.add(first, [titles[n] for n in ("Night Barge", "Copper Ferry")])
    gig = case.make("list", "Gig list", parent=folder)
    names = ("Salt Ledger", "Lamplighter", "Night Barge", "Brass Tide", "Copper Ferry", "Slack Water", "Pontoon Static")
    case.add(gig, [titles[n] for n in names])
    case.set_begins(gig, "22:30")
    case.set_notes(gig, "Slow at first; the boat casts off at eleven")
    case.make("search", "Around 112", search=filters.parse("tempo:108-116"))
    session.catalogue.reread()
    view.side.tree.choose_shelf(gig)
    view.table.choose([titles["Copper Ferry"]])
    session.open(titles["Copper Ferry"])
    view.table.setFocus()
    window.note.hide()
    shoot("gather")
    session.shown.show(0)
    session.shown.add_filter(filters.near_tempo(113.1, percent=8, of="Copper Ferry"))
    session.shown.add_filter(filters.Filter(filters.DRIVE, 7.0, 9.0))
    view.panel.turn(2)
    window.note.hide()
    shoot("gather-filters")
    view.panel.turn(0)
    session.shown.ask(filters.Search())


def rehearse(
    window: Any, titles: dict[str, int], shoot: Callable[[str], None], wait: Callable[[Callable[[], object]], None]
) -> None:
    """A pair in the middle of its overlap, one whose grid strays, then the pairs of the whole demo set."""
    import attrs

    from mervid.core.model.beatgrid import Grid, Pin

    session = window.session
    window.go_to_stage("rehearse")
    session.shown.show(0)
    window.ask("pair", (titles["Copper Ferry"], titles["Slack Water"]))
    wait(lambda: session.pairing.judged and session.player.program)
    together = session.pairing.judged.together
    session.player.seek((together.start + together.stop) / 2 + 0.3)
    window.note.hide()
    shoot("rehearse")
    # a beat of the coming track 45 ms late, as if it had been heard wrongly there
    p, beat = session.track.preparation, session.pairing.meeting.enter + 41
    pins = [q for q in p.grid.pins if abs(q.beat - beat) > 8]
    pins += [Pin(float(p.grid.time_at(b)) + 0.045 * (b == beat), b) for b in (beat - 8, beat, beat + 8)]
    grid = Grid(tuple(sorted(pins, key=lambda q: q.beat)), p.grid.meter)
    places = session.pairing.proposals
    session.track.commit("Stray", attrs.evolve(p, grid=grid))
    wait(lambda: session.pairing.proposals is not places)
    session.player.seek(float(session.pairing.judged.together.clock.time_at(session.pairing.meeting.at + 38)))
    shoot("rehearse-mend")
    session.track.undo()
    window.ask("list-page")
    window.ask("judge-all")
    wait(lambda: len(session.pair_table.reports) >= 56 and not session.pair_table.busy)
    shoot("rehearse-list")
    window.ask("list-page")


def deliver(
    window: Any,
    titles: dict[str, int],
    home: Path,
    shoot: Callable[[str], None],
    wait: Callable[[Callable[[], object]], None],
) -> None:
    """The demo set on its way to an old player, a straightened drummer, and a page of the sheet."""
    session = window.session
    window.go_to_stage("deliver")
    session.shown.show(0)
    session.open(titles["Copper Ferry"])
    d = session.delivering
    d.use("An old player with three hot cues")
    d.set_out(home / "stick")
    wait(lambda: d.plan)
    window.ask("write")
    wait(lambda: d.report and not d.writing and d.plan)
    window.note.hide()
    d.out = Path("/media/night")
    window.stages["deliver"].view.target.show_target(d)
    shoot("deliver")
    window.ask("deliver-page", "straight")
    wait(lambda: session.straightening.shown)
    session.straightening.set_folder(home)
    window.ask("straighten")
    wait(lambda: any(e.made for e in session.straightening.entries()))
    made = session.straightening.entries()[-1].made
    wait(lambda: session.library.track(made).state == "ready")
    session.straightening.set_folder(None)
    window.note.hide()
    shoot("straighten")
    session.library.remove(made)
    session.catalogue.reread()
    window.ask("deliver-page", "paper")
    wait(lambda: session.paper.sheet and len(session.paper.sheet.rows) == len(titles))


def help_and_hands(
    window: Any, titles: dict[str, int], shoot: Callable[[Any, str], None], wait: Callable[[Callable[[], object]], None]
) -> None:
    """The guided start, the guide, the settings and the pad board."""
    session = window.session
    commands = {type(c).__name__: c for c in window._common}
    session.open(titles["Copper Ferry"])
    wait(lambda: session.reports.fresh)
    window.go_to_stage("align")
    if session.track.preparation.locked:
        window.ask("lock")
    window.note.hide()
    window.ask("first-minutes")
    session.first_minutes.go(2)
    shoot(window, "first-minutes")
    session.first_minutes.leave()
    window.ask("guide")
    guide = commands["GuideCommands"].window
    wait(lambda: guide.text.verticalScrollBar().value() > 0)
    shoot(guide, "guide")
    guide.close()
    window.show_board()
    session.player.play()
    wait(lambda: any(p.lit for p in window.board.pads))
    shoot(window.board, "board")
    session.player.pause()
    for page, name in (("Sound", "settings"), ("Pads", "pads")):
        window.ask("settings", page)
        shoot(commands["SettingsCommands"].dialog, name)
        commands["SettingsCommands"].dialog.accept()
    window.board.close()


def sheet(window: Any, path: Path) -> None:
    """The first page of the prep sheet, as it is printed."""
    from PyQt6.QtGui import QImage, QPainter

    from mervid.desk.views.prep_sheet import Setting, SheetPainter

    setting = Setting()
    scale = 1.5
    page = QImage(round(setting.page[0] * scale), round(setting.page[1] * scale), QImage.Format.Format_RGB32)
    page.fill(0xFFFFFFFF)
    painter = QPainter(page)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.scale(scale, scale)
    SheetPainter(window.session.paper.sheet, setting).page(painter, 0)
    painter.end()
    page.save(str(path))
    print(path)


def main() -> int:
    """Drive the window and save what it shows."""
    from PyQt6.QtCore import QSettings
    from PyQt6.QtWidgets import QApplication

    from mervid import places
    from mervid.core.cues import cue_edits, player_profile
    from mervid.core.edits import grid_edits
    from mervid.desk import app as desk
    from mervid.desk.session.session import Session
    from mervid.desk.sound.output import SilentClock
    from mervid.desk.sound.player import Player
    from mervid.store.library import Library

    folder = Path(sys.argv[1]) if len(sys.argv) > 1 else ROOT / "docs" / "screenshots"
    folder.mkdir(parents=True, exist_ok=True)
    app = QApplication(["mervid"])
    app.setApplicationName("mervid-screenshots")
    with tempfile.TemporaryDirectory() as home:
        # not with what a person set for this program
        QSettings.setDefaultFormat(QSettings.Format.IniFormat)
        QSettings.setPath(QSettings.Format.IniFormat, QSettings.Scope.UserScope, home)
        os.environ["MERVID_DATA"] = home
        session = Session(Library(Path(home) / "library.sqlite"), Path(home), Player(clock=SilentClock(lambda: now[0])))
        now = [0.0]
        window = desk.make_window(session)
        window.set_night(False)
        window.show()

        def wait(ready: Callable[[], object], seconds: float = 120) -> None:
            end = time.monotonic() + seconds
            while not ready():
                app.processEvents()
                time.sleep(0.01)
                if time.monotonic() > end:
                    raise TimeoutError("the window did not get there")

        def shoot(name: str) -> None:
            shoot_of(window, name)

        def shoot_of(widget: Any, name: str) -> None:
            window.note.hide()
            app.processEvents()
            app.processEvents()
            widget.grab().save(str(Path(home) / f"{name}.png"))
            keep(Path(home) / f"{name}.png", name, folder)

        shoot("empty")
        session.queue.add_files(sorted(places.demo_folder().glob("*.ogg")))
        wait(lambda: not session.queue.pool.busy, 600)
        wait(lambda: all(t.artists for t in session.library.tracks()))
        titles = {t.title: t.id for t in session.library.tracks()}
        gather(window, titles, shoot)
        window.go_to_stage("align")
        session.open(titles["Copper Ferry"])
        wait(lambda: session.reports.fresh)
        if session.track.preparation.locked:
            window.ask("lock")
        session.player.seek(33.2)
        window.ask("fit", "steady")
        wait(lambda: session.reports.fresh)
        shoot("align-steady")
        window.ask("fit", "follow")
        wait(lambda: session.reports.fresh)
        session.track.apply(cue_edits.add_cue, 17.4, name="Band in")
        session.track.apply(cue_edits.add_cue, 51.3, name="Break")
        grid = session.track.preparation.grid
        assert grid is not None
        # a beat that a hand confirms: heard close to the grid already
        trace, _ = session.track.drift() or (None, None)
        assert trace is not None
        near = min((abs(e), t) for t, e in zip(trace.times, trace.error, strict=True) if 30 < t < 37)[1]
        beat = float(round(float(grid.beat_at(near))))
        session.track.apply(grid_edits.add_pin, beat, float(near))
        wait(lambda: session.reports.fresh)
        session.player.seek(float(near) + 0.1)
        window.stages["align"].view.panel.turn_to(2)
        shoot("align")
        window.stages["align"].view.panel.turn_to(0)
        by_ear(window, now, shoot)
        session.open(titles["Pontoon Static"])
        wait(lambda: session.reports.fresh)
        session.player.seek(29.5)
        window.ask("opinion")
        shoot("opinions")
        window.ask("keep-opinion", False)
        session.open(titles["Night Barge"])
        wait(lambda: session.reports.fresh)
        session.player.seek(20.0)
        shoot("findings")
        wait(lambda: session.reports.fresh)
        window.set_night(True)
        session.player.seek(20.0)
        shoot("align-night")
        window.set_night(False)
        session.open(titles["Pontoon Static"])
        wait(lambda: session.reports.fresh)
        window.go_to_stage("phrase")
        session.recipes.use(3)
        window.ask("apply")
        window.note.hide()
        session.player.seek(63.0)
        window.stages["phrase"].phrases.choose_at_playhead()
        shoot("phrase")
        session.open(titles["Night Barge"])
        wait(lambda: session.reports.fresh)
        session.recipes.use(1)
        window.ask("recipe-page")
        shoot("recipe")
        session.selection.choose(session.shown.ids.tolist())
        window.ask("apply-all")
        wait(lambda: session.sheet.seen and not session.sheet.waiting)
        shoot("sheet-of-cues")
        window.ask("sheet-close")
        window.ask("apply")
        window.note.hide()
        window.ask("gear", player_profile.THREE)
        window.ask("player-page")
        session.player.seek(21.0)
        shoot("player")
        rehearse(window, titles, shoot, wait)
        deliver(window, titles, Path(home), shoot, wait)
        sheet(window, Path(home) / "sheet.png")
        keep(Path(home) / "sheet.png", "sheet", folder)
        help_and_hands(window, titles, shoot_of, wait)
        window.close()
    return 0


if __name__ == "__main__":
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    sys.exit(main())
