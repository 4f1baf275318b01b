"""The pulse under the jitter: smoothed where a drummer plays, left alone where the tempo steps or the count rests."""

from __future__ import annotations

import numpy as np
import pytest

from mervid.core.fitting import fit, pulse
from mervid.core.model.tolerance import Tolerance
from tests.conftest import beats_heard


def wandering(seed: int, jitter: float, count: int = 240) -> tuple[np.ndarray, np.ndarray]:
    """A drummer's slow wander, and the same with each stroke off by its own jitter."""
    rng = np.random.default_rng(seed)
    true = 0.5 + np.concatenate([[0.0], np.cumsum(60 / (112 + 3 * np.sin(np.arange(count) / 37)))])
    return true, true + rng.normal(0, jitter, len(true))


@pytest.mark.parametrize("seed", range(5))
def test_the_pulse_is_nearer_the_truth_than_the_strokes(seed: int) -> None:
    true, struck = wandering(seed, 0.005)
    made = pulse.smooth(struck, np.arange(len(true)), np.full(len(true), 0.9))
    assert np.std(made - true) < 0.75 * np.std(struck - true)


def test_an_unsure_beat_goes_where_its_neighbours_are() -> None:
    true, _ = wandering(1, 0.0)
    struck, sure = true.copy(), np.full(len(true), 0.95)
    struck[100] += 0.02
    sure[100] = 0.1
    made = pulse.smooth(struck, np.arange(len(true)), sure)
    assert abs(made[100] - true[100]) < 0.004
    assert np.abs(np.delete(made - true, [98, 99, 100, 101, 102])).max() < 0.001


def test_a_step_of_tempo_stays_a_corner() -> None:
    times = np.concatenate([np.arange(65) * 0.5, 32 + np.arange(1, 65) * 0.46])
    made = pulse.smooth(times, np.arange(len(times)), np.ones(len(times)))
    assert np.abs(made - times).max() < 1e-9


def test_beats_across_a_rest_know_nothing_of_each_other() -> None:
    numbers = np.r_[0:40, 60:100]
    times = np.where(numbers < 50, 0.5 * numbers, 0.5 * numbers + 0.13)
    made = pulse.smooth(times, numbers, np.ones(80))
    np.testing.assert_allclose(made, times, atol=1e-9)


@pytest.mark.parametrize("seed", range(3))
def test_a_grid_keeps_close_to_the_pulse_and_the_first_downbeat(seed: int) -> None:
    true, struck = wandering(seed, 0.004)
    heard = beats_heard(struck)
    grid = fit.follow(heard)
    off = np.abs(grid.time_at(heard.numbers) - pulse.smooth(struck, heard.numbers, heard.confidence))
    assert off.max() <= fit.CLOSE * 0.015 + 0.002
    assert abs(float(grid.time_at(0.0)) - float(heard.downbeats[0])) <= fit.FIRST + 1e-6
    # nearer the truth than a grid that only keeps the tolerance
    free = fit.follow(heard, tolerance=Tolerance(8 / fit.CLOSE, 15 / fit.CLOSE))
    error = [np.std(g.time_at(heard.numbers) - true) for g in (grid, free)]
    assert error[0] < error[1]
