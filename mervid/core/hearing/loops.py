"""Loops: short files cut to run round, whose length is a whole number of beats.

Sound from the first sample to the last beat, and attacks that lie on even parts of the length, far beyond chance, make
a loop. Its tempo is then the tempo of its length, and bar 1 is its first hit. How many beats the length has is chosen
by what the attacks, the ear and a listener's resonance say: people tap nearest to 120 BPM (van Noorden & Moelants,
Journal of New Music Research 28, 1999; the width is recalled from memory), and loops are mostly cut to 1, 2, 4, 8 or
16 bars (common practice, no source).
"""

from __future__ import annotations

import attrs
import numpy as np

from ..arrays import Floats, Singles
from ..model.beatgrid import Grid, MeterMark, Pin
from . import bar_pointer, features
from .ear import Strengths
from .heard import Heard

SLOWEST, FASTEST = 58.0, 210.0
_RESONANCE, _WIDTH = 115.0, 0.42
_FIRST, _AT_ONCE = 0.03, 0.002
_SOFT_FIRST = 0.08
_COUNTS = (2, 3, *range(4, 65, 4), 6, 9)
_PARTS = (1, 2, 3, 4)
_STRAY = 0.25
_HIT = (0.004, 0.012)
_SOFT = (0.006, 0.016)
_SHIFTS = (-0.008, -0.004, 0.0, 0.004, 0.008)
_CLEAR, _CLEAR_FEW, _CLEAR_SOFT = 3.0, 5.0, 7.0
_FEW = 12.0
"""In so many s of soft sounds there are too few to be clearer than hits."""
_SHORTEST, _CLEAR_SHORTEST = 1.5, 2.4
_EAR = 0.5
_APART = 6
_LEAST_RISE = 0.3
_TERNARY, _ODD = 1.5, 3.0
_IN_THREES = 0.5
_BELIEVED = 0.9
"""Of counts that the scores call certain so many were right on rendered loops."""


@attrs.frozen
class Loop:
    """A file that runs round.

    Attributes
    ----------
    start : s, its first hit, where bar 1 begins
    beats : how many beats its length is
    beats_per_bar : 3 or 4
    duration : s
    level_chance : the chance that it is this many beats and not half, twice or another number
    """

    start: float
    beats: int
    beats_per_bar: int
    duration: float
    level_chance: float

    @property
    def tempo(self) -> float:
        """BPM."""
        return 60 * self.beats / self.duration

    @property
    def bars(self) -> float:
        """How many bars long."""
        return self.beats / self.beats_per_bar

    def grid(self) -> Grid:
        """One span, bar 1 on the first hit."""
        ends = Pin(self.start, 0.0), Pin(self.start + self.duration, float(self.beats))
        return Grid(ends, (MeterMark(0.0, self.beats_per_bar),))


def find(ear: Strengths, attack: Singles, rises: Singles, duration: float) -> Loop | None:
    """The loop that a file is, or None.

    Parameters
    ----------
    attack : (n,) strength, 1000 a second
    rises : (m,) how much louder all bands become, 100 a second, for sounds that begin softly
    duration : s, exactly

    Examples
    --------
    >>> bars = 4 * 4 * 60 / 126  # four bars of kicks
    >>> find(ear, attack, rises, bars).tempo  # doctest: +SKIP
    126.0
    """
    if not 0 < duration <= features.SHORT:
        return None
    # what begins with the first sample has nothing before it to rise from
    times, strengths = features.onsets(np.concatenate([np.zeros(1, np.float32), attack]))
    times = times - 1 / features.ATTACK_RATE
    first = float(times[0]) if len(times) and times[0] <= _FIRST else None
    # a hit is read to 1 ms or two: one that is there at once begins with the file
    first = 0.0 if first is not None and first <= _AT_ONCE else first
    if first is not None:
        hits = _best(ear, times[1:], np.minimum(1, (strengths[1:] / 0.4) ** 2), first, duration, _HIT, (0.0,))
        if hits is not None and hits[0] >= (_CLEAR if duration > _SHORTEST else _CLEAR_SHORTEST):
            return hits[1]
    times, how_strong = _onsets(rises)
    later = times > _SOFT_FIRST
    if first is None and later.all():
        return None
    soft = _best(ear, times[later], np.minimum(1, 2 * how_strong[later]), first or 0.0, duration, _SOFT, _SHIFTS)
    return soft[1] if soft is not None and soft[0] >= (_CLEAR_FEW if duration < _FEW else _CLEAR_SOFT) else None


