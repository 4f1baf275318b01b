"""Drive: one number from 1 to 9 for how hard a track pushes, and its course over the track.

It is our own measure: loudness (ITU-R BS.1770) makes two fifths of it, percussion a third, density of attacks the rest.
All three come from the evidence and hardly change with the encoding; loudness is limited to the range music is mastered
in, so that it can't outweigh the others.
"""

from __future__ import annotations

import attrs
import numpy as np

from ..arrays import Floats
from ..hearing.evidence import Evidence
from ..hearing.scene import SLOW_FPS
from ..hearing.spectra import EAR_FPS
from ..sound import loudness

PLACES = 48
"""Pieces of equal length that a course has."""
_SOFTEST, _LOUDEST = -26.0, -6.0
"""LUFS of the short term that count as nothing and as all."""
_DENSE = 9.0
"""Attacks a second that count as all: sixteenths at 135 BPM."""
_FELT = 0.15
_LOUD, _DRUMS, _ATTACKS = 0.40, 0.34, 0.26
_PUSHES = 75
"""Per cent: a track pushes as hard as in the strongest quarter of it, whatever its breaks do."""


@attrs.frozen(eq=False)
class Drive:
    """The drive of a track, 1 to 9, and (`PLACES`,) the same over its length."""

    whole: float
    course: Floats


def of(evidence: Evidence, duration: float) -> Drive:
    """The drive of a track that lasts `duration` s."""
    edges = np.linspace(0, max(duration, 1e-3), PLACES + 1)
    loud = evidence.loudness.astype(float)
    level = _means(np.clip((loud - _SOFTEST) / (_LOUDEST - _SOFTEST), 0, 1), 1 / loudness.STEP, edges)
    ear = evidence.strengths
    drums = (
        _means(ear.drums.astype(float), EAR_FPS, edges)
        if ear is not None
        else _means(evidence.percussive / 255.0, SLOW_FPS, edges)
    )
    struck = evidence.onset_times[evidence.onset_strengths > _FELT]
    density = np.histogram(struck, edges)[0] / np.diff(edges)
    share = _LOUD * level + _DRUMS * np.clip(drums, 0, 1) + _ATTACKS * np.clip(density / _DENSE, 0, 1)
    course = 1 + 8 * share
    return Drive(round(float(np.percentile(course, _PUSHES)), 1), course)


def _means(x: Floats, rate: float, edges: Floats) -> Floats:
    """Mean of (n,) `x`, `rate` a second, between neighbouring `edges` in s; zeros where there is none."""
    if not len(x):
        return np.zeros(len(edges) - 1)
    run = np.concatenate([[0.0], np.cumsum(x)])
    at = np.clip(edges * rate, 0, len(x))
    # whole samples and parts of them
    sums = np.diff(np.interp(at, np.arange(len(x) + 1), run))
    widths = np.maximum(np.diff(at), 1e-9)
    return np.where(np.diff(at) > 1e-9, sums / widths, x[-1])


def to_bytes(course: Floats) -> bytes:
    """A course in bytes, one a place: 28 steps to each whole number."""
    return np.clip(np.rint((course - 1) * 28), 0, 255).astype(np.uint8).tobytes()


def from_bytes(kept: bytes) -> Floats:
    """Inverse of `to_bytes`."""
    return 1 + np.frombuffer(kept, np.uint8).astype(float) / 28
