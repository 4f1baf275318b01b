"""Edits of a part of the track: pins over a selection, a tempo of its own, a ramp, a pause.

What lies outside the part keeps every instant. Where the part holds more or fewer beats than were counted there, the
count after it moves; bar lines after it stay on their instants.
"""

from __future__ import annotations

import attrs
import numpy as np

from ..arrays import Bools, Floats
from ..errors import Refused
from ..fitting import fit
from ..fitting.beat_numbers import own_beats
from ..hearing.heard import Heard
from ..maths import regression
from ..maths.polyline import fewest_pins
from ..model import preparation
from ..model.beatgrid import Grid, MeterMark, Pin
from ..model.hints import QUIET, Hint
from ..model.preparation import Preparation, edit, grid_of
from .grid_edits import check_tempo

LONGEST_BEAT = 5.9
"""A pause longer than this many s needs a beat inside: the slowest tempo a grid can have is 10 BPM."""
_CURVE = 0.001
_SAME_LEVEL = 1.2


@attrs.frozen
class Edges:
    """A part in whole beats of the grid; None where it reaches the beginning or the end of the track."""

    first: float | None
    last: float | None


def edges(grid: Grid, start: float, stop: float, duration: float, *, bars: bool = True) -> Edges:
    """The part from `start` to `stop` s on the nearest bar lines (or beats), open where it reaches an end of the track.

    Raises `Refused` for a part without a beat in it.
    """

    def near(time: float) -> float:
        return grid.bar_line_near(time) if bars else float(round(float(grid.beat_at(time))))

    first = None if start <= 0.05 else near(start)
    last = None if stop >= duration - 0.05 else near(stop)
    if first is not None and last is not None and last - first < 1:
        raise Refused("This part is shorter than a bar: choose a longer one.")
    return Edges(first, last)


def _spliced(p: Preparation, part: Edges, inner: list[Pin], margin: float) -> Preparation:
    """The grid with `inner` pins in the part; outside it as it was.

    `inner` begins on the part's first beat and ends on its last, which may have another number now. Where it doesn't
    meet the grid outside, the `margin` beats before and after the part take up the difference.
    """
    grid = grid_of(p)
    left: list[Pin] = []
    right: list[Pin] = []
    moved = 0.0
    if part.first is not None:
        hold = part.first
        if abs(inner[0].time - float(grid.time_at(part.first))) > 1e-9:
            hold = part.first - margin
        left = [q for q in grid.pins if q.beat < hold - 1e-9]
        left.append(_held(grid, hold))
        if len(left) < 2:
            left.insert(0, _held(grid, hold - 4))
    if part.last is not None:
        moved = inner[-1].beat - part.last
        hold = part.last
        if abs(inner[-1].time - float(grid.time_at(part.last))) > 1e-9:
            hold = part.last + margin
        right = [_held(grid, hold), *(q for q in grid.pins if q.beat > hold + 1e-9)]
        if len(right) < 2:
            right.append(_held(grid, hold + 4))
        right = [attrs.evolve(q, beat=q.beat + moved) for q in right]
    taken = {q.beat for q in inner}
    outside = [q for q in (*left, *right) if q.beat not in taken]
    pins = tuple(sorted((*outside, *inner), key=lambda q: q.beat))
    made = Grid(pins, _meter_moved(grid, part, moved))
    return preparation.carried(p, made)


def _held(grid: Grid, beat: float) -> Pin:
    """A pin where the grid is; the one that stands there, if any."""
    for q in grid.pins:
        if abs(q.beat - beat) < 1e-9:
            return q
    return Pin(float(grid.time_at(beat)), beat)


def _meter_moved(grid: Grid, part: Edges, moved: float) -> tuple[MeterMark, ...]:
    """The meter, its bar lines after the part on the instants where they were."""
    if not moved or part.last is None:
        return grid.meter
    index, within = grid.bar_index(part.last)
    opens = float(grid.bar_start(int(index) + (float(within) > 1e-6)))
    before = [m for m in grid.meter if m.beat < part.last]
    after = [attrs.evolve(m, beat=m.beat + moved) for m in grid.meter if m.beat >= part.last]
    mark = MeterMark(opens + moved, grid.beats_per_bar(opens))
    # a bar line falls there by itself, or some mark says so already
    plain = before and (mark.beat - before[-1].beat) % before[-1].beats_per_bar == 0
    same = bool(plain) and before[-1].beats_per_bar == mark.beats_per_bar
    before = [m for m in before if m.beat < mark.beat]
    extra = [] if same or any(m.beat == mark.beat for m in after) else [mark]
    return tuple([*before, *extra, *after]) or (mark,)


