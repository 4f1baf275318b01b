"""Where two tracks part, the grid that strays is the one that is mended; cases worked by hand."""

from __future__ import annotations

import attrs
import numpy as np
import pytest

from mervid.core.edits import grid_edits
from mervid.core.errors import Refused
from mervid.core.model import preparation
from mervid.core.model.beatgrid import Grid, Pin, steady
from mervid.core.pairs import tying
from mervid.core.pairs.clock import lay
from mervid.core.pairs.judgement import judge
from mervid.core.pairs.meeting import GLIDE, LEAVING, STEADY, Meeting
from mervid.core.pairs.side import Side
from tests.core.pairs.test_judging import side

MEETING = Meeting(128.0, 16.0, bars=16)
A, B = side(steady(tempo=120.0, first=0.5), title="Buoy"), side(steady(tempo=120.0, first=0.25), title="Quay")


def bent(one: Side, beat: float, ms: float) -> Side:
    """A track whose grid strays from what is heard, by `ms` at a beat and less up to eight beats from it."""
    places = (0.0, beat - 8, beat, beat + 8, 300.0)
    pins = tuple(Pin(float(one.grid.time_at(b)) + (ms / 1000 if b == beat else 0.0), b) for b in places)
    return attrs.evolve(one, preparation=attrs.evolve(one.preparation, grid=Grid(pins)))


@pytest.mark.parametrize(("clock", "nudge"), [(LEAVING, 0.0), (LEAVING, 12.0), (STEADY, 12.0), (GLIDE, 0.0)])
@pytest.mark.parametrize("of_coming", [False, True])
def test_the_grid_that_strays_is_tied_to_what_is_heard(of_coming: bool, clock: str, nudge: float) -> None:
    beat = 16.0 + 40.0 if of_coming else 128.0 + 40.0
    sides = [A, bent(B, beat, 40.0)] if of_coming else [bent(A, beat, 40.0), B]
    met = attrs.evolve(MEETING, nudge=nudge, clock=clock, tempo=121.0)
    judged = judge(*sides, met)
    # its grid says 40 ms later than it is heard: it is heard early in the mix, the other as before
    (remark,) = (r for r in judged.remarks if r.tie is not None)
    title = "Quay" if of_coming else "Buoy"
    assert remark.tie is not None and remark.tie.coming == of_coming
    assert f"{title} is heard" in remark.text and "bar 11" in remark.text
    tie = tying.near(*sides, judged.together, 168.0)
    assert tie.off == pytest.approx(-40, abs=1.0) and (tie.beat, tie.bar) == (beat, 10)
    strayed = sides[of_coming]
    mended = attrs.evolve(strayed, preparation=tying.tied(strayed.preparation, strayed.evidence, tie))
    sides[of_coming] = mended
    after = judge(*sides, met)
    # a nudge moves all beats alike
    assert np.abs(after.line.apart - nudge).max() < 2.0 and not [r for r in after.remarks if r.tie is not None]
    assert preparation.name_of(tying.tied) == "Pull onto its thread"


def test_a_hand_pulls_ink_of_either_track_onto_the_beat_it_means() -> None:
    bad = bent(B, 56.0, 40.0)
    t = lay(A.grid, bad.grid, MEETING, (A.duration, B.duration))
    ink = float(t.coming.to_mix(B.grid.time_at(56.0)))
    tie = tying.by_hand(A, bad, t, True, ink, 168.1)
    assert tie is not None and (tie.beat, tie.bar) == (56.0, 10)
    assert tie.time == pytest.approx(float(B.grid.time_at(56.0)), abs=0.03) and tie.off == pytest.approx(-40, abs=1)
    above = tying.by_hand(A, bad, t, False, ink, 167.9)
    assert above is not None and above.beat == 168.0 and not above.coming
    assert tying.by_hand(A, bad, t, True, ink, 168.5) is None, "between two beats no beat is meant"
    # counted at double, a coming beat lies between two of the leaving track's
    fast = attrs.evolve(B, preparation=grid_edits.double(B.preparation))
    twice = lay(A.grid, fast.grid, attrs.evolve(MEETING, enter=32.0, level=2.0), (A.duration, B.duration))
    half = tying.by_hand(A, fast, twice, True, float(twice.clock.time_at(130.5)), 130.5)
    assert half is not None and half.beat == 37.0


def test_nothing_is_tied_where_nothing_is_heard_and_a_single_beat_says_little() -> None:
    one = np.zeros(320)
    one[56] = 0.05
    judged = judge(A, side(steady(tempo=120.0, first=0.25), late=one, title="Quay"), MEETING)
    assert not [r for r in judged.remarks if r.tie is not None]
    silent = attrs.evolve(A, evidence=None), attrs.evolve(B, evidence=None)
    t = lay(A.grid, B.grid, MEETING, (A.duration, B.duration))
    with pytest.raises(Refused, match="No beat is heard here"):
        tying.near(*silent, t, 140.0)
    tie = tying.by_hand(*silent, t, True, float(t.clock.time_at(140.0)) + 0.01, 140.0)
    assert tie is not None and tying.tied(B.preparation, None, tie).grid is not None
    with pytest.raises(Refused, match="locked"):
        tying.tied(attrs.evolve(B.preparation, readiness=preparation.LOCKED), B.evidence, tie)
