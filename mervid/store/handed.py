"""What leaves the library: a track with all that is written of it, and what is kept of a file that was written."""

from __future__ import annotations

import os
from collections.abc import Sequence
from pathlib import Path

from ..core.form import phrase_edits
from ..core.library.outgoing import Outgoing
from ..core.pairs.side import Side
from .library import Library
from .sides import side
from .tagging import said_of
from .track import Track


def track_at(library: Library, path: Path) -> Track | None:
    """The track whose file that is; None where the library doesn't know it."""
    row = library.row("SELECT id FROM tracks WHERE path=? AND out=0", (os.fsencode(os.path.abspath(path)),))
    return library.track(int(row[0])) if row is not None else None


def known(library: Library, path: Path) -> tuple[Side, Outgoing, int] | None:
    """What the library knows of a file: as a side, as words, and its samples a second; None where it doesn't.

    Raises
    ------
    Refused
        It isn't heard yet, or has no grid.
    """
    track = track_at(library, path)
    return outgoing(library, track) if track is not None else None


def outgoing(library: Library, track: Track) -> tuple[Side, Outgoing, int]:
    """What is written of a track. Raises `Refused` where it isn't heard, or has no grid."""
    what = side(library, track)
    said = said_of(library, [track.id])[track.id]
    p = what.preparation
    return (
        what,
        Outgoing(
            said.shown,
            tuple(said.own),
            what.grid.tempo_overall(),
            track.key,
            track.drive,
            phrase_edits.line_of(p, what.form),
            track.kind,
            track.form,
            len(p.cues),
            track.readiness,
        ),
        track.rate,
    )


def note_written(library: Library, paths: Sequence[Path]) -> None:
    """The tags of these files were written: what they say is read again, and they are no other recordings by it."""
    with library.writing() as db:
        for path in paths:
            try:
                state = path.stat()
            except OSError:
                continue
            db.execute(
                "UPDATE tracks SET file_tags='', size=?, changed_ns=?, contents='' WHERE path=?",
                (state.st_size, state.st_mtime_ns, os.fsencode(os.path.abspath(path))),
            )
