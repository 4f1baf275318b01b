"""Work spread over processes, for training and benches: it ends with an error when a process dies, and never waits."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterable, Iterator
from concurrent.futures import ProcessPoolExecutor
from itertools import islice
from multiprocessing import get_context
from typing import TypeVar

T = TypeVar("T")
R = TypeVar("R")
ONE_THREAD = ("OPENBLAS_NUM_THREADS", "OMP_NUM_THREADS")


def spread(
    work: Callable[[T], R], items: Iterable[T], *, processes: int = 2, most_each: int | None = None
) -> Iterator[R]:
    """Results of `work` in the order of `items`, from fresh processes that compute on one thread each.

    Parameters
    ----------
    most_each : a process is replaced after so many items, for work that gathers memory

    Raises
    ------
    concurrent.futures.process.BrokenProcessPool
        A process died.
    """
    # processes read it when they start
    os.environ |= dict.fromkeys(ONE_THREAD, "1")
    waiting = iter(items)
    # fresh pools, not max_tasks_per_child: with that, Python 3.11 can wait for ever for its own processes
    while part := list(islice(waiting, most_each and most_each * processes)):
        with ProcessPoolExecutor(processes, mp_context=get_context("spawn")) as pool:
            yield from pool.map(work, part)
