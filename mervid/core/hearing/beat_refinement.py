"""From about right to right: each beat at the beginning of its attack, and steady stretches exactly steady.

Beats come from the pointer within some 20 ms. The neighbourhood votes first on where its attacks lie, then each beat
looks for its own. Stretches that a steady line explains (tested on attack times) become that line, and the line
carries the count through breaks and intros where nothing is struck. Elsewhere the pulse, not the jitter of single
notes, is kept: a beat is drawn a little towards its neighbours, never across a change of tempo.
"""

from __future__ import annotations

import attrs
import numpy as np

from ..arrays import Bools, Floats, Ints, Singles
from ..maths.regression import fit_line, median
from .features import ATTACK_RATE

_REACH, _OWN, _BESIDE = 45, 15, 6
_SPREAD = 18.0
_SHORTEST = 20
_GROUP = 8
_BENT = 0.0035
_LOOSE = 0.016
_CURVED = 0.0012
_CLEAR = 0.12


@attrs.frozen
class Run:
    """Beats `first` to `last` (inclusive) lie on a steady line: time = origin + period * index."""

    first: int
    last: int
    origin: float
    period: float

    def at(self, index: Ints | Floats) -> Floats:
        """Times of beats by index, s."""
        return self.origin + self.period * np.asarray(index, float)


def to_attacks(attack: Singles, times: Floats) -> tuple[Floats, Floats]:
    """Move beats to the beginning of their attacks: the neighbourhood's vote first, then each its own.

    Parameters
    ----------
    attack : (n,) strength, 1000 a second
    times : (k,) s

    Returns
    -------
    times, and how clear the attack found there is, 0 (none: the vote's place is kept) to 1
    """
    if not len(times) or not len(attack):
        return times, np.zeros(len(times))
    edge = _REACH + _OWN + 2
    a = np.pad(attack.astype(np.float64), (edge, edge + ATTACK_RATE))
    centre = np.clip(np.rint(times * ATTACK_RATE).astype(int), 0, len(attack) - 1) + edge
    lags = np.arange(-_REACH, _REACH + 1)
    seen = a[centre[:, None] + lags]
    seen = seen / np.maximum(seen.max(axis=1, keepdims=True), 0.15)
    votes = _blur(_blur(seen, 3.0, 1), 4.0, 0) * np.exp(-0.5 * (lags / _SPREAD) ** 2)
    centre = centre + lags[votes.argmax(axis=1)]
    near = np.arange(-_OWN, _OWN + 1)
    close = a[centre[:, None] + near] * np.exp(-0.5 * (near / 7.0) ** 2)
    clear = close.max(axis=1)
    centre = np.where(clear > _CLEAR, centre + near[close.argmax(axis=1)], centre)
    moved = (centre - edge) / ATTACK_RATE
    # two beats drawn to one attack: the later keeps its place in the count, not its move
    for i in np.flatnonzero(np.diff(moved) < 0.1) + 1:
        moved[i] = max(times[i], moved[i - 1] + 0.1)
    return moved, np.where(clear > _CLEAR, clear, 0.0)


def to_own_attacks(attack: Singles, times: Floats) -> tuple[Floats, Floats]:
    """Move beats that are right within some ms to the beginning of the attack beside them, where there is one.

    Returns
    -------
    times, and how clear the attack found there is, 0 (none: the time is kept) to 1
    """
    if not len(times) or not len(attack):
        return times, np.zeros(len(times))
    a = np.pad(attack.astype(np.float64), (_BESIDE, _BESIDE + ATTACK_RATE))
    base = np.clip(np.rint(times * ATTACK_RATE).astype(int), 0, len(attack) - 1)
    near = np.arange(-_BESIDE, _BESIDE + 1)
    close = a[base[:, None] + _BESIDE + near] * np.exp(-0.5 * (near / 3.0) ** 2)
    clear = close.max(axis=1)
    struck = clear > _CLEAR
    return np.where(struck, (base + near[close.argmax(axis=1)]) / ATTACK_RATE, times), np.where(struck, clear, 0.0)


def _blur(x: Floats, width: float, axis: int) -> Floats:
    from scipy.ndimage import gaussian_filter1d

    out: Floats = gaussian_filter1d(x, width, axis=axis, mode="constant", truncate=2.7)
    return out


def level_snares(times: Floats, clear: Floats, position: Ints, beats_per_bar: int) -> Floats:
    """Bring beats two and four into line where they are struck late (or early) throughout.

    Drummers and programmers lay the backbeat behind the pulse that kick and bass keep (common practice, no source).
    """
    if beats_per_bar != 4 or len(times) < 24:
        return times
    out = times.copy()
    i = np.arange(1, len(times) - 1)
    lean = times[1:-1] - (times[:-2] + times[2:]) / 2
    known = (clear[1:-1] > 0) & (clear[:-2] > 0) & (clear[2:] > 0) & (np.abs(lean) < 0.04)
    for a in range(0, len(times), 64):
        here = known & (i >= a - 32) & (i < a + 96)
        back, front = here & (position[1:-1] % 2 == 1), here & (position[1:-1] % 2 == 0)
        if back.sum() < 8 or front.sum() < 8:
            continue
        late = float(np.median(lean[back]) - np.median(lean[front])) / 2
        spread = float(np.median(np.abs(lean[back] - np.median(lean[back]))))
        if abs(late) > max(0.003, 0.6 * spread):
            part = np.arange(a, min(len(times), a + 64))
            out[part[position[part] % 2 == 1]] -= late
    return out


