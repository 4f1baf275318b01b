"""Cues: places to come in and to get out, set by hand or by a recipe, snapped to the grid or free.

A hot cue plays at once and sits in one of eight slots; a standby cue is where a player jumps to and waits; one cue
can be both. Snapped cues keep their beat and follow the grid when it improves; free ones keep their instant.
"""

from __future__ import annotations

import uuid

import attrs
import numpy as np

from ..errors import Refused
from ..fitting.drift import Trace
from ..model.beatgrid import Grid
from ..model.cue import BOTH, HOT, KINDS, MOST_LOOP, SLOTS, STANDBY, Cue
from ..model.preparation import Preparation, edit, grid_of

DOWNBEAT, BEAT, HALF, FREE = "downbeat", "beat", "half-beat", "free"
SNAPS = (DOWNBEAT, BEAT, HALF, FREE)
CUE_ROLES = (
    "first beat", "mid-intro", "vocal", "verse", "chorus", "break", "build", "drop", "outro", "mid-outro", "loop",
    "own",
)  # fmt: skip
LOOPS = (0, 1, 2, 4, 8, 16, 32)
RUNS_LONG_MS = 8.0
"""A loop whose seam is off by less than this can run for long."""
_SAME = 1e-6


def snapped(grid: Grid, time: float, snap: str) -> float:
    """The downbeat, beat or half-beat nearest to `time`, s, that lies inside the recording: a beat number."""
    if snap == DOWNBEAT:
        beat = grid.bar_line_near(time)
        if grid.precedes(beat):
            beat = float(grid.bar_start(int(grid.bar_index(beat)[0]) + 1))
        return beat
    step = 1.0 if snap == BEAT else 0.5
    beat = round(float(grid.beat_at(time)) / step) * step
    while grid.precedes(beat):
        beat += step
    return beat


def free_slot(p: Preparation) -> int | None:
    """The first hot slot with nothing in it."""
    taken = {c.slot for c in p.cues if c.is_hot}
    return next((n for n in range(SLOTS) if n not in taken), None)


def in_slot(p: Preparation, slot: int) -> Cue | None:
    """The hot cue in a slot; hot cues from before there were slots count in order of time."""
    for c in p.cues:
        if c.is_hot and c.slot == slot:
            return c
    rest = [c for c in p.cues if c.is_hot and c.slot is None]
    taken = {c.slot for c in p.cues if c.is_hot}
    free = [n for n in range(SLOTS) if n not in taken]
    return rest[free.index(slot)] if slot in free and free.index(slot) < len(rest) else None


def ordered(p: Preparation, cues: list[Cue]) -> Preparation:
    """`p` with these cues, in order of time."""
    return attrs.evolve(p, cues=tuple(sorted(cues, key=lambda c: c.at(p.grid))))


def _index(p: Preparation, cue_id: str) -> int:
    for i, c in enumerate(p.cues):
        if c.id == cue_id:
            return i
    raise Refused("This cue is gone.")


def _with(p: Preparation, i: int, **changes: object) -> Preparation:
    cue = attrs.evolve(p.cues[i], recipe="", **changes)  # type: ignore[arg-type]
    return ordered(p, [*p.cues[:i], cue, *p.cues[i + 1 :]])


def _refuse_taken(p: Preparation, beat: float | None, time: float | None, but: str = "") -> None:
    for c in p.cues:
        if c.id != but and ((beat is not None and c.beat == beat) or (time is not None and c.time == time)):
            place = grid_of(p).name_at(beat) if beat is not None else f"{time:.3f} s"
            raise Refused(f"A cue stands on {place} already.")


@edit("Set cue")
def add_cue(
    p: Preparation,
    time: float,
    *,
    snap: str = DOWNBEAT,
    name: str = "",
    kind: str = HOT,
    role: str = "own",
    slot: int | None = None,
) -> Preparation:
    """Set a cue at `time`, s, moved to the nearest downbeat, beat or half-beat and tied to it, or free.

    A hot cue takes `slot`, or the first free one. What stood in `slot` gives way.

    Raises
    ------
    Refused
        A cue stands there already, or all eight slots are taken.
    """
    beat = None if snap == FREE else snapped(grid_of(p), time, snap)
    kept = [c for c in p.cues if slot is None or in_slot(p, slot) is not c]
    p = attrs.evolve(p, cues=tuple(kept))
    _refuse_taken(p, beat, float(time) if beat is None else None)
    if kind != STANDBY and slot is None:
        slot = free_slot(p)
        if slot is None:
            raise Refused("All eight hot cues are set: delete one, or set a standby cue.")
    taken = {c.name for c in p.cues}
    number = next(n for n in range(1, len(p.cues) + 2) if f"Cue {n}" not in taken)
    cue = Cue(
        uuid.uuid4().hex[:12],
        name.strip()[:80] or (role.capitalize() if role != "own" else f"Cue {number}"),
        beat,
        float(time) if beat is None else None,
        kind,
        role,
        slot if kind != STANDBY else None,
    )
    return ordered(p, [*kept, cue])


