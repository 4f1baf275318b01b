"""The rhythms a bar may be heard as, written as a drummer would: sixteen steps, four bands.

Each line is a frequency band from low to high (kick, body, snare, cymbals); 'x' is a strong hit, 'o' one
that is often there, '.' nothing expected. These are common practice, no source. Turned into the mean onset strength
expected in each sixteenth of a beat, they are the emissions of the bar pointer (`beat_tracking`).
"""

from __future__ import annotations

import numpy as np

from ..arrays import Floats

BEATS = 4
BINS = 16
_STEPS = {"x": 1.0, "o": 0.6, ".": 0.0}
# whatever the rhythm, bass and chords may strike on any eighth, and less often on any sixteenth
_ANYWAY = (0.3, 0.2)

PATTERNS: dict[str, tuple[str, str, str, str]] = {
    "four on the floor": (
        "x...x...x...x...",
        "o...x...o...x...",
        "o...x...o...x...",
        "o.x.o.x.o.x.o.x.",
    ),
    "backbeat, eighths": (
        "x.....o.x.o.....",
        "o...x...o...x...",
        "o...x...o...x...",
        "x.o.x.o.x.o.x.o.",
    ),
    "backbeat, sixteenths": (
        "x..o..o.x.o.....",
        "o...x..o.o..x...",
        "o...x..o.o..x..o",
        "xooxxooxxooxxoox",
    ),
    "boom-bap": (
        "x......o..x.....",
        "....x.......x...",
        "....x.......x...",
        "x.o.x.o.x.o.x.o.",
    ),
    "half-time": (
        "x.....o.........",
        "o.......x.......",
        "o.......x.......",
        "x.o.o.o.x.o.o.o.",
    ),
    "on every beat": (
        "x...o...x...o...",
        "x...x...x...x...",
        "x...x...x...x...",
        "x...x...x...x...",
    ),
    "shuffle": (
        "x.......x.......",
        "o...x...o...x...",
        "o...x...o...x...",
        "x..ox..ox..ox..o",
    ),
    "bass and chords": (
        "x...o...x...o...",
        "x.o.o.o.x.o.o.o.",
        "x.o.o.o.x.o.o.o.",
        "o...o...o...o...",
    ),
}


def expected(
    periods: Floats,
    *,
    quiet: float = 0.15,
    loud: float = 1.1,
    width: float = 0.016,
) -> Floats:
    """Mean onset strength in each sixteenth of a beat, the first centred on the beat itself.

    Parameters
    ----------
    periods : (n,) length of a beat, s
    quiet, loud
        Strength where nothing and where a strong hit is expected.
    width
        Standard deviation of a hit in s: a hit is as long at any tempo.

    Returns
    -------
    (n, patterns, 4 beats, 16 bins, 4 bands) float64
    """
    fine = 4
    bar = BEATS * BINS * fine
    at = (np.arange(bar) + 0.5) / (BINS * fine) - 0.5 / BINS
    steps = np.arange(16) / 4
    distance = (at[:, None] - steps[None] + BEATS / 2) % BEATS - BEATS / 2
    marks = np.array([[[_STEPS[m] for m in line] for line in lines] for lines in PATTERNS.values()])
    marks = np.maximum(marks, np.tile(_ANYWAY, 8))
    bumps = np.exp(-0.5 * (distance[None] * periods[:, None, None] / width) ** 2)
    hit = (marks[None, :, :, None, :] * bumps[:, None, None]).max(axis=4)
    mean = quiet + (loud - quiet) * hit.reshape(len(periods), len(PATTERNS), 4, BEATS, BINS, fine).mean(axis=5)
    return mean.transpose(0, 1, 3, 4, 2)
