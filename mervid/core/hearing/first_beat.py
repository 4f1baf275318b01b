"""The first beat of the music: counted from the even part of the count backward, while something is struck.

A pointer begins late where the first strokes are soft, and takes speech or single hits before the music for a count of
their own. From where the count is even its period is carried back, step by step: a step counts where an attack lies
and the ear heard a beat; a few silent steps are bridged to one that it was sure of. What the pointer found before the
even part goes, unless the ear heard more in it.

Thresholds were chosen on rendered music with spoken and struck openings (`training/`): carried back with them, beats
were right more often than not; carried forward at the end they were not, so the end stays as it is.
"""

from __future__ import annotations

import numpy as np

from ..arrays import Floats, Ints, Singles
from . import bar_pointer
from .ear import Strengths
from .features import ATTACK_RATE

EVEN, OFF = 8, 0.07
"""The count is even where so many periods lie within so much of their median."""
MOST_HEAD = 24
"""Beats that may come before the even part."""
MOST_STEPS = 16
SILENT = 4
"""Steps in a row that may be silent: a bar."""
REACH = 0.035
"""s around a step in which its attack may lie."""
STRUCK = 0.12
"""Attack strength from which something is struck."""
BARS_TOLD, BARS_BEFORE = 8, 2
"""In so many bars it is known what is usual; so many may be counted in."""
COUNTED = 0.3
"""How sure percussion is in music that somebody counts in: a voice alone begins softly, and with the music."""
NO_BAR, A_BAR = 0.25, 0.8
"""Strength of a downbeat beside the usual one."""
SILENCE = 0.05
"""Attack strength under which nothing is struck."""
AT_CUT, AFTER_CUT = 0.01, 0.08
"""s in which a stroke is the cut of the file; and in which a beat may lie beside it that belongs there."""
CLEARLY_CUT, LEFT = 0.5, 0.5
"""Attack strength from which that stroke is a beat's; and how much of it what was left of its attack stays below."""
HEARD, SURE = 0.35, 0.5
"""Strength of a beat from which a step counts, next to another and across silent ones."""


def body(times: Floats) -> int:
    """The first beat from which the count is even; 0 where it is from the first, or nowhere.

    >>> body(np.array([0.0, 0.9, *(2 + 0.5 * np.arange(12))]))
    2
    """
    period = np.diff(times)
    for i in range(min(MOST_HEAD, len(period) - EVEN) + 1):
        part = period[i : i + EVEN]
        if len(part) == EVEN and np.abs(part / np.median(part) - 1).max() < OFF:
            return i
    return 0


def backward(ear: Strengths, attack: Singles, start: float, period: float) -> Floats:
    """Beats before `start` in steps of about `period`, in order of time."""
    out: list[float] = []
    waiting: list[float] = []
    t = start
    for _ in range(MOST_STEPS):
        place, strength = attack_beside(attack, t - period)
        if place < 0:
            break
        heard = float(bar_pointer.peaks(ear.beat, np.array([place]))[0])
        if strength >= STRUCK and heard >= (SURE if waiting else HEARD):
            out += [*waiting, place]
            waiting, t = [], place
        elif len(waiting) == SILENT:
            break
        else:
            t -= period
            waiting.append(t)
    return np.array(out[::-1])


def attack_beside(attack: Singles, time: float) -> tuple[float, float]:
    """The attack beside a time, nearer ones counting for more: its place in s and its strength."""
    centre, reach = round(time * ATTACK_RATE), round(REACH * ATTACK_RATE)
    first = max(0, centre - reach)
    part = attack[first : max(first, centre + reach + 1)]
    if not len(part):
        return time, 0.0
    near = part * np.exp(-0.5 * ((first + np.arange(len(part)) - centre) / (reach / 2)) ** 2)
    i = int(near.argmax())
    return (first + i) / ATTACK_RATE, float(part[i])


def cut(attack: Singles) -> float:
    """Attack strength of the stroke with which the file begins, as where it is cut on a beat; 0 for none."""
    return float(attack[: round(AT_CUT * ATTACK_RATE)].max(initial=0))


def at_cut(attack: Singles, times: Floats) -> Floats:
    """`times` in s, the first on the file's first sample where it lies beside that, and the stroke is there.

    What is cut away of an attack can't be heard: the beat is sought in what is left of it.

    >>> attack = np.zeros(2000, np.float32)
    >>> attack[2], attack[46] = 0.9, 0.2
    >>> at_cut(attack, np.array([0.046, 0.5]))
    array([0. , 0.5])
    """
    if not len(times) or not AT_CUT < times[0] <= AFTER_CUT:
        return times
    i, reach = round(float(times[0]) * ATTACK_RATE), round(AT_CUT * ATTACK_RATE)
    stroke, there = cut(attack), float(attack[max(reach, i - reach) : i + reach].max(initial=0))
    belongs = stroke >= CLEARLY_CUT and there < LEFT * stroke
    return np.append(0.0, times[1:]) if belongs else times


def from_first(ear: Strengths, attack: Singles, times: Floats) -> Floats:
    """`times` from the first beat of the music on, without a count of its own before it."""
    if len(times) <= EVEN:
        return times
    times = times[_first_struck(ear, attack, times) :]
    i = body(times)
    period = float(np.median(np.diff(times[i : i + EVEN + 1])))
    head = backward(ear, attack, float(times[i]), period)
    if i and not _better(ear, head, times[:i]):
        return times
    return np.concatenate([head, times[i:]])


def first_bar(ear: Strengths, times: Floats, position: Ints) -> int:
    """The beat at which the first bar of the music begins.

    A count-in, or strokes before the music, are beats but no bar: the ear hears no downbeat there, and then one as
    clear as those that follow.
    """
    opens = np.flatnonzero(position == 0)
    if len(opens) < BARS_TOLD or bar_pointer.peaks(ear.drums, times).mean() < COUNTED:
        return 0
    strength = bar_pointer.peaks(ear.downbeat, times[opens])
    usual = float(np.median(strength))
    for k in range(1, BARS_BEFORE + 1):
        if strength[:k].max() < NO_BAR * usual and strength[k] >= A_BAR * usual:
            return int(opens[k])
    return 0


def _first_struck(ear: Strengths, attack: Singles, times: Floats) -> int:
    """The first beat at which something is struck, or which the ear was sure of; among the first few."""
    for i in range(min(MOST_STEPS, len(times) - EVEN)):
        strength = attack_beside(attack, float(times[i]))[1]
        heard = float(bar_pointer.peaks(ear.beat, times[i : i + 1])[0])
        if strength >= SILENCE or heard >= HEARD:
            return i
    return 0


def _better(ear: Strengths, new: Floats, old: Floats) -> bool:
    """Whether beats carried back from the even part stand for those that the pointer found before it."""
    before = float(bar_pointer.peaks(ear.beat, old).mean())
    if not len(new):
        # nothing of the count reaches there: speech, or a hit of its own, unless the ear was sure of it
        return before < HEARD or len(old) < 3
    return float(bar_pointer.peaks(ear.beat, new).mean()) >= 0.8 * before
