"""From where to where there is music: from the first to the last beat that the ear supports, if it has a pulse."""

from __future__ import annotations

import numpy as np

from ..arrays import Floats
from . import bar_pointer, first_beat
from .ear import Strengths

FAINT, SURE = 0.12, 0.3
"""Strengths of beats that are hardly heard, and surely."""
_PULSE, _PLAIN = 0.04, 0.5
"""Median and greatest strength of beats where most are faint: rendered music has .06 and .5, free speech .06 and .3."""
_OPENING = 0.3
"""Beats at the beginning fainter than this beside the usual one are no music yet."""


def music(ear: Strengths, times: Floats, *, pulse: bool = False) -> Floats:
    """Beats at (n,) `times` in s without lead-in and ring; none where they have no pulse.

    Parameters
    ----------
    pulse : there is one, however faint
    """
    strength = bar_pointer.peaks(ear.beat, times, 3)
    if len(times) < 4:
        return times[:0]
    run = np.convolve(strength, np.ones(4) / 4, "valid")
    sure = np.flatnonzero(run >= (min(SURE / 2, float(np.median(run))) if pulse else SURE / 2))
    if not len(sure) or (strength.max() < SURE and not pulse):
        return times[:0]
    first, last = int(sure[0]), int(sure[-1]) + 3
    # a last stroke rings on for a while: what comes after it is faint beside the music itself
    usual = float(np.median(strength[first : last + 1]))
    faint = min(FAINT, usual) if pulse else FAINT
    least = max(faint, 0.4 * usual)
    # a voice alone begins softly, and with the music
    struck = bar_pointer.peaks(ear.drums, times[first : last + 1]).mean() >= first_beat.COUNTED
    begins = max(faint, _OPENING * usual) if struck else faint
    while strength[first] < begins:
        first += 1
    while strength[last] < least:
        last -= 1
    # sound without a pulse gets a few faint answers all over, and none that is sure
    usual = float(np.median(strength[first : last + 1]))
    pulse = pulse or usual >= FAINT or (usual >= _PULSE and strength.max() >= _PLAIN)
    return times[first : last + 1] if pulse else times[:0]
