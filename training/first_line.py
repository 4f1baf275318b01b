"""Fit which bar line is bar 1: `python -m training.first_line TAKES [TAKES ...] [--judged TAKES ...]`.

TAKES are folders of takes that nothing was learned from, as `training.heard_takes` and `training.modules` keep them.
Of those whose beats and bars are right the lines near the one that the network of the beginning takes for bar 1 are
told by a logistic regression into bar 1 and the others. Each folder is judged by what the rest of them teach, and those
after `--judged` by all. The weights are printed, and written into `mervid.core.hearing.first_line` by hand.
"""

from __future__ import annotations

import sys
from pathlib import Path

import attrs
import numpy as np
from numpy.typing import NDArray

from mervid.core.hearing import first_line, opening
from mervid.core.hearing.beat_confidence import chance
from training.first_stroke import counted
from training.fits import judged_by_folder
from training.judge import logistic

Floats = NDArray[np.float64]


@attrs.frozen(eq=False)
class Example:
    """A take whose beats and bars are right.

    Attributes
    ----------
    folder : where it is from
    figures : (k, 6) of the lines near the one that was chosen
    there : (k,) whether bar 1 truly is there
    stays : whether it is where it was chosen
    """

    folder: str
    figures: Floats
    there: NDArray[np.bool_]
    stays: bool


def example(path: Path) -> Example | None:
    """The lines of a take; None where its beats or its bars are wrong."""
    found = counted(path)
    if found is None:
        return None
    take, heard, whole = found
    whole = opening.from_first_stroke(heard, take.attack, whole)
    told = opening.lines(heard, take.attack, whole)
    bar_1 = int(np.abs(whole.times - take.downbeats[0]).argmin())
    if told is None or not len(told.others) or whole.position[bar_1] or bar_1 not in (told.best, *told.others):
        return None
    return Example(path.parent.name, told.figures, told.others == bar_1, told.best == bar_1)


def fitted(examples: list[Example]) -> Floats:
    """`first_line._WEIGHTS`: of the figures, and a bias, (7,)."""
    there = np.concatenate([e.there for e in examples]).astype(float)
    return logistic(np.concatenate([e.figures for e in examples]), there)


def judged(examples: list[Example], weights: Floats) -> NDArray[np.int64]:
    """How many there are, could be mended, are mended and spoiled: (4,)."""
    out = np.zeros(4, int)
    for e in examples:
        said = chance(e.figures, weights)
        moved = said.max() >= first_line.LIKELY
        out += [1, not e.stays, moved and e.there[said.argmax()], moved and e.stays]
    return out


def main() -> int:
    """Hear, fit, judge."""
    words = "{}: bar 1 of {} takes, {} not where it is taken for; moved rightly {}, wrongly {}"
    return judged_by_folder("training.first_line", str(__doc__), example, fitted, judged, words)


if __name__ == "__main__":
    sys.exit(main())
