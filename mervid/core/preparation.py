"""A track's preparation: everything a person decides about it, as one immutable value.

An edit is a named pure function from preparation to preparation. Undo is the list of values.
"""

from __future__ import annotations

import json
from collections.abc import Callable
from functools import wraps
from typing import Any, Concatenate, ParamSpec

import attrs
import cattrs

from . import drift, fitting
from .drift import Trace
from .errors import FormatError, Refused
from .fitting import Tolerance
from .forms import Form
from .grid import Grid, MeterMark, Pin, steady
from .guided import Hint
from .tracker import Heard

DRAFT, CHECKED, LOCKED = "draft", "checked", "locked"
READINESS = (DRAFT, CHECKED, LOCKED)
LOCKED_WORDS = "This track is locked, so that what you checked stays as it is. Unlock it (Ctrl+L) to change it."
MIX_BARS = 16
LEAST_MS, MOST_MS = 1.0, 100.0
LEAST_ZONE = 0.5


HOT, STANDBY, BOTH = "hot", "standby", "both"
KINDS = (HOT, STANDBY, BOTH)


@attrs.frozen
class Cue:
    """A hot cue (plays at once), a standby cue (a player jumps there and waits), or both at one place.

    Snapped cues hold `beat` and follow the grid; free ones hold `time` in s. Just one of the two is set.

    Attributes
    ----------
    slot : 0 to 7, which of the hot cues it is; None for standby cues, and for hot ones that have no slot
    bars : length of the loop that begins here; 0 for none
    recipe : the recipe that placed it; empty for a hand's
    """

    id: str
    name: str
    beat: float | None = None
    time: float | None = None
    kind: str = HOT
    role: str = "own"
    slot: int | None = None
    bars: int = 0
    recipe: str = ""

    @property
    def is_hot(self) -> bool:
        return self.kind != STANDBY

    @property
    def is_standby(self) -> bool:
        return self.kind != HOT

    def at(self, grid: Grid | None) -> float:
        """Where the cue lies, s."""
        if self.time is not None:
            return self.time
        if grid is None or self.beat is None:
            return 0.0
        return float(grid.time_at(self.beat))


@attrs.frozen
class Seen:
    """A place that was looked at: where it begins, s, and the instants of its beats then (downbeats negative)."""

    start: float
    beats: tuple[float, ...]


@attrs.frozen
class Preparation:
    """Grid, meter (inside the grid), mix zones in s, cues, notes, tolerance and readiness of one track.

    `hints` are what a person told the hearing; `tempo_range` in BPM is where the tempo of this track is expected;
    `seen` are the places of the spot check that were found right. `form` is kept from the first edit of the phrases
    on; until then they are as heard. Bars are counted from beat `origin`, usually the drop, or else from beat 0.
    `line` is a line of words of one's own about the track.
    """

    grid: Grid | None = None
    mix_zones: tuple[tuple[float, float], ...] = ()
    cues: tuple[Cue, ...] = ()
    notes: str = ""
    readiness: str = DRAFT
    tolerance: Tolerance = Tolerance()
    hints: tuple[Hint, ...] = ()
    tempo_range: tuple[float, float] | None = None
    seen: tuple[Seen, ...] = ()
    form: Form | None = None
    origin: float | None = None
    line: str = ""

    @property
    def locked(self) -> bool:
        return self.readiness == LOCKED


_converter = cattrs.Converter(forbid_extra_keys=True, detailed_validation=False)


def to_json(preparation: Preparation) -> str:
    """The preparation as JSON text; floats round-trip exactly (repr of float64)."""
    return json.dumps(_converter.unstructure(preparation), separators=(",", ":"), allow_nan=False)


def from_json(text: str) -> Preparation:
    """Inverse of `to_json`. Raises `FormatError` for anything else."""
    try:
        return _converter.structure(json.loads(text), Preparation)
    except Refused as e:
        raise FormatError(f"The stored grid is not valid: {e}") from None
    except Exception as e:
        raise FormatError(f"This is no preparation: {type(e).__name__}.") from None


def locked_in(text: str) -> bool:
    """Whether the preparation that `to_json` wrote is locked; quicker than reading all of it."""
    return bool(json.loads(text)["readiness"] == LOCKED)


P = ParamSpec("P")
Edit = Callable[Concatenate[Preparation, P], Preparation]


