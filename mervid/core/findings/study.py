"""A track as it is prepared now, studied: what findings are drawn from, and what a finding is."""

from __future__ import annotations

import attrs
import numpy as np

from ..arrays import Floats
from ..edits.listening_edits import counts_alike, heard_of, offset
from ..errors import Refused
from ..fitting import drift, timekeeping
from ..fitting.drift import Summary, Trace
from ..fitting.timekeeping import Timekeeping
from ..guided.alternatives import Opinion
from ..hearing import bar_pointer
from ..hearing.evidence import Evidence
from ..hearing.heard import Heard
from ..model import preparation
from ..model.beatgrid import bar_name
from ..model.preparation import Preparation
from ..model.tempo_range import TempoRange

NOTE, ODD, DOUBT = "note", "odd", "doubt"
"""How much a finding asks for: nothing, a look, a decision."""
AS_LIKELY, _LIKELY = 0.15, 0.3
"""Chances of another reading that are worth a look, and a decision."""
UNSURE = 0.6
"""A beat is doubtful below this confidence."""


def asked(chance: float) -> str:
    """How much a finding asks for that tells another reading, by its chance."""
    return DOUBT if chance > _LIKELY else ODD


@attrs.frozen
class Fix:
    """What one click would do: a name for the button, the edit's name, and the preparation afterwards."""

    label: str
    edit: str
    preparation: Preparation


@attrs.frozen
class Finding:
    """One sentence.

    Attributes
    ----------
    key : which kind of finding, for tests and figures
    text : the sentence
    weight : "doubt" asks for a decision, "odd" for a look, "note" for nothing
    start, stop : s, where to look; None for the whole track
    """

    key: str
    text: str
    weight: str = NOTE
    start: float | None = None
    stop: float | None = None
    fix: Fix | None = None


@attrs.frozen(eq=False)
class Study:
    """All that findings are drawn from."""

    p: Preparation
    evidence: Evidence
    heard: Heard
    study: Timekeeping
    opinions: tuple[Opinion, ...]
    duration: float
    delay_known: bool
    range: TempoRange | None
    trace: Trace | None
    summary: Summary | None
    followed: Preparation | None = None
    drums: Floats | None = None

    def bar(self, time: float) -> str:
        """The name of the bar at `time`, counted along the heard beats where there are any near."""
        h, grid = self.heard, self.p.grid
        i = int(np.abs(h.times - time).argmin())
        if grid is None:
            return bar_name(int(h.numbers[i]) // h.meter[0].beats_per_bar)
        beat = float(grid.beat_at(time))
        if abs(h.times[i] - time) < 1.0 and counts_alike(grid, h):
            # a grid that drifts may be more than a beat away from the count that is heard
            beat = float(h.numbers[i] + offset(grid, h))
        return bar_name(int(grid.bar_index(beat + 1e-3)[0]))

    def fix(self, label: str, edit: preparation.Edit[...], *args: object) -> Fix | None:
        """The fix by an edit; None where it is refused or would change nothing."""
        try:
            after = edit(attrs.evolve(self.p, readiness=preparation.DRAFT), *args)
        except Refused:
            return None
        after = attrs.evolve(after, readiness=self.p.readiness)
        return None if after == self.p else Fix(label, preparation.name_of(edit), after)


def study(
    p: Preparation,
    evidence: Evidence,
    opinions: tuple[Opinion, ...],
    *,
    duration: float,
    delay_known: bool = True,
    wanted: TempoRange | None = None,
    followed: Preparation | None = None,
    heard: Heard | None = None,
) -> Study:
    """Study a track as it is prepared now.

    Parameters
    ----------
    wanted : the tempo range that holds for this track, if any
    followed : what following the recording gives, where it is known already
    heard : what is heard under the hints and hand pins of `p`, where it is known already
    """
    heard = heard_of(evidence, p) if heard is None else heard
    trace = drift.trace_of(p, heard)
    return Study(
        p,
        evidence,
        heard,
        timekeeping_of(evidence, heard),
        opinions,
        duration,
        delay_known,
        wanted,
        trace,
        drift.summary(trace) if trace is not None else None,
        followed,
        _drums(evidence, heard),
    )


def _drums(evidence: Evidence, heard: Heard) -> Floats | None:
    """How sure percussion is at each heard beat, (n,); None where that isn't known."""
    ear = evidence.strengths
    return bar_pointer.peaks(ear.drums, heard.times) if ear is not None and len(heard.times) else None


def timekeeping_of(evidence: Evidence, heard: Heard) -> Timekeeping:
    """The kind of time that a recording keeps."""
    kept = timekeeping.judge(
        heard,
        evidence.attack_strength(),
        drums=_drums(evidence, heard),
        sway=evidence.sway,
        condition=evidence.condition,
    )
    # what runs round is one span, however its player keeps time inside it
    return attrs.evolve(kept, kind=timekeeping.STEADY) if evidence.loop else kept


def span(ms: float) -> str:
    """'12 ms', or '2.4 s' from a second on."""
    return f"{abs(ms):.0f} ms" if abs(ms) < 1000 else f"{abs(ms) / 1000:.1f} s"
