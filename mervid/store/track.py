"""One row of the library's table of tracks, as a value."""

from __future__ import annotations

import os
from pathlib import Path
from typing import Any

import attrs

from ..core.sound.names import shown
from .file_paths import path_of

LONGEST = 300
"""Letters of a title that are shown anywhere; all of it is kept."""
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
    artists: str = ""
    album: str = ""
    genre: str = ""
    year: int = 0
    label: str = ""
    rating: int = 0
    comment: str = ""
    format: str = ""
    bitrate: int = 0
    lossless: bool = attrs.field(default=False, converter=bool)
    gone: bool = attrs.field(default=False, converter=bool)
    out: float = 0.0
    cover: str = ""
    key: str = ""
    key_chance: float = 0.0
    second: str = ""
    second_chance: float = 0.0
    own_key: str = ""
    drive: float | None = None
    course: bytes | None = None
    lufs: float | None = None
    true_peak: float | None = None
    form: str = ""
    finding: str = ""
    roles: str = ""
    copy: int = 0
    added: float = 0.0
    changed: float = 0.0
    played: float = 0.0
    seconds: float = 0.0

    @property
    def known_key(self) -> tuple[str, float] | None:
        """The key and its probability, 1 where a person set it; None where it is not known."""
        return (self.key, 1.0 if self.own_key else self.key_chance) if self.key else None

    @property
    def duration(self) -> float:
        """Length in s; 0 until decoded."""
        return self.frames / self.rate if self.rate else 0.0


COLUMNS = ", ".join(f.name for f in attrs.fields(Track))


def of_row(row: tuple[Any, ...]) -> Track:
    """The value of a row of `COLUMNS`."""
    number, path, title, state, message, identity, rate, frames, delay_known, *rest = row
    there = path_of(path)
    return Track(number, there, title[:LONGEST], state, message, identity, rate, frames, bool(delay_known), *rest)


def format_of(path: Path) -> str:
    """The format as it is shown, by the file's ending: 'FLAC'."""
    ending = path.suffix[1:].upper()
    return {"AIF": "AIFF", "AIFC": "AIFF", "OGA": "OGG", "MP4": "M4A"}.get(ending, ending)


def title_of(path: Path) -> str:
    """A file's name without its ending, fit for the screen."""
    return os.path.splitext(shown(path))[0]
