"""What can be asked of the Align stage by key, button, menu or finder: whole grid, beats and bars, pins, cues, trust.

Each request turns into an edit of the open track; what can't be done is said.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QApplication

from ....core.cues import cue_edits
from ....core.edits import count_edits, grid_edits, listening_edits, track_edits, typed_values
from ....core.errors import Refused
from ....core.findings.study import Finding
from ....core.model import preparation
from ...theme.figures import ms
from ...widgets.value_line import Field

if TYPE_CHECKING:
    from .stage import AlignStage as Stage
else:
    Stage = object


class Requests(Stage):
    """The part of the Align stage that carries requests out."""

    def _ask_fit(self, which: object) -> None:
        self.bench.use_offer(str(which))

    def _read(self, read: object, text: object) -> float | None:
        """A value typed; None, with a word about it, where it can't be read."""
        try:
            return float(read(str(text)))  # type: ignore[operator]
        except Refused as e:
            self.bench.said.emit("refused", str(e))
            return None

    def _ask_tempo(self, text: object) -> None:
        value = self._read(typed_values.tempo, text)
        if value is not None and self.bench.apply(grid_edits.set_tempo, value, first=self.player.position):
            self._warn_if_off(f"{value:g} BPM")

    def _warn_if_off(self, what: str) -> None:
        """Say by how many ms the new tempo misses what is heard, where it does."""
        p = self.bench.preparation
        off = count_edits.off_by_most(p, self.bench.heard)
        if off is not None and off[0] > p.tolerance.loose:
            bar = p.grid.name_at(float(p.grid.beat_at(off[1]))) if p.grid is not None else ""
            self.bench.said.emit(
                "refused", f"{what} is set, but beats lie up to {ms(off[0])} off it (at {bar}). Ctrl+Z takes it back."
            )
        elif off is not None:
            self.bench.said.emit("done", f"{what}: no beat is heard more than {ms(off[0])} off it.")

    def _ask_round(self, _: object) -> None:
        if self.bench.apply(count_edits.round_tempo) and self.bench.grid is not None:
            self._warn_if_off(f"{self.bench.grid.tempo_overall():.0f} BPM")

    def _ask_two_points(self, _: object) -> None:
        """The first press marks a downbeat, the second another; then the bars between are asked for."""
        here = self.bench.snap(self.player.position)
        if self.first_point is None or abs(here - self.first_point) < 0.5:
            self.first_point = here
            self.bench.said.emit("done", f"First downbeat marked at {here:.3f} s. Go to a late one and press E there.")
            return
        first, last = sorted((self.first_point, here))
        self.first_point = None
        bars = count_edits.bars_between(self.bench.preparation, self.bench.heard, first, last)

        def take(count: int) -> bool:
            if not self.bench.apply(count_edits.two_points, first, last, count):
                return False
            self._warn_if_off(f"{self.bench.preparation.grid.tempo_overall():.3f} BPM")
            return True

        field = Field("bars between", str(bars), lambda t: typed_values.whole(t, "bars", 1, 9999))
        self.form.ask(f"Tempo from {first:.3f} s to {last:.3f} s", (field,), take)

    def _ask_slide_beats(self, beats: object) -> None:
        self.bench.apply(count_edits.slide_beats, beats)

    def _ask_tolerance(self, _: object) -> None:
        now = self.bench.preparation.tolerance
        fields = (
            Field("mix zones", f"{now.tight:g} ms", typed_values.tolerance),
            Field("elsewhere", f"{now.loose:g} ms", typed_values.tolerance),
        )
        # taking the values that stand is no mistake
        self.form.ask(
            "How far a beat may stray",
            fields,
            lambda tight, loose: self.bench.trying.use(tight, loose) or not self.bench.preparation.locked,
        )

    def _ask_tolerance_tried(self, pair: object) -> None:
        tight, loose = pair  # type: ignore[misc]
        self.bench.trying.ask(tight, loose)

    def _ask_tolerance_set(self, pair: object) -> None:
        tight, loose = pair  # type: ignore[misc]
        if not self.bench.trying.use(tight, loose):
            self.readings.show_tolerance(self.bench.preparation)

    def _ask_tempo_typed(self, _: object) -> None:
        self._ask_tempo(self.readings.tempo.text())

    def _ask_edit(self, edit: object) -> None:
        self.bench.apply(edit)  # type: ignore[arg-type]

    def _ask_slide(self, step: object) -> None:
        self.bench.apply(grid_edits.slide, step)

    def _ask_pin(self, _: object) -> None:
        grid = self.bench.grid
        if grid is None:
            self._no_grid()
            return
        position = self.player.position
        self.bench.apply(grid_edits.add_pin, float(round(float(grid.beat_at(position)))), self.bench.snap(position))

    def _ask_pin_by(self, step: object) -> None:
        """Choose the next or previous pin and go there."""
        grid = self.bench.grid
        if grid is None or not isinstance(step, int):
            return
        here = self.player.position
        after = (
            int(np.searchsorted(grid.times, here + 1e-4))
            if step > 0
            else int(np.searchsorted(grid.times, here - 1e-4)) - 1
        )
        index = int(np.clip(after, 0, len(grid.pins) - 1))
        self.choose_pin(index)
        self.player.seek(max(0.0, grid.pins[index].time))

    def _ask_nudge(self, milliseconds: object) -> None:
        """Move the chosen pin by some ms."""
        grid = self.bench.grid
        if grid is None or not isinstance(milliseconds, float):
            return
        if self.chosen_pin < 0:
            self.bench.said.emit("refused", "No pin is chosen: N goes to the next one, or click one.")
            return
        index = self.chosen_pin
        if self.bench.apply(grid_edits.move_pin, index, grid.pins[index].time + milliseconds / 1000):
            self.choose_pin(index)

    def _ask_unpin(self, _: object) -> None:
        grid = self.bench.grid
        if grid is None:
            return
        index = self.chosen_pin
        if index < 0:
            index = int(np.argmin(np.abs(grid.times - self.player.position)))
        if self.bench.apply(grid_edits.remove_pin, index):
            self.choose_pin(-1)

    def _ask_downbeat(self, _: object) -> None:
        position, evidence = self.player.position, self.bench.evidence
        if evidence is None:
            self.bench.apply(grid_edits.set_downbeat, position)
        else:
            self.bench.apply(listening_edits.begin_bar, evidence, position)

    def _ask_beat(self, time: object) -> None:
        """The hit at a time, or at the playhead, is a beat."""
        at = time if isinstance(time, float) else self.player.position
        if self.bench.evidence is not None:
            self.bench.apply(listening_edits.pin_beat, self.bench.evidence, self.bench.snap(at))

    def _ask_restart(self, _: object) -> None:
        position, evidence = self.player.position, self.bench.evidence
        if evidence is None:
            self.bench.apply(count_edits.restart, position)
        else:
            self.bench.apply(listening_edits.restart, evidence, position)

    def _ask_count_through(self, _: object) -> None:
        self.bench.apply(count_edits.count_through, self.player.position)

    def _ask_count_from(self, _: object) -> None:
        self.bench.apply(count_edits.count_from, self.player.position)

    def _ask_count_from_first(self, _: object) -> None:
        start = self.bench.music_begins()
        if start is None:
            self.bench.said.emit("refused", "Nothing sounds here yet: go to the first bar and press Ctrl+D.")
        else:
            self.bench.apply(count_edits.count_from_first, start)

    def _ask_meter(self, _: object) -> None:
        grid = self.bench.grid
        if grid is None:
            self._no_grid()
            return
        position = self.player.position
        now = grid.beats_per_bar(float(grid.beat_at(position)))
        field = Field("beats a bar", str(now), lambda t: typed_values.whole(t, "beats", 1, 32))
        self.form.ask("From the bar here on", (field,), lambda n: self.bench.apply(count_edits.set_meter, position, n))

    def _no_grid(self) -> None:
        self.bench.said.emit("refused", "There is no grid yet: type a tempo first.")

    def _ask_opinion(self, _: object) -> None:
        self.bench.compare.end(keep=False)
        self.bench.advice.step()

    def _ask_compare(self, _: object) -> None:
        self.bench.advice.end(keep=False)
        if not self.bench.compare.step():
            self.bench.said.emit("refused", "Nothing to compare: the fitted grid and the last locked one are this one.")
        self.bench.advice.changed.emit()

    def _ask_keep_opinion(self, keep: object) -> None:
        if self.form.isVisible() and not keep:
            self.form.close_form()
        elif self.bench.compare.end(keep=bool(keep)):
            self.bench.advice.changed.emit()
        elif not self.bench.advice.end(keep=bool(keep)) and not keep:
            if self.part is not None:
                self._choose_part(None)
            else:
                self.turn_page(0)

    def _ask_next_doubt(self, _: object) -> None:
        """Go where it is worth to look next."""
        place = self.bench.advice.next_place(self.player.position)
        if place is None:
            self.bench.said.emit("done", "No beat is doubtful or out of tolerance.")
        else:
            self.player.seek(place)

    def _ask_go_to(self, finding: object) -> None:
        if isinstance(finding, Finding) and finding.start is not None:
            self.player.seek(max(0.0, finding.start))

    def _ask_look_at(self, finding: object) -> None:
        self.bench.advice.preview(finding if isinstance(finding, Finding) else None)

    def _ask_fix(self, finding: object) -> None:
        if isinstance(finding, Finding):
            self.bench.advice.use(finding)

    def _ask_leaf(self, _: object) -> None:
        self.readings.turn_to((self.readings.leaves.currentIndex() + 1) % self.readings.leaves.count())

    def _ask_notes(self, _: object) -> None:
        self.readings.turn_to(3)
        self.readings.notes.setFocus()

    def _ask_write(self, text: object) -> None:
        if str(text) != self.bench.preparation.notes and not self.bench.apply(track_edits.write_notes, str(text)):
            self.readings.notes.setPlainText(self.bench.preparation.notes)

    def _ask_revert(self, _: object) -> None:
        if self.bench.evidence is None:
            return
        first = listening_edits.propose(self.bench.evidence, self.bench.duration, self.bench.wanted)
        self.bench.apply(grid_edits.revert, first)

    def _ask_page(self, page: object) -> None:
        self.turn_page(0 if self.pages.currentIndex() == page else int(str(page)))

    def _ask_spot(self, step: object) -> None:
        """The next place of the spot check, or the one before."""
        checking = self.bench.checking
        if self.pages.currentIndex() != 1:
            self.turn_page(1)
            step = 0
        self._look_at(checking.current + int(str(step)))

    def _look_at(self, index: int) -> None:
        spot = self.bench.checking.go(index)
        if spot is not None:
            self.player.seek(spot.start)
            if self.listening.touring:
                self.listening.visit()
                self._toured()

    def _ask_seen(self, index: object) -> None:
        """Mark a place as seen, or take it back; by key go on to the next that isn't."""
        checking = self.bench.checking
        if self.pages.currentIndex() != 1:
            self.bench.said.emit("refused", "Nothing is marked: open the spot check first (Q).")
            return
        at = index if isinstance(index, int) else checking.current
        if not checking.mark(at) or isinstance(index, int):
            return
        if not checking.left:
            self.listening.end_tour()
            self.bench.said.emit("done", "All five places were seen: the track is checked. Ctrl+L locks it.")
            return
        seen = [s.seen for s in checking.states()]
        self._look_at(next((at + k) % len(seen) for k in range(1, len(seen) + 1) if not seen[(at + k) % len(seen)]))

    def _ask_halves(self, _: object) -> None:
        on = not self.closeup.halves
        for view in (self.closeup, self.fold):
            view.halves = on
            view.update()

    def _ask_cue(self, free: object) -> None:
        self.bench.apply(cue_edits.add_cue, self.player.position, snap=cue_edits.FREE if free else cue_edits.DOWNBEAT)

    def _ask_cue_pressed(self, _: object) -> None:
        self._ask_cue(bool(QApplication.keyboardModifiers() & Qt.KeyboardModifier.ShiftModifier))

    def _ask_jump(self, cue_id: object) -> None:
        for cue in self.bench.preparation.cues:
            if cue.id == cue_id:
                self.player.go(cue.at(self.bench.grid))

    def _ask_cue_number(self, number: object) -> None:
        cue = cue_edits.in_slot(self.bench.preparation, number) if isinstance(number, int) else None
        if cue is not None:
            self.player.go(cue.at(self.bench.grid))

    def _ask_rename(self, pair: object) -> None:
        if not self.bench.apply(cue_edits.rename_cue, *pair):  # type: ignore[misc]
            self.readings.cues.fill(self.bench.preparation)

    def _ask_delete(self, cue_id: object) -> None:
        self.bench.apply(cue_edits.delete_cue, cue_id)

    def _ask_readiness(self, name: object) -> None:
        self.bench.set_readiness(str(name))
        # a press must not leave a button checked that the track isn't
        for key, b in self.readings.ready.items():
            b.setChecked(key == self.bench.preparation.readiness)

    def _ask_lock(self, _: object) -> None:
        locked = self.bench.preparation.locked
        self._ask_readiness(preparation.CHECKED if locked else preparation.LOCKED)

    def _ask_zoom(self, factor: object) -> None:
        view = self.spots if self.pages.currentIndex() == 1 else self.closeup
        view.zoom(float(str(factor)))

    def _ask_rows(self, _: object) -> None:
        self.turn_page(0)
        order = [1, 2, 4, 8]
        n = order[(order.index(self.fold.bars) + 1) % 4]
        button = self.bars.button(n)
        if button is not None:
            button.setChecked(True)
        self.fold.set_bars(n)

    def _ask_type_tempo(self, _: object) -> None:
        self.readings.tempo.setFocus()
        self.readings.tempo.selectAll()
