"""What both fits would give the open track, and the report on it: asked for whenever what they depend on changes."""

from __future__ import annotations

import attrs
from PyQt6.QtCore import QObject, pyqtSignal

from ...core.edits import grid_edits
from ...core.errors import Refused
from ...core.findings.report import Question, Report
from ...core.fitting import fit
from ...core.model import preparation, tempo_range
from ...core.model.tempo_range import TempoRange
from ...jobs.fitter import FOLLOW, STEADY, Fitter, Offer
from .messages import Messages
from .open_track import OpenTrack

EDITS = {STEADY: grid_edits.make_steady, FOLLOW: grid_edits.follow_recording}


class Offers(QObject):
    """`found` has the offers, by name, as far as they are known; `reported` comes with each report.

    Attributes
    ----------
    range : where tempi are expected in this program; a track may have a range of its own
    """

    changed = pyqtSignal()
    asked = pyqtSignal()
    reported = pyqtSignal(object)

    def __init__(self, track: OpenTrack, say: Messages) -> None:
        super().__init__()
        self.track, self.say = track, say
        self.found: dict[str, Offer] = {}
        self.range: TempoRange | None = None
        self._fitter = Fitter()
        self._wanted = ""
        self._asked: object = None
        track.opened.connect(self._opened)
        track.saved_changed.connect(self._ask)

    def close(self) -> None:
        """End the process."""
        self._fitter.close()

    def _opened(self) -> None:
        self.found, self._wanted, self._asked = {}, "", None
        self._ask()

    @property
    def expected(self) -> TempoRange | None:
        """Where the tempo of the open track is expected."""
        return tempo_range.known(self.track.preparation.tempo_range) or self.range

    def set_range(self, wanted: TempoRange | None) -> None:
        """Where tempi are expected from now on: for new tracks, and in the findings of those without their own."""
        self.range = wanted
        self._ask()

    def _ask(self) -> None:
        t, p = self.track, self.track.preparation
        # cues, notes and readiness change nothing about the fits
        question = (p.grid, p.mix_zones, p.tolerance, p.hints, p.tempo_range, self.range)
        if t.evidence is not None and t.row is not None and question != self._asked:
            self.found, self._asked = {}, question
            try:
                fit.check(t.evidence.heard)
            except Refused as e:
                self.found = {name: Offer(None, None, str(e)) for name in EDITS}
            self._fitter.ask(question, Question(p, t.evidence, t.duration, t.row.delay_known, self.expected))
            self.asked.emit()
        self.changed.emit()

    def poll(self) -> None:
        """Hear what was worked out."""
        for key, answer in self._fitter.poll():
            if key != self._asked:
                continue
            if isinstance(answer, Report):
                self.reported.emit(answer)
                continue
            self.found = answer
            self.changed.emit()
            if self._wanted:
                wanted, self._wanted = self._wanted, ""
                self.use(wanted)

    def use(self, name: str) -> None:
        """One steady tempo, or follow: at once if it is computed, else as soon as it is."""
        t = self.track
        if t.row is None or t.refuses():
            return
        offer = self.found.get(name)
        if offer is None:
            self._wanted = name
        elif offer.preparation is None:
            self.say.refused(offer.refusal)
        else:
            # the offer's grid only: cues may have been set since it was computed
            value = attrs.evolve(t.preparation, grid=offer.preparation.grid)
            t.commit(preparation.name_of(EDITS[name]), value)
