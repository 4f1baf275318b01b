"""Jobs on two worker processes: start, follow, cancel.

Workers are spawned, not forked (a fork would copy the window's threads and sockets), and start only when there is work.
The owner calls `poll` now and then; nothing here waits.
"""

from __future__ import annotations

import multiprocessing
import os
import queue as queues
from concurrent.futures import Future, ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from pathlib import Path
from typing import Any

import attrs

from . import pcm, worker

WORKERS = 2
_SLOTS = 4096
_BROKEN = "The worker process died while hearing this (out of memory?). Analyse it again to retry."


@attrs.frozen
class Message:
    """One step in a job's story; see `worker`."""

    job: int
    kind: str
    payload: Any


class Pool:
    """Runs analysis jobs, each named by a number the caller chose (the track's id)."""

    def __init__(self, cache: Path, *, workers: int = WORKERS) -> None:
        self._cache = cache
        self._workers = workers
        self._context = multiprocessing.get_context("spawn")
        self._queue: Any = None
        self._flags: Any = None
        self._executor: ProcessPoolExecutor | None = None
        self._jobs: dict[int, tuple[int, Future[None]]] = {}
        self._next_slot = 0

    def _start(self) -> ProcessPoolExecutor:
        if self._executor is None:
            # one thread a worker: two workers must not fight over two cores
            for name in ("OMP_NUM_THREADS", "OPENBLAS_NUM_THREADS"):
                os.environ.setdefault(name, "1")
            pcm.clear_unfinished(self._cache)
            self._queue = self._context.Queue()
            self._flags = self._context.Array("b", _SLOTS, lock=False)
            self._executor = ProcessPoolExecutor(
                self._workers, mp_context=self._context, initializer=worker.start, initargs=(self._queue, self._flags)
            )
        return self._executor

    @property
    def busy(self) -> bool:
        """Whether any job has not ended."""
        return bool(self._jobs)

    def has(self, job: int) -> bool:
        """Whether `job` runs or waits."""
        return job in self._jobs

    def submit(self, job: int, path: Path, *, listen: bool = True) -> None:
        """Queue a recording; `listen=False` only decodes it into the cache."""
        executor = self._start()
        slot = self._next_slot = (self._next_slot + 1) % _SLOTS
        self._flags[slot] = 0
        future = executor.submit(worker.run, job, slot, os.fsencode(path), str(self._cache), listen)
        self._jobs[job] = (slot, future)

    def cancel(self, job: int) -> None:
        """Take a job back: it ends with a 'cancelled' message, at once if it has not begun."""
        if job in self._jobs:
            slot, future = self._jobs[job]
            self._flags[slot] = 1
            if future.cancel():
                self._queue.put((job, "cancelled", ""))

    def poll(self) -> list[Message]:
        """What the workers said since the last call."""
        out: list[Message] = []
        if self._queue is None:
            return out
        while True:
            try:
                message = Message(*self._queue.get_nowait())
            except queues.Empty:
                break
            if message.job not in self._jobs:
                continue
            if message.kind in {"done", "failed", "cancelled"}:
                del self._jobs[message.job]
            out.append(message)
        broken = [
            job
            for job, (_, future) in self._jobs.items()
            if future.done() and not future.cancelled() and isinstance(future.exception(), BrokenProcessPool)
        ]
        if broken:
            # a killed worker breaks the whole pool: say so for each job, and start afresh on the next
            self.close()
            out += [Message(job, "failed", _BROKEN) for job in broken]
        return out

    def close(self) -> None:
        """End the workers without waiting for their jobs."""
        if self._executor is None:
            return
        for slot, future in self._jobs.values():
            self._flags[slot] = 1
            future.cancel()
        executor, self._executor = self._executor, None
        processes = list((executor._processes or {}).values())
        executor.shutdown(wait=False, cancel_futures=True)
        for p in processes:
            p.join(0.5)
            if p.is_alive():
                p.terminate()
        self._jobs.clear()
        self._queue = None
