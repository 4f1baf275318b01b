"""Mending where two tracks part: of a beat at which they fall apart, the grid that strays is tied to what is heard.

Where two beats fall apart, one grid or the other lies beside its recording. The one whose heard beat lies farther from
the beat of the mix is the one to mend: pulling the other one after it would hide the fault in this pair and carry it
into every other.
"""

from __future__ import annotations

import attrs
import numpy as np

from ..edits import grid_edits, listening_edits
from ..errors import Refused
from ..hearing.evidence import Evidence
from ..model.preparation import Preparation, edit, grid_of
from .clock import Together, lay
from .meeting import Meeting
from .side import Side
from .tear import LEAST, Tear

REACH = 0.3
"""A hand means the beat that lies so near, in beats."""
IN_A_ROW = 5
"""A single heard beat can be wrong; so many in a row are apart."""


@attrs.frozen
class Tie:
    """A beat of one track that is to lie elsewhere.

    Attributes
    ----------
    coming : of the coming track, else of the leaving one
    beat : of its own grid
    time : the instant of its recording on which the beat is to lie, s
    off : ms by which what lies there falls after the beat of the mix as it is, but for a nudge
    bar : of the overlap, from 0
    """

    coming: bool
    beat: float
    time: float
    off: float
    bar: int


def by_hand(leaving: Side, coming: Side, together: Together, of: bool, mix: float, beat: float) -> Tie | None:
    """What sounds at `mix`, s, dragged to `beat` of the clock; None where no beat of that track lies near there.

    Parameters
    ----------
    of : of the coming track, else of the leaving one; its ink goes to the attack under the hand
    """
    own = _own(together, of, beat)
    if abs(own - round(own)) > REACH:
        return None
    side, one = (coming, together.coming) if of else (leaving, together.leaving)
    return _tie(together, of, float(round(own)), side.struck_near(float(one.to_own(mix))))


def near(leaving: Side, coming: Side, together: Together, beat: float) -> Tie:
    """The tie of the heard beat at `beat` of the clock that lies farther off its own.

    Raises
    ------
    Refused
        Neither is heard there.
    """
    found = []
    for of, side in enumerate((leaving, coming)):
        # where a track is counted at half, what is heard between its beats is none of them
        off = np.abs(side.heard_beats - _own(together, bool(of), beat)) + (
            np.abs(side.heard_beats - np.round(side.heard_beats)) > 0.1
        )
        if len(off) and off.min() <= 0.5:
            k = int(off.argmin())
            found.append(_tie(together, bool(of), float(np.round(side.heard_beats[k])), float(side.heard.times[k])))
    if not found:
        raise Refused("No beat is heard here that could be pulled: drag the ink with Shift held.")
    return max(found, key=lambda t: abs(t.off))


def worst(leaving: Side, coming: Side, together: Together, line: Tear) -> Tie | None:
    """Where several beats in a row are farther apart than an ear forgives, and what would mend it; None where none are.

    A distance that is there all along is no matter of a single place: that is nudged.
    """
    if len(line.apart) < LEAST:
        return None
    from scipy.ndimage import median_filter

    apart = line.apart - np.median(line.apart)
    steady = np.abs(median_filter(apart, IN_A_ROW, mode="nearest"))
    # of the middle ones, which lie as far apart, the one that does so most
    k = int(np.where(steady > steady.max() - 1e-3, np.abs(apart), 0.0).argmax())
    if steady[k] <= line.forgiven:
        return None
    try:
        return near(leaving, coming, together, together.meeting.at + float(line.beats[k]))
    except Refused:
        return None


def tried(leaving: Side, coming: Side, meeting: Meeting, tie: Tie) -> Together:
    """How the two would lie with a beat tied elsewhere, and nothing heard anew. Raises `Refused` where they can't."""
    side = coming if tie.coming else leaving
    there = grid_of(grid_edits.add_pin(side.preparation, tie.beat, tie.time))
    grids = (leaving.grid, there) if tie.coming else (there, coming.grid)
    return lay(*grids, meeting, (leaving.duration, coming.duration))


@edit("Pull onto its thread")
def tied(p: Preparation, evidence: Evidence | None, tie: Tie) -> Preparation:
    """The preparation of a track with one of its beats tied; what is heard around it is followed anew."""
    if evidence is None:
        return grid_edits.add_pin(p, tie.beat, tie.time)
    return listening_edits.pull(p, evidence, tie.beat, tie.time)


def _own(together: Together, coming: bool, beat: float) -> float:
    """Beat of a track's own grid at a beat of the clock."""
    m = together.meeting
    return m.enter + (beat - m.at) * m.level if coming else beat


def _tie(together: Together, coming: bool, beat: float, time: float) -> Tie:
    """Tie `beat` to what lies at `time`; a nudge moves the whole track, and says nothing of one of its beats."""
    m = together.meeting
    one = together.coming if coming else together.leaving
    on_clock = m.at + (beat - m.enter) / m.level if coming else beat
    off = 1000 * float(one.to_mix(time) - together.clock.time_at(on_clock)) - (m.nudge if coming else 0.0)
    bar = int(together.clock.bar_index(on_clock + 1e-6)[0]) - together.first_bar
    return Tie(coming, beat, time, off, bar)
