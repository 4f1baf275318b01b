"""What a person set for the program, as it is kept between sessions."""

from __future__ import annotations

import json
from collections.abc import Mapping

from PyQt6.QtCore import QSettings

from ..jobs import pcm, pool

GIB = 1024**3


def own_keys() -> dict[str, str]:
    """A person's own keys by the id of the command; an empty one takes a key away."""
    try:
        kept = json.loads(str(QSettings().value("keys", "{}")))
    except ValueError:
        return {}
    return {str(k): str(v) for k, v in kept.items()} if isinstance(kept, dict) else {}


def set_own_keys(keys: Mapping[str, str]) -> None:
    """Keep a person's own keys."""
    QSettings().setValue("keys", json.dumps(dict(sorted(keys.items()))))


def workers() -> int:
    """How many recordings are heard at once: `workers`, or one less than there are cores."""
    return max(1, int(QSettings().value("workers", pool.workers_here(), int)))


def cache_bytes() -> int:
    """How large the decoded sound may grow on disk: `cache_gib`, or 4 GiB."""
    return int(float(QSettings().value("cache_gib", pcm.LIMIT / GIB, float)) * GIB)
