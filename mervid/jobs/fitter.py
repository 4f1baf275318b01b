"""Both fits of a preparation, in a process of their own: what one steady tempo and what following would achieve.

Fitting a long drummer takes up to some tenths of a second of Python, too much for the window's thread.
"""

from __future__ import annotations

import multiprocessing
from concurrent.futures import Future, ProcessPoolExecutor

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
            out[name] = Offer(made, summary_of(made, heard))
        except Refused as e:
            out[name] = Offer(None, None, str(e))
    return out


def summary_of(p: Preparation, heard: Heard) -> Summary | None:
    """What a preparation's grid achieves against what was heard."""
    if p.grid is None or not len(heard.times):
        return None
    return drift.summary(drift.trace(heard.times, p.grid, zones=p.mix_zones, tolerance=p.tolerance))


class Fitter:
    """Asks for offers and collects them; only the newest question counts."""

    def __init__(self) -> None:
        self._executor: ProcessPoolExecutor | None = None
        self._future: Future[dict[str, Offer]] | None = None
        self._key: object = None

    def ask(self, key: object, current: Preparation, heard: Heard) -> None:
        """Start computing; `key` comes back with the answer."""
        if self._executor is None:
            self._executor = ProcessPoolExecutor(1, mp_context=multiprocessing.get_context("spawn"))
        if self._future is not None:
            self._future.cancel()
        self._key = key
        try:
            self._future = self._executor.submit(offers, current, heard)
        except RuntimeError:
            # the process was killed: a new one for the next question
            self._executor, self._future = None, None

    def poll(self) -> tuple[object, dict[str, Offer]] | None:
        """The answer to the newest question, once."""
        if self._future is None or not self._future.done():
            return None
        future, self._future = self._future, None
        if future.cancelled():
            return None
        error = future.exception()
        if error is not None:
            self._executor = None
            refusal = Offer(None, None, f"This fit failed ({type(error).__name__}).")
            return self._key, {STEADY: refusal, FOLLOW: refusal}
        return self._key, future.result()

    def close(self) -> None:
        """End the process."""
        if self._executor is not None:
            processes = list((self._executor._processes or {}).values())
            self._executor.shutdown(wait=False, cancel_futures=True)
            for p in processes:
                p.terminate()
            self._executor = None
