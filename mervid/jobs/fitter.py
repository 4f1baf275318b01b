"""What a track could be and what is odd about it, worked out in a process of its own.

First both fits (one steady tempo, following), then the findings and the second opinions. A long drummer takes up to
some tenths of a second of Python, too much for the window's thread.
"""

from __future__ import annotations

import multiprocessing
from collections import deque
from concurrent.futures import ProcessPoolExecutor, ThreadPoolExecutor

import attrs

from ..core.edits import grid_edits
from ..core.edits.listening_edits import heard_of
from ..core.errors import Refused
from ..core.findings.report import Question, Report, report
from ..core.findings.study import Finding
from ..core.fitting import drift
from ..core.fitting.drift import Summary
from ..core.hearing.heard import Heard
from ..core.model import preparation
from ..core.model.preparation import Preparation

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
        # a thread starts the process and waits for it, so that no caller does
        self._hand = ThreadPoolExecutor(1, thread_name_prefix="fitter")
        self._executor: ProcessPoolExecutor | None = None
        self._newest = 0
        self._answers: deque[tuple[int, object, dict[str, Offer] | Report]] = deque()

    def ask(self, key: object, question: Question, *, reports: bool = True) -> None:
        """Start computing; `key` comes back with the answers: the offers, then the report unless that isn't wanted."""
        self._newest += 1
        self._hand.submit(self._compute, self._newest, key, question, reports)

    def _process(self) -> ProcessPoolExecutor:
        if self._executor is None:
            self._executor = ProcessPoolExecutor(1, mp_context=multiprocessing.get_context("spawn"))
        return self._executor

    def _compute(self, number: int, key: object, question: Question, reports: bool) -> None:
        if number != self._newest:
            return
        followed = None
        try:
            answer = self._process().submit(_offers, question).result()
            followed = answer[FOLLOW].preparation
        except Exception as e:
            self._executor = None
            refusal = Offer(None, None, f"This fit failed ({type(e).__name__}). Try again.")
            answer = {STEADY: refusal, FOLLOW: refusal}
        self._answers.append((number, key, answer))
        if number != self._newest or not reports:
            return
        try:
            told = self._process().submit(report, question, followed).result()
        except Exception as e:
            self._executor = None
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
        executor = self._executor
        if executor is not None:
            for p in list((executor._processes or {}).values()):
                p.terminate()
        self._hand.shutdown(wait=True, cancel_futures=True)
        if self._executor is not None:
            self._executor.shutdown(wait=False, cancel_futures=True)
