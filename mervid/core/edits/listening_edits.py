"""Edits through the ear: a hint changes what is heard, and the grid follows within its neighbouring hand pins.

Where only the count changes, no instant moves. Where beats do, the grid is fitted anew between the hand pins on either
side of the change; what lies beyond them keeps its pins.
"""

from __future__ import annotations

import attrs
import numpy as np

from ..arrays import Bools, Floats
from ..errors import Refused
from ..fitting import drift, fit, proposal
from ..guided import constrained_tracking
from ..hearing.evidence import Evidence
from ..hearing.heard import Heard
from ..model import preparation
from ..model.beatgrid import Grid, MeterMark, Pin
from ..model.hints import COUNT, DOWNBEAT, END, EVEN, METRE, QUIET, TAP, Hint
from ..model.preparation import Preparation, edit, grid_of
from ..model.tempo_range import TempoRange
from . import count_edits, grid_edits, part_edits

LEVELS = (2.0, 0.5, 1.5, 2 / 3)
"""Counts that are commonly mistaken for each other."""
_SAME_LEVEL = 1.2
_STEADY_WITHIN = 0.9
_FAR = 120.0
LEAST_BAR, MOST_BAR = 2, 16
"""Beats of a bar that can be heard."""
MOST_AT_ONCE = 2500
"""More beats than this are not fitted while a person waits."""


def pins_that_guide(p: Preparation, heard: Heard) -> tuple[float, ...]:
    """Times of the hand pins that stand on whole beats, s; none where the grid counts at another level than heard."""
    if p.grid is None or len(heard.times) < 2:
        return ()
    hand = tuple(q.time for q in p.grid.pins if q.hand and q.beat == round(q.beat))
    if not hand:
        return ()
    period = float(np.median(np.diff(heard.times)))
    ratio = p.grid.tempo_overall() * period / 60
    return hand if 1 / _SAME_LEVEL < ratio < _SAME_LEVEL else ()


def heard_of(evidence: Evidence, p: Preparation) -> Heard:
    """What is heard under the hints and hand pins of `p`."""
    base = constrained_tracking.listen(evidence, p.hints)
    pins = pins_that_guide(p, base)
    return constrained_tracking.listen(evidence, p.hints, pins) if pins else base


def propose(evidence: Evidence, duration: float, wanted: TempoRange | None = None) -> Preparation:
    """What analysis proposes for a new track, counted so that the tempo lies in the range wanted, where it can be."""
    first = proposal.propose(evidence.heard, duration, evidence.loop)
    if wanted is None or first.grid is None:
        return first
    first = attrs.evolve(first, tempo_range=(wanted.low, wanted.high))
    tempo = 60 / float(np.median(np.diff(evidence.heard.times)))
    if wanted.holds(tempo):
        return first
    ratio = level_within(wanted, tempo)
    if ratio is None:
        return first
    if len(evidence.heard.times) < fit.LEAST_BEATS:
        # too short a loop to be heard again: its grid alone is counted otherwise
        whole = {2.0: grid_edits.double, 0.5: grid_edits.halve}.get(ratio)
        return whole(first) if whole is not None else first
    return listen_again(first, evidence, (Hint(COUNT, value=ratio),))


def level_within(wanted: TempoRange, tempo: float) -> float | None:
    """How many beats for each that is heard bring `tempo` in BPM into the range; None where no common mistake does."""
    return next((r for r in LEVELS if wanted.holds(tempo * r)), None)


@edit("Listen again")
def listen_again(p: Preparation, evidence: Evidence, hints: tuple[Hint, ...]) -> Preparation:
    """Hear the track under more hints, and let the grid follow.

    Raises
    ------
    Refused
        Too few beats are left, or a hint of tempo can't be followed.
    """
    return _under(p, evidence, hints, ())


@edit("This is a beat")
def pin_beat(p: Preparation, evidence: Evidence, time: float) -> Preparation:
    """Put a hand pin on `time`, s, and hear again up to the neighbouring hand pins."""
    return _under(p, evidence, (), (time,))


