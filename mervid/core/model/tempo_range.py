"""Tempo ranges: where the tempo of a style is expected, to choose between levels that sound alike.

The presets are common practice (no source).
"""

from __future__ import annotations

import attrs

from ..errors import Refused
from .beatgrid import LEAST_TEMPO, MOST_TEMPO


@attrs.frozen
class TempoRange:
    """From `low` to `high` BPM."""

    name: str
    low: float
    high: float

    @property
    def text(self) -> str:
        """As shown: 'hip-hop (65–110)'."""
        return f"{self.name} ({self.low:g}–{self.high:g})"

    def holds(self, tempo: float) -> bool:
        """Does `tempo` in BPM lie inside?"""
        return self.low <= tempo <= self.high


PRESETS = (
    TempoRange("hip-hop", 65, 110),
    TempoRange("funk and soul", 75, 130),
    TempoRange("disco and house", 100, 140),
    TempoRange("fast", 130, 200),
)


def of(low: float, high: float, name: str = "your range") -> TempoRange:
    """A range of one's own.

    Raises
    ------
    Refused
        It is no range, or so narrow that neither a tempo nor its double lies in it.
    """
    if not LEAST_TEMPO <= low < high <= MOST_TEMPO:
        raise Refused(f"{low:g} to {high:g} BPM is no range: the first must be the smaller.")
    return TempoRange(name, low, high)


def known(pair: tuple[float, float] | None) -> TempoRange | None:
    """The preset with these limits, or a range of one's own; None for none."""
    if pair is None:
        return None
    return next((r for r in PRESETS if (r.low, r.high) == pair), TempoRange("your range", *pair))
