"""What can be done about a meeting that tears: sentences with, where there is one, another meeting that mends it."""

from __future__ import annotations

import attrs
import numpy as np

from ..errors import Refused
from ..figures import faster, share, signed
from . import tying
from .clock import Together
from .forecast import Forecast
from .gear_clocks import FIXED, Run
from .meeting import LENGTHS, MOST_STRETCH, Meeting
from .proposals import Proposal
from .side import Side
from .tear import Tear
from .tying import Tie

_STEADY_MS = 4.0
"""A distance that is the same all along is worth a nudge from here on."""
_SAFER = 0.1


@attrs.frozen
class Remark:
    """A plain sentence with its figure, and what would mend it.

    Attributes
    ----------
    label, meeting : another meeting, and what going there is called
    straighten : which of the two would be rendered anew at one tempo; None where that mends nothing
    tie : a beat whose grid would be pulled onto what is heard
    follow : which of the two would follow its recording instead of keeping one tempo
    """

    text: str
    label: str = ""
    meeting: Meeting | None = None
    straighten: Side | None = None
    tie: Tie | None = None
    follow: Side | None = None


def remarks(
    leaving: Side,
    coming: Side,
    together: Together,
    line: Tear,
    runs: tuple[Run, ...],
    expected: Forecast,
    best: Proposal | None = None,
) -> list[Remark]:
    """What there is to say of a meeting, what matters most first; `best` is the best place there is."""
    out, m = [], together.meeting
    by = {r.kind: r for r in runs}
    if line.p95 is None:
        out.append(Remark("Too few beats are heard in both here: the tear line can't judge, your ears must."))
    out += _middle(m, line)
    out += _torn(leaving, coming, together, line)
    out += _stretch(leaving, coming, together)
    fixed = by[FIXED]
    if fixed.bars is not None and fixed.end is not None and fixed.bars < m.bars:
        text = (
            f"A player with one tempo a track keeps them together for {fixed.bars} of {m.bars} bars; "
            f"then they are {abs(fixed.end):.0f} ms apart."
        )
        which = _wanders_more(leaving, coming)
        shorter = max((n for n in LENGTHS if n <= fixed.bars), default=None)
        if shorter is not None:
            out.append(
                Remark(
                    f"{text} Mix shorter, or straighten one of them.",
                    f"Mix {shorter} bars",
                    attrs.evolve(m, bars=shorter),
                    which,
                )
            )
        else:
            words = f"{text} Loop the last bars of {leaving.title}, or straighten one of them."
            out.append(Remark(words, straighten=which))
    if best is not None and not expected.is_safe:
        out += _better(m, expected, best)
    return out


def _wanders_more(leaving: Side, coming: Side) -> Side:
    """The track whose tempo leaves more to straighten."""
    reach = [float(np.ptp(side.grid.tempi) / side.grid.tempi.mean()) for side in (leaving, coming)]
    return leaving if reach[0] >= reach[1] else coming


def _middle(m: Meeting, line: Tear) -> list[Remark]:
    """A distance that is there all along."""
    if line.p95 is None:
        return []
    middle = float(np.median(line.apart))
    if abs(middle) < _STEADY_MS:
        return []
    which = "late" if middle > 0 else "early"
    nudge = round(m.nudge - middle, 1)
    try:
        fixed = attrs.evolve(m, nudge=nudge)
    except Refused:
        return []
    return [
        Remark(
            f"The coming track is {abs(middle):.0f} ms {which} all along.",
            f"Nudge it by {signed(-middle, 'ms')}",
            fixed,
        )
    ]


def _torn(leaving: Side, coming: Side, together: Together, line: Tear) -> list[Remark]:
    """A place where one grid strays."""
    tie = tying.worst(leaving, coming, together, line)
    if tie is None:
        return []
    which = "late" if tie.off > 0 else "early"
    side = coming if tie.coming else leaving
    text = f"They part at bar {tie.bar + 1} of the overlap: {side.title} is heard {abs(tie.off):.0f} ms {which} there."
    if len(side.grid.pins) == 2:
        return [Remark(f"{text} Its grid keeps one tempo.", "Let it follow the recording", follow=side)]
    return [Remark(text, f"Pull it onto its thread, bar {tie.bar + 1}", tie=tie)]


def _stretch(leaving: Side, coming: Side, together: Together) -> list[Remark]:
    out = []
    for side, most in zip((leaving, coming), together.stretch, strict=True):
        if abs(most) > MOST_STRETCH:
            out.append(
                Remark(
                    f"{side.title} runs up to {faster(most)} than it was played: "
                    f"beyond {share(MOST_STRETCH)} that is heard."
                )
            )
    return out


def _better(m: Meeting, expected: Forecast, best: Proposal) -> list[Remark]:
    """A place that is clearly safer."""
    there = best.meeting
    same = abs(there.at - m.at) < 0.5 and abs(there.enter - m.enter) < 0.5
    if same or best.expected.safe < expected.safe + _SAFER:
        return []
    goal = attrs.evolve(m, at=there.at, enter=there.enter, bars=there.bars, level=there.level, swap=None)
    text = f"Elsewhere they are safer: {share(best.expected.safe)} instead of {share(expected.safe)}."
    return [Remark(text, "Meet there", goal)]
