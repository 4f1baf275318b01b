"""A cue: a place to come in or to get out, hot, standby or both, with or without a loop."""

from __future__ import annotations

import attrs

from .beatgrid import Grid

HOT, STANDBY, BOTH = "hot", "standby", "both"
KINDS = (HOT, STANDBY, BOTH)
SLOTS = 8
"""How many hot cues there are."""
MOST_LOOP = 64
"""Bars of a loop."""


@attrs.frozen
class Cue:
    """A hot cue (plays at once), a standby cue (a player jumps there and waits), or both at one place.

    Snapped cues hold `beat` and follow the grid; free ones hold `time` in s. Just one of the two is set.

    Attributes
    ----------
    slot : 0 to 7, which of the hot cues it is; None for standby cues, and for hot ones that have no slot
    bars : length of the loop that begins here; 0 for none
    recipe : the recipe that placed it; empty for a hand's
    """

    id: str
    name: str
    beat: float | None = None
    time: float | None = None
    kind: str = HOT
    role: str = "own"
    slot: int | None = None
    bars: int = 0
    recipe: str = ""

    @property
    def is_hot(self) -> bool:
        return self.kind != STANDBY

    @property
    def is_standby(self) -> bool:
        return self.kind != HOT

    def at(self, grid: Grid | None) -> float:
        """Where the cue lies, s: on the first sample, where its beat is the one on which the file is cut."""
        if self.time is not None:
            return self.time
        if grid is None or self.beat is None:
            return 0.0
        return max(0.0, float(grid.time_at(self.beat)))
