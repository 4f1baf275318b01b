"""Listening again under what a person has said, from stored evidence: no sound is decoded for it.

What was heard stays as it is; a hint changes the beats of its own part, and a hand pin those up to the next hand pin
on either side. Each stretch between two hand pins is worked out from these two alone, so that nothing a person does
here can move a beat beyond them. A pin between two beats says that the count was off the beat; a hint on a downbeat
moves bar lines up to the next such hint; a hint of tempo lets the bar pointer search its part again.
"""

from __future__ import annotations

import itertools
from functools import lru_cache

import attrs
import numpy as np

from ..arrays import Bools, Floats, Ints, Singles
from ..errors import Refused
from ..hearing import bar_pointer, beat_refinement, beat_tracking
from ..hearing.ear import Strengths
from ..hearing.evidence import Evidence
from ..hearing.features import ATTACK_RATE
from ..hearing.heard import Heard
from ..hearing.spectra import EAR_FPS
from ..maths import regression
from ..model.hints import ALIKE, COUNT, DOWNBEAT, EVEN, QUIET, TAP, TEMPO, Hint
from . import tap_tracking

_OFF = 0.3
_APART = 0.1
_BROKEN = 0.2
_AROUND = 4.0
_REACH = 1.22
_LEAST_BARS = 16
_SAID = 0.98
_AS_HEARD = 0.5
_AS_CLEAR = 0.5
_BESIDE = 0.008
_AS_WELL = 0.7
_STRUCK = 0.12
_REACH_OWN = 0.005


@attrs.frozen(eq=False)
class Beats:
    """Beats being worked on: times (s), how many beats after the one before, which begin a bar, how sure each is."""

    times: Floats
    step: Ints
    opens: Bools
    confidence: Floats

    def part(self, a: int, b: int) -> Beats:
        """Beats `a` to `b`, the last not included."""
        return Beats(self.times[a:b], self.step[a:b], self.opens[a:b], self.confidence[a:b])

    @property
    def numbers(self) -> Ints:
        """Count of each beat, 0 on the first."""
        return np.concatenate([[0], np.cumsum(self.step[1:])]).astype(np.int64)

    def within(self, start: float, stop: float) -> tuple[int, int]:
        """First and one past the last beat from `start` to `stop` s."""
        a, b = np.searchsorted(self.times, [start - 1e-6, stop + 1e-6])
        return int(a), int(b)


def joined(parts: list[Beats]) -> Beats:
    """Beats of several stretches in order; where two would touch, the later one goes."""
    out = Beats(*(np.concatenate([getattr(p, f) for p in parts]) for f in ("times", "step", "opens", "confidence")))
    near = np.concatenate([[False], np.diff(out.times) < _APART])
    return Beats(out.times[~near], out.step[~near], out.opens[~near], out.confidence[~near]) if near.any() else out


def listen(evidence: Evidence, hints: tuple[Hint, ...] = (), pins: tuple[float, ...] = ()) -> Heard:
    """What is heard under `hints` and hand pins.

    Parameters
    ----------
    pins : times in s that are beats, ascending

    Raises
    ------
    Refused
        A hint of tempo where the ear's strengths were not kept.
    """
    heard = evidence.heard
    taps = any(h.kind == TAP for h in hints)
    if (not hints and not pins) or (len(heard.times) < 4 and not taps):
        return heard
    beats, metre = _counted_anew(evidence, tuple(h for h in hints if h.kind in (COUNT, TEMPO, QUIET, TAP)))
    beats = _pinned(beats, pins, evidence)
    for hint in hints:
        if hint.kind == EVEN:
            beats = _evened(beats, hint, pins)
    downs = sorted(h.start for h in hints if h.kind == DOWNBEAT)
    if downs:
        beats = attrs.evolve(beats, opens=_barred(beats, downs, metre, evidence.strengths))
    for hint in hints:
        if hint.kind == ALIKE:
            beats = attrs.evolve(beats, opens=_continued(beats, hint, metre))
    # what a person said is settled
    level = _SAID if pins or any(h.kind in (COUNT, TEMPO, TAP) for h in hints) else heard.level_chance
    phase = _SAID if any(h.kind in (DOWNBEAT, ALIKE) for h in hints) else heard.phase_chance
    found = beat_tracking.numbered(beats.times, beats.numbers, beats.opens, metre, beats.confidence, level, phase)
    # where most beats are as they were heard, a hand here and there makes no strokes of them
    as_heard = int(np.isin(found.times, heard.times).sum())
    return attrs.evolve(found, pulse=heard.pulse and as_heard >= max(1, _AS_HEARD * len(found.times)))


