"""How far apart beats will really fall, foretold from what was heard: the figure that says whether a mix is safe.

Heard beats are not true ones: each has an error of its own, so what the tear line shows is neither all of the truth nor
free of noise. On rendered music whose beats are known (see guide, Rehearse) the error of a grid over a stretch goes
with how far the heard beats scatter round it and how sure they are; and whether a stretch is counted on the wrong beats
altogether goes with the chances that the ear itself gave. Both were fitted there, on music that is not in any bench.
"""

from __future__ import annotations

import math
from statistics import NormalDist

import attrs
import numpy as np

from ..model.preparation import CHECKED, DRAFT, LOCKED
from .clock import Together
from .side import Side
from .tear import Tear

SAFE = 0.95
"""A meeting is called safe when its beats stay within what an ear forgives with at least this chance."""
_PROBABLE = 0.5
_FAR_MS = 40.0
_SCATTER, _DOUBT, _LEAST = 2.0, 3.0, 0.2
"""ms of error for each ms of scatter in the stretch, for a tenth of confidence missing, and always."""
_WRONG = (7.3, -3.6, -7.1, -0.15)
"""Log odds of a stretch being counted on wrong beats: always, and for the chance of the level, the confidence of the
least sure tenth, and 10 ms of scatter."""
_FLOOR = 0.025
"""Where all is sure the fitted odds say 0.04; of 250 such renders seven were wrong, half of them beyond mending."""
_BY_HAND = {DRAFT: 1.0, CHECKED: 0.1, LOCKED: 0.05}
"""What is left of that chance when a person has looked at the track."""
_SPREAD = 0.6
"""Standard deviation of the logarithm of the true error against the one foretold, on those renders."""
_TORN = 0.11
"""Share of the tear line's own figure that tells more than both tracks alone."""
_QUANTILE = 0.6
"""The figure is set so that the truth stays within it in six of ten: rather a little too large than too small."""
_UNHEARD = 0.1
"""So many beats may be missing in what is heard without a doubt."""
GROSS_MS = 250.0
LEAST_HEARD = 8


@attrs.frozen
class Sureness:
    """How far the grid of one track may be believed over a stretch.

    Attributes
    ----------
    error : ms within which 95 % of its beats are expected
    wrong : chance that it is counted on wrong beats, 0 to 1
    """

    error: float
    wrong: float


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


UNKNOWN = Sureness(30.0, 0.5)
"""Where hardly a beat is heard."""


def sureness(side: Side, start: float, stop: float) -> Sureness:
    """How far the grid may be believed between two of its beats."""
    heard = side.heard
    inside = (side.heard_beats > start - 0.5) & (side.heard_beats < stop - 0.5)
    if inside.sum() < LEAST_HEARD:
        return UNKNOWN
    here = min(_FAR_MS, float(np.percentile(side.scatter[inside], 95)))
    sure = heard.confidence[inside]
    error = _LEAST + _SCATTER * here + _DOUBT * 10 * (1 - float(sure.mean()))
    always, level, least, scatter = _WRONG
    odds = (
        always
        + level * float(np.clip(heard.level_chance, 0.01, 0.99))
        + least * float(np.percentile(sure, 10))
        + scatter * here / 10
    )
    wrong = max(0.0, 1 / (1 + math.exp(-odds)) - _FLOOR)
    # beats that aren't heard are believed on the grid's word alone
    unheard = max(0.0, 1 - float(inside.sum()) / max(1.0, stop - start) - _UNHEARD)
    wrong = min(1.0, wrong + unheard)
    return Sureness(error, wrong * _BY_HAND[side.preparation.readiness])


def together_of(
    leaving: Sureness, coming: Sureness, forgiven: float, *, nudge: float = 0.0, torn: float | None = None
) -> Forecast:
    """What is expected of two tracks over each other.

    Parameters
    ----------
    forgiven : ms that an ear forgives
    nudge : ms by which the coming track is moved against its grid
    torn : 95th percentile of their tear line, ms, where it is known
    """
    fine = math.hypot(leaving.error, coming.error)
    fine = (1 - _TORN) * fine + _TORN * min(torn, _FAR_MS) if torn is not None else fine
    fine = max(fine + abs(nudge), 0.1)
    right = (1 - leaving.wrong) * (1 - coming.wrong)
    within = NormalDist().cdf(math.log(forgiven / fine) / _SPREAD)
    if right <= _QUANTILE:
        return Forecast(GROSS_MS, right * within)
    return Forecast(fine * math.exp(_SPREAD * NormalDist().inv_cdf(_QUANTILE / right)), right * within)


def forecast(leaving: Side, coming: Side, together: Together, line: Tear) -> Forecast:
    """What is expected of a meeting that is laid out, and whose tear line is known."""
    m, n = together.meeting, together.beats
    a = sureness(leaving, m.at, m.at + n)
    b = sureness(coming, m.enter, m.enter + n * m.level)
    return together_of(a, b, line.forgiven, nudge=m.nudge, torn=line.p95)
