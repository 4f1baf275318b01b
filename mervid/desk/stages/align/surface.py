"""What the Align stage shows: overview, drift trace, pages and close-up over one another, the panel beside them.

Knows the session to show what is open; what hands do here is carried out by the sets of commands.
"""

from __future__ import annotations

from PyQt6.QtCore import Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QResizeEvent, QShowEvent
from PyQt6.QtWidgets import QButtonGroup, QHBoxLayout, QPushButton, QSplitter, QWidget

from ....core.figures import share
from ....store.track import READY
from ...session.session import Session
from ...theme.tr import tr
from ...theme.words import Words
from ...views.bar_fold import BarFold
from ...views.closeup import CloseUp
from ...views.drift_trace import DriftTrace
from ...views.overview import Overview
from ...views.spot_check import SpotCheck
from ...views.tables import Tables
from ...views.tap_pad import TapPad
from ...widgets.parts import restyle
from ...widgets.value_line import ValueLine
from ..frame import Keys, Page, Pages
from .panel import AlignPanel

FOLD, SPOTS, TABLE, TAP = "fold", "spots", "table", "tap"
PINS_SHOWN = (SPOTS, TABLE)
"""Pages that show the places of the spot check."""
NARROW, ROOMY = 700, 1130
"""From so many px on there is room for the other readings, and for a word about the fold."""

ROWS = (1, 2, 4, 8)
"""Bars in a row of the fold."""


