"""Whether bars begin with the first stroke, where the whole recording hardly tells: music mostly begins on a bar line.

Of 909 takes that nothing was learned from and whose beats were right, bars were wrong in one of seventy where the first
stroke began one, in one of eight where it didn't. So where it doesn't, what speaks for the bars as they are, beat by
beat over the whole recording, is weighed against it: a strong stroke, where the music has begun, early in the file,
says more. `python -m training.first_stroke` makes the weights.
"""

from __future__ import annotations

import attrs
import numpy as np

from ..arrays import Floats, Ints
from .beat_confidence import chance

STRUCK = 0.3
"""Attack strength from which a beat is struck."""
WITHIN, LATEST = 48, 16
"""The stroke is one of so many beats; so many into the file, later ones are alike."""
LIKELY = 0.6
"""Chance from which bars are moved: of takes left out in turn so 16 of 29 wrong ones are mended, 3 of 239 spoiled."""
_LEAST_LEAD, _MOST_LEAD = -2.0, 14.0
_WEIGHTS = np.array([-0.351, 5.843, 0.286, -1.359, -2.671])
"""Of the figures of a stroke, and a bias."""


@attrs.frozen(eq=False)
class Stroke:
    """The first stroke, where no bar begins with it.

    Attributes
    ----------
    place : its place in the bar, from 1
    lead : by how much beats that begin a bar have higher odds for that than those at this place
    figures : (4,) what the chance is judged by that bars begin there
    """

    place: int
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
    times, position, odds : (n,) beats in s, the place of each in its bar, and the log odds that it begins one
    strength : of the attack, 0 to 1
    begun : log odds that the music has begun with it

    Examples
    --------
    >>> times, place = 0.4 + 0.5 * np.arange(64), np.arange(64) % 4
    >>> first = stroke(times, place, np.where(place == 0, 1.0, -1.0), 2, strength=0.9, begun=2.0)
    >>> first.place, first.lead, round(first.chance, 2)
    (2, 2.0, 0.82)
    """
    place = int(position[beat])
    lead = float(odds[position == 0].mean() - odds[position == place].mean()) if np.any(position == 0) else 0.0
    waits = times[beat] / float(np.median(np.diff(times[:32])))
    judged = [np.clip(lead, _LEAST_LEAD, _MOST_LEAD), strength, begun, min(waits, LATEST) / 4]
    return Stroke(place, lead, np.array(judged, float))


def moved(position: Ints, odds: Floats, metre: int, first: Stroke) -> tuple[Ints, Floats]:
    """Places in bars of `metre` beats that begin with the first stroke, and log odds that say so: (n,) each.

    These bars lead those before by as much as would by itself give them their chance.
    """
    lead = float(np.log(first.chance / (1 - first.chance)) / -_WEIGHTS[0])
    more = (first.lead + lead) / 2
    odds = odds - np.where(position == 0, more, 0) + np.where(position == first.place, more, 0)
    return (position - first.place) % metre, odds