def heard(loop: Loop, confidence: float = 0.9) -> Heard:
    """Its beats."""
    n = np.arange(loop.beats)
    times = loop.start + n * loop.duration / loop.beats
    sure = np.full(len(n), confidence)
    return Heard(times, n, sure, (MeterMark(0.0, loop.beats_per_bar),), loop.level_chance, confidence)


def _onsets(rises: Singles) -> tuple[Floats, Floats]:
    """Times of the strong rises, between frames, and how strong beside the strongest."""
    r = np.convolve(np.concatenate([[0.0, 0.0], rises, [0.0]]), [0.25, 0.5, 0.25], "same")
    top = float(np.percentile(r, 98)) if len(r) else 0.0
    at = features.strongest(r, max(_LEAST_RISE * top, 1e-6), _APART - 1)
    before, here, after = r[at - 1], r[at], r[at + 1]
    between = 0.5 * (before - after) / np.minimum(before - 2 * here + after, -1e-9)
    return (at - 2 + between) / features.FLUX_FPS, np.minimum(1, here / max(top, 1e-9))


def _best(
    ear: Strengths,
    times: Floats,
    weights: Floats,
    first: float,
    duration: float,
    spread: tuple[float, float],
    shifts: tuple[float, ...],
) -> tuple[float, Loop] | None:
    """The likeliest count of beats: how far its lattice explains the onsets beyond chance, in nats; and the loop."""
    if len(times) < 1 + (len(shifts) > 1):
        return None
    gaps = np.diff(np.concatenate([[first], times, [duration + first]]))
    if gaps[-1] > max(1.3 * gaps[:-1].max(), 0.5 * min(duration, _SHORTEST)) + spread[1]:
        # it doesn't sound to its end
        return None
    gain = bar_pointer.observed(ear.beat)
    found = []
    for beats in _COUNTS:
        tempo = 60 * beats / duration
        if not SLOWEST <= tempo <= FASTEST:
            continue
        by_ear = bar_pointer.gained(gain, first + np.arange(beats) * duration / beats)
        usual = -((np.log2(tempo / _RESONANCE) / _WIDTH) ** 2) - _rarity(beats)
        explained = max(
            _explained(times - first - shift, weights, duration / (beats * parts), spread) - _IN_THREES * (parts == 3)
            for parts in _PARTS
            for shift in shifts
        )
        found.append((explained + usual + _EAR * by_ear, explained, beats))
    if not found:
        return None
    found.sort(reverse=True)
    total, explained, beats = found[0]
    chance = _BELIEVED / sum(float(np.exp(max(f[0] - total, -700))) for f in found)
    return explained, Loop(first, beats, _metre(ear, beats, first, duration), duration, chance)


def _explained(times: Floats, weights: Floats, apart: float, spread: tuple[float, float]) -> float:
    """Log of how much likelier a lattice `apart` s makes the onsets than chance does, some of them being stray."""
    off = (times + apart / 2) % apart - apart / 2
    near, far = (np.exp(-0.5 * (off / s) ** 2) / (s * np.sqrt(2 * np.pi)) * apart for s in spread)
    return float((weights * np.log((1 - _STRAY) * (0.6 * near + 0.4 * far) + _STRAY)).sum())


def _rarity(beats: int) -> float:
    """What a count costs that loops seldom have."""
    if beats & (beats - 1) == 0:
        return 0.0
    third = beats // 3
    return _TERNARY if beats % 3 == 0 and third & (third - 1) == 0 else _ODD


def _metre(ear: Strengths, beats: int, first: float, duration: float) -> int:
    """Three beats a bar where the ear hears threes in whole bars, or nothing else divides the length."""
    if beats % 3:
        return 4
    if beats % 2:
        return 3
    times = first + np.arange(beats) * duration / beats
    threes = bar_pointer.bars(ear, times)[1] == 3
    return 3 if threes or beats == 6 else 4
