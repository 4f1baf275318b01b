"""Tracks of the library as sides of a pair."""

from __future__ import annotations

from contextlib import closing
from pathlib import Path

from ..core.errors import FormatError, Refused
from ..core.form import phrase_edits
from ..core.pairs.side import Side
from .library import Library
from .track import READY, Track


def side(library: Library, track: Track) -> Side:
    """All that a pair needs of a track.

    Raises
    ------
    Refused
        It isn't heard yet, what is stored of it is damaged, or it has no grid.
    """
    if track.state != READY:
        raise Refused(f"{track.title} isn't heard yet.")
    try:
        found = library.evidence(track.id, lesser=True)
        preparation = library.history(track.id).preparation
    except FormatError as e:
        raise Refused(f"{track.title}: {e}") from None
    if preparation.grid is None:
        raise Refused(f"{track.title} has no grid yet: give it one in Align first.")
    evidence = found[0] if found is not None else None
    form = phrase_edits.form_of(preparation, evidence, track.duration)
    return Side(track.title, preparation, evidence, track.duration, form, track.key, track.lufs, track.drive)


def with_row(library: Library, track_id: int) -> tuple[Track, Side]:
    """A track's row, and the track as a side. Raises as `side` does, and `StoreError`."""
    track = library.track(track_id)
    return track, side(library, track)


def read(path: Path, track_id: int) -> tuple[Track, Side]:
    """The same for a thread, over a connection of its own. Raises `Refused`, too, where there is no library."""
    own = Library.reader(path)
    if own is None:
        raise Refused("Your library can't be read.")
    with closing(own):
        return with_row(own, track_id)
