"""The waveform at any zoom: minima and maxima over ever longer stretches, made once while decoding."""

from __future__ import annotations

import attrs
import numpy as np
from numpy.typing import NDArray

from ..arrays import Samples, Singles, packed, unpacked
from ..errors import FormatError
from .decoding import Kept, floats, mono

BASE = 256
"""Frames an extreme: 6 ms. Closer looks take the samples themselves."""
STEPS, FULL = 63, 32768.0
_OLD_BASE, _OLD_STEPS = 128, 127


@attrs.frozen(eq=False)
class Waveform:
    """Minimum and maximum of the mono mix over every `BASE` frames, (n, 2) int16 (32767 is full scale)."""

    extremes: NDArray[np.int16]
    rate: int
    frames: int

    @property
    def duration(self) -> float:
        """Length in s."""
        return self.frames / self.rate

    def to_bytes(self) -> bytes:
        """The waveform as one compressed block, see `arrays.packed`.

        A byte an extreme, in steps that are finer where it is soft: the root of its size in 63 steps. That is within
        two per cent of full scale, and takes a third of the room.
        """
        size = np.sqrt(np.abs(self.extremes.astype(np.float32)) / FULL)
        soft = (np.sign(self.extremes) * np.rint(STEPS * size)).astype(np.int8)
        return packed(soft=soft.T, facts=np.array([self.rate, self.frames, STEPS]))


def from_bytes(blob: bytes) -> Waveform:
    """Inverse of `Waveform.to_bytes`. Raises `FormatError` when the block is damaged."""
    try:
        z = unpacked(blob)
        rate, frames = (int(v) for v in z["facts"][:2])
        if "extremes" in z:
            # as the first Mervid kept it
            return Waveform(_halved(z["extremes"]), rate, frames)
        finer = len(z["facts"]) == 2
        # each of the bytes that there are is worked out once
        soft = np.arange(256).astype(np.uint8).view(np.int8).astype(np.float32)
        full = np.rint(np.sign(soft) * (soft / (_OLD_STEPS if finer else STEPS)) ** 2 * FULL)
        extremes = np.clip(full, -FULL, FULL - 1).astype(np.int16)[z["soft"].view(np.uint8).T]
        return Waveform(_halved(extremes) if finer else extremes, rate, frames)
    except Exception as e:
        raise FormatError(f"The stored waveform is damaged ({type(e).__name__}).") from None


def _halved(extremes: NDArray[np.int16]) -> NDArray[np.int16]:
    """Half as many extremes, each of two: waveforms were kept by `_OLD_BASE` frames."""
    pairs = np.concatenate([extremes, extremes[-1:]])[: -(-len(extremes) // 2) * 2].reshape(-1, BASE // _OLD_BASE, 2)
    return np.stack([pairs[:, :, 0].min(axis=1), pairs[:, :, 1].max(axis=1)], axis=1)


class WaveformMaker:
    """Collects extremes from decoded blocks."""

    def __init__(self, rate: int) -> None:
        self._rate = rate
        self._frames = 0
        self._rest = np.zeros(0, np.float32)
        self._parts: list[NDArray[np.int16]] = []

    def push(self, block: Samples) -> None:
        """Take (frames, channels) more."""
        self._frames += len(block)
        mixed = np.concatenate([self._rest, mono(block)])
        whole = len(mixed) // BASE * BASE
        self._add(mixed[:whole])
        self._rest = mixed[whole:]

    def _add(self, mixed: Samples) -> None:
        cut = np.clip(mixed, -1, 1).reshape(-1, BASE)
        self._parts.append((np.stack([cut.min(axis=1), cut.max(axis=1)], axis=1) * 32767).astype(np.int16))

    def finish(self) -> Waveform:
        """The waveform of all that was pushed."""
        if len(self._rest):
            self._add(np.concatenate([self._rest, np.zeros(-len(self._rest) % BASE, np.float32)]))
        return Waveform(np.concatenate(self._parts), self._rate, self._frames)


def columns(waveform: Waveform, start: float, stop: float, count: int) -> Singles:
    """Minimum and maximum in each of `count` equal columns of the time from `start` to `stop` in s.

    Returns
    -------
    (count, 2) float32 in [-1, 1]; zeros outside the recording.
    """
    edges = np.linspace(start, stop, count + 1) * waveform.rate / BASE
    lo = np.floor(edges[:-1]).astype(int)
    hi = np.maximum(lo + 1, np.ceil(edges[1:]).astype(int))
    n = len(waveform.extremes)
    out = np.zeros((count, 2), np.float32)
    inside = (hi > 0) & (lo < n)
    if not inside.any():
        return out
    a, b = np.clip(lo[inside], 0, n - 1), np.clip(hi[inside], 1, n)
    first = int(a[0])
    pairs = np.stack([a, np.maximum(b, a + 1)], axis=1).ravel() - first
    part = waveform.extremes[first : int(b[-1])]
    padded = np.concatenate([part, part[-1:]])
    out[inside, 0] = np.minimum.reduceat(padded[:, 0], pairs)[::2] / 32767
    out[inside, 1] = np.maximum.reduceat(padded[:, 1], pairs)[::2] / 32767
    return out


def exact_columns(samples: Kept, rate: int, start: float, stop: float, count: int) -> Singles:
    """As `columns`, from the (frames, channels) samples themselves: for close looks at few of them."""
    edges = np.linspace(start, stop, count + 1) * rate
    first, last = int(np.floor(edges[0])), int(np.ceil(edges[-1])) + 1
    a, b = max(0, first), min(len(samples), last)
    out = np.zeros((count, 2), np.float32)
    if b <= a:
        return out
    mixed = mono(floats(samples[a:b]))
    lo = np.floor(edges[:-1]).astype(int) - a
    hi = np.maximum(lo + 1, np.ceil(edges[1:]).astype(int) - a)
    inside = (hi > 0) & (lo < len(mixed))
    i = np.clip(lo[inside], 0, len(mixed) - 1)
    j = np.clip(hi[inside], 1, len(mixed))
    pairs = np.stack([i, np.maximum(j, i + 1)], axis=1).ravel()
    padded = np.append(mixed, mixed[-1:])
    out[inside, 0] = np.minimum.reduceat(padded, pairs)[::2]
    out[inside, 1] = np.maximum.reduceat(padded, pairs)[::2]
    return out
