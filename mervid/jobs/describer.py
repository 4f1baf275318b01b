"""What tracks are like that were heard before that was kept: worked out from their evidence, in a process."""

from __future__ import annotations

import contextlib
import logging
from collections import deque
from collections.abc import Sequence
from contextlib import closing
from pathlib import Path

from ..core.character.describe import Character, describe
from ..core.errors import Cancelled, MervidError
from ..core.form import phrase_edits
from ..store import facts
from ..store.library import Library
from .lifeline import OneProcess, limit_memory, step_back, taken

log = logging.getLogger(__name__)


def _start() -> None:
    limit_memory()
    step_back(15)


def describe_some(library: Path, ids: Sequence[int]) -> list[int]:
    """Work out and keep what these tracks are like; returns them."""
    with closing(Library(library)) as own:
        for number in ids:
            found = Character()
            try:
                kept = own.evidence(number, lesser=True)
                if kept is not None:
                    duration = own.track(number).duration
                    p = own.history(number).preparation
                    form = phrase_edits.form_of(p, kept[0], duration)
                    found = describe(kept[0], duration, p.grid, form)
            except MervidError as e:
                # what is damaged is told when the track is opened
                log.info("Track %d is not described: %s", number, e)
            with contextlib.suppress(MervidError):
                facts.set_character(own, number, found)
    return list(ids)


class Describer:
    """Describes one lot of tracks after the other."""

    def __init__(self, library: Path) -> None:
        self._library = library
        self._process = OneProcess("describer", initializer=_start)
        self._answers: deque[list[int]] = deque()
        self.busy = False

    def ask(self, ids: Sequence[int]) -> None:
        """Describe these tracks."""
        self.busy = True
        self._process.later(self._describe, list(ids))

    def _describe(self, ids: list[int]) -> None:
        try:
            self._answers.append(self._process.call(describe_some, self._library, ids))
        except Cancelled:
            return
        except Exception:
            log.exception("Tracks could not be described.")
            self._answers.append([])

    def poll(self) -> list[list[int]]:
        """What was described since the last call; an empty lot where it failed."""
        return taken(self._answers)

    def close(self) -> None:
        """End the process."""
        self._process.close()
