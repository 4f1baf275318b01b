"""Counts that go from one level to another and back: where they do, and a rendered take that is counted so."""

from __future__ import annotations

import mir_eval
import numpy as np
import pytest
import soundfile
from scipy.signal import resample_poly

from mervid import places
from mervid.core.hearing import beat_tracking, features, one_level, rival_counts
from tests.conftest import material, sound_of_material, truth


def count(*parts: tuple[float, int]) -> np.ndarray:
    """Beats in s: of each part the period and how many beats it has."""
    return 3.0 + np.concatenate([[0.0], np.cumsum(np.repeat(*zip(*parts, strict=True)))])


def test_steps_of_three_for_two_are_found_where_they_are() -> None:
    assert one_level.steps(count((0.4, 40), (0.6, 30), (0.4, 20))) == [(40, 1), (70, -1)]
    level = one_level.levels(count((0.4, 40), (0.6, 30), (0.4, 20)))
    assert level.tolist() == [0] * 40 + [1] * 30 + [0] * 20
    # people's beats aren't even, a step stays a step
    uneven = count((0.4, 40), (0.6, 30)) + np.random.default_rng(2).normal(0, 0.008, 71)
    ((beat, way),) = one_level.steps(uneven)
    assert abs(beat - 40) <= 1 and way == 1


@pytest.mark.parametrize(
    "parts",
    [
        [(0.5, 60)],
        # a step that bands make, another level, a slow change as far as that, and too few beats
        [(0.5, 40), (0.42, 40)],
        [(0.5, 40), (1.0, 40)],
        [(p, 1) for p in np.geomspace(0.4, 0.6, 60).tolist()],
        [(0.4, 5), (0.6, 5)],
    ],
)
def test_other_changes_of_tempo_are_no_such_steps(parts: list[tuple[float, int]]) -> None:
    assert one_level.steps(count(*parts)) == []
    assert not one_level.levels(count(*parts)).any()


@pytest.mark.parametrize("name", ["dance", "hiphop"])
def test_what_is_counted_at_two_levels_is_counted_through_at_one(name: str) -> None:
    sound, beats = sound_of_material(name), material(name)["beats"]
    ear, n = sound.strengths, len(beats)
    assert ear is not None and sound.scene is not None
    at = np.concatenate([np.arange(0.0, n // 2), np.arange(n // 2, n - 1, 1.5)])
    wrong = np.interp(at, np.arange(n), beats)
    found = one_level.at_its_levels(ear, wrong)
    assert len(found) == 2
    # F-measure within 70 ms: Davies, Degara & Plumbley, Queen Mary University of London, 2009
    assert max(mir_eval.beat.f_measure(beats, x, 0.07) for x in found if len(x)) > 0.95
    _, times, share = rival_counts.heard_as(ear, sound.attack, sound.scene, wrong)
    assert mir_eval.beat.f_measure(beats, times, 0.07) > 0.95 and share is not None and share > 0.8


@pytest.mark.parametrize("name", ["hiphop", "waltz"])
def test_a_count_at_no_level_of_the_music_is_searched_again(name: str, monkeypatch: pytest.MonkeyPatch) -> None:
    sound, beats = sound_of_material(name), material(name)["beats"]
    ear, n = sound.strengths, len(beats)
    assert ear is not None and sound.scene is not None
    # four beats for three are none of the readings, but three for two of these are twice the truth
    wrong = np.interp(np.arange(0.0, n - 1, 0.75), np.arange(n), beats)
    assert one_level.at_its_levels(ear, wrong) == []
    _, times, _ = rival_counts.heard_as(ear, sound.attack, sound.scene, wrong)
    assert mir_eval.beat.f_measure(beats, times, 0.07) > 0.95
    monkeypatch.setattr(rival_counts, "_searched_again", lambda whole, found: found)
    _, times, _ = rival_counts.heard_as(ear, sound.attack, sound.scene, wrong)
    assert mir_eval.beat.f_measure(beats, times, 0.07) < 0.7


def test_a_band_that_does_play_half_as_fast_again_is_followed() -> None:
    samples, rate = soundfile.read(places.demo_folder() / "Salt Ledger.ogg", dtype="float32", always_2d=True)
    beats, downbeats = (truth("Salt Ledger")[key] for key in ("beats", "downbeats"))
    at = float(downbeats[len(downbeats) // 2])
    later = round(at * rate)
    faster = resample_poly(samples[later:], 2, 3, axis=0).astype(np.float32)
    heard, _ = beat_tracking.track(features.listen(np.concatenate([samples[:later], faster]), rate))
    assert [way for _, way in one_level.steps(heard.times)] == [-1]
    assert mir_eval.beat.f_measure(np.where(beats < at, beats, at + (beats - at) * 2 / 3), heard.times, 0.07) > 0.95


def test_what_is_counted_at_one_level_has_no_other_of_its_own() -> None:
    sound = sound_of_material("dance")
    assert sound.strengths is not None
    beats = material("dance")["beats"]
    assert one_level.at_its_levels(sound.strengths, beats) == []
    # where another reading of the whole is the best, it is searched anew
    (half,) = one_level.at_ratios(sound.strengths, beats, (0.5,))
    assert abs(np.median(np.diff(half)) / np.median(np.diff(beats)) - 2) < 0.02
