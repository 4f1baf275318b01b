"""What is heard on playing: the recording and a click on the grid, mixed block by block.

A pure function of position: the same frames always give the same block, so that the click's place
can be tested to the sample and any output, or none, may pull.
"""

from __future__ import annotations

from functools import cache

import attrs
import numpy as np
from numpy.typing import NDArray

from .grid import Grid

Block = NDArray[np.float32]


@cache
def click_sound(rate: int, *, accent: bool) -> Block:
    """A short woody click: a decaying tone of 45 ms whose first sample is its loudest region's start, (n,) float32."""
    n = int(0.045 * rate)
    t = np.arange(n) / rate
    pitch = 1760.0 if accent else 1175.0
    body = np.cos(2 * np.pi * pitch * t) * np.exp(-t / 0.009) + 0.4 * np.cos(2 * np.pi * 2.76 * pitch * t) * np.exp(
        -t / 0.003
    )
    return (0.7 * body / np.abs(body).max()).astype(np.float32)


@attrs.frozen(eq=False)
class Program:
    """What to play: samples (frames, channels) at `rate`, and a grid to click along, if any."""

    samples: Block
    rate: int
    grid: Grid | None = None
    click: bool = False
    click_level: float = 0.7
    music_level: float = 1.0

    @property
    def frames(self) -> int:
        return len(self.samples)


def render(program: Program, start: int, count: int) -> Block:
    """Frames `start` to `start + count` as (count, 2) float32 in [-1, 1]; silence outside the recording."""
    out = np.zeros((count, 2), np.float32)
    a, b = max(0, start), min(program.frames, start + count)
    if b > a:
        out[a - start : b - start] = program.samples[a:b] * np.float32(program.music_level)
    if program.click and program.grid is not None and program.click_level > 0:
        _add_clicks(out, program, start, count)
    return np.clip(out, -1.0, 1.0, out=out)


def _add_clicks(out: Block, program: Program, start: int, count: int) -> None:
    assert program.grid is not None
    rate = program.rate
    length = len(click_sound(rate, accent=False))
    times, _, position = program.grid.positions((start - length) / rate, (start + count) / rate)
    for time, place in zip(times, position, strict=True):
        at = round(float(time) * rate)
        if not 0 <= at < program.frames:
            continue
        sound = click_sound(rate, accent=bool(place == 1))
        a, b = max(start, at), min(start + count, at + length)
        if b > a:
            out[a - start : b - start] += (program.click_level * sound[a - at : b - at])[:, None]
