"""What the program notes about itself: a log that rotates, crashes of any process, and a report to hand on.

Nothing of it names a file or a track of the user's, except the log on the user's own disk.
"""

from __future__ import annotations

import faulthandler
import logging
import os
import platform
import re
import sys
from importlib import metadata
from logging.handlers import RotatingFileHandler
from pathlib import Path

from . import __version__, places

SIZE, KEPT = 512 * 1024, 3
"""The log begins anew after so many bytes, and so many old ones are kept."""
LINES = 60
"""So many lines of the log go into a report."""
_FORMAT = "%(asctime)s %(levelname)s %(name)s: %(message)s"


def log_file() -> Path:
    """Where the log is."""
    return places.state_folder() / "mervid.log"


def begin() -> None:
    """Log to the state folder, and to the terminal as $MERVID_LOG says; note where the program crashes."""
    terminal = logging.StreamHandler()
    terminal.setLevel(os.environ.get("MERVID_LOG", "WARNING"))
    handlers: list[logging.Handler] = [terminal]
    try:
        places.make_private(places.state_folder())
        places.make_private_file(log_file())
        handlers.append(RotatingFileHandler(log_file(), maxBytes=SIZE, backupCount=KEPT, encoding="utf-8"))
        faulthandler.enable(places.open_private(places.state_folder() / "crashes.log", "ab"))
    except OSError as e:
        print(f"mervid: no log can be kept in {places.state_folder()}: {e.strerror or e}", file=sys.stderr)
    logging.basicConfig(level=logging.INFO, format=_FORMAT, handlers=handlers, force=True)


def report(titles: list[str], settings: dict[str, object]) -> str:
    """Versions, settings and the last lines of the log, without names of files or tracks.

    Parameters
    ----------
    titles : what is taken out wherever it stands: the titles of tracks
    """
    packages = ("PyQt6", "PyQt6-Qt6", "numpy", "scipy", "soundfile", "av", "soxr")
    lines = [
        f"Mervid {__version__}",
        f"Python {platform.python_version()}, {platform.platform()}, {os.cpu_count()} cores",
        ", ".join(f"{name} {_version(name)}" for name in packages),
        *(f"{name}: {value}" for name, value in sorted(settings.items())),
        "",
    ]
    try:
        log = log_file().read_text("utf-8", "replace").splitlines()[-LINES:]
    except OSError:
        log = ["(no log)"]
    return "\n".join(lines + [nameless(line, titles) for line in log]) + "\n"


def _version(package: str) -> str:
    try:
        return metadata.version(package)
    except metadata.PackageNotFoundError:
        return "missing"


def nameless(line: str, titles: list[str]) -> str:
    """A line of the log without paths, names of recordings and titles.

    Examples
    --------
    >>> nameless("Copper Ferry: /home/x/Copper Ferry.ogg is damaged", ["Copper Ferry"])
    '(track): (path)'
    >>> nameless("read song.flac", [])
    'read (file)'
    """
    # a path may hold spaces: nothing after its first slash is kept
    line = re.sub(r"(?<![\w.])~?/\S.*", "(path)", line)
    for title in sorted((t for t in titles if t.strip()), key=len, reverse=True):
        line = line.replace(title, "(track)")
    return re.sub(r"\S+\.(?:wav|aiff?|aifc|flac|mp3|og[ga]|opus|m4a|mp4|aac)\b", "(file)", line, flags=re.IGNORECASE)
