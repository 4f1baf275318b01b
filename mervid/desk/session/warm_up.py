"""What the first track that is opened will need, imported by a thread after the window is painted.

Imported by the window's thread at the first opening, SciPy alone froze it for half a second.
"""

from __future__ import annotations

import importlib
import threading

from PyQt6.QtCore import QObject, pyqtSignal

from ...core.model import preparation
from ...core.model.beatgrid import steady

MODULES = (
    "scipy.ndimage",
    "scipy.special",
    "scipy.cluster.hierarchy",
    "scipy.spatial.distance",
    "scipy.fft",
    "scipy.signal",
)


class WarmUp(QObject):
    """`done` once all is there."""

    done = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self._thread: threading.Thread | None = None

    def start(self) -> None:
        """Begin; returns at once."""
        self._thread = threading.Thread(target=self._run, name="warm-up", daemon=True)
        self._thread.start()

    def _run(self) -> None:
        for name in MODULES:
            importlib.import_module(name)
        # writing and reading values is made ready at their first use
        preparation.from_json(preparation.to_json(preparation.Preparation(grid=steady(tempo=120, first=0.0))))
        try:
            self.done.emit()
        except RuntimeError:
            # the window was closed meanwhile
            return
