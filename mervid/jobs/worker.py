"""What runs inside a worker process. Imports no Qt and nothing of the window.

A worker tells its story through one queue: `(job, kind, payload)`, where kind is 'progress', 'decoded', 'done',
'failed', 'cancelled' or 'elsewhere' (another program hears it just now), and 'trace' for the log.
"""

from __future__ import annotations

import os
import time
import traceback
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import attrs

from ..core.character.describe import Character, describe
from ..core.cues.recipes import Recipe
from ..core.errors import Cancelled, MervidError
from ..core.findings.recommendation import recommend
from ..core.findings.report import Question, Report, report
from ..core.form import phrase_edits
from ..core.hearing import analysis, evidence
from ..core.model.preparation import Preparation
from ..core.model.tempo_range import TempoRange
from ..core.sound.decoding import Decoded
from ..core.sound.waveform import Waveform
from . import claim, lifeline, pcm
from . import prepare as preparing
from .messages import BEGUN, DECODING, ELSEWHERE, LISTENING
from .settled import settled


@attrs.frozen
class Done:
    """What a finished analysis hands over: evidence and waveform ready to be kept, and a first preparation."""

    heard: bytes
    waveform: bytes
    first: Preparation
    beats: int
    kind: str = ""
    doubts: int = 0
    problem: str = ""
    finding: str = ""
    character: Character = Character()


_queue: Any = None
_flags: Any = None
LONG = 1200.0
"""From so many seconds on, findings wait until a track is opened: fitting hours takes a minute."""
TELL_S = 0.1
"""Progress is told no more often than a person can read it."""


def start(queue: Any, flags: Any) -> None:
    """Called once in each new worker."""
    global _queue, _flags
    lifeline.limit_memory()
    _queue, _flags = queue, flags
    lifeline.step_back(10)


def teller(job: int, slot: int) -> Callable[[str, float], None]:
    """What tells the share done of each stage; raises `Cancelled` once the job is taken back."""
    say(job, BEGUN, os.getpid())
    last = [0.0]

    def tell(stage: str, part: float) -> None:
        if _flags[slot]:
            raise Cancelled("Taken back.")
        now = time.monotonic()
        if now - last[0] > TELL_S or part >= 1:
            last[0] = now
            _queue.put((job, "progress", (stage, part)))

    return tell


def say(job: int, kind: str, payload: object) -> None:
    """One step of a job's story."""
    _queue.put((job, kind, payload))


@contextmanager
def telling(job: int, what: str) -> Iterator[None]:
    """Whatever goes wrong inside is told as the end of the job, in words; its traceback goes to the log."""
    try:
        yield
    except Cancelled:
        say(job, "cancelled", "")
    except MervidError as e:
        say(job, "failed", str(e))
    except MemoryError:
        say(job, "failed", "There is not enough memory for this recording.")
    except Exception as e:
        say(job, "trace", traceback.format_exc())
        say(job, "failed", f"Something unforeseen went wrong while {what} this ({type(e).__name__}: {e}).")


def prepare(job: int, slot: int, raw_path: bytes, raw_out: bytes, recipe: Recipe | None) -> None:
    """Prepare one recording without a window; see `prepare.prepare`."""
    tell = teller(job, slot)
    with telling(job, "preparing"):
        tell(DECODING, 0.0)
        path, out = (Path(os.fsdecode(raw)) for raw in (raw_path, raw_out))
        done = settled(
            lambda: preparing.prepare(path, out, recipe, lambda p: tell(DECODING if p < 0.6 else LISTENING, p)),
            lambda: tell(DECODING, 0.0),
        )
        say(job, "done", done)


def run(
    job: int,
    slot: int,
    raw_path: bytes,
    cache: str,
    listen: bool,
    wanted: TempoRange | None = None,
    limit: int | None = None,
) -> None:
    """Decode one recording into the cache and, if `listen`, track its beats."""
    tell = teller(job, slot)
    with telling(job, "hearing"), claim.claimed(Path(cache), raw_path) as ours:
        if listen and not ours:
            say(job, ELSEWHERE, "")
            return
        tell(DECODING, 0.0)
        path = Path(os.fsdecode(raw_path))
        facts, waveform, heap = settled(lambda: _decode(path, Path(cache), limit, tell), lambda: tell(DECODING, 0.0))
        say(job, "decoded", (facts, waveform))
        if not listen:
            say(job, "done", None)
            return
        found = analysis.conclude(heap, damage=facts.damage, progress=lambda p: tell(LISTENING, p))
        first = recommend(found, facts.duration, wanted)
        told = Report()
        if facts.duration < LONG:
            told = report(Question(first, found, facts.duration, facts.delay_known, wanted))
        form = phrase_edits.form_of(first, found, facts.duration) if facts.duration < LONG else None
        done = Done(
            evidence.to_bytes(found),
            waveform.to_bytes(),
            first,
            len(found.heard.times),
            told.kind,
            told.doubts,
            found.problem,
            told.first_doubt,
            describe(found, facts.duration, first.grid, form),
        )
        say(job, "done", done)


def _decode(
    path: Path, cache: Path, limit: int | None, tell: Callable[[str, float], None]
) -> tuple[Decoded, Waveform, analysis.Heap]:
    """Decode into the cache; what was decoded of a recording that can't be read to its end is dropped."""
    writer = pcm.Writer(cache, limit)
    try:
        facts, waveform, heap = analysis.decode(path, writer.push, progress=lambda p: tell(DECODING, p))
        writer.keep(facts.identity)
    except BaseException:
        writer.drop()
        raise
    return facts, waveform, heap
