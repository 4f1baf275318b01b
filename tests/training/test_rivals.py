"""What the network of rival counts is shown: which beats are right, and counts made to slip."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from mervid.core.hearing import rival_figures
from tests.conftest import material, sound_of_material
from training import rivals
from training.beat_net import Task

RNG_SEED = 4


def test_a_beat_is_right_on_a_true_one_at_its_level() -> None:
    beats = np.arange(1.0, 21.0, 0.5)
    for times, share in ((beats, 1.0), (beats + 0.04, 1.0), (beats + 0.25, 0.0), (beats[::2], 0.0), (beats + 0.1, 0.0)):
        right, known = rivals.judged(times, beats)
        assert right.mean() == share and known[:-1].all()
    early, known = rivals.judged(np.arange(-2.0, 21.0, 0.5), beats)
    np.testing.assert_array_equal(known[:6], 0)
    assert early[6:].all()


def test_a_slipped_count_comes_back_and_mostly_takes_the_ear_along() -> None:
    ear, beats = sound_of_material("dance").strengths, material("dance")["beats"]
    assert ear is not None
    rng = np.random.default_rng(RNG_SEED)
    moved, slipped = 0, 0
    for _ in range(20):
        heard, times = rivals.slipped(rng, ear, beats)
        right, _ = rivals.judged(times, beats)
        slipped += 0 < (right == 0).sum() < 0.95 * len(times)
        moved += not np.array_equal(heard.beat, ear.beat)
        assert np.all(np.diff(times) > 0.1)
        # the ear changes by moving only: it hears no more than before
        assert heard.beat.max() <= ear.beat.max() and len(heard.beat) == len(ear.beat)
    assert slipped > 17 and 8 < moved < 20


def test_a_lesson_has_the_count_its_rivals_and_slips(take: Path) -> None:
    lesson = rivals.lesson(take)
    assert lesson is not None
    found = lesson[0]
    # the first two bars are said to come before the music
    assert found.right[9:-1].mean() > 0.95 and not found.known[:7].any()
    assert all(c.figures.shape == (len(c.right), rival_figures.COUNT) for c in lesson)
    assert all(c.right.mean() < 0.2 for c in lesson[1:] if not c.made)
    assert sum(c.made for c in lesson) == 2 * rivals.SLIPPED
    assert rivals.lesson(None) is None


def test_the_right_count_and_slips_are_shown_most(take: Path) -> None:
    lesson = rivals.lesson(take)
    assert lesson is not None
    odds = rivals.odds(lesson)
    assert odds.sum() == pytest.approx(1)
    made = np.array([c.made for c in lesson])
    assert odds[made].sum() == pytest.approx(rivals.MADE) and odds[0] == odds[~made].max() > rivals.RIGHT / 2
    n = len(lesson)
    two = [*lesson, *lesson]
    parts = [c.figures for c in two], [c.right for c in two], [c.known for c in two]
    groups = tuple(range(n)), tuple(range(n, 2 * n))
    task = Task(*parts, (1,), 1, lambda a, b: a, groups=groups, odds=(odds, np.eye(n)[0]))
    assert task.takes() == groups
    rng = np.random.default_rng(RNG_SEED)
    rows, right, known = task.example(rng, 1)
    # of the second take only the count that was found is shown
    shown = right[: int(known.nonzero()[0].max()) + 1]
    assert rows.shape == (len(right), rival_figures.COUNT) and shown.mean() > 0.8


def test_of_talk_no_count_is_right() -> None:
    right, known = rivals.judged(np.arange(0.0, 20.0, 0.6), np.zeros(0))
    assert not right.any() and known.all()
