"""Which bar line is bar 1: the one that parts the beats before the music best from those in it.

The second best may be it, too, the likelier the less it is behind. Where it is, it is mostly an earlier one, under soft
first bars, which a network takes for one of the long beginnings that it was shown: so it says more where what lies
between the two is about as loud as the rest, where the level rises little at the line that was chosen and at the
other more, and close to the beginning of the file. `python -m training.first_line` makes the weights.
"""

from __future__ import annotations

import attrs
import numpy as np

from ..arrays import Floats, Ints
from .beat_confidence import chance

LIKELY = 0.65
"""Chance from which another line is bar 1."""
WITHIN, NEAR = 40, 4
"""Lines among so many beats may be it, no more than so many bars from the best."""
SOUNDS = 0.1
"""The level from which something sounds: music that begins inside a bar has its bar 1 behind that."""
_BEATS = 4
"""The level rises from so many beats before a line to so many from it on."""
_FAR, _LATEST = 15.0, 20
"""Log odds by which a line is far behind; beats before a line from which more say no more."""
_FROM_NOTHING = 3.0
"""By what the level rises at the first beat of all."""
_WEIGHTS = np.array([-6.188, 1.014, -0.125, 1.051, -0.534, 0.62, 1.282])
"""Of the figures of a line, and a bias."""


@attrs.frozen(eq=False)
class Lines:
    """The bar lines that may be bar 1.

    Attributes
    ----------
    best : the beat of the one that parts the music best from what is before it
    others : (k,) the beats of those near it with which something sounds
    figures : (k, 6) what the chance is judged by that it is one of these
    """

    best: int
    others: Ints
    figures: Floats


@attrs.frozen
class First:
    """Bar 1.

    Attributes
    ----------
    beat : the beat of its line
    other : that of the line that may be it, too; None where there is none
    chance : that it is the other
    """

    beat: int
    other: int | None = None
    chance: float = 0.0


def lines(begun: Floats, position: Ints, level: Floats, usual: float) -> Lines:
    """The bar lines among the first beats, of which there is one at least.

    Parameters
    ----------
    begun : (n,) log odds that the music has begun with each beat
    position : (n,) place of each beat in its bar, 0 begins one
    level : (n,) how loud it is from each to the next, as spectra are compressed
    usual : how loud it is in the track

    Examples
    --------
    >>> lines(np.array([-4.0, -4, 3, 4, 5, 5, 5, 5]), np.array([2, 3, 0, 1, 2, 3, 0, 1]), np.ones(8), 2.0).best
    2
    """
    at = np.flatnonzero(position[: len(begun)] == 0)
    said = np.cumsum(begun[::-1])[::-1][at]
    best = int(said.argmax())
    within = [i for i in range(max(0, best - NEAR), min(len(at), best + NEAR + 1)) if at[i] < WITHIN and i != best]
    near = [i for i in within if level[at[i]] >= SOUNDS]
    beside = level - usual
    rows = [_figures(said[best] - said[i], int(at[best]), int(at[i]), beside) for i in near]
    return Lines(int(at[best]), at[near].astype(int), np.array(rows).reshape(-1, len(_WEIGHTS) - 1))


def first_line(found: Lines, *, likely: float = LIKELY) -> First:
    """Which of them is bar 1, and which may be, too.

    Parameters
    ----------
    likely : the chance from which it isn't the best, 0 to 1

    Examples
    --------
    >>> first_line(Lines(4, np.zeros(0, int), np.zeros((0, 6))))
    First(beat=4, other=None, chance=0.0)
    """
    if not len(found.others):
        return First(found.best)
    chances = chance(found.figures, _WEIGHTS)
    k = int(chances.argmax())
    other, its = int(found.others[k]), float(chances[k])
    return First(other, found.best, 1 - its) if its >= likely else First(found.best, other, its)


def _figures(behind: float, best: int, other: int, level: Floats) -> list[float]:
    """Of the line at beat `other`, for which the beats speak by `behind` less, by levels beside the usual one."""
    between = float(level[min(best, other) : max(best, other)].mean())
    rises = [_rise(level, other), _rise(level, best)]
    return [float(np.tanh(behind / _FAR)), float(other < best), min(other, _LATEST) / 4, *rises, between]


def _rise(level: Floats, beat: int) -> float:
    if not beat:
        return _FROM_NOTHING
    return float(level[beat : beat + _BEATS].mean() - level[max(0, beat - _BEATS) : beat].mean())
