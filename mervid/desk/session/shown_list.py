"""The tracks in sight: of which list, what is left out, and in which order. All stages show the same ones."""

from __future__ import annotations

from collections.abc import Sequence

import attrs
import numpy as np
from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from ...core.errors import MervidError
from ...core.library.filters import Filter, Order, Search
from ...store import lists
from ...store.lists import Lists
from ...store.search import NEEDS_PERSON, Finder, Ids, ids_of
from ...store.track import Track
from .catalogue import PROGRESS, Catalogue
from .messages import Messages

ALL = "All tracks"
AROUND = 32
"""So many rows are read at once: what a window shows."""
SETTLES_MS = 120
"""What comes and goes by the dozen is looked for once."""


class ShownList(QObject):
    """`changed` when other tracks are in sight or in another order, `grown` when some came at the end.

    Attributes
    ----------
    ids : the tracks in sight, in order; one that is in a list twice is there twice
    number : the list or standing search they are of; 0 for the whole library
    title : its name
    search : what else is asked of them
    total : how many tracks the library has
    """

    changed = pyqtSignal()
    grown = pyqtSignal(int, int)
    touched = pyqtSignal(object)

    def __init__(self, catalogue: Catalogue, shelves: Lists, say: Messages) -> None:
        super().__init__()
        self.catalogue, self.library, self.shelves, self.say = catalogue, catalogue.library, shelves, say
        self.finder = Finder(self.library)
        self.search, self.number, self.kind, self.title = Search(), 0, "", ALL
        self.total = 0
        self._begins: int | None = None
        self._passed = np.zeros(0)
        self.ids: Ids = np.zeros(0, np.int64)
        self._known: dict[int, Track] = {}
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(SETTLES_MS)
        self._timer.timeout.connect(self.refresh)
        catalogue.added.connect(self._added)
        catalogue.changed.connect(self._changed)
        catalogue.many_changed.connect(self._many_changed)
        catalogue.removed.connect(lambda ids: self.refresh())
        catalogue.refilled.connect(self.refresh)
        self.refresh()

    # which ones

    def show(self, number: int) -> None:
        """Show a list, a folder of lists, or a standing search; 0 is the whole library. Words and filters go."""
        try:
            shelf = self.shelves.one(number) if number else None
            search = self.shelves.search(number) if shelf is not None and shelf.kind == lists.SEARCH else Search()
        except MervidError as e:
            self.say.problem(str(e))
            return
        self.number, self.kind = number, shelf.kind if shelf is not None else ""
        self.title = shelf.name if shelf is not None else ALL
        # a person's order of the whole library stays while lists are looked through
        self.search = search if search.order else attrs.evolve(search, order=() if number else self.search.order)
        self.refresh()

    def set_words(self, words: str) -> None:
        """What is typed to find."""
        self.ask(attrs.evolve(self.search, words=words))

    def ask(self, search: Search) -> None:
        """Ask for something else of the same list."""
        if search != self.search:
            before = self.search
            self.search = search
            if not self._find(anew=search.order != before.order):
                self.search = before

    def add_filter(self, new: Filter) -> None:
        """Leave out what doesn't pass this one too."""
        self.ask(self.search.with_filter(new))

    def drop_filter(self, old: Filter) -> None:
        """Don't ask for this any more."""
        self.ask(self.search.without(old))

    def sort(self, orders: Sequence[Order]) -> None:
        """Another order; none is that of the list, or as tracks came."""
        self.ask(attrs.evolve(self.search, order=tuple(orders)))

    @property
    def orderable(self) -> bool:
        """Whether rows can be dragged to another place: a list as it is, with nothing left out."""
        return self.kind == lists.LIST and self.search == Search()

    def refresh(self) -> None:
        """Look again: rows come and go, and are sorted anew."""
        self._known.clear()
        self._count_all()
        try:
            self.title = self.shelves.one(self.number).name if self.number else self.title
        except MervidError:
            # it was deleted
            self.number, self.kind, self.title, self.search = 0, "", ALL, Search()
        self._find(anew=True)

    def _count_all(self) -> None:
        try:
            self.total = self.library.size()
        except MervidError as e:
            self.say.problem(str(e))

    def _find(self, *, anew: bool = False) -> bool:
        self._timer.stop()
        if anew:
            self.finder.forget()
        try:
            standing = self.kind == lists.SEARCH or not self.number
            among = None if standing else self.shelves.tracks(self.number)
            self.ids = self.finder.find(self.search, among=among)
            self._time()
        except MervidError as e:
            self.say.problem(str(e))
            return False
        self.changed.emit()
        return True

    def places_of(self, rows: Sequence[int]) -> list[int]:
        """Where in their list the tracks of these rows stand, whatever the rows are sorted by and what is left out."""
        order = self.shelves.tracks(self.number)
        out: list[int] = []
        for row in rows:
            track = self.ids[row]
            # of a track that is in the list twice, the rows come in the order of the places
            before = int((self.ids[:row] == track).sum())
            out.append(int(np.flatnonzero(order == track)[before]))
        return out

    # times of a list

    @property
    def timed(self) -> bool:
        """Whether each row has a time at which it is played: in a whole list that says when it begins."""
        return self._begins is not None

    def clock_at(self, row: int) -> str:
        """When the track in a row is played, '22:47'; empty where no list says that."""
        if self._begins is None or row >= len(self.ids):
            return ""
        minutes = (self._begins + round(float(self._passed[row]) / 60)) % 1440
        return f"{minutes // 60:02d}:{minutes % 60:02d}"

    def _time(self) -> None:
        """Work out the times of the list that is shown."""
        self._begins, self._passed = None, np.zeros(0)
        if not self.orderable:
            return
        begins = self.shelves.one(self.number).begins
        if begins:
            hours, _, minutes = begins.partition(":")
            self._begins = 60 * int(hours) + int(minutes)
            lengths = self.shelves.lengths(self.number)
            self._passed = np.concatenate([[0.0], np.cumsum([lengths.get(int(i), 0.0) for i in self.ids])])

    # what changes

    def _added(self, ids: list[int]) -> None:
        if self.number or not self.search.empty or self.search.order:
            self._timer.start()
            return
        self.total += len(ids)
        first = len(self.ids)
        new = np.array(ids, np.int64)
        new = new[~np.isin(new, self.ids)]
        self.ids = np.concatenate([self.ids, new])
        self.finder.forget()
        self.grown.emit(first, len(new))

    def _changed(self, track_id: int, what: str) -> None:
        if what != PROGRESS:
            self._known.pop(track_id, None)
        for row in self.rows_of(track_id):
            self.touched.emit(row)

    def _many_changed(self, ids: list[int]) -> None:
        for i in ids:
            self._known.pop(i, None)
        self.touched.emit(None)

    # rows

    def __len__(self) -> int:
        return len(self.ids)

    def rows_of(self, track_id: int) -> list[int]:
        """In which rows a track stands."""
        return [int(r) for r in np.flatnonzero(self.ids == track_id)]

    def row_of(self, track_id: int) -> int:
        """Where a track stands first; -1 where it doesn't."""
        found = np.flatnonzero(self.ids == track_id)
        return int(found[0]) if len(found) else -1

    def track(self, row: int) -> Track | None:
        """The track in a row; those around it are read with it. None where it has gone."""
        if not 0 <= row < len(self.ids):
            return None
        track_id = int(self.ids[row])
        if track_id not in self._known:
            if len(self._known) > 12 * AROUND:
                self._known.clear()
            first = row - row % AROUND
            around = self.ids[first : first + AROUND]
            try:
                self._known.update({t.id: t for t in self.library.tracks(sorted({int(i) for i in around}))})
            except MervidError:
                return None
        return self._known.get(track_id)

    def next_needing(self, track_id: int | None, step: int = 1) -> int | None:
        """The next track in sight, after this one and round to it, that needs a person; None where none does."""
        wanted = set(ids_of(self.library, f"SELECT id AS i FROM tracks WHERE out=0 AND {NEEDS_PERSON}").tolist())
        row = self.row_of(track_id) if track_id is not None else -1
        order = self.ids.tolist()[::step]
        at = (row if step > 0 else len(order) - 1 - row) if row >= 0 else -1
        around = [*order[at + 1 :], *order[: max(0, at)]]
        return next((i for i in around if i in wanted), None)
