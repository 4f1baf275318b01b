"""Text labels: `start<TAB>end<TAB>label` a line, times in seconds with six decimals, as annotation tools read them.

A phrase is a stretch, labelled by its role and its letter ('chorus B'); a cue is a point, start and end the same.
"""

from __future__ import annotations

import math

import attrs

from ..core.errors import FormatError, Refused
from ..core.model.beatgrid import Grid
from ..core.model.cue import Cue
from ..core.model.form import OTHER, PHRASE_ROLES, Form, Phrase
from . import limits

_ON_BEAT_S = 0.02


@attrs.frozen
class Label:
    """A stretch, or a point where `start` is `end`; s."""

    start: float
    end: float
    text: str


def of(grid: Grid, form: Form | None, cues: tuple[Cue, ...]) -> list[Label]:
    """The labels of phrases and cues, in order of time."""
    out = []
    if form is not None:
        ends = [q.start for q in form.phrases[1:]] + [form.end]
        for q, end in zip(form.phrases, ends, strict=True):
            a, b = (max(0.0, float(t)) for t in grid.time_at([q.start, end]))
            out.append(Label(a, b, f"{q.role} {q.letter}"))
    out += [Label(c.at(grid), c.at(grid), c.name) for c in cues]
    return sorted(out, key=lambda x: (x.start, -x.end))


def write(labels: list[Label]) -> str:
    """The text.

    >>> write([Label(0.5, 8.5, "intro A"), Label(8.5, 8.5, "Drop")])
    '0.500000\\t8.500000\\tintro A\\n8.500000\\t8.500000\\tDrop\\n'
    """
    # a tab or a line break inside a name would end it
    return "".join(f"{x.start:.6f}\t{x.end:.6f}\t{' '.join(x.text.split())}\n" for x in labels)


def read(text: str) -> list[Label]:
    """The labels of a text.

    Raises
    ------
    FormatError
        Names the first line that is no label.
    """
    out = []
    lines = text.splitlines()
    limits.refuse_many(lines, limits.MOST_LINES, "lines")
    for number, line in enumerate(lines, 1):
        if not line.strip() or line.startswith("#"):
            continue
        parts = line.split("\t")
        try:
            start, end = float(parts[0]), float(parts[1])
        except (ValueError, IndexError):
            raise FormatError(f"Line {number} is not 'start<TAB>end<TAB>label': {line[:40]!r}.") from None
        if not (math.isfinite(start) and math.isfinite(end)) or end < start or start < 0:
            raise FormatError(f"Line {number} ends before it begins, or has no usable times: {line[:40]!r}.")
        out.append(Label(start, end, "\t".join(parts[2:]).strip()))
        limits.refuse_many(out, limits.MOST_LABELS, "labels")
    if not out:
        raise FormatError("There is no label in this file.")
    return sorted(out, key=lambda x: (x.start, -x.end))


def to_form(labels: list[Label], grid: Grid) -> Form | None:
    """The phrases among the labels, on the nearest bar lines; None where there is no stretch.

    Raises
    ------
    FormatError
        They make no form.
    """
    found: dict[float, Phrase] = {}
    end = -math.inf
    for x in labels:
        if x.end > x.start:
            line = grid.bar_line_near(x.start)
            role, letter = _named(x.text)
            found.setdefault(line, Phrase(line, role, letter, 1.0, "from a file", True))
            end = max(end, grid.bar_line_near(x.end))
    phrases = tuple(found[b] for b in sorted(found) if b < end)
    if not phrases:
        return None
    try:
        return Form(phrases, end)
    except Refused as e:
        raise FormatError(f"The stretches of this file make no row of phrases: {e}") from None


def _named(text: str) -> tuple[str, str]:
    """Role and letter of a label: 'chorus B', 'Chorus', 'B', or anything."""
    words = text.replace("(", " ").replace(")", " ").split()
    role = next((w.lower() for w in words if w.lower() in PHRASE_ROLES), OTHER)
    letter = next((w.upper() for w in words if len(w) <= 2 and w[:1].isalpha() and w.lower() not in PHRASE_ROLES), "")
    return role, letter or role[:1].upper()


def to_cues(labels: list[Label], grid: Grid) -> tuple[Cue, ...]:
    """The points among the labels as cues: snapped where they lie on a beat, else free; the first eight are hot."""
    out = []
    for k, x in enumerate(x for x in labels if x.start == x.end):
        near = round(2 * float(grid.beat_at(x.start))) / 2
        on = abs(float(grid.time_at(near)) - x.start) <= _ON_BEAT_S
        slot = k if k < 8 else None
        kind = "hot" if slot is not None else "standby"
        name = x.text[:80] or f"Cue {k + 1}"
        out.append(Cue(f"label{k}", name, near if on else None, None if on else x.start, kind, "own", slot))
    return tuple(out)
