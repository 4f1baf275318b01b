"""What a track could be and what is odd about it, worked out in a process of its own.

First both fits (one steady tempo, following), then the findings and the second opinions. A long drummer takes up to
some tenths of a second of Python, too much for the window's thread.
"""

from __future__ import annotations

import logging
from collections import deque

import attrs

from ..core.edits import grid_edits
from ..core.edits.listening_edits import heard_of
from ..core.errors import Cancelled, Refused
from ..core.findings.report import Question, Report, report
from ..core.findings.study import Finding
from ..core.fitting import drift
from ..core.fitting.drift import Summary
from ..core.hearing.heard import Heard
from ..core.model import preparation
from ..core.model.preparation import Preparation
from .lifeline import OneProcess

log = logging.getLogger(__name__)
STEADY, FOLLOW = "steady", "follow"


@attrs.frozen
class Offer:
    """What a fit would give: a preparation and what it achieves, or why it can't be had."""

    preparation: Preparation | None
    summary: Summary | None
    refusal: str = ""


def offers(current: Preparation, heard: Heard) -> dict[str, Offer]:
    """Both fits under the hand pins, counting and mix zones of `current`."""
    out = {}
    for name, make in ((STEADY, grid_edits.make_steady), (FOLLOW, grid_edits.follow_recording)):
        try:
            made = make(attrs.evolve(current, readiness=preparation.DRAFT), heard)
            trace = drift.trace_of(made, heard)
            out[name] = Offer(made, drift.summary(trace) if trace is not None else None)
        except Refused as e:
            out[name] = Offer(None, None, str(e))
    return out


def _offers(question: Question) -> dict[str, Offer]:
    return offers(question.preparation, heard_of(question.evidence, question.preparation))


class Fitter:
    """Asks for offers and reports and collects them; only the newest question counts."""

    def __init__(self) -> None:
        self._process = OneProcess("fitter")
        self._newest = 0
        self._answers: deque[tuple[int, object, dict[str, Offer] | Report]] = deque()

    def ask(self, key: object, question: Question, *, reports: bool = True) -> None:
        """Start computing; `key` comes back with the answers: the offers, then the report unless that isn't wanted."""
        self._newest += 1
        self._process.later(self._compute, self._newest, key, question, reports)

    def _compute(self, number: int, key: object, question: Question, reports: bool) -> None:
        if number != self._newest:
            return
        followed = None
        try:
            answer = self._process.call(_offers, question)
            followed = answer[FOLLOW].preparation
        except Cancelled:
            return
        except Exception as e:
            log.exception("A fit failed.")
            refusal = Offer(None, None, f"This fit failed ({type(e).__name__}). Try again.")
            answer = {STEADY: refusal, FOLLOW: refusal}
        self._answers.append((number, key, answer))
        if number != self._newest or not reports:
            return
        try:
            told = self._process.call(report, question, followed)
        except Cancelled:
            return
        except Exception as e:
            log.exception("Findings failed.")
            told = Report((Finding("failed", f"The findings failed ({type(e).__name__}). Change something to retry."),))
        self._answers.append((number, key, told))

    def poll(self) -> list[tuple[object, dict[str, Offer] | Report]]:
        """The answers to the newest question that came since the last call."""
        out = []
        while self._answers:
            number, key, answer = self._answers.popleft()
            if number == self._newest:
                out.append((key, answer))
        return out

    def close(self) -> None:
        """End the process."""
        self._newest += 1
        self._process.close()
