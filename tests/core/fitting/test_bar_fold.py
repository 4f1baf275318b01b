"""The bar fold: a true grid gives straight threads, and a change of grid touches only its own rows."""

from __future__ import annotations

import numpy as np

from mervid.core.fitting import bar_fold
from mervid.core.hearing.features import ATTACK_RATE
from mervid.core.model.beatgrid import Grid, MeterMark, Pin, steady
from mervid.core.sound import waveform


def struck(times: np.ndarray, seconds: float) -> np.ndarray:
    """Attack strength with one full stroke at each time."""
    attack = np.zeros(int(seconds * ATTACK_RATE), np.float32)
    attack[np.rint(times * ATTACK_RATE).astype(int)] = 1
    return bar_fold.ink(attack)


def test_threads_are_straight_under_the_true_grid_and_lean_under_another() -> None:
    true = Grid((Pin(0.5, 0), Pin(20.9, 40), Pin(40.0, 80)))
    inks = struck(true.time_at(np.arange(80)), 41)
    for grid, straight in ((true, True), (steady(tempo=120, first=0.5), False)):
        rows = bar_fold.rows(grid, 40.0)
        image = np.nan_to_num(bar_fold.image(inks, grid, rows, columns=800))
        first = [int(r[40:60].argmax()) + 40 if r[40:60].any() else -1 for r in image[1:18]]
        assert (max(first) - min(first) <= 2) is straight


def test_rows_of_odd_bars_end_early_and_rows_hold_several_bars() -> None:
    grid = Grid(steady(tempo=120, first=0.0).pins, (MeterMark(0, 4), MeterMark(8, 2), MeterMark(10, 4)))
    rows = bar_fold.rows(grid, 10.0)
    assert rows.length.tolist()[:4] == [4, 4, 2, 4]
    image = bar_fold.image(struck(np.arange(0, 10, 0.5), 11), grid, rows, columns=400)
    assert np.isnan(image[2, 230:]).all()
    assert not np.isnan(image[1, 30:]).any()
    four = bar_fold.rows(steady(tempo=120, first=4.0), 60.0, bars=4)
    assert four.index.tolist()[:3] == [-4, 0, 4]
    assert set(four.length) == {16}


def test_only_changed_rows_are_cut_again() -> None:
    grid = Grid((Pin(0, 0), Pin(20, 40), Pin(40, 80), Pin(60, 120)))
    inks = struck(np.arange(0.1, 60, 0.25), 61)
    rows = bar_fold.rows(grid, 60)
    before = bar_fold.image(inks, grid, rows, columns=300)
    moved = Grid((Pin(0, 0), Pin(20, 40), Pin(40.02, 80), Pin(60, 120)))
    partly = bar_fold.image(inks, moved, rows, columns=300, only=(9, 31), into=before.copy())
    np.testing.assert_array_equal(partly, bar_fold.image(inks, moved, rows, columns=300))


def test_waveform_columns_agree_with_the_samples() -> None:
    rng = np.random.default_rng(0)
    samples = rng.uniform(-0.9, 0.9, (44_100 * 4 + 77, 2)).astype(np.float32)
    maker = waveform.WaveformMaker(44_100)
    for i in range(0, len(samples), 1000):
        maker.push(samples[i : i + 1000])
    drawn = maker.finish()
    assert drawn.frames == len(samples)
    coarse = waveform.columns(drawn, 0.0, 4.0, 100)
    exact = waveform.exact_columns(samples, 44_100, 0.0, 4.0, 100)
    assert np.all(coarse[:, 0] <= exact[:, 0] + 1e-3)
    assert np.all(coarse[:, 1] >= exact[:, 1] - 1e-3)
    assert not waveform.columns(drawn, 10.0, 12.0, 50).any()
    assert not waveform.exact_columns(samples, 44_100, -2.0, -1.0, 50).any()
