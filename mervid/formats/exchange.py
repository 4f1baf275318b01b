"""What is handed over of a preparation, and what is taken back: the same for the window and the command line.

The ending of a file's name says which form it has, see `FORMS`.
"""

from __future__ import annotations

import stat
from collections.abc import Iterable
from pathlib import Path

import attrs
import numpy as np

from ..core.edits import track_edits
from ..core.errors import FormatError, Refused
from ..core.form import phrase_edits
from ..core.hearing.evidence import Evidence
from ..core.model import preparation, validation
from ..core.model.beatgrid import Grid
from ..core.model.cue import Cue
from ..core.model.form import Form
from ..core.model.preparation import Preparation
from ..core.sound.decoding import SUFFIXES
from . import beatlist, chapters, jams, labels, limits, midimap, safe_file, wavcues

JAMS, BEATS, LABELS, MIDI, WAVE = ".jams", ".beats.txt", ".labels.txt", ".mid", ".cues.wav"
FORMS = {
    JAMS: "JAMS: beats, phrases and cues",
    BEATS: "Beat list",
    LABELS: "Labels: phrases and cues",
    MIDI: "MIDI tempo map with markers",
    WAVE: "WAV copy with cue points",
}


@attrs.frozen
class Subject:
    """What is exported: a preparation, what was detected, the recording it belongs to, its key and probability."""

    preparation: Preparation
    evidence: Evidence | None
    title: str
    duration: float
    source: Path
    rate: int
    key: tuple[str, float] | None = None

    @property
    def form(self) -> Form | None:
        """Its phrases, kept or heard."""
        return phrase_edits.form_of(self.preparation, self.evidence, self.duration)


def form_of_name(name: str) -> str:
    """Which of `FORMS` a file's name asks for; a beat list for any other ending."""
    lower = name.lower()
    if lower.endswith(".wav"):
        return WAVE
    return next((e for e in FORMS if lower.endswith(e)), BEATS)


def kind_of_name(name: str) -> str:
    """Which kind of file that is, see `safe_file`."""
    return {WAVE: safe_file.WAVE, MIDI: safe_file.MIDI}.get(form_of_name(name), safe_file.TEXT)


def export(what: Subject, path: Path, sources: Iterable[Path] = ()) -> str:
    """Write `what` to `path` in the form that its ending asks for.

    Parameters
    ----------
    sources : further recordings that are never written over

    Returns
    -------
    what is to be said of the file besides, empty where nothing is

    Raises
    ------
    Refused
        There is no grid, or nothing to write in this form.
    FormatError
        `path` is a recording, by its name or by what it holds, or another file that isn't written over.
    OSError
        It can't be written.
    """
    kind, p, known = form_of_name(path.name), what.preparation, (what.source, *sources)
    grid = _grid(p)
    if kind == WAVE:
        marks = labels.of(grid, what.form, p.cues)
        if not marks:
            raise Refused("There are no cues and no phrases to write yet.")
        return wavcues.write(what.source, path, marks, rate=what.rate, sources=sources)
    if kind == MIDI:
        data = midimap.write(grid, what.form, p.cues, what.duration)
        safe_file.write(path, lambda f: f.write(data), kind=safe_file.MIDI, sources=known)
    elif kind == LABELS:
        write_new(path, labels.write(labels.of(grid, what.form, p.cues)), known)
    else:
        write_new(path, export_text(what, as_jams=kind == JAMS), known)
    return ""


def _grid(p: Preparation) -> Grid:
    if p.grid is None:
        raise Refused("There is no grid to export yet.")
    return p.grid


def export_text(what: Subject, *, as_jams: bool) -> str:
    """JAMS or a beat list: the grid's beats from the first to the last heard beat.

    Raises
    ------
    Refused
        There is no grid.
    """
    p, evidence = what.preparation, what.evidence
    grid = _grid(p)
    heard = evidence.heard.times if evidence is not None else np.zeros(0)
    half = 30.0 / grid.tempo_overall()
    start, stop = (float(heard[0]), float(heard[-1])) if len(heard) else (0.0, what.duration)
    # the grid's beat for the first heard one may lie a little before it
    start, stop = max(0.0, start - half / 2), min(what.duration, stop + half / 2)
    if as_jams:
        form = what.form
        return jams.write(
            p,
            title=what.title,
            duration=what.duration,
            start=start,
            stop=stop,
            form=form,
            line=phrase_edits.line_of(p, form),
            key=what.key,
        )
    times, _, position = grid.listed(start, stop)
    return beatlist.write(times, position)


