"""The interleaved fold: the overlap cut at every bar of the mix, both tracks' attacks in each row.

Where the two stay together their inks make one thread; where they part, two.
"""

from __future__ import annotations

import attrs
import numpy as np
from numpy.typing import ArrayLike

from ..arrays import Floats, Singles
from ..fitting import bar_fold
from ..fitting.bar_fold import Rows
from ..model.beatgrid import Grid
from .clock import TimeMap, Together


@attrs.frozen(eq=False)
class OnClock:
    """A recording on the clock of the mix: when in it each beat of the mix sounds."""

    clock: Grid
    map: TimeMap

    def time_at(self, beat: ArrayLike) -> Floats:
        """Instants of the recording, s."""
        return self.map.to_own(self.clock.time_at(beat))


def rows(together: Together) -> Rows:
    """One row for each bar of the overlap; `index` counts from 0 at the meeting."""
    clock, m = together.clock, together.meeting
    index = np.arange(m.bars)
    starts = clock.bar_start(together.first_bar + np.arange(m.bars + 1))
    length = np.diff(starts)
    return Rows(index, starts[:-1], length, float(length.max()))


def inks(together: Together, leaving: Singles, coming: Singles, what: Rows, *, columns: int) -> tuple[Singles, Singles]:
    """The ink of both tracks in each row: two of (rows, columns) in [0, 1], NaN where a row has ended.

    Parameters
    ----------
    leaving, coming : attack strengths for drawing, see `bar_fold.ink`
    """
    out = []
    for ink, of in ((leaving, together.leaving), (coming, together.coming)):
        out.append(bar_fold.image(ink, OnClock(together.clock, of), what, columns=columns))
    return out[0], out[1]
