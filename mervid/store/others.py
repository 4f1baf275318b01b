"""Other programs on the same library: one says that it wrote, and a window that is open sees it.

The sign is the time of a file beside the library: looking at it costs nothing, and what this program's own threads
write doesn't touch it.
"""

from __future__ import annotations

import contextlib
import os
from pathlib import Path

from .. import places


def _mark(library: Path) -> Path:
    return library.with_name(f"{library.name}.others")


def announce(library: Path | None) -> None:
    """Let a window that is open on this library know that another program wrote to it."""
    if library is not None:
        with contextlib.suppress(OSError):
            places.make_private_file(_mark(library))
            os.utime(_mark(library))


def announced(library: Path | None) -> int:
    """When another program wrote to the library last, ns; 0 where none ever did."""
    try:
        return _mark(library).stat().st_mtime_ns if library is not None else 0
    except OSError:
        return 0
