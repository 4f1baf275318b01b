"""Voices alone: told from music that is struck, counted at their beats, and told from somebody who talks."""

from __future__ import annotations

import itertools
from pathlib import Path

import attrs
import mir_eval
import numpy as np
import pytest

from mervid.core.hearing import (
    bar_lines,
    beat_net,
    beat_tracking,
    count_level,
    features,
    opening,
    places,
    rival_counts,
    rival_figures,
    voices,
)
from mervid.core.hearing.bar_figures import COUNT as BARS
from mervid.core.hearing.ear import Strengths
from mervid.core.hearing.features import Sound
from tests.conftest import material, sound_of_material


def ear_of(name: str) -> tuple[Sound, Strengths]:
    sound = sound_of_material(name)
    assert sound.strengths is not None and sound.scene is not None
    return sound, sound.strengths


@pytest.mark.parametrize(
    ("name", "alone"), [("voice", True), ("talk", True), ("none", True), ("dance", False), ("waltz", False)]
)
def test_a_voice_alone_is_told_from_music_that_is_struck(name: str, alone: bool) -> None:
    _, ear = ear_of(name)
    assert voices.alone(ear) == alone
    for weights in (bar_lines.WEIGHTS, places.WEIGHTS, opening.WEIGHTS, rival_counts.WEIGHTS, count_level.WEIGHTS):
        assert voices.among(weights, ear) == (voices.theirs(weights) if alone else weights)


def test_its_networks_are_there_and_others_serve_where_they_are_not(tmp_path: Path) -> None:
    figures = {
        bar_lines.WEIGHTS: BARS,
        places.WEIGHTS: places.COUNT_SUNG,
        opening.WEIGHTS: opening.COUNT,
        rival_counts.WEIGHTS: rival_figures.COUNT,
    }
    for weights, count in figures.items():
        assert beat_net.load(voices.theirs(weights), count) is not None
    _, ear = ear_of("voice")
    assert voices.among(tmp_path / "bars.npz", ear) == tmp_path / "bars.npz"


def test_a_voice_is_counted_at_its_beats() -> None:
    sound, ear = ear_of("voice")
    found = beat_tracking.follow(ear, sound.attack, sound.duration, seen=sound.scene)
    # F-measure within 70 ms and continuity: Davies, Degara & Plumbley, Queen Mary University of London, 2009
    beats = material("voice")["beats"]
    assert mir_eval.beat.f_measure(beats, found.times, 0.07) > 0.9
    assert mir_eval.beat.f_measure(material("voice")["downbeats"], found.times[found.position == 0], 0.07) > 0.9


def test_a_count_by_syllables_is_brought_to_the_beat() -> None:
    """An ear that takes eighths for beats, as it does with a flow on sixteenths."""
    sound, ear = ear_of("voice")
    beats = material("voice")["beats"]
    twice = np.sort(np.append(beats, (beats[1:] + beats[:-1]) / 2))
    assert sound.scene is not None
    _, found, share = rival_counts.heard_as(ear, sound.attack, sound.scene, twice)
    assert mir_eval.beat.f_measure(beats, found, 0.07) > 0.9 and share is not None and share > 0.5


@pytest.mark.parametrize("name", ["talk", "none"])
def test_talk_and_noise_have_no_beat_however_the_ear_answers(name: str, monkeypatch: pytest.MonkeyPatch) -> None:
    sound, ear = ear_of(name)
    assert sound.scene is not None
    for louder in (1.0, 2.5):
        loud = attrs.evolve(ear, beat=np.minimum(1, ear.beat * louder).astype(np.float32))
        found = beat_tracking.follow(loud, sound.attack, sound.duration, seen=sound.scene)
        assert not len(found.times)
    assert not len(beat_tracking.track(sound)[0].times)
    # by strength alone it can't be told
    monkeypatch.setattr(rival_counts, "tells_voices", lambda ear: False)
    assert len(beat_tracking.follow(loud, sound.attack, sound.duration, seen=sound.scene).times)


def test_a_faint_voice_with_a_pulse_is_heard() -> None:
    sound, ear = ear_of("voice")
    faint = attrs.evolve(ear, beat=(ear.beat * 0.3).astype(np.float32))
    assert not len(beat_tracking.rough(faint, sound.duration))
    found = beat_tracking.follow(faint, sound.attack, sound.duration, seen=sound.scene)
    assert mir_eval.beat.f_measure(material("voice")["beats"], found.times, 0.07) > 0.8


