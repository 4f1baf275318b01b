"""Turntables: a record that runs fast or slow and sways once a turn, told from a drummer's wander.

Wow is a slow variation of speed, shown at the rate at which the record turns (IEC 60386; here unweighted, and as peak
depth in per cent of the mean speed). It bends every pitch together, which no drummer does: so it is measured on the
partials of the sound itself, not on the beats. Records turn 33 1/3, 45 or 78 times a minute.
"""

from __future__ import annotations

import attrs
import numpy as np

from ..arrays import Bools, Floats, Ints, Singles
from .spectra import RATE

TURNS: dict[str, float] = {"33⅓": 100 / 180, "45": 45 / 60, "78": 78 / 60}
"""Turns a second of each speed of record, by the name on its label (IEC 60098; recalled from memory)."""

WINDOW, HOP = 8192, 3200
LAG = 2
_HALF_STEPS = 2 * RATE / HOP
"""The middles of steps lie on a raster of so many a second."""
_DEEPEST, _LOWEST, _HIGHEST = 50.0, 150.0, 5000.0
BINS = int(_HIGHEST / RATE * WINDOW) + 2
"""Bins of the spectrum in which partials are followed, from 0 Hz."""
_PROMINENT = 2.5
_MOST_CENTS = 15.0
_KEPT = 0.7
_SURE_BIN = 150
_NEAR = 0.015
_CLEAR = 7.0
_LEAST_SECONDS = 20.0
_APART = 1e5
_STRETCH_S = 30.0
"""Wow is measured anew on stretches so long, each half over the one before."""
_ODD = 0.35
_MIDDLE_S, _RATE_OFF = 180.0, 0.004
"""Its rate is looked for in so much of the middle, so many Hz around what was found."""
_CENT = np.log(2) / 1200


@attrs.frozen
class Wave:
    """Wow round an instant: speed is above its mean by `cosine` cos + `sine` sin of 2π `rate` t.

    Attributes
    ----------
    time : s, the middle of the stretch on which it was measured
    rate : Hz
    cosine, sine : shares of the speed
    """

    time: float
    rate: float
    cosine: float
    sine: float


@attrs.frozen
class Sway:
    """Wow at a turning rate.

    Attributes
    ----------
    record : "33⅓", "45" or "78"
    rate : Hz
    depth : peak deviation of speed, as a share of it (0.002 is 0.2 %)
    clear : how many times stronger than speed variation at other rates
    """

    record: str
    rate: float
    depth: float
    clear: float


@attrs.frozen(eq=False)
class Steps:
    """How far partials moved from one instant to another 0.2 s later.

    Attributes
    ----------
    times : (n,) s, the middle of each step
    cents : (n,) hundredths of a semitone
    weight : (n,) how exactly each is known, 0 to 1
    duration : s
    """

    times: Singles
    cents: Singles
    weight: Singles
    duration: float


@attrs.frozen(eq=False)
class Peaks:
    """Peaks of the spectra of `frames` instants: which instant, place in bins, magnitude."""

    frame: Ints
    at: Floats
    loud: Floats
    frames: int


class Partials:
    """Follows the partials of sound whose spectra come in chunks; what is kept is small.

    A partial is a peak of the spectrum, placed between bins by a parabola through its log magnitudes (Smith & Serra,
    PARSHL, ICMC 1987).
    """

    def __init__(self) -> None:
        # frame, place in bins and magnitude of each peak that later ones may go on from
        self._last: tuple[Ints, Floats, Floats] = (np.zeros(0, np.int64), np.zeros(0), np.zeros(0))
        self._count = 0
        self._out: list[Singles] = []

    def push(self, peaks: Peaks) -> None:
        """Take the peaks of more frames."""
        used = peaks.at >= _LOWEST / RATE * WINDOW
        frame, at, loud = peaks.frame[used] + self._count, peaks.at[used], peaks.loud[used]
        self._count += peaks.frames
        frame, at, loud = (np.concatenate(pair) for pair in zip(self._last, (frame, at, loud), strict=True))
        new = frame >= self._count - peaks.frames
        recent = frame >= self._count - LAG
        self._last = frame[recent], at[recent], loud[recent]
        if len(frame) < 2 or not new.any():
            return
        # peaks in order of frame and place: the nearest of the frame `LAG` before is looked up in one line
        key, wanted = frame * _APART + at, (frame[new] - LAG) * _APART + at[new]
        i = np.clip(np.searchsorted(key, wanted), 1, len(key) - 1)
        i = np.where(np.abs(key[i - 1] - wanted) < np.abs(key[i] - wanted), i - 1, i)
        cents = 1200 * np.log2(at[new] / at[i])
        same = (frame[i] == frame[new] - LAG) & (np.abs(cents) < _MOST_CENTS)
        same &= np.abs(np.log(loud[new] / loud[i])) < _KEPT
        t = (frame[new][same] - LAG / 2) * HOP / RATE
        self._out.append(np.stack([t, cents[same], np.minimum(1.0, at[new][same] / _SURE_BIN)]).astype(np.float32))

    def finish(self) -> Steps:
        """All steps."""
        rows = np.concatenate(self._out, axis=1) if self._out else np.zeros((3, 0), np.float32)
        return Steps(rows[0], rows[1], rows[2], self._count * HOP / RATE)


