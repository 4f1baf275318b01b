"""`mervid tell`: what is odd about recordings."""

from __future__ import annotations

import argparse
import sys
from pathlib import Path

from .words import gathered


def add_options(command: str, p: argparse.ArgumentParser) -> None:
    """The options of the command."""
    p.add_argument("files", nargs="+", metavar="FILE", help="recordings, folders of them, playlists")
    p.add_argument("--expect", metavar="LOW-HIGH", help="range of tempo in BPM that is expected, such as 90-130")


def run(command: str, options: argparse.Namespace) -> int:
    """Do what was asked; the exit code."""
    named, missed = gathered(options.files)
    return 2 if not named else max(missed, tell(named, options.expect))


def tell(files: list[Path], expect: str | None) -> int:
    """Hear each file and print its kind of time and its findings."""
    from ..core.edits import listening_edits
    from ..core.errors import MervidError
    from ..core.findings.report import Question, report
    from ..core.hearing import analysis
    from ..core.model import tempo_range
    from ..core.sound.names import shown

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