def write_new(path: Path, text: str, sources: Iterable[Path] = ()) -> None:
    """Write a text as `safe_file.write` does."""
    safe_file.write(path, lambda f: f.write(text.encode("utf-8")), sources=sources)


def take(path: Path, current: Preparation) -> Preparation:
    """`current` with what a file holds: JAMS, a beat list, labels, a tempo map, chapters or cue points of a recording.

    A file without beats (labels, cue points) brings phrases and cues onto the grid that there is. What comes back is
    valid, see `core.model.validation`.

    Raises
    ------
    FormatError
        None of these, damaged, or labels where there is no grid yet.
    OSError
        It can't be read.
    """
    state = path.stat()
    if not stat.S_ISREG(state.st_mode):
        raise FormatError("This is not a file that can be read from its beginning to its end.")
    try:
        # what is beyond all sense is refused after it, not warned of
        with np.errstate(all="ignore"):
            return validation.valid(_taken(path, state.st_size, current))
    except Refused as e:
        raise FormatError(str(e)) from None
    except UnicodeDecodeError:
        raise
    except (ValueError, TypeError, LookupError, ArithmeticError, RecursionError, EOFError) as e:
        # by name and by line where a reader knows it; never a traceback where none does
        raise FormatError(f"It is damaged and can't be taken over ({type(e).__name__}).") from None


def _taken(path: Path, size: int, current: Preparation) -> Preparation:
    with path.open("rb") as f:
        head = f.read(12)
    if head[:4] == b"RIFF":
        return _labelled(current, wavcues.read(path))
    if path.suffix.lower() in SUFFIXES:
        found_there = chapters.read(path).chapters
        if not found_there:
            raise FormatError("There are no chapters and no cue points in this recording.")
        return _labelled(current, list(found_there))
    if size > limits.MOST_BYTES:
        most = limits.MOST_BYTES >> 20
        raise FormatError(f"It is {size >> 20} MB large; beats of a whole night take less than {most} MB.")
    if head[:4] == b"MThd":
        found = midimap.read(path.read_bytes())
        marks = list(found.labels)
        return track_edits.take_over(
            current, found.grid, labels.to_cues(marks, found.grid), labels.to_form(marks, found.grid)
        )
    text = limits.text_of(path)
    if _looks_labelled(text):
        return _labelled(current, labels.read(text))
    return import_text(text, current)


def _looks_labelled(text: str) -> bool:
    """Three columns, the second of which doesn't count a bar: labels and no beat list."""
    line = next((x for x in text.splitlines() if x.strip() and not x.startswith("#")), "")
    return not text.lstrip().startswith("{") and line.count("\t") >= 2


def _labelled(current: Preparation, marks: list[labels.Label]) -> Preparation:
    if current.grid is None:
        raise FormatError("This file has no beats, and there is no grid to put its labels on yet.")
    cues = labels.to_cues(marks, current.grid) or current.cues
    form = labels.to_form(marks, current.grid) or current.form
    return track_edits.take_over(current, current.grid, cues, form, current.origin)


def import_text(text: str, current: Preparation) -> Preparation:
    """`current` with grid, cues and phrases from JAMS, or a grid from a beat list: cues then stay where they sound.

    Raises
    ------
    FormatError
        Neither of the two.
    """
    if text.lstrip().startswith("{"):
        c = jams.read(text)
        return track_edits.take_over(current, c.grid, c.cues, c.form, c.origin, c.line)
    grid = beatlist.to_grid(*beatlist.read(text))
    old = current.grid

    def there(c: Cue) -> Cue:
        return attrs.evolve(c, beat=float(grid.beat_at(c.at(old)))) if c.beat is not None else c

    # a cue stays where it sounds, whatever its beat is called now
    moved = preparation.carried(current, grid)
    return track_edits.take_over(current, grid, tuple(there(c) for c in current.cues), moved.form, moved.origin)
