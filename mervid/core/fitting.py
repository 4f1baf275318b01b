"""From heard beats to a grid: one steady tempo, or the fewest pins that follow the recording.

Following is polygonal approximation within a tube (after Imai & Iri, J. Inf. Process. 9, 1986): a polyline from
pin to pin that passes every trusted beat within its tolerance. Pins sit on beats; each may lie up to
half the tolerance beside what was heard there, so that one early or late stroke needs no pin of its own.
A breadth-first search over pins gives the fewest for that choice of places.
"""

from __future__ import annotations

import warnings
from typing import Any

import attrs
import numpy as np
from numpy.typing import NDArray

from .errors import Refused
from .grid import Grid, Pin
from .precision import weighted_line
from .tracker import Heard

Floats = NDArray[np.float64]
Zones = tuple[tuple[float, float], ...]

TIGHT_MS, LOOSE_MS = 8.0, 15.0
LEAST_BEATS = 8
_OFFSETS = (0.0, -0.5, 0.5, -0.25, 0.25)


@attrs.frozen
class Tolerance:
    """How far a beat may stray from the grid, in ms, in the mix zones and elsewhere."""

    tight: float = TIGHT_MS
    loose: float = LOOSE_MS

    def at(self, times: Floats, zones: Zones) -> Floats:
        """Tolerance in ms that holds at each of `times` (s)."""
        out = np.full(len(times), self.loose)
        for a, b in zones:
            out[(times >= a) & (times <= b)] = self.tight
        return out


def stray(times: Floats, numbers: NDArray[Any], *, limit: float = 0.035) -> NDArray[np.bool_]:
    """Which beats can't be trusted: they fit neither the line through their neighbours nor one that ends beside them.

    Each beat is predicted three ways: by the median of the lines that join its kth neighbours left and right
    (k = 1 to 4), and by extending the four beats before it and the four after it. A lone wrong beat fails all three;
    a beat at a step of the tempo fits one side.
    """
    n = len(times)
    if n < 10:
        return np.zeros(n, bool)

    def through(left: NDArray[np.int64], right: NDArray[np.int64]) -> Floats:
        ok = (left >= 0) & (right >= 0) & (left < n) & (right < n)
        a, b = np.clip(left, 0, n - 1), np.clip(right, 0, n - 1)
        slope = (times[b] - times[a]) / np.where(ok, numbers[b] - numbers[a], 1)
        return np.where(ok, times[a] + slope * (numbers - numbers[a]), np.nan)

    i = np.arange(n)
    ways = [
        [through(i - k, i + k) for k in (1, 2, 3, 4)],
        [through(i - k, i - m) for k, m in ((3, 1), (4, 1), (4, 2))],
        [through(i + m, i + k) for k, m in ((3, 1), (4, 1), (4, 2))],
    ]
    with warnings.catch_warnings():
        # at the ends one side has no neighbours: a column of NaN is expected there
        warnings.simplefilter("ignore", RuntimeWarning)
        off = np.array([np.abs(times - np.nanmedian(way, axis=0)) for way in ways])
    nearest = np.nanmin(off, axis=0)
    spread = 1.4826 * float(np.nanmedian(off[0])) + 0.002
    bad = nearest > min(limit, max(4 * spread, 0.012))
    return np.asarray(bad if bad.mean() < 0.4 else np.zeros(n, bool))


def line(times: Floats, numbers: Floats, weights: Floats | None = None) -> tuple[float, float]:
    """Robust straight line through (number, time): first beat in s and period in s (Huber, reweighted 20 times)."""
    w = np.ones(len(times)) if weights is None else weights.copy()
    base = w.copy()
    start = period = 0.0
    for _ in range(20):
        start, period = weighted_line(numbers, times, w)
        r = np.abs(times - start - period * numbers)
        scale = max(1.4826 * float(np.median(r)), 1e-4)
        w = base * np.minimum(1.0, 1.345 * scale / np.maximum(r, 1e-9))
    return start, period


def check(heard: Heard) -> None:
    """Raise `Refused` when too few beats (under 8) were heard to fit anything to."""
    if len(heard.times) < LEAST_BEATS:
        raise Refused("Too few beats were heard to fit a grid to. Type a tempo, or set pins by hand.")


def count_like(grid: Grid | None, heard: Heard) -> Floats:
    """The heard beats' numbers in the counting of `grid`: same first downbeat, same level (half, double)."""
    numbers = heard.numbers.astype(float)
    if grid is None or len(heard.times) < 2:
        return numbers
    _, period = line(heard.times, numbers)
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
    start, period = line(heard.times[trusted], numbers[trusted], heard.confidence[trusted] + 0.05)
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
    t, n = heard.times[keep], numbers[keep]
    mark = like.meter if like else heard.meter
    return Grid(pins_through(t, n, tolerance.at(t, zones) / 1000, hand), mark)


