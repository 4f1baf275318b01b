"""Align: tempo, pins, downbeats, drift. Turns what hands do in the views into edits of the open track."""

from __future__ import annotations

import re

import numpy as np
from PyQt6.QtCore import Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import (
    QApplication,
    QButtonGroup,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QSplitter,
    QVBoxLayout,
    QWidget,
)

from ...core import guidance, guided, preparation
from ...core.case import Finding
from ...core.errors import Refused
from ...core.preparation import Preparation
from ...store.library import FAILED, READY
from ..player import Player
from ..views.bar_fold import BarFold
from ..views.closeup import CloseUp
from ..views.drift_trace import DriftTrace
from ..views.overview import Overview
from ..workbench import Workbench
from .readings import Readings, restyle


class AlignStage(QWidget):
    """Overview, drift trace, bar fold and close-up over one another; readings at the right."""

    reading = pyqtSignal(str)

    def __init__(self, bench: Workbench, player: Player) -> None:
        super().__init__()
        self.setObjectName("bench")
        self.bench, self.player = bench, player
        self.overview, self.trace = Overview(), DriftTrace()
        self.fold, self.closeup = BarFold(), CloseUp()
        self.readings = Readings()
        self.chosen_pin = -1
        self.part: tuple[float, float] | None = None
        views = QSplitter(Qt.Orientation.Vertical)
        views.setChildrenCollapsible(False)
        for view, stretch in ((self.overview, 0), (self.trace, 1), (self._framed_fold(), 4), (self.closeup, 2)):
            views.addWidget(view)
            views.setStretchFactor(views.count() - 1, stretch)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(views, 1)
        row.addWidget(self.readings)
        self._connect()

    def _framed_fold(self) -> QWidget:
        """The fold under a line that says what it is and how many bars a row holds."""
        box = QWidget()
        box.setObjectName("bench")
        column = QVBoxLayout(box)
        column.setContentsMargins(0, 4, 0, 0)
        column.setSpacing(2)
        row = QHBoxLayout()
        row.setContentsMargins(12, 0, 12, 0)
        row.setSpacing(4)
        self.fold_heading = QLabel("BAR FOLD")
        self.fold_heading.setObjectName("heading")
        row.addWidget(self.fold_heading)
        self.hint = QLabel("straight threads: the grid is true.  Drag ink onto its thread to pin it.")
        self.hint.setObjectName("faint")
        row.addWidget(self.hint)
        row.addStretch(1)
        self.keep, self.back = QPushButton("Keep it"), QPushButton("Back")
        for b, keep in ((self.keep, True), (self.back, False)):
            b.setToolTip("Enter" if keep else "Esc")
            b.clicked.connect(lambda _=False, k=keep: self.ask("keep-opinion", k))
            b.hide()
            row.addWidget(b)
        self.others = QPushButton("")
        self.others.setObjectName("plain")
        self.others.setToolTip("Other ways to read the beats and bars of this track, one after the other (O)")
        self.others.clicked.connect(lambda: self.ask("opinion"))
        self.others.hide()
        row.addWidget(self.others)
        self.bars = QButtonGroup(self)
        for n in (1, 2, 4, 8):
            b = QPushButton(str(n))
            b.setObjectName("plain")
            b.setCheckable(True)
            b.setChecked(n == 1)
            b.setToolTip(f"{n} bar{'s' if n > 1 else ''} a row (R changes)")
            b.setAccessibleName(f"{n} bars a row")
            self.bars.addButton(b, n)
            row.addWidget(b)
        self.per = QLabel("bars a row")
        self.per.setObjectName("faint")
        row.addWidget(self.per)
        self.bars.idClicked.connect(self.fold.set_bars)
        column.addLayout(row)
        column.addWidget(self.fold, 1)
        return box

    def resizeEvent(self, e: QResizeEvent | None) -> None:
        self._reading_line()
        super().resizeEvent(e)

    def _reading_line(self) -> None:
        """Above the fold: what it shows, or which second opinion is looked at."""
        advice = self.bench.advice
        opinion, others = advice.opinion, len(advice.report.opinions) - 1
        for b in (self.keep, self.back):
            b.setVisible(opinion is not None)
        for label in (self.fold_heading, self.per):
            label.setVisible(opinion is None)
        self.others.setVisible(others > 0 and self.width() > 700)
        self.others.setText("Next reading" if opinion else f"Other readings {others}")
        if opinion is not None:
            self.hint.setObjectName("opinion")
            self.hint.setText(
                f"{advice.index} of {others}: {opinion.name}, {opinion.chance:.0%} likely".replace("%", " %")
            )
        else:
            self.hint.setObjectName("faint")
            self.hint.setText("straight threads: the grid is true.  Drag ink onto its thread to pin it.")
        # half a sentence helps nobody
        self.hint.setVisible(opinion is not None or self.width() > (1130 if others > 0 else 1000))
        restyle(self.hint)

    def _connect(self) -> None:
        b = self.bench
        b.track_opened.connect(self._opened)
        b.sound_changed.connect(self._sound)
        b.shown_changed.connect(self._shown)
        b.offers_changed.connect(self._offers)
        b.advice.changed.connect(self._advised)
        self.overview.part_chosen.connect(self._choose_part)
        for view in (self.overview, self.trace, self.fold, self.closeup):
            view.seek.connect(self.player.seek)
        self.player.moved.connect(self._moved)
        self.fold.hovered.connect(self.reading)
        self.fold.pin_moving.connect(self._fold_pin_moving)
        self.fold.pin_placed.connect(self._fold_pin_placed)
        self.closeup.pin_moving.connect(self._close_pin_moving)
        self.closeup.pin_placed.connect(self._close_pin_placed)
        for view in (self.fold, self.closeup):
            view.pin_dropped.connect(self._drop)
        self.closeup.pin_chosen.connect(self.choose_pin)
        self.trace.pin_chosen.connect(self.choose_pin)
        self.readings.asked.connect(self.ask)

    # showing

    def _message(self) -> str:
        t = self.bench.track
        if t is None:
            return ""
        if t.state == FAILED:
            return t.message
        if t.state != READY:
            return "Being read…" if self.bench.waveform is None else "Hearing the beats…"
        return "No beats were heard here. Type a tempo at the right to begin a grid."

    def _opened(self) -> None:
        self.choose_pin(-1)
        self._choose_part(None)
        self._sound()
        self._offers()

    def _sound(self) -> None:
        b = self.bench
        message = self._message()
        self.overview.show_sound(b.waveform, b.evidence, message)
        self._show_above()
        # one view in each turn of the event loop: painting all at once would be felt
        QTimer.singleShot(0, self._sound_fold)
        QTimer.singleShot(0, self._sound_closeup)

    def _sound_fold(self) -> None:
        self.fold.show_sound(self.bench.ink, self.bench.duration, self._message())
        self._show_fold()

    def _sound_closeup(self) -> None:
        b = self.bench
        onsets = (b.onset_times, b.onset_strengths)
        self.closeup.show_sound(b.waveform, b.samples, b.evidence, onsets, self._message())
        self.closeup.show_preparation(b.shown)

    def _shown(self) -> None:
        self._show_above()
        self._show_fold()
        self.closeup.show_preparation(self.bench.shown)

    def _show_fold(self) -> None:
        found = self.bench.drift()
        self.fold.show_preparation(self.bench.shown, found[0] if found else None, self.bench.advice.unsure())

    def _show_above(self) -> None:
        """Overview, trace and readings."""
        b = self.bench
        found = b.drift()
        trace = found[0] if found else None
        if b.grid is None or not 0 <= self.chosen_pin < len(b.grid.pins):
            self.choose_pin(-1)
        self.overview.show_preparation(b.shown, trace, b.advice.unsure())
        self.trace.show_trace(b.shown, trace, b.heard.confidence if b.heard is not None else None, b.duration)
        self._show_readings()

    def _show_readings(self) -> None:
        """What the grid achieves: of what is saved, not of what is tried."""
        b = self.bench
        if b.shown is not b.preparation:
            return
        found = b.drift()
        title = b.track.title if b.track else ""
        waiting = "" if b.track is None or b.track.state == READY else self._message()
        kind = b.advice.report.kind or (b.track.kind if b.track else "")
        self.readings.show_reading(title, b.shown, found[1] if found else None, kind, waiting)

    def _offers(self) -> None:
        self.readings.show_offers(self.bench.offers, self.bench.preparation)

    def _advised(self) -> None:
        """Findings and second opinions came, went or grew old."""
        b = self.bench
        ready = b.track is not None and b.evidence is not None
        waiting = "" if not ready else "Nothing odd." if b.advice.fresh else "Listening for what is odd…"
        self.readings.show_report(b.advice.report, b.advice.fresh, waiting)
        self._reading_line()
        self._show_readings()

    def _choose_part(self, part: tuple[float, float] | None) -> None:
        """A part of the track is chosen for what comes next, or let go."""
        self.part = part
        self.overview.part = self.trace.part = part
        self.overview.update()
        self.trace.update()
        self.readings.show_part(part)

    def _moved(self, position: float) -> None:
        for view in (self.overview, self.trace, self.fold, self.closeup):
            view.set_position(position)

    def choose_pin(self, index: int) -> None:
        """Ring a pin as the one that keys act on."""
        self.chosen_pin = self.closeup.chosen = self.trace.chosen = index
        self.closeup.update()
        self.trace.update()

    # hands on pins

    def _pinned(self, time: float, beat: float) -> Preparation | None:
        """The preparation with `beat` pinned at `time`, or None where that makes no grid."""
        try:
            return preparation.add_pin(self.bench.preparation, beat, time)
        except Refused:
            return None

    def _fold_pin_moving(self, time: float, beat: float) -> None:
        self._preview_pin(self.bench.snap(time), beat)

    def _preview_pin(self, time: float, beat: float) -> None:
        if self.bench.preparation.locked:
            return
        value = self._pinned(time, beat)
        if value is not None:
            self.bench.preview(value)

    def _fold_pin_placed(self, time: float, beat: float) -> None:
        self.bench.apply(preparation.add_pin, beat, self.bench.snap(time))

    def _close_pin_moving(self, time: float, beat: float, snap: bool) -> None:
        self._preview_pin(self._snapped(time, snap), beat)

    def _snapped(self, time: float, snap: bool) -> float:
        # snapping reaches eight pixels or 30 ms, whichever is less
        reach = min(0.03, 8 / max(1, self.closeup.width()) * self.closeup.span)
        return self.bench.snap(time, reach) if snap else time

    def _close_pin_placed(self, time: float, beat: float, snap: bool) -> None:
        if self.bench.apply(preparation.add_pin, beat, self._snapped(time, snap)) and self.bench.grid is not None:
            self.choose_pin(int(np.argmin(np.abs(self.bench.grid.beats - beat))))

    def _drop(self) -> None:
        self.bench.preview(None)

    # everything that can be asked by button or key

    def ask(self, name: str, argument: object = None) -> None:
        """Carry out one request by name; see `keys` in the window and the buttons in `readings`."""
        if self.bench.track is None:
            return
        handler = getattr(self, f"_ask_{name.replace('-', '_')}")
        handler(argument)

    def _ask_fit(self, which: object) -> None:
        self.bench.use_offer(str(which))

    def _typed(self, text: object) -> float | None:
        """The tempo typed, BPM; None, with a word about it, where it is none."""
        cleaned = re.sub(r"(?i)\s*bpm\s*$", "", str(text).strip()).replace(",", ".")
        try:
            return float(cleaned)
        except ValueError:
            self.bench.said.emit("refused", f"'{text}' is not a tempo: type a number such as 113.5.")
            return None

    def _ask_tempo(self, text: object) -> None:
        value = self._typed(text)
        if value is not None:
            self.bench.apply(preparation.set_tempo, value, first=self.player.position)

    def _ask_tempo_typed(self, _: object) -> None:
        self._ask_tempo(self.readings.tempo.text())

    def _ask_edit(self, edit: object) -> None:
        self.bench.apply(edit)  # type: ignore[arg-type]

    def _ask_slide(self, step: object) -> None:
        self.bench.apply(preparation.slide, step)

    def _ask_pin(self, _: object) -> None:
        grid = self.bench.grid
        if grid is None:
            self.bench.said.emit("refused", "There is no grid yet: type a tempo first.")
            return
        position = self.player.position
        self.bench.apply(preparation.add_pin, float(round(float(grid.beat_at(position)))), self.bench.snap(position))

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
        if self.bench.apply(preparation.move_pin, index, grid.pins[index].time + milliseconds / 1000):
            self.choose_pin(index)

    def _ask_unpin(self, _: object) -> None:
        grid = self.bench.grid
        if grid is None:
            return
        index = self.chosen_pin
        if index < 0:
            index = int(np.argmin(np.abs(grid.times - self.player.position)))
        if self.bench.apply(preparation.remove_pin, index):
            self.choose_pin(-1)

    def _ask_downbeat(self, _: object) -> None:
        position, evidence = self.player.position, self.bench.evidence
        if evidence is None:
            self.bench.apply(preparation.set_downbeat, position)
        else:
            self.bench.apply(guidance.begin_bar, evidence, position)

    def _ask_beat(self, _: object) -> None:
        if self.bench.evidence is not None:
            self.bench.apply(guidance.pin_beat, self.bench.evidence, self.bench.snap(self.player.position))

    def _ask_opinion(self, _: object) -> None:
        self.bench.advice.step()

    def _ask_keep_opinion(self, keep: object) -> None:
        if not self.bench.advice.end(keep=bool(keep)) and not keep:
            self._choose_part(None)

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
        self.readings.turn_to(1 - self.readings.leaves.currentIndex())

    def _ask_part_edge(self, which: object) -> None:
        """Begin or end the part at the playhead."""
        here, end = self.player.position, self.bench.duration
        a, b = self.part or (0.0, end)
        a, b = (here, b if b > here else end) if which == 0 else (a if a < here else 0.0, here)
        if b - a > 0.1:
            self._choose_part((a, b))

    def _ask_part(self, kind: object) -> None:
        """Tell the hearing something about the chosen part, or about the whole track."""
        start, stop = self.part or (0.0, guided.END)
        if kind == guided.QUIET and self.part is None:
            self.bench.said.emit("refused", "Choose a part first: drag with Shift in the overview, or press [ and ].")
            return
        value = 0.0
        if kind == guided.TEMPO:
            typed = self._typed(self.readings.tempo.text())
            if typed is None:
                return
            value = typed
        elif kind == guided.ALIKE:
            value = max(0.0, start - 2.0)
        if self.bench.tell(guided.Hint(str(kind), start, stop, value)):
            self._choose_part(None)

    def _ask_cue(self, free: object) -> None:
        self.bench.apply(preparation.add_cue, self.player.position, snap=not free)

    def _ask_cue_pressed(self, _: object) -> None:
        self._ask_cue(bool(QApplication.keyboardModifiers() & Qt.KeyboardModifier.ShiftModifier))

    def _ask_jump(self, cue_id: object) -> None:
        for cue in self.bench.preparation.cues:
            if cue.id == cue_id:
                self.player.seek(cue.at(self.bench.grid))

    def _ask_jump_number(self, number: object) -> None:
        cues = self.bench.preparation.cues
        if isinstance(number, int) and number < len(cues):
            self.player.seek(cues[number].at(self.bench.grid))

    def _ask_rename(self, pair: object) -> None:
        if not self.bench.apply(preparation.rename_cue, *pair):  # type: ignore[misc]
            self.readings.cues.fill(self.bench.preparation)

    def _ask_delete(self, cue_id: object) -> None:
        self.bench.apply(preparation.delete_cue, cue_id)

    def _ask_readiness(self, name: object) -> None:
        self.bench.set_readiness(str(name))
        # a press must not leave a button checked that the track isn't
        for key, b in self.readings.ready.items():
            b.setChecked(key == self.bench.preparation.readiness)

    def _ask_lock(self, _: object) -> None:
        locked = self.bench.preparation.locked
        self._ask_readiness(preparation.CHECKED if locked else preparation.LOCKED)

    def _ask_step(self, beats: object) -> None:
        """Jump by whole beats."""
        grid = self.bench.grid
        if grid is not None and isinstance(beats, int):
            here = float(grid.beat_at(self.player.position))
            goal = np.floor(here + 1e-6) + beats if beats > 0 else np.ceil(here - 1e-6) + beats
            self.player.seek(float(grid.time_at(goal)))

    def _ask_step_bar(self, bars: object) -> None:
        """Jump by whole bars."""
        grid = self.bench.grid
        if grid is not None and isinstance(bars, int):
            index, within = grid.bar_index(float(grid.beat_at(self.player.position)) + 1e-6)
            goal = int(index) + bars + (1 if bars < 0 and float(within) > 1e-3 else 0)
            self.player.seek(float(grid.time_at(grid.bar_start(goal))))

    def _ask_zoom(self, factor: object) -> None:
        self.closeup.zoom(float(factor))  # type: ignore[arg-type]

    def _ask_rows(self, _: object) -> None:
        order = [1, 2, 4, 8]
        n = order[(order.index(self.fold.bars) + 1) % 4]
        button = self.bars.button(n)
        if button is not None:
            button.setChecked(True)
        self.fold.set_bars(n)

    def _ask_type_tempo(self, _: object) -> None:
        self.readings.tempo.setFocus()
        self.readings.tempo.selectAll()
