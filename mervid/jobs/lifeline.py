"""What every process of ours does first: tie its life to the window's, and leave a trace when it crashes."""

from __future__ import annotations

import contextlib
import ctypes
import faulthandler
import multiprocessing
import os
import pkgutil
import resource
import signal
import time
from collections import deque
from collections.abc import Callable
from concurrent.futures import Future, ProcessPoolExecutor, ThreadPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from pathlib import Path
from typing import Any, TypeVar

from .. import places
from ..core.errors import Cancelled, MervidError

T = TypeVar("T")
_PR_SET_PDEATHSIG = 1
"""Linux, prctl(2): be sent a signal when the parent ends."""
MOST_MEMORY = 5 << 28
"""Bytes of memory of its own for a process that decodes; the longest recording takes four fifths."""
MOST_SPACE = 4 << 30
"""Bytes of address space for it: files that are mapped count there, too."""
STALLED_S = 30.0
"""A decoder that hands on nothing for so long, though the machine let it, is taken to hang."""
_ASKED_S = 1.0
"""The kernel is asked no more often than this."""
_HELD = 0.9
"""The most of a silence that other work on the machine explains."""


def hold(parent: int) -> None:
    """Let this process end with `parent`, the window's process id, however that ends."""
    with contextlib.suppress(OSError, AttributeError):
        ctypes.CDLL(None, use_errno=True).prctl(_PR_SET_PDEATHSIG, signal.SIGKILL)
    if os.getppid() != parent:
        # it ended before the tie was made
        os._exit(1)
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    with contextlib.suppress(OSError):
        folder = places.state_folder()
        places.make_private(folder)
        faulthandler.enable(places.open_private(folder / "crashes.log", "ab"))


def begin(parent: int, then: str, *args: Any) -> None:
    """What a new process calls first: it is tied to `parent` before anything is imported that takes its time.

    Parameters
    ----------
    then : "module:function", called next with `args`; empty for nothing
    """
    hold(parent)
    if then:
        pkgutil.resolve_name(then)(*args)


def processes(count: int, first: Callable[..., None] | None, args: tuple[Any, ...]) -> ProcessPoolExecutor:
    """Up to `count` processes that are tied to this one, and then each call the function `first` of a module."""
    then = f"{first.__module__}:{first.__qualname__}" if first else ""
    context = multiprocessing.get_context("spawn")
    return ProcessPoolExecutor(count, mp_context=context, initializer=begin, initargs=(os.getpid(), then, *args))


def stalled_for() -> str:
    """What is said of a recording whose decoding got no further."""
    return f"Nothing came out of this recording for {STALLED_S:.0f} s: it may be damaged, or its disk doesn't answer."


def held_back(pid: int) -> float:
    """s for which a process and its children have stood ready to run while the machine did other work: proc(5)."""
    waited = 0
    for stat in Path("/proc").glob("[0-9]*/stat"):
        with contextlib.suppress(OSError, ValueError, IndexError):
            parent = int(stat.read_text().rsplit(")", 1)[1].split()[1])
            if pid in (parent, int(stat.parent.name)):
                waited += sum(int(p.read_text().split()[1]) for p in stat.parent.glob("task/*/schedstat"))
    return waited / 1e9


class Silence:
    """How long nothing has come from a process, less what other work on the machine held it back.

    A machine that is busy elsewhere lets a worker, which is polite, do next to nothing for minutes; it doesn't hang.
    """

    def __init__(self, pid: int) -> None:
        self.pid = pid
        self._since = self._asked = time.monotonic()
        self._before: float | None = None
        self._held = 0.0

    def lasts(self) -> float:
        """s of it so far."""
        now = time.monotonic()
        if now - self._asked > _ASKED_S:
            held, self._asked = held_back(self.pid), now
            if self._before is None:
                self._before = held
            self._held = max(self._held, held - self._before)
        waited = now - self._since
        return waited - min(self._held, _HELD * waited)


def limit_memory() -> None:
    """Let this process have no more than `MOST_MEMORY`: what a broken file makes a decoder ask for is refused to it."""
    with contextlib.suppress(OSError, ValueError):
        for kind, most in ((resource.RLIMIT_AS, MOST_SPACE), (resource.RLIMIT_DATA, MOST_MEMORY)):
            resource.setrlimit(kind, (most, resource.getrlimit(kind)[1]))


def step_back(by: int) -> None:
    """Let this process have what time others leave, by so much niceness: a courtesy, not a need."""
    with contextlib.suppress(OSError):
        os.nice(by)


def taken(answers: deque[T]) -> list[T]:
    """What a thread has put there since the last call."""
    out = []
    while answers:
        out.append(answers.popleft())
    return out


class OneProcess:
    """One process that is asked one thing after the other, and a thread that waits for it, so that no caller does."""

    def __init__(
        self, name: str, *, initializer: Callable[..., None] | None = None, initargs: tuple[Any, ...] = ()
    ) -> None:
        self._hand = ThreadPoolExecutor(1, thread_name_prefix=name)
        self._executor: ProcessPoolExecutor | None = None
        self._first = initializer, initargs
        self._closed = False

    def later(self, act: Callable[..., None], *args: Any) -> None:
        """Let the thread do something; from there, `call` the process."""
        self._hand.submit(act, *args)

    def call(self, function: Callable[..., T], *args: Any, pulse: Callable[[], int] | None = None) -> T:
        """Run a function in the process and wait; a process that died is started anew by the next call.

        Parameters
        ----------
        pulse : a count that rises while the function gets on; one that stands still for `STALLED_S` ends the process

        Raises
        ------
        Cancelled
            The process was closed meanwhile.
        MervidError
            It got no further.
        """
        if self._closed:
            raise Cancelled("Closed.")
        if self._executor is None:
            self._executor = processes(1, *self._first)
        try:
            future = self._executor.submit(function, *args)
            return future.result() if pulse is None else self._watched(future, pulse)
        except BrokenProcessPool:
            self._executor = None
            if self._closed:
                raise Cancelled("Closed.") from None
            raise

    def _watched(self, future: Future[T], pulse: Callable[[], int]) -> T:
        pids = list(self._executor._processes or {}) if self._executor is not None else []
        count, silence = pulse(), Silence(pids[0] if pids else -1)
        while True:
            try:
                return future.result(timeout=0.5)
            except TimeoutError:
                if future.done():
                    raise
                now = pulse()
                if now != count:
                    count, silence = now, Silence(silence.pid)
                elif silence.lasts() > STALLED_S and not self._closed:
                    self._kill()
                    raise MervidError(stalled_for()) from None

    def _kill(self) -> None:
        executor, self._executor = self._executor, None
        if executor is not None:
            for p in list((executor._processes or {}).values()):
                p.kill()
            executor.shutdown(wait=False, cancel_futures=True)

    def close(self) -> None:
        """End the process, whatever it does."""
        self._closed = True
        executor = self._executor
        if executor is not None:
            for p in list((executor._processes or {}).values()):
                p.terminate()
        self._hand.shutdown(wait=True, cancel_futures=True)
        if self._executor is not None:
            self._executor.shutdown(wait=False, cancel_futures=True)
