"""Listening again under what a person has said, from stored evidence: no sound is decoded for it.

What was heard stays as it is; a hint changes the beats of its own part, and a hand pin those up to the next hand pin
on either side. Each stretch between two hand pins is worked out from these two alone, so that nothing a person does
here can move a beat beyond them. A pin between two beats says that the count was off the beat; a hint on a downbeat
moves bar lines up to the next such hint; a hint of tempo lets the bar pointer search its part again.
"""

from __future__ import annotations

from functools import lru_cache

import attrs
import numpy as np

from ..arrays import Bools
from ..errors import Refused
from ..hearing import bar_pointer, beat_tracking, odd_bars
from ..hearing.ear import Strengths
from ..hearing.evidence import Evidence
from ..hearing.features import ATTACK_RATE
from ..hearing.heard import Heard
from ..hearing.spectra import EAR_FPS
from ..maths import regression
from ..model.hints import ALIKE, COUNT, DOWNBEAT, EVEN, METRE, QUIET, TAP, TEMPO, Hint
from . import hand_pins, tap_tracking
from .beats import APART, Beats, joined, precise

_ANEW = (COUNT, TEMPO, QUIET, TAP, METRE)
_AROUND = 4.0
_REACH = 1.22
_SAID = 0.98
_AS_HEARD = 0.5


def listen(evidence: Evidence, hints: tuple[Hint, ...] = (), pins: tuple[float, ...] = ()) -> Heard:
    """What is heard under `hints` and hand pins.

    Parameters
    ----------
    pins : times in s that are beats, ascending

    Raises
    ------
    Refused
        A hint of tempo or metre where the ear's strengths were not kept.
    """
    heard = evidence.heard
    taps = any(h.kind == TAP for h in hints)
    if (not hints and not pins) or (len(heard.times) < 4 and not taps):
        return heard
    beats, metre, chance = _counted_anew(evidence, tuple(h for h in hints if h.kind in _ANEW))
    beats = hand_pins.pinned(beats, pins, evidence)
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
    phase = _SAID if any(h.kind in (DOWNBEAT, ALIKE) for h in hints) else chance
    found = beat_tracking.numbered(beats.times, beats.numbers, beats.opens, metre, beats.confidence, level, phase)
    # where most beats are as they were heard, a hand here and there makes no strokes of them
    as_heard = int(np.isin(found.times, heard.times).sum())
    pulse = heard.pulse and as_heard >= max(1, _AS_HEARD * len(found.times))
    return attrs.evolve(found, pulse=pulse, elsewhere=(0.0, 0.0) if hints else heard.elsewhere)


@lru_cache(2)
def _counted_anew(evidence: Evidence, hints: tuple[Hint, ...]) -> tuple[Beats, int, float]:
    """Beats under the hints that change which there are or the size of bars; kept while pins are dragged.

    With them beats in most bars, and the chance that the right ones begin one.
    """
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
        if hint.kind in (TAP, METRE):
            continue
        if hint.kind == COUNT:
            beats = _recounted(beats, hint, metre, evidence)
        elif hint.kind == TEMPO:
            beats = _searched(beats, hint, metre, evidence)
        else:
            beats = _silenced(beats, hint)
    # bars of five show once beats are counted at their own level
    anew = evidence.strengths is not None and any(h.kind not in (QUIET, METRE) for h in hints)
    if anew and (odd := odd_bars.size(evidence, beats.times)):
        beats, metre, _ = _metred(beats, Hint(METRE, value=float(odd)), metre, evidence)
    chance = heard.phase_chance
    for hint in hints:
        if hint.kind == METRE:
            beats, metre, chance = _metred(beats, hint, metre, evidence)
    return beats, metre, chance


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
    return attrs.evolve(beats, times=np.maximum.accumulate(times)) if np.all(np.diff(times) > APART / 2) else beats


def _metred(beats: Beats, hint: Hint, metre: int, evidence: Evidence) -> tuple[Beats, int, float]:
    """The part in bars of `value` beats, how many most bars have then, the chance that the right beats begin one."""
    a, b = beats.within(hint.start, hint.stop)
    size = int(hint.value)
    if evidence.strengths is None:
        raise Refused("This track was heard without the trained ear: press M, which counts from the bar here on.")
    if b - a < 2 * size:
        raise Refused(f"Too few beats are heard here for two bars of {size}.")
    part = beats.part(a, b)
    place, chance = odd_bars.places(evidence, part.times, part.numbers, size)
    opens = beats.opens.copy()
    opens[a:b] = place == 0
    return attrs.evolve(beats, opens=opens), size if b - a > len(opens) / 2 else metre, chance


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
