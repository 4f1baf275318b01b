"""Where a song goes on in a higher key: the chorus that comes again a semitone or more up.

A step of the key is told by what comes again: bar by bar, the phrases after it agree in harmony with phrases before it
once all pitches are moved by one interval, and with no other (repetition across modulations: Goto, ICASSP 2003;
transposition-invariant likeness: Müller & Clausen, ISMIR 2007). A song goes up, by three semitones at most, and stays
there (common practice, no source): so a bridge in another key is no step.
"""

from __future__ import annotations

import numpy as np

from ..arrays import Floats, Ints
from .bar_features import Bars, lowered
from .same_phrases import HARMONY, agreement, sound_apart

MOST, MOST_PHRASES = 3, 64
"""Semitones that a song goes up at once, and phrases that a song has: what is longer is a whole night."""
_STEPS, _BEFORE, _AFTER = 2, 2, 4
"""Steps of a track that are looked for, phrases that stand before one, and bars after it."""
_NEARER, _CLEARER, _AGREES, _SCALE = 0.05, 0.045, 0.45, 0.15
"""How much nearer phrases must come than in the old key and than by another interval, how well they must agree, and how
much better in their pitches as a whole."""


def raised(bars: Bars, edges: Ints) -> Ints:
    """How many semitones above the beginning of the track each phrase lies, (k,): 0, or more from a step on.

    Parameters
    ----------
    edges : (k + 1,) bar at which each phrase begins, and the number of bars
    """
    by = np.zeros(len(edges) - 1, np.int64)
    if not _BEFORE < len(by) <= MOST_PHRASES or not len(bars.pitches):
        return by
    sound = sound_apart(bars, edges)
    for _ in range(_STEPS):
        pitches = lowered(bars.pitches, of_bars(by, edges, len(bars)))
        # each phrase as one bar that holds all its pitches
        whole = _agreements(np.add.reduceat(pitches[: edges[-1]], edges[:-1]), np.arange(len(edges)))
        first, step = _step(_agreements(pitches, edges), whole, sound, edges)
        if not step:
            break
        by[first:] += step
    return by


def of_bars(by: Ints, edges: Ints, count: int) -> Ints:
    """What `raised` says of phrases, for each of `count` bars; those after the last phrase go on with it."""
    return np.asarray(by[np.clip(np.searchsorted(edges, np.arange(count), "right") - 1, 0, len(by) - 1)])


def _agreements(pitches: Floats, edges: Ints) -> Floats:
    """How well each phrase agrees with each other one that is lowered by 0 to 11 semitones, (12, k, k)."""
    halves = pitches.reshape(len(pitches), 2, 12)
    even = halves - halves.mean(axis=2, keepdims=True)
    even /= np.linalg.norm(even, axis=2, keepdims=True) + 1e-6
    rows = (np.roll(even, -step, axis=2).reshape(len(even), -1) for step in range(12))
    return np.stack([agreement(even.reshape(len(even), -1), row, edges) for row in rows])


def _step(agree: Floats, whole: Floats, sound: Floats, edges: Ints) -> tuple[int, int]:
    """The phrase with which the clearest step begins, and by how many semitones; 0 of them where there is none.

    Parameters
    ----------
    agree, whole : (12, k, k) how well phrases agree bar by bar, and in the pitches of all of it, by interval
    """
    k, lengths = len(sound), np.diff(edges)
    cuts = np.arange(_BEFORE, k)
    cuts = cuts[edges[-1] - edges[cuts] >= _AFTER]
    if not len(cuts):
        return 0, 0
    later = cuts[:, None] <= np.arange(k)
    # how far what follows a cut lies from the nearest phrase before it, by interval
    nearest = np.minimum.accumulate(sound - HARMONY * agree, axis=1)[:, cuts - 1]
    apart = (nearest * later * lengths).sum(axis=2) / (later * lengths).sum(axis=1)
    up = np.arange(1, MOST + 1)
    nearer = apart[0] - apart[up]
    others = np.array([np.delete(apart[1:], s - 1, axis=0).min(axis=0) for s in up]) - apart[up]
    sure = np.where((nearer >= _NEARER) & (others >= _CLEARER), nearer, 0)
    step, cut = np.unravel_index(int(sure.argmax()), sure.shape)
    first, by = int(cuts[cut]), int(up[step])
    partner = (sound - HARMONY * agree[by])[:first, first:].argmin(axis=0)
    at, weights = (partner, np.arange(first, k)), lengths[first:]
    well = np.average(agree[by][at], weights=weights)
    # chords in another order agree by an interval, too; but then the pitches of a phrase as a whole don't
    scale = np.average(whole[by][at] - whole[0][at], weights=weights)
    return (first, by) if sure[step, cut] > 0 and well >= _AGREES and scale >= _SCALE else (0, 0)