def peaks(magnitudes: Singles) -> Peaks:
    """The peaks that stand out of their surroundings.

    Parameters
    ----------
    magnitudes : (n, `BINS`) of 32 kHz mono, seen through Hann windows `WINDOW` long and `HOP` apart
    """
    from scipy.ndimage import uniform_filter1d

    magnitude = magnitudes[:, :BINS].astype(np.float64)
    middle = magnitude[:, 1:-1]
    around = uniform_filter1d(magnitude, 41, axis=1, mode="constant")[:, 1:-1]
    stands = (middle > magnitude[:, :-2]) & (middle >= magnitude[:, 2:]) & (middle > _PROMINENT * around)
    stands &= middle > 1e-3
    stands[:, : int(_DEEPEST / RATE * WINDOW)] = False
    frame, k = np.nonzero(stands)
    before, here, after = (np.log(magnitude[frame, k + d] + 1e-9) for d in (0, 1, 2))
    at = k + 1 + 0.5 * (before - after) / (before - 2 * here + after)
    return Peaks(frame, at, magnitude[frame, k + 1], len(magnitude))


def _gain(rate: float) -> float:
    """What is left of a sway of 1 in the difference of two windowed frames."""
    spread = WINDOW / RATE * 0.1414  # of a Hann window's square, in s
    return float(2 * np.sin(np.pi * rate * LAG * HOP / RATE) * np.exp(-0.5 * (2 * np.pi * rate * spread) ** 2))


def _wave(steps: Steps, rate: float, width: float, start: Floats) -> Floats:
    """Cosine and sine of the steps at `rate` by a redescending estimate (Welsch weights), and their mean: (3,)."""
    angle = 2 * np.pi * rate * steps.times.astype(np.float64)
    design = np.stack([np.cos(angle), np.sin(angle), np.ones(len(angle))], axis=1)
    found = start
    for _ in range(5):
        w = steps.weight * np.exp(-0.5 * ((steps.cents - design @ found) / width) ** 2)
        found = np.linalg.solve(
            (design * w[:, None]).T @ design + 1e-9 * np.eye(3), (design * w[:, None]).T @ steps.cents
        )
    return np.asarray(found)


def spectrum(steps: Steps, rates: Floats) -> Floats:
    """Strength of speed variation at each rate in Hz, in cents of the steps: (k,).

    A least-squares periodogram (Lomb, 1976) of each instant's typical step.

    Parameters
    ----------
    rates : evenly spaced
    """
    from scipy.signal import czt

    frame = np.rint(steps.times * _HALF_STEPS).astype(int)
    used = np.flatnonzero(np.bincount(frame, minlength=1) > 2)
    if len(used) < 16:
        return np.zeros(len(rates))
    known = np.isin(frame, used)
    typical = _typical(frame[known], steps.cents[known], steps.weight[known])
    size = 1.48 * float(np.median(np.abs(typical))) + 1e-3
    w = 1 / (1 + (typical / (2 * size)) ** 2)
    y = w * (typical - np.average(typical, weights=w))
    row = np.zeros(used[-1] + 1)
    row[used] = y
    turn = 2j * np.pi / _HALF_STEPS
    found = czt(row, len(rates), np.exp(-turn * (rates[1] - rates[0])), np.exp(turn * rates[0]))
    return np.abs(found) * 2 / w.sum()


def _typical(frame: Ints, x: Singles, w: Singles) -> Floats:
    """The typical one of (n,) values of each frame, in order: a mean of those near their weighted median."""
    order = np.lexsort((x, frame))
    frame, x, w = frame[order], x[order].astype(float), w[order].astype(float)
    first = np.flatnonzero(np.diff(frame, prepend=frame[0] - 1))
    group = np.repeat(np.arange(len(first)), np.diff(np.append(first, len(frame))))
    total = np.cumsum(w)
    before = np.concatenate([[0.0], total])[first]
    half = (before + total[np.append(first[1:], len(frame)) - 1]) / 2
    middle = x[np.searchsorted(total, half)]
    near = w / (1 + ((x - middle[group]) / 2) ** 2)
    return np.bincount(group, near * x) / np.maximum(np.bincount(group, near), 1e-9)


