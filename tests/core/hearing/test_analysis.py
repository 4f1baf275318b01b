"""Hearing beats, held against mir_eval's measures, known truth and physical sense."""

from __future__ import annotations

from pathlib import Path

import attrs
import mir_eval
import numpy as np
import pytest
from scipy.ndimage import maximum_filter1d
from scipy.signal import find_peaks

from mervid.core.arrays import packed, unpacked
from mervid.core.errors import FormatError
from mervid.core.fitting import fit
from mervid.core.hearing import beat_tracking, ear, evidence, features
from mervid.core.hearing.features import Listener
from mervid.core.hearing.heard import Heard
from tests.conftest import DEMO, RATE, band, clicks, heard_demo, heard_material, truth


def heard(samples: np.ndarray, rate: int = RATE) -> Heard:
    return beat_tracking.track(features.listen(samples, rate))[0]


@pytest.mark.parametrize("name", DEMO)
def test_demo_beats_by_the_measures_of_mir_eval(name: str) -> None:
    """F-measure, CMLt and AMLt as in mir_eval.beat (Davies, Degara & Plumbley 2009). Measured: F70 .993-.998."""
    found = heard_demo(name)[1].heard
    reference = truth(name)
    assert mir_eval.beat.f_measure(reference["beats"], found.times, 0.07) > 0.98
    assert mir_eval.beat.f_measure(reference["beats"], found.times, 0.02) > 0.97
    assert mir_eval.beat.f_measure(reference["downbeats"], found.downbeats, 0.07) > 0.97
    _, cmlt, _, amlt = mir_eval.beat.continuity(reference["beats"], found.times)
    assert min(cmlt, amlt) > 0.96


def test_it_is_kept_whether_the_pulse_was_heard_or_strokes_about_it() -> None:
    found = heard_demo("Copper Ferry")[1]
    assert found.heard.pulse and evidence.from_bytes(evidence.to_bytes(found)).heard.pulse
    strokes = attrs.evolve(found, heard=attrs.evolve(found.heard, pulse=False))
    assert not evidence.from_bytes(evidence.to_bytes(strokes)).heard.pulse


def test_it_is_kept_where_else_bar_1_may_be_and_not_asked_of_older_evidence() -> None:
    found = heard_demo("Copper Ferry")[1]
    other = attrs.evolve(found, heard=attrs.evolve(found.heard, elsewhere=(2.5, 0.2)))
    assert evidence.from_bytes(evidence.to_bytes(other)).heard.elsewhere == (2.5, 0.2)
    older = unpacked(evidence.to_bytes(other))
    older["chances"] = older["chances"][:3]
    assert evidence.from_bytes(packed(**older)).heard.elsewhere == (0.0, 0.0)


@pytest.mark.parametrize("name", ["dance", "disco", "funk", "hiphop", "pop", "rock", "waltz"])
def test_music_that_was_not_trained_on(name: str) -> None:
    """Half a minute each, rendered by training/material.py. Measured: F70 .97-1, F20 .97-.99 (funk .80)."""
    found, reference = heard_material(name)
    assert mir_eval.beat.f_measure(reference["beats"], found.times, 0.07) > 0.95
    assert mir_eval.beat.f_measure(reference["beats"], found.times, 0.02) > (0.75 if name == "funk" else 0.94)
    assert mir_eval.beat.f_measure(reference["downbeats"], found.downbeats, 0.07) > 0.9
    assert found.meter[0].beats_per_bar == (3 if name == "waltz" else 4)


def test_free_sound_has_hardly_a_beat() -> None:
    """Half a minute of free syllables. Measured: 11 unsure beats."""
    found = heard_material("none")[0]
    assert len(found.times) < 15
    assert found.level_chance < 0.5


def test_a_bare_metronome_is_a_beat() -> None:
    times = np.arange(0.8, 39.5, 60 / 104)
    found = heard(clicks(times, 40.0)).times
    assert mir_eval.beat.f_measure(times, found, 0.005) > 0.97


@pytest.mark.parametrize("ratio", [0.97, 1.03])
def test_a_record_played_faster_has_a_faster_beat(ratio: float) -> None:
    """Resampling by r scales every beat's time by 1 / r (a turntable's pitch fader; common practice, no source)."""
    music = band(40.0, 118.0)[:, 0]
    n = int(len(music) / ratio)
    faster = np.interp(np.arange(n) * ratio, np.arange(len(music)), music).astype(np.float32)
    plain, moved = heard(music), heard(faster)
    assert 60 / np.median(np.diff(moved.times)) == pytest.approx(118.0 * ratio, rel=1e-3)
    assert mir_eval.beat.f_measure(plain.times / ratio, moved.times, 0.003) > 0.97


