"""The command line: the window, or the same work without one.

Exit codes: 0 all done, 1 some recordings failed, 2 wrong usage.
"""

from __future__ import annotations

import argparse
import sys
from collections.abc import Sequence
from pathlib import Path

from .. import __version__


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
    if command == "together":
        from . import together

        p = _Parser(
            prog="mervid together",
            description="Lay one recording over the end of another, beat upon beat, and write the mix.",
        )
        together.add_options(p)
        return p
    if command == "straighten":
        from . import straightening

        p = _Parser(
            prog="mervid straighten", description="Render recordings anew at one steady tempo, and hear the result."
        )
        straightening.add_options(p)
        return p
    if command == "deliver":
        from . import delivering

        p = _Parser(
            prog="mervid deliver", description="Write a list into a folder or onto a stick, for a kind of player."
        )
        delivering.add_options(p)
        return p
    if command == "sheet":
        from . import sheets

        p = _Parser(prog="mervid sheet", description="Write a playlist as a sheet of paper for the booth.")
        sheets.add_options(p)
        return p
    if command in ("backup", "restore"):
        from . import keeping

        said = {
            "backup": "Write the whole library into one file.",
            "restore": "Put a library back from its backup, with a look at what changes; or take JAMS files over.",
        }
        p = _Parser(prog=f"mervid {command}", description=said[command])
        (keeping.add_backup_options if command == "backup" else keeping.add_restore_options)(p)
        return p
    if command == "tag":
        from . import tagging

        p = _Parser(prog="mervid tag", description="Write what is known of recordings into their tags.")
        tagging.add_options(p)
        return p
    if command == "config":
        from . import config

        p = _Parser(prog="mervid config", description="Show where everything lies and what is set.")
        config.add_options(p)
        return p
    if command in LIBRARY:
        return _library_parser(command)
    p = _Parser(
        prog="mervid",
        description="Prepare recordings for mixing: hear the beats, see the drift, fit a grid that stays.",
        epilog="'mervid prepare FILE... --out DIR' does the same job without a window, "
        "'mervid tell FILE...' says what is odd about recordings, 'mervid together LEAVING COMING --out DIR' lays one "
        "over the end of another. 'mervid add PATH...', 'mervid list', "
        "'mervid show FILE' and 'mervid lists' work on the library, also while the window is open. "
        "'mervid straighten', 'tag', 'deliver', 'sheet', 'backup' and 'restore' hand on what was prepared. "
        "'mervid config' shows where everything lies.",
    )
    p.add_argument("files", nargs="*", metavar="FILE", help="recordings, folders of them and playlists to open")
    p.add_argument("--demo", action="store_true", help="open the demo set 'Tideline Social'")
    p.add_argument("--version", action="version", version=f"Mervid {__version__}")
    return p


LIBRARY = ("add", "list", "show", "lists")
"""Commands on the library."""


def _library_parser(command: str) -> argparse.ArgumentParser:
    said = {
        "add": "Take recordings, folders with all below them, and playlists into the library, and hear them.",
        "list": "List the tracks of the library.",
        "show": "All that is known of one track.",
        "lists": "The lists and standing searches of the library.",
    }
    p = _Parser(prog=f"mervid {command}", description=said[command])
    if command == "add":
        p.add_argument("files", nargs="+", metavar="PATH", help="recordings, folders, playlists")
        p.add_argument("--jobs", metavar="N", type=_count, help="recordings heard at once; as many as there are cores")
        p.add_argument("--lists", action="store_true", help="make lists of folders, too, as of playlists")
        p.add_argument("--later", action="store_true", help="take in only; the window hears them when it is open")
    elif command == "show":
        p.add_argument("file", metavar="FILE", help="a recording that is in the library")
        p.add_argument("--json", action="store_true", help="as one JSON object")
    else:
        form = p.add_mutually_exclusive_group()
        form.add_argument("--json", action="store_true", help="as a JSON array")
        form.add_argument("--tsv", action="store_true", help="as lines of values between tabs, the first one of names")
        if command == "list":
            words = "words that must be there, and filters such as tempo:110-118 key:Am genre:disco person: missing:"
            p.add_argument("--where", metavar="WORDS", default="", help=words)
            p.add_argument("--sort", metavar="COLUMN", default="", help="a column to sort by; COLUMN:down for downward")
            p.add_argument(
                "--in", dest="of", metavar="LIST", default="", help="only the tracks of this list, in its order"
            )
    return p


def main(argv: Sequence[str] | None = None) -> int:
    """Run the command line; returns the exit code."""
    words = list(sys.argv[1:] if argv is None else argv)
    if words[:1] == ["prepare"]:
        options = parser("prepare").parse_args(words[1:])
        from . import preparing

        named, missed = gathered(options.files)
        return (
            2 if not named else max(missed, preparing.prepare(named, Path(options.out), options.recipe, options.jobs))
        )
    if words[:1] == ["together"]:
        from . import together

        return together.run(parser("together").parse_args(words[1:]))
    if words[:1] == ["straighten"]:
        from . import straightening

        return straightening.run(parser("straighten").parse_args(words[1:]))
    if words[:1] == ["deliver"]:
        from . import delivering

        return delivering.run(parser("deliver").parse_args(words[1:]))
    if words[:1] == ["sheet"]:
        from . import sheets

        return sheets.run(parser("sheet").parse_args(words[1:]))
    if words[:1] and words[0] in ("backup", "restore"):
        from . import keeping

        return keeping.run(words[0], parser(words[0]).parse_args(words[1:]))
    if words[:1] == ["tag"]:
        from . import tagging

        return tagging.run(parser("tag").parse_args(words[1:]))
    if words[:1] == ["config"]:
        from . import config

        return config.run(parser("config").parse_args(words[1:]))
    if words[:1] and words[0] in LIBRARY:
        from . import library

        return library.run(words[0], parser(words[0]).parse_args(words[1:]))
    if words[:1] == ["tell"]:
        options = parser("tell").parse_args(words[1:])
        named, missed = gathered(options.files)
        return 2 if not named else max(missed, tell(named, options.expect))
    options = parser(None).parse_args(words)
    files = [Path(f) for f in options.files]
    from ..core.errors import MervidError
    from ..core.sound.decoding import check_readable
    from ..formats import playlist
    from ..jobs.gathering import is_list

    for f in files:
        try:
            if is_list(f):
                playlist.read(f)
            elif not f.is_dir():
                check_readable(f)
        except MervidError as e:
            print(f"mervid: {e}", file=sys.stderr)
            return 2
    from ..desk.app import run

    return run(files, demo=options.demo)


def gathered(words: list[str]) -> tuple[list[Path], int]:
    """The recordings behind files, folders and playlists, and 1 where some aren't there, which is said on stderr."""
    from ..jobs.gathering import gather

    found = gather(Path(w) for w in words)
    for remark in found.remarks:
        print(f"mervid: {remark}", file=sys.stderr)
    if not found.files and not found.remarks:
        print("mervid: there is no recording in what was named", file=sys.stderr)
    return list(found.files), int(bool(found.remarks))


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
