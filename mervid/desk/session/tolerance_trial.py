"""Other tolerances tried while a slider moves: what following within them would give, worked out in another process."""

from __future__ import annotations

import attrs
from PyQt6.QtCore import QObject, pyqtSignal

from ...core.edits import grid_edits, track_edits
from ...core.errors import Refused
from ...core.findings.report import Question, Report
from ...core.model import preparation
from ...core.model.preparation import Preparation
from ...core.model.tolerance import Tolerance
from ...jobs.fitter import FOLLOW, Fitter, Offer
from .open_track import OpenTrack


class ToleranceTrial(QObject):
    """Asks for one tolerance after the other; `tried` comes with the newest answer."""

    tried = pyqtSignal(object, object)

    def __init__(self, track: OpenTrack) -> None:
        super().__init__()
        self.track = track
        self._fitter = Fitter()
        self._tried: tuple[Tolerance, Offer] | None = None
        track.opened.connect(self._forget)
        track.saved_changed.connect(self._forget)

    def close(self) -> None:
        """End the process."""
        self._fitter.close()

    def _forget(self) -> None:
        """The grid may be another one: what was tried is of no use."""
        self._tried = None

    def poll(self) -> None:
        """Hear what came."""
        for tolerance, answer in self._fitter.poll():
            if isinstance(tolerance, Tolerance) and not isinstance(answer, Report):
                self._tried = tolerance, answer[FOLLOW]
                self.tried.emit(tolerance, answer[FOLLOW])

    def ask(self, tight: float, loose: float) -> None:
        """What would following within these tolerances, ms, give?"""
        t = self.track
        if t.evidence is None or t.preparation.grid is None:
            return
        try:
            free = attrs.evolve(t.preparation, readiness=preparation.DRAFT)
            value = track_edits.set_tolerance(free, tight, loose)
        except Refused:
            return
        self._fitter.ask(value.tolerance, Question(value, t.evidence, t.duration), reports=False)

    def use(self, tight: float, loose: float) -> bool:
        """Set the tolerances; a grid that follows already is fitted anew within them."""
        t = self.track
        grid, heard, tried = t.preparation.grid, t.heard, self._tried
        follows = grid is not None and len(grid.pins) > 2 and not all(q.hand for q in grid.pins)

        @preparation.edit(preparation.name_of(track_edits.set_tolerance))
        def both(p: Preparation) -> Preparation:
            made = track_edits.set_tolerance(p, tight, loose)
            if not follows or heard is None:
                return made
            if tried is not None and tried[0] == made.tolerance and tried[1].preparation is not None:
                return attrs.evolve(made, grid=tried[1].preparation.grid)
            return grid_edits.follow_recording(made, heard)

        return t.apply(both)
