"""The trained ear: what a small network makes of the spectra, 50 times a second.

A convolutional front end over frequency, then dilated convolutions over time that see about 20 s to either side
(Davies & Böck, EUSIPCO 2019; Böck & Davies, ISMIR 2020), run here in plain NumPy on one thread. `training/` makes the
weights; docs/hearing.md tells from what.
"""

from __future__ import annotations

import os
from collections.abc import Callable
from functools import cache
from pathlib import Path

import attrs
import numpy as np
from numpy.typing import NDArray

from ..arrays import Floats, Singles
from ..errors import FormatError
from . import voices
from .spectra import BANDS, CHANNELS, SCALE

WEIGHTS = Path(os.environ.get("MERVID_EAR") or Path(__file__).parent / "weights" / "ear.npz")
"""The shipped weights, or those that MERVID_EAR names (to try some that were just trained)."""
FORMAT = 1
SLOWEST, FASTEST = 40.0, 240.0
TEMPI = 32
UNCALIBRATED = (2, 2, 2, 1, 1, -3, 5, -1, 8, -2)
"""Stands in `Strengths.calibration` until validation music has been judged."""
_FRONT_CHUNK = 1000
_TIME_CHUNK = 12_000


@attrs.frozen(eq=False)
class Strengths:
    """What the ear says at each frame, 50 a second.

    Attributes
    ----------
    beat, downbeat, section, drums, voice : (frames,) float32, probabilities
    tempo : (frames, 32) float32, each row sums to 1; the tempi are `tempi()`
    calibration : (10,) what turns features of a beat (5 and a bias), of the level and of the bar's phase (each 1 and a
        bias) into chances
    """

    beat: Singles
    downbeat: Singles
    section: Singles
    drums: Singles
    voice: Singles
    tempo: Singles
    calibration: Singles = attrs.field(factory=lambda: np.array(UNCALIBRATED, np.float32))


def tempi(count: int = TEMPI) -> Floats:
    """Tempo in BPM of each of the ear's tempo outputs, even on a logarithmic scale."""
    return np.geomspace(SLOWEST, FASTEST, count)


@attrs.frozen(eq=False)
class Ear:
    """A network ready to listen: the front end's three matrices, the layers, the heads."""

    front: tuple[tuple[Singles, Singles], ...]
    layers: tuple[tuple[int, Singles, Singles, Singles, Singles], ...]
    heads: tuple[Singles, Singles]
    calibration: Singles

    @property
    def context(self) -> int:
        """How many frames to either side a frame's answer depends on."""
        return 1 + 1 + sum(4 * dilation for dilation, *_ in self.layers)

    def hear(self, features: NDArray[np.uint8], *, progress: Callable[[float], None] = lambda part: None) -> Strengths:
        """Strengths of all frames of (frames, 72, 3) features.

        The same to the last bit on every run; pieces overlap by the context, so their edges don't show.

        Parameters
        ----------
        progress : called with the share done, 0 to 1; may raise to stop
        """
        n = len(features)
        front = np.zeros((n, self.heads[0].shape[0]), np.float32)
        for a in range(0, n, _FRONT_CHUNK):
            progress(0.7 * a / n)
            b = min(n, a + _FRONT_CHUNK)
            front[a:b] = self._look(features, a, b)
        out = np.zeros((n, self.heads[1].shape[0]), np.float32)
        for a in range(0, n, _TIME_CHUNK):
            progress(0.7 + 0.3 * a / n)
            b = min(n, a + _TIME_CHUNK)
            lo, hi = max(0, a - self.context), min(n, b + self.context)
            x = front[lo:hi]
            for layer in self.layers:
                x = _layer(x, *layer)
            out[a:b] = (_bend(x) @ self.heads[0] + self.heads[1])[a - lo : b - lo]
        flags = (1 / (1 + np.exp(-np.clip(out[:, :5], -30, 30)))).astype(np.float32)
        tempo = np.exp(out[:, 5:] - out[:, 5:].max(axis=1, keepdims=True, initial=-1e9))
        tempo /= tempo.sum(axis=1, keepdims=True)
        beat, downbeat, section, drums, voice = np.ascontiguousarray(flags.T)
        return Strengths(beat, downbeat, section, drums, voice, tempo, self.calibration)

    def _look(self, features: NDArray[np.uint8], a: int, b: int) -> Singles:
        """The front end for frames a to b, two frames of context included where there are any."""
        lo, hi = max(0, a - 2), min(len(features), b + 2)
        x: Singles = np.float32(1 / SCALE) * features[lo:hi].astype(np.float32)
        for weights, bias in self.front[:2]:
            x = _bend(_patches(x) @ weights + bias)
        weights, bias = self.front[2]
        column: Singles = x.reshape(len(x), -1) @ weights + bias
        return _bend(column)[a - lo : len(x) - (hi - b)]


