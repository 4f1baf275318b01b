"""How two recordings of one song fit in time, from their sound alone: a voice without band, an instrumental, an edit.

A sibling shares some of its sound with the full recording: it may begin elsewhere, run up to 2 % faster or slower, and
lack whole pieces. Stretches of a few seconds are looked for in the full recording by their spectrum over time
(normalised cross-correlation by Fourier transform); the stretches that agree on one course are kept (Viterbi, as in
audio matching by Müller, Kurth & Clausen, ISMIR 2005, with a course of straight pieces); then each is placed to the
sample by the generalised cross-correlation with phase transform (Knapp & Carter, IEEE Trans. ASSP 24, 1976).
"""

from __future__ import annotations

import itertools
from typing import Any

import attrs
import numpy as np

from ..arrays import Bools, Floats, Ints, Singles
from ..errors import Refused
from ..maths.regression import theil_sen

RATE = 11025
HOP = 220
COMPARED_FPS = RATE / HOP
"""Frames of the spectrum a second."""
MOST_RATIO = 0.02
LEAST_S = 8.0
_SIZE = 512
_BANDS = 28
_STRETCH, _STEP = 6.0, 2.0
_PROBE = 16.0
_CANDIDATES = 4
_SAME = 0.06
_CUT = 4.0
_MISSED = 0.9
_CLEAR = 6.0
_WORTH = 3.5
_MOST_SCORE = 14.0
_LEAST_SHARE = 0.5
_LEAST_FOUND = 3
_OUT = 0.03
_BACK, _AGAIN = 1.0, 1
"""A piece that begins so many s before the end of the one before is played again; an edit does that once."""
_SHARP = 6.0


@attrs.frozen
class Piece:
    """From `start` to `stop` s of the sibling the full recording runs at `offset` + ratio x time."""

    start: float
    stop: float
    offset: float


@attrs.frozen
class Stretch:
    """A stretch of the sibling around `time` s, found at `place` s of the full recording; `score` says how clearly.

    `error` is how far it lies from the course that was agreed on, s; None where it doesn't belong to it.
    """

    time: float
    place: float
    score: float
    error: float | None


@attrs.frozen
class Match:
    """How a sibling lies in the full recording.

    Attributes
    ----------
    ratio : seconds of the full recording for each second of the sibling
    pieces : in order, without gaps between them
    stretches : what was looked for, and found or not
    confidence : 0 to 1: which share of the stretches that sound agree
    worst : largest error of those, s
    """

    ratio: float
    pieces: tuple[Piece, ...]
    stretches: tuple[Stretch, ...]
    confidence: float
    worst: float

    def place_of(self, time: float) -> float:
        """Where in the full recording `time` s of the sibling lies, s."""
        piece = next((p for p in self.pieces if time < p.stop), self.pieces[-1])
        return piece.offset + self.ratio * time


def mono(samples: Singles, rate: int) -> Singles:
    """(n,) float32 at `RATE` Hz, of (frames, channels) at `rate`; what is no number is silence."""
    import soxr

    x = np.nan_to_num(np.asarray(samples, np.float32).mean(axis=1), nan=0.0, posinf=0.0, neginf=0.0)
    return np.asarray(soxr.resample(x, rate, RATE, quality="HQ"), np.float32)


def match(alone: Singles, full: Singles) -> Match:
    """How `alone` lies in `full`.

    Parameters
    ----------
    alone, full : (n,), (m,) as `mono` gives them

    Raises
    ------
    Refused
        They don't share enough sound to be of one recording; the message says how much was found.
    """
    validate(alone, full)
    a, sounding = _spectrum(alone)
    f, _ = _spectrum(full)
    ratio = _ratio(a, sounding, f)
    found = [(t, _weighed(alone, full, t, tops, ratio)) for t, tops in _look(a, sounding, f, ratio)]
    course = _course(found, ratio)
    kept = [(t, c) for (t, _), c in zip(found, course, strict=True) if c is not None]
    if len(kept) < _LEAST_FOUND or len(kept) < _LEAST_SHARE * len(found):
        raise Refused(
            f"These don't fit: of {len(found)} stretches that sound, {len(kept)} are found there in one course. "
            "They are not the same recording, or share no sound."
        )
    return _placed(alone, full, found, course, (a, f), ratio)


def validate(alone: Singles, full: Singles) -> None:
    """Raise `Refused` unless both are long enough and sound."""
    for x, name in ((alone, "This recording"), (full, "The other recording")):
        if len(x) < LEAST_S * RATE:
            raise Refused(f"{name} is too short to be compared: {len(x) / RATE:.1f} s.")
        if not np.abs(x).max() > 1e-4:
            raise Refused(f"{name} is silent.")


def _spectrum(x: Singles) -> tuple[Singles, Bools]:
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


def _ratio(a: Singles, sounding: Bools, f: Singles) -> float:
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


