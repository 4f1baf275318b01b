"""Edits of a whole grid by figure: a tempo from two points, slides by beats, and where the counting begins.

A slide moves the grid over the recording, and what is snapped to it goes along. Renumbering moves no instant: it says
which bar is called the first.
"""

from __future__ import annotations

import attrs
import numpy as np

from ..errors import Refused
from ..fitting import drift
from ..hearing.heard import Heard
from ..model import preparation
from ..model.beatgrid import Grid, MeterMark, Pin, bar_name
from ..model.preparation import Preparation, edit, grid_of
from .grid_edits import check_tempo

EARLY = 0.3
"""Music may begin so many beats after a bar does, and the bar still counts as whole."""


@edit("Slide by beats")
def slide_beats(p: Preparation, beats: float) -> Preparation:
    """Lay the whole grid later by `beats` of its own, earlier if negative; corners of the tempo keep their instants."""
    grid = grid_of(p)
    if len(grid.pins) == 2:
        # one tempo: the pins keep their whole beats and move in time
        times = grid.time_at(grid.beats + beats)
        pins = tuple(attrs.evolve(q, time=float(t)) for q, t in zip(grid.pins, times, strict=True))
    else:
        pins = tuple(attrs.evolve(q, beat=q.beat - beats) for q in grid.pins)
    return attrs.evolve(p, grid=Grid(pins, grid.meter))


@edit("Begin counting here")
def count_from(p: Preparation, time: float) -> Preparation:
    """Call the bar that begins nearest to `time`, s, bar 1. Moves by whole bars, and no instant at all."""
    grid = grid_of(p)
    first = grid.bar_line_near(time)
    if first == 0:
        raise Refused("Bar 1 begins here already.")
    return _renumbered(p, first)


@edit("Begin counting at the first sound")
def count_from_first(p: Preparation, sounds: float) -> Preparation:
    """Call the first whole bar of the music bar 1; `sounds` is the s at which music begins."""
    grid = grid_of(p)
    beat = float(grid.beat_at(sounds))
    index, within = grid.bar_index(beat)
    first = float(grid.bar_start(int(index) + (float(within) > EARLY)))
    if first == 0:
        raise Refused("Bar 1 is the first bar of the music already.")
    return _renumbered(p, first)


def _renumbered(p: Preparation, first: float) -> Preparation:
    """Beat `first` becomes beat 0; nothing moves in time."""
    grid = grid_of(p)
    pins = tuple(attrs.evolve(q, beat=q.beat - first) for q in grid.pins)
    meter = tuple(attrs.evolve(m, beat=m.beat - first) for m in grid.meter)
    return preparation.renumbered(p, Grid(pins, meter), lambda b: b - first)


def bars_between(p: Preparation, heard: Heard | None, first: float, last: float) -> int:
    """How many bars lie between two downbeats at `first` and `last`, s: by what is heard there, else by the grid."""
    size = p.grid.beats_per_bar(0.0) if p.grid is not None else 4
    beats = 0.0
    if heard is not None and len(heard.times) > 1:
        # beats may be missing from what is heard, not from its numbers
        at = np.interp([first, last], heard.times, heard.numbers.astype(float))
        inside = heard.times[0] - 1 <= first and last <= heard.times[-1] + 1
        beats = float(at[1] - at[0]) if inside else 0.0
    if beats <= 0 and p.grid is not None:
        a, b = p.grid.beat_at([first, last])
        beats = float(b - a)
    return max(1, round(beats / size))


@edit("Tempo from two points")
def two_points(p: Preparation, first: float, last: float, bars: int) -> Preparation:
    """One steady tempo through downbeats at `first` and `last`, s, with `bars` bars between; both become hand pins."""
    if bars < 1:
        raise Refused("Between the two downbeats at least one bar must lie.")
    if last - first < 0.5:
        raise Refused("The second downbeat must lie after the first: mark one early and one late in the track.")
    size = p.grid.beats_per_bar(0.0) if p.grid is not None else 4
    check_tempo(60 * bars * size / (last - first))
    start, meter = 0.0, (MeterMark(0.0, size),)
    if p.grid is not None:
        # the bar keeps its number, as far as the count before is worth anything
        index, within = p.grid.bar_index(float(p.grid.beat_at(first)))
        start = float(size * (int(index) + (float(within) > size / 2)))
    pins = (Pin(first, start, hand=True), Pin(last, start + bars * size, hand=True))
    grid = Grid(pins, meter)
    return preparation.carried(p, grid)


