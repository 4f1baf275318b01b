"""Voices alone: nothing is struck, so that beats, bars and level show in lines, breath and stress, not in a groove.

What tells them in music with drums misleads there: a flow on sixteenths is counted twice as fast by its syllables, a
line begins before its bar. So voices alone have networks of their own, which learned from such songs and from music
without drums (`training.singers`, `training.beats`), with the same figures.
"""

from __future__ import annotations

from pathlib import Path

from .ear import Strengths

STRUCK, SUNG = 0.1, 0.35
"""Music in which less is struck and more is sung than this is one of voices alone."""
_NAME = "_voices"


def alone(ear: Strengths) -> bool:
    """Whether a recording is of voices alone, or of little else."""
    return bool(ear.drums.mean() < STRUCK and ear.voice.mean() > SUNG)


def theirs(weights: Path) -> Path:
    """Where the network of voices alone lies that takes the place of the one in `weights`."""
    return weights.with_stem(weights.stem + _NAME)


def among(weights: Path, ear: Strengths) -> Path:
    """The network that judges this recording: that of voices alone where it is of such and the network is there."""
    return theirs(weights) if alone(ear) and theirs(weights).exists() else weights
