"""A mix written to a file while the window goes on: one at a time, by a thread."""

from __future__ import annotations

import logging
import threading
from concurrent.futures import Future, ThreadPoolExecutor
from pathlib import Path

from PyQt6.QtCore import QObject, pyqtSignal

from ...core.errors import Cancelled, MervidError
from ...jobs import mixdown
from ...jobs.mixdown import Written
from ..theme.tr import tr
from .duet_playing import DuetPlaying
from .messages import Messages
from .pairing import NOTHING, Pairing

log = logging.getLogger(__name__)


class Mixes(QObject):
    """Writes what is rehearsed."""

    _ended = pyqtSignal(object, object)

    def __init__(self, pairing: Pairing, duet: DuetPlaying, say: Messages) -> None:
        super().__init__()
        self.pairing, self.duet, self.say = pairing, duet, say
        self._hand = ThreadPoolExecutor(1, thread_name_prefix="mix")
        self._stop = threading.Event()
        self._writing = False
        self._ended.connect(self._told)

    def close(self) -> None:
        """Stop writing; nothing half is left."""
        self._stop.set()
        self._hand.shutdown(wait=True, cancel_futures=True)

    def suggested_name(self) -> str:
        """Both titles, fit for a file's name."""
        p = self.pairing
        names = [s.title for s in (p.leaving, p.coming) if s is not None]
        return " and ".join(names).replace("/", "-")[:120] + ".flac"

    def why_not(self) -> str:
        """Why no mix can be written now; empty where one can."""
        if self._writing:
            return tr("A mix is being written already: wait for it.")
        if self.pairing.judged is None:
            return self.pairing.problem or NOTHING
        there = self.duet.voices() is not None
        return "" if there else tr("The sound of both isn't there: without it no mix can be written.")

    def write(self, path: Path) -> None:
        """Write the overlap with some bars around it, and a JAMS beside it."""
        p, voices, why = self.pairing, self.duet.voices(), self.why_not()
        if why or voices is None or p.meeting is None:
            self.say.refused(why or NOTHING)
            return
        self._writing = True
        sources = p.library.sources()
        self.say.done(tr("{0} is being written…").format(path.name))

        def tell(future: Future[Written]) -> None:
            if not future.cancelled():
                self._ended.emit(path, future.exception() or future.result())

        self._hand.submit(
            mixdown.write, *voices, p.meeting, path, sources=sources, stop=self._stop.is_set
        ).add_done_callback(tell)

    def _told(self, path: Path, answer: object) -> None:
        self._writing = False
        if isinstance(answer, Written):
            quiet = (
                tr(" The whole was turned down to {0:.2f}, so that it doesn't clip.").format(answer.gain)
                if answer.gain < 1
                else ""
            )
            self.say.done(
                tr("{0} is written, {1:.0f} s, with {2}.jams beside it.{3}").format(
                    path.name, answer.seconds, path.stem, quiet
                )
            )
        elif isinstance(answer, Cancelled):
            return
        elif isinstance(answer, MervidError):
            self.say.problem(str(answer))
        elif isinstance(answer, OSError):
            self.say.problem(tr("{0} could not be written: {1}.").format(path.name, answer.strerror or answer))
        elif isinstance(answer, BaseException):
            log.error("A mix could not be written.", exc_info=answer)
            self.say.problem(tr("{0} could not be written ({1}).").format(path.name, type(answer).__name__))
