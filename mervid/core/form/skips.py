"""Skips: from a chorus to a later one, on the beat, leaving out what lies between.

Leaving where one chorus begins and going on where another begins keeps everything that leads into a chorus. Where both
have the same letter and as many bars, one can also change over at any place inside, and the phrase is kept.
"""

from __future__ import annotations

import itertools

import attrs

from ..model.beatgrid import Grid
from ..model.form import Form
from .phrase_edits import bars_in

_TARGETS = ("chorus", "drop")
LEAD_BARS = 2
MOST_LATER = 8
"""To so many later choruses from each."""


@attrs.frozen
class Skip:
    """From phrase `source` to phrase `target`, by their numbers in the form.

    Attributes
    ----------
    leave, enter : beats where it leaves and goes on
    bars : how many bars are left out
    keeps : both are alike and as long, so that the phrase is kept wherever one changes over
    """

    source: int
    target: int
    leave: float
    enter: float
    bars: float
    keeps: bool


def skips(grid: Grid, what: Form) -> list[Skip]:
    """Skips from each chorus to the next later ones; from drop to drop where there is no chorus."""
    lengths = bars_in(grid, what)
    sizes = grid.bar_sizes([q.start for q in what.phrases]).tolist()
    begins = [0.0, *itertools.accumulate(lengths)]
    role = next((r for r in _TARGETS if sum(q.role == r for q in what.phrases) > 1), "")
    found = [i for i, q in enumerate(what.phrases) if q.role == role]
    out = []
    for k, i in enumerate(found):
        for j in found[k + 1 : k + 1 + MOST_LATER]:
            a, b = what.phrases[i], what.phrases[j]
            same = a.letter == b.letter and abs(lengths[i] - lengths[j]) < 0.01 and sizes[i] == sizes[j]
            out.append(Skip(i, j, a.start, b.start, begins[j] - begins[i], same))
    return out


def times(grid: Grid, skip: Skip) -> tuple[float, float, float]:
    """Where to begin to listen (s), where it leaves, and where it goes on."""
    index = int(grid.bar_index(skip.leave + 1e-6)[0])
    lead = max(0.0, float(grid.time_at(grid.bar_start(index - LEAD_BARS))))
    leave, enter = (float(t) for t in grid.time_at([skip.leave, skip.enter]))
    return lead, leave, enter
