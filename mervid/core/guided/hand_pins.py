"""Beats that pass through hand pins.

A pin beside a beat moves it, and those beside it that were heard as far off. A pin between two beats says that the
count was off the beat: it moves by half a beat as far as it went on evenly, at most to the next pin. Where the count
had come to the other side, by one beat or over several that were squeezed or stretched, the error may end, too: there
as many beats are put as fit.
"""

from __future__ import annotations

import itertools

import numpy as np
from scipy.ndimage import median_filter

from ..arrays import Floats
from ..hearing import bar_pointer, slides
from ..hearing.evidence import Evidence
from ..hearing.features import ATTACK_RATE
from .beats import APART, Beats, joined, precise

_OFF, _WIDE = 0.3, 0.1
_BROKEN = 0.2
_NEAR = 6
_MISSED = 0.7
_LEAST_BARS = 16
_AS_CLEAR = 0.5
_BESIDE = 0.008
_AS_WELL = 0.7
_STRUCK = 0.12
_REACH_OWN = 0.005


def pinned(beats: Beats, pins: tuple[float, ...], evidence: Evidence) -> Beats:
    """Beats that pass through the hand pins; each gap between two is worked out from these alone."""
    inside = [p for p in pins if len(beats.times) > 3 and beats.times[0] - 0.5 < p < beats.times[-1] + 0.5]
    if not inside:
        return beats
    for p in inside:
        beats = _completed(beats, p)
    times = beats.times
    index = np.interp(inside, times, np.arange(len(times)))
    off = index - np.round(index)
    wide = [bool(x) for x in np.abs(off) > _WIDE]
    off = np.where(np.abs(off) < _OFF, 0.0, off % 1.0)
    own = [int(i) for i in np.where(off == 0, np.round(index), np.floor(index))]
    edges = [-1, *own, len(times)]
    shifts = [float(off[0]), *(float(x) for x in off), float(off[-1])]
    attack = evidence.attack_strength() if off.any() else np.zeros(0, np.float32)
    breaks = _breaks(times)
    step = np.append(np.diff(times), times[-1] - times[-2])
    for i, _ in breaks:
        # a beat before a break moves by what came before it
        step[i] = step[max(0, i - 1)]
    new, opens = times.copy(), beats.opens.copy()
    crossed: list[tuple[int, int]] = []
    for k, (a, b) in enumerate(itertools.pairwise(edges)):
        gap = slice(a + 1, b)
        before = shifts[k]
        after = shifts[k + 1]
        first, last = k == 0, k == len(edges) - 2
        moves = np.zeros(b - a - 1)
        if (before or after) and b - a > 1:
            moves = shift = _shift(breaks, a + 1, b, before, after, outer=first or last, backward=first)
            moved = times[gap] + shift * step[gap]
            changed = np.flatnonzero(shift)
            if len(changed) > 3:
                moved[changed] = precise(attack, moved[changed])
            new[gap] = moved
            if len(changed) >= _LEAST_BARS and evidence.strengths is not None:
                # half a beat later, other beats are the strong ones
                part = slice(a + 1 + int(changed[0]), a + 2 + int(changed[-1]))
                opens[part] = bar_pointer.bars(evidence.strengths, new[part])[0] == 0
        # by which beat each side of a break goes, the pins on either side included; one in a break parts it in two
        on = np.concatenate([[before], moves, [after]]) != 0
        for i, j in breaks:
            left, right = max(i, a, 0), min(j, b, len(times) - 1)
            parted = (i < a < j and wide[k - 1]) or (i < b < j and wide[min(k, len(own) - 1)])
            if left < right and (parted or on[left - a] != on[right - a]):
                crossed.append((left, right))
    for k, (i, p, moved) in enumerate(zip(own, inside, off, strict=True)):
        lost = moved or any(a < i < b for a, b in breaks)
        # a pin beside its attack, set freely, says where the grid goes, not what is heard
        if lost or _struck(evidence, p) >= _AS_CLEAR * _struck(evidence, float(new[i])):
            if not lost and abs(p - times[i]) >= _BESIDE:
                for order in (range(i - 1, edges[k], -1), range(i + 1, edges[k + 2])):
                    _draw_along(new, times, order, p - float(times[i]), evidence)
            new[i] = p
    confidence = beats.confidence.copy()
    confidence[own] = 0.98
    ok = np.concatenate([[True], np.diff(np.maximum.accumulate(new)) > APART])
    ok[own] = True
    for i in own:
        # what is heard right beside a pin is the pin
        for j in (i - 1, i + 1):
            if 0 <= j < len(new) and j not in own and abs(new[j] - new[i]) < APART:
                ok[j] = False
    for i, j in crossed:
        ok[i + 1 : j] = False
    whole = Beats(new[ok], beats.step[ok], opens[ok], confidence[ok])
    for i, j in crossed:
        whole = _filled(whole, float(new[i]), float(new[j]))
    return whole


