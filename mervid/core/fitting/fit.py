"""From heard beats to a grid: one steady tempo, or the fewest pins that follow the recording.

Following joins pins by straight lines (see `polyline`) that keep close to the pulse under the heard beats (see
`pulse`), as two tracks stay together by it, and every trusted beat within its tolerance. Pins sit on beats, on bar
lines where that costs nothing.
"""

from __future__ import annotations

import warnings
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..arrays import Bools, Floats, Ints
from ..errors import Refused
from ..hearing.heard import Heard
from ..maths.polyline import fewest_pins
from ..maths.regression import huber_line
from ..model.beatgrid import Grid, Pin
from ..model.tolerance import Tolerance, Zones
from .beat_numbers import own_beats
from .pulse import smooth

LEAST_BEATS = 8
CLOSE, CLOSER = 0.25, 0.12
"""Share of the tolerance within which a grid keeps to the pulse: 2 ms of 8, 3.8 of 15; closer, where what was heard is
the pulse itself, 1 ms of 8. Of pairs of rendered songs .56 stay within 12 ms at .25 (36 pins a song), .60 at .12 (57),
.65 where every beat has its pin (215)."""
_RAMP, _EVEN = 2, 0.008
"""So many beats in a row may lie on a ramp; steps may turn back by so many s."""
FIRST = 0.002
"""s within which the first downbeat is kept, where the first cue is put."""


def stray(times: Floats, numbers: NDArray[Any], *, limit: float = 0.035) -> Bools:
    """Which beats can't be trusted: they lie off the line through their neighbours on both sides, and on either.

    Each beat is compared with three lines (Theil, 1950; Sen, JASA 1968: the median of all slopes, so that other wrong
    beats don't matter), through the six beats around it on each side, the eight before and the eight after. A lone
    wrong beat misses all three; a beat at a step of the tempo fits one side. Looked at twice, the second time without
    what was found.
    """
    n = len(times)
    if n < 10:
        return np.zeros(n, bool)
    bad = np.zeros(n, bool)
    for _ in range(3):
        off = np.array([_off_line(times, numbers, ~bad, offsets) for offsets in _NEIGHBOURS])
        with warnings.catch_warnings():
            # a beat may have no neighbours on one side
            warnings.simplefilter("ignore", RuntimeWarning)
            nearest = np.nanmin(off, axis=0)
        spread = 1.4826 * float(np.nanmedian(off[0])) + 0.002
        bad = nearest > min(limit, max(4 * spread, 0.012))
        if bad.mean() >= 0.4:
            return np.zeros(n, bool)
    return np.asarray(bad & ~_on_ramps(times, numbers, bad))


def _on_ramps(times: Floats, numbers: NDArray[Any], bad: Bools) -> Bools:
    """Which of the beats that lie off every line do so because the tempo goes on changing there.

    Beats that are heard beside the true ones leave them and come back, so that steps grow and shrink; along a ramp
    they only grow, or only shrink, but for the unevenness of each.
    """
    out = np.zeros(len(bad), bool)
    step = np.diff(times) / np.diff(numbers)
    edges = np.flatnonzero(np.diff(np.concatenate([[False], bad, [False]]).astype(int)))
    for a, b in edges.reshape(-1, 2).tolist():
        # the steps from the second beat before to the second after
        here = step[max(0, a - 2) : b + 1]
        turns = np.diff(here)
        if b - a >= _RAMP and (turns.min() > -_EVEN or turns.max() < _EVEN):
            out[a:b] = True
    return out


_NEIGHBOURS = tuple(np.array([k for k in range(a, b + 1) if k]) for a, b in ((-6, 6), (-4, 4), (-6, -1), (1, 6)))


def _off_line(times: Floats, numbers: NDArray[Any], good: Bools, offsets: Ints) -> Floats:
    """How far each beat lies from the line through its good neighbours at `offsets`, s; NaN where there are too few."""
    n = len(times)
    i = np.arange(n)[:, None] + offsets[None]
    inside = (i >= 0) & (i < n)
    i = np.clip(i, 0, n - 1)
    known = inside & good[i]
    x = (numbers[i] - numbers[:, None]).astype(float)
    y = np.where(known, times[i] - times[:, None], np.nan)
    a, b = np.triu_indices(len(offsets), 1)
    with warnings.catch_warnings():
        warnings.simplefilter("ignore", RuntimeWarning)
        slope = np.nanmedian((y[:, b] - y[:, a]) / (x[:, b] - x[:, a]), axis=1)
        off = np.abs(np.nanmedian(y - slope[:, None] * x, axis=1))
    return np.where(known.sum(axis=1) >= 3, off, np.nan)


def check(heard: Heard) -> None:
    """Raise `Refused` when too few beats (under 8) were heard to fit anything to."""
    if len(heard.times) < LEAST_BEATS:
        raise Refused("Too few beats were heard to fit a grid to. Type a tempo, or set pins by hand.")


def closeness(heard: Heard) -> float:
    """The share of the tolerance within which a grid keeps to these beats."""
    return CLOSER if heard.pulse else CLOSE


def count_like(grid: Grid | None, heard: Heard) -> Floats:
    """The heard beats' numbers in the counting of `grid`: same first downbeat, same level (half, double)."""
    numbers = heard.numbers.astype(float)
    if grid is None or len(heard.times) < 2:
        return numbers
    _, period = huber_line(heard.times, numbers)
    ratio = float(2.0 ** np.round(np.log2(grid.tempo_overall() * period / 60)))
    # at half level a heard beat may fall between two grid beats: keep the count on the heard ones
    step = min(1.0, ratio)
    hand = [p for p in grid.pins if p.hand]
    if not hand:
        # one tempo through a recording that changes its own may be beats away from it at any one place, but not at most
        return numbers * ratio + step * round(float(np.median(grid.beat_at(heard.times) - numbers * ratio)) / step)
    j = int(np.argmin(np.abs(heard.times - hand[0].time)))
    here = hand[0].beat + np.round((float(grid.beat_at(heard.times[j])) - hand[0].beat) / step) * step
    return np.asarray((numbers - numbers[j]) * ratio + here)


