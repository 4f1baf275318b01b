"""Tapping along: what the taps of a hand say of tempo and beat, and how sure that is by now.

A hand taps some tens of ms early or late, scatters by 20 to 40 ms, leaves beats out and strikes twice. Taps are given
beat numbers, and a line through them is found by robust regression: Theil's and Sen's median of slopes (Sen, J. Am.
Stat. Assoc. 63, 1968) begins, Tukey's biweight (Holland & Welsch, Commun. Stat. A6, 1977) refines. Where the
recording wanders, a line through the neighbours follows it (loess; Cleveland, J. Am. Stat. Assoc. 74, 1979).
"""

from __future__ import annotations

import attrs
import numpy as np

from ..arrays import Bools, Floats, Ints
from ..errors import Refused
from ..maths.regression import theil_sen

LEAST = 5
ENOUGH_TAPS = 24
ENOUGH_BEATS, ENOUGH_S = 64, 0.02
"""Taps are enough when 16 bars at the tempo found go astray by less than this, at odds of 19 to 1."""
LEAST_S, MOST_S = 0.2, 3.0
"""A beat lasts so long: 300 to 20 BPM."""
LOST_S = 8.0
"""After so long without a tap, a new row begins."""
_TUKEY = 4.685
_LEAST_SCALE = 0.004
_NEIGHBOURS = 9
_WANDERS = 0.75
_TWICE = 0.45
_FOLLOWS, _RUNS_ON = 0.65, 2
"""How far a beat follows its tap; after more beats without one the count begins with the tap again."""


@attrs.frozen(eq=False)
class Reading:
    """What a row of taps says.

    Attributes
    ----------
    tempo, tempo_sd : BPM, and its standard error
    phase_sd : standard error of the beats' instants, s
    scatter : how much single taps scatter, s
    times, numbers, residual, used : (n,) the taps, s; their beats; how late each is, s; whether it counts
    beats : (k,) s, one for each beat from the first tap to the last, tapped or not
    wanders : the taps follow a tempo that is not steady
    downs : (m,) s, the beats tapped as downbeats, without strays
    enough : tapping on would add little
    """

    tempo: float
    tempo_sd: float
    phase_sd: float
    scatter: float
    times: Floats
    numbers: Ints
    residual: Floats
    used: Bools
    beats: Floats
    wanders: bool
    downs: Floats
    enough: bool


def validate(times: Floats) -> None:
    """Raise `Refused`, saying what is missing, unless `times` (s) can be read as a row of taps."""
    if len(times) < LEAST:
        raise Refused(f"{len(times)} taps are too few: tap at least {LEAST} beats in a row.")
    if not np.isfinite(times).all():
        raise Refused("A tap has no time.")


def read(times: Floats, down: Bools | None = None, *, bar: int = 4) -> Reading:
    """What taps say of tempo and beat.

    Parameters
    ----------
    times : (n,) s, ascending, the hand's usual delay taken off
    down : (n,) which were tapped as downbeats
    bar : beats a bar

    Raises
    ------
    Refused
        Too few taps, or no beat can be read from them.

    Examples
    --------
    >>> found = read(np.arange(20) * 0.5)
    >>> round(found.tempo, 6), bool(found.used.all())
    (120.0, True)
    """
    times = np.sort(np.asarray(times, float))
    validate(times)
    numbers, once = number(times)
    if once.sum() < LEAST:
        raise Refused("No beat can be read from these taps: tap once a beat.")
    x, y = numbers.astype(float), times
    start, period = theil_sen(x[once], y[once])
    start, period, weight = _biweight(x, y, start, period, once)
    beats, smooth, wanders = _curve(x, y, weight, start, period)
    line = start + period * x
    residual = y - (smooth if wanders else line)
    used = once & (weight > 0)
    scatter = _spread(residual[used])
    spread = float(np.sum((x[used] - x[used].mean()) ** 2))
    period_sd = scatter / np.sqrt(max(spread, 1e-9))
    downs = np.zeros(0) if down is None else beats[_bar_lines(numbers[used & down], bar) - numbers[0]]
    return Reading(
        tempo=60 / period,
        tempo_sd=float(60 / period**2 * period_sd),
        phase_sd=float(scatter / np.sqrt(min(used.sum(), 2 * _NEIGHBOURS if wanders else used.sum()))),
        scatter=scatter,
        times=times,
        numbers=numbers,
        residual=residual,
        used=used,
        beats=beats,
        wanders=wanders,
        downs=downs,
        enough=bool(used.sum() >= ENOUGH_TAPS and 1.96 * period_sd * ENOUGH_BEATS < ENOUGH_S),
    )


def number(times: Floats) -> tuple[Ints, Bools]:
    """Which beat each tap is, (n,), and whether it is the first on its beat; beats left out are counted.

    The beat's length is taken from the taps around, so that a hand that follows a wandering tempo keeps its count.
    """
    gaps = np.diff(times)
    usual = _usual(gaps)
    numbers, once = [0], [True]
    recent = [usual] * 3
    # when the last tap came, and where its beat lay: a tap that came early doesn't make the next one late
    last = beat = float(times[0])
    for t in times[1:].tolist():
        period = float(np.median(recent[-7:]))
        # a tap too early to be a beat is a second strike
        steps = max(1, round((t - beat) / period)) if t - last >= _TWICE * period else 0
        numbers.append(numbers[-1] + steps)
        once.append(steps > 0)
        if steps > 0:
            if 0.7 < (t - last) / steps / period < 1.4:
                recent.append((t - last) / steps)
            expected = beat + steps * period
            beat = t if steps > _RUNS_ON else expected + _FOLLOWS * (t - expected)
            last = t
    return np.array(numbers, np.int64), np.array(once)


