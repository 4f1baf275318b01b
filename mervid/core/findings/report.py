"""All that is said of one track: its findings, how else it could be read, and the kind of time it keeps."""

from __future__ import annotations

import attrs

from ..edits.listening_edits import heard_of
from ..guided import alternatives
from ..guided.alternatives import Opinion
from ..hearing.evidence import Evidence
from ..model.preparation import Preparation
from ..model.tempo_range import TempoRange
from . import grid_findings, study
from .study import DOUBT, Finding


@attrs.frozen(eq=False)
class Question:
    """A track as it is prepared now, and what is known of it."""

    preparation: Preparation
    evidence: Evidence
    duration: float
    delay_known: bool = True
    wanted: TempoRange | None = None


@attrs.frozen(eq=False)
class Report:
    """What is odd about a track, how else it could be read, and what kind of time it keeps."""

    findings: tuple[Finding, ...] = ()
    opinions: tuple[Opinion, ...] = ()
    kind: str = ""

    @property
    def doubts(self) -> int:
        """How many findings ask for a decision."""
        return sum(f.weight == DOUBT for f in self.findings)

    @property
    def first_doubt(self) -> str:
        """The words of the first finding that asks for a decision; empty where none does."""
        return next((f.text for f in self.findings if f.weight == DOUBT), "")


def report(question: Question, followed: Preparation | None = None) -> Report:
    """Findings and second opinions; `followed` saves fitting what was fitted already."""
    q = question
    heard = heard_of(q.evidence, q.preparation)
    others = alternatives.opinions(q.evidence, heard, q.preparation.hints)
    studied = study.study(
        q.preparation,
        q.evidence,
        others,
        duration=q.duration,
        delay_known=q.delay_known,
        wanted=q.wanted,
        followed=followed,
        heard=heard,
    )
    return Report(grid_findings.findings(studied), others, studied.study.kind)
