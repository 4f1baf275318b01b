"""How far a beat may stray from its grid before an ear minds: tighter where the track is mixed."""

from __future__ import annotations

import attrs
import numpy as np

from ..arrays import Floats

Zones = tuple[tuple[float, float], ...]

TIGHT_MS, LOOSE_MS = 8.0, 15.0


@attrs.frozen
class Tolerance:
    """How far a beat may stray from the grid, in ms, in the mix zones and elsewhere."""

    tight: float = TIGHT_MS
    loose: float = LOOSE_MS

    def at(self, times: Floats, zones: Zones) -> Floats:
        """Tolerance in ms that holds at each of `times` (s)."""
        out = np.full(len(times), self.loose)
        for a, b in zones:
            out[(times >= a) & (times <= b)] = self.tight
        return out
