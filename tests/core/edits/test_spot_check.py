"""The spot check: where it looks, what it says, and when a track is checked."""

from __future__ import annotations

import attrs
import numpy as np
import pytest

from mervid.core.edits import grid_edits, spot_check
from mervid.core.errors import Refused
from mervid.core.fitting import drift, proposal
from mervid.core.fitting.drift import Trace, trace
from mervid.core.model import preparation as pr
from mervid.core.model.preparation import CHECKED, DRAFT, Preparation
from tests.conftest import beats_heard

HEARD = beats_heard(1.0 + np.arange(320) * 0.5)
P = proposal.propose(HEARD, 162.0)


def checked(times: np.ndarray, unsure: np.ndarray | None = None) -> tuple[Trace, tuple[spot_check.Spot, ...]]:
    assert P.grid is not None
    found = trace(times, P.grid, zones=P.mix_zones, tolerance=P.tolerance)
    none = np.zeros(len(times), bool) if unsure is None else unsure
    return found, spot_check.choose(P.grid, found, none, 162.0)


def test_five_places_from_the_first_downbeat_to_the_last_bars() -> None:
    _, five = checked(HEARD.times)
    assert [s.name for s in five] == list(spot_check.NAMES)
    assert [round((s.start - 1) / 2) for s in five] == [0, 20, 39, 58, 78]
    assert all(s.stop - s.start == pytest.approx(4.0) for s in five)


def test_a_place_in_doubt_takes_the_place_of_a_sure_one() -> None:
    times = HEARD.times.copy()
    times[100:104] += 0.03
    found, five = checked(times)
    assert [s.doubt for s in five] == ["", "out of tolerance", "", "", ""]
    assert five[1].start <= 51.0 < five[1].stop
    state = spot_check.state(five[1], P, found)
    assert state.worst == pytest.approx(30.0, abs=1e-6)
    unsure = np.zeros(320, bool)
    unsure[220:228] = True
    assert [s.doubt for s in checked(HEARD.times, unsure)[1]] == ["", "", "", "doubtful", ""]


def test_a_short_track_has_fewer() -> None:
    few = beats_heard(1.0 + np.arange(16) * 0.5)
    p = proposal.propose(few, 10.0)
    assert p.grid is not None
    found = spot_check.choose(p.grid, drift.trace_of(p, few), np.zeros(16, bool), 10.0)
    assert 1 <= len(found) <= 3
    assert spot_check.choose(p.grid, None, np.zeros(0, bool), 10.0)


def test_all_seen_is_checked_and_a_moved_place_is_not_seen() -> None:
    found, five = checked(HEARD.times)
    p: Preparation = P
    for i, spot in enumerate(five):
        assert p.readiness == DRAFT
        p = spot_check.mark_seen(p, spot, five)
        assert [spot_check.state(s, p, found).seen for s in five] == [k <= i for k in range(5)]
    assert p.readiness == CHECKED
    # a pin at the end moves the last place only, and the track is a draft again
    assert p.grid is not None
    moved = grid_edits.add_pin(
        grid_edits.add_pin(p, 240.0, float(p.grid.time_at(240.0))), 318.0, float(p.grid.time_at(318.0)) + 0.004
    )
    assert [spot_check.state(s, moved, found).seen for s in five] == [True, True, True, True, False]
    assert moved.readiness == DRAFT
    assert spot_check.mark_seen(moved, five[4], five).readiness == CHECKED
    assert spot_check.mark_seen(p, five[0], five, seen=False).readiness == DRAFT
    # a bar line that moved was not seen either, though no beat moved
    other = grid_edits.set_downbeat(p, float(p.grid.time_at(1.0)))
    assert not any(spot_check.state(s, other, found).seen for s in five)
    assert pr.from_json(pr.to_json(p)) == p
    with pytest.raises(Refused, match="locked"):
        spot_check.mark_seen(attrs.evolve(p, readiness=pr.LOCKED), five[0], five)