@edit("Tap along")
def tap_along(p: Preparation, evidence: Evidence, beats: Floats, downbeats: Floats) -> Preparation:
    """Hear again along what was tapped; hand pins stand.

    Parameters
    ----------
    beats : (n,) s, where beats are expected from the taps, none left out
    downbeats : (k,) s, those of them that begin a bar; none leaves bars to the ear

    Raises
    ------
    Refused
        Too few beats, or the track was heard without the trained ear.
    """
    if len(beats) < 4:
        raise Refused("Tap some more beats: these are too few to hear along.")
    # taps settle the count: what was said of it before is answered by them
    kept = tuple(h for h in p.hints if h.kind in (QUIET, EVEN))
    taps = tuple(Hint(TAP, float(t)) for t in beats)
    if not len(downbeats):
        kept += tuple(h for h in p.hints if h.kind == DOWNBEAT)
    expected = _under(attrs.evolve(p, hints=kept), evidence, taps, ())
    if not len(downbeats):
        return expected
    heard = heard_of(evidence, expected)
    near = heard.times[np.abs(heard.times[None] - downbeats[:, None]).argmin(axis=1)]
    downs = tuple(Hint(DOWNBEAT, float(t)) for t in np.unique(near))
    return _under(attrs.evolve(p, hints=kept), evidence, taps + downs, ())


@edit("Set beats a bar")
def count_bars(p: Preparation, evidence: Evidence, beats: int, start: float = 0.0, stop: float = END) -> Preparation:
    """Bars have so many beats from `start` to `stop`, s, and where they begin is heard; hints on downbeats there stand.

    Raises
    ------
    Refused
        Bars are counted so already, there are too few beats, or the track was heard without the trained ear.
    """
    if not LEAST_BAR <= beats <= MOST_BAR:
        raise Refused(f"Bars of {LEAST_BAR} to {MOST_BAR} beats can be heard, not of {beats}. M sets others.")
    if p.grid is not None and not counts_alike(p.grid, heard_of(evidence, p)):
        raise Refused("The grid counts otherwise than what is heard here: press M, which counts from the bar here on.")
    made = _under(p, evidence, (Hint(METRE, start, stop, float(beats)),), ())
    if p.grid is not None and grid_of(made).meter == p.grid.meter:
        raise Refused(f"Bars have {beats} beats here already.")
    return made


@edit("Pull onto its thread")
def pull(p: Preparation, evidence: Evidence, beat: float, time: float) -> Preparation:
    """Tie `beat` to `time`, s, by hand, and hear again up to the neighbouring hand pins, which keep place and number.

    Where the beats heard between them don't add up, those that lie nearest to the pinned grid are followed.
    """
    alone = grid_edits.add_pin(p, beat, time)
    if len(evidence.heard.times) < fit.LEAST_BEATS:
        return alone
    others = tuple(q for q in grid_of(p).pins if abs(q.beat - beat) > 1e-9)
    base = attrs.evolve(p, grid=Grid(others, grid_of(p).meter)) if len(others) > 1 else p
    hand = [q for q in grid_of(alone).pins if q.hand]
    try:
        guided_ = _under(base, evidence, (), (time,))
        if set(hand) <= set(grid_of(guided_).pins):
            return guided_
    except Refused:
        pass
    if len(evidence.heard.times) > MOST_AT_ONCE:
        return alone
    left = max((q.beat for q in hand if q.beat < beat), default=None)
    right = min((q.beat for q in hand if q.beat > beat), default=None)
    try:
        return part_edits.follow_part(alone, heard_of(evidence, alone), part_edits.Edges(left, right))
    except Refused:
        return alone


@edit("Begin the count anew")
def restart(p: Preparation, evidence: Evidence, time: float) -> Preparation:
    """Begin a bar on the beat nearest `time`, s; the count before it stays, the bar before it may be odd."""
    heard = heard_of(evidence, p)
    grid = grid_of(p)
    made = count_edits.restart(p, time)
    if not _same_beats(grid, heard):
        return made
    beat = float(round(float(grid.beat_at(time))))
    before = float(grid.bar_start(int(grid.bar_index(beat)[0])))
    said = []
    for b in (before, beat):
        near = int(np.abs(heard.times - float(grid.time_at(b))).argmin())
        if abs(float(heard.times[near]) - float(grid.time_at(b))) < 0.15:
            said.append(Hint(DOWNBEAT, float(heard.times[near])))
    told = _under(p, evidence, tuple(said), ())
    # the hearing is told, too, where it then counts the same bars
    return told if told.grid == made.grid else made


