"""The sound of a recording that was heard before and isn't in the cache any more: decoded again, and played meanwhile.

In a process of its own, so that no queue of analyses holds it up. It decodes many times faster than music runs, into a
file that is mapped from the beginning: what the playhead comes to is there by then.
"""

from __future__ import annotations

import multiprocessing
import os
from collections import deque
from pathlib import Path
from typing import Any

import attrs
import numpy as np

from .. import places
from ..core.arrays import Samples
from ..core.errors import Cancelled, MervidError
from ..core.sound import decoding
from ..core.sound.decoding import Decoded
from ..core.sound.names import shown
from . import lifeline, pcm
from .lifeline import OneProcess


@attrs.frozen
class Begun:
    """The sound fills up in a file of float32 (frames, channels); what is not there yet is silent."""

    path: Path
    frames: int
    channels: int

    def samples(self) -> Samples:
        """The file as a read-only memory map."""
        return np.memmap(self.path, np.float32, "r", shape=(self.frames, self.channels))


_shared: dict[str, Any] = {}
"""In the process: the number of the newest question, which the window counts up, and the blocks it has decoded."""


def _start(newest: Any, pulse: Any) -> None:
    lifeline.limit_memory()
    _shared["newest"], _shared["pulse"] = newest, pulse


def _begin(path: Path, cache: Path, frames: int) -> Begun:
    """Make room for the sound."""
    source = decoding.probe(path)
    channels = min(2, source.channels)
    part = cache / "pcm" / f"writing-{os.getpid()}-open.part"
    try:
        places.make_private(cache)
        places.make_private(part.parent)
        part.unlink(missing_ok=True)
        with places.open_private(part, "wb") as f:
            f.truncate(frames * channels * 4)
    except OSError as e:
        raise MervidError(f"There is no room for the sound of {shown(path)}: {e.strerror or e}.") from None
    return Begun(part, frames, channels)


def _fill(path: Path, cache: Path, begun: Begun, number: int, limit: int | None) -> Decoded:
    """Decode into the file and into the cache."""
    writer = pcm.Writer(cache, limit)
    at = 0

    def take(block: Samples) -> None:
        nonlocal at
        _shared["pulse"].value += 1
        if _shared["newest"].value != number:
            raise Cancelled("Another track was opened.")
        writer.push(block)
        room = min(len(block), begun.frames - at)
        if room > 0 and block.shape[1] == begun.channels:
            mapped.write(block[:room].tobytes())
            mapped.flush()
        at += len(block)

    kept = False
    try:
        with begun.path.open("r+b") as mapped:
            facts = decoding.decode(decoding.probe(path), take)
        writer.keep(facts.identity)
        kept = True
        return facts
    finally:
        # what the window has mapped stays until it lets go
        begun.path.unlink(missing_ok=True)
        if not kept:
            writer.drop()


class SoundLoader:
    """Asks for the sound of one recording after the other; only the newest question is answered to its end."""

    def __init__(self, cache: Path, *, limit: int | None = None) -> None:
        self._cache, self._limit = cache, limit
        context = multiprocessing.get_context("spawn")
        self._newest = context.Value("q", 0, lock=False)
        self._pulse = context.Value("q", 0, lock=False)
        self._process = OneProcess("sound", initializer=_start, initargs=(self._newest, self._pulse))
        self._answers: deque[tuple[int, object, Begun | Decoded | str]] = deque()

    def ask(self, key: object, path: Path, frames: int) -> None:
        """Begin to load; `key` comes back with the answers: `Begun`, then `Decoded`, or why it can't be had."""
        self._newest.value += 1
        self._process.later(self._load, self._newest.value, key, path, frames)

    def forget(self) -> None:
        """Nobody waits for an answer any more."""
        self._newest.value += 1

    def _load(self, number: int, key: object, path: Path, frames: int) -> None:
        if number != self._newest.value:
            return
        try:
            begun = self._process.call(_begin, path, self._cache, frames)
            self._answers.append((number, key, begun))
            whole = self._process.call(
                _fill, path, self._cache, begun, number, self._limit, pulse=lambda: int(self._pulse.value)
            )
            self._answers.append((number, key, whole))
        except Cancelled:
            return
        except MervidError as e:
            self._answers.append((number, key, str(e)))
        except Exception as e:
            self._answers.append((number, key, f"The sound can't be loaded ({type(e).__name__}). Open it again."))

    def poll(self) -> list[tuple[object, Begun | Decoded | str]]:
        """The answers to the newest question that came since the last call."""
        out: list[tuple[object, Begun | Decoded | str]] = []
        while self._answers:
            number, key, answer = self._answers.popleft()
            if number == self._newest.value:
                out.append((key, answer))
        return out

    def close(self) -> None:
        """End the process."""
        self.forget()
        self._process.close()
