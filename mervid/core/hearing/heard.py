"""The beats that were heard: instants, counts, how sure each is, and where bars begin."""

from __future__ import annotations

import attrs
import numpy as np

from ..arrays import Floats, Ints
from ..model.beatgrid import MeterMark, locate


@attrs.frozen(eq=False)
class Heard:
    """What was heard, never edited.

    Attributes
    ----------
    times : (n,) float64, s, strictly increasing
    numbers : (n,) int64, the count of each beat; 0 is the first downbeat, gaps are missing beats
    confidence : (n,) float64 in [0, 1], the chance that the beat is right within 20 ms
    meter : where the count of beats in a bar changes; the first mark is at beat 0
    level_chance : the chance that the count is at the right level and on the beat, 0 to 1
    phase_chance : the chance that the right beat begins the bar, 0 to 1
    pulse : whether times are the pulse that the players share (see `places`), not strokes about it
    elsewhere : s of another bar line that may begin bar 1, and the chance that it does; 0 where none is known
    """

    times: Floats
    numbers: Ints
    confidence: Floats
    meter: tuple[MeterMark, ...] = (MeterMark(),)
    level_chance: float = 0.0
    phase_chance: float = 0.0
    pulse: bool = False
    elsewhere: tuple[float, float] = (0.0, 0.0)

    @property
    def position(self) -> Ints:
        """Place of each beat in its bar, 0 is the first: (n,)."""
        at, size = np.array([m.beat for m in self.meter]), np.array([m.beats_per_bar for m in self.meter])
        return np.rint(locate(at, size, self.numbers.astype(float))[2]).astype(np.int64)

    @property
    def downbeats(self) -> Floats:
        """Times of the beats that begin a bar, s."""
        return self.times[self.position == 0]

    @property
    def metre(self) -> int:
        """The commonest number of beats a bar among the meter marks."""
        return int(np.bincount([m.beats_per_bar for m in self.meter]).argmax())


def nothing_heard() -> Heard:
    """The answer for sound without a pulse."""
    return Heard(np.zeros(0), np.zeros(0, np.int64), np.zeros(0))
