"""A meeting judged: laid out, its tear line, what gear makes of it, what is foretold, and what to do about it."""

from __future__ import annotations

import attrs

from . import forecast, gear_clocks, harmony, mending
from .clock import Together, lay
from .forecast import Forecast
from .gear_clocks import Run
from .meeting import Meeting
from .mending import Remark
from .proposals import Proposal
from .side import Side
from .tear import Tear, tear


@attrs.frozen(eq=False)
class Judgement:
    """All that follows from a meeting of two tracks.

    `keys` says how their keys stand to each other; empty where that isn't known.
    """

    together: Together
    line: Tear
    runs: tuple[Run, ...]
    expected: Forecast
    remarks: tuple[Remark, ...]
    keys: str


def judge(leaving: Side, coming: Side, meeting: Meeting, best: Proposal | None = None) -> Judgement:
    """Judge a meeting. Raises `Refused` where the two can't meet so.

    Parameters
    ----------
    best : the best place there is, where that is known
    """
    together = lay(leaving.grid, coming.grid, meeting, (leaving.duration, coming.duration))
    line = tear(leaving, coming, together)
    runs = gear_clocks.runs(leaving, coming, together, line)
    expected = forecast.forecast(leaving, coming, together, line)
    remarks = mending.remarks(leaving, coming, together, line, runs, expected, best)
    words = harmony.key_words(leaving, coming, meeting, together.beats)
    return Judgement(together, line, runs, expected, tuple(remarks), words)
