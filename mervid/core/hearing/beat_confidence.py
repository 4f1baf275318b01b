"""How sure a beat is: the chance that it is right within 20 ms.

With the ear it is a logistic regression on what is heard and struck at a beat and how evenly it lies among its
neighbours; weights come with the ear's, from rendered music (`training.beats`). Without it a clear attack has to do.
"""

from __future__ import annotations

import numpy as np

from ..arrays import Bools, Floats, Singles
from . import bar_pointer
from .ear import Strengths
from .features import ATTACK_RATE


def chance(features: Floats, weights: Singles | Floats) -> Floats:
    """Logistic of features (k, n) by weights (n + 1,), the last a bias, kept within 0.02 and 0.98."""
    z = features @ weights[:-1].astype(float) + float(weights[-1])
    return np.clip(1 / (1 + np.exp(-z)), 0.02, 0.98)


def figures(ear: Strengths, attack: Singles, times: Floats, steady: Bools) -> Floats:
    """What the chance of each beat is judged by: (k, 5).

    Parameters
    ----------
    times : (k,) s
    steady : (k,) whether it lies on a steady line
    """
    strength = bar_pointer.peaks(ear.beat, times, 2)
    around = bar_pointer.around(strength, 17) if len(times) else strength
    return np.stack([strength, around, _struck(attack, times), _even(times), steady.astype(float)], axis=1)


def _struck(attack: Singles, times: Floats) -> Floats:
    """How clear an attack there is within 2 ms of each time, 0 to 1."""
    i = np.clip(np.rint(times * ATTACK_RATE).astype(int), 0, len(attack) - 1)
    a = np.pad(attack, 2)
    return 1 - np.exp(-np.maximum.reduce([a[i + k] for k in range(5)]).astype(float) / 0.15)


def _even(times: Floats) -> Floats:
    """How evenly each beat lies among its neighbours, 0 to 1."""
    off = np.full(len(times), 0.02)
    if len(times) > 4:
        guess = np.median(
            [(times[2 - k : len(times) - 2 - k] + times[2 + k : len(times) - 2 + k or None]) / 2 for k in (1, 2)],
            axis=0,
        )
        off[2:-2] = np.abs(times[2:-2] - guess)
    return np.exp(-0.5 * (off / 0.03) ** 2)


def evenness(attack: Singles, times: Floats) -> Floats:
    """How sure each beat is without the ear: a clear attack where its neighbours expect one."""
    return np.clip(_struck(attack, times) * _even(times), 0.02, 0.98)


def sounding(confidence: Floats) -> tuple[int, int]:
    """First and one past the last beat that is surely part of the music: lead-in noise and the last ring are not."""
    run = np.convolve(confidence, np.ones(4), "valid") / 4
    sure = np.flatnonzero(run >= 0.35)
    if not len(sure):
        return 0, len(confidence)
    first, last = int(sure[0]), int(sure[-1]) + 4
    while confidence[first] < 0.2:
        first += 1
    while confidence[last - 1] < 0.02 + 1e-9 and confidence[last - 2] < 0.2:
        last -= 1
    return first, last