@edit("Set downbeat")
def begin_bar(p: Preparation, evidence: Evidence, time: float) -> Preparation:
    """Begin a bar on the heard beat nearest `time`, s; the bars around it follow."""
    heard = heard_of(evidence, p)
    grid = p.grid
    near = int(np.abs(heard.times - time).argmin()) if len(heard.times) else -1
    if grid is None or near < 0 or not _same_beats(grid, heard) or abs(heard.times[near] - time) > 0.5:
        # nothing is heard here, or the grid counts otherwise: the count of the grid moves by itself
        return grid_edits.set_downbeat(p, time)
    at = float(heard.times[near])
    beat = float(np.round(grid.beat_at(time)))
    if float(grid.bar_index(beat)[1]) == 0:
        raise Refused(f"A bar begins here already ({grid.name_at(beat)}).")
    told = _under(p, evidence, (Hint(DOWNBEAT, at),), ())
    made = grid_of(told)
    if float(made.bar_index(np.round(made.beat_at(at)))[1]) == 0:
        return told
    # a bar is heard here already, and the grid counts otherwise between its pins
    return grid_edits.set_downbeat(p, time)


def _same_beats(grid: Grid, heard: Heard) -> bool:
    """Does the grid count the beats that are heard, in the bars that are heard?"""
    if len(heard.times) < 8:
        return False
    places = np.round(grid.beat_at(heard.times) - heard.numbers)
    mostly = np.mean(places == np.median(places)) > 0.5
    return bool(counts_alike(grid, heard) and mostly and _meter(heard, offset(grid, heard)) == grid.meter)


def _meter(heard: Heard, later: float) -> tuple[MeterMark, ...]:
    """The meter that is heard, for a grid whose beats count so many more."""
    return tuple(MeterMark(m.beat + later, m.beats_per_bar) for m in heard.meter)


def counts_alike(grid: Grid, heard: Heard) -> bool:
    """Does the grid count about one beat for each that is heard?"""
    return bool(0.8 < float(np.median(np.diff(grid.beat_at(heard.times)))) < 1.25)


def _under(p: Preparation, evidence: Evidence, hints: tuple[Hint, ...], pins: tuple[float, ...]) -> Preparation:
    old = heard_of(evidence, p)
    told = attrs.evolve(p, hints=p.hints + hints)
    standing = pins_that_guide(p, old)
    new = constrained_tracking.listen(evidence, told.hints, tuple(sorted({*standing, *pins})))
    fit.check(new)
    if p.grid is None:
        return attrs.evolve(told, grid=_fresh(p, new))
    if len(new.times) == len(old.times) and np.array_equal(new.times, old.times) and not pins:
        return _renamed(told, p.grid, old, new)
    grid = _refitted(p, p.grid, old, new, pins)
    return preparation.carried(told, grid)


def _fresh(p: Preparation, new: Heard) -> Grid:
    """A first grid: one steady tempo where that holds, else one that follows."""
    steady = fit.fit_steady(new)
    held = drift.trace(new.times, steady, zones=p.mix_zones, tolerance=p.tolerance).within >= _STEADY_WITHIN
    if held or len(new.times) > MOST_AT_ONCE:
        return steady
    return fit.follow(new, tolerance=p.tolerance, zones=p.mix_zones)


def _renamed(p: Preparation, grid: Grid, old: Heard, new: Heard) -> Preparation:
    """Only the count changed: pins and cues keep their instants and get new numbers."""
    whole = float(new.numbers[0] - old.numbers[0])
    pins = tuple(attrs.evolve(q, beat=q.beat + whole) for q in grid.pins)
    return preparation.renumbered(p, Grid(pins, _meter(new, offset(grid, old))), lambda b: b + whole)


def offset(grid: Grid, heard: Heard) -> float:
    """Grid beat less heard number, for most beats."""
    return float(np.round(np.median(grid.beat_at(heard.times) - heard.numbers)))