def sway(steps: Steps) -> Sway | None:
    """The wow of a turntable, where speed varies at a turning rate far more than at any other; else None."""
    if steps.duration < _LEAST_SECONDS or len(steps.times) < 200:
        return None
    rates = np.arange(0.3, 1.8, 0.002)
    strength = spectrum(steps, rates)
    usual = float(np.median(strength))
    best: Sway | None = None
    for record, turn in TURNS.items():
        near = np.flatnonzero(np.abs(rates - turn) < _NEAR)
        top = int(near[strength[near].argmax()])
        clear = float(strength[top] / max(usual, 1e-6))
        if clear < _CLEAR or strength[top] < 0.999 * strength[max(0, top - 12) : top + 13].max():
            continue
        if best is None or clear > best.clear:
            rate = _vertex(rates[top - 1 : top + 2], strength[top - 1 : top + 2])
            found = _narrowed(steps, rate, np.zeros(3))
            best = Sway(record, rate, float(np.hypot(found[0], found[1])) / _gain(rate) * _CENT, clear)
    return best


def _vertex(x: Floats, y: Floats) -> float:
    """Where the parabola through three points is highest."""
    curve = y[0] - 2 * y[1] + y[2]
    return float(x[1] + (x[1] - x[0]) * 0.5 * (y[0] - y[2]) / curve) if curve < 0 else float(x[1])


def waves(steps: Steps, found: Sway) -> tuple[Wave, ...]:
    """How speed sways, with its phase, stretch by stretch: an off-centre record sways more towards its middle.

    A step of pitch from `LAG` frames before to now is the derivative of the sway, up to a known gain.
    """
    rate, start = _refined(steps, found)
    count = max(1, round(2 * steps.duration / _STRETCH_S) - 1)
    middles = (np.arange(count) + 1) * steps.duration / (count + 1)
    gain = _gain(rate) / _CENT
    out: dict[float, Wave] = {}
    centre = int(np.abs(middles - steps.duration / 2).argmin())
    # outwards from the middle, where its rate was found: each stretch begins with what its neighbour had
    for side in (middles[centre:], middles[:centre][::-1]):
        c = start
        for middle in side.tolist():
            near = np.abs(steps.times - middle) <= _STRETCH_S / 2
            if near.sum() < 100:
                continue
            c = _narrowed(_part(steps, near), rate, c)
            # of a cos + b sin the difference over a lag is G (b cos - a sin)
            out[middle] = Wave(middle, rate, float(-c[1] / gain), float(c[0] / gain))
    return _agreed([out[m] for m in sorted(out)])


def _agreed(found: list[Wave]) -> tuple[Wave, ...]:
    """A stretch that sways quite otherwise than those around it was heard wrongly: it sways as they do."""
    heights = np.array([[w.cosine, w.sine] for w in found]).reshape(-1, 2)
    out = []
    for i, w in enumerate(found):
        usual = np.median(heights[max(0, i - 2) : i + 3], axis=0)
        odd = np.hypot(*(heights[i] - usual)) > _ODD * np.hypot(*usual)
        out.append(attrs.evolve(w, cosine=float(usual[0]), sine=float(usual[1])) if odd else w)
    return tuple(out)


def _part(steps: Steps, mask: Bools) -> Steps:
    return Steps(steps.times[mask], steps.cents[mask], steps.weight[mask], steps.duration)


def _narrowed(steps: Steps, rate: float, start: Floats) -> Floats:
    """From all that moves down to what moves together."""
    for width in (3.0, 2.0, 1.5, 1.2, 1.0, 0.8, 0.6):
        start = _wave(steps, rate, width, start)
    return start


def _refined(steps: Steps, found: Sway) -> tuple[float, Floats]:
    """The rate that explains most of how the middle of the recording moves, and its wave there."""
    long = min(steps.duration, _MIDDLE_S)
    part = _part(steps, np.abs(steps.times - steps.duration / 2) <= long / 2)
    best, rate, start = -1.0, found.rate, np.zeros(3)
    for tried in found.rate + np.arange(-_RATE_OFF, _RATE_OFF, 0.08 / long):
        c = _wave(part, tried, 1.5, _wave(part, tried, 3.0, np.zeros(3)))
        angle = 2 * np.pi * tried * part.times
        missed = part.cents - (c[0] * np.cos(angle) + c[1] * np.sin(angle) + c[2])
        good = float(part.weight @ np.exp(-0.5 * (missed / 1.5) ** 2))
        if good > best:
            best, rate, start = good, float(tried), c
    return rate, start
