"""Where bars begin: the ear's downbeats, heard again by a network that has whole bars before and after each beat.

The ear answers from moment to moment; which beat is the first of its bar shows over many bars, in drums, bass, harmony
and repetition together (see `bar_figures`). The network's answer takes the place of the ear's at the beats that were
found, so all that asks for downbeats afterwards asks both.
"""

from __future__ import annotations

from pathlib import Path

import attrs
import numpy as np

from ..arrays import Floats, Singles
from . import bar_figures, bar_pointer, beat_net, voices
from .ear import Strengths
from .spectra import EAR_FPS

WEIGHTS = Path(__file__).parent / "weights" / "bars.npz"
_REACH = 2


def odds(ear: Strengths, figures: Singles) -> Floats | None:
    """Log odds that beats with these `bar_figures` begin a bar, (n,); None where the network can't tell.

    It can't without its weights, and not of fewer than `beat_net.LEAST` beats.
    """
    net = beat_net.load(voices.among(WEIGHTS, ear), bar_figures.COUNT)
    return None if net is None or len(figures) < beat_net.LEAST else net(figures)


def answered(ear: Strengths, times: Floats, odds: Floats) -> Strengths:
    """The ear's answers, with downbeats at (n,) `times` in s by these log odds."""
    share = 1 / (1 + np.exp(-odds))
    beat = bar_pointer.peaks(ear.beat, times, _REACH)
    down = ear.downbeat.copy()
    frames = np.clip(np.rint(times * EAR_FPS).astype(int), 0, len(down) - 1)
    for k in range(-_REACH, _REACH + 1):
        # as strong as the beat is heard, so that a faint bar line stays one
        at = np.clip(frames + k, 0, len(down) - 1)
        down[at] = share * (beat + bar_pointer.FAINTLY) * np.exp(-0.5 * k**2)
    return attrs.evolve(ear, downbeat=down.astype(np.float32))
