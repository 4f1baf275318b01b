"""Jobs on worker processes: start, follow, cancel.

Workers are spawned, not forked (a fork would copy the window's threads and sockets), and start only when there is work.
A worker is handed one job at a time, so that what a person opens can go before thousands that wait.
The owner calls `poll` now and then; nothing here waits.
"""

from __future__ import annotations

import heapq
import itertools
import logging
import multiprocessing
import os
import queue as queues
from concurrent.futures import Future, ProcessPoolExecutor, ThreadPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from pathlib import Path
from typing import Any

from ..core.model.tempo_range import TempoRange
from . import lifeline
from .lifeline import STALLED_S, Silence, stalled_for
from .messages import BEGUN, DECODING, ENDS, Message

log = logging.getLogger(__name__)
SILENT_S = 600.0
"""A job that is past decoding and says nothing for so long is taken to hang."""
_BROKEN = "The worker process died while hearing this (out of memory?). Analyse it again to retry."


def workers_here() -> int:
    """As many workers as there are cores for this program, less one that stays with the window."""
    return max(1, len(os.sched_getaffinity(0)) - 1)


_Waiting = tuple[bool, int, int, tuple[Any, ...]]
"""A job in the queue: whether it is not urgent, its turn (no two are alike), its number, and what is to be called."""