@lru_cache(2)
def _counted_anew(evidence: Evidence, hints: tuple[Hint, ...]) -> tuple[Beats, int]:
    """Beats under the hints that change which there are, and beats in most bars; kept while pins are dragged."""
    heard = evidence.heard
    expected = np.array([h.start for h in hints if h.kind == TAP])
    if len(expected) > 3:
        times, position, metre, sure = tap_tracking.search(evidence, np.sort(expected))
        beats = Beats(times, np.ones(len(times), np.int64), position == 0, sure)
    else:
        step = np.concatenate([[1], np.diff(heard.numbers)])
        beats = Beats(heard.times, step, heard.position == 0, heard.confidence)
        metre = heard.metre
    for hint in hints:
        if hint.kind == TAP:
            continue
        if hint.kind == COUNT:
            beats = _recounted(beats, hint, metre, evidence)
        elif hint.kind == TEMPO:
            beats = _searched(beats, hint, metre, evidence)
        else:
            beats = _silenced(beats, hint)
    return beats, metre


def precise(attack: Singles, times: Floats) -> Floats:
    """Times moved to attacks beside them, onto steady lines where these hold."""
    moved, clear = beat_refinement.to_own_attacks(attack, times)
    out, fixed = moved.copy(), np.zeros(len(times), bool)
    for run in beat_refinement.steady_runs(moved, clear):
        i = np.arange(run.first, run.last + 1)
        out[i], fixed[i] = run.at(i), True
    return beat_refinement.calm(out, clear, fixed)


def _recounted(beats: Beats, hint: Hint, metre: int, evidence: Evidence) -> Beats:
    """`value` beats for each beat of the part, `shift` beats later."""
    a, b = beats.within(hint.start, hint.stop)
    if b - a < 4:
        return beats
    old = beats.part(a, b)
    count = old.numbers * hint.value + hint.shift
    whole = np.arange(np.ceil(count[0] - 1e-9), np.floor(count[-1] + 1e-9) + 1)
    times = np.interp(whole, count, old.times)
    kept = np.abs(whole[:, None] - count[None]).min(axis=1) < 1e-6
    if not kept.all():
        exact = precise(evidence.attack_strength(), times)
        times = np.where(kept, times, exact)
    first = np.flatnonzero(old.opens)
    opens = np.zeros(len(times), bool)
    if hint.value == 1.0:
        # bar lines go with their beats
        where = np.searchsorted(whole, np.ceil(count[first] - 1e-6))
        opens[where[where < len(whole)]] = True
    elif len(first):
        opens = (whole - np.ceil(count[first[0]] - 1e-6)) % metre == 0
    new = Beats(times, np.ones(len(times), np.int64), opens, np.interp(times, old.times, old.confidence))
    return joined([beats.part(0, a), new, beats.part(b, len(beats.times))])


def _strengths(evidence: Evidence, start: float, stop: float) -> tuple[Strengths, float]:
    """The ear's strengths of a part, and the s at which it begins."""
    ear = evidence.strengths
    if ear is None:
        raise Refused("This track was heard without the trained ear: a tempo can't guide it. Set the tempo by hand.")
    a = max(0, int(start * EAR_FPS))
    b = min(len(ear.beat), int(min(stop, 1e6) * EAR_FPS) + 1)
    cut = {f: getattr(ear, f)[a:b] for f in ("beat", "downbeat", "section", "drums", "voice", "tempo")}
    return Strengths(**cut, calibration=ear.calibration), a / EAR_FPS


def _searched(beats: Beats, hint: Hint, metre: int, evidence: Evidence) -> Beats:
    """The part searched again, with tempi near the hint's only."""
    a, b = beats.within(hint.start, hint.stop)
    if b - a < 4:
        return beats
    start, stop = float(beats.times[a]), float(beats.times[b - 1])
    ear, zero = _strengths(evidence, start - _AROUND, stop + _AROUND)
    found = bar_pointer.beats_near(ear, hint.value, _REACH)
    half = 30 / hint.value
    found = found[(found + zero > start - half) & (found + zero < stop + half)]
    if len(found) < 4:
        return beats
    position, own, _ = bar_pointer.bars(ear, found)
    attack = evidence.attack_strength()[int(zero * ATTACK_RATE) :]
    times, _, _ = beat_tracking.settle(ear, attack, found, position, own)
    position, _, _ = bar_pointer.bars(ear, times)
    sure = bar_pointer.peaks(ear.beat, times)
    new = Beats(times + zero, np.ones(len(times), np.int64), position == 0, np.clip(sure, 0.02, 0.98))
    left, right = beats.part(0, a), beats.part(b, len(beats.times))
    left = left.part(0, int(np.searchsorted(left.times, new.times[0] - half)))
    return joined([left, new, right])


