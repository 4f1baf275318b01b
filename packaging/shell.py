"""Manual pages, and completion for two shells, made from the parsers of the command line: shell.py SHARE."""

from __future__ import annotations

import argparse
import gzip
import os
import re
import sys
from pathlib import Path

import shtab
from argparse_manpage.manpage import Manpage

from mervid import __version__, cli

EPOCH = int(os.environ["SOURCE_DATE_EPOCH"])


def whole() -> argparse.ArgumentParser:
    """All commands under one parser, as a shell sees them."""
    top = argparse.ArgumentParser("mervid", description=cli.parser(None).description)
    top.add_argument("--version", action="store_true", help="show program's version number and exit")
    top.add_argument("--demo", action="store_true", help="open the demo set 'Tideline Social'")
    under = top.add_subparsers(dest="command", metavar="COMMAND")
    for name, command in cli.COMMANDS.items():
        made = cli.parser(name)
        under.add_parser(name, parents=[made], add_help=False, help=command.does, description=command.does)
    for parser in (top, *under.choices.values()):
        for action in parser._actions:
            if action.metavar in ("FILE", "PATH", "DIR", "LEAVING", "COMING", "OUT"):
                action.complete = shtab.DIR if action.metavar == "DIR" else shtab.FILE  # type: ignore[attr-defined]
    return top


def manual(parser: argparse.ArgumentParser, name: str) -> bytes:
    """A manual page, packed."""
    parser._manpage = []  # type: ignore[attr-defined]
    page = Manpage(parser, format="pretty")
    page.prog = name
    page.version, page.manual, page.project_name = __version__, "Mervid", "mervid"
    text = str(page)
    # the day of the build is no news
    text = re.sub(r'^(\.TH \S+ "1" )"[^"]*"', rf'\1"Mervid {__version__}"', text, count=1, flags=re.M)
    return gzip.compress(text.encode(), mtime=EPOCH)


def main(share: Path) -> None:
    """Write them where the system looks for them."""
    pages = share / "man/man1"
    pages.mkdir(parents=True)
    (pages / "mervid.1.gz").write_bytes(manual(cli.parser(None), "mervid"))
    for name in cli.COMMANDS:
        (pages / f"mervid-{name}.1.gz").write_bytes(manual(cli.parser(name), f"mervid-{name}"))
    for shell, place in (("bash", "bash-completion/completions/mervid"), ("zsh", "zsh/vendor-completions/_mervid")):
        target = share / place
        target.parent.mkdir(parents=True)
        target.write_text(shtab.complete(whole(), shell))


if __name__ == "__main__":
    main(Path(sys.argv[1]))
