"""The state behind the window: the library, the open track, its edits and its jobs. No widgets here."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

import attrs
import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from ...core.cues import recipes
from ...core.edits import grid_edits, listening_edits
from ...core.errors import FormatError, MervidError, Refused
from ...core.findings.report import Question, Report
from ...core.fitting import bar_fold, drift, fit
from ...core.fitting.drift import Summary, Trace
from ...core.form import phrase_edits
from ...core.hearing.evidence import Evidence
from ...core.hearing.features import SNAP_REACH, attack_near
from ...core.hearing.heard import Heard
from ...core.model import preparation, tempo_range
from ...core.model.beatgrid import Grid
from ...core.model.form import Form
from ...core.model.hints import Hint
from ...core.model.preparation import Preparation
from ...core.model.tempo_range import TempoRange
from ...core.sound.waveform import Waveform
from ...jobs import pcm
from ...jobs.fitter import FOLLOW, STEADY, Fitter, Offer
from ...store.library import FAILED, READY, Library, Track
from ...store.schema import StoreError
from .analysis_queue import AnalysisQueue
from .comparison import Comparison
from .reports import Reports
from .spot_check import SpotChecks
from .tolerance_trial import ToleranceTrial

LONG, REST_MS = 1200.0, 700


class Workbench(QObject):
    """What is open, and everything that can be done to it.

    `preparation` is what is saved; `shown` is that, or the picture of a drag in progress.
    """

    tracks_changed = pyqtSignal()
    progress_changed = pyqtSignal(int)
    track_opened = pyqtSignal()
    sound_changed = pyqtSignal()
    shown_changed = pyqtSignal()
    offers_changed = pyqtSignal()
    said = pyqtSignal(str, str)

    def __init__(self, library: Library, cache: Path) -> None:
        super().__init__()
        self.library = library
        self.cache = cache
        self.intake = AnalysisQueue(self)
        self.fitter = Fitter()
        self.track: Track | None = None
        self.evidence: Evidence | None = None
        self.waveform: Waveform | None = None
        self.samples: NDArray[np.float32] | None = None
        self.attack: NDArray[np.float32] = np.zeros(0, np.float32)
        self.ink: NDArray[np.float32] = np.zeros(0, np.float32)
        self.onset_times: NDArray[np.float64] = np.zeros(0)
        self.onset_strengths: NDArray[np.float32] = np.zeros(0, np.float32)
        self.preparation = Preparation()
        self.shown = self.preparation
        self.undo_name: str | None = None
        self.redo_name: str | None = None
        self.offers: dict[str, Offer] = {}
        self.range: TempoRange | None = None
        self._heard: tuple[object, Heard] | None = None
        self._form: tuple[Evidence | None, Grid | None, Form | None] | None = None
        self._form_due: Preparation | None = None
        self._wanted: str | None = None
        self._asked: object = None
        self._derived: tuple[Preparation, Trace, Summary] | None = None
        self.advice = Reports(self)
        self.trying = ToleranceTrial(self)
        self.compare = Comparison(self)
        self.checking = SpotChecks(self)
        self._timer = QTimer(self)
        self._timer.setInterval(60)
        self._timer.timeout.connect(self.poll)
        self._timer.start()

    def close(self) -> None:
        """End the workers and let go of the library."""
        self._timer.stop()
        self.intake.pool.close()
        self.fitter.close()
        self.trying.close()
        self.library.close()

    # tracks and jobs

    def forget(self, track_id: int) -> None:
        """Take a track out of the library."""
        self.intake.cancel(track_id)
        try:
            self.library.remove(track_id)
        except StoreError as e:
            self.said.emit("problem", str(e))
            return
        self.intake.progress.pop(track_id, None)
        if self.track is not None and self.track.id == track_id:
            self._clear()
        self.tracks_changed.emit()

    def poll(self) -> None:
        """Hear what the workers said."""
        self.intake.poll()
        for key, answer in self.fitter.poll():
            if key != self._asked:
                continue
            if isinstance(answer, Report):
                self.advice.take(answer)
                continue
            self.offers = answer
            self.offers_changed.emit()
            if self._wanted is not None:
                wanted, self._wanted = self._wanted, None
                self.use_offer(wanted)

        self.trying.poll()

    def open_still(self, track_id: int) -> None:
        """Open a track again, unless another was opened meanwhile."""
        if self.track is not None and self.track.id == track_id:
            self.open(track_id)

    # the open track

    def _clear(self) -> None:
        self.track = self.evidence = self.waveform = self.samples = None
        self.attack, self.ink = np.zeros(0, np.float32), np.zeros(0, np.float32)
        self.onset_times, self.onset_strengths = np.zeros(0), np.zeros(0, np.float32)
        self.preparation = self.shown = Preparation()
        self.undo_name = self.redo_name = None
        self.offers, self._wanted, self._asked, self._derived = {}, None, None, None
        self.advice.forget()
        self._heard = self.compare.look = None
        self.checking.forget()
        self.track_opened.emit()

    def open(self, track_id: int) -> None:
        """Show a track with all that is kept of it."""
        try:
            track = self.library.track(track_id)
            kept = self.library.evidence(track_id, lesser=track_id in self.intake.lesser)
            history = self.library.history(track_id)
        except FormatError as e:
            self.said.emit("problem", f"{e} The recording is heard again.")
            self.intake.analyse(track_id)
            return
        except StoreError as e:
            self.said.emit("problem", str(e))
            return
        self.track = track
        self.evidence, self.waveform = kept if kept else (None, self.intake.early_waveforms.get(track_id))
        if kept is None and track.state == READY:
            self.intake.analyse(track_id)
        self.attack = self.evidence.attack_strength() if self.evidence else np.zeros(0, np.float32)
        self.ink = bar_fold.ink(self.attack)
        if self.evidence is not None:
            self.onset_times, self.onset_strengths = self.evidence.onset_times, self.evidence.onset_strengths
        else:
            self.onset_times, self.onset_strengths = np.zeros(0), np.zeros(0, np.float32)
        self.samples = None
        self.load_samples()
        if self.samples is None and track.state == READY:
            self.intake.decode(track)
        self.offers, self._wanted, self._asked = {}, None, None
        self.advice.forget()
        self._heard = self.compare.look = None
        self.checking.forget()
        self._show(history.preparation, history.undo, history.redo)
        self.track_opened.emit()

    def load_samples(self) -> None:
        t = self.track
        if t is None or not t.identity:
            return
        count = pcm.channels(self.cache, t.identity, t.frames)
        if count:
            self.samples = pcm.load(self.cache, t.identity, count, t.frames)

    def _show(self, value: Preparation, undo: str | None, redo: str | None) -> None:
        self.preparation = self.shown = value
        self.undo_name, self.redo_name = undo, redo
        # cues, notes and readiness change nothing about the fits
        question = (value.grid, value.mix_zones, value.tolerance, value.hints, value.tempo_range, self.range)
        if self.evidence is not None and self.track is not None and question != self._asked:
            self.offers, self._asked, self.advice.fresh = {}, question, False
            try:
                fit.check(self.evidence.heard)
            except Refused as e:
                self.offers = {name: Offer(None, None, str(e)) for name in (STEADY, FOLLOW)}
            delay = self.track.delay_known
            self.fitter.ask(question, Question(value, self.evidence, self.duration, delay, self.wanted))
        self.trying.forget()
        self.offers_changed.emit()
        self.advice.changed.emit()

    @property
    def wanted(self) -> TempoRange | None:
        """Where the tempo of the open track is expected."""
        return tempo_range.known(self.preparation.tempo_range) or self.range

    def set_range(self, wanted: TempoRange | None) -> None:
        """Where tempi are expected from now on: for new tracks, and in the findings of those without their own."""
        self.range = wanted
        if self.track is not None:
            self._show(self.preparation, self.undo_name, self.redo_name)

    @property
    def heard(self) -> Heard | None:
        """What is heard under the hints and hand pins of what is shown; a pin in the hand guides when it is let go."""
        if self.evidence is None:
            return None
        now, saved = self.shown, self.preparation
        if now.hints == saved.hints and now.grid is not None and saved.grid is not None:
            ratio = now.grid.tempo_overall() / saved.grid.tempo_overall()
            now = saved if 0.9 < ratio < 1.1 else now
        grid = now.grid
        key = (now.hints, tuple(q for q in grid.pins if q.hand) if grid else (), grid and grid.tempo_overall())
        if self._heard is None or self._heard[0] != key:
            self._heard = (key, listening_edits.heard_of(self.evidence, now))
        return self._heard[1]

    @property
    def grid(self) -> Grid | None:
        """The grid that is shown."""
        return self.shown.grid

    @property
    def form(self) -> Form | None:
        """The phrases of the open track, kept or heard; of what is saved, while something is dragged."""
        p = self.shown if self.shown.form is not None else self.preparation
        if p.form is not None:
            return p.form
        evidence, grid, known = self.evidence, p.grid, self._form
        if known is not None and known[0] is evidence and known[1] == grid:
            return known[2]
        if known is not None and known[0] is evidence and self.duration > LONG and p is not self._form_due:
            # hours of music are read again when the hand rests
            self._form_due = p
            QTimer.singleShot(REST_MS, self._read_form)
            return known[2]
        if known is not None and p is self._form_due:
            return known[2]
        self._form = (evidence, grid, phrase_edits.form_of(p, evidence, self.duration))
        return self._form[2]

    def _read_form(self) -> None:
        """Read the phrases of a long recording again."""
        if self._form_due is not self.preparation:
            return
        self._form = self._form_due = None
        if self.form is not None:
            self.shown_changed.emit()

    @property
    def vocal(self) -> float | None:
        """Where a voice is first heard in the open track, s."""
        grid = self.preparation.grid
        return recipes.vocal_start(self.evidence, grid) if grid is not None else None

    @property
    def duration(self) -> float:
        """Length of the open track, s."""
        if self.waveform is not None:
            return self.waveform.duration
        return self.track.duration if self.track else 0.0

    def state_words(self, nothing: str) -> str:
        """What stands where there is nothing to draw: how far the open track is, or `nothing` once it was heard."""
        if self.track is None:
            return ""
        if self.track.state == FAILED:
            return self.track.message
        if self.track.state != READY:
            return "Being read…" if self.waveform is None else "Hearing the beats…"
        return nothing

    def drift(self) -> tuple[Trace, Summary] | None:
        """The drift of what was heard against the shown grid."""
        if self._derived is None or self._derived[0] is not self.shown:
            heard = self.heard
            trace = drift.trace_of(self.shown, heard) if heard is not None else None
            if trace is None:
                return None
            self._derived = (self.shown, trace, drift.summary(trace))
        return self._derived[1], self._derived[2]

    def music_begins(self) -> float | None:
        """The s at which the music begins: after a record's lead-in, at the first hit that is heard."""
        if self.evidence is None or not len(self.onset_times):
            return None
        start = self.evidence.condition.lead_in or 0.0
        later = self.onset_times[(self.onset_times >= start) & (self.onset_strengths > 0.1)]
        return float(later[0]) if len(later) else None

    def snap(self, time: float, reach: float = SNAP_REACH) -> float:
        """The beginning of the strongest attack within `reach` s of `time`; `time` itself where nothing is struck."""
        return attack_near(self.attack, time, reach)

    # edits

    def apply(self, edit: Callable[..., Preparation], *args: Any, **kwargs: Any) -> bool:
        """Make an edit, save it, and only then show it. False when it was refused, with the reason said."""
        if self.track is None:
            return False
        try:
            value = edit(self.preparation, *args, **kwargs)
        except Refused as e:
            self.preview(None)
            self.said.emit("refused", str(e))
            return False
        return self.commit(preparation.name_of(edit), value)

    def set_readiness(self, readiness: str) -> None:
        """Draft, checked or locked. Not an edit: undo goes past it, and can never unlock."""
        if self.track is None:
            return
        try:
            value = preparation.set_readiness(self.preparation, readiness)
            if readiness != preparation.DRAFT and value.form is None:
                # what was checked stays, whatever a later version of Mervid hears
                value = attrs.evolve(value, form=self.form)
        except Refused as e:
            self.said.emit("refused", str(e))
            return
        self.replace(value)

    def replace(self, value: Preparation) -> None:
        """Save a value in the place of the current one: readiness and what was seen are no edits."""
        if self.track is None:
            return
        try:
            self.library.replace(self.track.id, value)
        except StoreError as e:
            self.said.emit("problem", str(e))
            return
        self._show(value, self.undo_name, self.redo_name)
        self.shown_changed.emit()
        self.tracks_changed.emit()

    def commit(self, name: str, value: Preparation) -> bool:
        """Save a value under the name of the edit that made it, and show it."""
        assert self.track is not None
        value = preparation.redrafted(self.preparation, value)
        if value == self.preparation:
            self.preview(None)
            return False
        try:
            self.library.edit(self.track.id, name, value)
        except StoreError as e:
            self.preview(None)
            self.said.emit("problem", f"{e} The last change is not kept.")
            return False
        except Refused as e:
            self.preview(None)
            self.said.emit("refused", str(e))
            return False
        self._show(value, name, None)
        self.shown_changed.emit()
        self.tracks_changed.emit()
        return True

    def preview(self, value: Preparation | None) -> None:
        """Show a value without saving it, while something is dragged; None goes back to what is saved."""
        value = value if value is not None else self.preparation
        if value is not self.shown:
            self.shown = value
            self.shown_changed.emit()

    def undo(self) -> None:
        """One edit back, without limit."""
        self._step(self.library.undo, "There is nothing to undo.")

    def redo(self) -> None:
        """One edit forward again."""
        self._step(self.library.redo, "There is nothing to redo.")

    def _step(self, step: Callable[[int], bool], nothing: str) -> None:
        if self.track is None:
            return
        try:
            preparation.refuse_locked(self.preparation)
            if not step(self.track.id):
                self.said.emit("refused", nothing)
                return
            history = self.library.history(self.track.id)
        except MervidError as e:
            self.said.emit("refused" if isinstance(e, Refused) else "problem", str(e))
            return
        self._show(history.preparation, history.undo, history.redo)
        self.shown_changed.emit()
        self.tracks_changed.emit()

    def reread(self) -> None:
        """What is kept of the open track may have been changed by others: show it."""
        if self.track is None:
            return
        try:
            history = self.library.history(self.track.id)
        except MervidError as e:
            self.said.emit("problem", str(e))
            return
        self._show(history.preparation, history.undo, history.redo)
        self.shown_changed.emit()
        self.tracks_changed.emit()

    def go_to_edit(self, number: int) -> None:
        """Undo or redo until `number` edits are in force."""
        self._step(lambda track_id: self.library.stand_at(track_id, number), "The track stands there already.")

    def use_offer(self, name: str) -> None:
        """One steady tempo, or follow: at once if it is computed, else as soon as it is."""
        if self.track is None:
            return
        try:
            preparation.refuse_locked(self.preparation)
        except Refused as e:
            self.said.emit("refused", str(e))
            return
        offer = self.offers.get(name)
        if offer is None:
            self._wanted = name
            return
        if offer.preparation is None:
            self.said.emit("refused", offer.refusal)
            return
        edit = {STEADY: grid_edits.make_steady, FOLLOW: grid_edits.follow_recording}[name]
        # the offer's grid only: cues may have been set since it was computed
        self.commit(preparation.name_of(edit), attrs.evolve(self.preparation, grid=offer.preparation.grid))

    def tell(self, *hints: Hint) -> bool:
        """Listen again under more hints."""
        return self.evidence is not None and self.apply(listening_edits.listen_again, self.evidence, hints)