def _silenced(beats: Beats, hint: Hint) -> Beats:
    """Without the beats of the part; the count goes on as if they were there."""
    a, b = beats.within(hint.start, hint.stop)
    step = beats.step.copy()
    if a < b < len(step):
        step[b] += int(step[a:b].sum())
    keep = np.ones(len(step), bool)
    keep[a:b] = False
    return Beats(beats.times[keep], step[keep], beats.opens[keep], beats.confidence[keep])


def _pinned(beats: Beats, pins: tuple[float, ...], evidence: Evidence) -> Beats:
    """Beats that pass through the hand pins; each gap between two is worked out from these alone."""
    times = beats.times
    inside = [p for p in pins if len(times) > 3 and times[0] - 0.5 < p < times[-1] + 0.5]
    if not inside:
        return beats
    index = np.interp(inside, times, np.arange(len(times)))
    off = index - np.round(index)
    off = np.where(np.abs(off) < _OFF, 0.0, off % 1.0)
    own = [int(i) for i in np.where(off == 0, np.round(index), np.floor(index))]
    edges = [-1, *own, len(times)]
    shifts = [float(off[0]), *(float(x) for x in off), float(off[-1])]
    attack = evidence.attack_strength() if off.any() else np.zeros(0, np.float32)
    new, opens = times.copy(), beats.opens.copy()
    for k, (a, b) in enumerate(itertools.pairwise(edges)):
        gap = slice(a + 1, b)
        before = shifts[k]
        after = shifts[k + 1]
        if (before or after) and b - a > 1:
            first, last = k == 0, k == len(edges) - 2
            shift = _shift(times, a + 1, b, before, after, outer=first or last, backward=first)
            moved = np.interp(
                np.arange(a + 1, b) + shift, np.arange(len(times) + 1), np.append(times, 2 * times[-1] - times[-2])
            )
            changed = np.flatnonzero(shift)
            if len(changed) > 3:
                moved[changed] = precise(attack, moved[changed])
            new[gap] = moved
            if len(changed) >= _LEAST_BARS and evidence.strengths is not None:
                # half a beat later, other beats are the strong ones
                part = slice(a + 1 + int(changed[0]), a + 2 + int(changed[-1]))
                opens[part] = bar_pointer.bars(evidence.strengths, new[part])[0] == 0
    for k, (i, p, moved) in enumerate(zip(own, inside, off, strict=True)):
        # a pin beside its attack, set freely, says where the grid goes, not what is heard
        if moved or _struck(evidence, p) >= _AS_CLEAR * _struck(evidence, float(new[i])):
            if not moved and abs(p - times[i]) >= _BESIDE:
                for order in (range(i - 1, edges[k], -1), range(i + 1, edges[k + 2])):
                    _draw_along(new, times, order, p - float(times[i]), evidence)
            new[i] = p
    confidence = beats.confidence.copy()
    confidence[own] = 0.98
    ok = np.concatenate([[True], np.diff(np.maximum.accumulate(new)) > _APART])
    ok[own] = True
    for i in own:
        # what is heard right beside a pin is the pin
        for j in (i - 1, i + 1):
            if 0 <= j < len(new) and j not in own and abs(new[j] - new[i]) < _APART:
                ok[j] = False
    return Beats(new[ok], beats.step[ok], opens[ok], confidence[ok])


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


