"""To the millisecond: where the pulse lies between the strokes that several players put around it.

A beat's own attack is one player's, and early or late by some ms; what is struck at it and half a beat on, on the beats
around, and by whom, tells the pulse that they share better than any one of them. A network over beats that was shown
rendered players with known pulse says by how much each beat is off. Steady lines of machines are moved as one.

A voice is on the beat with its vowels; consonants come before them, by up to a tenth of a second. So of voices alone it
is also read how loud low and high bands are around each beat.
"""

from __future__ import annotations

from pathlib import Path

import numpy as np

from ..arrays import Floats, Ints, Singles
from ..maths.regression import fit_line, median
from . import bar_pointer, beat_net, voices
from .ear import Strengths
from .features import ATTACK_RATE
from .scene import GROUPS, Scene, between, highest
from .spectra import EAR_FPS, SCALE

WEIGHTS = Path(__file__).parent / "weights" / "places.npz"
UNIT = 0.005
"""s that the network's answer of 1 stands for."""
MOST, MOST_SUNG = 0.04, 0.08
"""s by which a beat is moved at most; a beat of voices alone."""
STRUCK = 0.3
"""How sure percussion is in music whose attacks are those of its beats."""
LOOSE = 0.001
"""s of scatter about a steady line up to which its beats are moved as one: a machine's. People's beats each have their
own place, and lie on the line only as far as one tempo tells them."""
_REACH = 32
_AT, _BETWEEN = 2, 4
"""ms from one look at the attacks to the next, at a beat and half a beat on."""
_FRAMES = np.array([-2, -1, -0.5, 0, 0.5, 1, 2])
_POSITIONS = 5
_OFF = 30.0
_LEAST = 0.02
COUNT = len(range(-_REACH, _REACH + 1, _AT)) + len(range(-_REACH, _REACH + 1, _BETWEEN)) + len(_FRAMES) + 2
COUNT += _POSITIONS + 4 + GROUPS
_VOWEL_FRAMES = np.arange(-5, 7)
_LEVELS = 12
"""Groups of bands in which a vowel is told from a consonant."""
COUNT_SUNG = COUNT + len(_VOWEL_FRAMES) * (_LEVELS + 1)


def figures(ear: Strengths, attack: Singles, seen: Scene, times: Floats, *, position: Ints, steady: Floats) -> Singles:
    """Figures of beats at (n,) `times` in s, with their places in bars, on a steady line or not: (n, `COUNT`)."""
    period = bar_pointer.periods(times)
    wide = np.maximum(attack, np.roll(attack, -1))
    beat = np.stack([np.interp(times * EAR_FPS + k, np.arange(len(ear.beat)), ear.beat) for k in _FRAMES], axis=1)
    off = np.zeros((len(times), 2))
    for k in (1, 2):
        off[k:-k, k - 1] = times[k:-k] - (times[: -2 * k] + times[2 * k :]) / 2
    out = [
        4 * _around(wide, times, _AT),
        4 * _around(wide, times + period / 2, _BETWEEN),
        beat,
        np.clip(off * 1000, -_OFF, _OFF) / 10,
        np.eye(_POSITIONS)[np.minimum(position, _POSITIONS - 1)],
        period[:, None],
        steady[:, None],
        between(np.stack([ear.drums, ear.voice], axis=1), EAR_FPS, times, times + period),
        highest(seen.rises, times),
    ]
    return np.concatenate(out, axis=1).astype(np.float32)


def sung_figures(
    ear: Strengths, attack: Singles, seen: Scene, times: Floats, *, position: Ints, steady: Floats
) -> Singles:
    """The same of voices alone, with levels of bands and the ear's answers further around: (n, `COUNT_SUNG`)."""
    levels = seen.levels.reshape(len(seen.levels), _LEVELS, -1).mean(axis=2, dtype=np.float32) / np.float32(SCALE)
    frame = times[:, None] * EAR_FPS + _VOWEL_FRAMES
    wide = [_interpolated(levels, frame).reshape(len(times), -1), _interpolated(ear.beat[:, None], frame)[..., 0]]
    base = figures(ear, attack, seen, times, position=position, steady=steady)
    return np.concatenate([base, *wide], axis=1).astype(np.float32)


def _interpolated(x: Singles, frame: Floats) -> Floats:
    """Rows of (m, k) `x` at fractional (n, j) frames: (n, j, k)."""
    at = np.clip(frame, 0, len(x) - 1)
    a = np.minimum(at.astype(int), max(0, len(x) - 2))
    share = (at - a)[..., None]
    return np.asarray(x[a] * (1 - share) + x[np.minimum(a + 1, len(x) - 1)] * share)


def _around(attack: Singles, times: Floats, step: int) -> Singles:
    near = np.arange(-_REACH, _REACH + 1, step)
    frame = np.rint(times * ATTACK_RATE).astype(int)[:, None] + near
    return attack[np.clip(frame, 0, len(attack) - 1)]


def known() -> bool:
    """Whether the network is there."""
    return beat_net.load(WEIGHTS, COUNT) is not None


def nearer(ear: Strengths, attack: Singles, seen: Scene, times: Floats, *, position: Ints, steady: Ints) -> Floats:
    """Beats in s moved to where the network finds the pulse; as they are where it can't tell.

    Parameters
    ----------
    attack : (k,) strength, 1000 a second
    times : (n,) s
    position : (n,) place of each beat in its bar
    steady : (n,) which steady line each beat lies on, -1 for none
    """
    sung = beat_net.load(voices.theirs(WEIGHTS), COUNT_SUNG) if voices.alone(ear) else None
    net = sung or beat_net.load(WEIGHTS, COUNT)
    if net is None or len(times) < beat_net.LEAST or not len(attack):
        return times
    read, most = (sung_figures, MOST_SUNG) if sung else (figures, MOST)
    rows = read(ear, attack, seen, times, position=position, steady=(steady >= 0).astype(float))
    move = np.clip(net(rows) * UNIT, -most, most)
    if bar_pointer.peaks(ear.drums, times).mean() >= STRUCK:
        # all beats alike are as the attacks say: what a rendered stroke has before its loudest isn't in every recording
        move -= np.median(move)
    for k in range(int(steady.max(initial=-1)) + 1):
        line = np.flatnonzero(steady == k)
        if len(line) > 2:
            sure = np.maximum(bar_pointer.peaks(ear.beat, times[line]), _LEAST)
            start, slope = fit_line(line.astype(float), move[line], sure)
            even = start + slope * line
            if 1.48 * median(np.abs(move[line] - even)) < LOOSE:
                move[line] = even
    out = times + move
    return out if np.diff(out).min() > 0.1 else times
