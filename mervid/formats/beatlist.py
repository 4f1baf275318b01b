"""A plain text list of beats: `time<TAB>position` a line, six decimals, position 1 on a downbeat.

The usual form of beat annotations in music information retrieval (mir_eval reads its first column). UTF-8, LF, no
header. Reading also takes spaces or commas between the columns, a missing second column, and lines that begin with #.
"""

from __future__ import annotations

import numpy as np

from ..core.arrays import Floats, Ints
from ..core.errors import FormatError
from ..core.maths.polyline import fewest_pins
from ..core.model.beatgrid import Grid, MeterMark, Pin
from ..core.model.validation import MOST_S
from . import limits

EXACT = 0.6e-6


def write(times: Floats, position: Ints) -> str:
    """The text for beats at `times` (n,) s with `position` (n,) in the bar.

    >>> write(np.array([0.5, 1.0]), np.array([1, 2]))
    '0.500000\\t1\\n1.000000\\t2\\n'
    """
    return "".join(f"{t:.6f}\t{p}\n" for t, p in zip(times.tolist(), position.tolist(), strict=True))


def read(text: str) -> tuple[Floats, Ints]:
    """Times (n,) s and positions (n,) in the bar; positions are 0 where the file has none.

    Raises
    ------
    FormatError
        Names the first line that is no beat, or says that the times don't rise.
    """
    times: list[float] = []
    position: list[int] = []
    lines = text.splitlines()
    limits.refuse_many(lines, limits.MOST_LINES, "lines")
    for number, line in enumerate(lines, 1):
        parts = line.replace(",", " ").split()
        if not parts or parts[0].startswith("#"):
            continue
        try:
            time = float(parts[0])
            place = int(float(parts[1])) if len(parts) > 1 else 0
        except (ValueError, OverflowError):
            raise FormatError(f"Line {number} is not 'time<TAB>position': {line[:40]!r}.") from None
        if not abs(time) <= MOST_S or not 0 <= place <= 32:
            raise FormatError(f"Line {number} has no usable time or position: {line[:40]!r}.")
        if times and time <= times[-1]:
            raise FormatError(f"Line {number}: {time:g} s does not come after {times[-1]:g} s.")
        times.append(time)
        limits.refuse_many(times, limits.MOST_BEATS, "beats")
        position.append(place)
    if len(times) < 2:
        raise FormatError("A beat list needs at least two beats.")
    return np.array(times), np.array(position, np.int64)


def to_grid(times: Floats, position: Ints, *, exact: float = EXACT) -> Grid:
    """A grid with the fewest pins that passes every beat within `exact` s, its meter from the positions.

    The first downbeat becomes beat 0. Where a bar is shorter or longer than the one before, a meter mark is set.
    """
    downbeats = np.flatnonzero(position == 1)
    start = int(downbeats[0]) if len(downbeats) else 0
    beats = np.arange(len(times), dtype=float) - start
    knots, at = fewest_pins(times, beats, np.full(len(times), exact))
    pins = tuple(Pin(float(t), float(beats[k])) for k, t in zip(knots, at, strict=True))
    return Grid(pins, meter_of(beats, position))


def meter_of(beats: Floats, position: Ints) -> tuple[MeterMark, ...]:
    """Meter marks from positions in the bar: one wherever a bar's length changes."""
    downbeats = beats[position == 1]
    if len(downbeats) < 2:
        return (MeterMark(0.0, max(4, int(position.max(initial=0)))),)
    sizes = np.rint(np.diff(downbeats)).astype(int)
    # the last bar is open: it goes on as the one before
    marks: list[MeterMark] = []
    for beat, size in zip(downbeats[:-1].tolist(), sizes.tolist(), strict=True):
        if not 1 <= size <= 32:
            raise FormatError(f"A bar of {size} beats at beat {beat:g} can't be right.")
        if not marks or marks[-1].beats_per_bar != size:
            marks.append(MeterMark(beat, size))
    return tuple(marks)