def _shift(times: Floats, a: int, b: int, before: float, after: float, *, outer: bool, backward: bool) -> Floats:
    """By how many beats each beat from `a` to `b` moves; `before` and `after` hold at the pins on either side."""
    n = b - a
    if not outer and before and after:
        return np.linspace(before, after, n)
    out = np.zeros(n)
    if (outer and not backward) or (not outer and before):
        end = min(_break(times, a, b, forward=True), b if outer else (a + b) // 2)
        out[: end - a] = before
    else:
        begin = max(_break(times, a, b, forward=False), a if outer else (a + b) // 2)
        out[begin - a :] = after
    return out


def _break(times: Floats, a: int, b: int, *, forward: bool) -> int:
    """How far from one end of the beats `a` to `b` the count goes on evenly: where it broke, the error may end, too."""
    step = np.diff(times)
    usual = np.array([np.median(step[max(0, i - 6) : i + 7]) for i in range(len(step))])
    odd = np.abs(np.log(step / usual)) > _BROKEN
    order = range(a, b - 1) if forward else range(b - 2, a - 1, -1)
    for i in order:
        if odd[i]:
            return i + 1
    return b if forward else a


def _evened(beats: Beats, hint: Hint, pins: tuple[float, ...]) -> Beats:
    """The part on one steady line, through the hand pins inside it."""
    a, b = beats.within(hint.start, hint.stop)
    if b - a < 4:
        return beats
    count = beats.part(a, b).numbers.astype(float)
    old = beats.times[a:b]
    origin, period = regression.fit_line(count, old, beats.confidence[a:b] + 0.05)
    inside = [int(np.abs(old - p).argmin()) for p in pins if old[0] <= p <= old[-1]]
    new = origin + period * count
    if len(inside) == 1:
        new = new + old[inside[0]] - new[inside[0]]
    elif inside:
        new = new + np.interp(count, count[inside], (old - new)[inside])
    times = beats.times.copy()
    times[a:b] = new
    return attrs.evolve(beats, times=np.maximum.accumulate(times)) if np.all(np.diff(times) > _APART / 2) else beats


def _barred(beats: Beats, downs: list[float], metre: int, ear: Strengths | None) -> Bools:
    """Bar lines that pass through the hints: those of each stretch move by the same number of beats.

    Beyond the outermost hint the move goes on, unless an odd bar there would become a whole one without it, and the
    ear agrees: then that odd bar was the mistake, and what lies beyond was right.
    """
    number = beats.numbers
    down = np.zeros(len(number)) if ear is None else bar_pointer.peaks(ear.downbeat, beats.times)

    def better_unmoved(first: int, last: int, move: int) -> bool:
        """Does the ear hear bar lines `first` to before `last` rather where they are?"""
        if ear is None:
            return True
        here, there = (down[np.isin(number, opens[first:last] + m)] for m in (0, move))
        return float(here.sum()) > float(there.sum())

    opens = number[beats.opens]
    if not len(opens):
        opens = number[:1]
    target = [int(number[np.abs(beats.times - t).argmin()]) for t in downs]
    moves = []
    for t in target:
        k = int(np.clip(np.searchsorted(opens, t, "right") - 1, 0, len(opens) - 1))
        size = int(opens[k + 1] - opens[k]) if k + 1 < len(opens) else metre
        move = int(t - opens[k])
        moves.append(move - size if move > size / 2 else move)
    shift = np.zeros(len(opens), int)
    odd = [i for i in range(len(opens) - 1) if int(opens[i + 1] - opens[i]) % metre]
    owner = np.abs(opens[:, None] - np.array(target)[None]).argmin(axis=1)
    for j, (t, move) in enumerate(zip(target, moves, strict=True)):
        here = owner == j
        left, right = 0, len(opens)
        for i in odd:
            size = int(opens[i + 1] - opens[i])
            if opens[i] >= t and (size - move) % metre == 0 and better_unmoved(i + 1, len(opens), move):
                right = min(right, i + 1)
            if opens[i + 1] <= t and (size + move) % metre == 0 and better_unmoved(0, i + 1, move):
                left = max(left, i + 1)
        # between two hints each keeps its own side
        here &= (np.arange(len(opens)) >= left) & (np.arange(len(opens)) < right)
        shift[here] = move
    moved = np.unique(np.concatenate([opens + shift, target]))
    # the count goes on before the first and after the last bar line that was heard
    before = np.arange(moved[0] - metre, number[0] - 1, -metre)
    after = np.arange(moved[-1] + metre, number[-1] + 1, metre)
    moved = np.concatenate([before[::-1], moved, after])
    fixed = set(target)
    keep = [int(moved[0])]
    for m in moved[1:].tolist():
        if m - keep[-1] < 2:
            if m in fixed:
                keep[-1] = m
            continue
        keep.append(m)
    return np.isin(number, keep)


def _continued(beats: Beats, hint: Hint, metre: int) -> Bools:
    """Bar lines of the part where counting on from the other part puts them."""
    number = beats.numbers
    opens = np.flatnonzero(beats.opens)
    if not len(opens):
        return beats.opens
    other = number[opens[np.abs(beats.times[opens] - hint.value).argmin()]]
    inside = (beats.times >= hint.start - 1e-6) & (beats.times <= hint.stop + 1e-6)
    return np.where(inside, (number - other) % metre == 0, beats.opens)
