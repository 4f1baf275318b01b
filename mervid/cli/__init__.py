"""The command line: the window, or the same work without one.

Exit codes: 0 all done, 1 some recordings failed, 2 wrong usage.
"""

from __future__ import annotations

import argparse
import sys
from collections.abc import Sequence
from importlib import import_module
from pathlib import Path

import attrs

from .. import __version__


class _Parser(argparse.ArgumentParser):
    """Says what is wrong in one line."""

    def error(self, message: str):  # type: ignore[no-untyped-def]
        print(f"mervid: {message}", file=sys.stderr)
        sys.exit(2)


@attrs.frozen
class Command:
    """`mervid NAME ...`: what it does, and the module of this package whose `add_options` and `run` do it."""

    module: str
    does: str


COMMANDS = {
    "prepare": Command("preparing", "Hear recordings, fit grids that follow them, and export both formats."),
    "tell": Command("telling", "Hear recordings and say what is odd about each; nothing is written."),
    "together": Command("together", "Lay one recording over the end of another, beat upon beat, and write the mix."),
    "add": Command(
        "library", "Take recordings, folders with all below them, and playlists into the library, and hear them."
    ),
    "list": Command("library", "List the tracks of the library."),
    "show": Command("library", "All that is known of one track."),
    "lists": Command("library", "The lists and standing searches of the library."),
    "cues": Command("cueing", "Place cues by a recipe in many tracks of the library; --undo undoes the last run."),
    "straighten": Command("straightening", "Render recordings anew at one steady tempo, and hear the result."),
    "tag": Command("tagging", "Write what is known of recordings into their tags."),
    "deliver": Command("delivering", "Write a list into a folder or onto a stick, for a kind of player."),
    "sheet": Command("sheets", "Write a playlist as a sheet of paper for the booth."),
    "backup": Command("keeping", "Write the whole library into one file."),
    "restore": Command(
        "keeping", "Put a library back from its backup, with a look at what changes; or take JAMS files over."
    ),
    "config": Command("config", "Show where everything lies and what is set."),
}
"""What can be asked for without a window, in the order of the work."""


def parser(command: str | None) -> argparse.ArgumentParser:
    """The parser of `mervid COMMAND ...`, or of `mervid [FILE ...]`."""
    if command is not None:
        p = _Parser(prog=f"mervid {command}", description=COMMANDS[command].does)
        import_module(f".{COMMANDS[command].module}", __name__).add_options(command, p)
        return p
    p = _Parser(
        prog="mervid",
        description="Prepare recordings for mixing: hear the beats, see the drift, fit a grid that stays.",
        formatter_class=argparse.RawDescriptionHelpFormatter,
        epilog="without a window:\n" + "\n".join(f"  mervid {name:11} {c.does}" for name, c in COMMANDS.items()),
    )
    p.add_argument("files", nargs="*", metavar="FILE", help="recordings, folders of them and playlists to open")
    p.add_argument("--demo", action="store_true", help="open the demo set 'Tideline Social'")
    p.add_argument("--version", action="version", version=f"Mervid {__version__}")
    return p


def main(argv: Sequence[str] | None = None) -> int:
    """Run the command line; returns the exit code."""
    words = list(sys.argv[1:] if argv is None else argv)
    if words and words[0] in COMMANDS:
        options = parser(words[0]).parse_args(words[1:])
        done: int = import_module(f".{COMMANDS[words[0]].module}", __name__).run(words[0], options)
        return done
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
