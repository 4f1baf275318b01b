"""Key, drive, loudness and form of tracks that were heard before those were kept, filled in beside everything else."""

from __future__ import annotations

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from ...jobs.describer import Describer
from ...store import facts
from ...store.schema import StoreError
from .catalogue import Catalogue

AT_ONCE = 8
POLL_MS = 200


class Describing(QObject):
    """Goes on until nothing is left, tells that (`done`), and ends its process."""

    done = pyqtSignal()

    def __init__(self, catalogue: Catalogue) -> None:
        super().__init__()
        self.catalogue = catalogue
        self._describer: Describer | None = None
        self._timer = QTimer(self)
        self._timer.setInterval(POLL_MS)
        self._timer.timeout.connect(self.poll)

    def close(self) -> None:
        """End the process."""
        self._timer.stop()
        if self._describer is not None:
            self._describer.close()
            self._describer = None

    def wake(self) -> None:
        """There may be something to describe."""
        self._timer.start()

    def poll(self) -> None:
        """Tell what was described, and ask for more."""
        path = self.catalogue.library.path
        failed = False
        if self._describer is not None:
            for ids in self._describer.poll():
                self._describer.busy = False
                failed = not ids
                self.catalogue.tell_many(ids)
            if self._describer.busy:
                return
        try:
            more = facts.undescribed(self.catalogue.library, AT_ONCE) if path is not None and not failed else []
        except StoreError:
            more = []
        if not more or path is None:
            self.close()
            self.done.emit()
            return
        if self._describer is None:
            self._describer = Describer(path)
        self._describer.ask(more)
