"""Which sound a file holds, and how it lies beside what was heard before: asked of a process, so that nobody waits."""

from __future__ import annotations

import logging
import multiprocessing
import os
from collections import deque
from collections.abc import Callable
from concurrent.futures.process import BrokenProcessPool
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..core.errors import Cancelled, MervidError
from ..core.siblings import carry_over
from ..core.sound import decoding
from ..core.sound.decoding import Decoded
from . import lifeline
from .lifeline import OneProcess, taken
from .settled import settled

log = logging.getLogger(__name__)
_shared: dict[str, Any] = {}
Answer = Decoded | float | None | str
"""The sound of a file, an offset in s (None where there is none), or why there is no answer."""


def _start(pulse: Any) -> None:
    lifeline.limit_memory()
    _shared["pulse"] = pulse


def _count(part: float) -> None:
    _shared["pulse"].value += 1


def _identify(raw: bytes) -> Decoded:
    path = Path(os.fsdecode(raw))
    return settled(
        lambda: decoding.decode(decoding.probe(path), lambda block: None, progress=_count), lambda: _count(0.0)
    )


class Identifier:
    """Answers one question after the other; each comes back with the key it was asked under."""

    def __init__(self) -> None:
        self._pulse = multiprocessing.get_context("spawn").Value("q", 0, lock=False)
        self._process = OneProcess("identifier", initializer=_start, initargs=(self._pulse,))
        self._answers: deque[tuple[object, Answer]] = deque()

    def identify(self, key: object, path: Path) -> None:
        """Decode a file and tell its sound."""
        self._process.later(self._ask, key, _identify, os.fsencode(path))

    def offset(self, key: object, old: NDArray[np.uint8], new: NDArray[np.uint8]) -> None:
        """See `carry_over.offset`."""
        self._process.later(self._ask, key, carry_over.offset, old, new)

    def _call(self, function: Callable[..., Answer], *args: Any) -> Answer:
        return self._process.call(function, *args, pulse=lambda: int(self._pulse.value))

    def _ask(self, key: object, function: Callable[..., Answer], *args: Any) -> None:
        try:
            try:
                answer = self._call(function, *args)
            except BrokenProcessPool:
                # whatever ended the process, memory or a person, may be over
                answer = self._call(function, *args)
            self._answers.append((key, answer))
        except Cancelled:
            return
        except MervidError as e:
            self._answers.append((key, str(e)))
        except Exception as e:
            log.exception("A file could not be compared.")
            self._answers.append((key, f"The file can't be compared ({type(e).__name__})."))

    def poll(self) -> list[tuple[object, Answer]]:
        """The answers that came since the last call."""
        return taken(self._answers)

    def close(self) -> None:
        """End the process."""
        self._process.close()