def _own(grid: Grid, heard: Heard, part: Edges) -> tuple[Floats, Floats, Bools]:
    """Times (s) and grid numbers of the trusted heard beats in the part, and which begin a bar; one for each number."""
    keep = ~fit.stray(heard.times, heard.numbers)
    times = heard.times[keep]
    numbers = own_beats(times, grid)
    low = -np.inf if part.first is None else part.first - 1e-6
    high = np.inf if part.last is None else part.last + 1e-6
    inside = (numbers >= low) & (numbers <= high) & (np.abs(numbers - np.round(numbers)) < 1e-6)
    times, numbers = times[inside], np.round(numbers[inside])
    once = np.concatenate([[True], np.diff(np.maximum.accumulate(numbers)) > 0]) if len(numbers) else inside[:0]
    times, numbers = times[once], numbers[once]
    return times, numbers, np.asarray(np.abs(grid.bar_index(numbers)[1]) < 1e-6)


@edit("Pin the part")
def pin_every(p: Preparation, heard: Heard, part: Edges, beats: float) -> Preparation:
    """A hand pin on what is heard at every beat (`beats` 1) or every so many bars' beats of the part, in one action.

    Pins that stand there already stay if a hand set them. Places where no beat is heard get none.
    """
    grid = grid_of(p)
    times, numbers, _ = _own(grid, heard, part)
    index, within = grid.bar_index(numbers)
    bar = beats / grid.beats_per_bar(0.0)
    wanted = (np.abs(within) < 1e-6) & (index % max(1, round(bar)) == 0) if beats > 1 else np.ones(len(numbers), bool)
    hand = [q for q in grid.pins if q.hand and _inside(q.beat, part)]
    free = wanted & ~np.isin(numbers, [q.beat for q in hand])
    new = [Pin(float(t), float(n), hand=True) for t, n in zip(times[free], numbers[free], strict=True)]
    if not new:
        raise Refused("No beat is heard where a pin could be set here: choose another part, or pin by hand.")
    return _spliced(p, _met(part, [*hand, *new]), sorted([*hand, *new], key=lambda q: q.beat), _bar(grid))


@edit("Follow in the part")
def follow_part(p: Preparation, heard: Heard, part: Edges) -> Preparation:
    """The fewest pins that keep the beats heard in the part within tolerance; hand pins stay."""
    grid = grid_of(p)
    times, numbers, downs = _own(grid, heard, part)
    if len(times) < 2:
        raise Refused("Too few beats are heard in this part to follow.")
    hand = [q for q in grid.pins if q.hand and _inside(q.beat, part)]
    tolerance = p.tolerance.at(times, p.mix_zones) / 1000
    confidence = heard.confidence[np.searchsorted(heard.times, times)]
    close = fit.closeness(heard)
    inner = list(fit.pins_along(times, numbers, confidence, tolerance, hand, downs, close=close))
    return _spliced(p, _met(part, inner), inner, _bar(grid))


def _bar(grid: Grid) -> float:
    return float(grid.beats_per_bar(0.0))


def _inside(beat: float, part: Edges) -> bool:
    return (part.first is None or beat >= part.first) and (part.last is None or beat <= part.last)


def _met(part: Edges, inner: list[Pin]) -> Edges:
    """The part cut to where its pins begin and end."""
    beats = [q.beat for q in inner]
    return Edges(None if part.first is None else min(beats), None if part.last is None else max(beats))


def measured_tempo(grid: Grid, heard: Heard, part: Edges) -> float:
    """The steady tempo that fits what is heard in the part best, BPM. Raises `Refused` for fewer than 4 beats."""
    times, numbers, weights = _heard_within(grid, heard, part)
    return 60 / regression.fit_line(numbers, times, weights)[1]


def _heard_within(grid: Grid, heard: Heard, part: Edges) -> tuple[Floats, Floats, Floats]:
    """Times, the hearing's own numbers and weights of the beats heard in the part."""
    start = -np.inf if part.first is None else float(grid.time_at(part.first)) - 0.05
    stop = np.inf if part.last is None else float(grid.time_at(part.last)) + 0.05
    inside = (heard.times >= start) & (heard.times <= stop)
    if inside.sum() < 4:
        raise Refused("Too few beats are heard in this part to measure its tempo: type it.")
    return heard.times[inside], heard.numbers[inside].astype(float), heard.confidence[inside] + 0.05


