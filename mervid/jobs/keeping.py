"""What becomes of a finished hearing in the library; the window and the command line do the same."""

from __future__ import annotations

import attrs

from ..core.model.tolerance import Tolerance
from ..store import facts
from ..store.library import Library
from .worker import Done


def keep(library: Library, track_id: int, done: Done, tolerance: Tolerance | None = None) -> None:
    """Keep what was heard; the same sound under another name brings the work done on it along.

    Parameters
    ----------
    tolerance : how far a beat may stray in it; None for the usual

    Raises
    ------
    StoreError
        It can't be written.
    """
    same = library.known(library.track(track_id).identity, track_id)
    if same is not None and library.history(track_id).undo is None:
        facts.copy_work(library, same.id, track_id)
    else:
        first = done.first if tolerance is None else attrs.evolve(done.first, tolerance=tolerance)
        library.set_evidence(track_id, done.heard, done.waveform, first)
        library.set_outlook(track_id, done.kind, done.doubts, done.finding)
        facts.set_character(library, track_id, done.character)
