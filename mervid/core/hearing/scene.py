"""What of a recording stands beside the ear's answers when beats are known: drums, bass, harmony, timbre."""

from __future__ import annotations

from functools import cached_property

import attrs
import numpy as np
from numpy.typing import NDArray

from ..arrays import Floats, Singles
from .spectra import BANDS, EAR_FPS, SCALE

GROUPS = 6
"""Groups of neighbouring bands: from kick and bass to hats."""
SLOW_FPS = 20
_PIECE = 5000


@attrs.frozen(eq=False)
class Scene:
    """What figures of beats are read from.

    Attributes
    ----------
    levels : (frames, 72) uint8, magnitudes as the ear reads them, 50 a second
    rises : (frames, `GROUPS`) float32, how much louder each group of bands becomes, 50 a second
    chroma, colour : (m, 12) and (m, k), 20 a second
    """

    levels: NDArray[np.uint8]
    rises: Singles
    chroma: Singles
    colour: Singles

    @cached_property
    def usual(self) -> tuple[Floats, Singles, Singles]:
        """Means of magnitudes, 0 to 1, of chroma and of colour over the whole."""
        return self.levels.mean(axis=0) / SCALE, self.chroma.mean(axis=0), self.colour.mean(axis=0)


def scene(read: NDArray[np.uint8], chroma: Singles, colour: Singles) -> Scene:
    """From the ear's (frames, 72, 3) features, and what is heard 20 times a second."""
    rises = np.empty((len(read), GROUPS), np.float32)
    for a in range(0, len(read), _PIECE):
        part = np.maximum(read[a : a + _PIECE, :, 1], read[a : a + _PIECE, :, 2])
        rises[a : a + _PIECE] = part.reshape(len(part), GROUPS, BANDS // GROUPS).mean(axis=2) / np.float32(SCALE)
    return Scene(np.ascontiguousarray(read[:, :, 0]), rises, chroma, colour)


@attrs.frozen(eq=False)
class Sums:
    """Running sums of (m, k) figures, `fps` a second from `first` s on, which give the mean of any stretch."""

    total: Floats
    fps: float
    first: float = 0.0

    @classmethod
    def of(cls, x: Floats | Singles, fps: float, first: float = 0.0) -> Sums:
        return cls(np.concatenate([np.zeros((1, x.shape[1])), np.cumsum(x, axis=0, dtype=np.float64)]), fps, first)

    def between(self, start: Floats, stop: Floats) -> Floats:
        """Means from each `start` to each `stop` in s, of one figure at least: (n, k); zeros where there is none."""
        n = len(self.total) - 1
        if not n:
            return np.zeros((len(start), self.total.shape[1]))
        a, b = (np.clip(np.rint((t - self.first) * self.fps).astype(int), 0, n) for t in (start, stop))
        a = np.minimum(a, n - 1)
        b = np.maximum(b, a + 1)
        return np.asarray((self.total[b] - self.total[a]) / (b - a)[:, None])


def between(x: Floats | Singles, fps: float, start: Floats, stop: Floats) -> Floats:
    """Means of (m, k) `x`, `fps` a second, from each `start` to each `stop` in s: (n, k)."""
    return Sums.of(x, fps).between(start, stop)


def highest(x: Singles, times: Floats, reach: int = 1) -> Singles:
    """The highest of (frames, k) `x`, 50 a second, within `reach` frames of each time: (n, k)."""
    centre = np.clip(np.rint(times * EAR_FPS).astype(int), 0, len(x) - 1)
    padded = np.pad(x, ((reach, reach), (0, 0)))
    return np.max([padded[centre + k] for k in range(2 * reach + 1)], axis=0)