@pytest.mark.parametrize("name", DEMO)
def test_followed_grid_stays_with_the_true_beats(name: str) -> None:
    grid = fit.follow(heard_demo(name)[1].heard)
    times = truth(name)["beats"]
    nearest = grid.time_at(np.round(grid.beat_at(times)))
    assert np.percentile(1000 * np.abs(times - nearest), 95) < 20
    if name == "Pontoon Static":
        assert len(grid.pins) == 2
        assert grid.tempi[0] == pytest.approx(134.994, abs=0.005)


def test_onsets_of_a_click_track_against_the_envelope_itself() -> None:
    """Each click is found within 1.5 ms of where scipy.signal.find_peaks sees the raw envelope begin."""
    times = np.arange(0.5, 19.5, 0.37)
    sound = clicks(times, 20.0)
    found, strength = features.onsets(features.listen(sound, RATE).attack)
    loud = maximum_filter1d(np.abs(sound), 2001)
    reference, _ = find_peaks(np.diff(loud, prepend=0), height=0.05, distance=4000)
    # the running maximum rises half its width before the click itself
    reference = (reference + 1000) / RATE
    assert len(found) == len(times) == len(reference)
    assert np.abs(found - reference).max() < 0.0025
    assert np.abs(found - times).max() < 0.0015
    assert strength.min() > 0.5


def test_delay_moves_beats_by_the_delay() -> None:
    music = band(24.0, 112.0)
    plain = heard(music).times
    for ms in (7, 123):
        gap = np.zeros((round(ms / 1000 * RATE), 2), np.float32)
        moved = heard(np.concatenate([gap, music])).times
        assert len(moved) == len(plain)
        off = np.abs(moved - plain - ms / 1000)
        # the very last beat has no neighbour behind it and may go to another attack
        assert off[:-1].max() <= 0.001
        assert off[-1] < 0.02


@pytest.mark.parametrize("change", ["quiet", "inverted", "mono"])
def test_level_polarity_and_channels_do_not_matter(change: str) -> None:
    music = band(24.0, 112.0)
    other = {"quiet": music * 0.1, "inverted": -music, "mono": music[:, :1]}[change]
    a, b = heard(music).times, heard(other).times
    assert len(a) == len(b)
    assert np.abs(a - b).max() <= 0.001


@pytest.mark.parametrize("tempo", [90.0, 112.0, 126.0, 140.0])
def test_machine_beats_are_found_where_they_are(tempo: float) -> None:
    found = heard(band(30.0, tempo, first=0.7))
    true = 0.7 + 60 / tempo * np.arange(int(29.3 * tempo / 60) + 1)
    assert 60 / np.median(np.diff(found.times)) == pytest.approx(tempo, rel=1e-4)
    near = np.abs(found.times[:, None] - true[None]).min(axis=1)
    assert np.percentile(near, 95) < 0.003
    assert found.numbers[0] <= 0
    assert found.confidence.mean() > 0.7


def test_the_same_on_every_run() -> None:
    music = band(20.0, 101.0)
    a, b = heard(music), heard(music)
    np.testing.assert_array_equal(a.times, b.times)
    np.testing.assert_array_equal(a.numbers, b.numbers)


@pytest.mark.parametrize("trained", [True, False])
def test_streaming_hears_what_one_block_hears(trained: bool, tmp_path: Path) -> None:
    music = band(25.0, 97.0)
    weights = ear.WEIGHTS if trained else tmp_path / "none.npz"
    at_once, listener = Listener(RATE, weights=weights), Listener(RATE, weights=weights)
    at_once.push(music)
    whole = at_once.finish()
    for i in range(0, len(music), 7919):
        listener.push(music[i : i + 7919])
    parts = listener.finish()
    np.testing.assert_allclose(parts.flux, whole.flux, atol=1e-5)
    if trained:
        assert whole.strengths is not None and parts.strengths is not None
        np.testing.assert_allclose(parts.strengths.beat, whole.strengths.beat, atol=0.02)
    np.testing.assert_allclose(parts.attack, whole.attack, atol=1e-5)
    assert len(whole.attack) == 25_000


def test_nothing_is_heard_where_nothing_is() -> None:
    noise = np.random.default_rng(0).normal(0, 0.1, 30 * RATE).astype(np.float32)
    for sound in (
        np.zeros(0, np.float32),
        np.zeros(RATE, np.float32),
        np.zeros(20 * RATE, np.float32),
        band(1.0),
        noise,
    ):
        assert len(heard(sound).times) == 0


def test_evidence_survives_being_stored() -> None:
    found = heard_demo("Copper Ferry")[1]
    again = evidence.from_bytes(evidence.to_bytes(found))
    np.testing.assert_array_equal(again.heard.times, found.heard.times)
    np.testing.assert_array_equal(again.attack, found.attack)
    with pytest.raises(FormatError, match="damaged"):
        evidence.from_bytes(b"not a block")
