"""What the ear reads: log-frequency magnitudes from a long window, and their rises from a short one.

A long window (128 ms) tells notes apart, a short one (32 ms) tells when something begins. Both are summed into the
same 72 bands, 8 1/3 an octave from 35 Hz to 14 kHz, and compressed by a logarithm against the recording's own level, so
that a quieter copy reads the same. Rises are over the loudest of the neighbouring bands two frames before (SuperFlux:
Böck & Widmer, DAFx 2013), 100 a second; a frame of the ear, 50 a second, holds two of them.
"""

from __future__ import annotations

from functools import cache

import numpy as np
from numpy.typing import NDArray

from ..arrays import Singles

RATE = 32_000
EAR_FPS = 50
BANDS = 72
CHANNELS = 3
LOW, HIGH = 35.0, 14_000.0
HOP = RATE // EAR_FPS
_LONG, _SHORT = 4096, 1024
_HALF = HOP // 2
# the first window of a chunk is centred three frames before it, so that the last one is whole
DELAY = 3
PAST = _LONG // 2 + DELAY * HOP
_DEPTH = 1000.0
SCALE = 36.0
"""Features are kept as uint8: the logarithm times this."""


@cache
def _filterbank(window: int) -> Singles:
    """Triangles of unit area on a log-frequency axis, none narrower than one FFT bin: (window // 2 + 1, 72)."""
    freqs = np.arange(window // 2 + 1) * RATE / window
    centres = LOW * (HIGH / LOW) ** (np.arange(-1, BANDS + 1) / (BANDS - 1))
    below = np.maximum(np.diff(centres)[:-1], freqs[1])
    above = np.maximum(np.diff(centres)[1:], freqs[1])
    d = freqs[:, None] - centres[None, 1:-1]
    weights = np.maximum(0, 1 - np.where(d < 0, -d / below, d / above))
    return (weights / weights.sum(axis=0)).astype(np.float32)


class Spectra:
    """Takes 32 kHz mono and keeps band magnitudes: (frames, 72) long ones, 50 a second, short ones, 100 a second.

    Examples
    --------
    >>> spectra = Spectra()
    >>> spectra.push(np.zeros(HOP * 60, np.float32))
    >>> spectra.features(50).shape
    (50, 72, 3)
    """

    def __init__(self) -> None:
        self._tail = np.zeros(PAST, np.float32)
        self._long: list[NDArray[np.float16]] = []
        self._short: list[NDArray[np.float16]] = []

    def push(self, chunk: Singles) -> None:
        """Take more samples, a multiple of `HOP`; what is `PAST` old is read."""
        from scipy.fft import rfft

        joined = np.concatenate([self._tail, chunk])
        self._tail = joined[-PAST:]
        frames = len(chunk) // HOP
        for window, hop, out in ((_LONG, HOP, self._long), (_SHORT, _HALF, self._short)):
            start = (_LONG - window) // 2
            views = np.lib.stride_tricks.sliding_window_view(joined[start:], window)[::hop][: frames * HOP // hop]
            shape = np.hanning(window).astype(np.float32)
            bands = np.abs(rfft(views * shape, axis=1)) @ _filterbank(window)
            # four decimal digits are plenty, and two hours fit
            out.append(np.log10(bands + 1e-7).astype(np.float16))

    def features(self, frames: int) -> NDArray[np.uint8]:
        """The ear's input, (frames, 72, 3): magnitudes, rises at the frame, rises half a frame later; only once.

        Push at least `PAST` of silence after the end before.
        """
        # two hours of it are some 150 MB: nothing is held twice
        long = np.concatenate(self._long)[DELAY:][:frames]
        self._long.clear()
        short = np.concatenate(self._short)[2 * DELAY :][: 2 * frames]
        self._short.clear()
        out = np.zeros((frames, BANDS, CHANNELS), np.uint8)
        level = {}
        for name, x in (("long", long), ("short", short)):
            top = x.max(axis=1, initial=-7).astype(np.float32)
            level[name] = max(float(np.percentile(top, 95)), -4.0) if len(top) else 0.0
        for a in range(0, frames, 5000):
            b = min(frames, a + 5000)
            out[a:b, :, 0] = _pack(_compress(long[a:b], level["long"]))
            before = max(0, 2 * a - 2)
            part = _compress(short[before : 2 * b], level["short"])
            if a == 0:
                part = np.concatenate([part[:1], part[:1], part])
            was = part[:-2]
            wide = was.copy()
            wide[:, 1:] = np.maximum(wide[:, 1:], was[:, :-1])
            wide[:, :-1] = np.maximum(wide[:, :-1], was[:, 1:])
            rise = _pack(np.maximum(0, part[2:] - wide))
            out[a:b, :, 1] = rise[0::2]
            out[a:b, :, 2] = rise[1::2]
        return out


def all_rises(read: NDArray[np.uint8]) -> Singles:
    """How much louder all bands become at each moment, (2 n,) at 100 a second, from (n, 72, 3) features."""
    return (read[:, :, 1:].sum(axis=1, dtype=np.float32) / np.float32(SCALE)).ravel()


def _compress(x: NDArray[np.float16], level: float) -> Singles:
    """log(1 + 1000 m / reference), 0 to about 7; `x` and `level` are log10 of magnitudes."""
    return np.log1p(_DEPTH * np.power(np.float32(10), x.astype(np.float32) - np.float32(level)))


def _pack(x: Singles) -> NDArray[np.uint8]:
    return np.rint(np.minimum(x * SCALE, 255)).astype(np.uint8)


def read(samples: Singles) -> NDArray[np.uint8]:
    """Features of (n,) 32 kHz mono samples in memory: (frames, 72, 3) uint8."""
    frames = -(-len(samples) // HOP)
    chunk = 100 * HOP
    padded = np.zeros(-(-(len(samples) + PAST) // chunk) * chunk, np.float32)
    padded[: len(samples)] = samples
    spectra = Spectra()
    for a in range(0, len(padded), chunk):
        spectra.push(padded[a : a + chunk])
    return spectra.features(frames)
