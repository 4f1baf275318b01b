"""The tear line: how far the heard beats of two tracks fall apart at each beat of a meeting.

What is heard is carried through the map of the mix, so that a grid that is wrong shows, whatever it claims. An ear
forgives some 2.5 % of a beat (Friberg & Sundberg, J. Acoust. Soc. Am. 98, 1995).
"""

from __future__ import annotations

import attrs
import numpy as np

from ..arrays import Floats, Ints
from .clock import TimeMap, Together
from .side import Side

FORGIVEN = 0.025
"""Share of a beat that an ear forgives."""
LEAST = 8
"""So many beats must be heard in both for a figure."""


@attrs.frozen(eq=False)
class Tear:
    """How far apart beats fall.

    Attributes
    ----------
    beats : (n,) beats from the meeting, ascending
    times : (n,) where they fall in the mix, s
    apart : (n,) ms; positive where the coming track is late
    sure : (n,) how sure both are heard, 0 to 1
    bars : (n,) the bar of the overlap that each lies in, from 0
    forgiven : ms that an ear forgives here
    """

    beats: Floats
    times: Floats
    apart: Floats
    sure: Floats
    bars: Ints
    forgiven: float

    @property
    def p95(self) -> float | None:
        """95 % of the beats lie within so many ms; None where too few were heard."""
        return float(np.percentile(np.abs(self.apart), 95)) if len(self.apart) >= LEAST else None

    @property
    def worst(self) -> float | None:
        """The largest distance, ms."""
        return float(np.abs(self.apart).max()) if len(self.apart) else None

    def by_bar(self, bars: int) -> tuple[Floats, Floats]:
        """The 95th percentile and the largest distance in each of `bars` bars, ms; NaN where none is heard: (bars,)."""
        p95, worst = np.full(bars, np.nan), np.full(bars, np.nan)
        for bar in np.unique(self.bars[(self.bars >= 0) & (self.bars < bars)]).tolist():
            here = np.abs(self.apart[self.bars == bar])
            p95[bar], worst[bar] = np.percentile(here, 95), here.max()
        return p95, worst


def forgiven_ms(seconds: float, beats: float) -> float:
    """What an ear forgives where so many beats take so long, ms."""
    return 1000 * FORGIVEN * seconds / beats


def tear(leaving: Side, coming: Side, together: Together) -> Tear:
    """How far the heard beats of both fall apart in the overlap."""
    m, n = together.meeting, together.beats
    u_l, t_l, sure_l = _heard(leaving, together.leaving, m.at, 1.0, n)
    u_c, t_c, sure_c = _heard(coming, together.coming, m.enter, m.level, n)
    # quarters of a beat, so that tracks counted at half and double find each other
    both, i, k = np.intersect1d(np.round(4 * u_l), np.round(4 * u_c), return_indices=True)
    beats = both / 4
    bar = together.clock.bar_index(m.at + beats + 1e-6)[0] - together.first_bar
    return Tear(
        beats,
        t_l[i],
        1000 * (t_c[k] - t_l[i]),
        np.minimum(sure_l[i], sure_c[k]),
        np.asarray(bar),
        forgiven_ms(together.stop - together.start, n),
    )


def _heard(side: Side, on_clock: TimeMap, at: float, level: float, n: float) -> tuple[Floats, Floats, Floats]:
    """Heard beats in the overlap: beats from the meeting, instants of the mix, and how sure they are."""
    u = (side.heard_beats - at) / level
    inside = (u > -0.13) & (u < n - 0.13)
    return u[inside], on_clock.to_mix(side.heard.times[inside]), side.heard.confidence[inside]
