"""A meeting and where it lies in both recordings.

A meeting names beats, so that it follows a grid that is mended by some ms. Where beats get other numbers, because they
are counted at half or double, from another bar 1, or heard anew, the instants say which beats are meant from now on.
"""

from __future__ import annotations

import json
import math

import attrs
import cattrs
import numpy as np

from ..errors import FormatError
from ..model.beatgrid import Grid
from . import meeting as meetings
from .clock import overlap_beats
from .meeting import MOST_BARS, Meeting, nearest_level

_NEAR = 0.5
"""A place that comes to lie nearer than this, in beats, was mended; farther, it was counted otherwise."""
_ALIKE = 1.2
_INSIDE = 1e-6
_KEY = "lies"


@attrs.frozen
class Instants:
    """Where a meeting lies.

    Attributes
    ----------
    at, stop : the overlap in the leaving recording, s
    enter, end : the overlap in the coming recording, s
    beats : its length in beats of the leaving track, as they are counted
    at_line, enter_line : whether it begins on a bar line of either
    """

    at: float
    stop: float
    enter: float
    end: float
    beats: float
    at_line: bool
    enter_line: bool


@attrs.frozen
class Placed:
    """A meeting as it was made, and where it lay then; nothing is known of that in old libraries."""

    meeting: Meeting
    instants: Instants | None = None

    @classmethod
    def of(cls, meeting: Meeting, leaving: Grid, coming: Grid) -> Placed:
        """A meeting of two tracks under the grids that they have."""
        beats = overlap_beats(leaving, meeting)
        at, stop = leaving.time_at([meeting.at, meeting.at + beats]).tolist()
        enter, end = coming.time_at([meeting.enter, meeting.enter + beats * meeting.level]).tolist()
        lines = _on_line(leaving, meeting.at), _on_line(coming, meeting.enter)
        return cls(meeting, Instants(at, stop, enter, end, beats, *lines))

    def under(self, leaving: Grid, coming: Grid) -> Meeting:
        """The meeting under the grids that they have now."""
        m, lay = self.meeting, self.instants
        if lay is None:
            return m
        here, there = leaving.beat_at([lay.at, lay.stop]), coming.beat_at([lay.enter, lay.end])
        at = _place(leaving, m.at, float(here[0]), lay.at_line)
        enter = _place(coming, m.enter, float(there[0]), lay.enter_line)
        ours, theirs = float(np.diff(here)[0]), float(np.diff(there)[0])
        if _alike(ours / lay.beats) and _alike(theirs / (lay.beats * m.level)):
            return attrs.evolve(m, at=at, enter=enter)
        index, rest = leaving.bar_index(at + ours + _INSIDE)
        size = leaving.beats_per_bar(at + ours)
        counted = int(index) + float(rest) / size - int(leaving.bar_index(at + _INSIDE)[0])
        bars = min(max(round(counted), 1), MOST_BARS)
        swap = None if m.swap is None else min(round(m.swap * bars / m.bars), bars)
        return attrs.evolve(m, at=at, enter=enter, bars=bars, level=nearest_level(theirs / ours), swap=swap)


def _alike(ratio: float) -> bool:
    return 1 / _ALIKE < ratio < _ALIKE


def _on_line(grid: Grid, beat: float) -> bool:
    return float(grid.bar_index(beat + _INSIDE)[1]) < 2 * _INSIDE


def _place(grid: Grid, beat: float, now: float, line: bool) -> float:
    """The beat that is meant: as it was counted, or as it is counted now."""
    near = beat if abs(now - beat) < _NEAR else float(round(now))
    return grid.bar_line_near(float(grid.time_at(near))) if line and not _on_line(grid, near) else near


_converter = cattrs.Converter(forbid_extra_keys=True, detailed_validation=False)


def to_json(placed: Placed) -> str:
    """A meeting, and where it lies, as JSON text."""
    out = json.loads(meetings.to_json(placed.meeting))
    if placed.instants is not None:
        out[_KEY] = _converter.unstructure(placed.instants)
    return json.dumps(out, separators=(",", ":"), allow_nan=False)


def from_json(text: str) -> Placed:
    """Inverse of `to_json`. Raises `FormatError` for anything else."""
    try:
        found = json.loads(text)
        lies = found.pop(_KEY, None)
        instants = _converter.structure(lies, Instants) if lies is not None else None
        if instants is not None and not (instants.beats > 0 and math.isfinite(sum(attrs.astuple(instants)))):
            raise FormatError("This is no meeting: it lies nowhere.")
    except FormatError:
        raise
    except Exception as e:
        raise FormatError(f"This is no meeting: {type(e).__name__}.") from None
    return Placed(meetings.from_json(json.dumps(found)), instants)