@edit("Move cue")
def move_cue(p: Preparation, cue_id: str, time: float, *, snap: str = DOWNBEAT) -> Preparation:
    """Put a cue elsewhere, snapped or free."""
    i = _index(p, cue_id)
    beat = None if snap == FREE else snapped(grid_of(p), time, snap)
    _refuse_taken(p, beat, None, but=cue_id)
    return _with(p, i, beat=beat, time=max(0.0, float(time)) if beat is None else None)


@edit("Rename cue")
def rename_cue(p: Preparation, cue_id: str, name: str) -> Preparation:
    i = _index(p, cue_id)
    if not name.strip():
        raise Refused("A cue needs a name.")
    return _with(p, i, name=name.strip()[:80])


@edit("Delete cue")
def delete_cue(p: Preparation, cue_id: str) -> Preparation:
    i = _index(p, cue_id)
    return attrs.evolve(p, cues=p.cues[:i] + p.cues[i + 1 :])


@edit("Change a cue's slot")
def set_slot(p: Preparation, cue_id: str, slot: int) -> Preparation:
    """Put a hot cue into another slot, 0 to 7; the one that stands there takes its place."""
    if not 0 <= slot < SLOTS:
        raise Refused(f"Slots are 1 to {SLOTS}, not {slot + 1}.")
    i = _index(p, cue_id)
    cue = p.cues[i]
    if not cue.is_hot:
        raise Refused("A standby cue has no slot: make it hot first.")
    other = in_slot(p, slot)
    cues = list(p.cues)
    if other is not None and other.id != cue_id:
        cues[_index(p, other.id)] = attrs.evolve(other, slot=cue.slot)
    cues[i] = attrs.evolve(cue, slot=slot, recipe="")
    return attrs.evolve(p, cues=tuple(cues))


@edit("Change a cue's kind")
def set_kind(p: Preparation, cue_id: str, kind: str) -> Preparation:
    """Hot, standby, or both at one place."""
    if kind not in KINDS:
        raise Refused(f"A cue is {HOT}, {STANDBY} or {BOTH}, not '{kind}'.")
    i = _index(p, cue_id)
    slot = p.cues[i].slot
    if kind == STANDBY:
        slot = None
    elif slot is None:
        slot = free_slot(p)
        if slot is None:
            raise Refused("All eight hot cues are set: this one can only be a standby cue.")
    return _with(p, i, kind=kind, slot=slot)


@edit("Change a cue's role")
def set_cue_role(p: Preparation, cue_id: str, role: str) -> Preparation:
    if role not in CUE_ROLES:
        raise Refused(f"'{role}' is no role of a cue.")
    return _with(p, _index(p, cue_id), role=role)


@edit("Set a cue's loop")
def set_loop(p: Preparation, cue_id: str, bars: int) -> Preparation:
    """A loop of so many bars that begins at the cue; 0 for none."""
    if not 0 <= bars <= MOST_LOOP:
        raise Refused(f"A loop has 1 to {MOST_LOOP} bars, not {bars}.")
    return _with(p, _index(p, cue_id), bars=bars)


# loops


def loop_of(p: Preparation, cue: Cue) -> tuple[float, float] | None:
    """Where a cue's loop begins and ends, s; None without a loop or a grid."""
    if p.grid is None or not cue.bars:
        return None
    start = cue.at(p.grid)
    beat = float(p.grid.beat_at(start))
    index, within = p.grid.bar_index(beat + _SAME)
    stop = float(p.grid.bar_start(int(index) + cue.bars)) + float(within) - _SAME
    return start, float(p.grid.time_at(stop))


def seam_error(trace: Trace, loop: tuple[float, float], beat_s: float) -> float | None:
    """How much later (ms) the beat is at a loop's end than at its beginning, against the grid: what is heard as a jump.

    The middle error of the beats heard within a beat and a half of either end; None where none are heard.
    """
    ends = []
    for at in loop:
        near = np.abs(trace.times - at) < 1.5 * beat_s
        if not near.any():
            return None
        ends.append(float(np.median(trace.error[near])))
    return ends[1] - ends[0]


def seam_words(error: float | None) -> str:
    """Whether a loop can run for long, in words."""
    if error is None:
        return "seam not heard"
    sign = "late" if error > 0 else "early"
    if abs(error) < 0.05:
        return "seam exact: can run"
    return f"seam {abs(error):.1f} ms {sign}: " + ("can run" if abs(error) <= RUNS_LONG_MS else "a few rounds only")
