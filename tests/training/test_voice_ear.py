"""What the ear of voices alone is shown."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from training import dataset, voice_ear


def test_only_beats_downbeats_and_tempo_are_learned(take: Path, tmp_path: Path) -> None:
    with np.load(take) as z:
        np.savez(take, **z, sections=np.array([0.5]), family=np.array("voice"))
    (tmp_path / "voices").mkdir()
    features, truth, family = dataset.load(tmp_path / "voices", voice_ear.lesson(take, folder=tmp_path / "voices").name)
    with np.load(take) as z:
        np.testing.assert_array_equal(features, z["features"])
        np.testing.assert_array_equal(truth["beats"], z["beats"])
    assert family == "voice" and truth["tasks"].tolist() == [1, 1, 0, 0, 0]
    assert not len(truth["drums"]) and not len(truth["voice"])
