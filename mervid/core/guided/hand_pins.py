"""Beats that pass through hand pins.

A pin beside a beat moves it, and those beside it that were heard as far off. A pin between two beats says that the
count was off the beat: it moves by half a beat as far as it went on evenly, at most to the next pin. Where the count
had come to the other side, by one beat or over several that were squeezed or stretched, the error may end, too: there
as many beats are put as fit.
"""

from __future__ import annotations

import itertools

import attrs
import numpy as np

from ..arrays import Bools, Floats
from ..hearing import bar_pointer, beat_sides, slides
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


@attrs.frozen
class _Pin:
    """A hand pin among the beats.

    Attributes
    ----------
    time : s
    beat : which of them it moves
    later : by how many beats it is later, where it lies between two; 0 beside a beat
    wide : whether it is far from any
    """

    time: float
    beat: int
    later: float
    wide: bool


def pinned(beats: Beats, pins: tuple[float, ...], evidence: Evidence) -> Beats:
    """Beats that pass through the hand pins; each gap between two is worked out from these alone."""
    inside = [p for p in pins if len(beats.times) > 3 and beats.times[0] - 0.5 < p < beats.times[-1] + 0.5]
    if not inside:
        return beats
    for p in inside:
        beats = _completed(beats, p)
    hands = [_among(beats.times, p) for p in inside]
    breaks = _breaks(beats.times)
    new, opens, later = _moved(beats, hands, breaks, evidence)
    _put(new, beats.times, hands, breaks, evidence)
    own = [h.beat for h in hands]
    confidence = beats.confidence.copy()
    confidence[own] = 0.98
    ok = np.concatenate([[True], np.diff(np.maximum.accumulate(new)) > APART])
    ok[own] = True
    for i in own:
        # what is heard right beside a pin is the pin
        for j in (i - 1, i + 1):
            if 0 <= j < len(new) and j not in own and abs(new[j] - new[i]) < APART:
                ok[j] = False
    crossed = _crossed(breaks, hands, later)
    for i, j in crossed:
        ok[i + 1 : j] = False
    whole = Beats(new[ok], beats.step[ok], opens[ok], confidence[ok])
    for i, j in crossed:
        whole = _filled(whole, float(new[i]), float(new[j]))
    return whole


def _among(times: Floats, pin: float) -> _Pin:
    """Where a pin lies among the beats."""
    index = float(np.interp(pin, times, np.arange(len(times))))
    off = index - round(index)
    if abs(off) < _OFF:
        return _Pin(pin, round(index), 0.0, abs(off) > _WIDE)
    return _Pin(pin, int(index), off % 1.0, True)


def _moved(
    beats: Beats, hands: list[_Pin], breaks: list[tuple[int, int]], evidence: Evidence
) -> tuple[Floats, Bools, Floats]:
    """Beats moved as far as the pins say, in s; which then begin a bar; by how many beats each was moved."""
    times, opens = beats.times, beats.opens.copy()
    attack = evidence.attack_strength() if any(h.later for h in hands) else np.zeros(0, np.float32)
    step = bar_pointer.periods(times)
    for i, _ in breaks:
        # a beat before a break moves by what came before it
        step[i] = step[max(0, i - 1)]
    new, later = times.copy(), np.zeros(len(times))
    later[[h.beat for h in hands]] = [h.later for h in hands]
    for left, right in itertools.pairwise((None, *hands, None)):
        a, b = (left.beat if left else -1), (right.beat if right else len(times))
        before, after = (h.later if h else 0.0 for h in (left, right))
        if not (before or after) or b - a < 2:
            continue
        shift = _shift(breaks, a + 1, b, before, after, outer=left is None or right is None)
        later[a + 1 : b] = shift
        changed = np.flatnonzero(shift)
        moved = times[a + 1 : b] + shift * step[a + 1 : b]
        if len(changed) > 3:
            moved[changed] = precise(attack, moved[changed])
        new[a + 1 : b] = moved
        if len(changed) >= _LEAST_BARS and evidence.strengths is not None:
            # half a beat later, other beats are the strong ones
            part = slice(a + 1 + int(changed[0]), a + 2 + int(changed[-1]))
            opens[part] = bar_pointer.bars(evidence.strengths, new[part])[0] == 0
    return new, opens, later


