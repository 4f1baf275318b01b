"""Starting the window: theme, library, and a guard that shows what goes wrong instead of a traceback."""

from __future__ import annotations

import logging
import os
import sys
import traceback
from collections.abc import Sequence
from pathlib import Path
from types import TracebackType

from PyQt6.QtCore import QEvent, QObject, QSettings, QTimer
from PyQt6.QtWidgets import QApplication

from .. import __version__, places
from ..store.library import Library
from ..store.schema import StoreError
from . import settings
from .session.session import Session
from .sound.player import Player
from .stages import STAGES
from .stages.frame import Stage
from .theme import style
from .theme.palette import DAY, NIGHT
from .window import Window

log = logging.getLogger(__name__)


def open_library() -> tuple[Library, str]:
    """The user's library; where it can't be kept, one in memory and the reason."""
    path = places.data_folder() / "library.sqlite"
    try:
        return Library(path), ""
    except StoreError as e:
        return Library.copy_of(path), f"{e} You can work, but nothing will be kept after you close Mervid."


def make_window(session: Session, stages: Sequence[type[Stage]] = STAGES) -> Window:
    """The window over a session, dressed as the user last had it."""
    app = QApplication.instance()
    assert isinstance(app, QApplication)
    style.load_fonts()
    style.apply(app, NIGHT if QSettings().value("night", False, bool) else DAY)
    return Window(session, stages)


class _FirstPaint(QObject):
    """Says once, in the log, how long after the process began the window was painted."""

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if event is not None and event.type() == QEvent.Type.UpdateRequest and watched is not None:
            watched.removeEventFilter(self)
            # after the paint that this request asks for
            QTimer.singleShot(0, lambda: log.info("Painted %.2f s after the start.", _seconds_since_start()))
        return False


def _seconds_since_start() -> float:
    """Age of this process, s (Linux: field 22 of /proc/self/stat, in clock ticks since boot)."""
    ticks = float(Path("/proc/self/stat").read_text().rsplit(")", 1)[1].split()[19])
    up = float(Path("/proc/uptime").read_text().split()[0])
    return up - ticks / os.sysconf("SC_CLK_TCK")


def run(files: list[Path], *, demo: bool) -> int:
    """Show the window until it is closed."""
    logging.basicConfig(level=os.environ.get("MERVID_LOG", "WARNING"), format="%(levelname)s %(name)s: %(message)s")
    # the media library prints a screenful about video codecs that nobody here needs
    os.environ.setdefault("QT_LOGGING_RULES", "qt.multimedia*=false")
    app = QApplication([sys.argv[0]])
    app.setApplicationName("mervid")
    app.setOrganizationName("mervid")
    app.setApplicationVersion(__version__)
    if os.environ.get("MERVID_DATA"):
        QSettings.setDefaultFormat(QSettings.Format.IniFormat)
        QSettings.setPath(QSettings.Format.IniFormat, QSettings.Scope.UserScope, str(places.data_folder()))
    library, problem = open_library()
    session = Session(library, places.cache_folder(), Player(), workers=settings.workers())
    window = make_window(session)
    geometry = QSettings().value("geometry")
    if geometry is not None:
        window.restoreGeometry(geometry)
    _guard(window)
    first_paint = _FirstPaint()
    window.installEventFilter(first_paint)
    window.show()
    if problem:
        session.say.problem(problem)

    def begin() -> None:
        """After the first paint, and when all is there to open a track: files, or the first track, then what waits."""
        session.upkeep()
        if files:
            session.queue.add_files(files)
        elif demo:
            session.queue.add_files(sorted(places.demo_folder().glob("*.ogg")))
        elif window.list.tracks.ids:
            session.open(window.list.tracks.ids[0])
        session.queue.resume()
        if os.environ.get("MERVID_QUIT_AFTER"):
            QTimer.singleShot(int(float(os.environ["MERVID_QUIT_AFTER"]) * 1000), window.close)

    session.warm_up.done.connect(begin)
    QTimer.singleShot(0, session.warm_up.start)
    return app.exec()


def _guard(window: Window) -> None:
    """An error nobody foresaw is logged and said in the window, once each; the program goes on."""
    seen: set[str] = set()

    def hook(kind: type[BaseException], error: BaseException, where: TracebackType | None) -> None:
        if issubclass(kind, KeyboardInterrupt):
            window.close()
            return
        log.error("%s", "".join(traceback.format_exception(kind, error, where)))
        text = f"Something unforeseen went wrong ({kind.__name__}: {error}). Your work so far is kept."
        if text not in seen:
            seen.add(text)
            window.session.say.problem(text)

    sys.excepthook = hook
