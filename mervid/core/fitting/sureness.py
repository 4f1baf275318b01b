"""How far a grid may be believed over a stretch, from what was heard there: its error, and whether it is wrong.

Heard beats are not true ones, so what shows beside a grid is not all of its error. On music whose beats are known the
error over a stretch goes with how far the heard beats scatter round the grid, how uneven their steps are and how sure
they are; and whether the stretch is counted on wrong beats altogether goes with these and with the chance of the level.
Fitted by `python -m training.forecast`, on music that is in no bench and that nothing else was learned from.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import attrs
import numpy as np

from ..arrays import Floats
from ..hearing.heard import Heard
from ..model.beatgrid import Grid
from .beat_numbers import own_beats

_FAR_MS = 40.0
"""Farther off doesn't count for more."""
LEAST_HEARD = 8
BEATS = 64
"""Of a stretch, where a whole track is looked through; they overlap by half."""
_HIDDEN = (2.247, 0.349, 0.28, 0.219)
"""Of what no scatter shows: the logarithm of its ms, see `hidden_by`."""
_WRONG = (0.95, -3.524, 1.078, 0.919, 2.041)
"""Of a stretch being counted on wrong beats: its log odds, see `doubted_by`."""
_FLOOR = 0.015
"""Chance of wrong beats where all is sure, and of right ones where nothing is."""
_AT_LEAST, _SURE = 0.3, 1.02
"""ms and confidence from which what is uneven or scattered, and what is missing in confidence, are reckoned."""
_UNHEARD = 0.1
"""So many beats may be missing in what is heard without a doubt."""


@attrs.frozen(eq=False)
class Beside:
    """Heard beats beside a grid.

    Attributes
    ----------
    heard : the beats
    beats : (n,) the grid beat that each is
    late : (n,) ms by which each lies after the grid's
    uneven : (n,) ms by which each lies off the middle of its neighbours, never negative
    """

    heard: Heard
    beats: Floats
    late: Floats
    uneven: Floats

    @classmethod
    def of(cls, heard: Heard, grid: Grid) -> Beside:
        """What is heard beside a grid."""
        beats = own_beats(heard.times, grid)
        late = np.asarray(1000 * (heard.times - grid.time_at(beats)))
        return cls(heard, beats, late, _uneven(heard))

    @classmethod
    def alone(cls, heard: Heard) -> Beside:
        """What is heard by itself, whatever the grid: on a grid of its own."""
        return cls(heard, heard.numbers.astype(float), np.zeros(len(heard.times)), _uneven(heard))


def _uneven(heard: Heard) -> Floats:
    """How far each beat lies from the line through its neighbours, (n,) ms; those that aren't heard count on."""
    t, n = heard.times, heard.numbers
    if len(t) < 3:
        return np.zeros(len(t))
    share = (n[1:-1] - n[:-2]) / (n[2:] - n[:-2])
    return np.pad(1000 * np.abs(t[1:-1] - t[:-2] - share * (t[2:] - t[:-2])), 1, mode="edge")


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
    """How far a grid may be believed over a stretch.

    Attributes
    ----------
    error : ms within which 95 % of its beats are expected, beside what all of them are late
    wrong : chance that it is counted on wrong beats, 0 to 1
    late : ms by which its beats are heard after those of the grid all along
    """

    error: float
    wrong: float
    late: float = 0.0


UNKNOWN = Sureness(30.0, 0.5)
"""Where hardly a beat is heard."""


def stretch_of(beside: Beside, start: float, stop: float) -> Stretch | None:
    """What is heard between two beats of the grid; None where hardly a beat is."""
    inside = (beside.beats > start - 0.5) & (beside.beats < stop - 0.5)
    if inside.sum() < LEAST_HEARD:
        return None
    late = beside.late[inside]
    (middle,) = _quantiles(late, 0.5)
    typical, most = _quantiles(np.abs(late - middle), 0.5, 0.9)
    (uneven,) = _quantiles(beside.uneven[inside], 0.95)
    sure = beside.heard.confidence[inside]
    return Stretch(
        late=middle,
        typical=min(_FAR_MS, typical),
        most=min(_FAR_MS, most),
        uneven=min(_FAR_MS, uneven),
        sure=float(sure.mean()),
        least_sure=_quantiles(sure, 0.1)[0],
        level=min(0.99, max(0.01, beside.heard.level_chance or 0.5)),
        missing=max(0.0, 1 - len(late) / max(1.0, stop - start)),
    )


def _quantiles(x: Floats, *shares: float) -> list[float]:
    """As `numpy.quantile`, which takes a tenth of a millisecond for what is asked here many thousand times."""
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


def sureness_of(s: Stretch | None) -> Sureness:
    """How far a grid may be believed over a stretch."""
    if s is None:
        return UNKNOWN
    hidden = math.exp(_summed(hidden_by(s), _HIDDEN))
    wrong = _FLOOR + (1 - 2 * _FLOOR) / (1 + math.exp(-_summed(doubted_by(s), _WRONG)))
    # beats that aren't heard are believed on the grid's word alone
    wrong = min(1.0, wrong + max(0.0, s.missing - _UNHEARD))
    return Sureness(math.hypot(s.most, hidden), wrong, s.late)


def least_sure(heard: Heard, *, seen: Sequence[float] = ()) -> tuple[float, float, float] | None:
    """The stretch most likely counted on wrong beats: s of its first and last beat, and that chance.

    None where too few beats are heard to look.

    Parameters
    ----------
    seen : s, where a person put beats: what lies around isn't looked at again
    """
    if len(heard.times) < LEAST_HEARD:
        return None
    alone = Beside.alone(heard)
    known = np.interp(seen, heard.times, alone.beats)
    first, last = float(alone.beats[0]), float(alone.beats[-1])
    starts = np.arange(first, max(first + 1, last - BEATS / 4), BEATS / 2)
    spans = [(a, min(last, a + BEATS)) for a in starts.tolist()]
    told = [
        (span, sureness_of(s).wrong)
        for span in spans
        if not np.any((known >= span[0]) & (known <= span[1])) and (s := stretch_of(alone, *span)) is not None
    ]
    if not told:
        return None
    (start, after), wrong = max(told, key=lambda one: one[1])
    a, b = np.interp([start, after - 1], alone.beats, heard.times).tolist()
    return a, b, wrong
