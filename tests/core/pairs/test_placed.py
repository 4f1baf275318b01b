"""A meeting stays where it lies in both recordings, whatever its beats are called; cases worked by hand."""

from __future__ import annotations

import attrs
import pytest

from mervid.core.edits import grid_edits
from mervid.core.errors import FormatError
from mervid.core.model.beatgrid import Grid, MeterMark, Pin, steady
from mervid.core.model.preparation import Preparation
from mervid.core.pairs import placed
from mervid.core.pairs.meeting import Meeting
from mervid.core.pairs.placed import Placed

A, B = steady(tempo=120.0, first=0.5), steady(tempo=118.0, first=0.25)
MEETING = Meeting(128.0, 16.0, bars=16, swap=8, nudge=3.0)


def after(edit: object, grid: Grid) -> Grid:
    """A grid after an edit of Align."""
    made = edit(Preparation(grid)).grid  # type: ignore[operator]
    assert made is not None
    return made


def test_a_count_at_half_or_double_moves_the_numbers_and_not_the_place() -> None:
    kept = Placed.of(MEETING, A, B)
    half, double = after(grid_edits.halve, A), after(grid_edits.double, B)
    assert kept.under(A, B) == MEETING
    # beat 128 is 64, 16 bars are 8, and a coming track of 118 BPM beside 60 is counted at double
    there = kept.under(half, B)
    assert there == attrs.evolve(MEETING, at=64.0, bars=8, level=2.0, swap=4)
    assert half.time_at(there.at) == pytest.approx(A.time_at(128))
    assert kept.under(A, double) == attrs.evolve(MEETING, enter=32.0, level=2.0)
    assert kept.under(half, after(grid_edits.halve, B)) == attrs.evolve(MEETING, at=64.0, enter=8.0, bars=8, swap=4)
    # counted as it was again: nothing is lost on the way, also not through the file
    assert placed.from_json(placed.to_json(kept)) == kept
    assert kept.under(after(grid_edits.double, half), B) == MEETING


def test_a_grid_that_was_mended_keeps_its_beats_and_one_that_was_counted_anew_its_place() -> None:
    kept = Placed.of(MEETING, A, B)
    bent = Grid((Pin(0.5, 0), Pin(64.4, 128), Pin(180.5, 360)), A.meter)
    assert kept.under(bent, B) == MEETING, "100 ms are less than half a beat"
    later = Grid(tuple(attrs.evolve(p, beat=p.beat + 12) for p in A.pins), A.meter)
    assert kept.under(later, B) == attrs.evolve(MEETING, at=140.0), "bar 1 was three bars late"
    # bars begin a beat later: the meeting goes to the bar line beside it, as phrases do
    shifted = Grid(tuple(attrs.evolve(p, beat=p.beat - 1) for p in A.pins), A.meter)
    assert kept.under(shifted, B).at == 128.0
    marked = Grid(A.pins, (MeterMark(0.0, 4), MeterMark(1.0, 4)))
    assert kept.under(marked, B).at == 129.0
    # what was no bar line needn't be one
    off = Placed.of(attrs.evolve(MEETING, at=130.0), A, B)
    assert off.under(after(grid_edits.halve, A), B).at == 65.0


EMPTY = placed.to_json(Placed.of(MEETING, A, B)).replace('"beats":64.0', '"beats":0.0')
NOWHERE = EMPTY.replace('"beats":0.0', '"beats":64.0').replace('"stop":96.5', '"stop":NaN')


@pytest.mark.parametrize(
    "text", ["", "[]", '{"at":1,"enter":2,"lies":{"at":1}}', '{"at":1,"enter":2,"lies":3}', EMPTY, NOWHERE]
)
def test_what_is_no_meeting_is_refused(text: str) -> None:
    with pytest.raises(FormatError, match="no meeting"):
        placed.from_json(text)