def fit_steady(
    heard: Heard,
    *,
    like: Grid | None = None,
) -> Grid:
    """The one tempo that fits the heard beats best; it passes through a lone hand pin of `like`.

    Raises
    ------
    Refused
        Fewer than 8 beats were heard, or `like` has several hand pins.
    """
    check(heard)
    numbers = count_like(like, heard)
    trusted = ~stray(heard.times, heard.numbers)
    hand = [p for p in like.pins if p.hand] if like else []
    if len(hand) > 1:
        raise Refused(
            f"{len(hand)} hand pins stand, and one steady tempo can pass through only one of them. "
            "Remove the others, or follow the recording."
        )
    start, period = huber_line(heard.times[trusted], numbers[trusted], heard.confidence[trusted] + 0.05)
    mark = like.meter if like else heard.meter
    if hand:
        anchor = hand[0]
        start = anchor.time - period * anchor.beat
        pins = sorted(
            [anchor, Pin(start + period * numbers[-1], numbers[-1])],
            key=lambda p: p.time,
        )
        if pins[1].beat - pins[0].beat < 1:
            pins = [Pin(start + period * numbers[0], numbers[0]), anchor]
        return Grid(tuple(pins), mark)
    lo, hi = float(np.floor(numbers[0])), float(np.ceil(numbers[-1]))
    return Grid((Pin(start + period * lo, lo), Pin(start + period * hi, hi)), mark)


def follow(
    heard: Heard,
    *,
    tolerance: Tolerance = Tolerance(),
    zones: Zones = (),
    like: Grid | None = None,
) -> Grid:
    """The fewest pins that keep every trusted heard beat within tolerance; hand pins of `like` stay as they are.

    Parameters
    ----------
    zones
        Mix zones as (start, stop) in s, held to the tighter tolerance.

    Raises
    ------
    Refused
        Fewer than 8 beats were heard.
    """
    check(heard)
    numbers = count_like(like, heard)
    keep = ~stray(heard.times, heard.numbers)
    hand = [p for p in like.pins if p.hand] if like else []
    if like is not None and any(abs(float(np.interp(p.time, heard.times, numbers)) - p.beat) > 0.5 for p in hand):
        # hands took beats away or put some in, as at a pause: beats are counted as the grid counts them
        numbers = own_beats(heard.times, like)
        keep &= np.concatenate([[True], np.diff(np.maximum.accumulate(numbers)) > 0])
    t, n = heard.times[keep], numbers[keep]
    mark = like.meter if like else heard.meter
    downs = np.isin(t, heard.downbeats)
    first = float(heard.downbeats[0]) if len(heard.downbeats) else None
    most = tolerance.at(t, zones) / 1000
    close = closeness(heard)
    return Grid(pins_along(t, n, heard.confidence[keep], most, hand, downs, first=first, close=close), mark)


def pins_along(
    t: Floats,
    n: NDArray[Any],
    confidence: Floats,
    most: Floats,
    hand: list[Pin],
    downs: Bools,
    *,
    first: float | None = None,
    close: float,
) -> tuple[Pin, ...]:
    """The fewest pins that keep close to the pulse under the beats and the beats within tolerance.

    Parameters
    ----------
    t, n, confidence, most : time (s), number, chance and tolerance (s) of each beat, all (k,), ascending
    hand : pins that are met
    downs : which beats begin a bar, (k,)
    first : the first downbeat, s, which is held
    close : share of the tolerance within which the pulse is kept
    """
    near, most = close * most, most.copy()
    if first is not None:
        held = t == first
        near[held] = most[held] = np.minimum(FIRST, near[held])
    target = np.clip(smooth(t, n, confidence), t - (most - near), t + (most - near))
    return pins_through(target, n, near, hand, downs)


def pins_through(t: Floats, n: NDArray[Any], tol: Floats, hand: list[Pin], downs: Bools) -> tuple[Pin, ...]:
    """The fewest pins that keep beats within tolerance and pass through the hand pins.

    Parameters
    ----------
    t, n, tol : time (s), number and tolerance (s) of each beat, all (k,), ascending
    downs : which beats begin a bar, (k,)
    """
    for p in hand:
        # a hand pin outvotes what was heard beside it, and what would come before it but was heard after it
        apart = (np.abs(n - p.beat) > 0.75) & ((n - p.beat) * (t - p.time) > 0)
        t, n, tol, downs = t[apart], n[apart], tol[apart], downs[apart]
        i = int(np.searchsorted(n, p.beat))
        t, n, tol = np.insert(t, i, p.time), np.insert(n, i, p.beat), np.insert(tol, i, 0.0)
        downs = np.insert(downs, i, False)
    ordered = np.concatenate([[True], np.diff(t) > 0]) if len(t) else np.zeros(0, bool)
    t, n, tol, downs = t[ordered], n[ordered], tol[ordered], downs[ordered]
    fixed = {p.beat: p for p in hand}
    knots, at = fewest_pins(t, n, tol, downs)
    return tuple(fixed.get(float(n[k]), Pin(float(x), float(n[k]))) for k, x in zip(knots, at, strict=True))
