"""Fit when bars begin with the first stroke: `python -m training.first_stroke TAKES [TAKES ...] [--judged TAKES ...]`.

TAKES are folders of takes that nothing was learned from, as `training.heard_takes` and `training.modules` keep them.
Those whose beats are right and whose first stroke begins no bar are told by a logistic regression into those whose bars
begin with it and the others. Each folder is judged by what the rest of them teach, and those after `--judged` by all.
The weights are printed, and written into `mervid.core.hearing.first_stroke` by hand.
"""

from __future__ import annotations

import sys
from pathlib import Path

import attrs
import numpy as np
from numpy.typing import NDArray

from mervid.core.hearing import beat_tracking, first_stroke, opening, voices
from mervid.core.hearing.beat_confidence import chance
from mervid.core.hearing.drum_patterns import BEATS
from mervid.core.hearing.ear import Strengths
from mervid.core.hearing.opening import Barred
from training.fits import judged_by_folder
from training.heard_takes import Read, nearest, read
from training.judge import logistic

Floats = NDArray[np.float64]
LATE, RIGHT = 0.07, 0.9
"""s by which a beat may lie beside a true one; and the share of beats that do where the count is right."""


@attrs.frozen(eq=False)
class Example:
    """A take whose first stroke begins no bar.

    Attributes
    ----------
    folder : where it is from
    figures : (4,) of the stroke
    there, stays : whether bars truly begin with the stroke, and whether they are right as they are
    """

    folder: str
    figures: Floats
    there: bool
    stays: bool


def counted(path: Path) -> tuple[Read, Strengths, Barred] | None:
    """A take as it is heard with its beats in bars; None of voices alone, and where its beats are wrong."""
    take = read(path)
    if voices.alone(take.ear) or not len(take.downbeats):
        return None
    count = beat_tracking.count(take.ear, take.attack, take.duration, seen=take.seen)
    whole = opening.barred(count.ear, take.attack, take.seen, count.times)
    if whole is None:
        return None
    # what is tried before the music is no wrong beat
    played = whole.times[whole.times > take.beats[0] - LATE]
    right = len(played) and np.mean(np.abs(nearest(take.beats, played) - played) < LATE) >= RIGHT
    return (take, count.ear, whole) if right else None


def example(path: Path) -> Example | None:
    """The first stroke of a take; None where it begins a bar, or the take's beats are wrong."""
    found = counted(path)
    if found is None:
        return None
    take, heard, whole = found
    first = opening.first_stroke_of(heard, take.attack, whole)
    if first is None:
        return None
    down = np.abs(nearest(take.downbeats, whole.times) - whole.times)[: first.stop] < LATE
    place = whole.position[: first.stop]
    true = int(np.argmax([down[place == k].mean() if k in place else 0 for k in range(BEATS)]))
    return Example(path.parent.name, first.figures, true == first.place, true == 0)


def fitted(examples: list[Example]) -> Floats:
    """`first_stroke._WEIGHTS`: of the figures, and a bias, (5,)."""
    return logistic(np.stack([e.figures for e in examples]), np.array([e.there for e in examples], float))


def judged(examples: list[Example], weights: Floats) -> NDArray[np.int64]:
    """How many there are, could be mended, are mended and spoiled: (4,)."""
    said = chance(np.stack([e.figures for e in examples]), weights) >= first_stroke.LIKELY
    there, stays = np.array([[e.there, e.stays] for e in examples]).T
    return np.array([len(examples), there.sum(), (said & there).sum(), (said & stays).sum()])


def main() -> int:
    """Hear, fit, judge."""
    words = "{}: {} first strokes that begin no bar, {} should; moved rightly {}, wrongly {}"
    return judged_by_folder("training.first_stroke", str(__doc__), example, fitted, judged, words)


if __name__ == "__main__":
    sys.exit(main())
