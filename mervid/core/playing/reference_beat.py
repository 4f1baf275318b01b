"""The reference beat: a click or a plain drum pattern along the grid, to check a track by ear.

A stroke is an instant on the grid, a sound and how hard it is struck. Sounds begin with their first sample and are
made here from tones and noise. How loud a pattern is on its own (ITU-R BS.1770-4, programme loudness) is kept with it,
so that it can be set against the loudness of the track.
"""

from __future__ import annotations

from functools import cache

import attrs
import numpy as np

from ..arrays import Floats, Singles
from ..model.beatgrid import Grid

OFF, CLICK, KICK_HAT, BACKBEAT, HALF_TIME, SHAKER = "", "click", "kick and hat", "backbeat", "half-time", "shaker"
PATTERNS = (CLICK, KICK_HAT, BACKBEAT, HALF_TIME, SHAKER)
ALONE = {CLICK: -23.1, KICK_HAT: -16.9, BACKBEAT: -17.7, HALF_TIME: -19.5, SHAKER: -18.7}
"""Loudness of each pattern at full strength and 120 BPM, LUFS; measured, and checked by a test."""
BESIDE = {CLICK: -9.0, KICK_HAT: -4.0, BACKBEAT: -4.0, HALF_TIME: -4.0, SHAKER: -7.0}
"""How far under the track a pattern is set, LU: short sounds stand out of music by themselves."""
QUIETEST, LOUDEST, UNKNOWN = -34.0, -9.0, -16.0
LONGEST = 0.22


@attrs.frozen
class Stroke:
    """Strike `sound` at `time` s, `level` hard (1 is full)."""

    time: float
    sound: str
    level: float


def _noise(n: int, seed: int) -> Floats:
    return np.random.default_rng(seed).normal(0, 0.35, n)


@cache
def sound(name: str, rate: int) -> Singles:
    """One sound at `rate` Hz, (n,) float32, at most `LONGEST` s; its first sample is loud.

    Raises
    ------
    KeyError
        There is no sound of this name.
    """
    t = np.arange(int(LONGEST * rate)) / rate
    if name in ("accent", "tick", "half"):
        pitch, strength = {"accent": (1760.0, 1.0), "tick": (1175.0, 0.9), "half": (880.0, 0.45)}[name]
        body = np.cos(2 * np.pi * pitch * t) * np.exp(-t / 0.009)
        body += 0.4 * np.cos(2 * np.pi * 2.76 * pitch * t) * np.exp(-t / 0.003)
        y, length = strength * body / 1.4, 0.06
    elif name == "kick":
        # a membrane whose pitch falls from 170 to 50 Hz, and the knock of the beater
        phase = 2 * np.pi * (50 * t + 120 * 0.018 * (1 - np.exp(-t / 0.018)))
        y = 0.8 * np.cos(phase) * np.exp(-t / 0.07) + 0.2 * np.cos(2 * np.pi * 1900 * t) * np.exp(-t / 0.002)
        length = 0.22
    elif name == "snare":
        y = 0.55 * np.cos(2 * np.pi * 190 * t) * np.exp(-t / 0.03) + 0.6 * _noise(len(t), 3) * np.exp(-t / 0.045)
        length = 0.16
    else:
        seed, decay = {"hat": (5, 0.012), "shaker": (7, 0.03)}[name]
        bright = np.diff(_noise(len(t) + 1, seed))
        y, length = 0.7 * bright * np.exp(-t / decay), 0.08 if name == "hat" else 0.12
    n = int(length * rate)
    y = y[:n] * np.minimum(1.0, (n - np.arange(n)) / (0.005 * rate))
    if abs(y[0]) < 0.3:
        y[0] = 0.3
    return (y / max(1.0, float(np.abs(y).max()))).astype(np.float32)


def strokes(grid: Grid, pattern: str, start: float, stop: float, *, halves: bool = False) -> list[Stroke]:
    """The strokes of `pattern` from `start` (included) to `stop` (not included), s, in order of time.

    Parameters
    ----------
    halves : mark half-beats, too, in patterns that don't play them

    Examples
    --------
    >>> from mervid.core.model.beatgrid import steady
    >>> [(s.time, s.sound) for s in strokes(steady(tempo=120.0, first=0.0), CLICK, 0.0, 1.4)]
    [(0.0, 'accent'), (0.5, 'tick'), (1.0, 'tick')]
    """
    if pattern == OFF or stop <= start:
        return []
    low, high = grid.beat_at([start - 1e-9, stop])
    counts = np.arange(int(np.ceil(2 * low)), int(np.floor(2 * high)) + 1)
    times = grid.time_at(counts / 2)
    out = []
    for count, time in zip(counts.tolist(), times.tolist(), strict=True):
        if start <= time < stop:
            beat = count // 2
            place = round(float(grid.bar_index(beat)[1])) + 1
            for name, level in _struck(pattern, place, grid.beats_per_bar(beat), bool(count % 2), halves):
                out.append(Stroke(time, name, level))
    return out


def _struck(pattern: str, place: int, size: int, half: bool, halves: bool) -> list[tuple[str, float]]:
    """What is struck on the beat `place` of a bar of `size`, or half a beat after it."""
    if half:
        if pattern in (KICK_HAT, BACKBEAT):
            return [("hat", 0.55)]
        if pattern == SHAKER:
            return [("shaker", 0.5)]
        return [("half", 0.8)] if halves else []
    if pattern == CLICK:
        return [("accent" if place == 1 else "tick", 0.85)]
    if pattern == KICK_HAT:
        return [("kick", 1.0 if place == 1 else 0.8)] + ([("hat", 0.4)] if place == 1 else [])
    if pattern == BACKBEAT:
        return [("kick" if place % 2 else "snare", 1.0 if place == 1 else 0.85), ("hat", 0.4)]
    if pattern == HALF_TIME:
        middle = size // 2 + 1
        drum = [("kick", 1.0)] if place == 1 else [("snare", 0.9)] if place == middle else []
        return [*drum, ("hat", 0.5)]
    return [("shaker", 1.0 if place == 1 else 0.8)]


def gain(pattern: str, loudness: float) -> float:
    """How strong to play a pattern beside music of `loudness` LUFS, so that it is neither drowned nor deafening."""
    level = float(np.clip(loudness, QUIETEST, LOUDEST)) + BESIDE[pattern] - ALONE[pattern]
    return float(10 ** (level / 20))
