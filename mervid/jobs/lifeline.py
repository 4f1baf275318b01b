"""What every process of ours does first: tie its life to the window's, and leave a trace when it crashes."""

from __future__ import annotations

import contextlib
import ctypes
import faulthandler
import multiprocessing
import os
import signal
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor, ThreadPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from typing import Any, TypeVar

from .. import places
from ..core.errors import Cancelled

T = TypeVar("T")
_PR_SET_PDEATHSIG = 1
"""Linux, prctl(2): be sent a signal when the parent ends."""


def hold(parent: int) -> None:
    """Called first in a new process: it ends with `parent`, the window's process id, however that ends."""
    with contextlib.suppress(OSError, AttributeError):
        ctypes.CDLL(None, use_errno=True).prctl(_PR_SET_PDEATHSIG, signal.SIGKILL)
    if os.getppid() != parent:
        # it ended before the tie was made
        os._exit(1)
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    with contextlib.suppress(OSError):
        folder = places.state_folder()
        folder.mkdir(parents=True, exist_ok=True)
        faulthandler.enable((folder / "crashes.log").open("a"))


class OneProcess:
    """One process that is asked one thing after the other, and a thread that waits for it, so that no caller does."""

    def __init__(self, name: str, *, initializer: Callable[..., None] = hold, initargs: tuple[Any, ...] = ()) -> None:
        self._hand = ThreadPoolExecutor(1, thread_name_prefix=name)
        self._executor: ProcessPoolExecutor | None = None
        self._first = initializer, (os.getpid(), *initargs)
        self._closed = False

    def later(self, act: Callable[..., None], *args: Any) -> None:
        """Let the thread do something; from there, `call` the process."""
        self._hand.submit(act, *args)

    def call(self, function: Callable[..., T], *args: Any) -> T:
        """Run a function in the process and wait; a process that died is started anew by the next call.

        Raises
        ------
        Cancelled
            The process was closed meanwhile.
        """
        if self._closed:
            raise Cancelled("Closed.")
        if self._executor is None:
            context = multiprocessing.get_context("spawn")
            first, args_of_first = self._first
            self._executor = ProcessPoolExecutor(1, mp_context=context, initializer=first, initargs=args_of_first)
        try:
            return self._executor.submit(function, *args).result()
        except BrokenProcessPool:
            self._executor = None
            if self._closed:
                raise Cancelled("Closed.") from None
            raise

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
