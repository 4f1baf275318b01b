"""The drift trace and what is said of it."""

from __future__ import annotations

import numpy as np
import pytest

from mervid.core.fitting import drift
from mervid.core.model.beatgrid import Grid, Pin, steady
from mervid.core.model.tolerance import Tolerance


def test_error_is_heard_minus_grid_and_late_is_positive() -> None:
    grid = steady(tempo=120, first=1.0)
    times = 1.0 + 0.5 * np.arange(40)
    times[10] += 0.012
    times[20] -= 0.007
    trace = drift.trace(times, grid, zones=((0.0, 4.0),))
    assert trace.error[10] == pytest.approx(12)
    assert trace.error[20] == pytest.approx(-7)
    assert trace.tolerance[0] == 8
    assert trace.tolerance[-1] == 15
    s = drift.summary(trace)
    assert s.worst_tight == pytest.approx(0, abs=1e-6)
    assert s.worst_loose == pytest.approx(12)
    assert s.leaves is None


def test_more_than_half_a_beat_of_drift_is_counted_through() -> None:
    """115 BPM against a grid of 114: after 200 beats the drummer is 0.9 s ahead, not 'nearly on the beat'."""
    times = 60 / 115 * np.arange(201)
    trace = drift.trace(times, steady(tempo=114, first=0.0))
    assert trace.error[-1] == pytest.approx(1000 * (times[-1] - 200 * 60 / 114), abs=1e-6)
    assert trace.error[-1] < -900


def test_a_stray_beat_does_not_shift_the_count() -> None:
    times = np.sort(np.append(0.5 * np.arange(100), 20.25))
    error = drift.trace(times, steady(tempo=120, first=0.0)).error
    assert np.sum(np.abs(error) > 1) == 1


def test_half_and_double_counting_grids_are_compared_beat_by_beat() -> None:
    times = 0.5 * np.arange(100) + 0.003
    for tempo in (60, 120, 240):
        assert drift.trace(times, steady(tempo=tempo, first=0.0)).error == pytest.approx(3, abs=1e-6)


def test_where_it_leaves_for_good() -> None:
    tempo = np.r_[np.full(80, 120.0), np.full(80, 121.0)]
    times = np.r_[0, np.cumsum(60 / tempo)]
    trace = drift.trace(times, steady(tempo=120, first=0.0))
    left = drift.summary(trace).leaves
    assert left is not None
    # 0.5 % a beat: 4.13 ms each, out of 15 ms after four
    assert left == pytest.approx(times[84], abs=0.6)
    times[30] += 0.05
    back = drift.summary(drift.trace(times, Grid((Pin(0, 0), Pin(times[80], 80), Pin(times[160], 160))))).leaves
    assert back is None


def test_tolerances_are_as_asked() -> None:
    trace = drift.trace(np.arange(0, 20, 0.5), steady(tempo=120, first=0), zones=((5, 9),), tolerance=Tolerance(4, 30))
    assert set(trace.tolerance[trace.tight]) == {4}
    assert set(trace.tolerance[~trace.tight]) == {30}
