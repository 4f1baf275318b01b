"""The state of a recording: level, clipping, mono, and the noise of a record before its music begins.

Heard while decoding, block by block, at the file's own rate.
"""

from __future__ import annotations

import attrs
import numpy as np

from ..arrays import Floats, Samples

FRAME = 0.05
_FULL = 0.995
_HELD = 3
_HEAD = 40.0
_SILENT = -80.0
_NOISE_MOST = -28.0
_RISE = 9.0
_LEAST_LEAD_IN = 0.8
_STEADY = 2.5
_FLAT = 0.4
_ABOVE_HUM = 8


@attrs.frozen
class Condition:
    """What the samples themselves tell.

    Attributes
    ----------
    peak : largest absolute sample, 1 is full scale
    level : root mean square of the frames that sound, dB below full scale
    clipped : how many times the wave was cut off flat at full scale
    mono : both channels alike, or only one
    lead_in : s at which a record's lead-in noise gives way to music; None where there is no such noise
    noise : its level in dB below full scale, None where there is none
    """

    peak: float = 0.0
    level: float = -120.0
    clipped: int = 0
    mono: bool = False
    lead_in: float | None = None
    noise: float | None = None


class Inspector:
    """Takes decoded blocks of (frames, 1 or 2) samples at `rate` Hz and tells their condition at the end."""

    def __init__(self, rate: int) -> None:
        self._step = max(1, round(rate * FRAME))
        self._rest = np.zeros(0, np.float32)
        self._powers: list[Floats] = []
        self._head: list[Samples] = []
        self._head_frames = int(_HEAD / FRAME)
        self._peak = 0.0
        self._clipped = 0
        self._side = self._mid = 0.0

    def push(self, block: Samples) -> None:
        """Look at one more block."""
        x = block.reshape(len(block), -1)
        peak = max(float(x.max(initial=0.0)), -float(x.min(initial=0.0)))
        self._peak = max(self._peak, peak)
        if peak >= _FULL:
            self._clipped += self._flat_tops(x)
        mid = (x[:, 0] + x[:, -1]) / np.float32(2)
        self._mid += float(mid @ mid)
        side = x[:, 0] - x[:, -1]
        self._side += float(side @ side) / 4
        joined = np.concatenate([self._rest, mid])
        n = len(joined) // self._step
        frames = joined[: n * self._step].reshape(n, self._step)
        self._powers.append(np.einsum("ij,ij->i", frames, frames, dtype=np.float64) / self._step)
        if self._head_frames > 0:
            self._head.append(frames[: self._head_frames].copy())
            self._head_frames -= len(frames)
        self._rest = joined[n * self._step :]

    def _flat_tops(self, x: Samples) -> int:
        """How many stretches of at least three samples stay at full scale; each is counted where it begins."""
        full = np.abs(x) >= _FULL
        edge = np.diff(np.concatenate([np.zeros((1, x.shape[1]), np.int8), full.astype(np.int8)]), axis=0) == 1
        long = np.zeros_like(full)
        n = len(x) - _HELD + 1
        if n > 0:
            long[:n] = np.logical_and.reduce([full[k : k + n] for k in range(_HELD)])
        return int((edge & long).sum())

    def finish(self) -> Condition:
        """The condition of all that was pushed."""
        power = np.concatenate(self._powers) if self._powers else np.zeros(0)
        db = 10 * np.log10(power + 1e-12)
        sounding = db > max(_SILENT, float(db.max(initial=-120.0)) - 50)
        level = float(10 * np.log10(power[sounding].mean())) if sounding.any() else -120.0
        lead_in = self._lead_in(db)
        return Condition(
            peak=self._peak,
            level=level,
            clipped=self._clipped,
            mono=self._side < 1e-7 * max(self._mid, 1e-12),
            lead_in=lead_in[0] if lead_in else None,
            noise=lead_in[1] if lead_in else None,
        )

    def _lead_in(self, db: Floats) -> tuple[float, float] | None:
        """Where surface noise at the beginning ends and how loud it is: steady, broad, soft, and not silence."""
        head = np.concatenate(self._head) if self._head else np.zeros((0, 1), np.float32)
        n = min(len(head), len(db))
        # a cut-in or fade of a tenth of a second doesn't count
        calm = np.array([np.median(db[max(0, i - 2) : i + 3]) for i in range(n)])
        if n < _LEAST_LEAD_IN / FRAME + 4:
            return None
        floor = float(np.median(calm[2 : int(_LEAST_LEAD_IN / FRAME)]))
        risen = np.flatnonzero(calm[2:] > floor + _RISE)
        if not len(risen) or not _SILENT < floor < _NOISE_MOST:
            return None
        end = int(risen[0]) + 2
        if end * FRAME < _LEAST_LEAD_IN or np.median(np.abs(calm[2:end] - floor)) > _STEADY:
            return None
        spectra = np.abs(np.fft.rfft(head[2 : max(3, end - 2)] * np.hanning(self._step), axis=1)) ** 2
        mean = spectra.mean(axis=0)[_ABOVE_HUM : self._step // 8] + 1e-20
        # geometric over arithmetic mean of neighbouring bins: 1 for noise, near 0 for tones (Johnston, 1988)
        groups = mean[: len(mean) // 16 * 16].reshape(-1, 16)
        flat = np.exp(np.log(groups).mean(axis=1)) / groups.mean(axis=1)
        flatness = float(np.average(flat, weights=groups.sum(axis=1)))
        return (end * FRAME, floor) if flatness > _FLAT else None
