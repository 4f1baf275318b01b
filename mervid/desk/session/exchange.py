"""Handing over and taking: the open track as a file, and a file into the open track."""

from __future__ import annotations

import os
import threading
import time
from collections.abc import Sequence
from pathlib import Path

from PyQt6.QtCore import QObject, pyqtSignal

from ...core.edits import track_edits
from ...core.errors import MervidError
from ...core.model import preparation
from ...formats import exchange, safe_file
from ...formats.exchange import Subject
from ..theme.tr import tr
from .messages import Messages
from .open_track import OpenTrack
from .recording_watch import RecordingWatch


def export(track: OpenTrack, path: Path, watch: RecordingWatch) -> None:
    """Write the open track in the form that the ending of `path` asks for; copies of recordings meanwhile.

    Not before its file was looked at: what is written must belong to the recording that is there.
    """
    row = track.row
    if row is not None:
        watch.look(lambda: _export(track, path) if track.is_open(row.id) else None)


def _export(track: OpenTrack, path: Path) -> None:
    t = track.row
    if t is None:
        return
    what = Subject(track.preparation, track.evidence, t.title, track.duration, t.path, t.rate, t.known_key)
    known = sources_at(track, path)
    if exchange.form_of_name(path.name) == exchange.WAVE:
        track.say.done(tr("Writing {0} …").format(path.name))
        _Copying(track.say, what, path, known).start()
    else:
        track.say.tell(*_written(what, path, known))


def sources_at(track: OpenTrack, path: Path) -> list[Path]:
    """The recordings of the library that may be what stands at `path`."""
    library = track.catalogue.library
    if path.exists() and exchange.form_of_name(path.name) == exchange.WAVE:
        # any of them may lead there by links of its own
        return library.sources()
    return library.sources((path, Path(os.path.realpath(path))))


def what_stands_at(track: OpenTrack, path: Path) -> str:
    """What handing over would replace there, in words; nothing where nothing is. Raises `FormatError`, `OSError`."""
    row = track.row
    own = [row.path] if row is not None else []
    safe_file.check(path, exchange.kind_of_name(path.name), [*own, *sources_at(track, path)])
    if not path.exists():
        return ""
    state = path.stat()
    when = time.strftime("%d %B %Y, %H:%M", time.localtime(state.st_mtime))
    what = exchange.FORMS[exchange.form_of_name(path.name)].split(":", maxsplit=1)[0]
    return tr("{0}, {1} KB, written {2}").format(what, max(1, state.st_size >> 10), when)


def _written(what: Subject, path: Path, known: Sequence[Path]) -> tuple[str, str]:
    """Write, and say how it went: the kind of message and its words."""
    try:
        besides = exchange.export(what, path, known)
    except MervidError as e:
        return "problem", str(e)
    except OSError as e:
        return "problem", tr("{0} can't be written: {1}.").format(path.name, e.strerror or e)
    return "done", f"Written: {path}. {besides}" if besides else f"Written: {path}"


class _Copying(QObject):
    """One copy of a recording, written by a thread that outlives the window: the copy is finished in any case."""

    ended = pyqtSignal(str, str)

    def __init__(self, say: Messages, what: Subject, path: Path, known: Sequence[Path]) -> None:
        super().__init__(say)
        self.what, self.path, self.known = what, path, known
        self.ended.connect(say.tell)
        self.ended.connect(self.deleteLater)

    def start(self) -> None:
        """Begin; returns at once."""
        threading.Thread(target=self._run, name="copy").start()

    def _run(self) -> None:
        said = _written(self.what, self.path, self.known)
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
        track.say.problem(tr("{0} is not text, so it holds no beats to import.").format(path.name))
        return
    except OSError as e:
        track.say.problem(tr("{0} can't be read: {1}.").format(path.name, e.strerror or e))
        return
    except MervidError as e:
        track.say.problem(f"{path.name}: {e}")
        return
    if track.commit(preparation.name_of(track_edits.take_over), value):
        track.say.done(tr("Taken over from {0}.").format(path.name))
