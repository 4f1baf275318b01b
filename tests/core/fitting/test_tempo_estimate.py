"""Tempo and its confidence interval, against exact beats and against simulated ones."""

from __future__ import annotations

import numpy as np
import pytest

from mervid.core.fitting import tempo_estimate


def test_exact_beats() -> None:
    n = np.arange(400.0)
    found = tempo_estimate.estimate(1.25 + 60 / 163.003 * n, n)
    assert found.tempo == pytest.approx(163.003, abs=1e-6)
    assert found.margin < 0.003
    assert not found.is_whole
    # rounding down to 163 makes every beat later: 399 periods, each 6.8 µs too long
    assert found.off_at_end(163.0) == pytest.approx(399 * (60 / 163 - 60 / 163.003) * 1000, abs=1e-6)


def test_a_whole_number_is_known_through_jitter() -> None:
    rng = np.random.default_rng(2)
    n = np.arange(360.0)
    found = tempo_estimate.estimate(60 / 135 * n + rng.normal(0, 0.003, len(n)), n)
    assert found.is_whole
    assert found.whole == 135


def test_the_interval_holds_what_it_says() -> None:
    """Of 200 simulated takes with jitter that remembers the beat before, 95 of 100 intervals hold the truth."""
    rng = np.random.default_rng(5)
    n = np.arange(200.0)
    held = 0
    for _ in range(200):
        jitter = rng.normal(0, 0.002, len(n))
        for i in range(1, len(n)):
            jitter[i] += 0.5 * jitter[i - 1]
        found = tempo_estimate.estimate(0.5 * n + jitter, n)
        held += abs(found.tempo - 120) <= found.margin
    assert held >= 190


def test_three_minutes_of_a_machine_are_known_to_a_thousandth() -> None:
    n = np.arange(384.0)
    rng = np.random.default_rng(3)
    times = 0.4 + 60 / 127.977 * n + np.round(rng.normal(0, 0.0005, len(n)), 3)
    times[::20] += 0.05
    assert tempo_estimate.estimate(times, n).tempo == pytest.approx(127.977, abs=0.001)


def test_wrong_input() -> None:
    for times, numbers in (([0, 1, 2], [0, 1, 2]), ([0, 1, 2, 3], [0, 1, 1, 2]), ([0, 1, 2, 3], [0, 1, 2])):
        with pytest.raises(ValueError, match="four beats"):
            tempo_estimate.estimate(np.array(times, float), np.array(numbers, float))
