"""A prep sheet: what of a playlist helps in the booth when every screen is dark, as plain values and as TSV."""

from __future__ import annotations

from collections.abc import Sequence

import attrs
import numpy as np

from ..figures import change, share
from ..form import phrase_edits
from ..model.beatgrid import Grid
from ..pairs import gear_clocks
from ..pairs.gear_clocks import FIXED, GRIDS
from ..pairs.meeting import MOST_STRETCH
from ..pairs.report import Report
from ..pairs.side import Side

LINE, FOUR, HALF = "line", "four", "half"
SIZES = {LINE: "One line a track", FOUR: "Four lines a track", HALF: "Half a page a track"}
A4, LETTER = "A4", "Letter"
PAPERS = (A4, LETTER)
COLUMNS = (
    "number", "title", "artists", "tempo", "behaves", "key", "length", "phrases", "cues", "next", "holds", "notes",
)  # fmt: skip


@attrs.frozen
class Stretch:
    """A phrase on paper: from and to in s, its role and letter, its length in bars as words."""

    start: float
    stop: float
    role: str
    letter: str
    bars: str


@attrs.frozen
class Mark:
    """A cue on paper: where, s, the bar it stands in, its role, its slot (empty for none), its name."""

    time: float
    bar: str
    role: str
    slot: str
    name: str


@attrs.frozen
class Row:
    """A track on paper.

    Attributes
    ----------
    number : its place in the list, from 1
    tempo, behaves : in words
    length : s
    next : where it meets the next track; empty for the last one, or where they can't meet
    holds : how many bars that holds, on which kind of player
    """

    number: int
    title: str
    artists: str
    tempo: str
    behaves: str
    key: str
    length: float
    phrases: tuple[Stretch, ...] = ()
    cues: tuple[Mark, ...] = ()
    next: str = ""
    holds: str = ""
    notes: str = ""


@attrs.frozen
class Sheet:
    """All rows of a list under its name, with notes on the list itself."""

    title: str
    rows: tuple[Row, ...]
    notes: str = ""


def tempo_words(grid: Grid) -> tuple[str, str]:
    """Tempo, and how it behaves: '113.8' and '111.2 to 116.0'; '135' and 'steady'."""
    low, high = float(grid.tempi.min()), float(grid.tempi.max())
    overall = grid.tempo_overall()
    whole = abs(overall - round(overall)) < 0.05
    said = f"{overall:.0f}" if whole else f"{overall:.1f}"
    return said, "steady" if high - low < 0.05 else f"{low:.1f} to {high:.1f}"


def row(number: int, side: Side, artists: str, key: str, *, title: str = "", following: Report | None = None) -> Row:
    """A track as it goes on paper; `following` is the pair that it makes with the next one."""
    grid, p = side.grid, side.preparation
    said, behaves = tempo_words(grid)
    phrases: tuple[Stretch, ...] = ()
    if side.form is not None:
        edges = np.asarray(grid.time_at([*(q.start for q in side.form.phrases), side.form.end])).clip(0, side.duration)
        lengths = phrase_edits.bars_in(grid, side.form)
        phrases = tuple(
            Stretch(float(a), float(b), q.role, q.letter, phrase_edits.length_words(n))
            for q, n, a, b in zip(side.form.phrases, lengths, edges[:-1], edges[1:], strict=True)
        )
    cues = tuple(
        Mark(
            c.at(grid),
            phrase_edits.bar_of(grid, float(grid.beat_at(c.at(grid))), p.origin),
            c.role,
            str(c.slot + 1) if c.slot is not None and c.is_hot else "",
            c.name,
        )
        for c in sorted(p.cues, key=lambda c: c.at(grid))
    )
    meets, holds = meeting_words(following, side) if following is not None else ("", "")
    return Row(
        number, title or side.title, artists, said, behaves, key, side.duration, phrases, cues, meets, holds, p.notes
    )


def meeting_words(report: Report, side: Side) -> tuple[str, str]:
    """Where a pair meets, and how long it holds, in words for paper."""
    m = report.meeting
    if m is None:
        return "", report.problem
    if abs(report.stretch) > MOST_STRETCH:
        return "", f"{share(abs(report.stretch))} apart from the next in tempo: no mix on the beat"
    grid, origin = side.grid, side.preparation.origin
    at = phrase_edits.bar_of(grid, m.at, origin)
    said = f"from bar {at} on, {m.bars} bars"
    if abs(report.stretch) >= 0.0005:
        said += f", {change(report.stretch)}"
    bars = dict(report.bars)
    parts = []
    for kind in (GRIDS, FIXED):
        n = bars.get(kind)
        if n is not None:
            parts.append(f"{n} of {m.bars} bars on a player that {_does(kind)}")
    return said, "; ".join(parts)


def _does(kind: str) -> str:
    return "has one tempo" if kind == FIXED else gear_clocks.NAMES[kind]


def clock(seconds: float) -> str:
    """Minutes and seconds, '3:07'."""
    minutes, rest = divmod(round(max(0.0, seconds)), 60)
    return f"{minutes}:{rest:02d}"


def tsv(rows: Sequence[Row]) -> str:
    """Lines of values between tabs, the first one of names."""
    out = ["\t".join(COLUMNS)]
    for r in rows:
        phrases = ", ".join(f"{clock(q.start)} {q.role} {q.letter} {q.bars}" for q in r.phrases)
        cues = ", ".join(f"{clock(c.time)} {c.slot}{' ' if c.slot else ''}{c.name}" for c in r.cues)
        cells = (
            str(r.number), r.title, r.artists, r.tempo, r.behaves, r.key, clock(r.length), phrases, cues, r.next,
            r.holds, r.notes,
        )  # fmt: skip
        # a tab or a line break inside a name would begin another value
        out.append("\t".join(" ".join(c.split()) for c in cells))
    return "\n".join(out) + "\n"
