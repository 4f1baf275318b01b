"""Bars begin with the first stroke where the whole recording hardly tells, and stay where it does."""

from __future__ import annotations

import attrs
import numpy as np
import pytest

from mervid.core.arrays import Singles
from mervid.core.hearing import beat_tracking, first_stroke, opening
from mervid.core.hearing.ear import Strengths
from mervid.core.hearing.first_stroke import Stroke
from tests.conftest import material, sound_of_material

TIMES, PLACE = 0.4 + 0.5 * np.arange(80), np.arange(80) % 4


def at(beat: int, *, lead: float = 2.0, strength: float = 0.9, begun: float = 2.0) -> Stroke:
    odds = np.where(PLACE == 0, lead, 0.0)
    return first_stroke.stroke(TIMES, PLACE, odds, beat, strength=strength, begun=begun)


def barred_dance() -> tuple[tuple[Strengths, Singles], opening.Barred]:
    """What is heard of a rendered recording, and its beats in bars."""
    sound = sound_of_material("dance")
    heard, seen = sound.strengths, sound.scene
    assert heard is not None and seen is not None
    count = beat_tracking.count(heard, sound.attack, sound.duration, seen=seen)
    whole = opening.barred(count.ear, sound.attack, seen, count.times)
    assert whole is not None
    return (count.ear, sound.attack), whole


def test_a_strong_early_stroke_in_the_music_says_more() -> None:
    assert first_stroke.beside_a_bar(PLACE, np.array([0.1, 0.2, 0.1, 0.9])) == 3
    assert first_stroke.beside_a_bar(PLACE, np.array([0.9, 0.2, 0.1, 0.9])) is None
    assert first_stroke.beside_a_bar(PLACE, np.array([0.1, 0.2])) is None
    likely = at(2).chance
    assert likely > first_stroke.LIKELY
    for less in (at(2, lead=12.0), at(2, strength=0.4), at(2, begun=-6.0), at(14)):
        assert less.chance < first_stroke.LIKELY < likely


def test_bars_are_moved_until_the_count_slips() -> None:
    """A slip goes where the count behind it agrees with the stroke; else it stays one."""
    for slip, joins in ((2, True), (1, False)):
        place = np.where(np.arange(80) < 40, PLACE, (PLACE + slip) % 4)
        odds = np.where(place == 0, 2.0, 0.0)
        first = first_stroke.stroke(TIMES, place, odds, 2, strength=0.9, begun=2.0)
        assert first.stop == 40
        position, told = first_stroke.moved(place, odds, first)
        np.testing.assert_array_equal(position[:40], (PLACE - 2)[:40] % 4)
        np.testing.assert_array_equal(position[40:], place[40:])
        np.testing.assert_array_equal(told[40:], odds[40:])
        assert np.all(np.diff(position) % 4 == 1) == joins


def test_bars_that_are_moved_lead_by_what_their_chance_is_worth() -> None:
    first = at(2)
    odds = np.where(PLACE == 0, 2.0, 0.0)
    position, told = first_stroke.moved(PLACE, odds, first)
    np.testing.assert_array_equal(position, (PLACE - 2) % 4)
    lead = told[PLACE == 2].mean() - told[PLACE == 0].mean()
    # a stroke against which so much spoke, and for which nothing else did, would be as unlikely
    assert 1 / (1 + np.exp(first_stroke._WEIGHTS[0] * lead)) == pytest.approx(first.chance)
    np.testing.assert_array_equal(told[PLACE % 2 == 1], odds[PLACE % 2 == 1])


@pytest.mark.parametrize(("lead", "mended"), [(1.0, True), (12.0, False)])
def test_bars_that_were_put_half_a_bar_late_go_back_to_the_first_stroke(lead: float, mended: bool) -> None:
    """A recording whose network of bars errs: where it hardly leads, bars are as they truly are again."""
    given, whole = barred_dance()
    assert opening.from_first_stroke(*given, whole) is whole
    late = (whole.position + 2) % 4
    wrong = attrs.evolve(whole, position=late, odds=np.where(late == 0, lead / 2, -lead / 2), margin=0.9)
    after = opening.from_first_stroke(*given, wrong)
    np.testing.assert_array_equal(after.position, whole.position if mended else late)
    # it is told how likely that is
    first = opening.first_stroke_of(*given, wrong)
    assert first is not None and (first.chance > first_stroke.LIKELY) == mended
    assert after.most == pytest.approx(first.chance if mended else 1 - first.chance)
    assert after.margin < 0.9 if mended else after.margin == 0.9
    line, _ = opening.opens(*given, after)
    # the file begins with its first downbeat, or with half a bar before bar 1
    assert after.times[line] == pytest.approx(material("dance")["downbeats"][0], abs=0.02)
    assert after.position[line] == (0 if mended else 2)


def test_bars_of_three_stay() -> None:
    given, whole = barred_dance()
    threes = attrs.evolve(whole, metre=3, position=(np.arange(len(whole.times)) + 1) % 3)
    assert opening.first_stroke_of(*given, threes) is None
