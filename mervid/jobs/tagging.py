"""Tags of many recordings: what would change, and the writing of it, in the files themselves or in copies."""

from __future__ import annotations

import os
import shutil
from collections.abc import Callable, Iterable, Mapping, Sequence
from pathlib import Path

import attrs

from ..core.errors import Cancelled, MervidError
from ..core.library import outgoing
from ..core.library.outgoing import Change, Outgoing
from ..core.library.tags import FIELDS
from ..core.library.template import Template
from ..core.sound.names import shown
from ..formats import chapters, safe_file, safe_tags, tag_files, tag_journal
from ..formats.chapters import Found
from ..formats.labels import Label
from ..formats.tag_journal import Journal, Undone
from ..formats.tag_writing import Marks


@attrs.frozen
class Plan:
    """What one file gets.

    Attributes
    ----------
    values : what is written, by `tag_writing.WRITTEN`
    marks : cues, phrases and beats; None where these are left alone
    changes : what is different by it, in words
    """

    path: Path
    values: Mapping[str, str]
    marks: Marks | None
    rate: int
    changes: tuple[Change, ...]


@attrs.frozen
class Report:
    """What became of a batch: files written, sentences for those that weren't, and the journal's batch, if any."""

    written: tuple[Path, ...]
    problems: tuple[str, ...]
    batch: str


_ID3 = (".mp3", ".wav", ".aif", ".aiff")
_MP4 = (".m4a", ".mp4")
"""Their chapters can't be written so that each stays where it is."""


def _told(chapter: Sequence[Label], beats: Sequence[float]) -> str:
    parts = [f"{len(chapter)} chapters"] if chapter else []
    return " and ".join([*parts, f"{len(beats)} beats"] if beats else parts)


def _mark_change(found: Found, marks: Marks | None, ending: str) -> tuple[Change, ...]:
    """What becomes of chapters and beats; the same places and names to the ms are the same."""
    if marks is None or ending in _MP4:
        return ()
    beats = marks.beats if ending in _ID3 else ()

    def plain(chapter: Sequence[Label], struck: Sequence[float]) -> object:
        return [(round(c.start, 3), c.text) for c in chapter], [round(t, 3) for t in struck]

    if plain(found.chapters, found.beats) == plain(marks.chapters, beats):
        return ()
    before, after = _told(found.chapters, found.beats), _told(marks.chapters, beats)
    return (Change("marks", before, after if after != before else f"{after}, elsewhere"),)


def plan(path: Path, known: Outgoing, template: Template, marks: Marks | None, rate: int) -> Plan:
    """What a file would get. Raises `FormatError` where it can't be read."""
    values = outgoing.values(known, template)
    read, _ = tag_files.read(path)
    found = chapters.read(path)
    before = {name: str(getattr(read.tags, name) or "") for name in FIELDS} | found.words
    changes = outgoing.changes(before, values) + _mark_change(found, marks, path.suffix.lower())
    return Plan(path, values, marks, rate, changes)


def write(
    plans: Sequence[Plan],
    name: str,
    *,
    progress: Callable[[float], None] = lambda share: None,
    stop: Callable[[], bool] = lambda: False,
    each: Callable[[Path], None] = lambda path: None,
) -> Report:
    """Write into the files themselves; all of it can be taken back. What fails is said, and the rest goes on.

    Parameters
    ----------
    name : what the batch is called in the journal
    each : is told of every file that was written
    """
    journal = Journal(name)
    written, problems = [], []
    for k, p in enumerate(plans):
        if stop():
            break
        if p.changes:
            try:
                safe_tags.write(p.path, p.values, p.marks, journal=journal, rate=p.rate)
                written.append(p.path)
                each(p.path)
            except (MervidError, OSError) as e:
                problems.append(_problem(p.path, e))
        progress((k + 1) / len(plans))
    return Report(tuple(written), tuple(problems), journal.id if written else "")


def _problem(path: Path, e: Exception) -> str:
    if isinstance(e, OSError):
        return f"{shown(path)}: {e.strerror or e}."
    return str(e)


def write_copies(
    plans: Sequence[Plan],
    folder: Path,
    *,
    sources: Iterable[Path] = (),
    progress: Callable[[float], None] = lambda share: None,
    stop: Callable[[], bool] = lambda: False,
) -> Report:
    """Write into copies in a folder, under the same names; a file that stands there is left alone."""
    written, problems = [], []
    for k, p in enumerate(plans):
        if stop():
            raise Cancelled("The rest was not written.")
        target = folder / os.path.basename(p.path)
        try:
            if os.path.lexists(target):
                problems.append(f"{shown(target)} stands in that folder already: it is left as it is.")
                continue
            copy(p, target)
            written.append(target)
        except (MervidError, OSError) as e:
            problems.append(_problem(p.path, e))
        progress((k + 1) / len(plans))
    return Report(tuple(written), tuple(problems), "")


def copy(p: Plan, target: Path) -> None:
    """A copy of a recording with its new tags, under its name once it is whole. Raises `FormatError`, `OSError`."""

    def fill(part: Path) -> None:
        shutil.copyfile(p.path, part)
        safe_tags.write(part, p.values, p.marks, journal=None, rate=p.rate)
        shutil.copystat(p.path, part)

    safe_file.put_new(target, fill)


def undo(batch: str) -> Undone:
    """Take a batch back, byte for byte."""
    return tag_journal.undo(batch, safe_tags.put_back)