def _put(new: Floats, times: Floats, hands: list[_Pin], breaks: list[tuple[int, int]], evidence: Evidence) -> None:
    """Beats that have a pin go to it, and those beside them that were heard as far off go along."""
    edges = [-1, *(h.beat for h in hands), len(times)]
    for k, h in enumerate(hands):
        i, by = h.beat, h.time - float(times[h.beat])
        lost = h.later or any(a < i < b for a, b in breaks)
        # a pin beside its attack, set freely, says where the grid goes, not what is heard
        if not lost and _struck(evidence, h.time) < _AS_CLEAR * _struck(evidence, float(new[i])):
            continue
        if not lost and abs(by) >= _BESIDE:
            for order in (range(i - 1, edges[k], -1), range(i + 1, edges[k + 2])):
                _draw_along(new, times, order, by, evidence)
        new[i] = h.time


def _crossed(breaks: list[tuple[int, int]], hands: list[_Pin], later: Floats) -> list[tuple[int, int]]:
    """Breaks, or parts of them beside a pin, on whose sides beats were moved otherwise: what lies in them goes."""
    out = []
    for i, j in breaks:
        inside = [h for h in hands if i < h.beat < j]
        parted = any(h.wide for h in inside)
        edges = [i, *(h.beat for h in inside), j]
        out += [(a, b) for a, b in itertools.pairwise(edges) if parted or (later[a] != 0) != (later[b] != 0)]
    return out


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
    """As many beats between two that follow each other as fit there, evenly; bars go on. A rest stays one."""
    a, b = beats.within(start, stop)
    if b - a != 2 or beats.step[b - 1] > 1:
        return beats
    step = np.diff(beats.times)
    usual = float(np.median(np.r_[step[max(0, a - _NEAR) : a], step[b - 1 : b - 1 + _NEAR]]))
    times = beat_sides.between(start, stop, usual)
    n = len(times)
    opens = np.flatnonzero(beats.opens[: a + 1])
    bar = int(np.median(np.diff(np.flatnonzero(beats.opens)))) if beats.opens.sum() > 1 else 0
    begins = (a - opens[-1] + np.arange(1, n + 1)) % bar == 0 if len(opens) and bar else np.zeros(n, bool)
    sure = float(min(beats.confidence[a], beats.confidence[b - 1]))
    new = Beats(times, np.ones(n, np.int64), begins, np.full(n, sure))
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


def _shift(breaks: list[tuple[int, int]], a: int, b: int, before: float, after: float, *, outer: bool) -> Floats:
    """By how many beats each beat from `a` to `b` moves; `before` and `after` hold at the pins on either side."""
    if before and after:
        return np.linspace(before, after, b - a)
    out = np.zeros(b - a)
    near = [(max(i + 1, a), min(j, b)) for i, j in breaks if i < b and j >= a]
    # to the first break from the pin, or out of the one in which it lies; else to the middle
    if before:
        out[: min((i for i, _ in near), default=b if outer else (a + b) // 2) - a] = before
    else:
        out[max((j for _, j in near), default=a if outer else (a + b) // 2) - a :] = after
    return out


def _breaks(times: Floats) -> list[tuple[int, int]]:
    """Pairs of beats between which the count doesn't go on evenly.

    Either the step from one to the next is odd, or the count comes to the other side of the beat over some that are
    squeezed or stretched, while the tempo is the same before and after.
    """
    from scipy.ndimage import median_filter

    step = np.diff(times)
    usual = median_filter(step, 2 * _NEAR + 1, mode="nearest")
    out = [(int(i), int(i) + 1) for i in np.flatnonzero(np.abs(np.log(step / usual)) > _BROKEN)]
    out += [(i, j) for i, j in slides.find(times) if all(y <= i or j <= x for x, y in out)]
    return sorted(out)
