"""The whole library as one file and back; copies of each day; and what JAMS files made elsewhere say."""

from __future__ import annotations

import logging
import threading
import time
from collections.abc import Callable, Iterable
from concurrent.futures import ThreadPoolExecutor
from contextlib import closing
from pathlib import Path

from PyQt6.QtCore import QObject, pyqtSignal

from ... import places
from ...core.errors import MervidError
from ...formats import safe_file
from ...jobs import jams_folder, rescan
from ...jobs.errands import words_of
from ...jobs.jams_folder import Taken
from ...store import backup, care
from ...store.backup import Look
from ...store.library import Library
from ..theme.tr import tr
from .catalogue import PREPARATION, Catalogue
from .messages import Messages

log = logging.getLogger(__name__)


class Keeping(QObject):
    """`changed` when something was kept or looked at, `taken` when tracks took something over.

    Attributes
    ----------
    look : what the chosen backup would do, and its file
    busy : what is being done, in words
    """

    changed = pyqtSignal()
    taken = pyqtSignal()
    _ended = pyqtSignal(object, object)

    def __init__(self, catalogue: Catalogue, say: Messages) -> None:
        super().__init__()
        self.catalogue, self.library, self.say = catalogue, catalogue.library, say
        self.look: tuple[Path, Look] | None = None
        self.busy = ""
        self._hand = ThreadPoolExecutor(1, thread_name_prefix="keep")
        self._stop = threading.Event()
        self._ended.connect(lambda tell, answer: tell(answer))

    def close(self) -> None:
        """Wait for what is being written."""
        self._hand.shutdown(wait=True, cancel_futures=True)

    def copies(self) -> list[tuple[str, int]]:
        """The copies of days: their days, and bytes."""
        if self.library.path is None:
            return []
        out = []
        for p in care.copies(self.library.path):
            day = p.stem.removeprefix(f"{self.library.path.stem}-")
            out.append((time.strftime("%d %B %Y", time.strptime(day, "%Y-%m-%d")), p.stat().st_size))
        return out

    def _later(self, words: str, tell: Callable[[object], None], act: Callable[[], object]) -> None:
        if self.busy:
            self.say.refused(tr("{0} Wait for that first.").format(self.busy))
            return
        self.busy = words

        def run() -> None:
            try:
                answer: object = act()
            except Exception as e:
                if not isinstance(e, MervidError | OSError):
                    log.exception("Keeping the work failed.")
                answer = e
            self._ended.emit(tell, answer)

        self._hand.submit(run)
        self.changed.emit()

    def _done(self) -> None:
        self.busy = ""
        self.changed.emit()

    def suggested_name(self) -> str:
        """A name with the day in it."""
        return f"Mervid library {time.strftime('%Y-%m-%d')}.zip"

    def back_up(self, path: Path, *, jams: bool) -> None:
        """Write the whole library into a file."""
        own = self.library.path
        if own is None:
            self.say.refused(tr("Nothing of this library is kept: there is nothing to back up."))
            return

        def act() -> object:
            def more() -> Iterable[tuple[str, bytes]]:
                return jams_folder.each(own) if jams else ()

            write = backup.fill(own, home=places.data_folder(), extra=more)
            safe_file.write(path, write, kind=safe_file.BACKUP, sources=())
            return path.stat().st_size

        def tell(answer: object) -> None:
            self._done()
            if isinstance(answer, int):
                self.say.done(tr("Written: {0}, {1:.1f} MB.").format(path, answer / 1000000.0))
            else:
                self.say.problem(tr("The backup was not written: {0}").format(words_of(answer)))

        self._later(tr("The backup is being written."), tell, act)

    def look_into(self, path: Path) -> None:
        """See what putting a backup back would change."""
        own = self.library.path
        if own is None:
            self.say.refused(tr("Nothing of this library is kept: nothing can be put back into it."))
            return

        def tell(answer: object) -> None:
            self._done()
            if isinstance(answer, Look):
                self.look = (path, answer)
            else:
                self.look = None
                self.say.problem(words_of(answer))
            self.changed.emit()

        self._later(tr("The backup is being read."), tell, lambda: backup.look(path, own))

    def put_back(self) -> None:
        """Have the backup that was looked into take the library's place at the next start."""
        own = self.library.path
        if self.look is None or own is None:
            self.say.refused(tr("Choose a backup first."))
            return
        path, _ = self.look

        def tell(answer: object) -> None:
            self._done()
            if isinstance(answer, float):
                self.look = None
                self.say.problem(tr("The backup takes the place of your library when you start Mervid the next time."))
            else:
                self.say.problem(words_of(answer))
            self.changed.emit()

        self._later(
            tr("The backup is being put back."), tell, lambda: backup.lay_by(path, own, home=places.data_folder())
        )

    @property
    def waits(self) -> bool:
        """Whether a backup waits for the next start."""
        return self.library.path is not None and backup.waiting(self.library.path).exists()

    def keep_this_one(self) -> None:
        """Put nothing back after all."""
        if self.library.path is not None:
            backup.waiting(self.library.path).unlink(missing_ok=True)
        self.changed.emit()

    def find_music(self, folder: Path) -> None:
        """Look for recordings that aren't where they were: the library came from another machine."""
        own = self.library.path
        if own is None:
            self.say.refused(tr("Nothing of this library is kept."))
            return
        away = [i for i, p in self.library.every_path() if not p.exists()]
        if not away:
            self.say.done(tr("Every recording of your library is where it was."))
            return

        def tell(answer: object) -> None:
            self._done()
            if isinstance(answer, tuple):
                found, missing = answer
                self.say.done(tr("{0} recordings were found, {1} were not.").format(len(found), missing))
                self.catalogue.reread()
            else:
                self.say.problem(words_of(answer))

        self._later(tr("Recordings are being looked for."), tell, lambda: rescan.point_at(own, away, folder))

    def take_jams(self, folder: Path) -> None:
        """Let tracks take over what JAMS files of a folder say."""
        own = self.library.path
        if own is None:
            self.say.refused(tr("Nothing of this library is kept."))
            return

        def act() -> object:
            with closing(Library(own)) as library:
                return jams_folder.take(library, jams_folder.files_of(folder))

        def tell(answer: object) -> None:
            self._done()
            if not isinstance(answer, Taken):
                self.say.problem(words_of(answer))
                return
            for number in answer.tracks:
                self.catalogue.tell(number, PREPARATION)
            self.taken.emit()
            words = tr("{0} tracks took over what was said of them").format(len(answer.tracks))
            words += tr(", {0} had it already.").format(answer.same) if answer.same else "."
            if answer.problems:
                self.say.problem("\n".join((words, *answer.problems[:3])))
            else:
                self.say.done(words)

        self._later(tr("JAMS files are being read."), tell, act)
