"""Placing beats to the millisecond: attacks, late snares, steady lines and their ends."""

from __future__ import annotations

import numpy as np
import pytest

from mervid.core.hearing import beat_refinement
from mervid.core.hearing.features import ATTACK_RATE


def struck(times: np.ndarray, seconds: float, strength: float = 1.0) -> np.ndarray:
    out = np.zeros(int(seconds * ATTACK_RATE), np.float32)
    out[np.rint(times * ATTACK_RATE).astype(int)] = strength
    return out


def test_beats_go_to_their_attacks_by_vote_and_one_stray_hit_moves_nothing() -> None:
    strokes = 1 + 0.5 * np.arange(60)
    attack = struck(np.append(strokes, strokes[30] - 0.04), 32)
    moved, clear = beat_refinement.to_attacks(attack, strokes - 0.023)
    np.testing.assert_allclose(moved, strokes, atol=0.0011)
    assert clear.min() > 0.5


def test_where_nothing_is_struck_the_neighbours_vote_stands() -> None:
    strokes = 1 + 0.5 * np.arange(40)
    moved, clear = beat_refinement.to_attacks(struck(np.delete(strokes, 20), 22), strokes - 0.015)
    assert moved[20] == pytest.approx(strokes[20], abs=0.003)
    assert clear[20] == 0
    assert clear[19] > 0.5


def test_snares_laid_back_do_not_pull_the_grid() -> None:
    pulse = 1 + 0.6 * np.arange(64)
    played = pulse + np.where(np.arange(64) % 2 == 1, 0.014, 0.0)
    level = beat_refinement.level_snares(played, np.ones(64), np.arange(64) % 4, 4)
    np.testing.assert_allclose(level[1:-1], pulse[1:-1], atol=0.001)
    # a waltz has no backbeat, and jitter is no habit
    np.testing.assert_array_equal(beat_refinement.level_snares(played, np.ones(64), np.arange(64) % 3, 3), played)
    loose = pulse + np.random.default_rng(0).normal(0, 0.006, 64)
    np.testing.assert_array_equal(beat_refinement.level_snares(loose, np.ones(64), np.arange(64) % 4, 4), loose)


def test_a_step_of_tempo_makes_two_lines_that_meet_at_it() -> None:
    rng = np.random.default_rng(1)
    true = 1 + np.concatenate([0.5 * np.arange(80), 40 + 0.53 * np.arange(1, 81)])
    times = true + rng.normal(0, 0.004, len(true))
    a, b = beat_refinement.steady_runs(times, np.ones(len(times)))
    assert (a.first, b.last) == (0, 159)
    assert abs(a.last - 80) <= 2
    assert b.first == a.last + 1
    assert a.period == pytest.approx(0.5, abs=1e-4)
    assert b.period == pytest.approx(0.53, abs=1e-4)
    lined = np.concatenate([r.at(np.arange(r.first, r.last + 1)) for r in (a, b)])
    assert np.abs(lined - true).max() < 0.02


def test_a_drummer_who_wanders_is_no_line() -> None:
    true = 1 + np.cumsum(0.5 * (1 + 0.02 * np.sin(np.arange(200) / 11.0)))
    assert beat_refinement.steady_runs(true, np.ones(200)) == []
    assert beat_refinement.steady_runs(true[:10], np.ones(10)) == []


def test_stray_beats_are_calmed_and_a_step_stays_a_step() -> None:
    step = 1 + np.concatenate([0.5 * np.arange(20), 10 + 0.6 * np.arange(1, 21)])
    free = np.zeros(40, bool)
    np.testing.assert_allclose(beat_refinement.calm(step, np.ones(40), free), step, atol=0.001)
    stray = step.copy()
    stray[10] += 0.025
    calmed = beat_refinement.calm(stray, np.where(np.arange(40) == 10, 0.0, 1.0), free)
    assert abs(calmed[10] - step[10]) < 0.005
    fixed = free.copy()
    fixed[10] = True
    assert beat_refinement.calm(stray, np.ones(40), fixed)[10] == stray[10]
