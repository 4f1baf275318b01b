"""Other tolerances tried while a slider moves: what following within them would give, worked out in another process."""

from __future__ import annotations

from typing import TYPE_CHECKING

import attrs
from PyQt6.QtCore import QObject, pyqtSignal

from ...core.edits import grid_edits, track_edits
from ...core.errors import Refused
from ...core.findings.report import Question, Report
from ...core.model import preparation
from ...core.model.preparation import Preparation
from ...core.model.tolerance import Tolerance
from ...jobs.fitter import FOLLOW, Fitter, Offer

if TYPE_CHECKING:
    from .open_track import Workbench


class ToleranceTrial(QObject):
    """Asks for one tolerance after the other; `tried` comes with the newest answer."""

    tried = pyqtSignal(object, object)

    def __init__(self, bench: Workbench) -> None:
        super().__init__(bench)
        self.bench = bench
        self._fitter = Fitter()
        self._tried: tuple[Tolerance, Offer] | None = None

    def close(self) -> None:
        """End the process."""
        self._fitter.close()

    def forget(self) -> None:
        """The grid is another one: what was tried is of no use."""
        self._tried = None

    def poll(self) -> None:
        """Hear what came."""
        for tolerance, answer in self._fitter.poll():
            if isinstance(tolerance, Tolerance) and not isinstance(answer, Report):
                self._tried = tolerance, answer[FOLLOW]
                self.tried.emit(tolerance, answer[FOLLOW])

    def ask(self, tight: float, loose: float) -> None:
        """What would following within these tolerances, ms, give?"""
        b = self.bench
        if b.evidence is None or b.preparation.grid is None:
            return
        try:
            free = attrs.evolve(b.preparation, readiness=preparation.DRAFT)
            value = track_edits.set_tolerance(free, tight, loose)
        except Refused:
            return
        self._fitter.ask(value.tolerance, Question(value, b.evidence, b.duration), reports=False)

    def use(self, tight: float, loose: float) -> bool:
        """Set the tolerances; a grid that follows already is fitted anew within them."""
        b = self.bench
        grid, heard, tried = b.preparation.grid, b.heard, self._tried
        follows = grid is not None and len(grid.pins) > 2 and not all(q.hand for q in grid.pins)

        @preparation.edit(preparation.name_of(track_edits.set_tolerance))
        def both(p: Preparation) -> Preparation:
            made = track_edits.set_tolerance(p, tight, loose)
            if not follows or heard is None:
                return made
            if tried is not None and tried[0] == made.tolerance and tried[1].preparation is not None:
                return attrs.evolve(made, grid=tried[1].preparation.grid)
            return grid_edits.follow_recording(made, heard)

        return b.apply(both)