class Pool:
    """Runs jobs, each named by a number the caller chose (the track's id).

    Starting processes can take some tenths of a second: a thread of its own does it, so that no caller waits.

    Parameters
    ----------
    workers : how many jobs run at once
    limit : bytes that the cache may take; None for the usual

    Attributes
    ----------
    allowed : so many jobs run at once from now on; those that run go on, more processes start when none runs
    held : jobs that are not urgent wait
    """

    def __init__(self, cache: Path, *, workers: int | None = None, limit: int | None = None) -> None:
        self._cache, self._limit = cache, limit
        self.allowed = workers or workers_here()
        self.held = False
        self._workers = self.allowed
        self._hand = ThreadPoolExecutor(1, thread_name_prefix="pool")
        self._queue: Any = None
        self._flags: Any = None
        self._executor: ProcessPoolExecutor | None = None
        self._heap: list[_Waiting] = []
        self._waiting: dict[int, _Waiting] = {}
        self._running: dict[int, int] = {}
        self._futures: dict[int, Future[None]] = {}
        self._calls: dict[int, _Waiting] = {}
        self._heard: dict[int, tuple[str, Silence]] = {}
        self._suspects: set[int] = set()
        self._free = list(range(self._workers))
        self._local: list[Message] = []
        self._count = itertools.count()

    def _start(self) -> ProcessPoolExecutor:
        if self._executor is None:
            # hearing is a lot to import, and the window's thread has no need of it
            from . import worker

            context = multiprocessing.get_context("spawn")
            queue, flags = context.Queue(), context.Array("b", self._workers, lock=False)
            self._executor = lifeline.processes(self._workers, worker.start, (queue, flags))
            self._queue, self._flags = queue, flags
        return self._executor

    @property
    def busy(self) -> bool:
        """Whether any job has not ended."""
        return bool(self._running or self._waiting)

    @property
    def processes(self) -> list[int]:
        """Process ids of the workers that run now."""
        return list(self._executor._processes or {}) if self._executor is not None else []

    def has(self, job: int) -> bool:
        """Whether `job` runs or waits."""
        return job in self._running or job in self._waiting

    def submit(self, job: int, path: Path, *, listen: bool = True, wanted: TempoRange | None = None) -> None:
        """Queue a recording; `listen=False` only decodes it into the cache.

        Parameters
        ----------
        wanted : the range in which its tempo is expected
        """
        self.call(job, "run", os.fsencode(path), str(self._cache), listen, wanted, self._limit)

    def call(self, job: int, function: str, *args: Any) -> None:
        """Queue `worker.FUNCTION(job, slot, *args)`."""
        if self.has(job):
            return
        self._wait((True, next(self._count), job, (function, *args)))
        self._feed()

    def _wait(self, entry: _Waiting) -> None:
        self._waiting[entry[2]] = entry
        heapq.heappush(self._heap, entry)

    def hurry(self, job: int) -> None:
        """Let a job that waits be the next."""
        entry = self._waiting.get(job)
        if entry is not None and entry[0]:
            # the entry that lies further back is passed over when its turn comes
            self._wait((False, -next(self._count), *entry[2:]))
            self._feed()

    def _feed(self) -> None:
        """Hand jobs to workers that are free."""
        if self.allowed > self._workers and not self._running:
            self._stop()
            self._workers = self.allowed
            self._free = list(range(self._workers))
        while self._free and self._heap and sum(slot >= 0 for slot in self._running.values()) < self.allowed:
            entry = heapq.heappop(self._heap)
            late, _, job, call = entry
            if self._waiting.get(job) is not entry:
                continue
            if self.held and late:
                heapq.heappush(self._heap, entry)
                return
            if self._suspects and self._running and (job in self._suspects or self._suspects & self._running.keys()):
                # one of these ended a worker: each is tried alone
                heapq.heappush(self._heap, entry)
                return
            del self._waiting[job]
            self._calls[job] = entry
            slot = self._running[job] = self._free.pop()
            self._hand.submit(self._hand_over, job, slot, call)

    def _hand_over(self, job: int, slot: int, call: tuple[Any, ...]) -> None:
        """In the hand's thread: start the workers if need be and give them the job."""
        try:
            executor = self._start()
            from . import worker

            self._flags[slot] = 0
            self._futures[slot] = executor.submit(getattr(worker, call[0]), job, slot, *call[1:])
        except (OSError, RuntimeError) as e:
            self._executor = None
            self._local.append(Message(job, "failed", f"No worker process could be started ({e})."))

    @property
    def waiting(self) -> list[int]:
        """The jobs that have not begun."""
        return list(self._waiting)

    @property
    def running(self) -> int:
        """How many jobs run."""
        return len(self._running)

    def drop(self, job: int) -> None:
        """Take a job that waits out of the queue, without a word: it is done otherwise."""
        self._waiting.pop(job, None)

    def cancel(self, job: int) -> None:
        """Take a job back: it ends with a 'cancelled' message, at once if it has not begun."""
        if self._waiting.pop(job, None) is not None:
            self._local.append(Message(job, "cancelled", ""))
            self._running[job] = -1
        elif job in self._running and self._running[job] >= 0:
            self._hand.submit(self._raise_flag, self._running[job])

    def _raise_flag(self, slot: int) -> None:
        """In the hand's thread, after the job was handed over."""
        if self._flags is not None:
            self._flags[slot] = 1

    def poll(self) -> list[Message]:
        """What the workers said since the last call."""
        said, self._local = self._local, []
        while self._queue is not None:
            try:
                said.append(Message(*self._queue.get_nowait()))
            except queues.Empty:
                break
        out = []
        for message in said:
            if message.kind == "trace":
                log.error("While hearing track %d: %s", message.job, message.payload)
            elif message.job in self._running:
                if message.kind == BEGUN:
                    self._heard[message.job] = "", Silence(message.payload)
                    continue
                if message.kind in ENDS:
                    self._end(message.job)
                else:
                    stage = message.payload[0] if message.kind == "progress" else ""
                    self._heard[message.job] = stage, Silence(self._heard[message.job][1].pid)
                out.append(message)
        out += self._broken() or self._stalled()
        self._feed()
        return out

    def _end(self, job: int) -> None:
        slot = self._running.pop(job)
        self._calls.pop(job, None)
        self._heard.pop(job, None)
        self._suspects.discard(job)
        if slot >= 0:
            self._futures.pop(slot, None)
            self._free.append(slot)

    def _broken(self) -> list[Message]:
        """A killed worker breaks all that run: the one that ran alone failed, of several each is tried again alone."""
        futures = [f for f in list(self._futures.values()) if f.done() and not f.cancelled()]
        if not any(isinstance(f.exception(), BrokenProcessPool) for f in futures):
            return []
        lost = [job for job, slot in self._running.items() if slot >= 0]
        if len(lost) == 1:
            return self._restart(lost, _BROKEN)
        self._restart([], "")
        self._suspects.update(lost)
        return []

    def _stalled(self) -> list[Message]:
        """A job that gets no further ends with its worker; the others begin anew."""
        limits = {DECODING: STALLED_S}
        stuck = [job for job, (stage, silence) in self._heard.items() if silence.lasts() > limits.get(stage, SILENT_S)]
        return self._restart(stuck, stalled_for()) if stuck else []

    def _restart(self, failed: list[int], why: str) -> list[Message]:
        """End all workers: `failed` is told so, what ran besides waits again."""
        ran = [self._calls[job] for job, slot in self._running.items() if slot >= 0]
        self._stop()
        for entry in ran:
            self._end(entry[2])
            if entry[2] not in failed:
                self._wait(entry)
        return [Message(job, "failed", why) for job in failed]

    def _stop(self, *, wait: bool = False) -> None:
        executor, self._executor = self._executor, None
        self._futures.clear()
        self._queue = None
        if executor is None:
            return
        for p in list((executor._processes or {}).values()):
            p.kill()
        # its own thread must be done before Python ends, which else may wake it through a pipe that is closed
        executor.shutdown(wait=wait, cancel_futures=True)

    def close(self) -> None:
        """End the workers without waiting for their jobs."""
        self._heap.clear()
        self._waiting.clear()
        self._hand.shutdown(wait=True, cancel_futures=True)
        self._stop(wait=True)