def test_beats_go_to_the_vowels_of_syllables_with_long_consonants() -> None:
    """Beats that were found some 40 ms early, where consonants begin, are moved on."""
    sound, ear = ear_of("voice")
    beats = material("voice")["beats"]
    assert sound.scene is not None
    moved = {}
    for early in (0.0, 0.04):
        times = beats - early
        moved[early] = places.nearer(
            ear, sound.attack, sound.scene, times, position=np.arange(len(times)) % 4, steady=np.full(len(times), -1)
        )
        assert moved[early].shape == times.shape and np.abs(moved[early] - times).max() <= places.MOST_SUNG
    # most of the way, wherever they were put
    assert abs(np.median(moved[0.0] - beats)) < 0.012
    assert abs(np.median(moved[0.04] - beats)) < 0.02


@pytest.mark.parametrize(
    ("others", "before", "after"),
    [
        (np.arange(0.0, 30.0), 10, 4),
        # from the middle on only, and by less than a bar
        (np.arange(20.0, 30.0), 0, 4),
        (np.arange(8.0, 28.0), 0, 0),
        # on the other side, twice as fast, and at another tempo
        (np.arange(0.5, 30.0), 0, 0),
        (np.arange(0.0, 30.0, 0.5), 0, 0),
        (np.arange(0.0, 30.0, 1.03), 0, 0),
        (np.zeros(0), 0, 0),
    ],
)
def test_a_count_is_carried_on_where_another_agrees_with_its_end(others: np.ndarray, before: int, after: int) -> None:
    head, tail = voices.carried_on(np.arange(10.0, 26.0), others)
    assert (len(head), len(tail)) == (before, after)
    assert set(head) | set(tail) <= set(others)


def test_what_the_surer_ear_gives_up_the_other_counts_on(monkeypatch: pytest.MonkeyPatch) -> None:
    sound, ear = ear_of("voice")
    whole = beat_tracking.follow(ear, sound.attack, sound.duration, seen=sound.scene)
    part = slice(8, len(whole.times) - 12)
    sure = attrs.evolve(
        whole, times=whole.times[part], position=whole.position[part], steady=whole.steady[part], level=0.9
    )
    found = iter((attrs.evolve(whole, level=0.5), sure))
    monkeypatch.setattr(beat_tracking, "follow", lambda *a, **k: next(found))
    heard, _ = beat_tracking.track(sound)
    np.testing.assert_array_equal(heard.times, whole.times)
    # bars go on, and the chance is that of the surer
    np.testing.assert_array_equal(heard.position, whole.position)
    assert heard.level_chance == 0.9


def test_levels_between_frames_are_between_theirs() -> None:
    rows = np.array([[0.0, 10.0], [1.0, 20.0], [3.0, 0.0]], np.float32)
    at = np.array([[-2.0, 0.25, 1.5, 9.0]])
    np.testing.assert_allclose(places._interpolated(rows, at)[0], [[0, 10], [0.25, 12.5], [2, 10], [3, 0]])
    assert places._interpolated(rows[:1], at).shape == (1, 4, 2)


def tune(beats: int) -> np.ndarray:
    """One line at 120 BPM on something that sings, from half a second on; 32 kHz."""
    rate, parts, count = 32_000, [np.zeros(16_000)], 0.0
    for length, step in itertools.cycle(zip((1, 1, 2, 1, 1, 2, 1), (0, 2, 4, 7, 12, 7, 4), strict=True)):
        if count >= beats:
            break
        t = np.arange(length * rate // 2) / rate
        hz = 220 * 2 ** (step / 12)
        phase = 2 * np.pi * np.cumsum(hz * (1 + 0.04 * np.sin(2 * np.pi * 5.5 * t))) / rate
        tone = sum((np.exp(-(((k * hz - 700) / 400) ** 2)) + 0.3) * np.sin(k * phase) / k**1.2 for k in range(1, 12))
        parts.append(tone * np.minimum(1, t / 0.12) * np.minimum(1, (t[-1] - t) / 0.15))
        count += length
    x = np.concatenate(parts)
    return np.asarray(x / np.abs(x).max() / 2, np.float32)


def test_a_tune_that_is_taken_for_a_voice_and_given_up_is_heard_as_music(monkeypatch: pytest.MonkeyPatch) -> None:
    sound = features.listen(tune(56), 32_000)
    assert sound.strengths is not None and voices.alone(sound.strengths)
    # the networks of voices alone find no pulse in it
    monkeypatch.setattr(rival_counts, "_right", lambda told, way: 0.0)
    found, told = beat_tracking.track(sound)
    assert mir_eval.beat.f_measure(0.5 + 0.5 * np.arange(56), found.times, 0.1) > 0.9
    # what is said of the voice stays as it was heard
    assert told is not None and np.array_equal(told.voice, sound.strengths.voice)
    # talk and noise are no music either
    for name in ("talk", "none"):
        assert not len(beat_tracking.track(ear_of(name)[0])[0].times)
