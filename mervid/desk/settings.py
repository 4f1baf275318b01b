"""What a person set for the program, as it is kept between sessions."""

from __future__ import annotations

from PyQt6.QtCore import QSettings

from ..jobs import pcm, pool

GIB = 1024**3


def workers() -> int:
    """How many recordings are heard at once: `workers`, or one less than there are cores."""
    return max(1, int(QSettings().value("workers", pool.workers_here(), int)))


def cache_bytes() -> int:
    """How large the decoded sound may grow on disk: `cache_gib`, or 4 GiB."""
    return int(float(QSettings().value("cache_gib", pcm.LIMIT / GIB, float)) * GIB)
