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


def parser(command: str | None) -> argparse.ArgumentParser:
    """The parser of `mervid prepare ...`, of `mervid tell ...`, or of `mervid [FILE ...]`."""
    if command == "tell":
        p = _Parser(
            prog="mervid tell", description="Hear recordings and say what is odd about each; nothing is written."
        )
        p.add_argument("files", nargs="+", metavar="FILE", help="recordings")
        p.add_argument("--expect", metavar="LOW-HIGH", help="range of tempo in BPM that is expected, such as 90-130")
        return p
    if command == "prepare":
        p = _Parser(
            prog="mervid prepare", description="Hear recordings, fit grids that follow them, and export both formats."
        )
        p.add_argument("files", nargs="+", metavar="FILE", help="recordings")
        p.add_argument("--out", required=True, metavar="DIR", help="folder for STEM.jams and STEM.beats.txt")
        p.add_argument("--recipe", metavar="FILE", help="place cues by this recipe (TOML), or by a shipped one's name")
        return p
    p = _Parser(
        prog="mervid",
        description="Prepare recordings for mixing: hear the beats, see the drift, fit a grid that stays.",
        epilog="'mervid prepare FILE... --out DIR' does the same job without a window, "
        "'mervid tell FILE...' says what is odd about recordings.",
    )
    p.add_argument("files", nargs="*", metavar="FILE", help="recordings to open")
    p.add_argument("--demo", action="store_true", help="open the demo set 'Tideline Social'")
    p.add_argument("--version", action="version", version=f"Mervid {__version__}")
    return p


def main(argv: Sequence[str] | None = None) -> int:
    """Run the command line; returns the exit code."""
    words = list(sys.argv[1:] if argv is None else argv)
    if words[:1] == ["prepare"]:
        options = parser("prepare").parse_args(words[1:])
        return prepare([Path(f) for f in options.files], Path(options.out), options.recipe)
    if words[:1] == ["tell"]:
        options = parser("tell").parse_args(words[1:])
        return tell([Path(f) for f in options.files], options.expect)
    options = parser(None).parse_args(words)
    files = [Path(f) for f in options.files]
    from .core.errors import AudioError
    from .core.sound.decoding import check_readable

    for f in files:
        try:
            if not f.is_dir():
                check_readable(f)
        except AudioError as e:
            print(f"mervid: {e}", file=sys.stderr)
            return 2
    from .desk.app import run

    return run(files, demo=options.demo)


def tell(files: list[Path], expect: str | None) -> int:
    """Hear each file and print its kind of time and its findings."""
    from .core.edits import listening_edits
    from .core.errors import MervidError
    from .core.findings.report import Question, report
    from .core.hearing import analysis
    from .core.model import tempo_range
    from .core.sound.decoding import shown

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


def prepare(files: list[Path], out: Path, recipe: str | None = None) -> int:
    """Hear, fit and export each file; one line a track on stdout, progress on stderr."""
    from .core.errors import MervidError
    from .core.sound.decoding import shown

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
    failed = 0
    for number, f in enumerate(files, 1):
        try:
            print(_prepare_one(f, out, f"[{number}/{len(files)}] {shown(f)}", rules), flush=True)
        except MervidError as e:
            failed += 1
            print(f"\rmervid: {e}", file=sys.stderr)
        except OSError as e:
            failed += 1
            print(f"\rmervid: {shown(f)}: nothing could be written: {e.strerror or e}", file=sys.stderr)
    return 1 if failed else 0


def _prepare_one(path: Path, out: Path, label: str, recipe: Recipe | None) -> str:
    from .core.cues import recipes
    from .core.edits import grid_edits
    from .core.errors import AudioError
    from .core.fitting import drift, proposal
    from .core.form import phrase_edits
    from .core.hearing import analysis
    from .core.sound.decoding import shown
    from .formats import exchange

    last = [-1]

    def progress(part: float) -> None:
        percent = int(part * 20) * 5
        if percent != last[0]:
            last[0] = percent
            print(f"{label} {percent} %", file=sys.stderr)

    facts, evidence = analysis.analyse(path, progress=progress)
    if evidence.problem:
        print(evidence.problem, file=sys.stderr)
    first = proposal.propose(evidence.heard, facts.duration)
    if first.grid is None:
        raise AudioError(f"{shown(path)}: no beats could be heard in it.")
    p = grid_edits.follow_recording(first, evidence.heard)
    stem = os.path.splitext(os.path.basename(path))[0]
    title = shown(stem)
    assert p.grid is not None
    if recipe is not None:
        form = phrase_edits.form_of(p, evidence, facts.duration)
        vocal = recipes.vocal_start(evidence, p.grid)
        p, told = recipes.work_out(p, recipe, recipes.Place(p.grid, form, facts.duration, vocal))
        for problem in told.problems:
            print(f"{title}: not placed: {problem}", file=sys.stderr)
    what = exchange.Subject(p, evidence, title, facts.duration, path, facts.rate)
    for ending in (exchange.JAMS, exchange.BEATS):
        exchange.export(what, out / f"{stem}{ending}")
    assert p.grid is not None
    trace = drift.trace_of(p, evidence.heard)
    worst = (drift.summary(trace).worst or 0.0) if trace is not None else 0.0
    lo, hi = float(p.grid.tempi.min()), float(p.grid.tempi.max())
    tempo = f"{p.grid.tempo_overall():.3f} BPM\trange {lo:.2f}-{hi:.2f}"
    return f"{title}\t{tempo}\t{len(p.grid.pins)} pins\tworst {worst:.1f} ms"
