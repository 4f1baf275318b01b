"""Beat 1 or beat 3: where drums repeat every half bar, harmony, timbre and sections over the whole track tell.

Harmony mostly moves at bar lines (common practice, no source). At each beat what sounds after it is compared with what
sounded before it; the beats that are said to begin bars are then set against those two beats on, by how far the means
of both lie apart beside their own spread (Welch, Biometrika 1947).
"""

from __future__ import annotations

import attrs
import numpy as np

from ..arrays import Floats, Ints, Singles
from . import bar_pointer
from .ear import Strengths
from .features import SLOW_FPS

HARMONY_BEATS, TIMBRE_BEATS = 2, 4
"""Beats that are compared on each side."""
EAR, HARMONY, TIMBRE, SECTION = 1.0, 2.0, 0.5, 0.5
"""Weights of the four, chosen on 187 rendered takes: the right half in .963 of them, by the ear alone in .936."""
LEAST_BARS = 6
FLIPPED = 0.1
"""The margin of a phase on which ear and harmony don't agree, at most."""
_SECTION_REACH = 6
_AFTER_S = 0.03


@attrs.frozen(eq=False)
class Tones:
    """(m, 12) chroma and (m, k) timbre of a recording, 20 a second."""

    chroma: Singles
    colour: Singles


def change(x: Singles, times: Floats, beats: int) -> Floats:
    """How much `x` (m, k), 20 a second, changes at each time from `beats` before it to as many after: (n,), 0 to 2."""
    period = np.append(np.diff(times), times[-1] - times[-2])
    before = _means(x, times - beats * period, times)
    after = _means(x, times + _AFTER_S, times + beats * period)
    scale = np.linalg.norm(before, axis=1) * np.linalg.norm(after, axis=1)
    return np.asarray(1 - (before * after).sum(axis=1) / np.maximum(scale, 1e-9))


def _means(x: Singles, start: Floats, stop: Floats) -> Floats:
    total = np.concatenate([np.zeros((1, x.shape[1])), np.cumsum(x, axis=0, dtype=np.float64)])
    a, b = (np.clip(np.rint(t * SLOW_FPS).astype(int), 0, len(x)) for t in (start, stop))
    b = np.maximum(b, np.minimum(a + 1, len(x)))
    return np.asarray((total[b] - total[a]) / np.maximum(b - a, 1)[:, None])


def apart(x: Floats, position: Ints) -> float:
    """How far beats at position 0 lie over those at position 2, in standard errors of both."""
    a, b = x[position == 0], x[position == 2]
    if min(len(a), len(b)) < LEAST_BARS:
        return 0.0
    return float((a.mean() - b.mean()) / np.sqrt(a.var() / len(a) + b.var() / len(b) + 1e-9))


def score(ear: Strengths, tones: Tones, times: Floats, position: Ints) -> float:
    """How much more speaks for the bars as they are than for bars two beats on; negative where less does."""
    yes, no = bar_pointer.sides(ear, times)
    return (
        EAR * apart(yes - no, position)
        + HARMONY * apart(change(tones.chroma, times, HARMONY_BEATS), position)
        + TIMBRE * apart(change(tones.colour, times, TIMBRE_BEATS), position)
        + SECTION * apart(bar_pointer.peaks(ear.section, times, _SECTION_REACH), position)
    )


def choose(
    ear: Strengths, tones: Tones, times: Floats, position: Ints, metre: int, margin: float
) -> tuple[Ints, float]:
    """Positions in bars of four with the better half as the first, and the margin of that."""
    if metre != 4 or len(times) < 4 * LEAST_BARS or score(ear, tones, times, position) >= 0:
        return position, margin
    return (position + 2) % 4, min(margin, FLIPPED)
