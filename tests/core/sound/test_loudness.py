"""Loudness of each three seconds, held against pyloudnorm's own meter, which measures as ITU-R BS.1770-4 says."""

from __future__ import annotations

import numpy as np
import pytest
from pyloudnorm import Meter

from mervid.core.sound.loudness import SILENCE, STEP, LoudnessMeter
from tests.conftest import band


@pytest.mark.parametrize("rate", [22050, 44100, 96000])
def test_each_stretch_as_loud_as_pyloudnorm_has_it(rate: int) -> None:
    music = band(9.5) * np.linspace(0.1, 1, len(band(9.5)), dtype=np.float32)[:, None] * [1.0, 0.3]
    ours = LoudnessMeter(rate)
    for a in range(0, len(music), 7001):
        ours.push(music[a : a + 7001].astype(np.float32))
    found = ours.finish()
    size = int(STEP * rate)
    theirs = Meter(rate, block_size=STEP)
    whole = [theirs.integrated_loudness(music[a : a + size]) for a in range(0, len(music) - size + 1, size)]
    np.testing.assert_allclose(found[: len(whole)], whole, atol=0.01)


def test_silence_and_what_is_no_number() -> None:
    meter = LoudnessMeter(44100)
    meter.push(np.zeros((5 * 44100, 1), np.float32))
    meter.push(np.full((44100, 1), np.nan, np.float32))
    np.testing.assert_array_equal(meter.finish(), [SILENCE, SILENCE])


@pytest.mark.parametrize("rate", [44100, 48000])
def test_the_whole_is_gated_as_pyloudnorm_gates(rate: int) -> None:
    """A loud part, a soft one and silence: the mean of what passes both gates."""
    rng = np.random.default_rng(3)
    loud, soft = (rng.normal(0, s, (rate * 8, 2)) for s in (0.2, 0.004))
    music = np.concatenate([loud, soft, np.zeros((rate * 6, 2)), loud * 0.5]).astype(np.float32)
    ours = LoudnessMeter(rate)
    for a in range(0, len(music), 12_345):
        ours.push(music[a : a + 12_345])
    ours.finish()
    assert ours.level().lufs == pytest.approx(Meter(rate).integrated_loudness(music.astype(float)), abs=0.05)


@pytest.mark.parametrize("phase", [0.0, 45.0, 60.0, 67.5])
def test_true_peaks_lie_between_samples(phase: float) -> None:
    """Sines of a quarter of the rate at -6 dB: within +0.2 and -0.4 dB (EBU Tech 3341, cases 15 to 18; from memory)."""
    t = np.arange(48_000 * 4)
    sine = 0.5 * np.sin(2 * np.pi * t / 4 + np.deg2rad(phase)) * np.minimum(1, np.minimum(t, t[::-1]) / 4800)
    meter = LoudnessMeter(48_000)
    meter.push(np.stack([sine, np.zeros_like(sine)], axis=1).astype(np.float32))
    assert -6.4 < meter.level().true_peak < -5.8


def test_a_track_too_short_for_a_block_and_one_of_silence_have_a_level() -> None:
    meter = LoudnessMeter(44_100)
    meter.push(np.zeros((44_100, 1), np.float32))
    assert meter.level().lufs == meter.level().true_peak == SILENCE
    short = LoudnessMeter(44_100)
    short.push(np.full((13_000, 1), 0.1, np.float32))
    assert SILENCE <= short.level().lufs < 0
