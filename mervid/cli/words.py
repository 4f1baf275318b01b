"""What the commands have in common: recordings that are named, numbers of them."""

from __future__ import annotations

import argparse
import sys
from pathlib import Path


def count(text: str) -> int:
    """A whole number from 1 on."""
    if not text.isdigit() or int(text) < 1:
        raise argparse.ArgumentTypeError(f"'{text}' is no number of recordings: 1 or more")
    return int(text)


def gathered(words: list[str]) -> tuple[list[Path], int]:
    """The recordings behind files, folders and playlists, and 1 where some aren't there, which is said on stderr."""
    from ..jobs.gathering import gather

    found = gather(Path(w) for w in words)
    for remark in found.remarks:
        print(f"mervid: {remark}", file=sys.stderr)
    if not found.files and not found.remarks:
        print("mervid: there is no recording in what was named", file=sys.stderr)
    return list(found.files), int(bool(found.remarks))
