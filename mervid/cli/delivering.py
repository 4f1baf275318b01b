"""`mervid deliver`: a list written into a folder or onto a stick, as a kind of player can read it."""

from __future__ import annotations

import argparse
import sys
from pathlib import Path
from typing import TYPE_CHECKING

from .. import places
from ..core.errors import FormatError, MervidError, Refused
from ..core.library import template as templates
from ..core.sound.names import shown
from .progress import Progress

if TYPE_CHECKING:
    from ..jobs.deliver import Report
    from ..jobs.delivery_plan import Item, Plan
    from ..store.library import Library


def add_options(command: str, p: argparse.ArgumentParser) -> None:
    """What can be said of delivering."""
    p.add_argument("list", metavar="LIST", help="a list of the library, a playlist, or a folder of recordings")
    p.add_argument("--profile", required=True, metavar="P", help="the player: the name of a profile, or a TOML file")
    p.add_argument("--out", required=True, metavar="DIR", help="a folder, or a stick that is mounted")
    p.add_argument("--dry-run", action="store_true", help="say what would be written and lost, and write nothing")
    p.add_argument("--straighten", action="store_true", help="make straight what a player with one tempo would lose")
    p.add_argument("--no-standby", action="store_true", help="don't keep lost hot cues as standby cues")
    p.add_argument("--remove", action="store_true", help="take away what Mervid wrote there and no list names any more")
    p.add_argument("--template", metavar="T", default=templates.DEFAULT, help="which words go into which tag")


def run(command: str, options: argparse.Namespace) -> int:
    """Deliver; one line a track on stdout."""
    from ..formats import profile_files
    from ..jobs import delivery_plan
    from ..jobs.delivery_plan import Choices
    from ..store.library import Library

    out = Path(options.out)
    try:
        profile = profile_files.named(options.profile)
        template = templates.parse(options.template)
        if out.exists() and not out.is_dir():
            raise FormatError(f"{shown(out)} is no folder.")
        library = Library.reader(places.data_folder() / "library.sqlite")
        try:
            title, files = listed(options.list, library)
            items, problems = gathered_items(files, library)
        finally:
            if library is not None:
                library.close()
        for problem in problems:
            print(f"mervid: {problem}", file=sys.stderr)
        if not items:
            raise Refused("there is nothing to deliver")
        choices = Choices(options.straighten, not options.no_standby)
        plan = delivery_plan.plan(items, profile, out, title, choices, template)
        if options.dry_run:
            _tell(plan)
            return 1 if problems else 0
        report = _carry_out(plan, remove=options.remove)
    except MervidError as e:
        return _wrong(str(e))
    except OSError as e:
        return _wrong(f"{options.out}: {e.strerror or e}")
    _told(plan, report)
    for problem in report.problems:
        print(f"mervid: {problem}", file=sys.stderr)
    done = bool(report.written or report.same)
    return 2 if report.problems and not done else 1 if report.problems or problems else 0


def _wrong(text: str) -> int:
    print(f"mervid: {text.splitlines()[0]}", file=sys.stderr)
    return 2


def listed(text: str, library: Library | None) -> tuple[str, list[Path]]:
    """The name of a list and its files, in order: of the library, of a playlist, or of a folder. Raises `Refused`."""
    from ..formats import playlist
    from ..jobs.gathering import gather, is_list
    from ..store import lists as shelves
    from ..store.lists import Lists
    from ..store.search import Finder
    from ..store.undo import Undo

    path = Path(text)
    if path.is_dir():
        return path.resolve().name or "Music", list(gather([path]).files)
    if path.exists() and is_list(path):
        said = playlist.read(path)
        return said.title, list(said.files)
    if library is not None:
        made = Lists(library, Undo(library))
        found = [s for s in made.all() if s.name.casefold() == text.casefold() and s.kind != shelves.FOLDER]
        if found:
            shelf = min(found, key=lambda s: s.kind != shelves.LIST)
            standing = shelf.kind == shelves.SEARCH
            ids = (Finder(library).find(made.search(shelf.id)) if standing else made.tracks(shelf.id)).tolist()
            there = dict(library.paths(sorted(set(ids)))) if ids else {}
            return shelf.name, [there[i] for i in ids if i in there]
    raise Refused(f"there is no list '{text}': 'mervid lists' tells which there are")


def gathered_items(files: list[Path], library: Library | None) -> tuple[list[Item], list[str]]:
    """What is known of files, heard where the library doesn't know them; sentences for those that can't be used."""
    from ..core.library.outgoing import Outgoing
    from ..formats import tag_files
    from ..jobs import delivery_plan, sides
    from ..store import handed

    line, items, problems = Progress(len(files)), [], []
    seen: dict[Path, Item] = {}
    for k, f in enumerate(files):
        try:
            if f not in seen:
                found = handed.known(library, f) if library is not None else None
                if found is None:
                    side = sides.hear(f, lambda share, k=k: line.show(k, k + share))  # type: ignore[misc]
                    read, _ = tag_files.read(f)
                    known = Outgoing(read.tags, (), side.grid.tempo_overall(), side.key, side.drive)
                else:
                    side, known, _ = found
                seen[f] = delivery_plan.item(side, known, f)
            items.append(seen[f])
        except MervidError as e:
            problems.append(str(e))
        line.show(k + 1, k + 1)
    line.clear()
    return items, problems


def _tell(plan: Plan) -> None:
    for s in plan.steps:
        said = [x.text for x in s.losses] or ["Nothing is lost."]
        print("\t".join((s.file, s.state, *said)))
    _sum_up(plan)


def _sum_up(plan: Plan) -> None:
    from ..jobs import delivery_plan

    for text in delivery_plan.sentences(plan):
        print(text)


def _carry_out(plan: Plan, *, remove: bool) -> Report:
    from ..jobs import deliver

    line = Progress(len(plan.steps))

    def show(share: float) -> None:
        line.show(int(share * len(plan.steps) + 1e-6), share * len(plan.steps))

    try:
        return deliver.carry_out(plan, remove=remove, progress=show)
    finally:
        line.clear()


def _told(plan: Plan, report: Report) -> None:
    written = set(report.written)
    for s in plan.steps:
        how = "written" if s.file in written else "there already" if s.state == "same" else "not written"
        print(f"{s.file}\t{how}")
    for file in report.removed:
        print(f"{file}\tremoved")
    if plan.leftovers and not report.removed:
        print(f"{len(plan.leftovers)} files that Mervid wrote there are in no list any more: --remove takes them away")
