"""The fewest joined straight lines that keep points within a tube: polygonal approximation.

A breadth-first search over corners gives the fewest within the tube (after Imai & Iri, J. Inf. Process. 9, 1986); each
corner may lie up to half the tolerance beside its point. Then the corners move to where the points want them: by least
squares, and among places that are as good to a bar line.
"""

from __future__ import annotations

import numpy as np

from ..arrays import Bools, Floats

_OFFSETS = (0.0, -0.5, 0.5, -0.25, 0.25)
_SWEEPS = 4
_REACH = 16
_AS_GOOD = 1.05
_SLACK = 0.0005


def fewest_pins(t: Floats, n: Floats, tol: Floats, prefer: Bools | None = None) -> tuple[list[int], Floats]:
    """The fewest beats to pin so that the joining lines stay within `tol` of every beat.

    Parameters
    ----------
    t, n, tol
        Time (s), number and tolerance (s) of each beat, all (n,), ascending; a tolerance of 0 pins a beat where it is.
    prefer
        Beats that a pin should rather stand on, such as downbeats, where that costs nothing: (n,).

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
            stop = int(forced[np.searchsorted(forced, i, "right")]) if len(forced) and forced[-1] > i else last
            # spans of one thousand beats and more are looked at in growing pieces
            reach = 64
            while True:
                part = slice(i + 1, min(i + reach, stop) + 1)
                dn = n[part] - n[i]
                low = np.maximum.accumulate((t[part] - tol[part] - start) / dn)
                high = np.minimum.accumulate((t[part] + tol[part] - start) / dn)
                alive = low <= high + 1e-12
                if not alive.all() or reach >= stop - i:
                    break
                reach *= 4
            seen = int(np.argmin(alive)) if not alive.all() else len(alive)
            before_low = np.concatenate([[-np.inf], low])[:seen]
            before_high = np.concatenate([[np.inf], high])[:seen]
            for k, offset in enumerate(_OFFSETS):
                slope = (t[part][:seen] + offset * tol[part][:seen] - start) / dn[:seen]
                good = np.flatnonzero((slope >= before_low - 1e-12) & (slope <= before_high + 1e-12))
                # of the many beats in reach, later ones serve better: the last 48 are enough
                for g in good[-48:]:
                    goal = (i + 1 + int(g), k)
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
            settled = _settle(t, n, tol, knots)
            return _moved(t, n, tol, knots, found if settled is None else settled, prefer)
        level = list(reached)
    return [0, last], t[[0, last]]


def _settle(t: Floats, n: Floats, tol: Floats, knots: list[int]) -> Floats | None:
    """Least-squares times for the knots where these keep every beat within its tolerance; else None.

    The beats between knots say more about a pin than the stroke on it. Hat functions make the basis (linear splines):
    each beat hangs on two knots, so the normal equations have three diagonals.
    """
    from scipy.linalg import solveh_banded

    at = n[knots]
    k = np.clip(np.searchsorted(at, n, "right") - 1, 0, len(at) - 2)
    after = (n - at[k]) / (at[k + 1] - at[k])
    before = 1.0 - after
    weight = 1.0 / np.maximum(tol, 1e-7)
    w = weight.copy()
    # times from the middle: squares of large ones lose digits
    middle = float(t.mean())
    y = t - middle
    # plain least squares may leave the tube: then weigh what sticks out more, for a while
    for _ in range(40):
        v = w * w
        bands = np.zeros((2, len(at)))
        bands[1] = np.bincount(k, v * before**2, len(at)) + np.bincount(k + 1, v * after**2, len(at))
        bands[0, 1:] = np.bincount(k, v * before * after, len(at))[:-1]
        x = middle + solveh_banded(
            bands, np.bincount(k, v * before * y, len(at)) + np.bincount(k + 1, v * after * y, len(at))
        )
        ratio = np.abs(before * x[k] + after * x[k + 1] - t) * weight
        if ratio.max() <= 1.0:
            return np.asarray(x)
        w = np.clip(w * np.maximum(ratio, 0.3) ** 0.5, weight * 0.02, weight * 50)
    return None


def _moved(
    t: Floats, n: Floats, tol: Floats, knots: list[int], found: Floats, prefer: Bools | None
) -> tuple[list[int], Floats]:
    """Corners moved to where the squared error is least; of places that are as good, to a preferred one."""
    best, value = list(knots), found
    for _ in range(_SWEEPS):
        trial, x = list(best), value.copy()
        for k in range(1, len(trial) - 1):
            if tol[trial[k]] > 0:
                trial[k], x[k] = _corner(t, n, tol, trial[k - 1 : k + 2], x[k - 1 : k + 2], prefer)
        if trial == best:
            break
        settled = _settle(t, n, tol, trial)
        if settled is None:
            break
        best, value = trial, settled
    return best, value


def _corner(t: Floats, n: Floats, tol: Floats, knots: list[int], x: Floats, prefer: Bools | None) -> tuple[int, float]:
    """The best place and time for the middle one of three corners, the outer ones staying."""
    a, now, b = knots
    part = slice(a, b + 1)
    count, time, tube = n[part], t[part], tol[part]
    places = np.arange(max(a + 1, now - _REACH), min(b, now + _REACH + 1))
    corner = n[places][:, None]
    # the share of the corner's own time in each beat's
    left = (count[None] - n[a]) / (corner - n[a])
    right = (n[b] - count[None]) / (n[b] - corner)
    hat = np.where(count[None] <= corner, left, right)
    rest = np.where(count[None] <= corner, (1 - left) * x[0], (1 - right) * x[2])
    weight = 1 / np.maximum(tube, 1e-7) ** 2
    goal = time[None] - rest
    own = (weight * hat * goal).sum(axis=1) / (weight * hat * hat).sum(axis=1)
    off = goal - hat * own[:, None]
    inside = (np.abs(off) <= tube[None] * (1 + 1e-9)).all(axis=1)
    if not inside.any():
        return now, float(x[1])
    cost = np.where(inside, np.sqrt((off**2).mean(axis=1)), np.inf)
    good = cost <= cost.min() * _AS_GOOD + _SLACK
    if prefer is not None and (good & prefer[places]).any():
        good &= prefer[places]
    pick = int(np.where(good, cost, np.inf).argmin())
    return int(places[pick]), float(own[pick])
