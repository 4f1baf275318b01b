"""Align: tempo, pins, downbeats, drift. Turns what hands do in the views into edits of the open track."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import (
    QButtonGroup,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QSplitter,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from ....core.edits import grid_edits, listening_edits, track_edits
from ....core.errors import Refused
from ....core.model.preparation import Preparation
from ....store.library import READY
from ...session.borrowing import Borrowing
from ...session.listening import Listening
from ...session.open_track import Workbench
from ...session.tapping import Tapping
from ...sound.player import Player
from ...views.bar_fold import BarFold
from ...views.closeup import CloseUp
from ...views.drift_trace import DriftTrace
from ...views.overview import Overview
from ...views.spot_check import SpotCheck
from ...views.tables import Tables
from ...views.tap_pad import TapPad
from ...widgets.parts import restyle
from ...widgets.transport import Transport
from ...widgets.value_line import ValueLine
from .ear_requests import TAP_PAGE, EarRequests
from .panel import Readings
from .part_requests import PartRequests
from .pieces import page_tabs
from .requests import Requests

PAGES = (
    ("BAR FOLD", "The track cut at every bar and stacked"),
    ("SPOT CHECK", "Five places side by side (Q)"),
    ("TABLE", "Pins, bars and the spot check in figures (Shift+Q)"),
    ("TAP", "Tap along with the music (0)"),
)


class AlignStage(Requests, PartRequests, EarRequests, QWidget):
    """Overview, drift trace, bar fold and close-up over one another; readings at the right."""

    reading = pyqtSignal(str)

    def __init__(self, bench: Workbench, player: Player, transport: Transport) -> None:
        super().__init__()
        self.setObjectName("bench")
        self.bench, self.player = bench, player
        self.listening = Listening(bench, player, transport, lambda: self.part)
        self.tapping, self.borrowing = Tapping(bench, player), Borrowing(bench)
        self.overview, self.trace = Overview(), DriftTrace()
        self.fold, self.closeup = BarFold(), CloseUp()
        self.spots, self.tables, self.form, self.pad = SpotCheck(), Tables(), ValueLine(), TapPad()
        self.readings = Readings()
        self.chosen_pin = -1
        self.first_point: float | None = None
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
        self.page_buttons = QButtonGroup(self)
        page_tabs(self.page_buttons, row, PAGES)
        self.page_buttons.idClicked.connect(self.turn_page)
        self.hint = QLabel("")
        self.hint.setObjectName("faint")
        row.addWidget(self.hint)
        row.addStretch(1)
        self.keep, self.back = QPushButton("Keep it"), QPushButton("Back")
        for b, keep in ((self.keep, True), (self.back, False)):
            b.setToolTip("Enter" if keep else "Esc")
            b.clicked.connect(lambda _=False, k=keep: self.ask("keep-opinion", k))
            b.hide()
            row.addWidget(b)
        self.tap_use, self.tap_clear = QPushButton("Use these taps"), QPushButton("Start again")
        self.calibrate = QPushButton("Calibrate")
        self.tap_buttons = (self.tap_use, self.tap_clear, self.calibrate)
        for b, name, tip in (
            (self.tap_use, "tap-use", "Find the beats along these taps (Ctrl+Enter)"),
            (self.tap_clear, "tap-clear", "Forget these taps"),
            (self.calibrate, "calibrate", "Measure how late you and this device tap (Ctrl+0)"),
        ):
            b.setToolTip(tip)
            b.clicked.connect(lambda _=False, n=name: self.ask(n))
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
        column.addWidget(self.form)
        self.pages = QStackedWidget()
        for page in (self.fold, self.spots, self.tables, self.pad):
            self.pages.addWidget(page)
        column.addWidget(self.pages, 1)
        return box

    def turn_page(self, page: int) -> None:
        """Show the fold (0), the spot check (1) or the table (2)."""
        button = self.page_buttons.button(page)
        if button is not None:
            button.setChecked(True)
        if page in (1, 2) and page != self.pages.currentIndex():
            self.bench.checking.choose()
        if page != TAP_PAGE:
            self.tapping.end_calibration()
        self.pages.setCurrentIndex(page)
        self._checked()
        self._reading_line()

    def resizeEvent(self, e: QResizeEvent | None) -> None:
        self._reading_line()
        super().resizeEvent(e)

    def _reading_line(self) -> None:
        """Above the fold: what it shows, or which second opinion or other grid is looked at."""
        advice, look = self.bench.advice, self.bench.compare.look
        opinion, others = advice.opinion, len(advice.report.opinions) - 1
        instead = opinion is not None or look is not None
        fold = self.pages.currentIndex() == 0
        for b in (self.keep, self.back):
            b.setVisible(instead)
        for b in self.page_buttons.buttons():
            b.setVisible(not instead)
        for b in (*self.bars.buttons(), self.per):
            b.setVisible(fold and not instead)
        tap = self.pages.currentIndex() == TAP_PAGE
        for b in self.tap_buttons:
            b.setVisible(tap and not instead)
        self.others.setVisible(others > 0 and not tap and look is None and (self.width() > 700 or instead))
        self.others.setText("Next reading" if opinion else f"Other readings {others}")
        text = ""
        if look is not None:
            text = f"Compare: {look.name}  (V flips)"
        elif opinion is not None:
            text = f"{advice.index} of {others}: {opinion.name}, {opinion.chance:.0%} likely".replace("%", " %")
        elif self.pages.currentIndex() == 1:
            left = self.bench.checking.left
            text = f"{left} to see.  X: seen, and on" if left else "All seen"
        elif fold and self.width() > 1130:
            text = "straight threads: the grid is true"
        self.hint.setObjectName("opinion" if instead else "faint")
        self.hint.setText(text)
        self.hint.setVisible(bool(text))
        restyle(self.hint)

    def _connect(self) -> None:
        b = self.bench
        b.track_opened.connect(self._opened)
        b.sound_changed.connect(self._sound)
        b.sound_changed.connect(self.listening.load)
        b.shown_changed.connect(self._shown)
        b.offers_changed.connect(self._offers)
        b.advice.changed.connect(self._advised)
        self.overview.part_chosen.connect(self._choose_part)
        b.checking.changed.connect(self._checked)
        b.trying.tried.connect(self.readings.show_tried)
        for view in (self.overview, self.trace, self.fold, self.closeup, self.spots, self.tables):
            view.seek.connect(self.player.seek)
        self.overview.dropped.connect(self._let_go)
        self.overview.zones_moving.connect(lambda z, t: self._zones(z, t, keep=False))
        self.overview.zones_placed.connect(lambda z, t: self._zones(z, t, keep=True))
        self.player.moved.connect(self._moved)
        self.fold.hovered.connect(self.reading)
        self.fold.pin_moving.connect(self._fold_pin_moving)
        self.fold.pin_placed.connect(self._fold_pin_placed)
        self.closeup.pin_moving.connect(self._close_pin_moving)
        self.closeup.pin_placed.connect(self._close_pin_placed)
        self.spots.pin_moving.connect(self._spot_pin_moving)
        self.spots.pin_placed.connect(self._spot_pin_placed)
        self.spots.chosen.connect(self._look_at)
        self.spots.marked.connect(lambda i: self.ask("seen", i))
        self.pad.tapped.connect(lambda down, since: self.tapping.tap(down=down, ago=since))
        self.pad.left.connect(self._left_pad)
        self.pad.taken.connect(lambda: self.ask("tap-use"))
        self.tapping.changed.connect(self._show_taps)
        self.listening.tour_changed.connect(self._toured)
        self.tables.moved.connect(self._pin_typed)
        self.tables.removed.connect(self._pin_removed)
        for teller in (self.tables, self.form):
            teller.refused.connect(lambda text: b.said.emit("refused", text))
        for view in (self.fold, self.closeup):
            view.beat_picked.connect(lambda t: self.ask("beat", t))
        for view in (self.fold, self.closeup, self.spots):
            view.pin_dropped.connect(self._drop)
        self.closeup.pin_chosen.connect(self.choose_pin)
        self.trace.pin_chosen.connect(self.choose_pin)
        self.readings.asked.connect(self.ask)

    # showing

    def _message(self) -> str:
        return self.bench.state_words("No beats were heard here. Type a tempo at the right to begin a grid.")

    def ask(self, name: str, argument: object = None) -> None:
        """Carry out one request by name; see `commands` and the buttons in `readings`."""
        if self.bench.track is not None:
            getattr(self, f"_ask_{name.replace('-', '_')}")(argument)

    def _opened(self) -> None:
        self.form.close_form()
        self.first_point = None
        self.choose_pin(-1)
        self._choose_part(None)
        if self.pages.currentIndex() in (1, 2):
            self.bench.checking.choose()
        self.listening.end_tour()
        self.tapping.end_calibration()
        self.tapping.clear()
        self.listening.load()
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
        rate = b.track.rate if b.track is not None else 44100
        self.spots.show_sound(b.samples, rate, b.attack, self._message())
        onsets = (b.onset_times, b.onset_strengths)
        self.closeup.show_sound(b.waveform, b.samples, b.evidence, onsets, self._message())
        self.closeup.show_preparation(b.shown, b.form)

    def _shown(self) -> None:
        self.listening.grid_changed()
        self._show_meter()
        self._show_above()
        self._show_fold()
        self.closeup.show_preparation(self.bench.shown, self.bench.form)
        self._checked()

    def _checked(self) -> None:
        """Spot check and tables, while they are seen."""
        b, page = self.bench, self.pages.currentIndex()
        if page not in (1, 2):
            return
        found = b.drift()
        trace, states = found[0] if found else None, b.checking.states()
        if page == 1:
            self.spots.show_spots(b.shown, trace, b.checking.spots, states, b.checking.current)
            if b.shown is b.preparation:
                self._reading_line()
        else:
            self.tables.show_all(b.shown, trace, b.checking.spots, states)

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
        self.overview.show_preparation(b.shown, trace, b.advice.unsure(), b.form)
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
        # the tools for a part come with it
        leaf = self.readings.leaves.currentIndex()
        if leaf == (0 if part else 1):
            self.readings.turn_to(1 - leaf)

    def _moved(self, position: float) -> None:
        self._show_meter()
        for view in (self.overview, self.trace, self.fold, self.closeup, self.spots):
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
            return grid_edits.add_pin(self.bench.preparation, beat, time)
        except Refused:
            return None

    def _fold_pin_moving(self, time: float, beat: float, snap: bool) -> None:
        self._preview_pin(self.bench.snap(time) if snap else time, beat)

    def _preview_pin(self, time: float, beat: float) -> None:
        if self.bench.preparation.locked:
            return
        value = self._pinned(time, beat)
        if value is not None:
            self.bench.preview(value)

    def _fold_pin_placed(self, time: float, beat: float, snap: bool) -> None:
        self._pull(beat, self.bench.snap(time) if snap else time)

    def _pull(self, beat: float, time: float) -> None:
        """A hand pin, and the hearing guided between its neighbours."""
        evidence = self.bench.evidence
        if evidence is None:
            self.bench.apply(grid_edits.add_pin, beat, time)
        else:
            self.bench.apply(listening_edits.pull, evidence, beat, time)

    def _spot_pin_moving(self, time: float, beat: float, snap: bool) -> None:
        self._preview_pin(self.bench.snap(time, self.spots.reach / 6) if snap else time, beat)

    def _spot_pin_placed(self, time: float, beat: float, snap: bool) -> None:
        self._pull(beat, self.bench.snap(time, self.spots.reach / 6) if snap else time)

    def _pin_typed(self, index: int, time: float) -> None:
        if self.bench.apply(grid_edits.move_pin, index, time):
            self.choose_pin(index)
        self._checked()

    def _pin_removed(self, index: int) -> None:
        self.bench.apply(grid_edits.remove_pin, index)

    def _zones(self, zones: tuple[tuple[float, float], ...], moved: float, *, keep: bool) -> None:
        """Mix zones whose edge at `moved` s is dragged: it goes to the nearest bar line."""
        b = self.bench
        if b.preparation.locked:
            if keep:
                b.apply(track_edits.set_zones, zones)
            return
        if b.preparation.grid is not None:
            grid = b.preparation.grid
            near = float(np.clip(grid.time_at(grid.bar_line_near(moved)), 0.0, b.duration))
            zones = tuple((near if x == moved else x, near if y == moved else y) for x, y in zones)
        if keep:
            b.apply(track_edits.set_zones, zones)
        else:
            b.preview(track_edits.set_zones(b.preparation, zones))

    def _close_pin_moving(self, time: float, beat: float, snap: bool) -> None:
        self._preview_pin(self._snapped(time, snap), beat)

    def _snapped(self, time: float, snap: bool) -> float:
        # snapping reaches eight pixels or 30 ms, whichever is less
        reach = min(0.03, 8 / max(1, self.closeup.width()) * self.closeup.span)
        return self.bench.snap(time, reach) if snap else time

    def _close_pin_placed(self, time: float, beat: float, snap: bool) -> None:
        if self.bench.apply(grid_edits.add_pin, beat, self._snapped(time, snap)) and self.bench.grid is not None:
            self.choose_pin(int(np.argmin(np.abs(self.bench.grid.beats - beat))))

    def _let_go(self) -> None:
        """What was dragged in the overview stays as it was."""
        self.bench.preview(None)
        self._choose_part(self.part)

    def _drop(self) -> None:
        self.bench.preview(None)
