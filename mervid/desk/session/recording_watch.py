"""Whether a track's file is still the recording that was heard: looked at on opening, playing and handing over.

Size and time of change are looked at first, by a thread, as a disk may not answer. Where they differ, the sound itself
is compared: another tag is no other recording. What became another sound keeps its preparation until a person decides.
"""

from __future__ import annotations

from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from concurrent.futures import TimeoutError as Late
from pathlib import Path

import attrs
import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from ...core.edits import track_edits
from ...core.errors import AudioError, MervidError, Refused
from ...core.model import preparation
from ...core.sound import decoding
from ...core.sound.decoding import Decoded, State
from ...core.sound.names import shown
from ...jobs.identifier import Answer, Identifier
from ...store.track import READY, Track
from ..theme.tr import tr
from .analysis_queue import AnalysisQueue
from .messages import Messages
from .open_track import OpenTrack

PROMPT_S = 0.3
"""A disk that answers within this time isn't waited for in the background."""
POLL_MS = 60
SOUND, FOUND, OFFSET = "sound", "found", "offset"
"""What is asked of the other process: the sound of a changed file, of a file that a person found, and an offset."""

Then = Callable[[], None]


@attrs.frozen
class _Look:
    """A file that is being looked at, and what goes on where it is the recording still."""

    row: Track
    then: Then | None
    state: Future[State]


@attrs.frozen
class _Question:
    """What a file is asked: whether its sound, as it was on the disk then, is what was heard.

    Attributes
    ----------
    state : the file as it was when this was asked
    then : what goes on where it is
    again : it was seen to change since, so that the answer says nothing
    """

    state: State
    then: tuple[Then, ...] = ()
    again: bool = False


