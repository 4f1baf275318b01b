"""`mervid prepare`: recordings prepared without a window or a library, each written as two files."""

from __future__ import annotations

import argparse
import os
import sys
from pathlib import Path
from typing import TYPE_CHECKING

from .progress import Progress
from .words import count, gathered

if TYPE_CHECKING:
    from ..core.cues.recipes import Recipe


def recipe_named(name: str) -> Recipe:
    """The recipe in a file, or a person's own or a shipped one of that name. Raises `FormatError`."""
    from .. import places
    from ..core.errors import FormatError
    from ..formats import recipe

    path = Path(name)
    if path.suffix == ".toml" or path.exists():
        return recipe.load(path)
    known = [*recipe.own(places.recipes_folder())[0].values(), *recipe.shipped()]
    found = [r for r in known if r.name.lower() == name.lower()]
    if not found:
        raise FormatError(f"there is no recipe '{name}': there are {', '.join(r.name for r in known)}")
    return found[0]


def add_options(command: str, p: argparse.ArgumentParser) -> None:
    """The options of the command."""
    p.add_argument("files", nargs="+", metavar="FILE", help="recordings, folders of them, playlists")
    p.add_argument("--out", required=True, metavar="DIR", help="folder for STEM.jams and STEM.beats.txt")
    p.add_argument("--recipe", metavar="FILE", help="place cues by this recipe (TOML), or by a shipped one's name")
    p.add_argument("--jobs", metavar="N", type=count, help="recordings heard at once; as many as there are cores")


def run(command: str, options: argparse.Namespace) -> int:
    """Do what was asked; the exit code."""
    named, missed = gathered(options.files)
    return 2 if not named else max(missed, prepare(named, Path(options.out), options.recipe, options.jobs))


def prepare(files: list[Path], out: Path, recipe: str | None = None, jobs: int | None = None) -> int:
    """Hear, fit and export each file; one line a track on stdout, progress on stderr."""
    from ..core.errors import MervidError
    from ..core.sound.names import shown

    try:
        rules = recipe_named(recipe) if recipe is not None else None
    except MervidError as e:
        print(f"mervid: {e}", file=sys.stderr)
        return 2
    try:
        out.mkdir(parents=True, exist_ok=True)
        if not os.access(out, os.W_OK):
            raise PermissionError(13, "no permission to write there")
    except OSError as e:
        print(f"mervid: {out} can't be used: {e.strerror}", file=sys.stderr)
        return 2
    names: dict[str, Path] = {}
    for f in files:
        stem = os.path.splitext(os.path.basename(f))[0]
        if stem in names and names[stem] != f:
            print(f"mervid: {shown(names[stem])} and {shown(f)} would both be written as {stem}.jams", file=sys.stderr)
            return 2
        names[stem] = f
    return _prepare_all(files, out, rules, jobs)


def _prepare_all(files: list[Path], out: Path, recipe: Recipe | None, jobs: int | None) -> int:
    """Prepare recordings on several workers; results come in the order of the files, progress on one line for all."""
    import time

    from .. import places
    from ..jobs.messages import ENDS
    from ..jobs.pool import Pool

    pool = Pool(places.cache_folder(), workers=min(jobs or len(os.sched_getaffinity(0)), len(files)))
    for job, f in enumerate(files):
        pool.call(job, "prepare", os.fsencode(f), os.fsencode(out), recipe)
    parts, ended, failed, next_line = [0.0] * len(files), dict[int, tuple[str, object]](), 0, 0
    line = Progress(len(files))
    try:
        while next_line < len(files):
            for message in pool.poll():
                if message.kind == "progress":
                    parts[message.job] = message.payload[1]
                elif message.kind in ENDS:
                    parts[message.job], ended[message.job] = 1.0, (message.kind, message.payload)
            line.show(len(ended), sum(parts))
            while next_line in ended:
                kind, told = ended[next_line]
                next_line += 1
                failed += kind != "done"
                line.clear()
                if kind == "done":
                    for remark in told.remarks:  # type: ignore[attr-defined]
                        print(remark, file=sys.stderr)
                    print(told.line, flush=True)  # type: ignore[attr-defined]
                else:
                    print(f"mervid: {told}", file=sys.stderr)
            time.sleep(0.05)
    finally:
        pool.close()
    return 1 if failed else 0
