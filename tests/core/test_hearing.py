"""Hearing beats, held against mir_eval's measures, known truth and physical sense."""

from __future__ import annotations

import mir_eval
import numpy as np
import pytest
from scipy.ndimage import maximum_filter1d
from scipy.signal import find_peaks

from mervid.core import analysis, evidence, fitting, tracker
from mervid.core.errors import FormatError
from tests.conftest import DEMO, RATE, band, clicks, heard_demo, truth


@pytest.mark.parametrize("name", DEMO)
def test_demo_beats_by_the_measures_of_mir_eval(name: str) -> None:
    """F-measure, CMLt and AMLt as in mir_eval.beat (Davies, Degara & Plumbley 2009). Measured: F70 .993-.998."""
    heard = heard_demo(name)[1].heard
    reference = truth(name)
    assert mir_eval.beat.f_measure(reference["beats"], heard.times, 0.07) > 0.98
    assert mir_eval.beat.f_measure(reference["beats"], heard.times, 0.02) > 0.97
    assert mir_eval.beat.f_measure(reference["downbeats"], heard.downbeats, 0.07) > 0.97
    _, cmlt, _, amlt = mir_eval.beat.continuity(reference["beats"], heard.times)
    assert min(cmlt, amlt) > 0.96


@pytest.mark.parametrize("name", DEMO)
def test_followed_grid_stays_with_the_true_beats(name: str) -> None:
    heard = heard_demo(name)[1].heard
    grid = fitting.follow(heard)
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
    found, strength = evidence.onsets(evidence.listen(sound, RATE).attack)
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
    plain = tracker.track(evidence.listen(music, RATE)).times
    for ms in (7, 123):
        gap = np.zeros((round(ms / 1000 * RATE), 2), np.float32)
        moved = tracker.track(evidence.listen(np.concatenate([gap, music]), RATE)).times
        assert len(moved) == len(plain)
        # frames of 10 ms fall elsewhere in the sound: single soft attacks may go to another millisecond
        assert np.median(np.abs(moved - plain - ms / 1000)) <= 0.001
        assert np.abs(moved - plain - ms / 1000).max() < 0.006


@pytest.mark.parametrize("change", ["quiet", "inverted", "mono"])
def test_level_polarity_and_channels_do_not_matter(change: str) -> None:
    music = band(24.0, 112.0)
    other = {"quiet": music * 0.1, "inverted": -music, "mono": music[:, :1]}[change]
    a = tracker.track(evidence.listen(music, RATE)).times
    b = tracker.track(evidence.listen(other, RATE)).times
    assert len(a) == len(b)
    assert np.median(np.abs(a - b)) <= 0.001
    assert np.abs(a - b).max() < 0.006


@pytest.mark.parametrize("tempo", [90.0, 112.0, 126.0, 140.0])
def test_machine_beats_are_found_where_they_are(tempo: float) -> None:
    heard = tracker.track(evidence.listen(band(30.0, tempo, first=0.7), RATE))
    true = 0.7 + 60 / tempo * np.arange(int(29.3 * tempo / 60) + 1)
    assert 60 / np.median(np.diff(heard.times)) == pytest.approx(tempo, rel=0.003)
    near = np.abs(heard.times[:, None] - true[None]).min(axis=1)
    assert np.percentile(near, 95) < 0.005
    assert heard.numbers[0] <= 0
    assert heard.confidence.mean() > 0.7


def test_the_same_on_every_run() -> None:
    music = band(20.0, 101.0)
    a, b = (tracker.track(evidence.listen(music, RATE)) for _ in range(2))
    np.testing.assert_array_equal(a.times, b.times)
    np.testing.assert_array_equal(a.numbers, b.numbers)


def test_streaming_hears_what_one_block_hears() -> None:
    music = band(25.0, 97.0)
    whole = evidence.listen(music, RATE)
    listener = evidence.Listener(RATE)
    for i in range(0, len(music), 7919):
        listener.push(music[i : i + 7919])
    parts = listener.finish()
    np.testing.assert_allclose(parts.flux, whole.flux, atol=1e-5)
    np.testing.assert_allclose(parts.attack, whole.attack, atol=1e-5)
    assert len(whole.attack) == 25_000


def test_nothing_is_heard_where_nothing_is() -> None:
    for sound in (np.zeros(RATE, np.float32), np.zeros(20 * RATE, np.float32), band(1.0)):
        assert len(tracker.track(evidence.listen(sound, RATE)).times) == 0


def test_long_recordings_are_searched_in_pieces_without_a_seam(monkeypatch: pytest.MonkeyPatch) -> None:
    music = band(100.0, 118.0)
    sound = evidence.listen(music, RATE)
    whole = tracker.track(sound)
    monkeypatch.setattr(tracker, "_WINDOW", 60 * evidence.FPS)
    pieces = tracker.track(sound)
    np.testing.assert_allclose(pieces.times, whole.times, atol=0.003)


def test_evidence_survives_being_stored() -> None:
    found = heard_demo("Copper Ferry")[1]
    again = analysis.from_bytes(analysis.to_bytes(found))
    np.testing.assert_array_equal(again.heard.times, found.heard.times)
    np.testing.assert_array_equal(again.attack, found.attack)
    with pytest.raises(FormatError, match="damaged"):
        analysis.from_bytes(b"not a block")
