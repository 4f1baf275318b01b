"""What the networks over beats are shown: lessons of a take with known truth."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from mervid.core.hearing import bar_figures, opening, places
from training import beats
from training import opening as first
from training.beat_net import KEPT, LENGTH, Task


def test_a_lesson_says_of_each_beat_whether_a_bar_begins_and_how_far_off_it_is(take: Path) -> None:
    lesson = beats.lesson(take)
    assert lesson is not None
    n = len(lesson.begins)
    assert lesson.bars.shape == (n, bar_figures.COUNT) and lesson.places.shape == (n, places.COUNT)
    # eight beats of no music begin no bar, and nothing is known of their places
    np.testing.assert_array_equal(lesson.known[:8], 0)
    np.testing.assert_array_equal(lesson.told[:8], 1)
    np.testing.assert_array_equal(lesson.begins[:8], 0)
    bars = np.flatnonzero(lesson.begins)
    assert bars[0] == 8 and set(np.diff(bars)) == {4}
    assert np.abs(lesson.off * places.UNIT).max() < beats.NEAR


def test_examples_are_parts_of_a_lesson_with_some_figures_left_out(take: Path) -> None:
    lesson = beats.lesson(take)
    assert lesson is not None
    task = Task([lesson.bars], [lesson.begins], [lesson.told], (1,), 1, lambda a, b: a, bar_figures.PARTS)
    rng = np.random.default_rng(3)
    left = 0
    for _ in range(40):
        rows, targets, told = task.example(rng, 0)
        assert rows.shape == (LENGTH, bar_figures.COUNT) and targets.shape == told.shape == (LENGTH,)
        assert set(np.diff(np.flatnonzero(targets))) <= {4}
        m = int(told.nonzero()[0].max()) + 1
        left += sum(not rows[:m, a:b].any() for a, b in bar_figures.PARTS)
    assert 15 < left < 75


def test_the_music_has_begun_from_its_first_bar_on(take: Path) -> None:
    lesson = first.lesson(take)
    assert lesson is not None and lesson.figures.shape == (len(lesson.begun), opening.COUNT)
    begun = np.flatnonzero(lesson.begun)
    # eight beats were found before it, and some tried before those
    assert begun[0] >= 8 and set(np.diff(begun)) == {1} and begun[-1] == len(lesson.begun) - 1
    assert first.lesson(None) is None


def test_confidence_is_set_by_what_was_right(take: Path) -> None:
    known = beats.confidence(take)
    assert known is not None
    figures, right, phase = known
    assert figures.shape == (len(right), 5) and right[8:].mean() > 0.9
    assert phase is not None and phase[1] == 1
    assert beats.confidence(None) is None and beats.lesson(None) is None
    # of the ear of voices alone only such are judged, and this has drums
    assert beats.confidence(take, sung=True) is None


def test_a_take_without_a_beat_teaches_nothing_of_beats(take: Path, tmp_path: Path) -> None:
    with np.load(take) as z:
        np.savez(tmp_path / "1.npz", **{**z, "beats": np.zeros(0), "downbeats": np.zeros(0)})
    assert beats.lesson(tmp_path / "1.npz") is None and first.lesson(tmp_path / "1.npz") is None


def test_what_several_ears_heard_of_a_take_is_kept_from_the_same_networks() -> None:
    told = [(f"{k} general", f"{k} sung" if k % 5 else None) for k in range(40)] + [(None, None), (None, "41 sung")]
    rows = beats.apart(told)
    assert len(set(rows)) == len(rows) and len(rows) % KEPT == 0
    place = {row: k % KEPT for k, row in enumerate(rows)}
    for k in range(40):
        assert len({place[f"{k} {by}"] for by in ("general", "sung") if f"{k} {by}" in place}) <= 1
    assert sum("sung" in row for row in rows) > 20 and sum("general" in row for row in rows) > 30
    # one ear alone: the takes as they come
    assert beats.apart((k,) for k in range(13)) == list(range(12))
