"""Kinds of time, from beats that keep it."""

from __future__ import annotations

import numpy as np
import pytest
from numpy.typing import NDArray

from mervid.core.fitting import timekeeping
from mervid.core.hearing.turntable import Sway
from mervid.core.sound.condition import Condition
from tests.conftest import beats_heard, heard_demo


def attack_at(times: NDArray[np.float64]) -> NDArray[np.float32]:
    """An attack at each time."""
    out = np.zeros(int((times[-1] + 2) * 1000), np.float32)
    out[np.rint(times * 1000).astype(int)] = 0.8
    return out


def kind_of(periods: NDArray[np.float64], jitter: float = 0.002, **facts: object) -> str:
    rng = np.random.default_rng(4)
    times = 0.5 + np.concatenate([[0.0], np.cumsum(periods)]) + rng.normal(0, jitter, len(periods) + 1)
    return timekeeping.judge(beats_heard(times), attack_at(times), **facts).kind  # type: ignore[arg-type]


def test_kinds_of_made_up_beats() -> None:
    steady = np.full(200, 0.5)
    assert kind_of(steady) == timekeeping.STEADY
    assert kind_of(np.repeat([0.5, 0.47, 0.52], 64)) == timekeeping.STEPPED
    ramp = np.concatenate([np.full(64, 0.5), np.linspace(0.5, 0.4, 16), np.full(64, 0.4)])
    assert kind_of(ramp) == timekeeping.RAMPING
    rng = np.random.default_rng(0)
    wander = 0.52 * (1 + np.convolve(rng.normal(0, 0.02, 220), np.ones(12) / 12, "valid"))
    assert kind_of(wander, 0.005) == timekeeping.WANDERING
    assert kind_of(steady, sway=Sway("45", 0.75, 0.002, 20.0)) == timekeeping.TURNTABLE
    drifting = 0.5 * (1 + np.linspace(0, 0.006, 200))
    assert kind_of(drifting, condition=Condition(lead_in=3.0, noise=-55.0)) == timekeeping.TURNTABLE
    assert kind_of(np.full(8, 0.5)) == timekeeping.UNCLEAR


@pytest.mark.parametrize("seed", [7, 10, 20])
def test_beats_that_go_here_and_there_are_on_no_slide(seed: int) -> None:
    assert kind_of(np.random.default_rng(seed).normal(0.5, 0.03, 40)[1:], 0.0) == timekeeping.WANDERING


def test_never_steady_where_a_steady_grid_leaves_twenty_ms() -> None:
    """One tempo change of 0.5 % in the middle puts the ends of 200 beats 60 ms apart from any line."""
    assert kind_of(np.repeat([0.5, 0.5025], 100)) != timekeeping.STEADY
    assert kind_of(np.concatenate([np.full(100, 0.5), [0.56], np.full(100, 0.5)])) != timekeeping.STEADY
    assert kind_of(np.concatenate([np.full(200, 0.5), [0.53, 0.56, 0.6]])) == timekeeping.RAMPING


@pytest.mark.parametrize(
    ("name", "kind"),
    [
        ("Copper Ferry", timekeeping.WANDERING),
        ("Night Barge", timekeeping.TURNTABLE),
        ("Pontoon Static", timekeeping.STEADY),
    ],
)
def test_kinds_of_the_demo(name: str, kind: str) -> None:
    _, e = heard_demo(name)
    assert timekeeping.judge(e.heard, e.attack_strength(), sway=e.sway, condition=e.condition).kind == kind
