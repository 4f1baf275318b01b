"""What can be asked by ear: nudging while it plays, jumps that keep the beat, the tour, tapping, borrowing."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from ....core.edits import count_edits, grid_edits
from ....core.errors import Refused
from ....core.fitting import drift
from ....core.model import preparation
from ...widgets.borrow_dialog import BorrowDialog

if TYPE_CHECKING:
    from .stage import AlignStage as Stage
else:
    Stage = object

PHRASE = 8
"""Bars to a phrase, where the phrases of a track are not known."""
TAP_PAGE = 3


class EarRequests(Stage):
    """The part of the Align stage that listens."""

    # nudging

    def _ask_retune(self, by: object) -> None:
        self.bench.apply(count_edits.retune, by)

    def _ask_jog(self, what: object) -> None:
        """A strip is dragged: the grid goes along, and with it what is heard; it is kept when let go."""
        name, value, keep = what  # type: ignore[misc]
        edit = {"slide": grid_edits.slide, "retune": count_edits.retune}.get(name)
        p = self.bench.preparation
        if edit is None or (p.locked and not keep):
            self.bench.preview(None)
        elif keep:
            self.bench.apply(edit, value)
        else:
            try:
                self.bench.preview(edit(p, value))
            except Refused:
                self.bench.preview(None)

    def _show_meter(self) -> None:
        """Early or late, over the last two bars."""
        found, grid = self.bench.drift(), self.bench.grid
        at = self.player.position
        value = drift.lately(found[0], grid, at) if found and grid is not None else None
        shown = self.bench.shown
        allowed = float(shown.tolerance.at(np.array([at]), shown.mix_zones)[0])
        self.readings.ear.meter.show_value(value, allowed)

    # jumps

    def _ask_step(self, beats: object) -> None:
        """Jump by whole beats; while it plays, to the same place of the beat."""
        grid = self.bench.grid
        if grid is None or not isinstance(beats, int):
            return
        if self.player.playing:
            self.player.jump(beats)
            return
        here = float(grid.beat_at(self.player.position))
        goal = np.floor(here + 1e-6) + beats if beats > 0 else np.ceil(here - 1e-6) + beats
        self.player.seek(float(grid.time_at(goal)))

    def _ask_step_bar(self, bars: object) -> None:
        """Jump by whole bars; while it plays, to the same place of the bar."""
        grid = self.bench.grid
        if grid is None or not isinstance(bars, int):
            return
        index, within = grid.bar_index(float(grid.beat_at(self.player.now())) + 1e-6)
        if self.player.playing:
            here, there = (float(b) for b in grid.bar_start([int(index), int(index) + bars]))
            self.player.jump(there - here)
            return
        goal = int(index) + bars + (1 if bars < 0 and float(within) > 1e-3 else 0)
        self.player.seek(float(grid.time_at(grid.bar_start(goal))))

    def _ask_step_phrase(self, phrases: object) -> None:
        form, grid, step = self.bench.form, self.bench.grid, int(str(phrases))
        if form is None or grid is None:
            self._ask_step_bar(PHRASE * step)
            return
        here = float(grid.beat_at(self.player.now()))
        starts = [q.start for q in form.phrases]
        ahead = [b for b in starts if (b > here + 0.5 if step > 0 else b < here - 0.5)]
        if not ahead:
            return
        goal = ahead[0] if step > 0 else ahead[-1]
        self.player.go(max(0.0, float(grid.time_at(goal))))

    # tour

    def _ask_tour(self, _: object) -> None:
        if self.bench.grid is None:
            self._no_grid()
            return
        if not self.listening.touring:
            self.turn_page(1)
            self.readings.turn_to(4)
        if not self.listening.tour() and not self.bench.checking.spots:
            self.bench.said.emit("refused", "There is nothing to hear here yet.")

    def _ask_to_fix(self, _: object) -> None:
        """On the tour: this place is wrong; it goes round until it is mended, and the tour waits."""
        if not self.listening.touring:
            self.bench.said.emit("refused", "No tour is running: Ctrl+T begins one.")
            return
        self.listening.end_tour(loop=True)
        name = self.bench.checking.spots[self.bench.checking.current].name
        self.bench.said.emit(
            "done", f"Mend it here ({name}): drag hits onto the line, or nudge. It goes round; Ctrl+T goes on."
        )

    def _toured(self) -> None:
        """The tour began, ended or went on."""
        checking = self.bench.checking
        words = ""
        if self.listening.touring and checking.spots:
            words = f"{checking.current + 1} of {len(checking.spots)}: {checking.spots[checking.current].name}"
        self.readings.ear.show_tour(self.listening.touring, words)

    # tapping

    def _ask_tap_page(self, _: object) -> None:
        """Open the tap pad, or leave it."""
        leave = self.pages.currentIndex() == TAP_PAGE
        self.turn_page(0 if leave else TAP_PAGE)
        if not leave:
            self.pad.setFocus()

    def _ask_tap_use(self, _: object) -> None:
        if self.tapping.use():
            self.tapping.clear()
            self.player.pause()
            self.bench.said.emit("done", "Heard along your taps. Ctrl+Z takes it back.")

    def _ask_tap_clear(self, _: object) -> None:
        self.tapping.clear()
        self.pad.setFocus()

    def _ask_calibrate(self, _: object) -> None:
        if self.tapping.calibrating:
            self.tapping.end_calibration()
        else:
            self.turn_page(TAP_PAGE)
            self.tapping.calibrate()
        self.pad.setFocus()

    def _left_pad(self) -> None:
        if self.tapping.calibrating:
            self.tapping.end_calibration()
        else:
            self.turn_page(0)
            self.fold.setFocus()

    def _show_taps(self) -> None:
        t = self.tapping
        self.pad.show_taps(len(t.taps), t.reading, tuple(x.down for x in t.taps), self._tap_words(), t.calibrating)
        self.tap_use.setEnabled(t.reading is not None and not t.calibrating)
        self.tap_clear.setEnabled(bool(t.taps) and not t.calibrating)
        self.calibrate.setText("Stop" if t.calibrating else "Calibrate")

    def _tap_words(self) -> str:
        t, r = self.tapping, self.tapping.reading
        if t.calibrating:
            left = max(0, 23 - len(t.taps))
            return f"Tap once with every click: {left} more measure how late you and this device are."
        if t.refusal:
            return t.refusal
        known = f"Your {t.delay * 1000:.0f} ms are taken off." if t.calibrated else "Not calibrated yet."
        if r is None:
            return f"{known} The first strike starts the music; most of a minute is enough."
        lost = int((~r.used).sum())
        words = f"{len(r.times)} taps, each ± {r.scatter * 1000:.0f} ms, so beats ± {r.phase_sd * 1000:.0f} ms"
        words += f"; {lost} left out" if lost else ""
        words += "; the tempo wanders" if r.wanders else ""
        return f"{words}. {known}"

    # borrowing

    def _ask_borrow(self, full: object) -> None:
        """Choose whose grid to borrow; `full` is the track to begin with."""
        t = self.bench.track
        if t is None or self.bench.evidence is None:
            self.bench.said.emit("refused", "This track is not heard yet: wait until it is.")
            return
        if self.bench.preparation.locked:
            self.bench.said.emit("refused", preparation.LOCKED_WORDS)
            return
        BorrowDialog(self, self.borrowing, full if isinstance(full, int) else None).open()
