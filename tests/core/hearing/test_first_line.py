"""Bar 1 is the line that parts the music from what is before it, or another where that is likelier."""

from __future__ import annotations

import numpy as np

from mervid.core.hearing import first_line
from mervid.core.hearing.first_line import First, Lines

PLACE, USUAL = np.arange(32) % 4, 3.0


def told(first: float, then: float = 6.0) -> np.ndarray:
    """Four beats of which each says `first`, and others that are music."""
    return np.where(np.arange(32) < 4, first, then)


def lines(first: float, *, level: float = 0.0) -> Lines:
    """So of four beats, that are louder by `level` than the others."""
    return first_line.lines(told(first), PLACE, np.where(np.arange(32) < 4, USUAL + level, USUAL), USUAL)


def test_the_best_line_parts_the_beats_and_near_ones_may_be_it() -> None:
    found = lines(-3.0, level=-1.0)
    assert found.best == 4 and list(found.others) == [0, 8, 12, 16, 20]
    # no line is known behind the first beats, and no others than lines are any
    few = first_line.lines(told(3.0)[:10], PLACE, np.full(10, USUAL), USUAL)
    assert few.best == 0 and list(few.others) == [4, 8]
    none = first_line.lines(np.array([-1.0, 2.0, 2.0]), np.array([3, 0, 1]), np.full(3, USUAL), USUAL)
    assert first_line.first_line(none) == First(1)


def test_what_is_as_loud_as_the_rest_before_the_line_is_likelier_music() -> None:
    quiet, loud = (first_line.first_line(lines(-3.0, level=x)) for x in (-2.5, 0.0))
    assert (quiet.beat, quiet.other) == (4, 0) and quiet.chance < 0.3
    # what parts the beats best is the other one then
    assert (loud.beat, loud.other) == (0, 4) and loud.chance < 1 - first_line.LIKELY
    stays = first_line.first_line(lines(-3.0), likely=1.0)
    assert (stays.beat, stays.other) == (4, 0) and stays.chance == 1 - loud.chance
    # however loud: beats that are no music by far
    assert first_line.first_line(lines(-12.0)).beat == 4


def test_no_bar_1_lies_in_silence() -> None:
    """Music that begins with half a bar: the line before that isn't where it begins."""
    level = np.where(np.arange(32) < 2, 0.0, USUAL)
    found = first_line.lines(told(-3.0), PLACE, level, USUAL)
    assert found.best == 4 and 0 not in found.others
    level[:2] = USUAL
    assert first_line.first_line(first_line.lines(told(-3.0), PLACE, level, USUAL)).beat == 0


def test_the_chance_of_another_falls_with_what_speaks_against_it() -> None:
    found = [first_line.first_line(lines(x, level=-2.5)) for x in (-2.0, -3.0, -5.0, -10.0)]
    assert {one.beat for one in found} == {4}
    chances = [one.chance for one in found]
    assert chances == sorted(chances, reverse=True) and 0.02 < chances[-1] < 0.05 and chances[0] > 0.3


def test_of_several_the_likeliest_is_told() -> None:
    rows = np.zeros((3, 6))
    rows[:, 0] = [0.9, 0.1, 0.9]
    rows[:, 5] = [0.0, 0.0, -2.0]
    first = first_line.first_line(Lines(8, np.array([0, 4, 12]), rows))
    assert {first.beat, first.other} == {8, 4}
