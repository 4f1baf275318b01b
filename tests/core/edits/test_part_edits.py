"""Edits of a part: what lies outside keeps every instant, and its bar lines."""

from __future__ import annotations

import numpy as np
import pytest

from mervid.core.edits import grid_edits, part_edits, track_edits
from mervid.core.edits.part_edits import Edges, edges
from mervid.core.errors import Refused
from mervid.core.fitting import drift, proposal
from mervid.core.hearing.heard import Heard
from mervid.core.model.beatgrid import Grid, Pin
from mervid.core.model.cue import Cue
from mervid.core.model.hints import QUIET
from mervid.core.model.preparation import Preparation
from mervid.core.model.tolerance import Tolerance
from tests.conftest import beats_heard

LENGTH = 130.0


def drummer(beats: int = 240, tempo: float = 118.0, sway: float = 0.04) -> Heard:
    """A drummer who strays slowly, by up to `sway` s."""
    n = np.arange(beats)
    return beats_heard(0.8 + n * 60 / tempo + sway * np.sin(2 * np.pi * n / 90))


def grid_of(p: Preparation) -> Grid:
    assert p.grid is not None
    return p.grid


def outside(p: Preparation, q: Preparation, start: float, stop: float) -> None:
    """Before `start` and after `stop` s both grids have the same beats and the same bar lines."""
    for a, b in ((-5.0, start), (stop, LENGTH + 5.0)):
        old, _, place = grid_of(p).positions(a, b)
        new, _, other = grid_of(q).positions(a, b)
        np.testing.assert_allclose(new, old, atol=1e-9)
        np.testing.assert_array_equal(np.flatnonzero(other == 1), np.flatnonzero(place == 1))


@pytest.fixture
def followed() -> tuple[Preparation, Heard]:
    heard = drummer()
    return grid_edits.follow_recording(proposal.propose(heard, LENGTH), heard), heard


@pytest.mark.parametrize("every", [1.0, 4.0, 8.0, 16.0])
def test_pins_at_every_so_many_beats_of_a_part(followed: tuple[Preparation, Heard], every: float) -> None:
    p, heard = followed
    part = edges(grid_of(p), 30.0, 60.0, LENGTH)
    made = part_edits.pin_every(p, heard, part, every)
    hand = [q for q in grid_of(made).pins if q.hand]
    assert part.first is not None and part.last is not None
    assert len(hand) == pytest.approx((part.last - part.first) / every + 1, abs=1)
    assert np.abs(heard.times[:, None] - np.array([q.time for q in hand])).min(axis=0).max() == 0
    a, b = (float(x) for x in grid_of(p).time_at([part.first - 4, part.last + 4]))
    outside(p, made, a - 0.01, b + 0.01)


def test_following_a_part_keeps_it_within_tolerance_and_the_rest_rough() -> None:
    """Effort goes where the track will be mixed; the middle may stay rough, and the drift says so."""
    heard = drummer(sway=0.12)
    p = proposal.propose(heard, LENGTH)
    made = part_edits.follow_part(p, heard, edges(grid_of(p), 0.0, 40.0, LENGTH))
    trace = drift.trace_of(made, heard)
    assert trace is not None
    inside = trace.times < 38
    assert (np.abs(trace.error) <= trace.tolerance)[inside].all()
    assert (np.abs(trace.error) > trace.tolerance)[trace.times > 50].mean() > 0.5
    outside(p, made, -100.0, 44.0)


def test_a_step_gets_its_own_tempo() -> None:
    times = np.concatenate([1.0 + np.arange(96) * 0.5, 49.0 + np.arange(64) * 0.6, 87.4 + np.arange(64) * 0.5])
    heard = beats_heard(times)
    p = Preparation(grid=Grid((Pin(1.0, 0.0), Pin(121.0, 240.0))), cues=(Cue("a", "Late", beat=200.0),))
    made = part_edits.own_tempo(p, heard, edges(grid_of(p), 49.0, 87.4, LENGTH, bars=False))
    grid = grid_of(made)
    assert grid.tempo_at(60.0) == pytest.approx(100.0, abs=1e-6)
    assert float(grid.beat_at(60.4)) == pytest.approx(96 + 19)
    # 38.4 s hold 64 beats of 0.6 s where 76.8 of 0.5 s were counted: the count after moves, its instants don't
    outside(p, made, 48.9, 87.6)
    assert made.cues[0].at(grid) == pytest.approx(101.0)
    typed = part_edits.own_tempo(p, heard, edges(grid_of(p), 49.0, 87.4, LENGTH, bars=False), 100.0)
    assert grid_of(typed).tempo_at(60.0) == pytest.approx(100.0)
    to_the_end = part_edits.own_tempo(p, heard, edges(grid_of(p), 87.4, LENGTH, LENGTH), 90.0)
    assert grid_of(to_the_end).tempo_at(125.0) == pytest.approx(90.0)
    with pytest.raises(Refused, match="Tempo must lie between"):
        part_edits.own_tempo(p, heard, Edges(8.0, 40.0), 5.0)
    with pytest.raises(Refused, match="type it"):
        part_edits.own_tempo(p, beats_heard(times[:3]), Edges(100.0, 140.0))


