"""Handing over and taking: the open track as a file, and a file into the open track."""

from __future__ import annotations

import threading
from pathlib import Path

from PyQt6.QtCore import QObject, pyqtSignal

from ...core.edits import track_edits
from ...core.errors import MervidError
from ...core.model import preparation
from ...formats import exchange
from ...formats.exchange import Subject
from .messages import Messages
from .open_track import OpenTrack


def export(track: OpenTrack, path: Path) -> None:
    """Write the open track in the form that the ending of `path` asks for; copies of recordings meanwhile."""
    t = track.row
    if t is None:
        return
    what = Subject(track.preparation, track.evidence, t.title, track.duration, t.path, t.rate)
    if exchange.form_of_name(path.name) == exchange.WAVE:
        track.say.done(f"Writing {path.name} …")
        _Copying(track.say, what, path).start()
    else:
        track.say.tell(*_written(what, path))


def _written(what: Subject, path: Path) -> tuple[str, str]:
    """Write, and say how it went: the kind of message and its words."""
    try:
        exchange.export(what, path)
    except MervidError as e:
        return "problem", str(e)
    except OSError as e:
        return "problem", f"{path.name} can't be written: {e.strerror or e}."
    return "done", f"Written: {path}"


class _Copying(QObject):
    """One copy of a recording, written by a thread that outlives the window: the copy is finished in any case."""

    ended = pyqtSignal(str, str)

    def __init__(self, say: Messages, what: Subject, path: Path) -> None:
        super().__init__(say)
        self.what, self.path = what, path
        self.ended.connect(say.tell)
        self.ended.connect(self.deleteLater)

    def start(self) -> None:
        """Begin; returns at once."""
        threading.Thread(target=self._run, name="copy").start()

    def _run(self) -> None:
        said = _written(self.what, self.path)
        try:
            self.ended.emit(*said)
        except RuntimeError:
            # the window has been closed, nobody is there to be told
            return


def import_beats(track: OpenTrack, path: Path) -> None:
    """Take beats, phrases and cues from a file."""
    try:
        preparation.refuse_locked(track.preparation)
        value = exchange.take(path, track.preparation)
    except UnicodeDecodeError:
        track.say.problem(f"{path.name} is not text, so it holds no beats to import.")
        return
    except OSError as e:
        track.say.problem(f"{path.name} can't be read: {e.strerror or e}.")
        return
    except MervidError as e:
        track.say.problem(f"{path.name}: {e}")
        return
    if track.commit(preparation.name_of(track_edits.take_over), value):
        track.say.done(f"Taken over from {path.name}.")