class AlignSurface(QWidget):
    """Emits `asked(name, argument)` for the buttons over the fold."""

    asked = pyqtSignal(str, object)

    def __init__(self, session: Session, keys: Keys) -> None:
        super().__init__()
        self.setObjectName("paper")
        self.session, self.track = session, session.track
        self._due = False
        self.overview, self.trace = Overview(), DriftTrace()
        self.fold, self.closeup = BarFold(), CloseUp()
        self.spots, self.tables, self.line, self.pad = SpotCheck(), Tables(), ValueLine(), TapPad()
        self.panel = AlignPanel(keys)
        self.chosen_pin = -1
        self.pages = Pages((
            Page(FOLD, tr("BAR FOLD"), tr("The track cut at every bar and stacked"), self.fold),
            Page(SPOTS, tr("SPOT CHECK"), f"Five places side by side ({keys('page', SPOTS)})", self.spots),
            Page(TABLE, tr("TABLE"), f"Pins, bars and the spot check in figures ({keys('page', TABLE)})", self.tables),
            Page(TAP, tr("TAP"), f"Tap along with the music ({keys('tap-page', None)})", self.pad),
        ))  # fmt: skip
        self._fill_row(keys)
        self.pages.column.insertWidget(1, self.line)
        self.pages.turned.connect(self._turned)
        views = QSplitter(Qt.Orientation.Vertical)
        views.setChildrenCollapsible(False)
        for view, stretch in ((self.overview, 0), (self.trace, 1), (self.pages, 4), (self.closeup, 2)):
            views.addWidget(view)
            views.setStretchFactor(views.count() - 1, stretch)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(views, 1)
        row.addWidget(self.panel)
        self._connect()

    def _fill_row(self, keys: Keys) -> None:
        """Beside the tabs: what the page shows, ways to take it or leave it, and how many bars a row holds."""
        row = self.pages.row
        self.hint = Words("")
        self.hint.setObjectName("faint")
        row.addWidget(self.hint)
        row.addStretch(1)
        self.keep, self.back = QPushButton(tr("Keep it")), QPushButton(tr("Back"))
        self.tap_use, self.tap_clear = QPushButton(tr("Use these taps")), QPushButton(tr("Start again"))
        self.calibrate = QPushButton(tr("Calibrate"))
        self.others = QPushButton("")
        self.others.setObjectName("plain")
        for b, name, argument, tip in (
            (self.keep, "keep-opinion", True, "Enter"),
            (self.back, "keep-opinion", False, "Esc"),
            (self.tap_use, "tap-use", None, tr("Find the beats along these taps (Ctrl+Enter)")),
            (self.tap_clear, "tap-clear", None, tr("Forget these taps")),
            (
                self.calibrate,
                "calibrate",
                None,
                f"Measure how late you and this device tap ({keys('calibrate', None)})",
            ),
            (self.others, "opinion", None, tr("Other ways to read the beats and bars, one after the other (O)")),
        ):
            b.setToolTip(tip)
            b.clicked.connect(lambda _=False, n=name, a=argument: self.asked.emit(n, a))
            b.hide()
            row.addWidget(b)
        self.bars = QButtonGroup(self)
        for n in ROWS:
            b = QPushButton(str(n))
            b.setObjectName("plain")
            b.setCheckable(True)
            b.setChecked(n == 1)
            b.setToolTip(f"{n} bar{'s' if n > 1 else ''} a row (Shift+V changes)")
            b.setAccessibleName(tr("{0} bars a row").format(n))
            self.bars.addButton(b, n)
            row.addWidget(b)
        self.per = Words(tr("bars a row"))
        self.per.setObjectName("faint")
        row.addWidget(self.per)
        self.bars.idClicked.connect(self.fold.set_bars)

    def _connect(self) -> None:
        s, t = self.session, self.track
        t.opened.connect(self._opened)
        t.sound_changed.connect(self._show_sound)
        t.shown_changed.connect(self._show)
        s.offers.changed.connect(self._show_offers)
        s.reports.changed.connect(self._show_reports)
        s.spots.changed.connect(self.show_spots)
        s.part.changed.connect(self._show_part)
        s.trial.tried.connect(self.panel.show_tried)
        s.tapping.changed.connect(self._show_taps)
        s.listening.tour_changed.connect(self.show_tour)
        s.player.moved.connect(self._moved)
        self.panel.leaves.currentChanged.connect(self.show_meter)

    # pages

    def _turned(self, page: str) -> None:
        if page in PINS_SHOWN:
            self.session.spots.choose()
        if page != TAP:
            self.session.tapping.end_calibration()
        self.show_spots()
        self.show_line()

    def show_rows(self, bars: int) -> None:
        """So many bars in each row of the fold."""
        button = self.bars.button(bars)
        if button is not None:
            button.setChecked(True)
        self.fold.set_bars(bars)

    def choose_pin(self, index: int) -> None:
        """Ring a pin as the one that keys act on."""
        self.chosen_pin = self.closeup.chosen = self.trace.chosen = index
        self.closeup.refresh()
        self.trace.refresh()

    def resizeEvent(self, e: QResizeEvent | None) -> None:
        self.show_line()
        super().resizeEvent(e)

    def show_line(self) -> None:
        """Above the fold: what it shows, or which second opinion or other grid is looked at."""
        reports, look = self.session.reports, self.session.comparison.look
        opinion, others, page = reports.opinion, reports.others, self.pages.seen
        instead = opinion is not None or look is not None
        for b in (self.keep, self.back):
            b.setVisible(instead)
        for tab in self.pages.tabs.buttons():
            tab.setVisible(not instead)
        for w in (*self.bars.buttons(), self.per):
            w.setVisible(page == FOLD and not instead)
        for b in (self.tap_use, self.tap_clear, self.calibrate):
            b.setVisible(page == TAP and not instead)
        self.others.setVisible(others > 0 and page != TAP and look is None and (self.width() > NARROW or instead))
        self.others.setText(tr("Next reading") if opinion else tr("Other readings {0}").format(others))
        text = ""
        if look is not None:
            text = tr("Compare: {0}  (V flips)").format(look.name)
        elif opinion is not None:
            text = tr("{0} of {1}: {2}, {3} likely").format(reports.index, others, opinion.name, share(opinion.chance))
        elif page == SPOTS:
            left = self.session.spots.left
            text = tr("{0} to see.  X: seen, and on").format(left) if left else tr("All seen")
        elif page == FOLD and self.width() > ROOMY:
            text = tr("straight threads: the grid is true")
        self.hint.setObjectName("opinion" if instead else "faint")
        self.hint.setText(text)
        self.hint.setVisible(bool(text))
        restyle(self.hint)

    # what is open

    def _message(self) -> str:
        return self.track.state_words(tr("No beats were heard here. Type a tempo at the right to begin a grid."))

    def _opened(self) -> None:
        self.line.close_line()
        self.choose_pin(-1)
        for view in (self.overview, self.fold, self.closeup, self.spots):
            view.forget()
        if self.pages.seen in PINS_SHOWN:
            self.session.spots.choose()
        self._show_sound()
        self._show_offers()

    def _show_sound(self) -> None:
        t, message = self.track, self._message()
        self.overview.show_sound(t.waveform, t.evidence, message)
        self._show_above()
        # one view in each turn of the event loop: painting all at once would be felt
        QTimer.singleShot(0, self._sound_fold)
        QTimer.singleShot(0, self._sound_closeup)

    def _sound_fold(self) -> None:
        self.fold.show_sound(self.track.ink, self.track.duration, self._message())
        self._show_fold()

    def _sound_closeup(self) -> None:
        t = self.track
        rate = t.row.rate if t.row is not None else 44100
        self.spots.show_sound(t.samples, rate, t.attack, self._message())
        onsets = (t.onset_times, t.onset_strengths)
        self.closeup.show_sound(t.waveform, t.samples, t.evidence, onsets, self._message())
        self.closeup.show_preparation(t.shown, t.form)

    def showEvent(self, e: QShowEvent | None) -> None:
        if self._due:
            self._show()

    def _show(self) -> None:
        """Show what there is now; while another stage is seen, when this one is seen again."""
        self._due = not self.isVisible()
        if self._due:
            return
        self.show_meter()
        self._show_above()
        self._show_fold()
        self.closeup.show_preparation(self.track.shown, self.track.form)
        self.show_spots()
        self.show_line()

    def show_spots(self) -> None:
        """Spot check and tables, while they are seen."""
        t, spots, page = self.track, self.session.spots, self.pages.seen
        if page not in PINS_SHOWN:
            return
        found = t.drift()
        trace, states = found[0] if found else None, spots.states()
        if page == SPOTS:
            self.spots.show_spots(t.shown, trace, spots.spots, states, spots.current)
            if t.shown is t.preparation:
                self.show_line()
        else:
            self.tables.show_all(t.shown, trace, spots.spots, states)

    def _show_fold(self) -> None:
        found = self.track.drift()
        self.fold.show_preparation(self.track.shown, found[0] if found else None, self.session.reports.unsure())

    def _show_above(self) -> None:
        """Overview, trace and readings."""
        t = self.track
        found, heard = t.drift(), t.heard
        trace = found[0] if found else None
        if t.grid is None or not 0 <= self.chosen_pin < len(t.grid.pins):
            self.choose_pin(-1)
        self.overview.show_preparation(t.shown, trace, self.session.reports.unsure(), t.form)
        self.trace.show_trace(t.shown, trace, heard.confidence if heard is not None else None, t.duration)
        self._show_readings()

    def _show_readings(self) -> None:
        """What the grid achieves: of what is saved, not of what is tried."""
        t = self.track
        if t.shown is not t.preparation:
            return
        found, row = t.drift(), t.row
        waiting = "" if row is None or row.state == READY else self._message()
        kind = self.session.reports.report.kind or (row.kind if row else "")
        title = row.title if row else ""
        self.panel.show_reading(title, t.shown, found[1] if found else None, kind, waiting)

    def _show_offers(self) -> None:
        self.panel.show_offers(self.session.offers.found, self.track.preparation)

    def _show_reports(self) -> None:
        """Findings and second opinions came, went or grew old."""
        reports = self.session.reports
        ready = self.track.row is not None and self.track.evidence is not None
        waiting = "" if not ready else tr("Nothing odd.") if reports.fresh else tr("Listening for what is odd…")
        self.panel.show_report(reports.report, reports.fresh, waiting)
        self.show_line()
        self._show_readings()

    def _show_part(self) -> None:
        part = self.session.part.value
        self.overview.part = self.trace.part = part
        self.overview.refresh()
        self.trace.refresh()
        self.panel.show_part(part)
        # the tools for a part come and go with it
        leaf = self.panel.leaves.currentIndex()
        if leaf == (0 if part else 1):
            self.panel.turn_to(1 - leaf)

    def _moved(self, position: float) -> None:
        if not self.isVisible():
            return
        self.show_meter()
        for view in (self.overview, self.trace, self.fold, self.closeup, self.spots):
            view.set_position(position)

    # by ear

    def show_meter(self) -> None:
        """Early or late, over the last two bars."""
        if not self.panel.ear.meter.isVisible():
            return
        value, allowed = self.session.listening.lateness()
        self.panel.ear.meter.show_value(value, allowed)

    def show_tour(self) -> None:
        """The tour began, ended or went on."""
        spots, touring = self.session.spots, self.session.listening.touring
        words = ""
        if touring and spots.spots:
            words = f"{spots.current + 1} of {len(spots.spots)}: {spots.spots[spots.current].name}"
        self.panel.ear.show_tour(touring, words)

    def _show_taps(self) -> None:
        t = self.session.tapping
        self.pad.show_taps(len(t.taps), t.reading, tuple(x.down for x in t.taps), t.words(), t.calibrating)
        self.tap_use.setEnabled(t.reading is not None and not t.calibrating)
        self.tap_clear.setEnabled(bool(t.taps) and not t.calibrating)
        self.calibrate.setText(tr("Stop") if t.calibrating else tr("Calibrate"))
