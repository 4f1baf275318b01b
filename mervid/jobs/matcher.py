"""How two recordings fit in time, worked out in a process of its own, so that the window never waits for it."""

from __future__ import annotations

import multiprocessing
from collections import deque
from concurrent.futures import ProcessPoolExecutor, ThreadPoolExecutor
from pathlib import Path

import attrs

from ..core.arrays import Samples
from ..core.errors import MervidError
from ..core.siblings import recording_match
from ..core.siblings.recording_match import Match
from ..core.sound import decoding
from . import pcm


@attrs.frozen
class Source:
    """Where a recording's sound is: in the cache under its identity, else in its file."""

    cache: Path
    identity: str
    frames: int
    rate: int
    path: Path


def _mono(source: Source) -> Samples:
    count = pcm.channels(source.cache, source.identity, source.frames)
    samples = pcm.load(source.cache, source.identity, count, source.frames) if count else None
    if samples is not None:
        return recording_match.mono(samples, source.rate)
    read, facts = decoding.read(source.path)
    return recording_match.mono(read, facts.rate)


def match(mine: Source, full: Source) -> Match | str:
    """How `mine` lies in `full`, or why it doesn't."""
    try:
        return recording_match.match(_mono(mine), _mono(full))
    except MervidError as e:
        return str(e)


class Matcher:
    """Asks for matches and collects them; only the newest question counts."""

    def __init__(self) -> None:
        # a thread starts the process and waits for it, so that no caller does
        self._hand = ThreadPoolExecutor(1, thread_name_prefix="matcher")
        self._executor: ProcessPoolExecutor | None = None
        self._newest = 0
        self._answers: deque[tuple[int, object, Match | str]] = deque()

    def ask(self, key: object, mine: Source, full: Source) -> None:
        """Start comparing; `key` comes back with the answer."""
        self._newest += 1
        self._hand.submit(self._compute, self._newest, key, mine, full)

    def _compute(self, number: int, key: object, mine: Source, full: Source) -> None:
        if number != self._newest:
            return
        try:
            if self._executor is None:
                self._executor = ProcessPoolExecutor(1, mp_context=multiprocessing.get_context("spawn"))
            answer = self._executor.submit(match, mine, full).result()
        except Exception as e:
            self._executor = None
            answer = f"The comparison failed ({type(e).__name__}). Try again."
        self._answers.append((number, key, answer))

    def forget(self) -> None:
        """Nobody waits for an answer any more."""
        self._newest += 1

    def poll(self) -> list[tuple[object, Match | str]]:
        """The answer to the newest question, if it came since the last call."""
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
