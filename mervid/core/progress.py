"""Telling how far a job is, when one job is made of several."""

from __future__ import annotations

from collections.abc import Callable

Progress = Callable[[float], None]


def within(progress: Progress, start: float, stop: float) -> Progress:
    """What a part of the job calls with its own share done, 0 to 1, so that the whole hears start to stop.

    Examples
    --------
    >>> within(print, 0.5, 1.0)(0.5)
    0.75
    """
    return lambda part: progress(start + part * (stop - start))
