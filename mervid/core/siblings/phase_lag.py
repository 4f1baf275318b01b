"""Where a stretch of one recording lies in another, to the sample.

Generalised cross-correlation with phase transform (Knapp & Carter, IEEE Trans. ASSP 24, 1976), around a known place.
"""

from __future__ import annotations

import attrs
import numpy as np

from ..arrays import Floats, Singles
from .stretch_search import RATE


@attrs.frozen
class Lag:
    """Where a stretch lies to the sample, s, and how far its lag stands out."""

    place: float
    clear: float


def cut(alone: Singles, time: float, ratio: float, half: float, *, tuned: bool) -> tuple[Singles, float] | None:
    """The sibling from `half` s before `time` to as long after it, at the speed of the full one, and its middle, s."""
    import soxr

    first = round((time - half) * RATE)
    a = alone[max(0, first) : round((time + half) * RATE)]
    if len(a) < half * RATE:
        return None
    middle = (max(0, first) + len(a) / 2) / RATE
    if abs(ratio - 1) > 1e-5 and not tuned:
        a = np.asarray(soxr.resample(a.astype(np.float64), 1.0, ratio), np.float32)
    return a, middle


def fine(
    alone: Singles,
    full: Singles,
    time: float,
    place: float,
    ratio: float,
    *,
    tuned: bool,
    part: tuple[Singles, float] | None = None,
) -> Lag | None:
    """`place` to the sample, by phase transform; None where there is too little sound.

    Parameters
    ----------
    tuned : the sibling's speed was changed and its pitch was kept, so that only short stretches stay in phase
    part : what `cut` gives, where several places are tried for it
    """
    import scipy.fft

    half, reach = 0.6 if tuned else 1.5, 0.035
    if part is None:
        part = cut(alone, time, ratio, half, tuned=tuned)
    if part is None:
        return None
    a, middle = part
    at = place + ratio * (middle - time)
    begin = round((at - len(a) / 2 / RATE - reach) * RATE)
    f = full[max(0, begin) : begin + len(a) + round(2 * reach * RATE)]
    if begin < 0:
        f = np.concatenate([np.zeros(-begin, np.float32), f])
    if len(f) < len(a):
        return None
    # only lags at which all of the sibling lies inside are read, so nothing wraps around
    n = scipy.fft.next_fast_len(len(f), real=True)
    va, vf = scipy.fft.rfft(a, n), scipy.fft.rfft(f, n)
    strength = np.abs(va)
    hz = np.arange(len(va)) * RATE / n
    # only where the sibling has sound does its phase mean anything
    use = (hz > 150) & (hz < 4500) & (strength > np.median(strength[(hz > 150) & (hz < 4500)]))
    cross = np.where(use, vf * np.conj(va), 0)
    lag = scipy.fft.irfft(cross / (np.abs(cross) + 1e-12), n)[: round(2 * reach * RATE)]
    k = int(lag.argmax())
    usual = float(np.median(np.abs(lag))) * 1.4826 + 1e-12
    return Lag((begin + k + len(a) / 2) / RATE + ratio * (time - middle), float(lag[k]) / usual)


def keeps_pitch(alone: Singles, full: Singles, time: Floats, place: Floats, ratio: float) -> bool:
    """Whether the speed was changed without the pitch: which of both makes lags stand out."""
    if abs(ratio - 1) < 5e-4:
        return False
    some = np.linspace(0, len(time) - 1, min(12, len(time))).astype(int)
    clear = []
    for tuned in (False, True):
        found = [fine(alone, full, float(time[i]), float(place[i]), ratio, tuned=tuned) for i in some]
        clear.append(float(np.median([f.clear if f is not None else 0.0 for f in found])))
    return clear[1] > clear[0]