@edit("Own tempo for the part")
def own_tempo(p: Preparation, heard: Heard | None, part: Edges, tempo: float | None = None) -> Preparation:
    """One steady tempo for the part: typed, BPM, or measured from what is heard there.

    It lies where the beats are heard; without any it begins on the part's first beat.
    """
    grid = grid_of(p)
    start = float(grid.time_at(part.first)) if part.first is not None else float(grid.times[0])
    line: tuple[float, float] | None = None
    if heard is not None and (tempo is None or len(heard.times) >= 4):
        try:
            times, numbers, weights = _heard_within(grid, heard, part)
        except Refused:
            if tempo is None:
                raise
        else:
            origin, period = regression.fit_line(numbers, times, weights)
            if tempo is None:
                line = origin, period
            elif 1 / _SAME_LEVEL < tempo * period / 60 < _SAME_LEVEL:
                middle = float(np.median(times - 60 / tempo * numbers))
                line = middle, 60 / tempo
    if tempo is None and line is None:
        raise Refused("Nothing is heard here to measure a tempo by: type one.")
    if tempo is not None:
        check_tempo(tempo)
    origin, period = line if line is not None else (start, 60 / float(tempo or 0))
    began = origin + period * round((start - origin) / period)
    first = part.first if part.first is not None else float(round(float(grid.beat_at(began))))
    if part.last is None:
        inner = [Pin(began, first, hand=True), Pin(began + 8 * period, first + 8, hand=True)]
        return _spliced(p, Edges(part.first, None), inner, 1.0)
    end = float(grid.time_at(part.last))
    count = round((end - began) / period)
    if count < 2:
        raise Refused("This part is too short for a tempo of its own: choose two beats or more.")
    inner = [Pin(began, first, hand=True), Pin(began + (count - 1) * period, first + count - 1, hand=True)]
    inner.append(Pin(end, first + count, hand=True))
    return _spliced(p, Edges(part.first, part.last), inner, 1.0)


@edit("Ramp")
def ramp(p: Preparation, part: Edges, tempo_from: float, tempo_to: float) -> Preparation:
    """The tempo goes evenly over time from `tempo_from` to `tempo_to`, BPM, over the part.

    Both bar lines stay, so the tempi are met as closely as a whole number of beats allows. While the tempo grows
    evenly, the beats passed are the integral of a straight line.
    """
    if part.first is None or part.last is None:
        raise Refused("A ramp needs a bar where it begins and one where it ends: choose a part inside the track.")
    for tempo in (tempo_from, tempo_to):
        check_tempo(tempo)
    grid = grid_of(p)
    start, stop = (float(x) for x in grid.time_at([part.first, part.last]))
    count = max(2, round((stop - start) * (tempo_from + tempo_to) / 120))
    beats = np.arange(count + 1, dtype=float)
    passed = beats / count * (tempo_from + tempo_to) / 2
    share = 2 * passed / (tempo_from + np.sqrt(tempo_from**2 + 2 * (tempo_to - tempo_from) * passed))
    times = start + (stop - start) * share
    tube = np.full(len(times), _CURVE)
    tube[[0, -1]] = 0
    knots, at = fewest_pins(times, beats, tube)
    inner = [Pin(float(t), part.first + float(k), hand=True) for k, t in zip(knots, at, strict=True)]
    inner[0], inner[-1] = attrs.evolve(inner[0], time=start), attrs.evolve(inner[-1], time=stop)
    return _spliced(p, part, inner, 1.0)


@edit("Pause")
def pause(p: Preparation, start: float, stop: float) -> Preparation:
    """No beats run from `start` to `stop`, s: the beat after the pause follows the last one before it."""
    grid = grid_of(p)
    first = float(np.floor(float(grid.beat_at(start)) + 0.25))
    last = float(np.ceil(float(grid.beat_at(stop)) - 0.25))
    if last - first < 2:
        raise Refused("This part holds no whole beat: a pause must be longer than that.")
    a, b = (float(x) for x in grid.time_at([first, last]))
    count = int(np.ceil((b - a) / LONGEST_BEAT))
    inner = [Pin(a, first, hand=True), Pin(b, first + count, hand=True)]
    made = _spliced(p, Edges(first, last), inner, 1.0)
    return attrs.evolve(made, hints=(*made.hints, Hint(QUIET, a + 0.05, b - 0.05)))