def _refitted(p: Preparation, grid: Grid, old: Heard, new: Heard, added: tuple[float, ...]) -> Grid:
    """The grid that follows the new beats between the hand pins around what changed."""
    hand = [q for q in grid.pins if q.hand]
    start, stop = _changed(old, new, added)
    left, right = _around(grid.pins, start, stop, new)
    if left is None and right is None and not hand and len(grid.pins) <= 2:
        steady = _steady(new, added)
        # one tempo stays one tempo, unless it would miss beats that were heard
        if (
            len(new.times) > MOST_AT_ONCE
            or drift.trace(new.times, steady, zones=p.mix_zones, tolerance=p.tolerance).within >= _STEADY_WITHIN
        ):
            return steady
    lo, hi = (left.time if left else -np.inf), (right.time if right else np.inf)
    inside = (new.times > lo - 1e-9) & (new.times < hi + 1e-9)
    if inside.sum() > MOST_AT_ONCE and added:
        pinned = p
        for time in added:
            pinned = grid_edits.add_pin(pinned, float(np.round(grid.beat_at(time))), time)
        return grid_of(pinned)
    if inside.sum() < 2:
        raise Refused("Too few beats are heard between the pins here.")

    def number(time: float) -> float:
        return float(new.numbers[np.abs(new.times - time).argmin()])

    # beats keep the numbers of the nearest hand pin that stays
    zero = left.beat - number(left.time) if left else right.beat - number(right.time) if right else 0.0
    fixed = [Pin(q.time, number(q.time) + zero, hand=True) for q in hand if lo - 1e-9 <= q.time <= hi + 1e-9]
    fixed += [Pin(t, number(t) + zero, hand=True) for t in added if all(abs(t - q.time) > 1e-6 for q in fixed)]
    keep = inside & ~_stray(new, inside)
    t, n = new.times[keep], new.numbers[keep] + zero
    tol = p.tolerance.at(t, p.mix_zones) / 1000
    downs = np.isin(t, new.downbeats)
    first = float(new.downbeats[0]) if len(new.downbeats) else None
    met = sorted(fixed, key=lambda q: q.time)
    close = fit.closeness(new)
    middle = fit.pins_along(t, n, new.confidence[keep], tol, met, downs, first=first, close=close)
    before = tuple(q for q in grid.pins if q.time < lo - 1e-9)
    moved = number(right.time) + zero - right.beat if right else 0.0
    after = tuple(attrs.evolve(q, beat=q.beat + moved) for q in grid.pins if q.time > hi + 1e-9)
    return Grid((*before, *middle, *after), _meter(new, float(round(zero))))


def _stray(heard: Heard, inside: Bools) -> Bools:
    """Which beats can't be trusted; in a recording of hours only those inside, and their neighbours, are looked at."""
    if len(heard.times) <= MOST_AT_ONCE:
        return fit.stray(heard.times, heard.numbers)
    out = np.zeros(len(heard.times), bool)
    at = np.flatnonzero(inside)
    near = slice(max(0, int(at[0]) - fit.LEAST_BEATS), int(at[-1]) + 1 + fit.LEAST_BEATS)
    out[near] = fit.stray(heard.times[near], heard.numbers[near])
    return out


def _around(pins: tuple[Pin, ...], start: float, stop: float, new: Heard) -> tuple[Pin | None, Pin | None]:
    """The pins between which a change from `start` to `stop`, s, is fitted: the neighbouring hand pins.

    In a recording of hours fitted pins some minutes away serve, too: fitting all of it would take too long.
    """
    hand = [q for q in pins if q.hand]
    left = max((q for q in hand if q.time < start - 1e-9), key=lambda q: q.time, default=None)
    right = min((q for q in hand if q.time > stop + 1e-9), key=lambda q: q.time, default=None)
    first, last = np.searchsorted(new.times, [left.time if left else -np.inf, right.time if right else np.inf])
    if last - first > MOST_AT_ONCE and len(pins) > 2:
        before = [q for q in pins if (left.time if left else -np.inf) < q.time < start - _FAR]
        after = [q for q in pins if stop + _FAR < q.time < (right.time if right else np.inf)]
        left, right = (before[-1] if before else left), (after[0] if after else right)
    return left, right


def _steady(new: Heard, added: tuple[float, ...]) -> Grid:
    """One steady tempo; through the pin that was added."""
    grid = fit.fit_steady(new)
    if not added:
        return grid
    beat = float(new.numbers[np.abs(new.times - added[0]).argmin()])
    other = attrs.evolve(
        grid, pins=(Pin(added[0], beat, hand=True), Pin(added[0] + 60 / grid.tempo_overall(), beat + 1))
    )
    return fit.fit_steady(new, like=other)


def _changed(old: Heard, new: Heard, added: tuple[float, ...]) -> tuple[float, float]:
    """From where to where the beats differ, s."""
    gone = np.setdiff1d(old.times, new.times)
    come = np.setdiff1d(new.times, old.times)
    every = np.concatenate([gone, come, np.array(added)])
    return (float(every.min()), float(every.max())) if len(every) else (np.inf, -np.inf)