Found = list[tuple[float, list[tuple[float, float]]]]


def _look(a: Singles, sounding: Bools, f: Singles, ratio: float) -> Found:
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


def _weighed(
    alone: Singles, full: Singles, time: float, tops: list[tuple[float, float]], ratio: float
) -> list[tuple[float, float]]:
    """Candidates by how far their phases agree, too: a chorus sung again is like itself, but not to the sample."""
    out = []
    part = _cut(alone, time, ratio, 1.5, tuned=False) if tops and tops[0][1] > _WORTH else None
    for place, score in tops:
        lag = _fine(alone, full, time, place, ratio, tuned=False, part=part) if score > _WORTH and part else None
        bonus = min(lag.clear, 40.0) / 3 if lag is not None and lag.clear > _SHARP else 0.0
        out.append((place, min(score, _MOST_SCORE) + bonus))
    return sorted(out, key=lambda c: -c[1])


def _course(found: Found, ratio: float) -> list[float | None]:
    """The place of each stretch on the course that most agree on, or None: few cuts, many clear stretches."""
    # states of a stretch: its candidates, then "not found", which keeps the offset it came with
    paths: list[tuple[float, float | None, list[float | None]]] = [(0.0, None, [])]
    for time, tops in found:
        best: dict[int | None, tuple[float, float | None, list[float | None]]] = {}
        for total, offset, places in paths:
            keep = (total - _MISSED, offset, [*places, None])
            key = None if offset is None else round(offset / _SAME)
            if key not in best or keep[0] > best[key][0]:
                best[key] = keep
            for place, score in tops:
                if score < _WORTH:
                    continue
                new = place - ratio * time
                cut = 0.0
                if offset is not None and abs(new - offset) > 2 * _SAME:
                    # pieces are cut out far more often than played again
                    cut = _CUT if new > offset else 2 * _CUT
                gain = total + score / _CLEAR - cut
                key = round(new / _SAME)
                if key not in best or gain > best[key][0]:
                    best[key] = (gain, new, [*places, place])
        paths = sorted(best.values(), key=lambda p: -p[0])[:60]
    return paths[0][2]


@attrs.frozen
class _Lag:
    """Where a stretch lies to the sample, s, and how far its lag stands out."""

    place: float
    clear: float


def _cut(alone: Singles, time: float, ratio: float, half: float, *, tuned: bool) -> tuple[Singles, float] | None:
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


def _fine(
    alone: Singles,
    full: Singles,
    time: float,
    place: float,
    ratio: float,
    *,
    tuned: bool,
    part: tuple[Singles, float] | None = None,
) -> _Lag | None:
    """`place` to the sample, by phase transform; None where there is too little sound.

    Parameters
    ----------
    tuned : the sibling's speed was changed and its pitch was kept, so that only short stretches stay in phase
    part : what `_cut` gives, where several places are tried for it
    """
    import scipy.fft

    half, reach = 0.6 if tuned else 1.5, 0.035
    if part is None:
        part = _cut(alone, time, ratio, half, tuned=tuned)
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
    return _Lag((begin + k + len(a) / 2) / RATE + ratio * (time - middle), float(lag[k]) / usual)


def _tuned(alone: Singles, full: Singles, time: Floats, place: Floats, ratio: float) -> bool:
    """Whether the speed was changed without the pitch: which of both makes lags stand out."""
    if abs(ratio - 1) < 5e-4:
        return False
    some = np.linspace(0, len(time) - 1, min(12, len(time))).astype(int)
    clear = []
    for tuned in (False, True):
        found = [_fine(alone, full, float(time[i]), float(place[i]), ratio, tuned=tuned) for i in some]
        clear.append(float(np.median([f.clear if f is not None else 0.0 for f in found])))
    return clear[1] > clear[0]