def _bend(x: Singles) -> Singles:
    return np.maximum(x, 0)


def _patches(x: Singles) -> Singles:
    """Every third band with its 5 x 3 neighbours: (frames, bands, channels) to (frames, bands / 3, 15 channels)."""
    frames, bands, channels = x.shape
    padded = np.zeros((frames + 2, bands + 2, channels), np.float32)
    padded[1:-1, 1:-1] = x
    rows = [padded[i : i + frames, j : j + bands - 2 : 3] for i in range(3) for j in range(5)]
    return np.concatenate(rows, axis=2)


def _layer(x: Singles, dilation: int, near: Singles, far: Singles, bias: Singles, join: Singles) -> Singles:
    """One pair of dilated convolutions, joined and added: (frames, width) both ways."""
    n, width = x.shape
    reach = 4 * dilation
    padded = np.zeros((n + 2 * reach, width), np.float32)
    padded[reach : reach + n] = x
    y = np.empty((n, width), np.float32)
    half = width // 2
    for part, step, out in ((near, dilation, y[:, :half]), (far, 2 * dilation, y[:, half:])):
        total = np.zeros((n, half), np.float32)
        for k in range(5):
            start = reach + (k - 2) * step
            total += padded[start : start + n] @ part[k]
        out[...] = total
    return x + (_bend(y + bias) @ join[:-1] + join[-1])


@cache
def load(path: Path = WEIGHTS) -> Ear:
    """The ear with the weights in `path`.

    Raises
    ------
    FormatError
        When they are missing, damaged or of another format; the message says what serves instead.
    """
    instead = "Mervid hears with its simpler features until they are restored."
    if not path.exists():
        raise FormatError(f"The ear's weights are missing ({path.name}). {instead}")
    try:
        with np.load(path, allow_pickle=False) as z:
            if int(z["format"]) != FORMAT:
                raise ValueError("format")
            dilations = [int(d) for d in z["dilations"]]

            def get(name: str) -> Singles:
                value: Singles = z[name].astype(np.float32)
                if not np.isfinite(value).all():
                    raise ValueError(name)
                return value

            front = tuple((get(f"front{k}"), get(f"front{k}_bias")) for k in range(3))
            layers = tuple(
                (d, get(f"near{k}"), get(f"far{k}"), get(f"bias{k}"), get(f"join{k}")) for k, d in enumerate(dilations)
            )
            ear = Ear(front, layers, (get("heads"), get("heads_bias")), get("calibration"))
            ear.hear(np.zeros((8, BANDS, CHANNELS), np.uint8))
            if ear.calibration.shape != (len(UNCALIBRATED),):
                raise ValueError("calibration")
    except Exception as e:
        raise FormatError(f"The ear's weights are damaged ({path.name}: {type(e).__name__}). {instead}") from None
    return ear


def sung(
    heard: Strengths,
    features: NDArray[np.uint8],
    *,
    weights: Path = WEIGHTS,
    progress: Callable[[float], None] = lambda part: None,
) -> Strengths | None:
    """What the ear of voices alone says of (frames, 72, 3) features in which a voice was `heard` alone; else None.

    Sections, percussion and voice stay as they were heard. None, too, where that ear is missing or damaged.

    Parameters
    ----------
    progress : called with the share done, 0 to 1; may raise to stop
    """
    theirs = voices.among(weights, heard)
    if theirs == weights:
        return None
    try:
        ear = load(theirs)
    except FormatError:
        return None
    said = ear.hear(features, progress=progress)
    return attrs.evolve(said, section=heard.section, drums=heard.drums, voice=heard.voice)


def problem() -> str:
    """Why the ear can't serve; empty when it can."""
    try:
        load()
    except FormatError as e:
        return str(e)
    return ""