def refuse_locked(p: Preparation) -> None:
    """Raise `Refused`, with why and how to unlock, when `p` is locked."""
    if p.locked:
        raise Refused(LOCKED_WORDS)


def redrafted(before: Preparation, after: Preparation) -> Preparation:
    """`after`; a checked track whose grid changed is a draft again: what was looked at is not what there is."""
    if after.readiness == CHECKED and after.grid != before.grid:
        return attrs.evolve(after, readiness=DRAFT)
    return after


def on_bar_lines(p: Preparation) -> Preparation:
    """Phrases and the origin of counting on bar lines, whatever became of the grid; those that meet become one."""
    grid = p.grid
    if grid is None or (p.form is None and p.origin is None):
        return p

    def line(beat: float) -> float:
        within = float(grid.bar_index(beat + 1e-6)[1])
        return beat if within < 1e-3 else grid.bar_line_near(float(grid.time_at(beat)))

    origin = line(p.origin) if p.origin is not None else None
    form = p.form
    if form is not None:
        end = line(form.end)
        kept = {line(q.start): q for q in reversed(form.phrases)}
        phrases = tuple(attrs.evolve(kept[b], start=b) for b in sorted(kept) if b < end)
        form = Form(phrases, end) if phrases else None
    return p if (origin, form) == (p.origin, p.form) else attrs.evolve(p, origin=origin, form=form)


def renumbered(p: Preparation, grid: Grid, beat: Callable[[float], float], *, snap: bool = False) -> Preparation:
    """`p` under another grid, in which what was at a beat is at `beat(that)`: cues, phrases and the origin of counting.

    Parameters
    ----------
    snap : cues that come to lie near a beat or half-beat go there
    """

    def cue_beat(b: float) -> float:
        new = beat(b)
        near = round(new * 2) / 2
        return near if snap and abs(new - near) < 0.2 else new

    cues = tuple(attrs.evolve(c, beat=cue_beat(c.beat)) if c.beat is not None else c for c in p.cues)
    form = p.form
    if form is not None:
        phrases = tuple(attrs.evolve(q, start=beat(q.start)) for q in form.phrases)
        form = Form(phrases, beat(form.end))
    origin = beat(p.origin) if p.origin is not None else None
    return attrs.evolve(p, grid=grid, cues=cues, form=form, origin=origin)


def carried(p: Preparation, grid: Grid) -> Preparation:
    """`p` under another grid, cues and phrases on the same instants, or on the beat of the new grid beside them."""
    old = p.grid
    if old is None:
        return attrs.evolve(p, grid=grid)
    return renumbered(p, grid, lambda b: float(grid.beat_at(old.time_at(b))), snap=True)


def edit(name: str) -> Callable[[Edit[P]], Edit[P]]:
    """Mark a function as an edit called `name`; a locked preparation refuses it."""

    def wrap(function: Edit[P]) -> Edit[P]:
        @wraps(function)
        def guarded(preparation: Preparation, /, *args: P.args, **kwargs: P.kwargs) -> Preparation:
            refuse_locked(preparation)
            return redrafted(preparation, on_bar_lines(function(preparation, *args, **kwargs)))

        guarded.edit_name = name  # type: ignore[attr-defined]
        return guarded

    return wrap


def grid_of(preparation: Preparation) -> Grid:
    """The grid; raises `Refused` where there is none."""
    if preparation.grid is None:
        raise Refused("There is no grid yet: type a tempo first.")
    return preparation.grid


def mix_zones_of(grid: Grid, heard: Heard, duration: float) -> tuple[tuple[float, float], ...]:
    """The default mix zones: 16 bars from the first and 16 to the last heard beat, a quarter of the track at most."""
    if len(heard.times) < 8:
        return ()
    first, last = float(heard.times[0]), float(heard.times[-1])
    bars = MIX_BARS * grid.beats_per_bar(0.0)
    most = duration / 4
    in_end = float(grid.time_at(grid.beat_at(first) + bars))
    out_start = float(grid.time_at(grid.beat_at(last) - bars))
    return (
        (max(0.0, first - 0.05), min(in_end, first + most)),
        (max(out_start, last - most), min(duration, last + 0.05)),
    )


def propose(heard: Heard, duration: float) -> Preparation:
    """What analysis proposes for a new track: one steady tempo through what was heard, as a draft."""
    try:
        grid = fitting.fit_steady(heard)
    except Refused:
        return Preparation()
    return Preparation(grid=grid, mix_zones=mix_zones_of(grid, heard, duration))


