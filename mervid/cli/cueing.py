"""`mervid cues`: one recipe over many tracks of the library, with a report on each and one way back."""

from __future__ import annotations

import argparse
import json
import sys
from collections.abc import Sequence
from contextlib import closing
from pathlib import Path
from typing import Any

import attrs

from .. import places
from ..core.cues.recipes import Recipe
from ..core.errors import FormatError, MervidError, Refused
from ..core.sound.names import shown
from ..jobs.gathering import is_list
from ..store import batch, others
from ..store.batch import Outcome
from ..store.library import Library
from .library import number_of

WAIT_MS = 60_000
"""A window may be writing: nobody waits at a screen here."""


def add_options(command: str, p: argparse.ArgumentParser) -> None:
    """The options of `mervid cues`."""
    p.add_argument(
        "tracks", nargs="*", metavar="TRACK", help="recordings, folders or playlists, or the name of a playlist"
    )
    p.add_argument("--recipe", metavar="NAME", help="the recipe: a file, or the name of your own or a shipped one")
    p.add_argument(
        "--sure", metavar="P", type=float, help="place only cues whose role has at least this probability, 0 to 1"
    )
    p.add_argument("--dry-run", action="store_true", help="show what would be placed; nothing is changed")
    p.add_argument("--json", action="store_true", help="report as a JSON array")
    p.add_argument("--undo", action="store_true", help="undo the last run, in each track that was not edited since")


def run(command: str, options: argparse.Namespace) -> int:
    """Place cues, or undo the last run; the exit code."""
    try:
        with closing(Library(places.data_folder() / "library.sqlite", wait_ms=WAIT_MS)) as library:
            if options.undo:
                if options.tracks or options.recipe:
                    raise Refused("--undo takes no tracks and no recipe: it undoes the last run")
                return undo(library)
            recipe = _recipe(options)
            return place(library, _ids(library, options.tracks), recipe, options)
    except (MervidError, OSError) as e:
        print(f"mervid: {str(e).splitlines()[0]}", file=sys.stderr)
        return 2


def _recipe(options: argparse.Namespace) -> Recipe:
    from .preparing import recipe_named

    if not options.recipe:
        raise Refused("--recipe is missing: name a recipe, such as 'Long intro'")
    if options.sure is not None and not 0 <= options.sure <= 1:
        raise Refused(f"--sure {options.sure:g} is not a probability. Enter a value from 0 to 1")
    found = recipe_named(options.recipe)
    return found if options.sure is None else attrs.evolve(found, sure=options.sure)


def _ids(library: Library, named: Sequence[str]) -> list[int]:
    """The tracks that were named, each once, in order. Raises `Refused` where one is not in the library."""
    from .delivering import listed

    if not named:
        raise Refused("no track was named: name recordings, or a playlist")
    files: list[Path] = []
    for text in named:
        path = Path(text)
        files += [path] if path.is_file() and not is_list(path) else listed(text, library)[1]
    ids: dict[int, None] = {}
    for f in files:
        number = number_of(library, f)
        if number is None:
            raise Refused(f"{shown(f)} is not in your library: 'mervid add' takes it in")
        ids[number] = None
    return list(ids)


def place(library: Library, ids: Sequence[int], recipe: Recipe, options: argparse.Namespace) -> int:
    """Place the cues of a recipe in these tracks, each as one edit, and report; 1 where a track was skipped."""
    outcomes: list[Outcome] = []
    if options.dry_run:
        for number in ids:
            seen = batch.look(library, number, recipe)
            outcomes.append(Outcome(number, seen.title, seen.told, seen.skipped))
    else:
        # each edit is written down as it is made: also what a kill interrupts can be undone
        with _journal().open("w", encoding="utf-8") as journal:
            for number in ids:
                done = batch.put_down(library, batch.look(library, number, recipe), recipe)
                outcomes.append(done)
                if done.head >= 0:
                    print(json.dumps([done.track_id, done.title, done.head]), file=journal, flush=True)
        others.announce(library.path)
    rows = [_row(o, dry=options.dry_run) for o in outcomes]
    if options.json:
        print(json.dumps(rows, ensure_ascii=False, indent=1))
    else:
        for r in rows:
            left = f"\t{'; '.join(r['problems'])}" if r["problems"] else ""
            print(f"{r['title']}\t{r['placed']} cues{left}")
    return 1 if any(o.skipped for o in outcomes) else 0


def _row(o: Outcome, *, dry: bool) -> dict[str, Any]:
    told = o.told if dry or o.head >= 0 else None
    problems = [o.skipped] if o.skipped else list(o.told.problems) if o.told is not None else []
    cues = [
        {"role": line.rule.what, "beat": beat, "chance": round(chance, 3)}
        for line in (told.lines if told is not None else ())
        for beat, chance in zip(line.placed, line.chances, strict=False)
    ]
    return {
        "track": o.track_id, "title": o.title, "placed": told.placed if told is not None else 0, "cues": cues,
        "problems": problems, "skipped": bool(o.skipped), "changed": o.head >= 0,
    }  # fmt: skip


def _journal() -> Path:
    """Where the edits of the last run are written down, a line of JSON for each."""
    return places.data_folder() / "cues-last-run.jsonl"


def undo(library: Library) -> int:
    """Undo the last run in every track where its edit is still the last one; 1 where others were left."""
    try:
        lines = [json.loads(line) for line in _journal().read_text("utf-8").splitlines()]
        outcomes = [Outcome(int(i), str(title), head=int(head)) for i, title, head in lines]
    except FileNotFoundError:
        raise Refused("there is no run of 'mervid cues' to undo") from None
    except (ValueError, TypeError, LookupError):
        raise FormatError(f"{shown(_journal())} can't be read: the last run can't be undone from here") from None
    undone, kept = batch.take_back(library, outcomes)
    _journal().unlink(missing_ok=True)
    others.announce(library.path)
    for title in kept:
        print(f"mervid: {title} was edited or locked since, and stays as it is", file=sys.stderr)
    print(f"{undone} tracks undone")
    return 1 if kept else 0
