"""How far apart beats will really fall, foretold from what was heard: the figure that says whether a mix is safe.

Heard beats are not true ones: each has an error of its own, so what the tear line shows is neither all of the truth nor
free of noise. On music whose beats are known (see guide, Rehearse) the error of a grid over a stretch goes with how far
the heard beats scatter round it, how uneven their steps are and how sure they are; and whether a stretch is counted on
wrong beats altogether goes with these and with the chances that the ear itself gave. All was fitted there, on music
that is not in any bench and that nothing else was learned from.
"""

from __future__ import annotations

import math

import attrs
import numpy as np

from ..arrays import Floats
from ..model.preparation import CHECKED, DRAFT, LOCKED
from .clock import Together
from .side import Side
from .tear import Tear

SAFE = 0.95
"""A meeting is called safe when its beats stay within what an ear forgives with at least this chance."""
_PROBABLE = 0.5
_FAR_MS = 40.0
_HIDDEN = (2.247, 0.349, 0.28, 0.219)
"""Of what no scatter shows: the logarithm of its ms, see `hidden_by`."""
_WRONG = (0.95, -3.524, 1.078, 0.919, 2.041)
"""Of a stretch being counted on wrong beats: its log odds, see `doubted_by`."""
_FLOOR = 0.015
"""Chance of wrong beats where all is sure."""
_AT_LEAST, _SURE = 0.3, 1.02
"""ms and confidence from which what is uneven or scattered, and what is missing in confidence, are reckoned."""
_BY_HAND = {DRAFT: 1.0, CHECKED: 0.1, LOCKED: 0.05}
"""What is left of that chance when a person has looked at the track."""
_STEEP = 5.08
"""How steeply the chance of staying within some ms grows with their logarithm, on pairs of these stretches."""
_QUANTILE = 0.6
"""The figure is set so that the truth stays within it in six of ten: rather a little too large than too small."""
_UNHEARD = 0.1
"""So many beats may be missing in what is heard without a doubt."""
GROSS_MS = 250.0
LEAST_HEARD = 8


@attrs.frozen
class Stretch:
    """What is heard in a stretch of a track, beside its grid.

    Attributes
    ----------
    late : ms by which its beats are heard after those of the grid all along
    typical, most : ms, how far they scatter round that: half of them, nine in ten
    uneven : ms, how far 95 % of them lie from the middle of their neighbours
    sure, least_sure : mean confidence of its beats, and that of the least sure tenth, 0 to 1
    level : chance that the track is counted at the right level, 0 to 1
    missing : share of its beats that aren't heard, 0 to 1
    """

    late: float
    typical: float
    most: float
    uneven: float
    sure: float
    least_sure: float
    level: float
    missing: float


@attrs.frozen
class Sureness:
    """How far the grid of one track may be believed over a stretch.

    Attributes
    ----------
    error : ms within which 95 % of its beats are expected, beside what all of them are late
    wrong : chance that it is counted on wrong beats, 0 to 1
    late : ms by which its beats are heard after those of the grid all along
    """

    error: float
    wrong: float
    late: float = 0.0


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


def stretch_of(side: Side, start: float, stop: float) -> Stretch | None:
    """What is heard between two beats of its grid; None where hardly a beat is."""
    inside = (side.heard_beats > start - 0.5) & (side.heard_beats < stop - 0.5)
    if inside.sum() < LEAST_HEARD:
        return None
    late = side.late[inside]
    (middle,) = _quantiles(late, 0.5)
    typical, most = _quantiles(np.abs(late - middle), 0.5, 0.9)
    (uneven,) = _quantiles(side.uneven[inside], 0.95)
    sure = side.heard.confidence[inside]
    return Stretch(
        late=middle,
        typical=min(_FAR_MS, typical),
        most=min(_FAR_MS, most),
        uneven=min(_FAR_MS, uneven),
        sure=float(sure.mean()),
        least_sure=_quantiles(sure, 0.1)[0],
        level=min(0.99, max(0.01, side.heard.level_chance)),
        missing=max(0.0, 1 - len(late) / max(1.0, stop - start)),
    )


def _quantiles(x: Floats, *shares: float) -> list[float]:
    """As `numpy.quantile`, which takes a tenth of a millisecond for what is asked here a million times."""
    whole = np.sort(x)
    out = []
    for share in shares:
        at = share * (len(whole) - 1)
        i = min(int(at), len(whole) - 2)
        out.append(float(whole[i] + (at - i) * (whole[i + 1] - whole[i])))
    return out


def hidden_by(s: Stretch) -> tuple[float, ...]:
    """What the error that no scatter shows goes with, (4,)."""
    return 1.0, math.log(s.uneven + _AT_LEAST), math.log(_SURE - s.sure), math.log(s.typical + _AT_LEAST)


def doubted_by(s: Stretch) -> tuple[float, ...]:
    """What being counted on wrong beats goes with, (5,)."""
    return 1.0, s.level, math.log(_SURE - s.least_sure), s.most / 10, s.uneven / 10


def _summed(figures: tuple[float, ...], weights: tuple[float, ...]) -> float:
    return sum(x * w for x, w in zip(figures, weights, strict=True))


def sureness_of(s: Stretch, readiness: str = DRAFT) -> Sureness:
    """How far a grid may be believed over a stretch."""
    hidden = math.exp(_summed(hidden_by(s), _HIDDEN))
    wrong = _FLOOR + (1 - _FLOOR) / (1 + math.exp(-_summed(doubted_by(s), _WRONG)))
    # beats that aren't heard are believed on the grid's word alone
    wrong = min(1.0, wrong + max(0.0, s.missing - _UNHEARD))
    return Sureness(math.hypot(s.most, hidden), wrong * _BY_HAND[readiness], s.late)


def sureness(side: Side, start: float, stop: float) -> Sureness:
    """How far a track's grid may be believed between two of its beats."""
    s = stretch_of(side, start, stop)
    return UNKNOWN if s is None else sureness_of(s, side.preparation.readiness)


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