def _usual(gaps: Floats) -> float:
    """The length of a beat, s: the middle of the gaps that are neither double strikes nor beats left out."""
    fair = gaps[(gaps > LEAST_S) & (gaps < MOST_S)]
    if len(fair) < LEAST - 2:
        raise Refused(f"Tap {60 / MOST_S:.0f} to {60 / LEAST_S:.0f} times a minute, evenly.")
    middle = float(np.median(fair))
    near = fair[(fair > 0.6 * middle) & (fair < 1.5 * middle)]
    return float(np.median(near)) if len(near) else middle


def _scale(residual: Floats) -> float:
    """Standard deviation by the median of absolute residuals; `_LEAST_SCALE` at least."""
    return max(_LEAST_SCALE, 1.4826 * float(np.median(np.abs(residual - np.median(residual)))))


def _spread(residual: Floats) -> float:
    """Standard deviation by the biweight midvariance (Lax, J. Am. Stat. Assoc. 80, 1985); `_LEAST_SCALE` at least.

    Twice as exact as `_scale` for as many taps, and as little moved by strays.
    """
    middle = float(np.median(residual))
    u = (residual - middle) / (9 * max(_LEAST_SCALE, float(np.median(np.abs(residual - middle)))))
    d, v = (residual - middle)[np.abs(u) < 1], 1 - u[np.abs(u) < 1] ** 2
    below = float(np.sum(v * (5 * v - 4)))
    return max(_LEAST_SCALE, float(np.sqrt(len(residual) * np.sum(d**2 * v**4)) / max(abs(below), 1e-9)))


def _biweight(x: Floats, y: Floats, start: float, slope: float, use: Bools) -> tuple[float, float, Floats]:
    """The line of Tukey's biweight from a first guess, and the weight of each point."""
    weight = use.astype(float)
    for _ in range(20):
        residual = y - start - slope * x
        u = residual / (_TUKEY * _scale(residual[use]))
        weight = np.where(use, np.clip(1 - u**2, 0, None) ** 2, 0.0)
        before = (start, slope)
        slope, start = np.polyfit(x, y, 1, w=np.sqrt(weight))
        if abs(start - before[0]) + abs(slope - before[1]) < 1e-9:
            break
    return float(start), float(slope), weight


def _curve(x: Floats, y: Floats, weight: Floats, start: float, slope: float) -> tuple[Floats, Floats, bool]:
    """Instants of every beat from first to last, the curve at the taps, and whether it is better than the line."""
    every = np.arange(x[0], x[-1] + 1)
    line = start + slope * every
    alone = weight > 0
    if alone.sum() < 2 * _NEIGHBOURS:
        return line, start + slope * x, False
    local = _loess(x, y - start - slope * x, np.concatenate([every, x]))
    # each tap against its neighbours without itself, so that following alone doesn't look better
    apart = _loess(x, y - start - slope * x, x, without=True)
    off = y - start - slope * x
    wanders = _scale(off - apart) < _WANDERS * _scale(off)
    at_taps = start + slope * x + local[len(every) :]
    return (line + local[: len(every)] if wanders else line), at_taps, bool(wanders)


def _loess(x: Floats, y: Floats, at: Floats, *, without: bool = False) -> Floats:
    """Lines through neighbours under tricube weights, twice reweighted against outliers."""
    robust = np.ones(len(x))
    reach = float(_NEIGHBOURS)
    fitted = np.zeros(len(x))

    def run(points: Floats, leave: bool) -> Floats:
        d = np.abs(points[:, None] - x[None])
        w = np.clip(1 - (d / reach) ** 3, 0, None) ** 3 * robust[None]
        if leave:
            w = np.where(d < 1e-9, 0.0, w)
        s0, s1 = w.sum(axis=1) + 1e-12, (w * (x[None] - points[:, None])).sum(axis=1)
        s2 = (w * (x[None] - points[:, None]) ** 2).sum(axis=1)
        t0, t1 = (w * y[None]).sum(axis=1), (w * y[None] * (x[None] - points[:, None])).sum(axis=1)
        return np.asarray((s2 * t0 - s1 * t1) / (s0 * s2 - s1**2 + 1e-9))

    for _ in range(3):
        fitted = run(x, False)
        u = (y - fitted) / (6 * max(_LEAST_SCALE, float(np.median(np.abs(y - fitted)))))
        robust = np.clip(1 - u**2, 0, None) ** 2
    return run(at, without)


def _bar_lines(numbers: Ints, bar: int) -> Ints:
    """The beats tapped as downbeats without strays: each agrees with one beside it on bars of `bar` beats."""
    place = numbers % bar
    agrees = np.array(
        [np.any(np.delete(place[max(0, i - 1) : i + 2], min(i, 1)) == place[i]) for i in range(len(place))]
    )
    if len(place) < 2 or not agrees.any():
        return numbers[:1]
    return numbers[agrees]


def delay(taps: Floats, beats: Floats) -> tuple[float, float]:
    """How late a hand taps on a known beat: the middle of all delays and their scatter, s.

    Parameters
    ----------
    taps, beats : (n,), (k,) s

    Raises
    ------
    Refused
        Too few taps, or they don't keep to the beat.
    """
    validate(np.asarray(taps, float))
    period = float(np.median(np.diff(beats)))
    # a delay longer than half a beat would be read as tapping early
    off = np.array([float((t - beats)[np.abs(t - beats).argmin()]) for t in taps])
    middle = float(np.median(off))
    near = np.abs(off - middle) < period / 4
    scatter = _scale(off[near]) if near.any() else period
    if near.sum() < 0.7 * len(off) or scatter > 0.08:
        raise Refused("These taps don't keep to the click: tap once with every click, and try again.")
    return float(np.median(off[near])), scatter
