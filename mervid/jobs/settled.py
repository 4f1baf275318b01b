"""A file that is written to while it is read: what comes of it is neither what it was nor what it will be."""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import TypeVar

from ..core.errors import Changed

T = TypeVar("T")
SETTLES_S = (1.0, 3.0)
"""How long it is left alone before it is read again."""
TURN_S = 0.1
"""Who waits for it is told so often that it isn't forgotten."""


def settled(read: Callable[[], T], meanwhile: Callable[[], object]) -> T:
    """What `read` gives; a file that is written to meanwhile is read again once it has settled.

    Parameters
    ----------
    meanwhile : called every `TURN_S` while it is left alone; may raise to stop

    Raises
    ------
    Changed
        It is written to for longer than anybody would wait.
    """
    for pause in SETTLES_S:
        try:
            return read()
        except Changed:
            end = time.monotonic() + pause
            while time.monotonic() < end:
                time.sleep(TURN_S)
                meanwhile()
    return read()
