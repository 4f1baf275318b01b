"""Whether bars begin with the first stroke, where the whole recording hardly tells: music mostly begins on a bar line.

Of 909 takes that nothing was learned from and whose beats were right, bars were wrong in one of seventy where the first
stroke began one, in one of eight where it didn't. So where it doesn't, what speaks for the bars as they are is weighed
against it, beat by beat as far as they are counted through. A strong stroke says more, and one where the music has
begun, early in the file. `python -m training.first_stroke` makes the weights.
"""

from __future__ import annotations

import attrs
import numpy as np

from ..arrays import Floats, Ints
from .beat_confidence import chance
from .drum_patterns import BEATS

STRUCK = 0.3
"""Attack strength from which a beat is struck."""
WITHIN, LATEST = 48, 16
"""The stroke is one of so many beats; so many into the file, later ones are alike."""
LIKELY = 0.65
"""Chance from which bars are moved."""
_LEAST_LEAD, _MOST_LEAD = -2.0, 14.0
_WEIGHTS = np.array([-0.42, 7.062, 0.51, -2.299, -2.677])
"""Of the figures of a stroke, and a bias."""


@attrs.frozen(eq=False)
class Stroke:
    """The first stroke, where no bar begins with it.

    Attributes
    ----------
    place : its place in the bar, from 1
    stop : one past the last beat up to which bars are counted through
    lead : by how much beats that begin a bar until then have higher odds for that than those at this place
    figures : (4,) what the chance is judged by that bars begin there
    """

    place: int
    stop: int
    lead: float
    figures: Floats

    @property
    def chance(self) -> float:
        """The chance that bars begin with it, 0.02 to 0.98."""
        return float(chance(self.figures, _WEIGHTS))


def beside_a_bar(position: Ints, struck: Floats) -> int | None:
    """The beat of the first stroke; None where a bar begins with it, or there is none.

    Parameters
    ----------
    position : (n,) place of each beat in its bar, 0 begins one
    struck : (m,) how strong the attack at each of the first beats is, 0 to 1

    Examples
    --------
    >>> beside_a_bar(np.arange(8) % 4, np.array([0.1, 0.0, 0.9, 0.5]))
    2
    """
    found = np.flatnonzero(struck >= STRUCK)
    return int(found[0]) if len(found) and position[found[0]] else None


def stroke(times: Floats, position: Ints, odds: Floats, beat: int, *, strength: float, begun: float) -> Stroke:
    """The stroke at a beat.

    Parameters
    ----------
    times, position, odds : (n,) beats in s, the place of each in its bar of four, and the log odds that it begins one
    strength : of the attack, 0 to 1
    begun : log odds that the music has begun with it

    Examples
    --------
    >>> times, place = 0.4 + 0.5 * np.arange(64), np.arange(64) % 4
    >>> first = stroke(times, place, np.where(place == 0, 1.0, -1.0), 2, strength=0.9, begun=2.0)
    >>> first.place, first.stop, first.lead, round(first.chance, 1)
    (2, 64, 2.0, 0.9)
    """
    place = int(position[beat])
    slips = beat + 1 + np.flatnonzero((np.diff(position[beat:]) - 1) % BEATS)
    stop = int(slips[0]) if len(slips) else len(position)
    opens, same = odds[:stop][position[:stop] == 0], odds[:stop][position[:stop] == place]
    lead = float(opens.mean() - same.mean()) if len(opens) else _LEAST_LEAD
    waits = times[beat] / float(np.median(np.diff(times[:32])))
    judged = [np.clip(lead, _LEAST_LEAD, _MOST_LEAD), strength, begun, min(waits, LATEST) / 4]
    return Stroke(place, stop, lead, np.array(judged, float))


def moved(position: Ints, odds: Floats, first: Stroke) -> tuple[Ints, Floats]:
    """Places in bars of four that begin with the first stroke, and log odds that say so: (n,) each.

    Until the count slips; there these bars lead those before by as much as would by itself give them their chance.
    """
    lead = float(np.log(first.chance / (1 - first.chance)) / -_WEIGHTS[0])
    more = (first.lead + lead) / 2
    part = np.arange(len(position)) < first.stop
    odds = odds - np.where(part & (position == 0), more, 0) + np.where(part & (position == first.place), more, 0)
    return np.where(part, (position - first.place) % BEATS, position), odds
