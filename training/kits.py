"""Sampled drum kits: recorded strokes in layers of loudness, as a folder with a `drumkit.xml` lists them.

Each stroke begins on its first sample that is heard. What went into the shipped weights, and under which licence,
stands in docs/hearing.md.
"""

from __future__ import annotations

from pathlib import Path
from xml.etree import ElementTree

import numpy as np
from numpy.random import Generator
from scipy.signal import resample_poly

from training.sounds import RATE, Wave

NAMES = (
    (44, ("pedal", " pd")),
    (46, ("open hh", "hi-hat open", "hat op", " op")),
    (42, ("closed hh", "hi-hat closed", "hat", " cl")),
    (53, ("bell", "cup")),
    (51, ("ride",)),
    (49, ("crash", "cymbal")),
    (37, ("stick", "rim")),
    (39, ("clap",)),
    (56, ("cowbell",)),
    (54, ("tambourine",)),
    (38, ("snare",)),
    (41, ("tom low", "low tom", "tom")),
    (36, ("kick", "bassdrum", "bass drum")),
)
"""Words in an instrument's name that tell its General MIDI key, the first that fits (common practice, no source)."""
LOW, HIGH = 45, 50
"""Keys of the middle and the high tom."""
STANDS_IN = {57: 49, 55: 49, 53: 51}
"""Keys that a smaller kit plays on another cymbal."""
HEARD = 0.02
"""A stroke begins where it first reaches this share of its peak."""


def key_of(name: str) -> int | None:
    """General MIDI key of an instrument by its name.

    >>> key_of("Closed HH"), key_of("Tom Mid"), key_of("Whistle")
    (42, 45, None)
    """
    low = name.lower()
    if "tom" in low and ("mid" in low or "hi" in low):
        return LOW if "mid" in low else HIGH
    return next((key for key, words in NAMES if any(w in low for w in words)), None)


class Kit:
    """One kit: by key, its strokes from soft to hard, read when they are first struck."""

    def __init__(self, sheet: Path) -> None:
        self._layers: dict[int, list[list[tuple[float, Path]]]] = {}
        self._waves: dict[Path, Wave] = {}
        for instrument in ElementTree.parse(sheet).getroot().iterfind(".//{*}instrument"):
            key = key_of(instrument.findtext("{*}name", ""))
            # older sheets name one file for the instrument itself
            layers = [
                (float(layer.findtext("{*}max", "1")), sheet.parent / layer.findtext("{*}filename", ""))
                for layer in list(instrument.iterfind(".//{*}layer")) or [instrument]
            ]
            layers = sorted((top, path) for top, path in layers if path.is_file())
            if key is not None and layers:
                self._layers.setdefault(key, []).append(layers)

    def keys(self) -> frozenset[int]:
        """What it can play."""
        return frozenset(self._layers) | {k for k, other in STANDS_IN.items() if other in self._layers}

    def stroke(self, rng: Generator, key: int, loud: float, voice: int) -> Wave:
        """A stroke of `key` as loud as `loud` (0 to 1) asks; `voice` tells which of several drums of one name."""
        drums = self._layers.get(key) or self._layers[STANDS_IN[key]]
        layers = drums[voice % len(drums)]
        path = next((p for top, p in layers if loud <= top), layers[-1][1])
        wave = self._wave(path)
        # no two strokes of a drummer are quite the same
        gain = loud * (1 + 0.06 * rng.normal())
        return wave * np.float32(gain)

    def _wave(self, path: Path) -> Wave:
        import soundfile

        if path not in self._waves:
            x, rate = soundfile.read(path, dtype="float64", always_2d=True)
            mono = resample_poly(x.mean(axis=1), RATE, rate)
            peak = np.abs(mono).max(initial=0) + 1e-9
            begin = int(np.argmax(np.abs(mono) > HEARD * peak))
            self._waves[path] = (mono[begin : begin + 3 * RATE] / peak).astype(np.float32)
        return self._waves[path]
