"""The lattice test on attack times alone: machines pass, drummers, turntables and chance don't."""

from __future__ import annotations

import numpy as np
import pytest

from training import lattice
from training.teacher import curve


def attacks(seed: int = 1, *, tempo: float = 117.3, seconds: float = 180.0) -> tuple[np.ndarray, np.ndarray]:
    """Sixteenths of which most are struck, loud on beats, read within some ms, and some strays."""
    rng = np.random.default_rng(seed)
    step = 15 / tempo
    n = np.arange(int(seconds / step) - 8)
    struck = n[(n % 4 == 0) | (rng.random(len(n)) < 0.4)]
    times = 0.7 + struck * step + rng.normal(0, 0.002, len(struck))
    strays = rng.uniform(0, seconds, 60)
    strength = np.concatenate([np.where(struck % 4 == 0, 0.8, 0.4), np.full(60, 0.3)])
    order = np.argsort(np.concatenate([times, strays]))
    return np.concatenate([times, strays])[order], strength[order]


def test_a_machine_is_certain_and_its_line_exact() -> None:
    times, strengths = attacks()
    line = lattice.find(times, strengths, 180.0)
    assert line is not None and line.certain
    assert 15 / line.period == pytest.approx(117.3, abs=0.003)
    assert np.abs(line.off(0.7 + np.arange(0, 1300, 4) * 15 / 117.3)).max() < 0.002
    assert line.inside(np.array([90.0])).all() and not line.inside(np.array([500.0])).any()


@pytest.mark.parametrize("what", ["a drummer", "a turntable", "chance"])
def test_what_kept_no_machine_time_is_not_certain(what: str) -> None:
    times, strengths = attacks()
    rng = np.random.default_rng(3)
    if what == "a drummer":
        knots = np.arange(0, 200, 8.0)
        times = times + np.interp(times, knots, np.cumsum(rng.normal(0, 0.012, len(knots))))
    elif what == "a turntable":
        times = times + 0.012 * np.sin(2 * np.pi * times / 1.8)
    else:
        times = np.sort(rng.uniform(0, 180, len(times)))
    line = lattice.find(times, strengths, 180.0)
    assert line is None or not line.certain


def test_too_few_attacks_say_nothing() -> None:
    assert lattice.find(np.arange(20.0), np.ones(20), 20.0) is None


def test_curves_stay_near_the_speed_of_music() -> None:
    for seed in range(40):
        speed = curve(np.random.default_rng(seed), 75.0)
        assert len(speed) == 7501
        assert 0.7 < speed.min() <= speed.max() < 1.4