@edit("Change the tempo")
def retune(p: Preparation, by: float) -> Preparation:
    """Make every tempo faster by one factor, so that the whole changes by `by` BPM.

    The first hand pin keeps its place, or else the first downbeat.
    """
    grid = grid_of(p)
    tempo = grid.tempo_overall() + by
    check_tempo(tempo)
    factor = grid.tempo_overall() / tempo
    fixed = next((q.time for q in grid.pins if q.hand), float(grid.time_at(0.0)))
    pins = tuple(attrs.evolve(q, time=fixed + (q.time - fixed) * factor) for q in grid.pins)
    return attrs.evolve(p, grid=Grid(pins, grid.meter))


@edit("Round the tempo")
def round_tempo(p: Preparation) -> Preparation:
    """The nearest whole tempo, turned about the middle of the pins, so that both ends move by the least."""
    grid = grid_of(p)
    tempo = grid.tempo_overall()
    whole = float(round(tempo))
    check_tempo(whole)
    if len(grid.pins) > 2:
        raise Refused("The tempo changes here: one whole number for all of it would lose what was followed.")
    hand = [q for q in grid.pins if q.hand]
    if len(hand) > 1:
        raise Refused("Two hand pins hold this tempo: remove one of them to round it.")
    if whole == tempo:
        raise Refused(f"The tempo is {whole:.0f} BPM already.")
    middle = float(grid.times.mean())
    anchor = hand[0] if hand else Pin(middle, float(grid.beat_at(middle)))
    pins = tuple(attrs.evolve(q, time=anchor.time + 60 / whole * (q.beat - anchor.beat)) for q in grid.pins)
    return attrs.evolve(p, grid=Grid(pins, grid.meter))


def off_by_most(p: Preparation, heard: Heard | None) -> tuple[float, float] | None:
    """The worst that heard beats lie off the grid, ms, and at which s; None where nothing is heard."""
    trace = drift.trace_of(p, heard) if heard is not None else None
    if trace is None or not len(trace.error):
        return None
    # one stray beat is no tempo: the worst run of four
    error = np.abs(trace.error)
    if len(error) >= 4:
        error = np.min(np.lib.stride_tricks.sliding_window_view(error, 4), axis=1)
    at = int(error.argmax())
    return float(error[at]), float(trace.times[at])


@edit("Set beats a bar")
def set_meter(p: Preparation, time: float, beats: int) -> Preparation:
    """From the bar at `time`, s, on, bars have so many beats."""
    if not 1 <= beats <= 32:
        raise Refused(f"A bar has 1 to 32 beats, not {beats}.")
    grid = grid_of(p)
    index, _ = grid.bar_index(float(grid.beat_at(time)) + 1e-6)
    at = float(grid.bar_start(int(index)))
    if grid.beats_per_bar(at) == beats:
        raise Refused(f"Bar {bar_name(int(index))} has {beats} beats already.")
    return attrs.evolve(p, grid=Grid(grid.pins, _marked(grid, MeterMark(at, beats))))


@edit("Begin the count anew")
def restart(p: Preparation, time: float) -> Preparation:
    """Begin a bar on the beat nearest `time`, s, whatever was counted before: the bar before it may be odd."""
    grid = grid_of(p)
    beat = float(round(float(grid.beat_at(time))))
    if float(grid.bar_index(beat)[1]) == 0:
        raise Refused(f"A bar begins here already ({grid.name_at(beat)}).")
    # marks that follow keep their bar lines
    return attrs.evolve(p, grid=Grid(grid.pins, _marked(grid, MeterMark(beat, grid.beats_per_bar(beat)))))


@edit("Count through")
def count_through(p: Preparation, time: float) -> Preparation:
    """Take away the odd bar or change of meter nearest to `time`, s: the count before it goes on."""
    grid = grid_of(p)
    if len(grid.meter) < 2:
        raise Refused("The count never begins anew here: there is no odd bar to take away.")
    at = grid.time_at([m.beat for m in grid.meter[1:]])
    gone = 1 + int(np.abs(at - time).argmin())
    return attrs.evolve(p, grid=Grid(grid.pins, tuple(m for i, m in enumerate(grid.meter) if i != gone)))


def _marked(grid: Grid, mark: MeterMark) -> tuple[MeterMark, ...]:
    """The meter with one more mark; one on the same beat gives way."""
    kept = [m for m in grid.meter if m.beat != mark.beat]
    first = grid.meter[0]
    if mark.beat < first.beat:
        # what came before the first mark is counted backwards from it
        back = first.beats_per_bar * float(np.ceil((first.beat - mark.beat) / first.beats_per_bar))
        if first.beat - back != mark.beat:
            kept = [MeterMark(first.beat - back, first.beats_per_bar), *kept]
    return tuple(sorted([*kept, mark], key=lambda m: m.beat))
