"""Hearing guided by taps: the beats nearest to what was tapped, each at its attack, and on through the whole track.

Where a hand tapped, the ear's strengths count only near the taps; the bar pointer then finds one path through the
track, which keeps level and beat of the taps where nobody tapped.
"""

from __future__ import annotations

import attrs
import numpy as np

from ..arrays import Floats, Ints
from ..errors import Refused
from ..hearing import bar_pointer, beat_tracking
from ..hearing.ear import Strengths
from ..hearing.evidence import Evidence
from ..hearing.spectra import EAR_FPS

_NEAR = 0.045
_FLOOR = 0.35
_ROOM = 1.08
_LATEST = 0.08
_DEAR = 0.04
_DRUMMED = 0.4


def lateness(ear: Strengths, expected: Floats) -> float:
    """How late the taps are on the whole, s: where the ear hears most beats beside them, near ones preferred."""
    shifts = np.arange(-_LATEST, _LATEST + 1e-9, 0.005)
    strength = np.convolve(ear.beat, np.hanning(5)[1:-1] / np.hanning(5).sum(), "same")
    frames = np.arange(len(strength)) / EAR_FPS
    gained = [float(np.interp(expected - s, frames, strength).mean()) - _DEAR * (s / _LATEST) ** 2 for s in shifts]
    return float(shifts[int(np.argmax(gained))])


def _drummed(ear: Strengths, expected: Floats) -> bool:
    """Whether percussion plays where a hand tapped."""
    frames = np.arange(len(ear.drums)) / EAR_FPS
    return bool(np.interp(expected, frames, ear.drums).mean() > _DRUMMED)


def leaned(ear: Strengths, expected: Floats) -> Strengths:
    """The ear's strengths with beats only near the `expected` instants, s, from the first of these to the last."""
    beat = ear.beat.copy()
    half = float(np.median(np.diff(expected))) / 2
    a, b = max(0, int((expected[0] - half) * EAR_FPS)), min(len(beat), int((expected[-1] + half) * EAR_FPS) + 1)
    at = np.arange(a, b) / EAR_FPS
    right = np.clip(np.searchsorted(expected, at), 1, len(expected) - 1)
    off = np.minimum(np.abs(at - expected[right - 1]), np.abs(at - expected[right]))
    near = np.exp(-0.5 * (off / _NEAR) ** 2).astype(np.float32)
    beat[a:b] = near * (_FLOOR + (1 - _FLOOR) * beat[a:b])
    return attrs.evolve(ear, beat=beat)


def search(evidence: Evidence, expected: Floats) -> tuple[Floats, Ints, int, Floats]:
    """Beats of the whole track that keep to the `expected` ones.

    Parameters
    ----------
    expected : (n,) s, a beat each, none left out

    Returns
    -------
    times (k,) s, position in the bar (k,), beats in most bars, and confidence (k,)

    Raises
    ------
    Refused
        The track was heard without the trained ear, or no beats are found.
    """
    if evidence.strengths is None:
        raise Refused("This track was heard without the trained ear: taps can't guide it. Set the tempo by hand.")
    struck = _drummed(evidence.strengths, expected)
    if struck:
        expected = expected - lateness(evidence.strengths, expected)
    ear = leaned(evidence.strengths, expected)
    gaps = np.diff(expected)
    low, high = 60 / float(gaps.max()) / _ROOM, 60 / float(gaps.min()) * _ROOM
    found = bar_pointer.beats_near(ear, float(np.sqrt(low * high)), float(np.sqrt(high / low)))
    if len(found) < 4:
        raise Refused("No beats are found along these taps.")
    position, metre, _ = bar_pointer.bars(ear, found)
    times, _, _ = beat_tracking.settle(ear, evidence.attack_strength(), found, position, metre)
    if not struck:
        # attacks of a voice lead astray: where a hand tapped, the taps are the better witness
        half = float(np.median(gaps)) / 2
        outside = (times < expected[0] - half) | (times > expected[-1] + half)
        times = np.sort(np.concatenate([times[outside], expected]))
    position, metre, _ = bar_pointer.bars(ear, times)
    return times, position, metre, np.clip(bar_pointer.peaks(ear.beat, times), 0.02, 0.98)
