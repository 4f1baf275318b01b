"""How two recordings fit in time, worked out in a process of its own, so that the window never waits for it."""

from __future__ import annotations

import logging
from collections import deque
from pathlib import Path

import attrs

from ..core.arrays import Samples
from ..core.errors import Cancelled, MervidError
from ..core.siblings import recording_match, stretch_search
from ..core.siblings.recording_match import Match
from ..core.sound import decoding
from ..core.sound.decoding import floats
from . import pcm
from .lifeline import OneProcess

log = logging.getLogger(__name__)


@attrs.frozen
class Source:
    """Where a recording's sound is: in the cache under its identity, else in its file."""

    cache: Path
    identity: str
    frames: int
    rate: int
    path: Path


def _mono(source: Source) -> Samples:
    samples = pcm.load(source.cache, source.identity, source.frames)
    if samples is not None:
        return stretch_search.mono(floats(samples), source.rate)
    read, facts = decoding.read(source.path)
    return stretch_search.mono(read, facts.rate)


def match(mine: Source, full: Source) -> Match | str:
    """How `mine` lies in `full`, or why it doesn't."""
    try:
        return recording_match.match(_mono(mine), _mono(full))
    except MervidError as e:
        return str(e)


class Matcher:
    """Asks for matches and collects them; only the newest question counts."""

    def __init__(self) -> None:
        self._process = OneProcess("matcher")
        self._newest = 0
        self._answers: deque[tuple[int, object, Match | str]] = deque()

    def ask(self, key: object, mine: Source, full: Source) -> None:
        """Start comparing; `key` comes back with the answer."""
        self._newest += 1
        self._process.later(self._compute, self._newest, key, mine, full)

    def _compute(self, number: int, key: object, mine: Source, full: Source) -> None:
        if number != self._newest:
            return
        try:
            answer = self._process.call(match, mine, full)
        except Cancelled:
            return
        except Exception as e:
            log.exception("A comparison failed.")
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
        self._process.close()
