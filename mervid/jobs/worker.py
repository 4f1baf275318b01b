"""What runs inside a worker process. Imports no Qt and nothing of the window.

A worker tells its story through one queue: `(job, kind, payload)`, where kind is 'progress', 'decoded', 'done',
'failed' or 'cancelled'.
"""

from __future__ import annotations

import contextlib
import os
import threading
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import attrs

from ..core.edits import listening_edits
from ..core.errors import Cancelled, MervidError
from ..core.findings.report import Question, Report, report
from ..core.hearing import analysis, evidence
from ..core.model.preparation import Preparation
from ..core.model.tempo_range import TempoRange
from . import pcm


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


_queue: Any = None
_flags: Any = None
DECODING, LISTENING = "decoding", "listening"
LONG = 1200.0
"""From so many seconds on, findings wait until a track is opened: fitting hours takes a minute."""


def start(queue: Any, flags: Any) -> None:
    """Called once in each new worker."""
    global _queue, _flags
    _queue, _flags = queue, flags
    threading.Thread(target=_leave_with_parent, args=(os.getppid(),), daemon=True).start()
    # being nice is a courtesy, not a need
    with contextlib.suppress(OSError):
        os.nice(10)


def _leave_with_parent(parent: int) -> None:
    """A window that is killed can't end its workers: they end themselves."""
    while os.getppid() == parent:
        time.sleep(1.0)
    os._exit(1)


def _teller(job: int, slot: int) -> Callable[[str, float], None]:
    last = [0.0]

    def tell(stage: str, part: float) -> None:
        if _flags[slot]:
            raise Cancelled("Taken back.")
        now = time.monotonic()
        if now - last[0] > 0.1 or part >= 1:
            last[0] = now
            _queue.put((job, "progress", (stage, part)))

    return tell


def run(job: int, slot: int, raw_path: bytes, cache: str, listen: bool, wanted: TempoRange | None = None) -> None:
    """Decode one recording into the cache and, if `listen`, track its beats."""
    tell = _teller(job, slot)
    writer = None
    try:
        tell(DECODING, 0.0)
        writer = pcm.Writer(Path(cache))
        facts, waveform, heap = analysis.decode(
            Path(os.fsdecode(raw_path)), writer.push, progress=lambda p: tell(DECODING, p)
        )
        writer.keep(facts.identity)
        writer = None
        _queue.put((job, "decoded", (facts, waveform)))
        if listen:
            found = analysis.conclude(heap, progress=lambda p: tell(LISTENING, p))
            first = listening_edits.propose(found, facts.duration, wanted)
            told = Report()
            if facts.duration < LONG:
                told = report(Question(first, found, facts.duration, facts.delay_known, wanted))
            beats = len(found.heard.times)
            done = Done(
                evidence.to_bytes(found), waveform.to_bytes(), first, beats, told.kind, told.doubts, found.problem
            )
            _queue.put((job, "done", done))
        else:
            _queue.put((job, "done", None))
    except Cancelled:
        _queue.put((job, "cancelled", ""))
    except MervidError as e:
        _queue.put((job, "failed", str(e)))
    except MemoryError:
        _queue.put((job, "failed", "There is not enough memory for this recording."))
    except Exception as e:
        _queue.put((job, "failed", f"Something unforeseen went wrong while hearing this ({type(e).__name__}: {e})."))
    finally:
        if writer is not None:
            writer.drop()