class RecordingWatch(QObject):
    """`differs` with the number of a track whose file holds another sound than was heard.

    Attributes
    ----------
    others : by track, what its file holds now, where that is another sound
    """

    differs = pyqtSignal(int)
    settled = pyqtSignal(int)

    def __init__(self, track: OpenTrack, queue: AnalysisQueue, say: Messages) -> None:
        super().__init__()
        self.track, self.queue, self.say = track, queue, say
        self.catalogue = track.catalogue
        self.others: dict[int, Decoded] = {}
        self._hand = ThreadPoolExecutor(1, thread_name_prefix="watch")
        self._identifier = Identifier()
        self._looks: list[_Look] = []
        self._asked: dict[int, _Question] = {}
        self._sought: set[int] = set()
        self._carried: dict[int, NDArray[np.uint8]] = {}
        self._timer = QTimer(self)
        self._timer.setInterval(POLL_MS)
        self._timer.timeout.connect(self.poll)
        track.opened.connect(self.look)
        queue.changed_sound.connect(self._differ)
        queue.heard.connect(self._heard)

    def close(self) -> None:
        """End thread and process."""
        self._timer.stop()
        self._hand.shutdown(wait=False, cancel_futures=True)
        self._identifier.close()

    # looking

    def look(self, then: Then | None = None) -> None:
        """Look at the file of the open track; `then` is done where it is what was heard, or isn't there any more."""
        row = self.track.row
        if row is None:
            return
        if row.state != READY or not row.identity or not row.size:
            if then is not None:
                then()
            return
        if then is not None and row.id in self.others:
            self._say_differs(row)
            self.differs.emit(row.id)
            return
        look = _Look(row, then, self._hand.submit(decoding.state_of, row.path))
        if then is not None:
            try:
                look.state.result(PROMPT_S)
            except Late:
                self.say.problem(tr("The disk of {0} doesn't answer.").format(shown(row.path)))
            except AudioError:
                pass
        if look.state.done() and then is not None:
            self._looked(look)
        else:
            self._looks.append(look)
            self._timer.start()

    def poll(self) -> None:
        """Hear what thread and process found out."""
        for look in [x for x in self._looks if x.state.done()]:
            self._looks.remove(look)
            self._looked(look)
        for key, answer in self._identifier.poll():
            self._answered(key, answer)
        if not (self._looks or self._asked or self._sought or self._carried):
            self._timer.stop()

    def _looked(self, look: _Look) -> None:
        row = look.row
        try:
            now = look.state.result()
        except AudioError:
            # nothing there can be mistaken; playing and hearing say so themselves
            now = None
        if now is None or (now.size, now.changed_ns) == (row.size, row.changed_ns):
            if look.then is not None:
                look.then()
            return
        then = () if look.then is None else (look.then,)
        if then:
            self.say.done(tr("{0} was changed on the disk: it is compared with what was heard…").format(row.title))
        asked = self._asked.get(row.id)
        if asked is None:
            self._ask(row, _Question(now, then))
        else:
            # what is written while it is compared is compared once more
            self._asked[row.id] = _Question(now, asked.then + then, again=asked.again or now != asked.state)

    def _ask(self, row: Track, question: _Question) -> None:
        self._asked[row.id] = question
        self._identifier.identify((SOUND, row.id), row.path)
        self._timer.start()

    def _answered(self, key: object, answer: Answer) -> None:
        assert isinstance(key, tuple)
        what, track_id, *rest = key
        try:
            if not self.catalogue.library.has(track_id):
                self._asked.pop(track_id, None)
                self._sought.discard(track_id)
                self._carried.pop(track_id, None)
                return
            row = self.catalogue.library.track(track_id)
            if what == OFFSET:
                self._carried.pop(track_id, None)
                self._carry(row, answer)
            elif what == FOUND:
                self._sought.discard(track_id)
                self._found(row, rest[0], answer)
            elif (asked := self._asked.pop(track_id, None)) is not None:
                if asked.again:
                    self._ask(row, attrs.evolve(asked, again=False))
                else:
                    self._compared(row, answer, asked.then)
        except MervidError as e:
            (self.say.refused if isinstance(e, Refused) else self.say.problem)(str(e))

    def _compared(self, row: Track, answer: Answer, then: tuple[Then, ...]) -> None:
        if isinstance(answer, Decoded) and answer.identity == row.identity:
            # another tag, another date: the sound is the same
            self.catalogue.set_decoded(row.id, answer)
            self.others.pop(row.id, None)
            if self.track.is_open(row.id):
                self.track.reload_row()
            for act in then:
                act()
        elif isinstance(answer, Decoded):
            self._differ(row.id, answer)
        else:
            self.say.problem(
                tr("{0} was changed on the disk and can't be read any more: {1}").format(row.title, answer)
            )

    def _differ(self, track_id: int, now: Decoded) -> None:
        self.others[track_id] = now
        self._say_differs(self.catalogue.library.track(track_id))
        self.differs.emit(track_id)

    def _say_differs(self, row: Track) -> None:
        self.say.problem(tr("{0} is not the recording that was heard: {1}").format(shown(row.path), self.words(row)))

    def words(self, row: Track) -> str:
        """How the file differs from what was heard."""
        now = self.others[row.id]
        longer = now.duration - row.duration
        if abs(longer) >= 0.05:
            return f"it lasts {abs(longer):.1f} s {'longer' if longer > 0 else 'less'} than it did."
        if now.rate != row.rate:
            return tr("it has {0:,} samples a second, where it had {1:,}.").format(now.rate, row.rate)
        return tr("it is as long, and sounds otherwise.")

    # what becomes of it

    def take_over(self, track_id: int) -> None:
        """Hear the new sound, and move the whole preparation to where the recording lies in it."""
        kept = self.catalogue.library.evidence(track_id, lesser=True)
        p = self.catalogue.library.history(track_id).preparation
        try:
            preparation.refuse_locked(p)
        except Refused as e:
            self.say.refused(str(e))
            return
        if kept is not None and p.grid is not None:
            self._carried[track_id] = kept[0].attack
            self._timer.start()
        self.hear_anew(track_id)

    def hear_anew(self, track_id: int) -> None:
        """Hear the new sound; pins and cues stay where they are until a person moves them."""
        self.others.pop(track_id, None)
        self.settled.emit(track_id)
        self.queue.analyse(track_id)

    def find(self, track_id: int, path: Path) -> None:
        """Take `path` for the recording of this track, where it holds the sound that was heard."""
        self._sought.add(track_id)
        self._identifier.identify((FOUND, track_id, path), path)
        self._timer.start()

    def _found(self, row: Track, path: Path, answer: Answer) -> None:
        if not isinstance(answer, Decoded):
            self.say.problem(str(answer))
        elif answer.identity != row.identity:
            self.say.problem(tr("{0} holds another sound than was heard for {1}.").format(shown(path), row.title))
        else:
            self.catalogue.set_file(row.id, path, answer)
            self.others.pop(row.id, None)
            self.settled.emit(row.id)
            self.say.done(tr("{0} is played from {1} again.").format(row.title, path))
            if self.track.is_open(row.id):
                self.queue.open(row.id)

    def _heard(self, track_id: int) -> None:
        old = self._carried.get(track_id)
        kept = self.catalogue.library.evidence(track_id, lesser=True) if old is not None else None
        if old is not None and kept is not None:
            self._identifier.offset((OFFSET, track_id), old, kept[0].attack)
        else:
            self._carried.pop(track_id, None)

    def _carry(self, row: Track, answer: Answer) -> None:
        if not isinstance(answer, float):
            self.say.problem(
                tr(
                    "{0}: the new recording doesn't run along with the old one, so nothing was moved. Pins "
                    "and cues lie where they were."
                ).format(row.title)
            )
            return
        p = self.catalogue.library.history(row.id).preparation
        self.catalogue.edit(row.id, preparation.name_of(track_edits.carry_over), track_edits.carry_over(p, answer))
        way = "later" if answer > 0 else "earlier"
        moved = f"{abs(answer):.3f} s {way}" if answer else tr("nowhere: it begins as it did")
        self.say.done(tr("{0}: grid, cues and phrases were moved {1}.").format(row.title, moved))
        if self.track.is_open(row.id):
            self.track.reread()
