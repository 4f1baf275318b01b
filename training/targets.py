"""What the network should say of a take, and how a take is changed before it is shown again."""

from __future__ import annotations

import math

import numpy as np
from numpy.random import Generator
from numpy.typing import NDArray

from mervid.core.hearing.ear import TEMPI, tempi
from mervid.core.hearing.spectra import BANDS, EAR_FPS

Truth = dict[str, NDArray[np.float64]]


def pulses(times: NDArray[np.float64], frames: int, reach: float) -> NDArray[np.float32]:
    """Triangles of half-width `reach` frames at `times`: (frames,), 1 where an event falls on a frame."""
    out = np.zeros(frames, np.float32)
    for t in times * EAR_FPS:
        a, b = max(0, math.ceil(t - reach)), min(frames, math.floor(t + reach) + 1)
        if a < b:
            out[a:b] = np.maximum(out[a:b], 1 - np.abs(np.arange(a, b) - t) / reach)
    return out


def spans(pairs: NDArray[np.float64], frames: int) -> NDArray[np.float32]:
    """1 inside the spans, else 0: (frames,)."""
    out = np.zeros(frames, np.float32)
    for a, b in pairs * EAR_FPS:
        out[max(0, int(a)) : max(0, int(b))] = 1
    return out


def targets(truth: Truth, frames: int) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
    """What the network should say: (5, frames) and tempo (32, frames), zero where there is none."""
    rows = [
        pulses(truth["beats"], frames, 1.5),
        pulses(truth["downbeats"], frames, 1.5),
        pulses(truth["sections"], frames, 12.0),
        spans(truth["drums"].reshape(-1, 2), frames),
        spans(truth["voice"].reshape(-1, 2), frames),
    ]
    tempo = np.zeros((TEMPI, frames), np.float32)
    beats = truth["beats"]
    if len(beats) > 8:
        bpm = 60 * 4 / (beats[4:] - beats[:-4])
        at = np.interp(np.arange(frames) / EAR_FPS, beats[2:-2], bpm)
        place = np.interp(np.log(at), np.log(tempi()), np.arange(TEMPI))
        tempo = np.exp(-0.5 * (np.arange(TEMPI)[:, None] - place) ** 2).astype(np.float32)
        tempo /= tempo.sum(axis=0)
        inside = (np.arange(frames) / EAR_FPS > beats[0] - 2) & (np.arange(frames) / EAR_FPS < beats[-1] + 2)
        tempo[:, ~inside] = 0
    return np.stack(rows), tempo


def change(rng: Generator, x: NDArray[np.float32]) -> NDArray[np.float32]:
    """(frames, 72, 3) features of another key, colour and level, with bands or a kind of feature missing."""
    shift = int(rng.integers(-3, 4))
    if shift:
        x = np.roll(x, shift, axis=1)
        x[:, slice(shift) if shift > 0 else slice(shift, None)] = 0
    tilt = np.interp(np.arange(BANDS), [0, 18, 36, 54, 71], rng.normal(0, 0.35, 5)).astype(np.float32) + rng.normal(
        0, 0.3
    )
    x[:, :, 0] = np.maximum(0, x[:, :, 0] + tilt * (x[:, :, 0] > 0.2))
    x[:, :, 1:] *= np.float32(rng.uniform(0.75, 1.3))
    if rng.random() < 0.15:
        a = int(rng.integers(0, 60))
        x[:, a : a + int(rng.integers(3, 20))] = 0
    return x
