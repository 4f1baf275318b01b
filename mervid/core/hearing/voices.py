"""Voices alone: nothing is struck, so that beats, bars and level show in lines, breath and stress, not in a groove.

What tells them in music with drums misleads there: a flow on sixteenths is counted twice as fast by its syllables, a
line begins before its bar. So voices alone have networks of their own, which learned from such songs and from music
without drums (`training.singers`, `training.beats`), with the same figures. And the ear, which learned from music that
is struck, is faint at their beats: an ear of their own is asked, too (`ear.sung`), and the surer of both is followed.
"""

from __future__ import annotations

from pathlib import Path
from typing import Protocol

import numpy as np

from ..arrays import Floats, Singles

STRUCK, SUNG = 0.1, 0.35
"""Music in which less is struck and more is sung than this is one of voices alone."""
SEAM, APART = 6, 0.07
"""Two counts go on as one where so many beats at the end of one lie within so many s of the other's."""
LEAST = 4
"""Beats, a bar, that the other must have beyond: fewer are as often what rings on after the music."""
_NAME = "_voices"


class Told(Protocol):
    """What says how surely there is percussion, and a voice: of each frame (the ear) or of each bar."""

    @property
    def drums(self) -> Singles | Floats: ...

    @property
    def voice(self) -> Singles | Floats: ...


def alone(told: Told) -> bool:
    """Whether a recording is of voices alone, or of little else."""
    return bool(len(told.voice) and told.drums.mean() < STRUCK and told.voice.mean() > SUNG)


def theirs(weights: Path) -> Path:
    """Where the network of voices alone lies that takes the place of the one in `weights`."""
    return weights.with_stem(weights.stem + _NAME)


def among(weights: Path, ear: Told) -> Path:
    """The network that judges this recording: that of voices alone where it is of such and the network is there."""
    return theirs(weights) if alone(ear) and theirs(weights).exists() else weights


def carried_on(times: Floats, others: Floats) -> tuple[Floats, Floats]:
    """What another ear counts before and after a count, where both agree at that end of it.

    Parameters
    ----------
    times, others : (n,), (m,) s, ascending

    Returns
    -------
    before, after : s; each at least `LEAST` beats or none

    Examples
    --------
    >>> before, after = carried_on(np.arange(8.0), np.arange(2.0, 13.0))
    >>> before, after
    (array([], dtype=float64), array([ 8.,  9., 10., 11., 12.]))
    """
    return -_after(-times[::-1], -others[::-1])[::-1], _after(times, others)


def _after(times: Floats, others: Floats) -> Floats:
    end = times[-SEAM:]
    shared = others[(others > end[0] - APART) & (others < end[-1] + APART)] if len(end) == SEAM else others[:0]
    if len(shared) != SEAM or np.abs(shared - end).max() > APART:
        return others[:0]
    more = others[others > end[-1] + APART]
    return more if len(more) >= LEAST else more[:0]
