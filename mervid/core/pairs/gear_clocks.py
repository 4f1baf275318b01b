"""What gear makes of a meeting: the same overlap under the clocks of three kinds of player.

A player that follows variable grids keeps both on their beats. One that knows a single tempo for each track matches it
once, where they meet, and runs on. One that is started by hand matches tempo only: a thumb is some 20 ms off (common
practice, no source). All are judged by what is heard, bar by bar, against what an ear forgives.
"""

from __future__ import annotations

from statistics import NormalDist, median

import attrs
import numpy as np

from ..arrays import Floats
from .clock import Together
from .meeting import LEAVING
from .side import Side
from .tear import LEAST, Tear

GRIDS, FIXED, HAND = "grids", "fixed", "hand"
KINDS = (GRIDS, FIXED, HAND)
NAMES = {GRIDS: "follows variable grids", FIXED: "one tempo a track", HAND: "tempo matched, started by hand"}
THUMB_MS = 20.0
"""Standard deviation of a start by hand."""
_THUMBS = tuple(NormalDist(0, THUMB_MS).inv_cdf(q) for q in np.linspace(0.025, 0.975, 39).tolist())


@attrs.frozen(eq=False)
class Run:
    """How long a meeting holds on one kind of player.

    Attributes
    ----------
    bars : how many bars from the meeting on stay within what an ear forgives; None where too little is heard
    apart : (beats,) ms at each beat that is heard in both; for a start by hand without the thumb
    end : ms apart in the last bars of the overlap; None where too little is heard
    p95 : 95 % of the beats lie within so many ms; None where too little is heard
    """

    kind: str
    bars: int | None
    apart: Floats
    end: float | None
    p95: float | None


def runs(leaving: Side, coming: Side, together: Together, line: Tear) -> tuple[Run, ...]:
    """The three of them; a fixed tempo counts from the meeting, whatever clock is set."""
    fixed = _fixed(leaving, coming, together, line)
    forgiven, bars = line.forgiven, together.meeting.bars
    out = [_run(GRIDS, line.apart, line, forgiven, bars), _run(FIXED, fixed, line, forgiven, bars)]
    if len(fixed) < LEAST:
        return (*out, Run(HAND, None, fixed, None, None))
    middles, end = _middles(fixed, line, bars), _last(fixed)
    # a thumb moves every beat, and so every middle, by as much
    held = [_bars_within(middles + thumb, forgiven) for thumb in _THUMBS]
    ends = [abs(end + thumb) for thumb in _THUMBS]
    every = np.abs(fixed[:, None] + np.array(_THUMBS))
    hand = Run(HAND, int(np.median(held)), fixed, float(np.median(ends)), float(np.percentile(every, 95)))
    return (*out, hand)


def _fixed(leaving: Side, coming: Side, together: Together, line: Tear) -> Floats:
    """How far apart beats fall when each track has one tempo and they are together where they meet, ms."""
    m = together.meeting
    ratio = coming.grid.tempo_overall() / m.level / leaving.grid.tempo_overall()
    own_l, own_c = together.leaving.to_own(line.times), together.coming.to_own(line.times + line.apart / 1000)
    start_l, start_c = float(leaving.grid.time_at(m.at)), float(coming.grid.time_at(m.enter))
    return np.asarray(1000 * ((own_c - start_c) * ratio - (own_l - start_l)) + (m.nudge if m.clock == LEAVING else 0.0))


def _run(kind: str, apart: Floats, line: Tear, forgiven: float, bars: int) -> Run:
    if len(apart) < LEAST:
        return Run(kind, None, apart, None, None)
    held = _bars_within(_middles(apart, line, bars), forgiven)
    return Run(kind, held, apart, _last(apart), float(np.percentile(np.abs(apart), 95)))


def _last(apart: Floats) -> float:
    return float(np.median(apart[-LEAST:]))


def _middles(apart: Floats, line: Tear, bars: int) -> Floats:
    """The middle distance of each bar and the one after it, (bars,) ms; NaN where nothing is heard.

    Single strokes are heard badly, two bars aren't.
    """
    out = np.full(bars, np.nan)
    for bar in range(bars):
        a, b = np.searchsorted(line.bars, [bar, bar + 2])
        if b > a:
            # a dozen values, for which `numpy.median` takes long to begin
            out[bar] = median(apart[a:b].tolist())
    return out


def _bars_within(middles: Floats, forgiven: float) -> int:
    """Bars until the first one whose middle is out."""
    beyond = np.flatnonzero(np.abs(middles) > forgiven)
    return int(beyond[0]) if len(beyond) else len(middles)


def words(run: Run, bars: int) -> str:
    """One line: 'together for 11 bars, 38 ms apart after 32'."""
    if run.bars is None or run.end is None:
        return "too few beats are heard to tell"
    if run.bars >= bars:
        return f"together for all {bars} bars"
    start = "apart from the start" if run.bars == 0 else f"together for {run.bars} bar{'s' if run.bars > 1 else ''}"
    return f"{start}, {abs(run.end):.0f} ms apart after {bars}"
