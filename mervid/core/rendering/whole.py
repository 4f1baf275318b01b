"""A whole recording on another clock, rendered from its first frame to its last."""

from __future__ import annotations

import numpy as np

from ..arrays import Floats, Singles
from ..sound.decoding import Kept
from ..sound.sliding import Sliding
from .held_pitch import LEAST_GAP_S, HeldPitch
from .straightening import Straight
from .varispeed import between, instants


class Whole:
    """The result of straightening, frame by frame, at the rate of the recording.

    Parameters
    ----------
    attacks : (k,) where the recording is struck, s
    """

    def __init__(self, laid: Straight, samples: Kept | Sliding, rate: int, attacks: Floats) -> None:
        self._laid, self._samples, self._rate = laid, samples, rate
        self.frames = max(1, round(laid.duration * rate))
        self._held = None
        if laid.wish.hold_pitch:
            struck = struck_at(laid, attacks)
            self._held = HeldPitch(samples, rate, rate, laid.own, laid.mix, struck)  # type: ignore[arg-type]

    def read(self, start: int, count: int) -> Singles:
        """Frames `start` to `start + count`, (count, 2)."""
        if self._held is not None:
            return self._held.read(start, count)
        at = instants(self._laid.own, self._laid.mix, self._rate, start, count) * self._rate
        return between(self._samples, at)  # type: ignore[arg-type]


def struck_at(laid: Straight, attacks: Floats) -> Floats:
    """Every beat, which must fall exactly, and those attacks that lie apart from them."""
    beats = laid.knots[:, 0]
    if not len(attacks):
        return beats
    i = np.clip(np.searchsorted(beats, attacks), 1, len(beats) - 1)
    near = np.minimum(np.abs(attacks - beats[i - 1]), np.abs(attacks - beats[i]))
    return np.unique(np.concatenate([beats, attacks[near > LEAST_GAP_S]]))
