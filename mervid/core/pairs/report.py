"""A pair in figures, for a whole list: how safe it is, on what gear, and what fits. Only stored evidence is needed."""

from __future__ import annotations

import attrs

from ..errors import Refused
from . import places, proposals
from .forecast import Forecast
from .judgement import judge
from .meeting import Meeting
from .side import Side


@attrs.frozen
class Report:
    """One pair.

    Attributes
    ----------
    meeting : the place that was judged; None where they can't meet, and `problem` says why
    where : what that place is called in the leaving and in the coming track
    stretch : how much faster the coming track runs; 0.03 is 3 %
    expected : what is foretold
    p95 : 95th percentile of the tear line, ms, by kind of gear
    bars : bars that hold, by kind of gear
    keys : how the keys stand to each other, in words; empty where that isn't known
    phrases : whether phrases begin together
    clash : share of the bars in which both sing; None where that isn't known
    """

    meeting: Meeting | None
    problem: str = ""
    where: tuple[str, str] = ("", "")
    stretch: float = 0.0
    expected: Forecast = Forecast(0.0, 0.0)
    p95: tuple[tuple[str, float | None], ...] = ()
    bars: tuple[tuple[str, int | None], ...] = ()
    keys: str = ""
    phrases: bool = False
    clash: float | None = None

    @property
    def risk(self) -> float:
        """What lists are sorted by: 0 is safe, 1 is sure to part."""
        return 1.0 if self.meeting is None else 1.0 - self.expected.safe


def report(leaving: Side, coming: Side, meeting: Meeting | None = None) -> Report:
    """Judge a pair at a meeting, or at the best one there is."""
    try:
        m = meeting or proposals.propose(leaving, coming, most=1)[0].meeting
        judged = judge(leaving, coming, m)
    except Refused as e:
        return Report(None, str(e))
    starts = [
        any(abs(q.start - beat) < 0.5 for q in side.phrases) for side, beat in ((leaving, m.at), (coming, m.enter))
    ]
    return Report(
        m,
        "",
        (places.name(leaving, m.at), places.name(coming, m.enter)),
        judged.together.mean_stretch,
        judged.expected,
        tuple((r.kind, r.p95) for r in judged.runs),
        tuple((r.kind, r.bars) for r in judged.runs),
        judged.keys,
        all(starts),
        proposals.voices(leaving, coming, m, judged.together.beats),
    )
