"""What a person set for the program, as it is kept between sessions: one function to read each, one to set it."""

from __future__ import annotations

import json
import math
from collections.abc import Mapping
from typing import Any

from PyQt6.QtCore import QSettings

from ..core.errors import Refused
from ..core.model import tempo_range
from ..core.model.tempo_range import TempoRange
from ..core.model.tolerance import LOOSE_MS, TIGHT_MS, Tolerance
from ..jobs import pcm, pool

GIB = 1024**3
DESKTOP, DAY, NIGHT = "desktop", "day", "night"
LOOKS = (DESKTOP, DAY, NIGHT)
USUAL_SIZE = 100
SIZES = (80, 90, 100, 110, 120, 130, 140)
"""Per cent: text of 8 to 14 pt."""
BUFFERS_MS = (60, 120, 250)
DELAYS_MS = (0.0, 500.0)
TOLERANCES_MS = (1.0, 100.0)


def _float(key: str, usual: float, low: float, high: float) -> float:
    """A number within its limits, whatever stands in the file."""
    try:
        value = float(QSettings().value(key, usual))
    except (TypeError, ValueError):
        return usual
    return min(max(value, low), high) if math.isfinite(value) else usual


def _json(key: str, usual: Any) -> Any:
    try:
        return json.loads(str(QSettings().value(key, json.dumps(usual))))
    except ValueError:
        return usual


# work


def workers() -> int:
    """How many recordings are heard at once: `workers`, or one less than there are cores."""
    return int(_float("workers", pool.workers_here(), 1, 256))


def quiet() -> bool:
    """Whether hearing waits while something plays."""
    return bool(QSettings().value("quiet", False, bool))


def set_work(cores: int, *, quiet: bool) -> None:
    """Keep how much of the computer hearing may take."""
    QSettings().setValue("workers", cores)
    QSettings().setValue("quiet", quiet)


def cache_bytes() -> int:
    """How large the decoded sound may grow on disk: `cache_gib`, or 4 GiB."""
    return int(_float("cache_gib", pcm.LIMIT / GIB, 0.25, 1024) * GIB)


def set_cache(gib: float) -> None:
    """Keep how large it may grow."""
    QSettings().setValue("cache_gib", gib)


# sound


def buffer_ms() -> int:
    """How much sound is kept ahead for the device, ms."""
    return int(_float("buffer_ms", BUFFERS_MS[0], BUFFERS_MS[0], BUFFERS_MS[-1]))


def set_buffer(ms: int) -> None:
    """Keep it."""
    QSettings().setValue("buffer_ms", ms)


def delays() -> dict[str, float]:
    """How much later each device sounds than it says, s, by the device's key."""
    kept = _json("delays", {})
    low, high = DELAYS_MS
    if not isinstance(kept, dict):
        return {}
    return {str(k): min(max(float(v), low), high) / 1000 for k, v in kept.items() if isinstance(v, int | float)}


def set_delay(device: str, seconds: float) -> None:
    """Keep a device's."""
    told = {key: 1000 * value for key, value in delays().items()} | {device: round(1000 * seconds, 1)}
    QSettings().setValue("delays", json.dumps(told))


def tap_delay() -> float | None:
    """How late this hand taps, s; None before it was measured."""
    return _float("tap_delay", 0.0, -1.0, 1.0) if QSettings().contains("tap_delay") else None


def set_tap_delay(seconds: float | None) -> None:
    """Keep it, or forget it."""
    if seconds is None:
        QSettings().remove("tap_delay")
    else:
        QSettings().setValue("tap_delay", seconds)


# music


def tolerance() -> Tolerance:
    """How far a beat may stray in tracks that are heard from now on."""
    low, high = TOLERANCES_MS
    return Tolerance(_float("tolerance_tight", TIGHT_MS, low, high), _float("tolerance_loose", LOOSE_MS, low, high))


def set_tolerance(wanted: Tolerance) -> None:
    """Keep it."""
    QSettings().setValue("tolerance_tight", wanted.tight)
    QSettings().setValue("tolerance_loose", wanted.loose)


def own_ranges() -> list[TempoRange]:
    """The tempo ranges that a person made; damaged ones are left out."""
    try:
        return [tempo_range.of(float(low), float(high), str(name)) for name, low, high in _json("own ranges", [])]
    except (ValueError, TypeError, Refused):
        return []


def keep_range(added: TempoRange) -> None:
    """Keep one more range; one of the same name is replaced."""
    rest = [r for r in own_ranges() if r.name != added.name]
    QSettings().setValue("own ranges", json.dumps([(r.name, r.low, r.high) for r in (*rest, added)]))


def tempo_range_chosen() -> TempoRange | None:
    """Where tempi are expected, as it was left; None for anywhere."""
    kept = _json("tempo range", None)
    try:
        return None if kept is None else tempo_range.of(float(kept[1]), float(kept[2]), str(kept[0]))
    except (ValueError, TypeError, LookupError, Refused):
        return None


def choose_range(wanted: TempoRange | None) -> None:
    """Remember it."""
    QSettings().setValue("tempo range", json.dumps(wanted and (wanted.name, wanted.low, wanted.high)))


# look and hands


def look() -> str:
    """One of `LOOKS`: as the desktop is, until a person chooses."""
    kept = QSettings()
    value = str(kept.value("look", ""))
    if value in LOOKS:
        return value
    if kept.contains("night"):
        # as earlier versions kept it
        return NIGHT if kept.value("night", False, bool) else DAY
    return DESKTOP


def set_look(wanted: str) -> None:
    """Keep it."""
    QSettings().setValue("look", wanted)


def size() -> int:
    """How large everything is, per cent."""
    return int(_float("size", USUAL_SIZE, SIZES[0], SIZES[-1]))


def set_size(percent: int) -> None:
    """Keep it; it holds from the next start on."""
    QSettings().setValue("size", percent)


def calm() -> bool:
    """Whether pictures move in steps instead of running along."""
    return bool(QSettings().value("calm", False, bool))


def set_calm(wanted: bool) -> None:
    """Keep it."""
    QSettings().setValue("calm", wanted)


def own_keys() -> dict[str, str]:
    """A person's own keys by the id of the command; an empty one takes a key away."""
    kept = _json("keys", {})
    return {str(k): str(v) for k, v in kept.items()} if isinstance(kept, dict) else {}


def set_own_keys(keys: Mapping[str, str]) -> None:
    """Keep a person's own keys."""
    QSettings().setValue("keys", json.dumps(dict(sorted(keys.items()))))


def role_colours() -> dict[str, str]:
    """A person's own colours by the role of a cue, as '#rrggbb'."""
    kept = _json("role colours", {})
    return {str(k): str(v) for k, v in kept.items()} if isinstance(kept, dict) else {}


def set_role_colours(own: Mapping[str, str]) -> None:
    """Save a person's own colours."""
    QSettings().setValue("role colours", json.dumps(dict(own)))
