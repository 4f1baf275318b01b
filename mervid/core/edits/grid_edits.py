"""Edits of the grid: pins, tempo, level, where a bar begins. Each leaves what it does not name where it is."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from operator import attrgetter

import attrs

from ..errors import Refused
from ..fitting import fit
from ..hearing.heard import Heard
from ..model.beatgrid import Grid, MeterMark, Pin, steady
from ..model.preparation import Preparation, carried, edit, grid_of, renumbered


@edit("One steady tempo")
def make_steady(p: Preparation, heard: Heard) -> Preparation:
    return attrs.evolve(p, grid=fit.fit_steady(heard, like=p.grid))


@edit("Set steady tempo")
def set_steady(p: Preparation, heard: Heard, tempo: float) -> Preparation:
    """One steady tempo of `tempo` BPM, laid so that the heard beats lie around it as evenly as they can."""
    fitted = fit.fit_steady(heard, like=p.grid)
    a, b = fitted.pins
    middle, half = (a.time + b.time) / 2, 30 / tempo * (b.beat - a.beat)
    pins = (attrs.evolve(a, time=middle - half), attrs.evolve(b, time=middle + half))
    return attrs.evolve(p, grid=Grid(pins, fitted.meter))


@edit("Follow the recording")
def follow_recording(p: Preparation, heard: Heard) -> Preparation:
    return attrs.evolve(
        p,
        grid=fit.follow(heard, tolerance=p.tolerance, zones=p.mix_zones, like=p.grid),
    )


def _with_pins(p: Preparation, pins: list[Pin]) -> Preparation:
    return attrs.evolve(p, grid=Grid(tuple(sorted(pins, key=lambda q: q.beat)), grid_of(p).meter))


@edit("Add pin")
def add_pin(p: Preparation, beat: float, time: float) -> Preparation:
    """Tie `beat` to `time` by hand; a pin that stands on this beat moves there."""
    grid, by_beat = grid_of(p), attrgetter("beat")
    first = bisect_left(grid.pins, beat - 1e-9, key=by_beat)
    after = bisect_right(grid.pins, beat + 1e-9, key=by_beat)
    pins = (*grid.pins[:first], Pin(float(time), float(beat), hand=True), *grid.pins[after:])
    return attrs.evolve(p, grid=Grid(pins, grid.meter))


@edit("Move pin")
def move_pin(p: Preparation, index: int, time: float) -> Preparation:
    """Move pin `index` to `time`, s; it becomes a hand pin, and only the two spans beside it change.

    An end pin also governs the time beyond it, so that its neighbour's outer span keeps no other shape.
    """
    pins = list(grid_of(p).pins)
    pins[index] = Pin(float(time), pins[index].beat, hand=True)
    return _with_pins(p, pins)


@edit("Remove pin")
def remove_pin(p: Preparation, index: int) -> Preparation:
    pins = list(grid_of(p).pins)
    if len(pins) <= 2:
        raise Refused("These are the last two pins: without them there is no tempo.")
    del pins[index]
    return _with_pins(p, pins)


@edit("Slide grid")
def slide(p: Preparation, ms: float) -> Preparation:
    """Move the whole grid later by `ms` (earlier if negative)."""
    return _with_pins(p, [attrs.evolve(q, time=q.time + ms / 1000) for q in grid_of(p).pins])


@edit("Set tempo")
def set_tempo(p: Preparation, tempo: float, *, first: float = 0.0) -> Preparation:
    """One steady tempo of `tempo` BPM, kept in place at the first hand pin, or else at the first downbeat.

    Where there is no grid yet, the first downbeat is put at `first` s.
    """
    check_tempo(tempo)
    if p.grid is None:
        return attrs.evolve(p, grid=steady(tempo=tempo, first=first))
    hand = [q for q in p.grid.pins if q.hand]
    anchor = hand[0] if hand else Pin(float(p.grid.time_at(0.0)), 0.0)
    last = max(anchor.beat + 1, p.grid.pins[-1].beat)
    return _with_pins(p, [anchor, Pin(anchor.time + 60 / tempo * (last - anchor.beat), last)])


LEAST_TYPED, MOST_TYPED = 20.0, 999.0


def check_tempo(tempo: float) -> None:
    """Raise `Refused` unless `tempo` in BPM is one that a person may ask for."""
    if not LEAST_TYPED <= tempo <= MOST_TYPED:
        raise Refused(f"Tempo must lie between {LEAST_TYPED:.0f} and {MOST_TYPED:.0f} BPM, not {tempo:g}.")


def _scaled(p: Preparation, factor: float) -> Preparation:
    grid = grid_of(p)
    pins = tuple(attrs.evolve(q, beat=q.beat * factor) for q in grid.pins)
    for m in grid.meter:
        if abs(m.beat * factor - round(m.beat * factor)) > 1e-6:
            every = "counting every second beat" if factor == 0.5 else "this count"
            raise Refused(f"A bar begins on the odd beat at {grid.name_at(m.beat)}: {every} would lose it.")
    # a bar keeps its number of beats, so at double speed there are twice as many bars; marks stay at their instants
    marks = tuple(MeterMark(float(round(m.beat * factor)), m.beats_per_bar) for m in grid.meter)
    return renumbered(p, Grid(pins, marks), lambda b: b * factor)


@edit("Count 3 for 2")
def three_for_two(p: Preparation) -> Preparation:
    """Count three beats where two were counted; no pin and no cue moves in time."""
    return _scaled(p, 1.5)


@edit("Count 2 for 3")
def two_for_three(p: Preparation) -> Preparation:
    """Count two beats where three were counted; no pin and no cue moves in time."""
    return _scaled(p, 2 / 3)


@edit("Halve tempo")
def halve(p: Preparation) -> Preparation:
    """Count every second beat; no pin and no cue moves in time."""
    return _scaled(p, 0.5)


@edit("Double tempo")
def double(p: Preparation) -> Preparation:
    """Count twice as many beats; no pin and no cue moves in time."""
    return _scaled(p, 2.0)


@edit("Set downbeat")
def set_downbeat(p: Preparation, time: float) -> Preparation:
    """Begin a bar on the beat nearest `time`. No time changes: the count moves by fewer beats than a bar has.

    Under the first meter mark the whole count moves; a later mark moves alone.
    """
    grid = grid_of(p)
    beat = float(round(float(grid.beat_at(time))))
    size = grid.beats_per_bar(beat)
    shift = float(grid.bar_index(beat)[1])
    if shift == 0:
        raise Refused(f"A bar begins here already ({grid.name_at(beat)}).")
    if shift > size / 2:
        shift -= size
    mark = sum(m.beat <= beat for m in grid.meter[1:])
    if mark:
        meter = tuple(attrs.evolve(m, beat=m.beat + shift * (i == mark)) for i, m in enumerate(grid.meter))
        return attrs.evolve(p, grid=Grid(grid.pins, meter))
    meter = tuple(attrs.evolve(m, beat=m.beat - shift * (i > 0)) for i, m in enumerate(grid.meter))
    pins = tuple(attrs.evolve(q, beat=q.beat - shift) for q in grid.pins)
    return renumbered(p, Grid(pins, meter), lambda b: b - shift)


@edit("Go back to what was heard")
def revert(p: Preparation, first: Preparation) -> Preparation:
    """The grid that analysis proposed (`first`), all hand pins and hints forgotten; cues stay on their instants."""
    if first.grid is None:
        raise Refused("Nothing was heard in this recording, so there is nothing to go back to.")
    return attrs.evolve(carried(p, first.grid), hints=first.hints)


@edit("Go back to the locked grid")
def restore(p: Preparation, grid: Grid) -> Preparation:
    """The grid as it was when the track was last locked; cues stay on their instants."""
    return carried(p, grid)
