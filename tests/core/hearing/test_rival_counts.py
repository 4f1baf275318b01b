"""Rival counts: arithmetic, the best way through them, and an ear that errs for a while on rendered takes."""

from __future__ import annotations

from pathlib import Path

import attrs
import mir_eval
import numpy as np
import pytest

from mervid.core.hearing import beat_tracking, count_level, rival_counts, rival_figures
from mervid.core.hearing.ear import Strengths
from mervid.core.hearing.features import Sound
from mervid.core.hearing.rival_counts import AS_FOUND, BETWEEN, RIVALS
from mervid.core.hearing.spectra import EAR_FPS
from tests.conftest import material, sound_of_material

TWICE = 1


def f_measure(name: str, times: np.ndarray) -> float:
    """F-measure within 70 ms: Davies, Degara & Plumbley, Queen Mary University of London, 2009."""
    return float(mir_eval.beat.f_measure(material(name)["beats"], times, 0.07))


def astray(sound: Sound, beats: np.ndarray, start: float, stop: float) -> Strengths:
    """The ear of a sound, which hears beats half a beat late from `start` to `stop` s."""
    ear = sound.strengths
    assert ear is not None
    frame = np.arange(len(ear.beat)) / EAR_FPS
    half = float(np.median(np.diff(beats))) / 2
    inside = (frame >= start) & (frame < stop)
    beat, down = (np.where(inside, np.interp(frame - half, frame, x), x) for x in (ear.beat, ear.downbeat))
    return attrs.evolve(ear, beat=beat, downbeat=down)


def test_rivals_of_an_even_count() -> None:
    beats = np.arange(10.0, 40.0, 0.5)
    firsts = (10.0, 10.0, 10.0, 10.5, 10.25, 10.0, 10 + 1 / 6, 10.0, 10.25, 10.5)
    for rival, found, first in zip(RIVALS, rival_counts.rivals(beats), firsts, strict=True):
        if rival.ratio == 2:
            assert found is None  # 240 a minute is no beat
            continue
        assert found is not None and found[0] == pytest.approx(first)
        np.testing.assert_allclose(np.diff(found), 0.5 / rival.ratio)
        assert beats[-1] - found[-1] < 0.5 / rival.ratio
    assert rival_counts.rivals(beats[:8]) == [None] * len(RIVALS)


def test_the_best_way_changes_its_side_where_that_is_sure_and_keeps_its_level() -> None:
    odds = np.full((len(RIVALS), 80), -6.0)
    odds[AS_FOUND] = 5.0
    odds[AS_FOUND, 30:50], odds[BETWEEN, 30:50] = -3.0, 4.0
    assert rival_counts.best_way(odds, None).tolist() == [AS_FOUND] * 30 + [BETWEEN] * 20 + [AS_FOUND] * 30
    # two beats are not enough to go there and back
    odds[AS_FOUND, 32:50], odds[BETWEEN, 32:50] = 5.0, -6.0
    assert not rival_counts.best_way(odds, None).any()
    # half of a track at another level is not enough, nearly all of it is
    odds[TWICE, 40:] = 9.0
    assert not rival_counts.best_way(odds, None).any()
    odds[AS_FOUND, 20:], odds[TWICE, 20:] = -6.0, 9.0
    assert (rival_counts.best_way(odds, None) == TWICE).all()


def test_what_is_said_of_the_whole_decides_between_two_that_are_alike() -> None:
    odds = np.full((len(RIVALS), 40), -6.0)
    odds[AS_FOUND] = odds[TWICE] = 2.0
    shares = np.array([0.1, 0.85, 0.01, 0.01, 0.01, 0.01, 0.01])
    assert (rival_counts.best_way(odds, shares) == TWICE).all()
    assert not rival_counts.best_way(odds, shares[[1, 0, 2, 3, 4, 5, 6]]).any()


@pytest.mark.parametrize("name", ["dance", "waltz"])
def test_an_ear_that_goes_to_the_off_beat_for_a_while_is_brought_back(name: str) -> None:
    sound, beats = sound_of_material(name), material(name)["beats"]
    third = sound.duration / 3
    ear = astray(sound, beats, third, 2 * third)
    assert sound.scene is not None
    wrong = beat_tracking.rough(ear, sound.duration)
    assert f_measure(name, wrong) < 0.8
    again, found, share = rival_counts.heard_as(ear, sound.attack, sound.scene, wrong)
    assert f_measure(name, found) > 0.95 and share is not None and share > 0.6
    # what was heard elsewhere stays as it was, what is asked afterwards asks the ear that was drawn
    early = slice(0, int((third - 2) * EAR_FPS))
    np.testing.assert_array_equal(again.beat[early], ear.beat[early])
    heard = beat_tracking.follow(ear, sound.attack, sound.duration, seen=sound.scene)
    assert f_measure(name, heard.times) > 0.95


@pytest.mark.parametrize("name", ["dance", "hiphop", "waltz"])
def test_what_is_right_stays(name: str) -> None:
    sound = sound_of_material(name)
    ear = sound.strengths
    assert ear is not None and sound.scene is not None
    times = beat_tracking.rough(ear, sound.duration)
    same, found, share = rival_counts.heard_as(ear, sound.attack, sound.scene, times)
    assert same is ear and found is times and share is not None and share > 0.9
    # a whole that is as sure is hardly doubted, one that is not is
    assert beat_tracking.level_chance(share, 0.97) > 0.9 > beat_tracking.level_chance(0.4, 0.6) > 0.3
    sure = rival_counts.sure_of_side(ear, sound.attack, sound.scene, times)
    assert sure is not None and sure.shape == times.shape and np.median(sure) > 6


def test_without_weights_or_with_few_beats_the_whole_decides(monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> None:
    sound = sound_of_material("dance")
    ear, seen = sound.strengths, sound.scene
    assert ear is not None and seen is not None
    times = beat_tracking.rough(ear, sound.duration)
    halved = times[::2]
    assert f_measure("dance", rival_counts.heard_as(ear, sound.attack, seen, halved)[1]) > 0.95
    asked: list[int] = []
    monkeypatch.setattr(count_level, "likeliest", lambda ear, times, shares: asked.append(len(times)) or times)
    few = times[:8]
    assert rival_counts.heard_as(ear, sound.attack, seen, few) == (ear, few, None) and not asked
    monkeypatch.setattr(rival_counts, "WEIGHTS", tmp_path / "none.npz")
    assert rival_counts.heard_as(ear, sound.attack, seen, times) == (ear, times, None) and len(asked) == 1
    assert rival_counts.sure_of_side(ear, sound.attack, seen, times) is None


def test_figures_say_which_beats_are_like_the_others() -> None:
    sound, beats = sound_of_material("dance"), material("dance")["beats"]
    assert sound.strengths is not None and sound.scene is not None
    whole = rival_figures.Whole.of(sound.strengths, sound.attack, sound.scene)
    half = np.median(np.diff(beats)) / 2
    late = np.concatenate([beats[:40], beats[40:60] + half, beats[61:]])
    rows = rival_figures.figures(whole, late)
    assert rows.shape == (len(late), rival_figures.COUNT) and np.isfinite(rows).all()
    on, off = rows[:, -2], rows[:, -1]
    assert (on - off)[:40].mean() > 0.1 and (off - on)[41:59].mean() > 0.1
