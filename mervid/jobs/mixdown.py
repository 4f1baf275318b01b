"""A mix written to files: its sound, a JAMS beside it, and, for the command line, the same as plain JSON."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from pathlib import Path

import attrs
import numpy as np

from ..core.pairs import account
from ..core.pairs.forecast import Forecast
from ..core.pairs.judgement import judge
from ..core.pairs.meeting import Meeting
from ..core.pairs.side import Side
from ..core.rendering.duet import Part, duet_of
from ..core.sound.decoding import Kept
from ..core.sound.names import shown
from ..formats import mix_files


@attrs.frozen(eq=False)
class Voice:
    """One of the two for a mix: what is known of it, its sound at `rate` Hz, and the file it came from."""

    side: Side
    samples: Kept
    rate: int
    path: Path


@attrs.frozen
class Written:
    """What was written: the figures of the overlap, and how far the whole had to be turned down (1 for not at all)."""

    p95: float | None
    worst: float | None
    expected: Forecast
    gain: float
    seconds: float


_UNLAID = np.array([0.0, 1.0])


def part_of(voice: Voice) -> Part:
    """A recording as rendering takes it, not laid out yet."""
    return Part(voice.samples, voice.rate, _UNLAID, _UNLAID, voice.side.attacks, voice.side.lufs)


def write(
    leaving: Voice,
    coming: Voice,
    meeting: Meeting,
    sound: Path,
    *,
    json: Path | None = None,
    split: bool = False,
    sources: Iterable[Path] = (),
    progress: Callable[[float], None] = lambda share: None,
    stop: Callable[[], bool] = lambda: False,
) -> Written:
    """Render the overlap with some bars around it, and write `sound`, a JAMS of the same name, and `json`.

    Raises
    ------
    Refused, FormatError, Cancelled, OSError
        See `clock.lay` and `mix_files.write_sound`.
    """
    judged = judge(leaving.side, coming.side, meeting)
    together, line, expected = judged.together, judged.line, judged.expected
    both = duet_of(together, part_of(leaving), part_of(coming), split=split)
    part = account.cut(together, both.rate)
    told = account.account(
        (leaving.side, shown(leaving.path)), (coming.side, shown(coming.path)), together, part, line, expected
    )
    known = {leaving.path, coming.path, *sources}
    gain = mix_files.write_sound(sound, both, part, sources=known, progress=progress, stop=stop)
    seconds = part.count / part.rate
    title = f"{leaving.side.title} and {coming.side.title}"
    mix_files.write_jams(sound.with_suffix(".jams"), told, title=title, duration=seconds)
    if json is not None:
        mix_files.write_account(json, told)
    return Written(line.p95, line.worst, expected, gain, seconds)