def _placed(
    alone: Singles,
    full: Singles,
    found: Found,
    course: list[float | None],
    spectra: tuple[Singles, Singles],
    ratio: float,
) -> Match:
    """The course made exact: one speed, one offset for each piece, and where one piece follows another."""
    time = np.array([t for t, _ in found])
    group = _groups(time, course, ratio)
    rough = np.array([c if c is not None else np.nan for c in course])
    ratio, _ = _fitted(time, rough, group, ratio)
    members = np.flatnonzero(group >= 0)

    def lags(centre: Floats, tuned: bool) -> Floats:
        out = np.full(len(time), np.nan)
        for i in members:
            lag = _fine(alone, full, float(time[i]), float(centre[i]), ratio, tuned=tuned)
            if lag is not None and lag.clear >= _SHARP:
                out[i] = lag.place
        return out

    tuned = _tuned(alone, full, time[members], rough[members], ratio)
    fine = lags(rough, tuned)
    ratio, offsets = _fitted(time, np.where(np.isnan(fine), rough, fine), group, ratio)
    # once more at the exact speed: phases agree better
    course_ = np.array(offsets)[np.maximum(group, 0)] + ratio * time
    fine = lags(course_, tuned)
    exact = np.where(np.isnan(fine), rough, fine)
    ratio, offsets = _fitted(time, exact, group, ratio)
    error = exact - np.where(group >= 0, np.array(offsets)[np.maximum(group, 0)], np.nan) - ratio * time
    fits = (group >= 0) & (np.abs(np.nan_to_num(error, nan=1.0)) < _OUT)
    if fits.sum() < _LEAST_FOUND or fits.sum() < _LEAST_SHARE * len(found):
        raise Refused(
            f"These don't fit closely: of {len(found)} stretches {int(fits.sum())} lie within "
            f"{_OUT * 1000:.0f} ms of one course."
        )
    sure = fits & ~np.isnan(fine)
    worst = float(np.abs(error[sure if sure.sum() >= _LEAST_FOUND else fits]).max())
    stretches = tuple(
        Stretch(float(t), float(exact[i]) if fits[i] else tops[0][0], tops[0][1], float(error[i]) if fits[i] else None)
        for i, (t, tops) in enumerate(found)
    )
    pieces = _pieces(time, group, offsets, ratio, spectra, len(alone) / RATE)
    again = sum(ratio * b.start + b.offset < ratio * a.stop + a.offset - _BACK for a, b in itertools.pairwise(pieces))
    if again > _AGAIN:
        raise Refused(
            f"What fits is one stretch, {again + 1} times over: the same drum sounds or loop in both, "
            "but not the same recording."
        )
    return Match(ratio, pieces, stretches, float(fits.mean()), worst)


def _groups(time: Floats, course: list[float | None], ratio: float) -> Ints:
    """Which piece each stretch belongs to, -1 for none; a piece of one stretch alone is none."""
    group, offsets = np.full(len(time), -1), list[float]()
    for i, place in enumerate(course):
        if place is None:
            continue
        offset = place - ratio * float(time[i])
        if not offsets or abs(offset - offsets[-1]) > 2 * _SAME:
            offsets.append(offset)
        else:
            offsets[-1] += 0.3 * (offset - offsets[-1])
        group[i] = len(offsets) - 1
    small = [g for g in range(len(offsets)) if (group == g).sum() < 2]
    group[np.isin(group, small)] = -1
    # number anew, and join neighbours that were only parted by such a stray
    out, last, offset_of = np.full(len(time), -1), -1, dict[int, float]()
    for i in np.flatnonzero(group >= 0).tolist():
        here = offsets[group[i]]
        if last < 0 or abs(here - offset_of[last]) > 2 * _SAME:
            last += 1
            offset_of[last] = here
        out[i] = last
    return out


def _fitted(time: Floats, place: Floats, group: Ints, ratio: float) -> tuple[float, list[float]]:
    """One ratio and an offset for each group: the median of slopes within groups, then medians of what is left."""
    slopes = []
    for g in range(int(group.max(initial=-1)) + 1):
        i = np.flatnonzero((group == g) & ~np.isnan(place))
        if len(i) > 3:
            slopes.append((theil_sen(time[i], place[i])[1], float(np.ptp(time[i])) ** 2 * len(i)))
    if slopes:
        values, weights = (np.array(x) for x in zip(*slopes, strict=True))
        ratio = float(np.average(values, weights=weights))
    offsets = []
    for g in range(int(group.max(initial=-1)) + 1):
        i = (group == g) & ~np.isnan(place)
        offsets.append(float(np.median(place[i] - ratio * time[i])))
    return ratio, offsets


def _pieces(
    time: Floats,
    group: Ints,
    offsets: list[float],
    ratio: float,
    spectra: tuple[Singles, Singles],
    duration: float,
) -> tuple[Piece, ...]:
    """Pieces from the beginning to the end; a cut lies where the likeness to one place gives way to the other."""
    a, f = spectra
    cuts = [0.0]
    for g in range(len(offsets) - 1):
        low = float(time[np.flatnonzero(group == g)[-1]])
        high = float(time[np.flatnonzero(group == g + 1)[0]])
        frames = np.arange(int(low * COMPARED_FPS), min(len(a) - 1, int(high * COMPARED_FPS) + 1))
        like = []
        for offset in offsets[g : g + 2]:
            there = np.clip(np.rint((offset + ratio * frames / COMPARED_FPS) * COMPARED_FPS).astype(int), 0, len(f) - 1)
            like.append((a[frames] * f[there]).sum(axis=1))
        before, after = np.cumsum(like[0]), np.cumsum(like[1])
        k = int(np.argmax(before + after[-1] - after)) if len(frames) else 0
        cuts.append(float(frames[k]) / COMPARED_FPS if len(frames) else low)
    cuts.append(duration)
    return tuple(Piece(cuts[g], cuts[g + 1], offset) for g, offset in enumerate(offsets))
