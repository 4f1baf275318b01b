"""What speaks for each beat of a count being one: figures that a network reads to tell a right count from its rivals.

Beside what tells bars (`bar_figures`) they say how fast the count is and what the ear thinks of that, what is heard and
struck between its beats, and how like the whole track each beat is: a groove that goes on sounds the same on the beat,
so where a count has slipped to the off-beat, it is the half beats that look like the beats elsewhere.
"""

from __future__ import annotations

import attrs
import numpy as np

from ..arrays import Floats, Singles
from . import bar_figures, bar_pointer
from .ear import Strengths, tempi
from .features import ATTACK_RATE
from .scene import GROUPS, Scene
from .spectra import EAR_FPS

_CENTRE = 110.0
_AROUND = 9
"""Beats over which the tempo is taken."""
_NEAR = 0.09
_RATIOS = (1.0, 2.0, 0.5, 1.5, 2 / 3)
_STRUCK_MS = 20
_OWN = 19
_CHANGES = 12
_ALIKE = 4
COUNT = bar_figures.COUNT + _OWN + _CHANGES + _ALIKE
_FIRST = bar_figures.COUNT
PARTS = (
    *bar_figures.PARTS,
    (_FIRST, _FIRST + _OWN),
    (_FIRST + _OWN, _FIRST + _OWN + _CHANGES),
    (_FIRST + _OWN + _CHANGES, COUNT),
)
"""Figures that training leaves out together, so that none is leaned on."""


@attrs.frozen(eq=False)
class Whole:
    """What figures of every count of a recording are read from.

    Attributes
    ----------
    near : the strongest attack within 20 ms of each ms
    gain : what a beat gains at each frame, as `bar_pointer.observed` tells
    """

    ear: Strengths
    seen: Scene
    near: Singles
    gain: Floats

    @classmethod
    def of(cls, ear: Strengths, attack: Singles, seen: Scene) -> Whole:
        from scipy.ndimage import maximum_filter1d

        near = np.asarray(maximum_filter1d(attack, 2 * _STRUCK_MS + 1))
        return cls(ear, seen, near, bar_pointer.observed(ear.beat))


def figures(whole: Whole, times: Floats) -> Singles:
    """Figures of beats at (n,) `times` in s: (n, `COUNT`)."""
    period = bar_pointer.periods(times)
    base = bar_figures.figures(whole.ear, whole.seen, times)
    between, _ = bar_figures.changes(whole.seen, times + period / 2, period)
    out: list[Floats | Singles] = [base, _own(whole, times, period), between, _alike(base)]
    return np.concatenate(out, axis=1).astype(np.float32)


def _own(whole: Whole, times: Floats, period: Floats) -> Floats:
    """Tempo, the ear's idea of it, what is heard and struck at parts of the beat, how even the count is."""
    ear, near, gain = whole.ear, whole.near, whole.gain
    smooth = bar_pointer.around(period, _AROUND)
    bpm = 60 / smooth
    octaves = np.log2(bpm / _CENTRE)
    frame = np.clip(np.rint(times * EAR_FPS).astype(int), 0, len(ear.tempo) - 1)
    rates = np.log(tempi(ear.tempo.shape[1]))[None]
    said = ear.tempo[frame]
    shares = [(said * (np.abs(rates - np.log(bpm * r)[:, None]) < _NEAR)).sum(axis=1) for r in _RATIOS]
    parts = [times + period * k for k in (0, 1 / 2, 1 / 3, 2 / 3)]
    struck = [near[np.clip(np.rint(t * ATTACK_RATE).astype(int), 0, len(near) - 1)] for t in parts]
    gained = [gain[np.clip(np.rint(t * bar_pointer.POINTER_FPS).astype(int), 0, len(gain) - 1)] / 4 for t in parts[:2]]
    rows = [
        octaves,
        octaves**2,
        shares[0],
        np.log(shares[0] + 0.02),
        *shares[1:],
        *(bar_pointer.peaks(ear.beat, t, 1) for t in parts[2:]),
        *struck,
        *gained,
        np.clip((np.diff(times, prepend=times[0] - period[0]) / smooth - 1) * 5, -2, 2),
        np.full(len(times), ear.drums.mean()),
        np.full(len(times), ear.voice.mean()),
    ]
    return np.stack(rows, axis=1)


def _alike(base: Singles) -> Floats:
    """Cosines of what rises at each beat, and half a beat on, with what usually does; as it is and about its mean."""
    rises = base[:, bar_figures.RISES].reshape(len(base), bar_figures.SLOTS, GROUPS).astype(float)
    on = rises / np.maximum(rises.std(axis=(0, 1)), 1e-3)
    half = bar_figures.SLOTS // 2
    off = np.concatenate([on[:, half:], np.roll(on[:, :half], -1, axis=0)], axis=1)
    middle = on.mean(axis=(0, 1))
    about = on - middle
    pairs = ((on, on), (off, on), (about, about), (off - middle, about))
    return np.stack([_cosine(x, usual.mean(axis=0)) for x, usual in pairs], axis=1)


def _cosine(x: Floats, y: Floats) -> Floats:
    scale = np.sqrt((x**2).sum(axis=(1, 2)) * (y**2).sum())
    return np.asarray((x * y).sum(axis=(1, 2)) / np.maximum(scale, 1e-6))
