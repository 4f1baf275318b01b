"""A take as training keeps it."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from mervid.core.hearing import spectra
from tests.conftest import material, sound_of_material


@pytest.fixture
def take(tmp_path: Path) -> Path:
    """A rendered take as training keeps it, of whose music the first two bars are said to come before it."""
    sound, truth = sound_of_material("dance"), material("dance")
    ear = sound.strengths
    assert ear is not None and sound.scene is not None
    features = np.zeros((len(sound.scene.levels), spectra.BANDS, spectra.CHANNELS), np.uint8)
    features[..., 0] = sound.scene.levels
    begins = truth["downbeats"][2] - 0.01
    np.savez(
        tmp_path / "1.npz",
        features=features,
        attack=np.rint(sound.attack * 255).astype(np.uint8),
        chroma=sound.chroma,
        colour=sound.colour,
        duration=np.array(sound.duration),
        beats=truth["beats"][truth["beats"] > begins],
        downbeats=truth["downbeats"][truth["downbeats"] > begins],
        **{k: getattr(ear, k) for k in ("beat", "downbeat", "section", "drums", "voice", "tempo")},
    )
    return tmp_path / "1.npz"
