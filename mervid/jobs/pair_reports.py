"""Reports of many pairs, from stored evidence, in a process of its own: no sound is decoded again."""

from __future__ import annotations

from collections import OrderedDict, deque
from collections.abc import Sequence
from contextlib import closing
from pathlib import Path
from typing import Any

import attrs

from ..core.errors import Cancelled, MervidError, Refused
from ..core.pairs.meeting import Meeting
from ..core.pairs.report import Report, report
from ..core.pairs.side import Side
from ..store import sides
from ..store.library import Library
from ..store.track import Track
from .lifeline import OneProcess

AT_ONCE = 8
_KEPT = 256
"""Tracks that the process remembers: some 2 MB each."""


@attrs.frozen
class Question:
    """A pair of tracks, and where they meet if that is settled."""

    leaving: int
    coming: int
    meeting: Meeting | None = None


def shown_by(track: Track) -> tuple[object, ...]:
    """What of a track the reports of its pairs depend on: while this is the same, so are they."""
    return track.changed, track.state, track.title, track.key, track.lufs, track.drive


_sides: OrderedDict[tuple[Any, ...], Side | str] = OrderedDict()
"""In the process: tracks by number and what reports depend on, or why one can't be read."""


def answered(path: Path, questions: Sequence[Question]) -> list[tuple[Question, Report]]:
    """The reports of these pairs."""
    library = Library.reader(path)
    if library is None:
        raise MervidError("Your library can't be read.")
    with closing(library):
        out = []
        for q in questions:
            a, b = _side(library, q.leaving), _side(library, q.coming)
            why = next((x for x in (a, b) if isinstance(x, str)), "")
            if isinstance(a, str) or isinstance(b, str):
                out.append((q, Report(None, why)))
            else:
                out.append((q, report(a, b, q.meeting)))
        return out


def _side(library: Library, track_id: int) -> Side | str:
    found = library.tracks([track_id])
    if not found or found[0].out:
        return "This track is not in your library any more."
    track = found[0]
    key = (track_id, *shown_by(track))
    if key not in _sides:
        try:
            _sides[key] = sides.side(library, track)
        except Refused as e:
            _sides[key] = str(e)
        while len(_sides) > _KEPT:
            _sides.popitem(last=False)
    _sides.move_to_end(key)
    return _sides[key]


class PairReports:
    """Asks for reports, some at a time, and collects them; a new question ends the one before."""

    def __init__(self, library: Path) -> None:
        self._library = library
        self._process = OneProcess("pairs")
        self._newest = 0
        self._answers: deque[tuple[int, list[tuple[Question, Report]] | str]] = deque()

    def ask(self, questions: Sequence[Question]) -> None:
        """Begin to work these out."""
        self._newest += 1
        self._process.later(self._work, self._newest, tuple(questions))

    def _work(self, number: int, questions: tuple[Question, ...]) -> None:
        for i in range(0, len(questions), AT_ONCE):
            if number != self._newest:
                return
            try:
                self._answers.append((number, self._process.call(answered, self._library, questions[i : i + AT_ONCE])))
            except Cancelled:
                return
            except (MervidError, OSError) as e:
                self._answers.append((number, str(e)))
                return
            except Exception as e:
                self._answers.append((number, f"The pairs could not be judged ({type(e).__name__})."))
                return

    def poll(self) -> list[list[tuple[Question, Report]] | str]:
        """What came since the last call: reports, or why there are none."""
        out = []
        while self._answers:
            number, answer = self._answers.popleft()
            if number == self._newest:
                out.append(answer)
        return out

    def forget(self) -> None:
        """Nobody waits for an answer any more."""
        self._newest += 1

    def close(self) -> None:
        """End the process."""
        self.forget()
        self._process.close()
