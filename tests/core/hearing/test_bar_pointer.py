"""The bar pointer on strengths made for it: tempo that wanders, steps, ramps, pauses; bars of three, four and two."""

from __future__ import annotations

import mir_eval
import numpy as np
import pytest

from mervid.core.hearing import bar_pointer, ear
from mervid.core.hearing.ear import Strengths


def said(beats: np.ndarray, downbeats: np.ndarray, seconds: float, *, noise: float = 0.0) -> Strengths:
    """What an ear would say of these beats: peaks one or two frames wide, some doubt, and a blurred idea of tempo."""
    n = int(seconds * 50)
    rng = np.random.default_rng(7)
    rows = []
    for times, height in ((beats, 0.85), (downbeats, 0.7)):
        x = np.abs(rng.normal(0, 0.01 + noise, n))
        for t in times:
            i = np.arange(max(0, int(t * 50) - 2), min(n, int(t * 50) + 4))
            x[i] = np.maximum(x[i], height * np.maximum(0, 1 - np.abs(i - t * 50) / 1.5))
        rows.append(np.clip(x, 0.005, 0.99).astype(np.float32))
    bpm = np.interp(np.arange(n) / 50, beats[:-1], 60 / np.diff(beats))
    tempo = np.exp(-0.5 * ((np.log(ear.tempi()[None]) - np.log(bpm[:, None])) / 0.06) ** 2) + 0.01
    quiet = np.zeros(n, np.float32)
    return Strengths(rows[0], rows[1], quiet, quiet, quiet, (tempo / tempo.sum(axis=1)[:, None]).astype(np.float32))


def played(periods: np.ndarray, first: float = 1.0) -> np.ndarray:
    return first + np.concatenate([[0.0], np.cumsum(periods)])


_WANDER = 0.5 * (1 + 0.04 * np.sin(np.arange(160) / 9.0))
TEMPI = {
    "steady": np.full(120, 60 / 123.4),
    "wandering": _WANDER,
    "step": np.r_[np.full(64, 0.5), np.full(64, 60 / 92)],
    "ramp": 60 / np.linspace(100, 140, 160),
    "pause": np.r_[np.full(48, 0.5), 3.3, np.full(48, 0.5)],
    "slow": np.full(60, 60 / 62),
    "fast": np.full(200, 60 / 196),
}


@pytest.mark.parametrize("kind", TEMPI)
def test_the_beat_is_kept_through_changes_of_tempo(kind: str) -> None:
    beats = played(TEMPI[kind])
    found = bar_pointer.beats(said(beats, beats[::4], beats[-1] + 1, noise=0.03))
    if kind == "pause":
        found = found[[np.abs(beats - t).min() < 0.1 or t < beats[48] or t > beats[49] for t in found]]
    assert mir_eval.beat.f_measure(beats, found, 0.03) > 0.97
    near = np.abs(found[:, None] - beats).min(axis=1)
    assert np.median(near) <= 0.010


def test_a_stretch_that_sounds_half_as_fast_keeps_the_count_of_the_rest() -> None:
    beats = played(np.full(160, 0.5))
    strengths = said(beats, beats[::4], beats[-1] + 1)
    half = slice(int(beats[64] * 50) - 5, int(beats[96] * 50) - 5)
    slow = said(beats[::2], beats[::4], beats[-1] + 1)
    for name in ("beat", "downbeat", "tempo"):
        getattr(strengths, name)[half] = getattr(slow, name)[half]
    found = bar_pointer.beats(strengths)
    assert mir_eval.beat.f_measure(beats, found, 0.03) > 0.99
    assert bar_pointer.usual_period(np.delete(beats, np.arange(65, 96, 2))) == pytest.approx(0.5)
    assert bar_pointer.usual_period(beats) is None


@pytest.mark.parametrize("sizes", [[4] * 24, [3] * 24, [4] * 8 + [2] + [4] * 9, [4] * 10 + [3] * 16])
def test_bars_of_every_kind_are_counted(sizes: list[int]) -> None:
    opens = np.concatenate([[0], np.cumsum(sizes)])
    beats = played(np.full(int(opens[-1]), 0.5))
    strengths = said(beats, beats[opens], beats[-1] + 1)
    position, metre, margin = bar_pointer.bars(strengths, beats)
    np.testing.assert_array_equal(np.flatnonzero(position == 0), opens)
    assert metre == max(set(sizes), key=sizes.count)
    assert margin > 0.5


def test_one_count_goes_through_where_single_downbeats_mislead() -> None:
    beats = played(np.full(128, 0.5))
    down = np.sort(np.concatenate([np.delete(beats[::4], [7, 8, 20]), beats[[46, 90]]]))
    position, _, _ = bar_pointer.bars(said(beats, down, beats[-1] + 1), beats)
    np.testing.assert_array_equal(np.flatnonzero(position == 0), np.arange(0, 129, 4))


def test_an_ear_without_an_opinion_on_the_bar_gives_no_margin() -> None:
    beats = played(np.full(64, 0.5))
    assert bar_pointer.bars(said(beats, beats, beats[-1] + 1), beats)[2] < 0.1
    assert bar_pointer.bars(said(beats, beats, 5.0), np.zeros(0))[1:] == (4, 0.0)


def test_long_recordings_are_searched_in_windows_without_a_seam(monkeypatch: pytest.MonkeyPatch) -> None:
    beats = played(np.tile(_WANDER, 2))
    strengths = said(beats, beats[::4], beats[-1] + 1)
    whole = bar_pointer.beats(strengths)
    monkeypatch.setattr(bar_pointer, "_WINDOW", 60 * bar_pointer.POINTER_FPS)
    told: list[float] = []
    pieces = bar_pointer.beats(strengths, progress=told.append)
    np.testing.assert_allclose(pieces, whole, atol=0.011)
    assert told == sorted(told)
    assert told[-1] <= 1


def test_a_few_frames_hold_no_beat() -> None:
    beats = played(np.full(8, 0.5))
    for seconds in (0.0, 0.1, 0.4):
        assert len(bar_pointer.beats(said(beats, beats[::4], seconds))) == 0
