"""A mix as files: the sound in 24 bits, a JAMS beside it, and the same as plain JSON."""

from __future__ import annotations

import json
import tempfile
from collections.abc import Callable, Iterable
from pathlib import Path
from typing import Any, BinaryIO

import numpy as np

from ..core.errors import Cancelled, FormatError
from ..core.pairs.account import Cut
from ..core.rendering.duet import Duet
from . import jams, safe_file
from .jams import annotated, observed

FLAC, WAV = ".flac", ".wav"
_AT_ONCE = 1 << 16
_FULL = 0.999
"""A mix that would reach higher than this is turned down as a whole."""


def write_sound(
    path: Path,
    duet: Duet,
    part: Cut,
    *,
    sources: Iterable[Path] = (),
    progress: Callable[[float], None] = lambda share: None,
    stop: Callable[[], bool] = lambda: False,
) -> float:
    """Render a part of a mix and write it, FLAC or WAV by its name; returns the gain that was needed, 1 for none.

    Parameters
    ----------
    sources : recordings, which are never written over

    Raises
    ------
    FormatError
        Another ending, or something stands there that is not written over.
    Cancelled
        `stop` said so; nothing is written.
    OSError
        It can't be written.
    """
    import soundfile

    kind = {FLAC: "FLAC", WAV: "WAV"}.get(path.suffix.lower())
    if kind is None:
        raise FormatError(f"{path.name}: a mix is written as .flac or .wav.")
    known = tuple(sources)
    safe_file.check(path, safe_file.MIX, known)
    with tempfile.TemporaryFile() as held:
        peak = _render(held, duet, part, progress, stop)
        gain = min(1.0, _FULL / peak) if peak > 0 else 1.0

        def fill(f: BinaryIO) -> None:
            held.seek(0)
            with soundfile.SoundFile(f, "w", part.rate, 2, "PCM_24", format=kind) as out:
                out.comment = safe_file.MIX_MARK.decode()
                while raw := held.read(_AT_ONCE * 8):
                    out.write(np.frombuffer(raw, np.float32).reshape(-1, 2) * np.float32(gain))

        safe_file.write(path, fill, kind=safe_file.MIX, sources=known)
    return gain


def _render(held: Any, duet: Duet, part: Cut, progress: Callable[[float], None], stop: Callable[[], bool]) -> float:
    """All frames into a file that has no name; returns the peak."""
    peak = 0.0
    for at in range(0, part.count, _AT_ONCE):
        if stop():
            raise Cancelled("The mix was not written.")
        block = duet.read(part.first + at, min(_AT_ONCE, part.count - at))
        peak = max(peak, float(np.abs(block).max(initial=0.0)))
        held.write(block.tobytes())
        progress(min(1.0, (at + len(block)) / part.count))
    return peak


def write_account(path: Path, account: dict[str, Any]) -> None:
    """The account as plain JSON."""
    text = json.dumps(account, ensure_ascii=False, allow_nan=False)
    safe_file.write(path, lambda f: f.write(text.encode()))


def write_jams(path: Path, account: dict[str, Any], *, title: str, duration: float) -> None:
    """The account as JAMS: beats of both tracks with their places, and the overlap as a segment."""
    annotations = []
    for which in ("leaving", "coming"):
        one = account[which]
        downs = set(one["downbeats"])
        place, data = 0, []
        for t in one["beats"]:
            place = 1 if t in downs else place + 1 if place else 0
            data.append(observed(t, place or None))
        made = annotated("computed", duration, "beat", data)
        made["sandbox"] = {jams.SANDBOX: {"track": which, "file": one["file"], "map": one["map"]}}
        annotations.append(made)
    start, stop = account["overlap"]
    annotations.append(annotated("computed", duration, "segment_open", [observed(start, "overlap", stop - start)]))
    told = {"apart_ms": account["apart_ms"], "forecast_p95_ms": account["forecast_p95_ms"]}
    document = {
        "file_metadata": jams.about(title, duration),
        "annotations": annotations,
        "sandbox": {jams.SANDBOX: told},
    }
    jams.check(document)
    text = json.dumps(document, indent=1, ensure_ascii=False, allow_nan=False)
    safe_file.write(path, lambda f: f.write(text.encode()))
