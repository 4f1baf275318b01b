"""What a written mix says of itself: which beat of which track sounds when, as plain lists for JSON."""

from __future__ import annotations

from typing import Any

import attrs
import numpy as np

from ..arrays import Floats
from .clock import TimeMap, Together
from .forecast import Forecast
from .side import Side
from .tear import Tear

LEAD_BARS = 8
"""Bars of the leaving track before the overlap, and of the coming one after it, in a written mix."""


@attrs.frozen
class Cut:
    """The part of a mix that is written: whole frames of it, and its rate in Hz."""

    first: int
    count: int
    rate: int

    @property
    def start(self) -> float:
        """Where it begins in the mix, s."""
        return self.first / self.rate

    @property
    def stop(self) -> float:
        """Where it ends in the mix, s."""
        return (self.first + self.count) / self.rate


def cut(together: Together, rate: int, *, lead: int = LEAD_BARS) -> Cut:
    """The overlap with `lead` bars before and after it, as far as there is sound."""
    clock, m = together.clock, together.meeting
    first, last = clock.bar_index(np.array([m.at, m.at + together.beats]) + 1e-6)[0]
    start, stop = clock.time_at(clock.bar_start([int(first) - lead, int(last) + lead]))
    a = max(0, int(np.floor(max(0.0, float(start)) * rate)))
    b = int(np.ceil(min(together.length, float(stop)) * rate))
    return Cut(a, max(1, b - a), rate)


def account(
    leaving: tuple[Side, str], coming: tuple[Side, str], together: Together, part: Cut, line: Tear, expected: Forecast
) -> dict[str, Any]:
    """The account of a written mix; all times in s from the beginning of the file.

    Parameters
    ----------
    leaving, coming : the tracks, and the names of their files
    """
    one = _track(*leaving, together.leaving, part, (part.start, min(together.stop, part.stop)))
    other = _track(*coming, together.coming, part, (together.start, part.stop))
    return {
        "sample_rate": part.rate,
        "leaving": one,
        "coming": other,
        "overlap": [together.start - part.start, together.stop - part.start],
        "apart_ms": line.apart.tolist(),
        "forecast_p95_ms": expected.p95,
        "safe_chance": expected.safe,
    }


def _track(side: Side, file: str, map_: TimeMap, part: Cut, heard: tuple[float, float]) -> dict[str, Any]:
    """One track between two instants of the mix."""
    a, b = heard
    inner = map_.mix[(map_.mix > a) & (map_.mix < b)]
    knots = np.concatenate([[a], inner, [b]])
    own = map_.to_own(knots)
    beats, numbers, position = side.grid.positions(float(own[0]), float(own[-1]))
    there = map_.to_mix(beats) - part.start
    return {
        "file": file,
        "map": _pairs(own, knots - part.start),
        "beats": there.tolist(),
        "downbeats": there[position == 1].tolist(),
        "numbers": numbers.tolist(),
    }


def _pairs(own: Floats, mix: Floats) -> list[list[float]]:
    return [[float(a), float(b)] for a, b in zip(own, mix, strict=True)]