def test_a_ramp_is_even_in_tempo_and_meets_both_ends() -> None:
    """While the tempo grows evenly from a to b over D s, D (a + b) / 120 beats pass (the mean of a straight line)."""
    p = Preparation(grid=Grid((Pin(0.0, 0.0), Pin(120.0, 240.0))))
    made = part_edits.ramp(p, Edges(40.0, 88.0), 120.0, 100.0)
    grid = grid_of(made)
    # 24 s from 120 to 100 BPM: 44 beats, just
    assert float(grid.beat_at(44.0)) == pytest.approx(40 + 44)
    for second in (20.5, 26.0, 32.0, 38.0, 43.5):
        assert grid.tempo_at(second) == pytest.approx(120 - 20 * (second - 20) / 24, abs=0.9)
        passed = (120 * (second - 20) - 20 * (second - 20) ** 2 / 48) / 60
        assert float(grid.time_at(40 + passed)) == pytest.approx(second, abs=0.0011)
    outside(p, made, 20.0, 44.0)
    with pytest.raises(Refused, match="where it begins"):
        part_edits.ramp(p, Edges(None, 88.0), 120.0, 100.0)


def test_no_beats_run_in_a_pause() -> None:
    p = Preparation(grid=Grid((Pin(0.0, 0.0), Pin(120.0, 240.0))))
    made = part_edits.pause(p, 30.1, 33.8)
    grid = grid_of(made)
    inside, _, _ = grid.positions(30.01, 33.99)
    assert not len(inside)
    outside(p, made, 30.0, 34.0)
    assert made.hints[-1].kind == QUIET
    # and following goes on to do so after it
    heard = beats_heard(np.delete(np.arange(240) * 0.5, slice(61, 68)), np.delete(np.arange(240), slice(61, 68)))
    assert grid_of(grid_edits.follow_recording(made, heard)).time_at([60.0, 61.0, 200.0]) == pytest.approx(
        [30.0, 34.0, 103.5]
    )
    # a long one needs a beat now and then: a grid can't go slower than 10 BPM
    assert len(grid_of(part_edits.pause(p, 30.1, 59.8)).positions(30.01, 59.99)[0]) == 5
    with pytest.raises(Refused, match="longer"):
        part_edits.pause(p, 30.1, 30.3)


def test_a_part_knows_its_edges() -> None:
    grid = Grid((Pin(0.0, 0.0), Pin(120.0, 240.0)))
    assert edges(grid, 0.0, 50.3, 100.0) == Edges(None, 100.0)
    assert edges(grid, 9.2, 100.0, 100.0) == Edges(20.0, None)
    assert edges(grid, 9.2, 20.6, 100.0, bars=False) == Edges(18.0, 41.0)
    with pytest.raises(Refused, match="shorter than a bar"):
        edges(grid, 10.1, 10.4, 100.0)


def test_mix_zones_and_tolerance() -> None:
    p = Preparation(grid=Grid((Pin(0.0, 0.0), Pin(120.0, 240.0))))
    zones = track_edits.set_zones(p, ((50.0, 40.0), (45.0, 60.0), (1.0, 1.1), (80.0, 90.0))).mix_zones
    assert zones == ((40.0, 60.0), (80.0, 90.0))
    assert track_edits.set_tolerance(p, 12.0, 6.0).tolerance == Tolerance(12.0, 12.0)
    with pytest.raises(Refused, match="between 1 and 100 ms"):
        track_edits.set_tolerance(p, 0.2, 6.0)