def _completed(beats: Beats, pin: float) -> Beats:
    """With a beat at the pin where it lies about a beat or more from either neighbour: there one was missed."""
    i = int(np.searchsorted(beats.times, pin))
    if not 0 < i < len(beats.times):
        return beats
    before, after = pin - float(beats.times[i - 1]), float(beats.times[i]) - pin
    usual = float(np.median(np.diff(beats.times[max(0, i - _NEAR) : i + _NEAR])))
    if min(before, after) < _MISSED * usual:
        return beats
    count = max(2, int(beats.step[i]))
    here = int(np.clip(round(count * before / (before + after)), 1, count - 1))
    step = np.insert(beats.step, i, here)
    step[i + 1] = count - here
    return Beats(
        np.insert(beats.times, i, pin), step, np.insert(beats.opens, i, False), np.insert(beats.confidence, i, 0.5)
    )


def _filled(beats: Beats, start: float, stop: float) -> Beats:
    """As many beats between two that follow each other as fit there, evenly; bars go on."""
    a, b = beats.within(start, stop)
    step = np.diff(beats.times)
    n = round((stop - start) / float(np.median(np.r_[step[max(0, a - _NEAR) : a], step[b - 1 : b - 1 + _NEAR]])))
    if n < 2 or b - a != 2:
        return beats
    opens = np.flatnonzero(beats.opens[: a + 1])
    bar = int(np.median(np.diff(np.flatnonzero(beats.opens)))) if beats.opens.sum() > 1 else 0
    count = a - opens[-1] + np.arange(1, n) if len(opens) and bar else np.ones(n - 1, np.int64)
    new = Beats(
        np.linspace(start, stop, n + 1)[1:-1],
        np.ones(n - 1, np.int64),
        count % bar == 0 if bar else np.zeros(n - 1, bool),
        np.full(n - 1, float(min(beats.confidence[a], beats.confidence[b - 1]))),
    )
    return joined([beats.part(0, a + 1), new, beats.part(b - 1, len(beats.times))])


def _draw_along(new: Floats, times: Floats, order: range, by: float, evidence: Evidence) -> None:
    """Beats beside one that a hand moved `by` s go along as long as they, too, are struck there as clearly.

    So one word is enough where the hearing held on to another part of the hits for a while.
    """
    good: list[bool] = []
    at: list[float] = []
    for j in order:
        place = float(times[j]) + by
        there = _struck(evidence, place)
        good.append(there >= _STRUCK and there >= _AS_WELL * _struck(evidence, float(times[j])))
        if good[-1]:
            # on its own attack; the way from what was heard may change slowly
            a = max(0, round((place - _REACH_OWN) * ATTACK_RATE))
            part = evidence.attack[a : round((place + _REACH_OWN) * ATTACK_RATE) + 1]
            place = (a + int(part.argmax())) / ATTACK_RATE
            by += (place - float(times[j]) - by) / 2
        at.append(place)
        if (len(good) >= 4 and sum(good[-4:]) < 2) or abs(by) < _BESIDE / 2:
            break
    while good and not good[-1]:
        good.pop()
    if sum(good[:4]) >= 3:
        new[list(order)[: len(good)]] = at[: len(good)]


def _struck(evidence: Evidence, time: float) -> float:
    """The strongest attack within 3 ms of `time`, 0 to 1; never quite 0."""
    i = max(0, round(time * ATTACK_RATE))
    return float(evidence.attack[max(0, i - 3) : i + 4].max(initial=1)) / 255


def _shift(
    breaks: list[tuple[int, int]], a: int, b: int, before: float, after: float, *, outer: bool, backward: bool
) -> Floats:
    """By how many beats each beat from `a` to `b` moves; `before` and `after` hold at the pins on either side."""
    n = b - a
    if not outer and before and after:
        return np.linspace(before, after, n)
    out = np.zeros(n)
    if (outer and not backward) or (not outer and before):
        # to the first break, or out of the one in which the pin lies
        end = min((max(i + 1, a) for i, j in breaks if j > a - 1 and i < b), default=b if outer else (a + b) // 2)
        out[: end - a] = before
    else:
        begin = max((min(j, b) for i, j in breaks if i < b and j > a - 1), default=a if outer else (a + b) // 2)
        out[begin - a :] = after
    return out


def _breaks(times: Floats) -> list[tuple[int, int]]:
    """Pairs of beats between which the count doesn't go on evenly.

    Either the step from one to the next is odd, or the count comes to the other side of the beat over some that are
    squeezed or stretched, while the tempo is the same before and after.
    """
    step = np.diff(times)
    usual = median_filter(step, 2 * _NEAR + 1, mode="nearest")
    out = [(int(i), int(i) + 1) for i in np.flatnonzero(np.abs(np.log(step / usual)) > _BROKEN)]
    out += [(i, j) for i, j in slides.find(times) if all(y <= i or j <= x for x, y in out)]
    return sorted(out)
