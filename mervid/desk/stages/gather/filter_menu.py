"""What can be asked of tracks, as a menu: each line says what it leaves in."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path

from PyQt6.QtWidgets import QFileDialog, QMenu, QWidget

from ....core.errors import MervidError
from ....core.library import filters as f
from ....core.library.filters import Filter
from ....store import lists
from ....store.track import Track
from ...session.session import Session
from ...theme.palette import ROLES
from ...theme.tr import tr

Take = Callable[[Filter], None]
Ask = Callable[[str, Callable[[str], Filter], Take], None]
"""Lets a person type: what is asked for, the reader, and who takes what was read."""
MOST_GENRES = 40


def fill(menu: QMenu, session: Session, take: Take, ask: Ask, parent: QWidget) -> None:
    """Fill a menu; `take` is given the filter that is chosen, `ask` lets values be typed."""
    menu.addAction(tr("Needs a person"), lambda: take(Filter(f.PERSON)))
    _tempo(_sub(menu, "Tempo"), session, take, ask)
    _key(_sub(menu, "Key"), session, take, ask)
    _each(_sub(menu, "Readiness"), f.READINESS, (f.UNHEARD, f.DRAFT, f.CHECKED, f.LOCKED, f.READY), take)
    _each(_sub(menu, tr("Kind of time")), f.KIND, _values(session, "kind"), take)
    cues = _sub(menu, "Cues")
    _each(cues, f.CUES, (f.ANY, f.NONE), take)
    cues.addSeparator()
    _each(cues, f.CUES, tuple(ROLES), take)
    _genre(_sub(menu, "Genre"), session, take)
    menu.addAction(tr("Year…"), lambda: ask(tr("Years, as 1974-1979"), partial(f.typed, f.YEAR), take))
    menu.addAction(tr("Drive…"), lambda: ask(tr("Drive 1 to 9, as 6-8"), partial(f.typed, f.DRIVE), take))
    added = _sub(menu, "Added")
    for days in (1, 7, 30, 90):
        one = Filter(f.ADDED, float(days))
        added.addAction(one.words, lambda x=one: take(x))
    played = _sub(menu, "Played")
    _each(played, f.PLAYED, (f.NO, f.YES), take)
    _format(_sub(menu, "Format"), session, take)
    menu.addAction(tr("In a folder…"), lambda: _folder(parent, take))
    held = _sub(menu, tr("In a list"))
    held.addAction(tr("in no list"), lambda: take(Filter(f.UNLISTED)))
    for shelf in session.bookcase.lists.all():
        if shelf.kind == lists.LIST:
            held.addAction(plain(shelf.name), lambda s=shelf: take(Filter(f.LIST, text=s.name, number=s.id)))
    menu.addSeparator()
    menu.addAction(tr("There more than once"), lambda: take(Filter(f.COPIES)))
    menu.addAction(tr("File missing"), lambda: take(Filter(f.MISSING)))


def _sub(menu: QMenu, title: str) -> QMenu:
    sub = menu.addMenu(title)
    assert sub is not None
    return sub


def plain(text: str) -> str:
    """Any text as a line of a menu."""
    # an ampersand would underline what follows
    return text.replace("&", "&&")[:80]


def _each(menu: QMenu, what: str, texts: tuple[str, ...], take: Take) -> None:
    for text in texts:
        one = Filter(what, text=text)
        menu.addAction(plain(one.words), lambda x=one: take(x))
    menu.setEnabled(bool(texts))


def _values(session: Session, column: str) -> tuple[str, ...]:
    """What stands in a column of the library, most frequent first."""
    sql = f"SELECT {column} FROM tracks WHERE out=0 AND {column}<>'' GROUP BY {column} COLLATE NOCASE"
    try:
        rows = session.library.rows(tr("{0} ORDER BY count(*) DESC LIMIT {1}").format(sql, MOST_GENRES))
    except MervidError:
        return ()
    return tuple(str(text) for (text,) in rows)


def reference(session: Session) -> Track | None:
    """The track that others are compared with: the chosen one, else the open one."""
    ids = session.selection.ids
    if len(ids) == 1:
        found = session.library.tracks(ids)
        return found[0] if found else None
    return session.track.row


def _tempo(menu: QMenu, session: Session, take: Take, ask: Ask) -> None:
    track = reference(session)
    if track is not None and track.tempo_low and track.tempo_high:
        middle = (track.tempo_low + track.tempo_high) / 2
        for wide in (False, True):
            for percent, by in ((2.0, None), (4.0, None), (8.0, None), (None, 4.0)):
                one = f.near_tempo(middle, percent=percent, by=by, wide=wide, of=track.title[:60])
                menu.addAction(plain(one.words), lambda x=one: take(x))
            menu.addSeparator()
    words = tr("BPM, as 110-118; with * also at half and double")
    menu.addAction(tr("From … to …"), lambda: ask(words, partial(f.typed, f.TEMPO), take))


def _key(menu: QMenu, session: Session, take: Take, ask: Ask) -> None:
    track = reference(session)
    if track is not None and track.key:
        one = f.key_fits(track.key)
        menu.addAction(plain(tr("{0}, the key of {1}").format(one.words, track.title[:60])), lambda: take(one))
        menu.addSeparator()
    menu.addAction(tr("Fits…"), lambda: ask(tr("A key, as A minor or Eb"), partial(f.typed, f.KEY), take))


def _genre(menu: QMenu, session: Session, take: Take) -> None:
    _each(menu, f.GENRE, _values(session, "genre"), take)
    menu.setEnabled(True)
    menu.addSeparator()
    menu.addAction(tr("no genre"), lambda: take(Filter(f.GENRE)))


def _format(menu: QMenu, session: Session, take: Take) -> None:
    _each(menu, f.LOSSY, (f.YES, f.NO), take)
    menu.addSeparator()
    _each(menu, f.FORMAT, _values(session, "format"), take)
    menu.setEnabled(True)


def _folder(parent: QWidget, take: Take) -> None:
    name = QFileDialog.getExistingDirectory(parent, tr("Tracks in and below this folder"))
    if name:
        take(Filter(f.FOLDER, text=str(Path(name))))
