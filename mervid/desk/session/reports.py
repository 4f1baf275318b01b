"""What Mervid has to say about the open track: findings with their fixes, and second opinions to step through."""

from __future__ import annotations

from typing import TYPE_CHECKING

import attrs
import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QObject, pyqtSignal

from ...core.edits import listening_edits
from ...core.errors import Refused
from ...core.findings.report import Report
from ...core.findings.study import UNSURE, Finding
from ...core.guided.alternatives import Opinion
from ...core.model import preparation
from ...core.model.cue import Cue
from ...core.model.preparation import Preparation
from ...store.schema import StoreError

if TYPE_CHECKING:
    from .open_track import Workbench


class Reports(QObject):
    """The newest report on the open track; `fresh` while it is about what is saved now."""

    changed = pyqtSignal()

    def __init__(self, bench: Workbench) -> None:
        super().__init__(bench)
        self.bench = bench
        self.report = Report()
        self.fresh = False
        self.index = 0
        self._previewed = False

    def forget(self) -> None:
        """Another track is opened."""
        self.report, self.fresh, self.index = Report(), False, 0
        self.changed.emit()

    def take(self, report: Report) -> None:
        """A report came; the list keeps how many decisions the track asks for."""
        if self._previewed or self.index:
            # the button that was pointed at, and the list that was stepped through, are gone
            self.bench.preview(None)
        self.report, self.fresh, self.index, self._previewed = report, True, 0, False
        track = self.bench.track
        if track is not None:
            try:
                self.bench.library.set_outlook(track.id, report.kind, report.doubts)
            except StoreError as e:
                self.bench.said.emit("problem", str(e))
            else:
                self.bench.tracks_changed.emit()
        self.changed.emit()

    # findings

    def preview(self, finding: Finding | None) -> None:
        """Show what a finding's fix would give; None shows what is saved again."""
        fix = finding.fix if finding is not None and self.fresh else None
        if not self.index:
            self._previewed = fix is not None
            self.bench.preview(fix.preparation if fix is not None else None)

    def use(self, finding: Finding) -> bool:
        """Take a finding's fix."""
        if finding.fix is None or not self.fresh:
            return False
        self.index = 0
        try:
            preparation.refuse_locked(self.bench.preparation)
        except Refused as e:
            self.bench.preview(None)
            self.bench.said.emit("refused", str(e))
            return False
        now, after = self.bench.preparation, finding.fix.preparation
        # what can't have changed the findings may have changed since: keep it
        value = attrs.evolve(now, grid=after.grid, hints=after.hints, cues=_cues(now, after))
        return self.bench.commit(finding.fix.edit, value)

    # second opinions

    @property
    def opinion(self) -> Opinion | None:
        """The reading that is shown instead of the one that stands."""
        return self.report.opinions[self.index] if self.index else None

    def step(self) -> None:
        """Show the next way to read the track, without taking it."""
        others = self.report.opinions
        if not self.fresh:
            self.bench.said.emit("refused", "Still listening: the second opinions come in a moment.")
            return
        if len(others) < 2:
            self.bench.said.emit("refused", "There is no second opinion: no other reading is likely.")
            return
        self.index = (self.index + 1) % len(others)
        self.bench.preview(self._read())
        self.changed.emit()

    def _read(self) -> Preparation | None:
        opinion, evidence = self.opinion, self.bench.evidence
        if opinion is None or evidence is None:
            return None
        try:
            free = attrs.evolve(self.bench.preparation, readiness=preparation.DRAFT)
            return listening_edits.listen_again(free, evidence, opinion.hints)
        except Refused as e:
            self.bench.said.emit("refused", str(e))
            return None

    def end(self, *, keep: bool) -> bool:
        """Take the reading that is shown, or go back to the one that stands. False where none is shown."""
        opinion, self.index = self.opinion, 0
        if opinion is None:
            return False
        self.bench.preview(None)
        if keep:
            self.bench.tell(*opinion.hints)
        self.changed.emit()
        return True

    # where to look

    def unsure(self) -> NDArray[np.bool_]:
        """Which heard beats are doubtful, in the order of the drift trace."""
        heard, found = self.bench.heard, self.bench.drift()
        if heard is None or found is None:
            return np.zeros(0, bool)
        return heard.confidence < UNSURE

    def next_place(self, after: float) -> float | None:
        """The next place to look at after `after` s, beginning again at the end: unsure, or out of tolerance."""
        found = self.bench.drift()
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
