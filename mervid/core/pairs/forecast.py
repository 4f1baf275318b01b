"""How far apart beats will really fall, foretold from what was heard: the figure that says whether a mix is safe.

What is heard of both tracks says how far each grid may be believed over its stretch (`fitting.sureness`); how steeply
the chance of staying together falls with that was fitted by `python -m training.forecast`, too.
"""

from __future__ import annotations

import math

import attrs

from ..fitting.sureness import Sureness, stretch_of, sureness_of
from ..model.preparation import CHECKED, DRAFT, LOCKED
from .clock import Together
from .side import Side
from .tear import Tear

SAFE = 0.95
"""A meeting is called safe when its beats stay within what an ear forgives with at least this chance."""
_PROBABLE = 0.5
_BY_HAND = {DRAFT: 1.0, CHECKED: 0.1, LOCKED: 0.05}
"""What is left of that chance when a person has looked at the track."""
_STEEP = 5.08
"""How steeply the chance of staying within some ms grows with their logarithm, on pairs of these stretches."""
_QUANTILE = 0.6
"""The figure is set so that the truth stays within it in six of ten: rather a little too large than too small."""
GROSS_MS = 250.0


@attrs.frozen
class Forecast:
    """What is expected of a meeting.

    Attributes
    ----------
    p95 : ms within which 95 % of the beats will fall together
    safe : chance that they stay within what an ear forgives, 0 to 1
    """

    p95: float
    safe: float

    @property
    def is_safe(self) -> bool:
        return self.safe >= SAFE

    @property
    def is_probable(self) -> bool:
        """Whether they rather stay together than part; what is safe is probable, too."""
        return self.safe > _PROBABLE


def sureness(side: Side, start: float, stop: float) -> Sureness:
    """How far a track's grid may be believed between two of its beats."""
    found = sureness_of(stretch_of(side.beside, start, stop))
    return attrs.evolve(found, wrong=found.wrong * _BY_HAND[side.preparation.readiness])


def together_of(leaving: Sureness, coming: Sureness, forgiven: float, *, nudge: float = 0.0) -> Forecast:
    """What is expected of two tracks over each other.

    Parameters
    ----------
    forgiven : ms that an ear forgives
    nudge : ms by which the coming track is moved against its grid
    """
    apart = abs(coming.late - leaving.late + nudge)
    fine = max(math.hypot(leaving.error, coming.error) + apart, 0.1)
    right = (1 - leaving.wrong) * (1 - coming.wrong)
    within = 1 / (1 + math.exp(-_STEEP * math.log(forgiven / fine)))
    if right <= _QUANTILE:
        return Forecast(GROSS_MS, right * within)
    share = _QUANTILE / right
    return Forecast(fine * (share / (1 - share)) ** (1 / _STEEP), right * within)


def forecast(leaving: Side, coming: Side, together: Together, line: Tear) -> Forecast:
    """What is expected of a meeting that is laid out, and whose tear line is known."""
    m, n = together.meeting, together.beats
    a = sureness(leaving, m.at, m.at + n)
    b = sureness(coming, m.enter, m.enter + n * m.level)
    return together_of(a, b, line.forgiven, nudge=m.nudge)
