"""Tapping along: what a row of taps says, and how it guides the hearing."""

from __future__ import annotations

import itertools

import numpy as np
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

from mervid.core.edits import listening_edits
from mervid.core.errors import Refused
from mervid.core.fitting import proposal
from mervid.core.guided import tap_reading, tap_tracking
from mervid.core.model import preparation
from mervid.core.model.preparation import Preparation
from tests.conftest import DRUMMED, VOICE, heard_demo, truth


class Person:
    """Taps 40 ms late, give or take 25 ms, and leaves two beats out: common figures of tapping, no source."""

    def __init__(self, seed: int, late: float = 0.040, scatter: float = 0.025, missed: int = 2) -> None:
        self._rng = np.random.default_rng(seed)
        self._late, self._scatter, self._missed = late, scatter, missed

    def taps(self, beats: np.ndarray) -> np.ndarray:
        kept = np.sort(self._rng.choice(np.arange(1, len(beats) - 1), len(beats) - 2 - self._missed, replace=False))
        kept = np.concatenate([[0], kept, [len(beats) - 1]])
        return beats[kept] + self._late + self._rng.normal(0, self._scatter, len(kept))


@settings(max_examples=40)
@given(tempo=st.floats(60, 180), seed=st.integers(0, 10_000))
@example(tempo=137.0, seed=501)  # an early tap, and a late one after it
def test_a_steady_beat_is_read_within_its_own_uncertainty(tempo: float, seed: int) -> None:
    beats = 3.0 + np.arange(64) * 60 / tempo
    found = tap_reading.read(np.sort(Person(seed).taps(beats)))
    assert abs(found.tempo - tempo) < 5 * max(found.tempo_sd, 1e-3)
    assert found.scatter == pytest.approx(0.025, rel=0.5)
    # every beat is there, those left out, too, and late by the person's delay only
    assert len(found.beats) == 64
    assert np.median(found.beats - beats) == pytest.approx(0.040, abs=5 * 0.025 / 8)


def test_uncertainty_shrinks_and_most_of_a_minute_is_enough() -> None:
    beats = np.arange(120) * 0.5
    tapped = np.sort(Person(3).taps(beats))
    shown = [tap_reading.read(tapped[:n]) for n in (10, 20, 40, 80, 110)]
    errors = [r.tempo_sd for r in shown]
    assert all(b < 0.75 * a for a, b in itertools.pairwise(errors))
    assert [r.enough for r in shown] == [False, False, False, True, True]


def test_double_strikes_and_wild_taps_are_left_out() -> None:
    beats = np.arange(60) * 0.5
    extra = np.array([5.11, 12.63, 20.2])
    found = tap_reading.read(np.sort(np.concatenate([beats, extra])))
    assert found.tempo == pytest.approx(120, abs=0.05)
    assert sorted(found.times[~found.used].round(2)) == [5.11, 12.63, 20.2]


def test_a_wandering_tempo_is_followed_not_averaged() -> None:
    beats = np.concatenate([[0], np.cumsum(60 / (112 + 4 * np.sin(np.arange(90) / 14)))])
    found = tap_reading.read(np.sort(Person(1, late=0.0, missed=1).taps(beats)))
    assert found.wanders
    assert np.abs(found.beats - beats).mean() < 0.012
    line = np.polyval(np.polyfit(np.arange(91), beats, 1), np.arange(91))
    assert np.abs(line - beats).mean() > 3 * np.abs(found.beats - beats).mean()


def test_downbeats_without_strays_also_across_an_odd_bar() -> None:
    beats = np.arange(50) * 0.5
    down = np.zeros(50, bool)
    down[[0, 4, 8, 13, 16, 20, 24, 26, 30, 34, 38]] = True
    found = tap_reading.read(beats, down)
    np.testing.assert_allclose(found.downs, beats[[0, 4, 8, 16, 20, 24, 26, 30, 34, 38]], atol=0.005)


