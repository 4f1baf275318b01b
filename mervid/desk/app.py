"""Starting the window: theme, library, and a guard that shows what goes wrong instead of a traceback."""

from __future__ import annotations

import logging
import os
import sys
import traceback
from collections.abc import Sequence
from pathlib import Path
from types import TracebackType

from PyQt6.QtCore import QByteArray, QEvent, QObject, QSettings, QTimer
from PyQt6.QtWidgets import QApplication

from .. import notes, places
from ..store import backup, salvage
from ..store.library import Library
from ..store.schema import StoreError
from . import names, settings
from .desktop.attach import attach
from .placement import fit_first
from .session.session import Session
from .sole import NotTaken, Sole
from .sound.player import Player
from .stages import STAGES
from .stages.frame import Stage
from .theme import style
from .theme.palette import DAY, NIGHT, use_role_colours
from .theme.tr import load
from .window import LEAST, Window

log = logging.getLogger(__name__)
SWITCH_S = 0.0005
"""A thread that wants to go on waits so long for another one (Python's own is ten times as long)."""


def open_library(*, read_only: bool = False) -> tuple[Library, str]:
    """The user's library; where it can't be kept, or another program has it, a copy in memory and the reason."""
    path = places.data_folder() / "library.sqlite"
    if read_only:
        words = (
            "Another Mervid has your library and does not answer. You can look at everything here, but nothing is kept."
        )
        return Library.copy_of(path), words
    try:
        restored = backup.settle(path)
        mended = salvage.salvage(path).words() if salvage.needed(path) else restored
        return Library(path), mended
    except (StoreError, OSError) as e:
        return Library.copy_of(path), f"{e} You can work, but nothing will be kept after you close Mervid."


def make_window(session: Session, stages: Sequence[type[Stage]] = STAGES) -> Window:
    """The window over a session, dressed as the user last had it."""
    app = QApplication.instance()
    assert isinstance(app, QApplication)
    # threads take in files while the window draws: neither waits long for the other
    sys.setswitchinterval(SWITCH_S)
    style.load_fonts()
    palette = NIGHT if style.is_night(settings.look()) else DAY
    style.ground(app, palette)
    use_role_colours(settings.role_colours())
    session.player.set_calm(settings.calm())
    window = Window(session, stages)
    style.apply(app, palette)
    hints = app.styleHints()
    if hints is not None:
        hints.colorSchemeChanged.connect(window.follow_desktop)
    return window


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
    notes.begin()
    # the media library prints a screenful about video codecs that nobody here needs
    os.environ.setdefault("QT_LOGGING_RULES", "qt.multimedia*=false")
    names.take()
    QApplication.setDesktopFileName(names.APPLICATION)
    if settings.size() != settings.USUAL_SIZE and "QT_SCALE_FACTOR" not in os.environ:
        # read before anything is drawn; who set it for this program knows better
        os.environ["QT_SCALE_FACTOR"] = str(settings.size() / 100)
    app = QApplication([sys.argv[0]])
    load(app)
    if demo:
        files = sorted(places.demo_folder().glob("*.ogg"))
    sole = Sole(places.data_folder() / "library.sqlite")
    first = sole.take()
    if not first:
        try:
            taken = sole.call(files)
        except NotTaken as e:
            print(f"mervid: {e}", file=sys.stderr)
            return 2
        if taken is not None:
            took = f" It took {taken:,} {'name' if taken == 1 else 'names'} from here." if taken else ""
            print(f"mervid: your library is open in another window, which came to the front.{took}", file=sys.stderr)
            return 0
    library, problem = open_library(read_only=not first)
    player = Player(buffer_ms=settings.buffer_ms(), delays=settings.delays())
    session = Session(
        library, places.cache_folder(), player, workers=settings.workers(), cache_limit=settings.cache_bytes()
    )
    window = make_window(session)
    if first:
        sole.called.connect(lambda more: _come_forward(window, more))
        sole.listen()
    place_as_kept(window)
    _guard(window)
    first_paint = _FirstPaint()
    window.installEventFilter(first_paint)
    window.show()
    if problem:
        session.say.problem(problem)

    def begin() -> None:
        """After the first paint, and when all is there to open a track: files, or the first track, then what waits."""
        session.upkeep(names.kept_folder("export"))
        if files:
            session.queue.add_files(files)
        else:
            session.whereabouts.take_up()
        session.queue.resume()
        if os.environ.get("MERVID_QUIT_AFTER"):
            QTimer.singleShot(int(float(os.environ["MERVID_QUIT_AFTER"]) * 1000), window.close)

    on_desktop = attach(window)
    session.warm_up.done.connect(begin)
    QTimer.singleShot(0, session.warm_up.start)
    done = app.exec()
    for part in on_desktop or ():
        part.close()
    sole.close()
    return done


def place_as_kept(window: Window) -> None:
    """Put the window where it was when it was closed, as far as the screen has room."""
    geometry = QSettings().value("geometry")
    if isinstance(geometry, QByteArray):
        window.restoreGeometry(geometry)
    fit_first(window, LEAST)


def _come_forward(window: Window, files: list[Path]) -> None:
    """The program was started once more: this window comes to the front, with what that start was given."""
    window.come_forward()
    if files:
        window.session.queue.add_files(files)


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
