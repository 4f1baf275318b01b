"""Fit when bars begin with the first stroke: `python -m training.first_stroke TAKES [TAKES ...] [--judged TAKES ...]`.

TAKES are folders of takes that nothing was learned from, as `training.heard_takes` and `training.modules` keep them.
Those whose beats are right and whose first stroke begins no bar are told by a logistic regression into those whose bars
begin with it and the others. Each folder is judged by what the rest of them teach, and those after `--judged` by all.
The weights are printed, and written into `mervid.core.hearing.first_stroke` by hand.
"""

from __future__ import annotations

import argparse
import sys
from pathlib import Path

import attrs
import numpy as np
from numpy.typing import NDArray

from mervid.core.hearing import beat_tracking, first_stroke, opening, voices
from mervid.core.hearing.beat_confidence import chance
from mervid.core.hearing.drum_patterns import BEATS
from training.heard_takes import nearest, read
from training.judge import logistic
from training.spread import spread

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
    there, stays : whether bars truly begin with the stroke, and whether they do as they are
    """

    folder: str
    figures: Floats
    there: bool
    stays: bool


def example(path: Path) -> Example | None:
    """The first stroke of a take; None where it begins a bar, or the take's beats are wrong."""
    take = read(path)
    if voices.alone(take.ear) or not len(take.downbeats):
        return None
    count = beat_tracking.count(take.ear, take.attack, take.duration, seen=take.seen)
    whole = opening.barred(count.ear, take.attack, take.seen, count.times)
    if whole is None or np.mean(np.abs(nearest(take.beats, whole.times) - whole.times) < LATE) < RIGHT:
        return None
    first = opening.first_stroke_of(count.ear, take.attack, take.seen, whole)
    if first is None:
        return None
    down = np.abs(nearest(take.downbeats, whole.times) - whole.times) < LATE
    right = int(np.argmax([down[whole.position == k].mean() if k in whole.position else 0 for k in range(BEATS)]))
    return Example(path.parent.name, first.figures, right == first.place, right == 0)


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
    parser = argparse.ArgumentParser(prog="python -m training.first_stroke", description=__doc__.split("\n")[0])
    parser.add_argument("takes", nargs="+", type=Path)
    parser.add_argument("--judged", nargs="*", type=Path, default=[])
    options = parser.parse_args()
    shown, other = (
        [e for f in folders for e in spread(example, sorted(f.glob("*.npz")), most_each=120) if e is not None]
        for folders in (options.takes, options.judged)
    )
    words = "{}: {} first strokes that begin no bar, {} should; moved rightly {}, wrongly {}"
    total = np.zeros(4, int)
    for folder in sorted({e.folder for e in shown}):
        rest = [e for e in shown if e.folder != folder]
        total += judged([e for e in shown if e.folder == folder], fitted(rest)) if rest else 0
    print(words.format("each folder by the others", *total))
    weights = np.round(fitted(shown), 3)
    print(f"_WEIGHTS = np.array({weights.tolist()})")
    for folder in sorted({e.folder for e in other}):
        print(words.format(folder, *judged([e for e in other if e.folder == folder], weights)))
    return 0


if __name__ == "__main__":
    sys.exit(main())
