"""How two recordings of one song fit in time, from their sound alone: a voice without band, an instrumental, an edit.

A sibling shares some of its sound with the full recording: it may begin elsewhere, run up to 2 % faster or slower, and
lack whole pieces. Stretches of a few seconds are looked for in the full recording by their spectrum over time
(normalised cross-correlation by Fourier transform); the stretches that agree on one course are kept (Viterbi, as in
audio matching by Müller, Kurth & Clausen, ISMIR 2005, with a course of straight pieces); then each is placed to the
sample by the generalised cross-correlation with phase transform (Knapp & Carter, IEEE Trans. ASSP 24, 1976).
"""

from __future__ import annotations

import itertools

import attrs
import numpy as np

from ..arrays import Floats, Ints, Singles
from ..errors import Refused
from ..maths.regression import theil_sen
from . import phase_lag, stretch_search
from .stretch_search import COMPARED_FPS, RATE

LEAST_S = 8.0
"""Shorter recordings are not compared, s."""
_SAME = 0.06
"""Offsets so near are of one piece, s."""
_CUT, _MISSED = 4.0, 0.9
"""What a cut costs a course, and a stretch that isn't found, against a stretch's score / `_CLEAR`."""
_CLEAR = 6.0
_WORTH, _MOST_SCORE = 3.5, 14.0
"""A candidate below is not tried; above, it counts no more: robust standard deviations over the usual likeness."""
_LEAST_SHARE, _LEAST_FOUND = 0.5, 3
"""Of the stretches that sound, so many lie on one course, or the recordings don't fit."""
_OUT = 0.03
"""A stretch farther from the course is not on it, s."""
_BACK, _AGAIN = 1.0, 1
"""A piece that begins so many s before the end of the one before is played again; an edit does that once."""
_SHARP = 6.0
"""A lag that stands out so far is believed, robust standard deviations."""


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
    a, sounding = stretch_search.spectrum(alone)
    f, _ = stretch_search.spectrum(full)
    ratio = stretch_search.ratio_of(a, sounding, f)
    found = [(t, _weighed(alone, full, t, tops, ratio)) for t, tops in stretch_search.look(a, sounding, f, ratio)]
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


def _weighed(
    alone: Singles, full: Singles, time: float, tops: list[tuple[float, float]], ratio: float
) -> list[tuple[float, float]]:
    """Candidates by how far their phases agree, too: a chorus sung again is like itself, but not to the sample."""
    out = []
    part = phase_lag.cut(alone, time, ratio, 1.5, tuned=False) if tops and tops[0][1] > _WORTH else None
    for place, score in tops:
        tried = part is not None and score > _WORTH
        lag = phase_lag.fine(alone, full, time, place, ratio, tuned=False, part=part) if tried else None
        bonus = min(lag.clear, 40.0) / 3 if lag is not None and lag.clear > _SHARP else 0.0
        out.append((place, min(score, _MOST_SCORE) + bonus))
    return sorted(out, key=lambda c: -c[1])


def _course(found: stretch_search.Found, ratio: float) -> list[float | None]:
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


def _placed(
    alone: Singles,
    full: Singles,
    found: stretch_search.Found,
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
            lag = phase_lag.fine(alone, full, float(time[i]), float(centre[i]), ratio, tuned=tuned)
            if lag is not None and lag.clear >= _SHARP:
                out[i] = lag.place
        return out

    tuned = phase_lag.keeps_pitch(alone, full, time[members], rough[members], ratio)
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