def trace_of(p: Preparation, heard: Heard) -> Trace | None:
    """The drift of what was heard against the grid of `p`; None where either is missing."""
    if p.grid is None or not len(heard.times):
        return None
    return drift.trace(heard.times, p.grid, zones=p.mix_zones, tolerance=p.tolerance)


@edit("One steady tempo")
def make_steady(p: Preparation, heard: Heard) -> Preparation:
    return attrs.evolve(p, grid=fitting.fit_steady(heard, like=p.grid))


@edit("Set steady tempo")
def set_steady(p: Preparation, heard: Heard, tempo: float) -> Preparation:
    """One steady tempo of `tempo` BPM, laid so that the heard beats lie around it as evenly as they can."""
    fitted = fitting.fit_steady(heard, like=p.grid)
    a, b = fitted.pins
    middle, half = (a.time + b.time) / 2, 30 / tempo * (b.beat - a.beat)
    pins = (attrs.evolve(a, time=middle - half), attrs.evolve(b, time=middle + half))
    return attrs.evolve(p, grid=Grid(pins, fitted.meter))


@edit("Set tempo range")
def set_range(p: Preparation, low: float | None, high: float | None) -> Preparation:
    """Where the tempo of this track is expected, BPM; None for the program's own range."""
    return attrs.evolve(p, tempo_range=None if low is None or high is None else (low, high))


@edit("Follow the recording")
def follow_recording(p: Preparation, heard: Heard) -> Preparation:
    return attrs.evolve(
        p,
        grid=fitting.follow(heard, tolerance=p.tolerance, zones=p.mix_zones, like=p.grid),
    )


def _with_pins(p: Preparation, pins: list[Pin]) -> Preparation:
    return attrs.evolve(p, grid=Grid(tuple(sorted(pins, key=lambda q: q.beat)), grid_of(p).meter))


@edit("Add pin")
def add_pin(p: Preparation, beat: float, time: float) -> Preparation:
    """Tie `beat` to `time` by hand; a pin that stands on this beat moves there."""
    pins = [q for q in grid_of(p).pins if abs(q.beat - beat) > 1e-9]
    return _with_pins(p, [*pins, Pin(float(time), float(beat), hand=True)])


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


@edit("Set tolerance")
def set_tolerance(p: Preparation, tight: float, loose: float) -> Preparation:
    """How far a beat may stray, ms, in the mix zones and elsewhere."""
    for value in (tight, loose):
        if not LEAST_MS <= value <= MOST_MS:
            raise Refused(f"A tolerance must lie between {LEAST_MS:g} and {MOST_MS:g} ms, not {value:g}.")
    return attrs.evolve(p, tolerance=Tolerance(tight, max(tight, loose)))


@edit("Set mix zones")
def set_zones(p: Preparation, zones: tuple[tuple[float, float], ...]) -> Preparation:
    """The parts where the track will be mixed, (start, stop) in s; those that touch become one."""
    out: list[tuple[float, float]] = []
    for a, b in sorted((min(z), max(z)) for z in zones):
        if b - a < LEAST_ZONE:
            continue
        if out and a <= out[-1][1]:
            out[-1] = (out[-1][0], max(out[-1][1], b))
        else:
            out.append((float(a), float(b)))
    return attrs.evolve(p, mix_zones=tuple(out))


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


@edit("Write notes")
def write_notes(p: Preparation, text: str) -> Preparation:
    return attrs.evolve(p, notes=text)


@edit("Take over beats")
def take_over(
    p: Preparation,
    grid: Grid,
    cues: tuple[Cue, ...],
    form: Form | None = None,
    origin: float | None = None,
    line: str = "",
) -> Preparation:
    """Replace the grid by an imported one, and all that is counted by it."""
    return attrs.evolve(p, grid=grid, cues=cues, form=form, origin=origin, line=line or p.line)


def set_readiness(p: Preparation, readiness: str) -> Preparation:
    """Draft, checked or locked: the one change that a locked preparation takes."""
    if readiness not in READINESS:
        raise Refused(f"'{readiness}' is no readiness.")
    if readiness == LOCKED and p.grid is None:
        raise Refused("There is no grid to lock yet.")
    return attrs.evolve(p, readiness=readiness)


def name_of(function: Callable[..., Any]) -> str:
    """The name under which an edit stands in the history."""
    return str(function.edit_name)  # type: ignore[attr-defined]
