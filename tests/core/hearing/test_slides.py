"""Slides of the count: what is one, which side of it is taken, and rendered takes heard off the beat on one side."""

from __future__ import annotations

import numpy as np
import pytest
from numpy.typing import NDArray

from mervid.core.hearing import slides
from tests.conftest import material, sound_of_material

Floats = NDArray[np.float64]


def slid(step: float, at: int, size: int, by: float, n: int = 80) -> Floats:
    """Even beats, the `size` steps from `at` on so much longer in all, s."""
    steps = np.full(n - 1, step)
    steps[at : at + size] += by / size
    return 1 + np.concatenate([[0], np.cumsum(steps)])


@pytest.mark.parametrize("size", [2, 4, 7])
@pytest.mark.parametrize("by", [0.25, -0.25])
@pytest.mark.parametrize("jitter", [0.0, 0.006])
def test_half_a_beat_over_some_is_a_slide(size: int, by: float, jitter: float) -> None:
    times = slid(0.5, 30, size, by) + np.random.default_rng(size).normal(0, jitter, 80)
    found = slides.find(times)
    assert len(found) == 1
    # a step or two at either edge may be as good as even
    assert abs(found[0][0] - 30) <= 2 and abs(found[0][1] - 30 - size) <= 2


def test_what_people_do_is_none() -> None:
    assert slides.find(slid(0.5, 30, 4, 0.5)) == []  # a beat too long: held
    assert slides.find(slid(0.5, 30, 12, 0.25)) == []  # a dozen beats a little slower
    turned = np.concatenate([np.full(30, 0.5), np.linspace(0.5, 0.56, 8), np.full(30, 0.56)])
    assert slides.find(np.cumsum(turned)) == []  # a new tempo
    assert slides.find(np.arange(9) * 0.5) == [] and slides.find(np.zeros(0)) == []


def test_the_side_that_less_speaks_for_gives_way_unless_both_are_sure() -> None:
    assert slides.best_sides(np.array([40.0, 5.0])).tolist() == [False, True]
    assert slides.best_sides(np.array([5.0, 40.0])).tolist() == [True, False]
    assert slides.best_sides(np.array([90.0, 12.0, 60.0])).tolist() == [False, True, False]
    assert not slides.best_sides(np.array([40.0, 30.0])).any()
    assert not slides.best_sides(np.array([12.0, 15.0])).any()
    # the network itself says that all of it lies between the beats
    assert slides.best_sides(np.array([-40.0, -30.0])).all()


@pytest.mark.parametrize("by", [0.25, -0.25])
@pytest.mark.parametrize("between", [[True, False], [False, True]])
def test_beats_that_are_moved_join_the_others(by: float, between: list[bool]) -> None:
    found = slides.moved(slid(0.5, 40, 4, by), [(40, 44)], np.array(between))
    np.testing.assert_allclose(np.diff(found), 0.5, atol=1e-9)
    assert found[0] == (1.25 if between[0] else 1.0) and len(found) in (79, 80, 81)


@pytest.mark.parametrize("name", ["dance", "hiphop"])
@pytest.mark.parametrize("wrong_before", [True, False])
def test_one_side_of_a_slide_in_a_take_is_brought_back(name: str, wrong_before: bool) -> None:
    sound, beats = sound_of_material(name), material(name)["beats"]
    assert sound.strengths is not None and sound.scene is not None
    n = len(beats)
    at = n // 2
    places = np.concatenate([np.arange(at) + 0.5, at + 0.5 + 5.5 / 6 * np.arange(6), np.arange(at + 6, n)])
    if not wrong_before:
        places = np.concatenate([np.arange(at), at + 5.5 / 6 * np.arange(6), np.arange(at + 5.5, n - 1)])
    heard = np.interp(places, np.arange(n), beats)
    assert len(slides.find(heard)) == 1
    found = slides.mended(sound.strengths, sound.attack, sound.scene, heard)
    assert found is not None
    off = np.abs(beats[1:-1, None] - found[1][None]).min(axis=1)
    assert off.max() < 0.05 and len(found[1]) == pytest.approx(n, abs=1)
    # the ear is asked for the beats that were taken
    ear = found[0]
    assert ear.beat[np.rint(beats[2:-2] * 50).astype(int)].mean() > 0.3
    # and what is right stays
    assert slides.mended(sound.strengths, sound.attack, sound.scene, beats) is None
