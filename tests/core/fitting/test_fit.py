"""Fits of known beats: as few pins as the truth has, and none for a stroke gone astray."""

from __future__ import annotations

import attrs
import numpy as np
import pytest

from mervid.core.errors import Refused
from mervid.core.fitting import fit
from mervid.core.model.beatgrid import Grid, Pin
from mervid.core.model.tolerance import Tolerance
from tests.conftest import beats_heard


def steps(*parts: tuple[int, float], first: float = 0.3) -> np.ndarray:
    """Beat times of stretches of so many beats at so many BPM."""
    periods = np.concatenate([np.full(n, 60 / tempo) for n, tempo in parts])
    return first + np.concatenate([[0.0], np.cumsum(periods)])


def worst(grid: Grid, times: np.ndarray) -> float:
    """Largest distance of the beats from the grid, ms."""
    return float(1000 * np.abs(times - grid.time_at(np.arange(len(times)))).max())


def test_machine_time_is_one_span_with_its_tempo_to_a_thousandth() -> None:
    times = steps((400, 134.994)) + np.random.default_rng(0).normal(0, 0.002, 401)
    grid = fit.follow(beats_heard(times))
    assert len(grid.pins) == 2
    assert grid.tempi[0] == pytest.approx(134.994, abs=0.003)
    assert fit.fit_steady(beats_heard(times)).tempi[0] == pytest.approx(134.994, abs=0.003)


def test_three_tempi_take_four_pins_at_the_steps() -> None:
    times = steps((64, 118.0), (32, 104.0), (64, 121.0))
    grid = fit.follow(beats_heard(times + np.random.default_rng(1).normal(0, 0.002, len(times))))
    assert len(grid.pins) == 4
    np.testing.assert_allclose(grid.beats, [0, 64, 96, 160], atol=1)
    np.testing.assert_allclose(grid.tempi, [118, 104, 121], atol=0.15)


def test_a_drummer_is_followed_within_the_tolerance_of_each_place() -> None:
    x = np.arange(400)
    times = 0.5 + np.concatenate([[0.0], np.cumsum(60 / (114 + 2.5 * np.sin(x / 37) + np.sin(x / 11)))])
    zones = ((0.0, 40.0), (170.0, 300.0))
    grid = fit.follow(beats_heard(times), tolerance=Tolerance(6, 15), zones=zones)
    error = 1000 * np.abs(times - grid.time_at(np.arange(len(times))))
    allowed = Tolerance(6, 15).at(times, zones)
    assert np.all(error <= allowed + 1e-6)
    loose = fit.follow(beats_heard(times), tolerance=Tolerance(15, 15))
    assert len(loose.pins) < len(grid.pins) < 40


def test_the_pulse_itself_is_followed_closer_than_strokes_about_it() -> None:
    rng = np.random.default_rng(4)
    times = 0.5 + 0.5 * np.arange(200) + rng.normal(0, 0.004, 200)
    strokes = beats_heard(times)
    error = {}
    for heard in (strokes, attrs.evolve(strokes, pulse=True)):
        grid = fit.follow(heard)
        error[heard.pulse] = np.std(times - grid.time_at(np.arange(200)))
    # what is jitter of strokes goes; a drummer's beats, known as such, keep more of their own places
    assert error[False] > 0.003 and error[True] < 0.9 * error[False]


FREE = Tolerance(8 / fit.CLOSE, 15 / fit.CLOSE)
"""A grid may then lie 8 and 15 ms beside the pulse: what the next tests say of pins was fixed at that freedom."""


def test_five_wrong_beats_in_a_hundred_change_nothing_much() -> None:
    rng = np.random.default_rng(2)
    times = steps((100, 118.0), (100, 104.0)) + rng.normal(0, 0.002, 201)
    clean = fit.follow(beats_heard(times), tolerance=FREE)
    wrong = times.copy()
    at = np.arange(7, 201, 20)
    wrong[at] += rng.choice([-0.11, -0.06, 0.07, 0.13], len(at))
    assert set(at) <= set(np.flatnonzero(fit.stray(wrong, np.arange(201))))
    robust = fit.follow(beats_heard(wrong), tolerance=FREE)
    assert len(robust.pins) == len(clean.pins) == 3
    assert 1000 * np.abs(robust.time_at(clean.beats) - clean.times).max() < 3
    x = np.arange(300)
    slow = 0.5 + np.concatenate([[0.0], np.cumsum(60 / (114 + 2 * np.sin(x / 60)))]) + rng.normal(0, 0.001, 301)
    clean = fit.follow(beats_heard(slow), tolerance=FREE)
    wrong = slow.copy()
    at = np.arange(9, 301, 20)
    wrong[at] += rng.choice([-0.11, -0.06, 0.07, 0.13], len(at))
    robust = fit.follow(beats_heard(wrong), tolerance=FREE)
    assert 1000 * np.abs(robust.time_at(clean.beats) - clean.times).max() < 3


def test_pins_stand_on_bar_lines_where_that_costs_nothing() -> None:
    x = np.arange(320)
    times = 0.5 + np.concatenate([[0.0], np.cumsum(60 / (114 + 3 * np.sin(x / 40)))])
    heard = beats_heard(times + np.random.default_rng(4).normal(0, 0.002, len(times)))
    grid = fit.follow(heard, tolerance=FREE)
    inner = [p.beat for p in grid.pins[1:-1]]
    assert np.mean([b % 4 == 0 for b in inner]) > 0.8
    grid = fit.follow(heard)
    assert np.all(1000 * np.abs(heard.times - grid.time_at(heard.numbers)) <= 15 + 1e-6)
    # a step in the middle of a bar is pinned where it is
    step = steps((66, 118.0), (64, 121.0))
    assert [p.beat for p in fit.follow(beats_heard(step)).pins] == [0, 66, 130]


