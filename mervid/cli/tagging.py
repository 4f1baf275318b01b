"""`mervid tag`: what is known of recordings, written into their tags, or into copies; and taken back again."""

from __future__ import annotations

import argparse
import os
import sys
from contextlib import closing
from pathlib import Path
from typing import TYPE_CHECKING

from .. import places
from ..core.errors import MervidError
from ..core.library import template as templates
from ..core.sound.names import shown
from .progress import Progress

if TYPE_CHECKING:
    from ..core.library.template import Template
    from ..jobs.tagging import Plan, Report


def add_options(command: str, p: argparse.ArgumentParser) -> None:
    """What can be said of tags."""
    p.add_argument("files", nargs="*", metavar="FILE", help="recordings, folders of them, playlists")
    words = "which words go into which tag: 'comment: {key} {drive} {comment}; grouping: {line}'"
    p.add_argument("--template", metavar="T", default=templates.DEFAULT, help=words)
    p.add_argument("--dry-run", action="store_true", help="say what would change, and write nothing")
    p.add_argument("--no-marks", action="store_true", help="leave chapters, cue points and beats as they are")
    p.add_argument("--out", metavar="DIR", help="write copies into this folder, and leave the files alone")
    p.add_argument("--undo", action="store_true", help="take the last writing back, byte for byte")


def run(command: str, options: argparse.Namespace) -> int:
    """Write tags, or say what would be written; one line a track."""
    from .words import gathered

    if options.undo:
        return _undo(options)
    if not options.files:
        return _wrong("name the recordings whose tags are to be written")
    try:
        template = templates.parse(options.template)
    except MervidError as e:
        return _wrong(str(e))
    files, missed = gathered(options.files)
    if not files:
        return 2
    if options.out:
        try:
            Path(options.out).mkdir(parents=True, exist_ok=True)
        except OSError as e:
            return _wrong(f"{options.out}: {e.strerror or e}")
    plans, failed = _plans(files, template, options)
    if not plans:
        return 2
    if options.dry_run:
        for p in plans:
            print("\t".join((shown(p.path), *_changes(p))))
        return 1 if failed or missed else 0
    report = _write(plans, options)
    for path in report.written:
        print(f"{shown(path)}\t{'copied' if options.out else 'written'}")
    same = sum(not p.changes for p in plans) if not options.out else 0
    if same:
        print(f"{same} said all of it already")
    for problem in report.problems:
        print(f"mervid: {problem}", file=sys.stderr)
    return 2 if report.problems and not report.written and not same else 1 if failed or missed or report.problems else 0


def _wrong(text: str) -> int:
    print(f"mervid: {text}", file=sys.stderr)
    return 2


def _changes(p: Plan) -> list[str]:
    def cut(text: str) -> str:
        return text if len(text) <= 60 else text[:59] + "…"

    return [f"{c.name}: {cut(c.before) or '–'} → {cut(c.after) or '–'}" for c in p.changes] or ["nothing changes"]


def _plans(files: list[Path], template: Template, options: argparse.Namespace) -> tuple[list[Plan], int]:
    from ..core.library.outgoing import Outgoing
    from ..formats import tag_files, tag_writing
    from ..jobs import sides, tagging
    from ..store import handed
    from ..store.library import Library

    library = Library.reader(places.data_folder() / "library.sqlite")
    line, plans, failed = Progress(len(files)), [], 0
    for k, f in enumerate(files):
        try:
            found = handed.known(library, f) if library is not None else None
            if found is None:
                side = sides.hear(f, lambda share, k=k: line.show(k, k + share))  # type: ignore[misc]
                read, _ = tag_files.read(f)
                known = Outgoing(
                    read.tags, (), side.grid.tempo_overall(), side.key, side.drive, cues=len(side.preparation.cues)
                )
                rate = 0
            else:
                side, known, rate = found
            p = side.preparation
            marks = None
            if not options.no_marks and p.grid is not None:
                marks = tag_writing.marks_of(p.grid, side.form, p.cues, side.duration)
            plans.append(tagging.plan(f, known, template, marks, rate))
        except MervidError as e:
            failed += 1
            line.clear()
            print(f"mervid: {e}", file=sys.stderr)
        line.show(k + 1, k + 1)
    line.clear()
    if library is not None:
        library.close()
    return plans, failed


def _write(plans: list[Plan], options: argparse.Namespace) -> Report:
    from ..jobs import tagging
    from ..store import handed, others
    from ..store.library import Library

    line = Progress(len(plans))

    def show(share: float) -> None:
        line.show(round(share * len(plans)), share * len(plans))

    if options.out:
        report = tagging.write_copies(plans, Path(options.out), progress=show)
    else:
        report = tagging.write(plans, "mervid tag", progress=show)
    line.clear()
    path = places.data_folder() / "library.sqlite"
    if report.written and not options.out and path.exists():
        with closing(Library(path)) as library:
            handed.note_written(library, list(report.written))
            others.announce(path)
    return report


def _undo(options: argparse.Namespace) -> int:
    from ..formats import tag_journal
    from ..jobs import tagging
    from ..store import handed, others
    from ..store.library import Library

    kept = tag_journal.batches()
    if not kept:
        return _wrong("there is no writing of tags to take back")
    done = tagging.undo(kept[0].id)
    for path in done.back:
        print(f"{shown(path)}\tas it was")
    for problem in done.problems:
        print(f"mervid: {problem}", file=sys.stderr)
    library_path = places.data_folder() / "library.sqlite"
    if done.back and os.path.exists(library_path):
        with closing(Library(library_path)) as library:
            handed.note_written(library, list(done.back))
            others.announce(library_path)
    return 1 if done.problems else 0
