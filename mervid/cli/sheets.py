"""`mervid sheet`: a playlist on paper for the booth, as PDF or as TSV."""

from __future__ import annotations

import argparse
import itertools
import os
import sys
from pathlib import Path
from typing import TYPE_CHECKING

from .. import places
from ..core.delivery.sheet import A4, FOUR, PAPERS, SIZES
from ..core.errors import FormatError, MervidError, Refused

if TYPE_CHECKING:
    from ..core.delivery.sheet import Sheet
    from ..core.pairs.report import Report
    from ..jobs.delivery_plan import Item
    from ..store.library import Library


def add_options(command: str, p: argparse.ArgumentParser) -> None:
    """What can be said of a sheet."""
    p.add_argument("list", metavar="LIST", help="a list of the library, a playlist, or a folder of recordings")
    p.add_argument("--out", required=True, metavar="FILE", help="sheet.pdf, or sheet.tsv")
    p.add_argument("--paper", choices=PAPERS, default=A4, help="(A4)")
    p.add_argument("--size", choices=sorted(SIZES), default=FOUR, help="room for a track (four lines)")


def run(command: str, options: argparse.Namespace) -> int:
    """Write a sheet."""
    from ..store.library import Library
    from .delivering import gathered_items, listed

    out = Path(options.out)
    try:
        if out.suffix.lower() not in (".pdf", ".tsv"):
            raise FormatError(f"{out.name}: a sheet is written as .pdf or .tsv")
        library = Library.reader(places.data_folder() / "library.sqlite")
        try:
            title, files = listed(options.list, library)
            items, problems = gathered_items(files, library)
            made = sheet_of(title, items, library)
        finally:
            if library is not None:
                library.close()
        for problem in problems:
            print(f"mervid: {problem}", file=sys.stderr)
        if not made.rows:
            raise Refused("there is nothing to put on paper")
        pages = _write(out, made, options)
    except MervidError as e:
        print(f"mervid: {str(e).splitlines()[0]}", file=sys.stderr)
        return 2
    except OSError as e:
        print(f"mervid: {out}: {e.strerror or e}", file=sys.stderr)
        return 2
    print(f"{out}\t{len(made.rows)} tracks" + (f"\t{pages} page{'s' if pages > 1 else ''}" if pages else ""))
    return 1 if problems else 0


def sheet_of(title: str, items: list[Item], library: Library | None) -> Sheet:
    """The sheet of tracks in their order, each with where it meets the next."""
    from ..core.delivery import sheet

    rows = []
    for k, (one, following) in enumerate(itertools.zip_longest(items, items[1:]), 1):
        known = one.known
        report = _pair(one, following, library) if following is not None else None
        rows.append(sheet.row(k, one.side, known.shown.artists, known.key, title=known.shown.title, following=report))
    return sheet.Sheet(title, tuple(rows))


def _pair(leaving: Item, coming: Item, library: Library | None) -> Report:
    """How two neighbours meet: as it was kept, or at the best place."""
    from ..core.pairs import report
    from ..store import handed
    from ..store.pairs import Pairs
    from ..store.undo import Undo

    meeting = None
    if library is not None:
        a, b = handed.track_at(library, leaving.path), handed.track_at(library, coming.path)
        if a is not None and b is not None:
            kept = Pairs(library, Undo(library)).of(a.id, b.id)
            meeting = kept.meeting if kept is not None else None
    return report.report(leaving.side, coming.side, meeting)


def _write(out: Path, made: Sheet, options: argparse.Namespace) -> int:
    from ..core.delivery import sheet
    from ..formats import safe_file

    if out.suffix.lower() == ".tsv":
        text = sheet.tsv(made.rows)
        safe_file.write(out, lambda f: f.write(text.encode()))
        return 0
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from PyQt6.QtGui import QGuiApplication

    from ..desk.theme import style
    from ..desk.views.prep_sheet import Setting
    from ..desk.views.sheet_files import write_pdf

    app = QGuiApplication.instance() or QGuiApplication(sys.argv[:1])
    style.load_fonts()
    pages = write_pdf(out, made, Setting(options.paper, options.size))
    del app
    return pages
