"""Tags of new recordings, read beside everything else: lists show words as they come."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QObject, QTimer

from ...jobs.tag_reader import TagReader
from ...store import tagging
from ...store.schema import StoreError
from .catalogue import Catalogue
from .messages import Messages

AT_ONCE = 60
"""Files that are asked at once: some tenths of a second."""
POLL_MS = 80


class TagReading(QObject):
    """Asks the files of all tracks that weren't asked yet, a lot at a time."""

    def __init__(self, catalogue: Catalogue, say: Messages, cache: Path) -> None:
        super().__init__()
        self.catalogue, self.say = catalogue, say
        path = catalogue.library.path
        self.reader = TagReader(path, cache) if path is not None else None
        self._timer = QTimer(self)
        self._timer.setInterval(POLL_MS)
        self._timer.timeout.connect(self.poll)
        catalogue.added.connect(self.wake)

    def close(self) -> None:
        """End the process."""
        self._timer.stop()
        if self.reader is not None:
            self.reader.close()

    def wake(self) -> None:
        """There may be something to read; a library in memory has no time for that."""
        if self.reader is not None:
            self._timer.start()

    def poll(self) -> None:
        """Keep what was read, and ask for more."""
        if self.reader is None:
            return
        try:
            for ids in self.reader.poll():
                self.reader.busy = False
                self.catalogue.tell_many(ids)
                if not ids:
                    self._timer.stop()
                    return
            if not self.reader.busy:
                more = tagging.unread(self.catalogue.library, AT_ONCE)
                if more:
                    self.reader.ask(more)
                else:
                    self._timer.stop()
        except StoreError as e:
            self._timer.stop()
            self.say.problem(str(e))
