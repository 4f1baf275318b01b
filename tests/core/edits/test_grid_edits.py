"""Pins placed by hand, against the plain definition: take away what stands on the beat, add, sort."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from mervid.core.edits import grid_edits
from mervid.core.errors import Refused
from mervid.core.model.beatgrid import Grid, Pin
from mervid.core.model.preparation import LOCKED, Preparation, set_readiness


def drummer(seed: int, pins: int) -> Grid:
    rng = np.random.default_rng(seed)
    beats = np.cumsum(rng.integers(1, 9, pins)).astype(float) - 5
    times = 2.0 + np.cumsum(np.diff(beats, prepend=beats[0] - 4) * rng.uniform(0.48, 0.52, pins))
    return Grid(tuple(Pin(float(t), float(b), bool(rng.integers(2))) for t, b in zip(times, beats, strict=True)))


@settings(deadline=None)
@given(st.integers(0, 10_000), st.integers(2, 40), st.integers(-8, 90), st.floats(-0.4, 0.4))
def test_a_pin_lies_in_order_and_replaces_what_stood_on_its_beat(seed: int, pins: int, beat: int, off: float) -> None:
    p = Preparation(grid=drummer(seed, pins))
    assert p.grid is not None
    time = float(p.grid.time_at(beat)) + off
    wanted = sorted([*(q for q in p.grid.pins if q.beat != beat), Pin(time, float(beat), True)], key=lambda q: q.beat)
    try:
        expected = Grid(tuple(wanted), p.grid.meter)
    except Refused as e:
        with pytest.raises(Refused) as told:
            grid_edits.add_pin(p, beat, time)
        assert str(told.value) == str(e)
        return
    got = grid_edits.add_pin(p, beat, time).grid
    assert got == expected
    assert got is not None and float(got.time_at(beat)) == time


def test_moved_and_taken_away_pins_leave_the_others_to_the_last_bit() -> None:
    p = Preparation(grid=drummer(3, 12))
    assert p.grid is not None
    moved = grid_edits.move_pin(p, 5, p.grid.pins[5].time + 0.01)
    assert moved.grid is not None
    assert [q for k, q in enumerate(moved.grid.pins) if k != 5] == [q for k, q in enumerate(p.grid.pins) if k != 5]
    assert moved.grid.pins[5].hand
    fewer = grid_edits.remove_pin(p, 5)
    assert fewer.grid is not None and fewer.grid.pins == p.grid.pins[:5] + p.grid.pins[6:]


def test_a_locked_grid_takes_no_pin() -> None:
    p = set_readiness(Preparation(grid=drummer(1, 4)), LOCKED)
    for change in (lambda: grid_edits.add_pin(p, 1.0, 2.0), lambda: grid_edits.remove_pin(p, 0)):
        with pytest.raises(Refused, match="locked"):
            change()
