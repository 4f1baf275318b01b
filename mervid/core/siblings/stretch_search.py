"""Stretches of one recording looked for in another by their spectrum over time.

Normalised cross-correlation by Fourier transform, at all places at once; first at which speed, then where. Audio
matching of this kind: Müller, Kurth & Clausen, ISMIR 2005.
"""

from __future__ import annotations

import itertools
from typing import Any

import numpy as np

from ..arrays import Bools, Floats, Singles
from ..errors import Refused

RATE = 11025
"""Samples a second of what is compared."""
HOP = 220
"""Samples from one frame of the spectrum to the next."""
COMPARED_FPS = RATE / HOP
"""Frames of the spectrum a second."""
MOST_RATIO = 0.02
"""A sibling runs at most so much faster or slower."""
_SIZE = 512
_BANDS = 28
_STRETCH, _STEP = 6.0, 2.0
"""Length of a stretch and from one to the next, s."""
_PROBE = 16.0
"""Length of what the speed is found with, s."""
_CANDIDATES = 4

Found = list[tuple[float, list[tuple[float, float]]]]


def mono(samples: Singles, rate: int) -> Singles:
    """(n,) float32 at `RATE` Hz, of (frames, channels) at `rate`; what is no number is silence."""
    import soxr

    x = np.nan_to_num(np.asarray(samples, np.float32).mean(axis=1), nan=0.0, posinf=0.0, neginf=0.0)
    return np.asarray(soxr.resample(x, rate, RATE, quality="HQ"), np.float32)


def spectrum(x: Singles) -> tuple[Singles, Bools]:
    """Change of the spectrum against its surroundings, (frames, bands) of unit length, and which frames sound."""
    import scipy.fft
    from scipy.ndimage import uniform_filter1d

    frames = np.lib.stride_tricks.sliding_window_view(np.pad(x, (_SIZE // 2, _SIZE)), _SIZE)[::HOP]
    n = len(x) // HOP + 1
    edges = np.geomspace(180, 4500, _BANDS + 1) / (RATE / _SIZE)
    bins = np.arange(_SIZE // 2 + 1)
    weights = np.stack(
        [np.clip(np.minimum(bins - lo + 1, hi - bins + 1), 0, 1) for lo, hi in itertools.pairwise(edges)]
    )
    window = np.hanning(_SIZE).astype(np.float32)
    power = np.empty((n, _BANDS), np.float32)
    for start in range(0, n, 4096):
        part = np.abs(scipy.fft.rfft(frames[start : min(n, start + 4096)] * window, axis=1)) ** 2
        power[start : start + len(part)] = part @ weights.T.astype(np.float32)
    loud = power.sum(axis=1)
    sounding = loud > 1e-4 * np.percentile(loud, 95)
    level = np.log10(power + 1e-5 * np.percentile(loud, 95))
    level -= uniform_filter1d(level, round(0.8 * COMPARED_FPS), axis=0)
    level -= level.mean(axis=1, keepdims=True)
    level /= np.linalg.norm(level, axis=1, keepdims=True) + 0.3
    level[~sounding] = 0
    return level.astype(np.float32), sounding


def _slower(part: Singles, ratio: float) -> Singles:
    """Frames as they would be at `ratio` times the length."""
    n = round(len(part) * ratio)
    at = np.arange(n) / ratio
    i = np.clip(at.astype(int), 0, len(part) - 2)
    w = (at - i)[:, None].astype(np.float32)
    return part[i] * (1 - w) + part[np.minimum(i + 1, len(part) - 1)] * w


class _Finder:
    """Looks for stretches in one recording, whose transform is kept."""

    def __init__(self, f: Singles) -> None:
        import scipy.fft

        self._fft: Any = scipy.fft
        self._n = len(f)
        self._size = scipy.fft.next_fast_len(self._n + round(1.1 * _PROBE * COMPARED_FPS))
        self._transform = np.conj(scipy.fft.rfft(f, self._size, axis=0))

    def likeness(self, part: Singles) -> Floats:
        """Mean likeness of frames, -1 to 1, with the part laid at each frame from -length to the end, (n + length,)."""
        count = max(1.0, float((np.abs(part).sum(axis=1) > 0).sum()))
        product = (self._transform * self._fft.rfft(part, self._size, axis=0)).sum(axis=1)
        lags = self._fft.irfft(np.conj(product), self._size)
        return np.asarray(np.concatenate([lags[-len(part) :], lags[: self._n]]), float) / count


def _busiest(sounding: Bools, length: int, most: int) -> list[int]:
    """Starts of the stretches of `length` frames that sound most, spread over the recording."""
    total = np.concatenate([[0], np.cumsum(sounding)])
    out = []
    for k in range(most):
        a, b = k * len(sounding) // most, (k + 1) * len(sounding) // most
        starts = np.arange(a, min(b, len(sounding) - length))
        if len(starts):
            out.append(int(starts[np.argmax(total[starts + length] - total[starts])]))
    return out


def ratio_of(a: Singles, sounding: Bools, f: Singles) -> float:
    """Speed of the full recording against the sibling, to a quarter of a per cent."""
    finder = _Finder(f)
    length = min(round(_PROBE * COMPARED_FPS), len(a) - 1)
    starts = _busiest(sounding, length, 6) or [0]
    ratios = 1 + np.arange(-MOST_RATIO, MOST_RATIO + 1e-9, 0.0025)
    # a speed just beyond the range must not look like its end
    gained = []
    for ratio in ratios.tolist():
        tops = [float(finder.likeness(_slower(a[s : s + length], ratio)).max()) for s in starts]
        gained.append(float(np.mean(np.sort(tops)[len(tops) // 3 :])))
    k = int(np.argmax(gained))
    if 0 < k < len(ratios) - 1:
        low, here, high = gained[k - 1 : k + 2]
        bend = low - 2 * here + high
        return float(ratios[k] + (0.5 * (low - high) / bend * 0.0025 if bend < 0 else 0.0))
    return float(ratios[k])


def look(a: Singles, sounding: Bools, f: Singles, ratio: float) -> Found:
    """For each stretch that sounds: its middle, s, and candidates (place s, score), best first.

    A score is how far a likeness stands above the usual one, in robust standard deviations.
    """
    finder = _Finder(f)
    length = min(round(_STRETCH * COMPARED_FPS), len(a) - 1)
    out: Found = []
    for start in range(0, len(a) - length + 1, round(_STEP * COMPARED_FPS)):
        if sounding[start : start + length].mean() < 0.4:
            continue
        part = _slower(a[start : start + length], ratio)
        like = finder.likeness(part)
        middle = float(np.median(like))
        spread = 1.4826 * float(np.median(np.abs(like - middle))) + 1e-9
        tops: list[tuple[float, float]] = []
        rest = like.copy()
        for _ in range(_CANDIDATES):
            k = int(rest.argmax())
            tops.append(((k - len(part) + 0.5 * len(part)) / COMPARED_FPS, float((like[k] - middle) / spread)))
            rest[max(0, k - 15) : k + 16] = -1
        out.append(((start + 0.5 * length) / COMPARED_FPS, tops))
    if not out:
        raise Refused("There is not enough sound in this recording to compare.")
    return out
