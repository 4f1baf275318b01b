"""How loud a recording is, moment by moment and as a whole, and how high its true peaks reach: ITU-R BS.1770-4.

Three seconds without a gate are the short-term loudness of EBU Tech 3341; the whole is measured in blocks of 400 ms
every 100 ms, through both gates. The weighting filters are pyloudnorm's, here as one filter of fourth order over both
channels at once, which takes a third of the time. True peaks are found between samples at four times the rate.
"""

from __future__ import annotations

from functools import cache

import attrs
import numpy as np

from ..arrays import Floats, Singles

STEP = 3.0
SILENCE = -70.0
_OFFSET = -0.691
_TENTHS = int(STEP * 10)
_LEAST = 5
"""Tenths of a second that a rest must last to be measured."""
_BLOCK = 4
_RELATIVE = -10.0
_OVER, _TAPS = 4, 12
_NEAR_PEAK = 0.5
"""Between samples sound rises so little above them that quieter stretches can't hold the highest peak: -6 dB."""
_STRETCH = 1024


@attrs.frozen
class Level:
    """A recording as a whole.

    Attributes
    ----------
    lufs : integrated loudness, LUFS; `SILENCE` where nothing passes the gate
    true_peak : dBTP, dB above full scale
    """

    lufs: float
    true_peak: float


@cache
def _weighting(rate: int) -> tuple[Floats, Floats]:
    """Numerator and denominator of the K-weighting of BS.1770 at `rate` Hz."""
    from pyloudnorm.iirfilter import IIRfilter

    shelf = IIRfilter(4.0, 1 / np.sqrt(2), 1500.0, rate, "high_shelf")
    high = IIRfilter(0.0, 0.5, 38.0, rate, "high_pass")
    return np.convolve(shelf.b, high.b), np.convolve(shelf.a, high.a)


@cache
def _between() -> Singles:
    """(4, 12) what finds the values between samples: a windowed sinc, one row a phase."""
    half = _OVER * _TAPS // 2
    at = np.arange(-half, half) + 0.5
    taps = np.sinc(at / _OVER) * np.kaiser(2 * half, 5.0)
    rows = taps.reshape(_TAPS, _OVER).T
    return np.asarray(rows / rows.sum(axis=1, keepdims=True), np.float32)


class LoudnessMeter:
    """Takes a recording in pieces and measures each stretch of `STEP` s, and the whole."""

    def __init__(self, rate: int) -> None:
        self._weighting = _weighting(rate)
        self._tenth = rate / 10
        self._size = int(STEP * rate)
        self._rest: list[Singles] = []
        self._held = 0
        self._state: Floats | None = None
        self._energies: list[Floats] = []
        self._peak = 0.0

    def push(self, block: Singles) -> None:
        """Take (frames, channels) float32."""
        self._rest.append(block)
        self._held += len(block)
        while self._held >= self._size:
            whole = np.concatenate(self._rest)
            self._measure(whole[: self._size])
            self._rest = [whole[self._size :]]
            self._held = len(self._rest[0])

    def _measure(self, part: Singles) -> None:
        from scipy.signal import lfilter

        # surround is judged by its first two channels
        kept = part.reshape(len(part), -1)[:, :2]
        x = np.nan_to_num(np.ascontiguousarray(kept.T, np.float64), copy=False, nan=0.0, posinf=0.0, neginf=0.0)
        if self._state is None:
            self._state = np.zeros((len(x), len(self._weighting[0]) - 1))
        y, self._state = lfilter(*self._weighting, x, zi=self._state)
        edges = np.rint(np.arange(int(len(part) / self._tenth + 1e-6) + 1) * self._tenth).astype(int)
        power = (y * y).sum(axis=0)
        if len(edges) > 1:
            sums = np.add.reduceat(power[: edges[-1]], edges[:-1])
            self._energies.append(sums / np.diff(edges))
        self._find_peak(x)

    def _find_peak(self, x: Floats) -> None:
        """Raise the true peak to that of (channels, n) more samples."""
        size = np.abs(x)
        self._peak = max(self._peak, float(size.max(initial=0.0)))
        whole = size.shape[1] // _STRETCH * _STRETCH
        highest = size[:, :whole].reshape(len(x), -1, _STRETCH).max(axis=2)
        for channel, k in zip(*np.nonzero(highest > _NEAR_PEAK * self._peak), strict=True):
            a = max(0, int(k) * _STRETCH - _TAPS)
            views = np.lib.stride_tricks.sliding_window_view(x[channel, a : (int(k) + 1) * _STRETCH + _TAPS], _TAPS)
            # only where the samples themselves are high
            near = views[np.abs(views).max(axis=1) > _NEAR_PEAK * self._peak]
            if len(near):
                self._peak = max(self._peak, float(np.abs(near.astype(np.float32) @ _between().T).max()))

    def _last(self) -> None:
        if self._held:
            self._measure(np.concatenate(self._rest))
        self._rest, self._held = [], 0

    def finish(self) -> Singles:
        """Loudness of each stretch, (n,) LUFS, `SILENCE` at least; a rest too short to measure is left out."""
        self._last()
        energy = np.concatenate(self._energies) if self._energies else np.zeros(0)
        starts = np.arange(0, len(energy), _TENTHS)
        means = [energy[a : a + _TENTHS].mean() for a in starts if len(energy) - a >= _LEAST]
        return np.maximum(SILENCE, _decibels(np.array(means))).astype(np.float32)

    def level(self) -> Level:
        """Loudness and true peak of the whole; after `finish`."""
        self._last()
        energy = np.concatenate(self._energies) if self._energies else np.zeros(0)
        peak = 20 * np.log10(self._peak) if self._peak > 0 else SILENCE
        return Level(round(float(gated(energy)), 2), round(float(peak), 2))


def _decibels(power: Floats) -> Floats:
    with np.errstate(divide="ignore"):
        return np.asarray(_OFFSET + 10 * np.log10(power))


def gated(energy: Floats) -> float:
    """Integrated loudness, LUFS, of (n,) weighted mean squares of tenths of a second; `SILENCE` where none passes."""
    if len(energy) < _BLOCK:
        return max(SILENCE, float(_decibels(energy.mean()))) if len(energy) else SILENCE
    blocks = np.convolve(energy, np.ones(_BLOCK) / _BLOCK, mode="valid")
    loud = blocks[_decibels(blocks) > SILENCE]
    if not len(loud):
        return SILENCE
    kept = loud[_decibels(loud) > _decibels(loud.mean()) + _RELATIVE]
    return float(_decibels(kept.mean()))