def pins_through(t: Floats, n: NDArray[Any], tol: Floats, hand: list[Pin]) -> tuple[Pin, ...]:
    """The fewest pins that keep beats within tolerance and pass through the hand pins.

    Parameters
    ----------
    t, n, tol : time (s), number and tolerance (s) of each beat, all (k,), ascending
    """
    for p in hand:
        # a hand pin outvotes what was heard beside it, and what would come before it but was heard after it
        apart = (np.abs(n - p.beat) > 0.75) & ((n - p.beat) * (t - p.time) > 0)
        t, n, tol = t[apart], n[apart], tol[apart]
        i = int(np.searchsorted(n, p.beat))
        t, n, tol = (
            np.insert(t, i, p.time),
            np.insert(n, i, p.beat),
            np.insert(tol, i, 0.0),
        )
    ordered = np.concatenate([[True], np.diff(t) > 0]) if len(t) else np.zeros(0, bool)
    t, n, tol = t[ordered], n[ordered], tol[ordered]
    fixed = {p.beat: p for p in hand}
    knots, at = fewest_pins(t, n, tol)
    return tuple(fixed.get(float(n[k]), Pin(float(x), float(n[k]))) for k, x in zip(knots, at, strict=True))


def fewest_pins(t: Floats, n: Floats, tol: Floats) -> tuple[list[int], Floats]:
    """The fewest beats to pin so that the joining lines stay within `tol` of every beat.

    Parameters
    ----------
    t, n, tol
        Time (s), number and tolerance (s) of each beat, all (n,), ascending; a tolerance of 0 pins a beat where it is.

    Returns
    -------
    Indices of the pinned beats, and where each pin lies, s.
    """
    last = len(t) - 1
    forced = np.flatnonzero(tol == 0)
    # state: (beat, offset); breadth first, each state expanded once
    parent: dict[tuple[int, int], tuple[int, int] | None] = {}
    level = []
    for o in range(len(_OFFSETS)):
        if o == 0 or tol[0] > 0:
            parent[(0, o)] = None
            level.append((0, o))
    while level:
        reached: dict[tuple[int, int], tuple[float, tuple[int, int]]] = {}
        for state in level:
            i, o = state
            start = t[i] + _OFFSETS[o] * tol[i]
            j = np.arange(i + 1, last + 1)
            stop = forced[np.searchsorted(forced, i, "right")] if len(forced) and forced[-1] > i else last
            j = j[: stop - i]
            # spans of one thousand beats and more are looked at in growing pieces
            reach = 64
            while True:
                part = j[:reach]
                dn = n[part] - n[i]
                low = np.maximum.accumulate((t[part] - tol[part] - start) / dn)
                high = np.minimum.accumulate((t[part] + tol[part] - start) / dn)
                alive = low <= high + 1e-12
                if not alive.all() or reach >= len(j):
                    break
                reach *= 4
            seen = int(np.argmin(alive)) if not alive.all() else len(part)
            before_low = np.concatenate([[-np.inf], low])[:seen]
            before_high = np.concatenate([[np.inf], high])[:seen]
            for k, offset in enumerate(_OFFSETS):
                slope = (t[part[:seen]] + offset * tol[part[:seen]] - start) / dn[:seen]
                good = np.flatnonzero((slope >= before_low - 1e-12) & (slope <= before_high + 1e-12))
                # of the many beats in reach, later ones serve better: the last 48 are enough
                for g in good[-48:]:
                    goal = (int(part[g]), k)
                    if (k and tol[goal[0]] == 0) or goal in parent:
                        continue
                    cost = abs(offset)
                    if goal not in reached or cost < reached[goal][0]:
                        reached[goal] = (cost, state)
        done = sorted((c, s) for s, (c, _) in reached.items() if s[0] == last)
        parent.update({s: p for s, (_, p) in reached.items()})
        if done:
            chain: list[tuple[int, int]] = []
            at: tuple[int, int] | None = done[0][1]
            while at is not None:
                chain.append(at)
                at = parent[at]
            knots = [i for i, _ in chain[::-1]]
            found = np.array([t[i] + _OFFSETS[o] * tol[i] for i, o in chain[::-1]])
            return knots, _settle(t, n, tol, knots, found)
        level = list(reached)
    return [0, last], t[[0, last]]


def _settle(t: Floats, n: Floats, tol: Floats, knots: list[int], found: Floats) -> Floats:
    """Least-squares times for the knots where these keep every beat within its tolerance; else `found`, which does.

    The beats between knots say more about a pin than the stroke on it. Hat functions make the basis (linear splines).
    """
    at = n[knots]
    basis = np.array([np.interp(n, at, np.eye(len(at))[k]) for k in range(len(at))]).T
    weight = 1.0 / np.maximum(tol, 1e-7)
    w = weight.copy()
    # plain least squares may leave the tube: then weigh what sticks out more, for a while
    for _ in range(40):
        x, *_ = np.linalg.lstsq(basis * w[:, None], t * w, rcond=None)
        ratio = np.abs(basis @ x - t) * weight
        if ratio.max() <= 1.0:
            return np.asarray(x)
        w = np.clip(w * np.maximum(ratio, 0.3) ** 0.5, weight * 0.02, weight * 50)
    return found
