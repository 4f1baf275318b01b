"""Level, clipping, mono, and a record's lead-in."""

from __future__ import annotations

import numpy as np
import pytest

from mervid.core.sound.condition import Condition, Inspector
from tests.conftest import RATE, band


def inspect(samples: np.ndarray, step: int = 30_011) -> Condition:
    inspector = Inspector(RATE)
    for a in range(0, len(samples), step):
        inspector.push(samples[a : a + step])
    return inspector.finish()


def test_level_and_channels() -> None:
    t = np.arange(2 * RATE) / RATE
    tone = (0.5 * np.sin(2 * np.pi * 440 * t)).astype(np.float32)
    found = inspect(np.stack([tone, tone], axis=1))
    # a sine's mean square is half its peak's: -6.02 - 3.01 dB
    assert found.level == pytest.approx(-9.03, abs=0.02)
    assert found.peak == pytest.approx(0.5, abs=1e-3)
    assert found.mono
    assert not inspect(np.stack([tone, np.roll(tone, 7)], axis=1)).mono
    assert inspect(tone[:, None]).mono
    assert inspect(np.zeros((RATE, 2), np.float32)).level == -120
    assert Inspector(RATE).finish() == Condition(mono=True)


def test_clipping_is_counted_where_the_wave_is_flat() -> None:
    t = np.arange(RATE) / RATE
    loud = np.clip(1.5 * np.sin(2 * np.pi * 100 * t), -1, 1).astype(np.float32)
    assert inspect(loud[:, None]).clipped == 200
    assert inspect((loud * 0.9)[:, None]).clipped == 0
    # a single full-scale sample is no clipping
    spike = np.zeros((RATE, 1), np.float32)
    spike[1000] = 1
    assert inspect(spike).clipped == 0


def test_a_lead_in_is_noise_before_the_music() -> None:
    rng = np.random.default_rng(1)
    music = band(12.0)
    noise = rng.normal(0, 0.002, (4 * RATE, 2)).astype(np.float32)
    found = inspect(np.concatenate([noise, music + 0.002 * rng.normal(size=music.shape).astype(np.float32)]))
    # the first kick comes half a second into the music
    assert found.lead_in == pytest.approx(4.5, abs=0.15)
    assert found.noise == pytest.approx(-57, abs=1.5)
    assert inspect(np.concatenate([np.zeros((4 * RATE, 2), np.float32), music])).lead_in is None
    t = np.arange(4 * RATE) / RATE
    pad = (0.003 * np.sin(2 * np.pi * np.outer(t, [220, 277, 330])).sum(axis=1)).astype(np.float32)
    assert inspect(np.concatenate([np.stack([pad, pad], axis=1), music])).lead_in is None
