"""What Mervid has to say about the open track: findings with their fixes, and second opinions to step through."""

from __future__ import annotations

import attrs
import numpy as np
from PyQt6.QtCore import QObject, pyqtSignal

from ...core.arrays import Bools
from ...core.edits import listening_edits
from ...core.errors import Refused
from ...core.findings.report import Report
from ...core.findings.study import UNSURE, Finding
from ...core.guided.alternatives import Opinion
from ...core.model import preparation
from ...core.model.cue import Cue
from ...core.model.preparation import Preparation
from ...store.schema import StoreError
from ..theme.tr import tr
from .messages import Messages
from .offers import Offers
from .open_track import OpenTrack
from .preview import FIX, OPINION


class Reports(QObject):
    """The newest report on the open track; `fresh` while it is about what is saved now."""

    changed = pyqtSignal()

    def __init__(self, track: OpenTrack, offers: Offers, say: Messages) -> None:
        super().__init__()
        self.track, self.say = track, say
        self.report = Report()
        self.fresh = False
        self._index = 0
        track.opened.connect(self._opened)
        track.preview.changed.connect(self._shown_instead)
        offers.asked.connect(self._aged)
        offers.reported.connect(self._take)

    def _opened(self) -> None:
        self.report, self.fresh, self._index = Report(), False, 0
        self.changed.emit()

    def _aged(self) -> None:
        self.fresh = False
        self.changed.emit()

    def _shown_instead(self) -> None:
        """Something else is shown: the reading that was looked at is left where it was."""
        if self._index and self.track.preview.owner != OPINION:
            self._index = 0
            self.changed.emit()

    def _take(self, report: Report) -> None:
        """A report came; the list keeps how many decisions the track asks for."""
        # the button that was pointed at, and the list that was stepped through, are gone
        for owner in (FIX, OPINION):
            self.track.preview.clear(owner)
        self.report, self.fresh, self._index = report, True, 0
        row = self.track.row
        if row is not None:
            try:
                self.track.catalogue.set_outlook(row.id, report.kind, report.doubts, report.first_doubt)
            except StoreError as e:
                self.say.problem(str(e))
        self.changed.emit()

    # findings

    def look(self, finding: Finding | None) -> None:
        """Show what a finding's fix would give; None shows what is saved again."""
        fix = finding.fix if finding is not None and self.fresh else None
        if self.opinion is not None:
            return
        if fix is not None:
            self.track.preview.show(FIX, fix.preparation)
        else:
            self.track.preview.clear(FIX)

    def use(self, finding: Finding) -> bool:
        """Take a finding's fix."""
        if finding.fix is None or not self.fresh or self.track.refuses():
            return False
        now, after = self.track.preparation, finding.fix.preparation
        # what can't have changed the findings may have changed since: keep it
        value = attrs.evolve(now, grid=after.grid, hints=after.hints, cues=_cues(now, after))
        return self.track.commit(finding.fix.edit, value)

    # second opinions

    @property
    def others(self) -> int:
        """How many other readings there are."""
        return max(0, len(self.report.opinions) - 1)

    @property
    def index(self) -> int:
        """Which of them is shown instead of the one that stands; 0 for none."""
        return self._index if self.track.preview.owner == OPINION else 0

    @property
    def opinion(self) -> Opinion | None:
        """The reading that is shown instead of the one that stands."""
        return self.report.opinions[self.index] if self.index else None

    def step(self) -> None:
        """Show the next way to read the track, without taking it."""
        if not self.fresh:
            self.say.refused(tr("Still listening: the second opinions come in a moment."))
            return
        if not self.others:
            self.say.refused(tr("There is no second opinion: no other reading is likely."))
            return
        index = (self.index + 1) % (self.others + 1)
        value = self._read(self.report.opinions[index]) if index else None
        if value is None:
            self.track.preview.clear(OPINION)
        else:
            self._index = index
            self.track.preview.show(OPINION, value)
        self.changed.emit()

    def _read(self, opinion: Opinion) -> Preparation | None:
        evidence = self.track.evidence
        if evidence is None:
            return None
        try:
            free = attrs.evolve(self.track.preparation, readiness=preparation.DRAFT)
            return listening_edits.listen_again(free, evidence, opinion.hints)
        except Refused as e:
            self.say.refused(str(e))
            return None

    def end(self, *, keep: bool) -> bool:
        """Take the reading that is shown, or go back to the one that stands. False where none is shown."""
        opinion = self.opinion
        if opinion is None:
            return False
        self.track.preview.clear(OPINION)
        if keep:
            self.track.listen_again(*opinion.hints)
        self.changed.emit()
        return True

    # where to look

    def unsure(self) -> Bools:
        """Which heard beats are doubtful, in the order of the drift trace."""
        heard, found = self.track.heard, self.track.drift()
        if heard is None or found is None:
            return np.zeros(0, bool)
        return heard.confidence < UNSURE

    def next_place(self, after: float) -> float | None:
        """The next place to look at after `after` s, beginning again at the end: unsure, or out of tolerance."""
        found = self.track.drift()
        if found is None:
            return None
        trace = found[0]
        bad = (np.abs(trace.error) > trace.tolerance) | self.unsure()
        first = trace.times[bad & ~np.concatenate([[False], bad[:-1]])]
        if not len(first):
            return None
        later = first[first > after + 0.05]
        return float(later[0] if len(later) else first[0])


def _cues(now: Preparation, after: Preparation) -> tuple[Cue, ...]:
    """The cues as the fix left them, and those set since as they are."""
    known = {c.id: c for c in after.cues}
    return tuple(known.get(c.id, c) for c in now.cues)
