"""Both fits of a preparation, in a process of their own: what one steady tempo and what following would achieve.

Fitting a long drummer takes up to some tenths of a second of Python, too much for the window's thread.
"""

from __future__ import annotations

import multiprocessing
from concurrent.futures import ProcessPoolExecutor, ThreadPoolExecutor

import attrs

from ..core import drift, preparation
from ..core.drift import Summary
from ..core.errors import Refused
from ..core.preparation import Preparation
from ..core.tracker import Heard

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
    for name, make in ((STEADY, preparation.make_steady), (FOLLOW, preparation.follow_recording)):
        try:
            made = make(attrs.evolve(current, readiness=preparation.DRAFT), heard)
            trace = preparation.trace_of(made, heard)
            out[name] = Offer(made, drift.summary(trace) if trace is not None else None)
        except Refused as e:
            out[name] = Offer(None, None, str(e))
    return out


class Fitter:
    """Asks for offers and collects them; only the newest question counts."""

    def __init__(self) -> None:
        # a thread starts the process and waits for it, so that no caller does
        self._hand = ThreadPoolExecutor(1, thread_name_prefix="fitter")
        self._executor: ProcessPoolExecutor | None = None
        self._newest = 0
        self._answer: tuple[int, object, dict[str, Offer]] | None = None

    def ask(self, key: object, current: Preparation, heard: Heard) -> None:
        """Start computing; `key` comes back with the answer."""
        self._newest += 1
        self._hand.submit(self._compute, self._newest, key, current, heard)

    def _compute(self, number: int, key: object, current: Preparation, heard: Heard) -> None:
        if number != self._newest:
            return
        try:
            if self._executor is None:
                self._executor = ProcessPoolExecutor(1, mp_context=multiprocessing.get_context("spawn"))
            answer = self._executor.submit(offers, current, heard).result()
        except Exception as e:
            self._executor = None
            refusal = Offer(None, None, f"This fit failed ({type(e).__name__}). Try again.")
            answer = {STEADY: refusal, FOLLOW: refusal}
        self._answer = (number, key, answer)

    def poll(self) -> tuple[object, dict[str, Offer]] | None:
        """The answer to the newest question, once."""
        answer, self._answer = self._answer, None
        return answer[1:] if answer is not None and answer[0] == self._newest else None

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