def _group_medians(x: Floats, known: Bools) -> Floats:
    """Median of the known values in each group of eight that has four of them or more."""
    groups = np.full(-(-len(x) // _GROUP) * _GROUP, np.inf)
    groups[: len(x)] = np.where(known, x, np.inf)
    ordered = np.sort(groups.reshape(-1, _GROUP), axis=1)
    count = np.isfinite(ordered).sum(axis=1)
    ordered, count = ordered[count >= 4], count[count >= 4]
    row = np.arange(len(count))
    return np.asarray((ordered[row, (count - 1) // 2] + ordered[row, count // 2]) / 2)


def _holds(residual: Floats, clear: Floats) -> bool:
    """Is what is left over after a line only the players' jitter, without any bend?"""
    known = clear > 0
    r = residual[known]
    if len(r) < max(8, 0.35 * len(residual)):
        return False
    if median(np.abs(r)) > _LOOSE / 2 or (np.abs(r) < 0.02).mean() < 0.8:
        return False
    spread = 1.48 * median(np.abs(r - median(r))) + 0.0005
    allowed = _BENT + 1.25 * spread / np.sqrt(_GROUP)
    for end in (residual[:3][known[:3]], residual[-3:][known[-3:]]):
        if len(end) and np.abs(end).max() > max(0.01, 3 * spread):
            return False
    if np.abs(_group_medians(residual, known)).max(initial=0) > allowed:
        return False
    # a slow bend: is there more curve, of one turn or of two, than jitter alone would give?
    u = np.linspace(-1, 1, len(residual))[known]
    jitter = median(np.abs(np.diff(r, 2))) * 1.48 / np.sqrt(6) + 0.0003
    for shape in (u**2 - 1 / 3, u**3 - 0.6 * u):
        power = float(shape @ shape)
        if abs(float(shape @ np.clip(r, -0.02, 0.02))) / power > _CURVED + 2.5 * jitter / np.sqrt(power):
            return False
    return True


def steady_runs(times: Floats, clear: Floats) -> list[Run]:
    """The stretches that one steady line explains, longest first, none overlapping, in order of time.

    From every few beats a line is grown as far as it holds; the longest is taken, then the longest of what is left.
    """
    n = len(times)
    weights = np.maximum(clear, 0.02)
    index = np.arange(n, dtype=float)
    out: list[Run] = []

    def grow(first: int, last: int, lo: int, hi: int) -> tuple[int, int] | None:
        def good(a: int, b: int) -> bool:
            part = slice(a, b + 1)
            o, p = fit_line(index[part], times[part], weights[part])
            return _holds(times[part] - o - p * index[part], clear[part])

        if not good(first, last):
            return None
        for step in (64, 16, 4, 1):
            moving = True
            while moving:
                moving = False
                b = min(hi, last + step)
                if b > last and good(first, b):
                    last, moving = b, True
                a = max(lo, first - step)
                if a < first and good(a, last):
                    first, moving = a, True
        return first, last

    grown: dict[int, tuple[int, int] | None] = {}

    def grow_within(a: int, lo: int, hi: int) -> tuple[int, int] | None:
        # what grew here before is still the answer where the new limits don't cut it
        known = grown.get(a, (-1, n))
        if known is None or (lo <= known[0] and known[1] <= hi):
            return known
        grown[a] = grow(a, a + _SHORTEST - 1, lo, hi)
        return grown[a]

    def search(lo: int, hi: int) -> None:
        if hi - lo + 1 < _SHORTEST:
            return
        best: tuple[int, int] | None = None
        a = lo
        while a + _SHORTEST - 1 <= hi:
            if best and best[0] <= a <= best[1] - _SHORTEST // 2:
                a = best[1] - _SHORTEST // 2 + 1
                continue
            found = grow_within(a, lo, hi)
            if found and (best is None or found[1] - found[0] > best[1] - best[0]):
                best = found
            a += 6
        if best is None:
            return
        part = slice(best[0], best[1] + 1)
        o, p = fit_line(index[part], times[part], weights[part])
        out.append(Run(best[0], best[1], o, p))
        search(lo, best[0] - 1)
        search(best[1] + 1, hi)

    search(0, n - 1)
    return sorted(out, key=lambda r: r.first)


def calm(times: Floats, clear: Floats, fixed: Bools) -> Floats:
    """Put beats without an attack of their own on the line of their neighbours, unless the tempo turns there.

    So go beats whose attack is faint and far off that line: it belongs to some other note.

    Lines through four neighbours before, around and after a beat are compared; the one that its own points fit best
    is believed, so at a step the side that belongs to the beat is used.
    """
    n = len(times)
    if n < 6:
        return times
    guesses = np.full((3, n), np.nan)
    rough = np.full((3, n), np.inf)
    for g, offsets in enumerate(((-4, -3, -2, -1), (-2, -1, 1, 2), (1, 2, 3, 4))):
        design = np.stack([np.ones(4), np.array(offsets, float)], axis=1)
        solve = np.linalg.pinv(design)
        i = np.arange(max(0, -offsets[0]), n - max(0, offsets[-1]))
        y = times[i[:, None] + np.array(offsets)]
        fitted = y @ solve.T
        guesses[g, i] = fitted[:, 0]
        # neighbours on both sides are worth more than a guess from one
        rough[g, i] = np.abs(y - fitted @ design.T).max(axis=1) + (0.0 if g == 1 else 0.002)
    best = rough.argmin(axis=0)
    guess = guesses[best, np.arange(n)]
    away = np.abs(guess - times)
    usual = float(np.median(clear[clear > 0])) if (clear > 0).any() else 1.0
    stray = (clear == 0) | ((clear < 0.5 * usual) & (away > 0.015))
    move = stray & ~fixed & np.isfinite(guess) & (away < 0.04)
    return np.where(move, guess, times)
