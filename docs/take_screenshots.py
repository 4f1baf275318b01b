"""Make the pictures in docs/screenshots from the demo set: `.venv/bin/python docs/take_screenshots.py [FOLDER]`.

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


def by_ear(window: Any, now: list[float], shoot: Callable[[str], None]) -> None:
    """The tour, and a person who taps along: 20 ms scatter, one beat left out, on a clock that the script turns."""
    import json

    import numpy as np

    from mervid import places

    align, player = window.align, window.player
    align.ask("tour")
    now[0] += 1.3
    player.tick()
    shoot("by-ear")
    align.listening.end_tour()
    truth = json.loads((places.demo_folder() / "Copper Ferry.json").read_text("utf-8"))
    rng = np.random.default_rng(3)
    beats = [t for t in truth["beats"] if 14 < t < 46]
    del beats[21]
    align.ask("tap-page")
    player.seek(13.0)
    player.play()
    zero = now[0] - 13.0
    for beat in beats:
        now[0] = zero + beat + float(rng.normal(0, 0.02))
        align.tapping.tap(down=beat in truth["downbeats"])
    player.pause()
    shoot("tap")
    align.tapping.clear()
    align.turn_page(0)
    window.transport.click.setChecked(False)


def main() -> int:
    """Drive the window and save what it shows."""
    from PyQt6.QtWidgets import QApplication

    from mervid import places
    from mervid.core.cues import cue_edits, player_profile
    from mervid.core.edits import grid_edits
    from mervid.core.model import preparation
    from mervid.desk import app as desk
    from mervid.desk.session.open_track import Workbench
    from mervid.desk.sound.output import SilentClock
    from mervid.desk.sound.player import Player
    from mervid.desk.widgets.borrow_dialog import BorrowDialog
    from mervid.store.library import Library

    folder = Path(sys.argv[1]) if len(sys.argv) > 1 else ROOT / "docs" / "screenshots"
    folder.mkdir(parents=True, exist_ok=True)
    app = QApplication(["mervid"])
    app.setApplicationName("mervid-screenshots")
    with tempfile.TemporaryDirectory() as home:
        bench = Workbench(Library(Path(home) / "library.sqlite"), Path(home))
        now = [0.0]
        window = desk.make_window(bench, Player(clock=SilentClock(lambda: now[0])))
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
            app.processEvents()
            app.processEvents()
            window.grab().save(str(folder / f"{name}.png"))
            print(folder / f"{name}.png")

        shoot("empty")
        bench.intake.add_files(sorted(places.demo_folder().glob("*.ogg")))
        wait(lambda: not bench.intake.pool.busy, 600)
        titles = {t.title: t.id for t in window.list.tracks.rows}
        bench.open(titles["Copper Ferry"])
        wait(lambda: bench.advice.fresh)
        window.player.seek(33.2)
        shoot("align-steady")
        window.align.ask("fit", "follow")
        wait(lambda: bench.advice.fresh)
        window.align.ask("page", 1)
        window.align.ask("seen")
        window.align.ask("seen")
        shoot("spot-check")
        window.align.ask("page", 2)
        shoot("table")
        window.align.ask("page", 2)
        bench.apply(cue_edits.add_cue, 17.4, name="Band in")
        bench.apply(cue_edits.add_cue, 51.3, name="Break")
        grid = bench.preparation.grid
        assert grid is not None
        # a beat that a hand confirms: heard close to the grid already
        trace, _ = bench.drift() or (None, None)
        assert trace is not None
        near = min((abs(e), t) for t, e in zip(trace.times, trace.error, strict=True) if 30 < t < 37)[1]
        beat = float(round(float(grid.beat_at(near))))
        bench.apply(grid_edits.add_pin, beat, float(near))
        wait(lambda: bench.advice.fresh)
        window.player.seek(float(near) + 0.1)
        window.align.readings.turn_to(2)
        shoot("align")
        window.align.readings.turn_to(0)
        by_ear(window, now, shoot)
        bench.open(titles["Pontoon Static"])
        wait(lambda: bench.advice.fresh)
        window.player.seek(29.5)
        window.align.ask("opinion")
        shoot("opinions")
        window.align.ask("keep-opinion", False)
        bench.open(titles["Night Barge"])
        wait(lambda: bench.advice.fresh)
        window.player.seek(20.0)
        shoot("findings")
        wait(lambda: bench.advice.fresh)
        window.set_night(True)
        window.player.seek(20.0)
        shoot("align-night")
        window.set_night(False)
        bench.open(titles["Pontoon Static"])
        wait(lambda: bench.advice.fresh)
        window.go_to_stage(1)
        window.phrase.state.use(3)
        window.phrase.ask("apply")
        window.note.hide()
        window.player.seek(63.0)
        window.phrase.follow_playhead()
        shoot("phrase")
        bench.open(titles["Lamplighter"])
        wait(lambda: bench.advice.fresh)
        window.phrase.state.use(1)
        window.phrase.ask("recipe-page")
        shoot("recipe")
        window.phrase.ask("apply")
        window.note.hide()
        window.phrase.ask("gear", player_profile.THREE)
        window.phrase.ask("player-page")
        window.player.seek(21.0)
        shoot("player")
        window.go_to_stage(0)
        bench.open(titles["Lamplighter"])
        wait(lambda: bench.advice.fresh)
        window.align.ask("fit", "follow")
        window.align.ask("readiness", preparation.CHECKED)
        bench.open(titles["Lamplighter (voice only)"])
        wait(lambda: bench.advice.fresh)
        window.align.ask("borrow", titles["Lamplighter"])
        wait(lambda: window.align.borrowing.match)
        app.processEvents()
        picture = folder / "borrow.png"
        window.findChildren(BorrowDialog)[-1].grab().save(str(picture))
        print(picture)
        window.close()
    return 0


if __name__ == "__main__":
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    sys.exit(main())
