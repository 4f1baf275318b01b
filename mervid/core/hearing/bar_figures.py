"""What speaks for a beat beginning a bar: figures of every beat, from what sounds at it, around it and bars away.

Bars show in drums that repeat, in harmony and bass that move at bar lines, and in what enters there (beat-synchronous
features of drums and harmony for downbeats: Krebs, Böck, Dorfer & Widmer, ISMIR 2016; Durand, Bello, David & Richard,
ICASSP 2015). `bar_lines` reads these figures over some hundred beats.
"""

from __future__ import annotations

import numpy as np

from ..arrays import Floats, Singles
from . import bar_pointer
from .ear import Strengths
from .scene import GROUPS, SLOW_FPS, Scene, Sums, between, highest
from .spectra import EAR_FPS, SCALE

SLOTS = 4
"""Parts of a beat at which rises are looked at."""
SPANS = (1, 2, 4)
"""Beats that are compared before and after a beat."""
LAGS = (1, 2, 3, 4, 6, 8, 16)
"""Beats away to which a beat's pattern is compared."""
_BASS = slice(0, 24)
_UPPER = slice(24, 52)
_AFTER_S = 0.03
_PIECE = 500
"""Beats whose spectra are summed at once: two hours take no more room than some minutes."""

RISES = slice(8, 8 + SLOTS * GROUPS)
"""What rises in each group of bands at each slot, among the figures."""
COUNT = 6 + 2 + SLOTS * GROUPS + GROUPS + 4 * len(SPANS) + len(LAGS)
PARTS = ((0, 6), (8, 8 + SLOTS * GROUPS), (38, 50), (50, COUNT))
"""Figures of the ear, of drums, of harmony and of repetition: training leaves some out, so that none is leaned on."""


def figures(ear: Strengths, seen: Scene, times: Floats) -> Singles:
    """Figures of beats at (n,) `times` in s: (n, `COUNT`)."""
    period = bar_pointer.periods(times)
    slots = times[:, None] + period[:, None] * np.arange(SLOTS) / SLOTS
    rises = highest(seen.rises, slots.ravel()).reshape(len(times), SLOTS * GROUPS)
    half = slots[:, SLOTS // 2]
    beat, down = bar_pointer.peaks(ear.beat, times), bar_pointer.peaks(ear.downbeat, times)
    yes, no = bar_pointer.sides(ear, times)
    said = [
        beat,
        bar_pointer.peaks(ear.beat, half),
        down,
        bar_pointer.peaks(ear.downbeat, half),
        (yes - no) / 4,
        bar_pointer.peaks(ear.section, times, 6),
    ]
    over = np.stack([ear.drums, ear.voice], axis=1)
    moved, level = changes(seen, times, period)
    pattern = np.concatenate([even(rises), 0.5 * even(between(seen.chroma, SLOW_FPS, times, times + period))], axis=1)
    alike = [_alike(pattern, lag) for lag in LAGS]
    out: list[Floats | Singles] = [
        np.stack(said, axis=1),
        between(over, EAR_FPS, times, times + period),
        rises,
        level,
        moved,
        np.stack(alike, axis=1),
    ]
    return np.concatenate(out, axis=1).astype(np.float32)


def changes(seen: Scene, times: Floats, period: Floats) -> tuple[Floats, Floats]:
    """How bass, upper bands, harmony and timbre change at each beat, over `SPANS`; how loud groups of bands are."""
    mean, chroma, colour = seen.usual
    moved, levels = [], []
    for k in range(0, len(times), _PIECE):
        t, p = times[k : k + _PIECE], period[k : k + _PIECE]
        first = max(0, int((t - max(SPANS) * p).min()) - 1)
        last = int((t + max(SPANS) * p).max()) + 2
        spectrum = seen.levels[first * EAR_FPS : last * EAR_FPS].astype(np.float32) / np.float32(SCALE) - mean
        slow = slice(first * SLOW_FPS, last * SLOW_FPS)
        kinds = (
            Sums.of(spectrum[:, _BASS], EAR_FPS, first),
            Sums.of(spectrum[:, _UPPER], EAR_FPS, first),
            Sums.of(seen.chroma[slow] - chroma, SLOW_FPS, first),
            Sums.of(seen.colour[slow] - colour, SLOW_FPS, first),
        )
        moved.append(np.stack([change(x, t, p, span) for x in kinds for span in SPANS], axis=1))
        groups = Sums.of(spectrum.reshape(len(spectrum), GROUPS, -1).mean(axis=2), EAR_FPS, first)
        levels.append(groups.between(t, t + p))
    return np.concatenate(moved), np.concatenate(levels)


def beside(x: Sums, times: Floats, period: Floats, beats: int) -> tuple[Floats, Floats]:
    """Means over so many beats before and from each of (n,) times in s: (n, k) each."""
    before = x.between(np.maximum(times - beats * period, 0), np.maximum(times, 1 / x.fps))
    return before, x.between(times + _AFTER_S, times + beats * period)


def change(x: Sums, times: Floats, period: Floats, beats: int) -> Floats:
    """1 less the cosine of what is `beside` each of (n,) times in s: (n,)."""
    before, after = beside(x, times, period, beats)
    scale = np.linalg.norm(before, axis=1) * np.linalg.norm(after, axis=1)
    return np.asarray(1 - (before * after).sum(axis=1) / np.maximum(scale, 1e-9))


def even(x: Floats | Singles) -> Floats:
    """Each column with mean 0 and spread 1."""
    y = x - x.mean(axis=0)
    return np.asarray(y / np.maximum(y.std(axis=0), 1e-3))


def _alike(pattern: Floats, lag: int) -> Floats:
    """Cosine of each beat's pattern with the one `lag` beats before; 0 where there is none."""
    out = np.zeros(len(pattern))
    a, b = pattern[lag:], pattern[:-lag]
    if len(a):
        scale = np.linalg.norm(a, axis=1) * np.linalg.norm(b, axis=1)
        out[lag:] = (a * b).sum(axis=1) / np.maximum(scale, 1e-9)
    return out
