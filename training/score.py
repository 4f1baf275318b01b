"""What the made-up musicians have in common: notes, sections, and the map from beats to seconds."""

from __future__ import annotations

import itertools

import attrs
import numpy as np
from numpy.random import Generator
from numpy.typing import NDArray

Floats = NDArray[np.float64]


@attrs.frozen
class Note:
    """A note of `part` at `beat` for `length` beats, `late` s off its place, loud 0 to 1."""

    part: str
    beat: float
    key: int
    loud: float
    length: float = 0.25
    late: float = 0.0


@attrs.frozen
class Section:
    """A stretch of `bars` (beats in each bar), with its kind, energy 0 to 1 and the parts that play."""

    kind: str
    bars: tuple[int, ...]
    energy: float
    parts: frozenset[str]
    drums: str
    alike: str

    @property
    def beats(self) -> int:
        """How many beats it has."""
        return sum(self.bars)


def stretches(rng: Generator, bars: tuple[int, ...]) -> list[Section]:
    """Sections of 4, 8 or 16 bars each, for music whose form isn't known: time is kept by them."""
    each = int(rng.choice([4, 8, 8, 16]))
    parts = (bars[i : i + each] for i in range(0, len(bars), each))
    return [Section("verse", part, 0.7, frozenset(), "full", str(k)) for k, part in enumerate(parts)]


@attrs.frozen
class Feel:
    """How time is kept: jitter of each part in s, swing as the share of the first of two notes, and at which level."""

    jitter: float
    swing: float
    swung: float
    snare_late: float
    bass_late: float


def swing(beat: float, feel: Feel) -> float:
    """Where a note written at `beat` is played under swing; straight for .5."""
    unit = feel.swung * 2
    whole, part = divmod(beat, unit)
    x = part / unit
    s = feel.swing
    return (whole + (x / 0.5 * s if x < 0.5 else s + (x - 0.5) / 0.5 * (1 - s))) * unit


@attrs.frozen(eq=False)
class Clock:
    """Beat times in s; beats between are interpolated, those outside are extrapolated."""

    times: Floats

    def at(self, beat: Floats | float) -> Floats:
        """Seconds of (fractional) beats."""
        t = self.times
        b = np.asarray(beat, float)
        inside = np.interp(b, np.arange(len(t)), t)
        before = t[0] + b * (t[1] - t[0])
        after = t[-1] + (b - len(t) + 1) * (t[-1] - t[-2])
        return np.where(b < 0, before, np.where(b > len(t) - 1, after, inside))


def _slow_noise(rng: Generator, n: int, exponent: float = 1.0) -> Floats:
    """1/f noise of unit deviation (drummers' timing: Hennig et al., PLoS ONE 2011)."""
    spectrum = rng.normal(size=n // 2 + 1) + 1j * rng.normal(size=n // 2 + 1)
    spectrum /= np.maximum(np.arange(n // 2 + 1), 1) ** (exponent / 2 + 0.3)
    spectrum[0] = 0
    x = np.fft.irfft(spectrum, n)
    return x / (x.std() + 1e-9)


def keep_time(rng: Generator, sections: list[Section], bpm: float, *, machine: bool) -> tuple[Clock, dict[int, float]]:
    """A clock for all beats of the sections, and pauses {beat: s} during which no beat is kept before it.

    Machines are steady, but songs change tempo between sections or ramp; people wander, rush fills and slow down.
    """
    total = sum(s.beats for s in sections) + 1
    n = total + total % 2 + 2
    curve = np.full(n, bpm)
    starts = np.cumsum([0, *(s.beats for s in sections)])
    manner = rng.random()
    if not machine:
        depth = rng.choice([0.004, 0.01, 0.02, 0.03])
        curve = curve * (1 + depth * _slow_noise(rng, n, rng.uniform(0.6, 2.0)))
        rush = rng.choice([0.0, 0.01, 0.03]) * rng.choice([1, 1, -0.5])
        for s in starts[1:]:
            curve[max(0, s - 2) : s] *= 1 + rush
        if rng.random() < 0.35:
            # a loud chorus is pushed, a quiet verse held back
            pace = {s.alike: rng.normal(1, 0.015) for s in sections}
            for (a, b), section in zip(itertools.pairwise(starts), sections, strict=True):
                curve[a:b] *= pace[section.alike]
    if manner < 0.10:
        for a, b in itertools.pairwise(starts):
            curve[a:b] *= rng.choice([1.0, rng.uniform(0.86, 1.16)])
    elif manner < 0.18 and len(sections) > 1:
        a = int(rng.integers(0, total // 2))
        b = int(min(total, a + rng.integers(16, 96)))
        ratio = rng.uniform(0.78, 1.25)
        curve[a:b] *= np.linspace(1, ratio, b - a)
        curve[b:] *= ratio if rng.random() < 0.6 else 1.0
    elif manner < 0.24:
        curve *= np.linspace(1, rng.uniform(0.95, 1.06), n)
    if rng.random() < 0.06:
        curve[total - 8 : total] *= np.linspace(1, rng.uniform(0.6, 0.85), 8)
    period = 60 / curve
    pauses: dict[int, float] = {}
    if rng.random() < 0.06 and len(sections) > 2:
        k = int(starts[rng.integers(1, len(sections))])
        pauses[k] = float(rng.uniform(0.3, 3.5))
        period[k - 1] += pauses[k]
    times = np.concatenate([[0.0], np.cumsum(period)])[:total]
    if not machine:
        times = times + rng.normal(0, rng.choice([0.0, 0.002, 0.004]), len(times))
    return Clock(times), pauses
