"""Borrowing: the grid and the bars of a full recording, laid under its voice-only or instrumental sibling.

Each piece of the sibling takes the pins of the place it comes from. Where pieces were cut out, the beats count on: the
nearest whole number of beats is left out, and a bar begins where one begins in the full recording.
"""

from __future__ import annotations

import attrs
import numpy as np

from ..edits.listening_edits import MOST_AT_ONCE
from ..errors import Refused
from ..fitting.proposal import mix_zones_of
from ..hearing.heard import Heard
from ..model.beatgrid import Grid, MeterMark, Pin
from ..model.form import Form, Phrase
from ..model.hints import DOWNBEAT, TAP, Hint
from ..model.preparation import Preparation, carried, edit
from .recording_match import Match, Piece

_LEAST_BEATS = 1.0
_AT_CUT = 0.15
_APART = 0.06


@attrs.frozen
class _Lent:
    """What one piece takes over: how many beats its count is moved, and from and to which beat of the full grid."""

    piece: Piece
    moved: int
    first: float
    last: float


def lend(grid: Grid, match: Match) -> Grid:
    """The grid of the full recording, as the sibling hears it; its pins stand by hand.

    Raises
    ------
    Refused
        The pieces are too short to hold a beat.
    """
    parts = _lent(grid, match)
    pins: list[Pin] = []
    for k, part in enumerate(parts):
        # the beat at a cut belongs to the piece before it, if both have it
        ends = [] if k == 0 else [float(np.ceil(part.first - 1e-6)) + i for i in (0, 1)]
        ends += [] if k == len(parts) - 1 else [float(np.floor(part.last + 1e-6))]
        inner = [q.beat for q in grid.pins if part.first <= q.beat <= part.last]
        for beat in sorted({*ends, *inner}):
            if part.first - 1e-6 <= beat <= part.last + 1e-6:
                time = (float(grid.time_at(beat)) - part.piece.offset) / match.ratio
                if not pins or (beat - part.moved > pins[-1].beat + 1e-9 and time > pins[-1].time + _APART):
                    pins.append(Pin(time, beat - part.moved, hand=True))
    pins = _enough(grid, match, parts, pins)
    whole = _first_bar(grid, parts)
    meter = _meter(grid, parts, whole)
    return Grid(tuple(attrs.evolve(q, beat=q.beat - whole) for q in pins), meter)


def _lent(grid: Grid, match: Match) -> list[_Lent]:
    out: list[_Lent] = []
    for piece in match.pieces:
        first, last = (float(grid.beat_at(piece.offset + match.ratio * t)) for t in (piece.start, piece.stop))
        moved = 0
        if out:
            moved = out[-1].moved + round(first - out[-1].last)
        if last - first >= _LEAST_BEATS:
            out.append(_Lent(piece, moved, first, last))
    if not out:
        raise Refused("What fits is too short to hold a beat.")
    return out


def _enough(grid: Grid, match: Match, parts: list[_Lent], pins: list[Pin]) -> list[Pin]:
    """At least two pins, and one on either side, so that tempo reaches outward as in the full recording."""
    edges = []
    for part, beat in (
        (parts[0], float(np.floor(parts[0].first))),
        (parts[0], float(np.floor(parts[0].first)) + 1),
        (parts[-1], float(np.ceil(parts[-1].last)) - 1),
        (parts[-1], float(np.ceil(parts[-1].last))),
    ):
        edges.append(Pin((float(grid.time_at(beat)) - part.piece.offset) / match.ratio, beat - part.moved, hand=True))
    known = {round(q.beat, 6) for q in pins}
    out = sorted([*pins, *(q for q in edges if round(q.beat, 6) not in known)], key=lambda q: q.beat)
    kept = [out[0]]
    for q in out[1:]:
        if q.time > kept[-1].time + _APART and q.beat > kept[-1].beat + 1e-9:
            kept.append(q)
    return kept


def _first_bar(grid: Grid, parts: list[_Lent]) -> int:
    """The beat (as the sibling counts) of its first whole bar, which becomes beat 0."""
    index = int(grid.bar_index(np.ceil(parts[0].first - 1e-6))[0])
    start = float(grid.bar_start(index))
    if start < parts[0].first - 1e-6:
        start = float(grid.bar_start(index + 1))
    return int(start) - parts[0].moved


def _meter(grid: Grid, parts: list[_Lent], whole: int) -> tuple[MeterMark, ...]:
    """Marks wherever bars of the sibling are not those that would go on by themselves."""
    starts: list[tuple[int, int]] = []
    for k, part in enumerate(parts):
        first, last = int(grid.bar_index(part.first)[0]), int(grid.bar_index(part.last)[0])
        for index in range(first - (k == 0), last + 2):
            beat = float(grid.bar_start(index))
            if (part.first - _AT_CUT <= beat or k == 0) and (beat <= part.last + _AT_CUT or k == len(parts) - 1):
                starts.append((int(beat) - part.moved - whole, grid.beats_per_bar(beat)))
    starts = sorted(dict(reversed(starts)).items())
    marks: list[MeterMark] = []
    for (at, size), (after, _) in zip(starts, [*starts[1:], (starts[-1][0] + starts[-1][1], 0)], strict=True):
        length = after - at
        if marks and (at - marks[-1].beat) % marks[-1].beats_per_bar == 0 and marks[-1].beats_per_bar == length:
            continue
        marks.append(MeterMark(float(at), length if 1 <= length <= 32 else size))
    return tuple(marks) or grid.meter


def lend_form(full: Grid, match: Match, form: Form) -> Form | None:
    """The phrases of the full recording that lie in the sibling, on the beats that `lend` gives it; None for none.

    A piece that begins inside a phrase begins with what is left of it.
    """
    parts = _lent(full, match)
    whole = _first_bar(full, parts)
    edges = [*(q.start for q in form.phrases), form.end]
    found: dict[float, Phrase] = {}
    end = 0.0
    for part in parts:
        for q, stop in zip(form.phrases, edges[1:], strict=True):
            first, last = max(q.start, part.first - _AT_CUT), min(stop, part.last + _AT_CUT)
            if last - first < _LEAST_BEATS:
                continue
            index, within = full.bar_index(first + 1e-6)
            line = first if float(within) < 1e-3 else float(full.bar_start(int(index) + (float(within) > _AT_CUT)))
            if line < last:
                found.setdefault(line - part.moved - whole, attrs.evolve(q, start=line - part.moved - whole))
                end = max(end, last - part.moved - whole)
    if not found:
        return None
    phrases = tuple(found[b] for b in sorted(found))
    return Form(phrases, max(float(np.ceil(end - _AT_CUT - 1e-6)), phrases[-1].start + 1))


@edit("Borrow the grid")
def borrow(
    p: Preparation, full: Grid, match: Match, heard: Heard, duration: float, form: Form | None = None
) -> Preparation:
    """Take over grid, bars and phrases of the full recording; from now on the sibling is heard along its beats.

    Parameters
    ----------
    form : the phrases of the full recording, where they are known
    """
    grid = lend(full, match)
    times, beats, place = grid.listed(0.0, duration)
    hints: tuple[Hint, ...] = ()
    if 4 <= len(beats) <= MOST_AT_ONCE:
        hints = tuple(Hint(TAP, float(t)) for t in times)
        hints += tuple(Hint(DOWNBEAT, float(t)) for t in times[place == 1])
    zones = mix_zones_of(grid, heard, duration) or p.mix_zones
    lent = lend_form(full, match, form) if form is not None else None
    made = attrs.evolve(carried(p, grid), hints=hints, mix_zones=zones)
    return attrs.evolve(made, form=lent or made.form)