def test_missing_beats_leave_no_trace() -> None:
    times = steps((200, 118.0))
    keep = np.r_[0:60, 76:140, 141:201]
    grid = fit.follow(beats_heard(times[keep], keep))
    assert len(grid.pins) == 2
    assert worst(grid, times) < 0.01


def test_hand_pins_survive_and_are_met_exactly() -> None:
    times = steps((160, 112.0))
    by_hand = Grid((Pin(times[0], 0.0), Pin(times[80] + 0.03, 80.0, hand=True), Pin(times[160], 160.0)))
    grid = fit.follow(beats_heard(times), like=by_hand)
    assert Pin(times[80] + 0.03, 80.0, hand=True) in grid.pins
    far = np.abs(np.arange(161) - 80) > 4
    assert 1000 * np.abs(times - grid.time_at(np.arange(161)))[far].max() < 16
    steady = fit.fit_steady(beats_heard(times), like=by_hand)
    assert float(steady.time_at(80)) == pytest.approx(times[80] + 0.03, abs=1e-12)
    two = Grid((Pin(times[0], 0.0, hand=True), Pin(times[80], 80.0, hand=True)))
    with pytest.raises(Refused, match="2 hand pins"):
        fit.fit_steady(beats_heard(times), like=two)


@pytest.mark.parametrize("factor", [0.5, 1.0, 2.0])
def test_the_counting_of_the_grid_is_kept(factor: float) -> None:
    """After halving, doubling or renumbering, a new fit counts as the old grid did."""
    times = steps((120, 100.0), (80, 108.0))
    old = fit.follow(beats_heard(times))
    counted = Grid(tuple(Pin(p.time, p.beat * factor - 8) for p in old.pins))
    again = fit.follow(beats_heard(times), like=counted)
    # halved, a beat between two counted ones may be half a beat off: compare instants of whole beats
    np.testing.assert_allclose(again.time_at(np.arange(-4, 60)), counted.time_at(np.arange(-4, 60)), atol=0.008)


def test_too_few_beats_are_refused() -> None:
    with pytest.raises(Refused, match="Too few beats"):
        fit.follow(beats_heard(np.arange(5.0)))


@pytest.mark.parametrize("seed", range(12))
def test_whatever_the_beats_the_grid_is_valid_and_within_tolerance(seed: int) -> None:
    """Erratic drummers, gaps, half-speed stretches, stray beats: every trusted beat stays within its tolerance."""
    rng = np.random.default_rng(seed)
    tempo = np.clip(rng.uniform(70, 170) * np.exp(np.cumsum(rng.normal(0, 0.02, 300))), 45, 220)
    tempo[rng.integers(0, 280) :][: int(rng.integers(5, 20))] /= 2
    times = 3 + np.concatenate([[0.0], np.cumsum(60 / tempo)]) + rng.normal(0, 0.006, 301)
    wrong = rng.choice(301, 12, replace=False)
    times[wrong] += rng.normal(0, 0.08, 12)
    keep = np.flatnonzero(rng.random(301) > 0.1)
    keep = keep[np.concatenate([[True], np.diff(times[keep]) > 0.05])]
    keep = keep[np.concatenate([[True], np.diff(times[keep]) > 0])]
    heard = beats_heard(times[keep], keep)
    zones = ((0.0, 25.0),)
    grid = fit.follow(heard, zones=zones)
    trusted = ~fit.stray(heard.times, heard.numbers)
    error = 1000 * np.abs(heard.times - grid.time_at(heard.numbers))
    assert np.all(error[trusted] <= Tolerance().at(heard.times, zones)[trusted] + 1e-3)
    assert np.all(np.diff(grid.times) > 0)


def test_a_hand_pin_far_from_what_was_heard_still_holds() -> None:
    times = steps((160, 112.0))
    far = Pin(times[80] - 0.8, 80.0, hand=True)
    grid = fit.follow(beats_heard(times), like=Grid((Pin(times[0], 0.0), far, Pin(times[160], 160.0))))
    assert far in grid.pins
    # the pin says which beat is beat 80, so all are counted from it; elsewhere the grid stays with what was heard
    assert float(grid.time_at(np.round(grid.beat_at(times[40])))) == pytest.approx(times[40], abs=0.016)


def test_beats_of_a_ramp_are_followed_and_beats_heard_beside_the_true_ones_are_not() -> None:
    """120 to 150 BPM over six beats, as people rush into a chorus; worked by hand (common practice, no source)."""
    step = np.concatenate([np.full(80, 0.5), np.linspace(0.5, 0.4, 8)[1:-1], np.full(80, 0.4)])
    step += np.random.default_rng(0).normal(0, 0.001, len(step))
    times = 0.5 + np.concatenate([[0.0], np.cumsum(step)])
    numbers = np.arange(len(times))
    assert not fit.stray(times, numbers).any()
    assert worst(fit.follow(beats_heard(times)), times) < 15
    # a few beats heard 40 ms late come back to where they were
    late = times.copy()
    late[120:123] += 0.04
    assert np.flatnonzero(fit.stray(late, numbers)).tolist() == [120, 121, 122]
