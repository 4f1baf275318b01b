"""`mervid together`: two recordings laid over each other and written as one, with an account of every beat."""

from __future__ import annotations

import argparse
import os
import sys
import tempfile
from contextlib import closing
from pathlib import Path
from typing import TYPE_CHECKING

import attrs

from .. import places
from ..core.errors import MervidError, Refused
from ..core.figures import share
from ..core.pairs import places as pair_places
from ..core.pairs import proposals
from ..core.pairs.meeting import CLOCKS, GLIDE, LEAVING, MOST_BARS, STEADY, Meeting
from ..core.sound.decoding import check_readable
from ..core.sound.names import shown
from .progress import Progress

if TYPE_CHECKING:
    from ..core.pairs.side import Side

_TASKS = 3
"""Hearing the one, hearing the other, writing."""


def run(command: str, options: argparse.Namespace) -> int:
    """Do it; the exit code."""
    line = Progress(_TASKS, logged=False)
    try:
        return _run(options, line)
    except MervidError as e:
        line.clear()
        print(f"mervid: {str(e).splitlines()[0]}", file=sys.stderr)
        return 2
    except OSError as e:
        line.clear()
        print(f"mervid: the mix could not be written: {e.strerror or e}", file=sys.stderr)
        return 2


def _run(options: argparse.Namespace, line: Progress) -> int:
    from ..jobs import mixdown, sides

    files = [Path(options.leaving), Path(options.coming)]
    for f in files:
        check_readable(f)
    clock, tempo = clock_of(options.clock)
    out = Path(options.out)
    out.mkdir(parents=True, exist_ok=True)
    if not os.access(out, os.W_OK):
        raise PermissionError(13, f"no permission to write in {out}")
    pair = []
    for done, f in enumerate(files):
        there = known(f)
        pair.append(there or sides.hear(f, lambda share, n=done: line.show(n, n + share)))  # type: ignore[misc]
        line.show(done + 1, done + 1)
    leaving, coming = pair
    meeting, reasons = settled(leaving, coming, options)
    meeting = attrs.evolve(meeting, clock=clock, tempo=tempo, hold_pitch=not options.varispeed)
    line.logged = True
    with tempfile.TemporaryDirectory(prefix="mervid-together-") as folder:
        voices = []
        for side, f in zip(pair, files, strict=True):
            samples, facts = sides.sound(f, Path(folder))
            voices.append(mixdown.Voice(side, samples, facts.rate, f))
        made = mixdown.write(
            voices[0],
            voices[1],
            meeting,
            out / "mix.flac",
            json=out / "mix.json",
            split=options.split,
            progress=lambda share: line.show(2, 2 + share),
        )
    line.clear()
    p95 = "too few beats heard to tell" if made.p95 is None else f"95 % heard within {made.p95:.1f} ms"
    print(
        f"{leaving.title} at {pair_places.name(leaving, meeting.at)}, {coming.title} from "
        f"{pair_places.name(coming, meeting.enter)}, {meeting.bars} bars: {p95}, foretold {made.expected.p95:.1f} ms, "
        f"safe with a chance of {share(made.expected.safe)}."
    )
    if reasons:
        print(reasons)
    if made.gain < 1:
        print(f"The whole was turned down to {made.gain:.2f}, so that it doesn't clip.")
    return 0


def clock_of(text: str) -> tuple[str, float]:
    """The clock and its tempo that words name. Raises `Refused`."""
    name, _, tempo = text.partition(":")
    if name in (LEAVING, GLIDE) and not tempo:
        return name, 0.0
    if name == STEADY and tempo:
        try:
            return STEADY, Meeting(0, 0, clock=STEADY, tempo=float(tempo.replace(",", "."))).tempo
        except ValueError:
            pass
    raise Refused(f"'{text}' is no clock: {LEAVING}, {STEADY}:TEMPO or {GLIDE}.")


def settled(leaving: Side, coming: Side, options: argparse.Namespace) -> tuple[Meeting, str]:
    """The meeting that is asked for, and why it is there where that was left open."""
    at = pair_places.place(leaving, options.at) if options.at else None
    enter = pair_places.place(coming, options.enter) if options.enter else None
    best = proposals.propose(
        leaving, coming, bars=options.bars, at=at, enter=enter, hold_pitch=not options.varispeed, most=1
    )[0]
    return best.meeting, best.words if at is None or enter is None else ""


def known(path: Path) -> Side | None:
    """The track as the library knows it; None where it doesn't."""
    from ..store.library import Library
    from ..store.sides import side

    library = Library.reader(places.data_folder() / "library.sqlite")
    if library is None:
        return None
    with closing(library):
        row = library.row("SELECT id FROM tracks WHERE path=? AND out=0", (os.fsencode(os.path.abspath(path)),))
        try:
            return side(library, library.track(int(row[0]))) if row is not None else None
        except Refused as e:
            print(f"mervid: {e} {shown(path)} is heard anew.", file=sys.stderr)
            return None


def _bars(text: str) -> int:
    """A number of bars."""
    if not text.isdigit() or not 1 <= int(text) <= MOST_BARS:
        raise argparse.ArgumentTypeError(f"'{text}' is no number of bars: 1 to {MOST_BARS}")
    return int(text)


def add_options(command: str, p: argparse.ArgumentParser) -> None:
    """What can be said of a mix."""
    p.add_argument("leaving", metavar="LEAVING", help="the recording that is playing")
    p.add_argument("coming", metavar="COMING", help="the recording that comes in")
    where = "a bar (33), seconds (61.2s), a cue's name, or a role (drop, outro)"
    p.add_argument("--at", metavar="PLACE", default="", help=f"where in LEAVING they meet: {where}")
    p.add_argument("--enter", metavar="PLACE", default="", help=f"where COMING comes in: {where}")
    p.add_argument("--bars", metavar="N", type=_bars, help="length of the overlap in bars; what fits, up to 32")
    pitch = p.add_mutually_exclusive_group()
    pitch.add_argument("--hold-pitch", action="store_true", help="pitch stays when the speed changes (the default)")
    pitch.add_argument("--varispeed", action="store_true", help="pitch goes with the speed")
    clocks = ", ".join(c if c != STEADY else f"{STEADY}:TEMPO" for c in CLOCKS)
    p.add_argument("--clock", metavar="CLOCK", default=LEAVING, help=f"whose time is kept: {clocks}")
    p.add_argument("--split", action="store_true", help="LEAVING left, COMING right, both at full level")
    p.add_argument("--out", required=True, metavar="DIR", help="folder for mix.flac, mix.jams and mix.json")
