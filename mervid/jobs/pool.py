"""Jobs on two worker processes: start, follow, cancel.

Workers are spawned, not forked (a fork would copy the window's threads and sockets), and start only when there is work.
The owner calls `poll` now and then; nothing here waits.
"""

from __future__ import annotations

import multiprocessing
import os
import queue as queues
from concurrent.futures import Future, ProcessPoolExecutor, ThreadPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from pathlib import Path
from typing import Any

import attrs

from ..core.model.tempo_range import TempoRange
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
    """Runs analysis jobs, each named by a number the caller chose (the track's id).

    Starting processes can take some tenths of a second: a thread of its own does it, so that no caller waits.
    """

    def __init__(self, cache: Path, *, workers: int = WORKERS) -> None:
        self._cache = cache
        self._workers = workers
        self._hand = ThreadPoolExecutor(1, thread_name_prefix="pool")
        self._queue: Any = None
        self._flags: Any = None
        self._executor: ProcessPoolExecutor | None = None
        self._jobs: dict[int, int] = {}
        self._futures: dict[int, Future[None]] = {}
        self._taken_back: set[int] = set()
        self._local: list[Message] = []
        self._next_slot = 0

    def _start(self) -> ProcessPoolExecutor:
        if self._executor is None:
            # one thread a worker: two workers must not fight over two cores
            for name in ("OMP_NUM_THREADS", "OPENBLAS_NUM_THREADS"):
                os.environ.setdefault(name, "1")
            pcm.clear_unfinished(self._cache)
            context = multiprocessing.get_context("spawn")
            queue, flags = context.Queue(), context.Array("b", _SLOTS, lock=False)
            self._executor = ProcessPoolExecutor(
                self._workers, mp_context=context, initializer=worker.start, initargs=(queue, flags)
            )
            self._queue, self._flags = queue, flags
        return self._executor

    @property
    def busy(self) -> bool:
        """Whether any job has not ended."""
        return bool(self._jobs)

    @property
    def processes(self) -> list[int]:
        """Process ids of the workers that run now."""
        return list(self._executor._processes or {}) if self._executor is not None else []

    def has(self, job: int) -> bool:
        """Whether `job` runs or waits."""
        return job in self._jobs

    def submit(self, job: int, path: Path, *, listen: bool = True, wanted: TempoRange | None = None) -> None:
        """Queue a recording; `listen=False` only decodes it into the cache.

        Parameters
        ----------
        wanted : the range in which its tempo is expected
        """
        slot = self._next_slot = (self._next_slot + 1) % _SLOTS
        self._jobs[job] = slot
        self._taken_back.discard(slot)
        self._hand.submit(self._hand_over, job, slot, os.fsencode(path), listen, wanted)

    def _hand_over(self, job: int, slot: int, path: bytes, listen: bool, wanted: TempoRange | None) -> None:
        """In the hand's thread: start the workers if need be and give them the job."""
        try:
            if slot in self._taken_back:
                self._local.append(Message(job, "cancelled", ""))
                return
            executor = self._start()
            self._flags[slot] = 0
            self._futures[slot] = executor.submit(worker.run, job, slot, path, str(self._cache), listen, wanted)
        except (OSError, RuntimeError) as e:
            self._executor = None
            self._local.append(Message(job, "failed", f"No worker process could be started ({e})."))

    def cancel(self, job: int) -> None:
        """Take a job back: it ends with a 'cancelled' message, at once if it has not begun."""
        slot = self._jobs.get(job)
        if slot is None:
            return
        self._taken_back.add(slot)
        future = self._futures.get(slot)
        if future is not None:
            self._flags[slot] = 1
            if future.cancel():
                self._local.append(Message(job, "cancelled", ""))

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
            slot = self._jobs.get(message.job)
            if slot is None:
                continue
            if message.kind in {"done", "failed", "cancelled"}:
                del self._jobs[message.job]
                self._futures.pop(slot, None)
            out.append(message)
        return out + self._broken()

    def _broken(self) -> list[Message]:
        """A killed worker breaks the whole pool: say so for each job, and start afresh on the next."""
        futures = [f for f in list(self._futures.values()) if f.done() and not f.cancelled()]
        if not any(isinstance(f.exception(), BrokenProcessPool) for f in futures):
            return []
        lost = list(self._jobs)
        self._stop()
        return [Message(job, "failed", _BROKEN) for job in lost]

    def _stop(self) -> None:
        for slot, future in list(self._futures.items()):
            if self._flags is not None:
                self._flags[slot] = 1
            future.cancel()
        executor, self._executor = self._executor, None
        self._jobs.clear()
        self._futures.clear()
        self._queue = None
        if executor is None:
            return
        processes = list((executor._processes or {}).values())
        executor.shutdown(wait=False, cancel_futures=True)
        for p in processes:
            p.join(0.5)
            if p.is_alive():
                p.terminate()

    def close(self) -> None:
        """End the workers without waiting for their jobs."""
        self._taken_back |= set(self._jobs.values())
        self._hand.shutdown(wait=True, cancel_futures=True)
        self._stop()