@pytest.mark.parametrize(
    ("times", "words"),
    [
        (np.arange(3) * 0.5, "3 taps are too few"),
        (np.arange(9) * 0.1, "Tap 20 to 300 times a minute"),
        (np.array([0.0, 1.0, np.nan, 2.0, 3.0, 4.0]), "A tap has no time"),
    ],
)
def test_what_is_no_row_of_taps_is_refused(times: np.ndarray, words: str) -> None:
    with pytest.raises(Refused, match=words):
        tap_reading.read(times)


def test_calibration_finds_the_delay_and_refuses_what_keeps_no_time() -> None:
    clicks = 1.0 + np.arange(40) * 0.6
    delay, scatter = tap_reading.delay(Person(2).taps(clicks[:24]), clicks)
    assert delay == pytest.approx(0.040, abs=0.012)
    assert 0.01 < scatter < 0.05
    with pytest.raises(Refused, match="don't keep to the click"):
        tap_reading.delay(np.sort(np.random.default_rng(0).uniform(0, 20, 24)), clicks)


def tapped(name: str, seed: int, delay: float) -> tuple[np.ndarray, np.ndarray]:
    """Errors of the grid, s, that a person's taps over 45 s of a demo track give, and which bars are right."""
    beats, downs = truth(name)["beats"], truth(name)["downbeats"]
    part = beats[(beats > 8) & (beats < 53)]
    times = Person(seed).taps(part)
    down = np.isin(part[np.abs(part[None] - (times - 0.04)[:, None]).argmin(axis=1)], downs)
    order = np.argsort(times)
    found = tap_reading.read(times[order] - delay, down[order])
    grid = listening_edits.tap_along(Preparation(), heard_demo(name)[1], found.beats, found.downs).grid
    assert grid is not None
    numbers = np.round(grid.beat_at(beats[:-1]))
    bars = grid.bar_index(np.round(grid.beat_at(downs[1:-1])))[1] == 0
    return grid.time_at(numbers) - beats[:-1], bars


@pytest.mark.parametrize("name", DRUMMED)
def test_a_sloppy_thumb_still_gives_a_precise_grid(name: str) -> None:
    error, bars = tapped(name, seed=5, delay=0.0)
    assert np.median(np.abs(error)) < 0.008
    assert bars.mean() > 0.95


def test_a_voice_is_gridded_by_the_taps_themselves() -> None:
    error, bars = tapped(VOICE, seed=5, delay=0.040)
    assert np.median(np.abs(error)) < 0.025
    assert bars.mean() > 0.95


def test_where_nothing_is_heard_at_the_end_the_tempo_is_kept() -> None:
    times = np.concatenate([0.5 * np.arange(24), 11.5 + 0.53 * np.arange(1, 17)])
    heard = np.repeat([0.4, 0.0], [24, 16])
    even = tap_tracking.evenly_on(times, heard)
    np.testing.assert_allclose(even, 0.5 * np.arange(len(even)), atol=1e-9)
    assert -0.125 <= times[-1] - even[-1] < 0.5
    # one faint answer out there is none
    np.testing.assert_array_equal(tap_tracking.evenly_on(times, np.where(times == times[33], 0.1, heard)), even)
    # what is heard, too short an end, and too little before it, stay as they are
    for strength in (np.full(40, 0.4), np.repeat([0.4, 0.0], [37, 3]), np.repeat([0.4, 0.0], [10, 30]), np.zeros(40)):
        np.testing.assert_array_equal(tap_tracking.evenly_on(times, strength), times)


def test_taps_settle_the_level_against_what_was_heard() -> None:
    """Tapping every second beat halves the count, also where nobody tapped, and undoing is forgetting the hints."""
    name = "Pontoon Static"
    evidence = heard_demo(name)[1]
    half = truth(name)["beats"][20:100:2]
    before = proposal.propose(evidence.heard, 97.0)
    after = listening_edits.tap_along(before, evidence, half, np.zeros(0))
    assert after.grid is not None
    assert after.grid.tempo_overall() == pytest.approx(134.994 / 2, rel=0.002)
    assert preparation.from_json(preparation.to_json(after)) == after
    with pytest.raises(Refused, match="too few"):
        listening_edits.tap_along(before, evidence, half[:3], np.zeros(0))
