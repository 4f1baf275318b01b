"""One row of the library's table of tracks, as a value."""

from __future__ import annotations

import os
from pathlib import Path
from typing import Any

import attrs

from ..core.sound.names import shown

WAITING, READY, FAILED = "waiting", "ready", "failed"


@attrs.frozen
class Track:
    """One row of the track list. `readiness`, tempi (BPM) and `cues` are those of the preparation in force.

    `size` in bytes and `changed_ns` are those of the file when it was read; 0 where that isn't known.
    """

    id: int
    path: Path
    title: str
    state: str
    message: str
    identity: str
    rate: int
    frames: int
    delay_known: bool
    head: int
    kind: str = ""
    doubts: int = 0
    readiness: str = ""
    tempo_low: float | None = None
    tempo_high: float | None = None
    cues: int = 0
    size: int = 0
    changed_ns: int = 0

    @property
    def duration(self) -> float:
        """Length in s; 0 until decoded."""
        return self.frames / self.rate if self.rate else 0.0


COLUMNS = ", ".join(f.name for f in attrs.fields(Track))


def of_row(row: tuple[Any, ...]) -> Track:
    """The value of a row of `COLUMNS`."""
    number, path, title, state, message, identity, rate, frames, delay_known, *rest = row
    there = Path(os.fsdecode(path))
    return Track(number, there, title, state, message, identity, rate, frames, bool(delay_known), *rest)


def title_of(path: Path) -> str:
    """A file's name without its ending, fit for the screen."""
    return os.path.splitext(shown(path))[0]
