"""Recordings that kept machine time, bent by known curves: the truth of a copy lies where its strokes are."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from mervid.core.hearing.heard import Heard
from mervid.core.hearing.spectra import EAR_FPS, all_rises
from mervid.core.model.beatgrid import MeterMark
from tests.conftest import clicks
from training import teacher
from training.lattice import Lattice
from training.sounds import RATE

LINE = Lattice(0.5, 0.125, 60.0, 1.0, 0.0, 0.001, 0.001, ((4.0, 116.0),))
LESSON = teacher.Lesson(Path("made.flac"), "none", LINE, per=4, side=2, metre=4, bar=6)


def test_beats_and_bars_of_a_lesson() -> None:
    beats, bars = LESSON.beats()
    np.testing.assert_allclose(np.diff(beats), 0.5)
    np.testing.assert_allclose((beats - 0.5 - 2 * 0.125) % 0.5, 0, atol=1e-9)
    np.testing.assert_allclose(np.diff(bars), 2.0)
    assert set(np.round(bars, 6)) <= set(np.round(beats, 6))
    assert beats[0] >= 4.0 and beats[-1] <= 116.0


@pytest.mark.parametrize("seed", [1, 2, 3, 5, 8])
def test_a_bent_copy_has_its_strokes_at_its_beats(seed: int, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(teacher.render, "wear", lambda rng, x: (x, None))
    times = np.arange(0.75, 119.0, 0.5)
    sound = np.interp(np.arange(120 * RATE) / RATE, np.arange(120 * 44100) / 44100, clicks(times, 120.0)).astype(
        np.float32
    )
    take = teacher.copy(LESSON, sound, seed)
    rises = all_rises(take["features"])
    beats = take["beats"]
    assert len(beats) > 60 and take["tasks"][1] == 1 and take["tasks"][2] == 0
    assert np.std(np.diff(beats)) < 0.1 < np.median(np.diff(beats))
    for t in beats[(beats > 1) & (beats < len(rises) / 2 / EAR_FPS - 1)]:
        near = rises[round(t * 2 * EAR_FPS) - 8 : round(t * 2 * EAR_FPS) + 9]
        assert abs(int(near.argmax()) - 8) <= 2
    inside = np.zeros(len(beats), bool)
    for a, b in take["known"]:
        inside |= (beats >= a - 1e-6) & (beats <= b + 1e-6)
    assert inside.all()


def test_a_hearing_that_wanders_over_the_lattice_says_nothing() -> None:
    times = 0.75 + 0.5 * np.arange(200)
    even = Heard(times, np.arange(200), np.ones(200), (MeterMark(),), 0.9, 0.95)
    assert teacher._said(LINE, even) == (4, 2, 4, 2)
    drifting = Heard(0.75 + 0.507 * np.arange(200), np.arange(200), np.ones(200), (MeterMark(),), 0.9, 0.95)
    assert teacher._said(LINE, drifting) is None
