"""What the ear reads, held against what a spectrum is."""

from __future__ import annotations

import numpy as np
import pytest

from mervid.core.hearing import spectra
from mervid.core.hearing.spectra import EAR_FPS, HOP, RATE


def tone(hz: float, seconds: float = 2.0) -> np.ndarray:
    return (0.3 * np.sin(2 * np.pi * hz * np.arange(int(seconds * RATE)) / RATE)).astype(np.float32)


@pytest.mark.parametrize("hz", [110.0, 440.0, 1760.0, 7040.0])
def test_a_tone_lights_the_band_it_lies_in(hz: float) -> None:
    features = spectra.read(tone(hz))
    centres = spectra.LOW * (spectra.HIGH / spectra.LOW) ** (np.arange(spectra.BANDS) / (spectra.BANDS - 1))
    loudest = centres[features[20:80, :, 0].mean(axis=0).argmax()]
    assert loudest == pytest.approx(hz, rel=0.09)
    # a tone that goes on rises nowhere
    assert features[20:80, :, 1:].max() < 12


def test_a_click_rises_in_its_own_frame_also_late_in_a_recording() -> None:
    sound = np.zeros(70 * RATE, np.float32)
    times = [0.5, 10.0, 33.32, 63.9]
    for t in times:
        sound[int(t * RATE) : int(t * RATE) + 320] = np.random.default_rng(0).normal(0, 0.3, 320)
    rise = spectra.read(sound)[:, :, 1].astype(int).sum(axis=1)
    assert sorted(np.argsort(-rise)[: len(times)].tolist()) == [round(t * EAR_FPS) for t in times]


def test_pieces_read_as_the_whole() -> None:
    rng = np.random.default_rng(3)
    sound = rng.normal(0, 0.1, 20 * RATE + 77).astype(np.float32)
    whole = spectra.read(sound)
    padded = np.zeros(-(-(len(sound) + spectra.PAST) // HOP) * HOP, np.float32)
    padded[: len(sound)] = sound
    listener, at = spectra.Spectra(), 0
    while at < len(padded):
        step = int(rng.integers(6, 60)) * HOP
        step = len(padded) - at if len(padded) - at < step + 6 * HOP else step
        listener.push(padded[at : at + step])
        at += step
    np.testing.assert_array_equal(listener.features(len(whole)), whole)


def test_a_quieter_copy_reads_the_same() -> None:
    rng = np.random.default_rng(1)
    sound = (rng.normal(0, 0.2, 8 * RATE) * (np.arange(8 * RATE) % 16000 < 4000)).astype(np.float32)
    loud, quiet = (spectra.read(sound * g).astype(int) for g in (1.0, 0.1))
    assert np.abs(loud - quiet).max() <= 3
    assert np.abs(loud - quiet).mean() < 0.3


@pytest.mark.parametrize("samples", [0, 1, 900])
def test_next_to_nothing_can_be_read(samples: int) -> None:
    assert spectra.read(np.zeros(samples, np.float32)).shape == (-(-samples // HOP), spectra.BANDS, spectra.CHANNELS)
