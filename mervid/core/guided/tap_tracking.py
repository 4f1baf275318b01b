"""Hearing guided by taps: the beats nearest to what was tapped, each at its attack, and on through the whole track.

Where a hand tapped, the ear's strengths count only near the taps; the bar pointer then finds one path through the
track, which keeps level and beat of the taps where nobody tapped.
"""

from __future__ import annotations

import attrs
import numpy as np

from ..arrays import Floats, Ints
from ..errors import Refused
from ..hearing import bar_pointer, beat_tracking, music_span
from ..hearing.ear import Strengths
from ..hearing.evidence import Evidence
from ..hearing.spectra import EAR_FPS
from ..maths import regression

_NEAR = 0.045
_FLOOR = 0.35
_ROOM = 1.08
_LATEST = 0.08
_DEAR = 0.04
_DRUMMED = 0.4
_BAR, _BESIDE = 4, 15
"""Beats that are a stretch, and so many before it that tell its tempo."""


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


def evenly_on(times: Floats, strength: Floats) -> Floats:
    """Beats at whose end, for a bar or more, the ear hears none: there they keep the tempo of those before.

    Parameters
    ----------
    times, strength : (n,) s, and how strongly each beat is heard, 0 to 1

    Examples
    --------
    >>> t = np.concatenate([0.5 * np.arange(20), 9.5 + 0.6 * np.arange(1, 9)])
    >>> evenly_on(t, np.repeat([0.4, 0.0], [20, 8]))[-3:].round(3)
    array([13. , 13.5, 14. ])
    """
    # a lone beat among faint ones isn't heard either
    around = np.convolve(strength, np.ones(_BAR) / _BAR, "same")
    heard = np.flatnonzero(np.minimum(strength, around) >= music_span.FAINT / 2)
    last = int(heard[-1]) if len(heard) else 0
    if last < _BESIDE or len(times) - 1 - last < _BAR:
        return times
    part = times[last - _BESIDE : last + 1]
    origin, period = regression.fit_line(np.arange(float(len(part))), part, np.ones(len(part)))
    count = np.arange(len(part), len(part) + int((times[-1] - part[-1]) / period + 0.25))
    return np.concatenate([times[: last + 1], origin + period * count])


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
        times = evenly_on(times, bar_pointer.peaks(ear.beat, times))
    position, metre, _ = bar_pointer.bars(ear, times)
    return times, position, metre, np.clip(bar_pointer.peaks(ear.beat, times), 0.02, 0.98)
