"""The command line: the window, or the same work without one.

Exit codes: 0 all done, 1 some recordings failed, 2 wrong usage.
"""

from __future__ import annotations

import argparse
import os
import sys
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from . import __version__

if TYPE_CHECKING:
    from .core.cues.recipes import Recipe


class _Parser(argparse.ArgumentParser):
    """Says what is wrong in one line."""

    def error(self, message: str):  # type: ignore[no-untyped-def]
        print(f"mervid: {message}", file=sys.stderr)
        sys.exit(2)


def _count(text: str) -> int:
    """A whole number from 1 on."""
    if not text.isdigit() or int(text) < 1:
        raise argparse.ArgumentTypeError(f"'{text}' is no number of recordings: 1 or more")
    return int(text)


def parser(command: str | None) -> argparse.ArgumentParser:
    """The parser of `mervid prepare ...`, of `mervid tell ...`, or of `mervid [FILE ...]`."""
    if command == "tell":
        p = _Parser(
            prog="mervid tell", description="Hear recordings and say what is odd about each; nothing is written."
        )
        p.add_argument("files", nargs="+", metavar="FILE", help="recordings, folders of them, playlists")
        p.add_argument("--expect", metavar="LOW-HIGH", help="range of tempo in BPM that is expected, such as 90-130")
        return p
    if command == "prepare":
        p = _Parser(
            prog="mervid prepare", description="Hear recordings, fit grids that follow them, and export both formats."
        )
        p.add_argument("files", nargs="+", metavar="FILE", help="recordings, folders of them, playlists")
        p.add_argument("--out", required=True, metavar="DIR", help="folder for STEM.jams and STEM.beats.txt")
        p.add_argument("--recipe", metavar="FILE", help="place cues by this recipe (TOML), or by a shipped one's name")
        p.add_argument("--jobs", metavar="N", type=_count, help="recordings heard at once; as many as there are cores")
        return p
    p = _Parser(
        prog="mervid",
        description="Prepare recordings for mixing: hear the beats, see the drift, fit a grid that stays.",
        epilog="'mervid prepare FILE... --out DIR' does the same job without a window, "
        "'mervid tell FILE...' says what is odd about recordings.",
    )
    p.add_argument("files", nargs="*", metavar="FILE", help="recordings, folders of them and playlists to open")
    p.add_argument("--demo", action="store_true", help="open the demo set 'Tideline Social'")
    p.add_argument("--version", action="version", version=f"Mervid {__version__}")
    return p


def main(argv: Sequence[str] | None = None) -> int:
    """Run the command line; returns the exit code."""
    words = list(sys.argv[1:] if argv is None else argv)
    if words[:1] == ["prepare"]:
        options = parser("prepare").parse_args(words[1:])
        named, missed = _gathered(options.files)
        return 2 if not named else max(missed, prepare(named, Path(options.out), options.recipe, options.jobs))
    if words[:1] == ["tell"]:
        options = parser("tell").parse_args(words[1:])
        named, missed = _gathered(options.files)
        return 2 if not named else max(missed, tell(named, options.expect))
    options = parser(None).parse_args(words)
    files = [Path(f) for f in options.files]
    from .core.errors import MervidError
    from .core.sound.decoding import check_readable
    from .formats import playlist
    from .jobs.gathering import is_list

    for f in files:
        try:
            if is_list(f):
                playlist.read(f)
            elif not f.is_dir():
                check_readable(f)
        except MervidError as e:
            print(f"mervid: {e}", file=sys.stderr)
            return 2
    from .desk.app import run

    return run(files, demo=options.demo)


def _gathered(words: list[str]) -> tuple[list[Path], int]:
    """The recordings behind files, folders and playlists, and 1 where some aren't there, which is said on stderr."""
    from .jobs.gathering import gather

    found = gather(Path(w) for w in words)
    for remark in found.remarks:
        print(f"mervid: {remark}", file=sys.stderr)
    if not found.files and not found.remarks:
        print("mervid: there is no recording in what was named", file=sys.stderr)
    return list(found.files), int(bool(found.remarks))


def tell(files: list[Path], expect: str | None) -> int:
    """Hear each file and print its kind of time and its findings."""
    from .core.edits import listening_edits
    from .core.errors import MervidError
    from .core.findings.report import Question, report
    from .core.hearing import analysis
    from .core.model import tempo_range
    from .core.sound.names import shown

    wanted = None
    if expect is not None:
        try:
            low, high = (float(x) for x in expect.replace(",", ".").split("-"))
            wanted = tempo_range.of(low, high)
        except ValueError:
            print(f"mervid: '{expect}' is no range of tempo: write it as 90-130", file=sys.stderr)
            return 2
        except MervidError as e:
            print(f"mervid: {e}", file=sys.stderr)
            return 2
    failed = 0
    for f in files:
        try:
            facts, evidence = analysis.analyse(f)
        except MervidError as e:
            failed += 1
            print(f"mervid: {e}", file=sys.stderr)
            continue
        if evidence.problem:
            print(evidence.problem, file=sys.stderr)
        first = listening_edits.propose(evidence, facts.duration, wanted)
        told = report(Question(first, evidence, facts.duration, facts.delay_known, wanted))
        print(f"{shown(f)}\t{told.kind}", flush=True)
        for finding in told.findings:
            at = f"{finding.start:.2f} s" if finding.start is not None else ""
            print(f"\t{finding.weight}\t{at}\t{finding.text}", flush=True)
    return 1 if failed else 0


def recipe_named(name: str) -> Recipe:
    """The recipe in a file, or the shipped one of that name. Raises `FormatError`."""
    from .core.errors import FormatError
    from .formats import recipe

    path = Path(name)
    if path.suffix == ".toml" or path.exists():
        return recipe.load(path)
    known = recipe.shipped()
    found = [r for r in known if r.name.lower() == name.lower()]
    if not found:
        raise FormatError(f"there is no recipe '{name}'; shipped are: {', '.join(r.name for r in known)}")
    return found[0]


def prepare(files: list[Path], out: Path, recipe: str | None = None, jobs: int | None = None) -> int:
    """Hear, fit and export each file; one line a track on stdout, progress on stderr."""
    from .core.errors import MervidError
    from .core.sound.names import shown

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

    from . import places
    from .jobs.pool import ENDS, Pool

    pool = Pool(places.cache_folder(), workers=min(jobs or len(os.sched_getaffinity(0)), len(files)))
    for job, f in enumerate(files):
        pool.call(job, "prepare", os.fsencode(f), os.fsencode(out), recipe)
    parts, ended, failed, next_line = [0.0] * len(files), dict[int, tuple[str, object]](), 0, 0
    line = _Progress(len(files))
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


class _Progress:
    """One line for all recordings: written over on a terminal, else anew at each tenth."""

    def __init__(self, of: int) -> None:
        self._of, self._last = of, ""

    def show(self, done: int, share: float) -> None:
        """So many are done, and so much of all."""
        percent = int(100 * share / self._of)
        terminal = sys.stderr.isatty()
        text = f"{done} of {self._of} done, {percent if terminal else percent // 10 * 10} %"
        if text != self._last:
            self._last = text
            print(f"\r{text}" if terminal else text, end="" if terminal else "\n", file=sys.stderr, flush=True)

    def clear(self) -> None:
        """Make room for another line."""
        if self._last and sys.stderr.isatty():
            print("\r\033[K", end="", file=sys.stderr, flush=True)
            self._last = ""
