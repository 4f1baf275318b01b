"""Watched folders: what comes, moves or vanishes in them is noticed while the window is open, and at its start.

The system tells of changes in each folder (inotify); how many folders it tells of is limited, and that is said. A
look at all files goes on in a thread: a slow disk is felt by nobody.
"""

from __future__ import annotations

import logging
from collections.abc import Callable, Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from pathlib import Path
from typing import Any

from PyQt6.QtCore import QFileSystemWatcher, QObject, QTimer, pyqtSignal

from ...core.errors import MervidError
from ...jobs import rescan
from ...jobs.rescan import Rescanned
from ...store import folders
from ..theme.tr import tr
from .catalogue import Catalogue
from .messages import Messages

log = logging.getLogger(__name__)
SETTLES_MS = 700
"""After a change more often follow: they are looked at together."""
POLL_MS = 100
SHARE = 0.4
"""Of the folders that the system watches for one person, so much is ours: other programs watch, too."""
_LIMIT = Path("/proc/sys/fs/inotify/max_user_watches")


def most_watched() -> int:
    """How many folders may be watched here."""
    try:
        return int(SHARE * int(_LIMIT.read_text()))
    except (OSError, ValueError):
        return 2000


class FolderWatch(QObject):
    """`changed` when other folders are watched; new and changed tracks are told by the catalogue."""

    changed = pyqtSignal()
    arrived = pyqtSignal()

    def __init__(self, catalogue: Catalogue, say: Messages) -> None:
        super().__init__()
        self.catalogue, self.library, self.say = catalogue, catalogue.library, say
        self._watcher = QFileSystemWatcher(self)
        self._hand = ThreadPoolExecutor(1, thread_name_prefix="rescan")
        self._asked: list[tuple[Future[Any], Callable[[Any], None]]] = []
        self._settle = QTimer(self)
        self._settle.setSingleShot(True)
        self._settle.setInterval(SETTLES_MS)
        self._settle.timeout.connect(self.look)
        self._timer = QTimer(self)
        self._timer.setInterval(POLL_MS)
        self._timer.timeout.connect(self.poll)
        self._told_limit = False
        self._watcher.directoryChanged.connect(lambda _: self._settle.start())

    def close(self) -> None:
        """Watch no more."""
        self._timer.stop()
        self._settle.stop()
        self._hand.shutdown(wait=True, cancel_futures=True)

    def folders(self) -> list[Path]:
        """The watched folders."""
        try:
            return folders.watched(self.library)
        except MervidError as e:
            self.say.problem(str(e))
            return []

    def watch(self, folder: Path) -> None:
        """Watch a folder and all below it, and take in what is there."""
        if not folder.is_dir():
            self.say.problem(tr("{0} is no folder.").format(folder))
            return
        try:
            folders.watch(self.library, folder)
        except MervidError as e:
            self.say.problem(str(e))
        self.changed.emit()
        self.look()

    def unwatch(self, folder: Path) -> None:
        """Watch it no longer; its recordings stay."""
        try:
            folders.unwatch(self.library, folder)
        except MervidError as e:
            self.say.problem(str(e))
        self.changed.emit()
        self.look()

    def look(self) -> None:
        """Look at all files, now."""
        if any(then == self._looked for _, then in self._asked):
            # what changed since that began is looked at afterwards
            self._settle.start()
        elif self.library.path is not None:
            self._ask(self._looked, rescan.rescan, self.library.path, self.folders())

    def point_at(self, ids: list[int], folder: Path) -> None:
        """Look for the files of these vanished tracks in a folder."""
        if self.library.path is not None:
            self._ask(self._pointed, rescan.point_at, self.library.path, ids, folder)

    def _ask(self, then: Callable[[Any], None], function: Callable[..., Any], *args: Any) -> None:
        self._asked.append((self._hand.submit(function, *args), then))
        self._timer.start()

    def poll(self) -> None:
        """Hear what the thread found."""
        for future, then in [x for x in self._asked if x[0].done()]:
            self._asked.remove((future, then))
            try:
                then(future.result())
            except MervidError as e:
                self.say.problem(str(e))
            except OSError as e:
                self.say.problem(tr("The folders can't be looked at: {0}.").format(e.strerror or e))
        if not self._asked:
            self._timer.stop()

    def _looked(self, found: Rescanned) -> None:
        self._arm(found.below)
        self.catalogue.tell_removed(list(found.joined))
        self.catalogue.tell_added(list(found.added))
        self.catalogue.tell_many(found.changed)
        said = [
            f"{len(ids):,} {word}"
            for ids, word in (
                (found.added, "new"),
                (found.moved, tr("moved or renamed, with all work on them")),
                (found.back, tr("there again")),
                (found.gone, "missing"),
            )
            if ids
        ]
        if said:
            self.say.done(tr("Files looked at: {0}.").format(", ".join(said)))
        if found.remarks:
            self.say.problem("\n".join(found.remarks))
        if found.added:
            self.arrived.emit()

    def _pointed(self, found: tuple[list[int], int]) -> None:
        there, missing = found
        self.catalogue.tell_many(there)
        rest = tr("; {0:,} are not in there").format(missing) if missing else ""
        (self.say.done if there else self.say.problem)(tr("{0:,} files are found again{1}.").format(len(there), rest))

    def _arm(self, wanted: Sequence[str]) -> None:
        """Have the system tell of changes in every watched folder, as far as it does."""
        limit = most_watched()
        if len(wanted) > limit and not self._told_limit:
            self._told_limit = True
            self.say.problem(
                tr(
                    "There are more folders than this system watches ({0:,}): changes in the others are seen "
                    "at the next start, or by 'Look at all files'."
                ).format(limit)
            )
        some = list(wanted[:limit])
        old = set(self._watcher.directories())
        gone = old - set(some)
        if gone:
            self._watcher.removePaths(list(gone))
        new = [p for p in some if p not in old]
        failed = self._watcher.addPaths(new) if new else []
        if failed:
            log.warning("%d folders are not watched by the system.", len(failed))
