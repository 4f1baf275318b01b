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
from typing import Any, TypeVar

from .. import places
from ..core.errors import Cancelled, MervidError

T = TypeVar("T")
_PR_SET_PDEATHSIG = 1
"""Linux, prctl(2): be sent a signal when the parent ends."""
MOST_MEMORY = 4 << 30
"""Bytes of address space for a process that decodes; a recording of two hours takes a third."""
STALLED_S = 30.0
"""A decoder that hands on nothing for so long is taken to hang."""


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


def name_of(function: Callable[..., None]) -> str:
    """A function of a module as `begin` takes it."""
    return f"{function.__module__}:{function.__qualname__}"


def stalled_for() -> str:
    """What is said of a recording whose decoding got no further."""
    return f"Nothing came out of this recording for {STALLED_S:.0f} s: it may be damaged, or its disk doesn't answer."


def limit_memory() -> None:
    """Let this process have no more than `MOST_MEMORY`: what a broken file makes a decoder ask for is refused to it."""
    with contextlib.suppress(OSError, ValueError):
        resource.setrlimit(resource.RLIMIT_AS, (MOST_MEMORY, resource.getrlimit(resource.RLIMIT_AS)[1]))


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
        self._first = os.getpid(), name_of(initializer) if initializer else "", *initargs
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
            context = multiprocessing.get_context("spawn")
            self._executor = ProcessPoolExecutor(1, mp_context=context, initializer=begin, initargs=self._first)
        try:
            future = self._executor.submit(function, *args)
            return future.result() if pulse is None else self._watched(future, pulse)
        except BrokenProcessPool:
            self._executor = None
            if self._closed:
                raise Cancelled("Closed.") from None
            raise

    def _watched(self, future: Future[T], pulse: Callable[[], int]) -> T:
        count, since = pulse(), time.monotonic()
        while True:
            try:
                return future.result(timeout=0.5)
            except TimeoutError:
                if future.done():
                    raise
                now = pulse()
                if now != count:
                    count, since = now, time.monotonic()
                elif time.monotonic() - since > STALLED_S and not self._closed:
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
