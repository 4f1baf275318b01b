"""Copies in the library: found in a thread once nothing is left to hear, and one action to join the work on them."""

from __future__ import annotations

import threading
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import closing
from pathlib import Path

from PyQt6.QtCore import QObject, QTimer

from ...core.edits import track_edits
from ...core.errors import MervidError, Refused
from ...core.model import preparation
from ...jobs.identifier import Answer, Identifier
from ...store import copies, facts
from ...store.copies import Group
from ...store.library import Library
from ...store.track import READY, Track
from ..theme.tr import tr
from .catalogue import PREPARATION, STATE, Catalogue
from .messages import Messages

POLL_MS = 150


def _compare(path: Path, stop: threading.Event) -> list[int]:
    with closing(Library(path)) as own:
        return copies.compare_new(own, stop)


class Copies(QObject):
    """Finds copies, says which is better, and hands work from one to the other."""

    def __init__(self, catalogue: Catalogue, say: Messages) -> None:
        super().__init__()
        self.catalogue, self.library, self.say = catalogue, catalogue.library, say
        self._hand = ThreadPoolExecutor(1, thread_name_prefix="copies")
        self._stop = threading.Event()
        self._found: Future[list[int]] | None = None
        self._identifier = Identifier()
        self._timer = QTimer(self)
        self._timer.setInterval(POLL_MS)
        self._timer.timeout.connect(self.poll)
        self._asked: set[tuple[int, int]] = set()

    def close(self) -> None:
        """End thread and process."""
        self._timer.stop()
        self._stop.set()
        self._hand.shutdown(wait=True, cancel_futures=True)
        self._identifier.close()

    def look(self) -> None:
        """Compare what is new with all there is."""
        if self.library.path is not None and self._found is None and not self._stop.is_set():
            self._found = self._hand.submit(_compare, self.library.path, self._stop)
            self._timer.start()

    def poll(self) -> None:
        """Hear what thread and process found."""
        if self._found is not None and self._found.done():
            found, self._found = self._found, None
            try:
                self.catalogue.tell_many(found.result())
            except MervidError as e:
                self.say.problem(str(e))
        for key, answer in self._identifier.poll():
            assert isinstance(key, tuple)
            self._lies(key[0], key[1], answer)
        if self._found is None and not self._asked:
            self._timer.stop()

    def group_of(self, track: Track) -> Group | None:
        """The files of the performance that a track holds."""
        return copies.group_of(self.library, track)

    def hand_over(self, source: int, target: int) -> None:
        """Give the preparation of one file to another of the same performance, moved to where the music lies in it."""
        try:
            a, b = self.library.track(source), self.library.track(target)
            if a.state != READY or b.state != READY:
                raise Refused("Both files must have been heard first.")
            preparation.refuse_locked(self.library.history(target).preparation)
            if a.identity == b.identity:
                facts.copy_work(self.library, source, target)
                self._told(a, b, 0.0)
                return
            old, new = self.library.evidence(source, lesser=True), self.library.evidence(target, lesser=True)
            if old is None or new is None:
                raise Refused("Both files must have been heard by this Mervid first: open them once.")
        except MervidError as e:
            (self.say.refused if isinstance(e, Refused) else self.say.problem)(str(e))
            return
        self._asked.add((source, target))
        self._identifier.offset((source, target), old[0].attack, new[0].attack)
        self._timer.start()

    def _lies(self, source: int, target: int, answer: Answer) -> None:
        self._asked.discard((source, target))
        try:
            a, b = self.library.track(source), self.library.track(target)
            if not isinstance(answer, float):
                self.say.problem(
                    tr("{0} doesn't run along with {1}, so nothing was handed over.").format(b.title, a.title)
                )
                return
            p = self.library.history(source).preparation
            p = preparation.set_readiness(p, preparation.DRAFT) if p.locked else p
            self.catalogue.edit(target, "Take over from a copy", track_edits.carry_over(p, answer))
            self._told(a, b, answer)
        except MervidError as e:
            (self.say.refused if isinstance(e, Refused) else self.say.problem)(str(e))

    def _told(self, a: Track, b: Track, offset: float) -> None:
        self.catalogue.tell(b.id, STATE)
        self.catalogue.tell(b.id, PREPARATION)
        where = f", {abs(offset):.3f} s {'later' if offset > 0 else 'earlier'}" if offset else ""
        self.say.done(tr("{0} has the grid, phrases and cues of {1} now{2}.").format(b.path.name, a.path.name, where))
