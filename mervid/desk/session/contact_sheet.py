"""One recipe over many tracks: what it would do is looked at first, then put down, and can be taken back as one.

Tracks are looked at by a process of its own, some at a time, so that the sheet fills while a person reads it. What is
put down is an edit in each track, one in each turn of the event loop.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path

from PyQt6.QtCore import QDateTime, QObject, QTimer, pyqtSignal

from ... import places
from ...core.cues import prospects
from ...core.cues.prospects import Prospect
from ...core.cues.recipes import Key, Recipe
from ...core.errors import Cancelled, MervidError
from ...formats import exchange
from ...jobs import errands
from ...store import batch
from ...store.batch import Outcome
from ...store.schema import StoreError
from ..theme.tr import tr
from .catalogue import PREPARATION, Catalogue
from .errands import NO_LIBRARY, Errands
from .messages import Messages
from .open_track import OpenTrack

AT_ONCE = 12
"""So many tracks are looked at between two answers."""


class ContactSheet(QObject):
    """`changed` when the sheet is another, `moved` when another track of it is chosen, `stepped` while it works.

    Attributes
    ----------
    recipe : the recipe it is about; None while there is no sheet
    seen : what it would do, doubtful ones first; `waiting` are the tracks that are still to be looked at
    left : keys of the flags that are left out, by track
    out : tracks that are left out; `fine` are doubtful ones that a person has looked at
    at : the chosen place in `seen`
    outcomes : what became of each track; empty before it was put down
    report : where the account of that is kept
    """

    changed = pyqtSignal()
    moved = pyqtSignal()
    stepped = pyqtSignal(int, int)

    def __init__(self, catalogue: Catalogue, track: OpenTrack, work: Errands, say: Messages) -> None:
        super().__init__()
        self.catalogue, self.track, self.work, self.say = catalogue, track, work, say
        self.recipe: Recipe | None = None
        self.seen: list[Prospect] = []
        self.waiting: list[int] = []
        self.left: dict[int, frozenset[Key]] = {}
        self.out: set[int] = set()
        self.fine: set[int] = set()
        self.at = 0
        self.outcomes: list[Outcome] = []
        self.report: Path | None = None
        self._asked = self._looking = 0
        self._todo: list[Prospect] = []
        self._done: list[Outcome] = []
        self._total = 0
        self._changed_since: set[int] = set()
        catalogue.changed.connect(self._track_changed)

    @property
    def stands(self) -> bool:
        """Whether there is a sheet."""
        return self.recipe is not None

    @property
    def busy(self) -> bool:
        """Whether cues are being put down."""
        return bool(self._todo)

    @property
    def chosen(self) -> Prospect | None:
        """The chosen track of the sheet."""
        return self.seen[self.at] if self.at < len(self.seen) else None

    @property
    def doubtful(self) -> list[int]:
        """Places of the tracks that nobody has looked at yet although they are in doubt."""
        done = self.out | self.fine
        return [k for k, x in enumerate(self.seen) if x.doubtful and x.track not in done]

    @property
    def wanted(self) -> list[Prospect]:
        """The tracks in which something would be put down."""
        return [
            x
            for x in self.seen
            if x.track not in self.out and any(f.key not in self.left.get(x.track, ()) for f in x.flags)
        ]

    # looking

    def begin(self, ids: Sequence[int], recipe: Recipe) -> bool:
        """Look at what a recipe would do to tracks; whether that could be begun."""
        if self.busy:
            self.say.refused(tr("The last recipe is still being put down."))
            return False
        if self.work.path is None:
            self.say.refused(NO_LIBRARY)
            return False
        self._forget()
        self.recipe, self.waiting = recipe, list(dict.fromkeys(ids))
        self._next()
        self.changed.emit()
        return True

    def _forget(self) -> None:
        self.work.looks.stop(self._looking)
        self._asked += 1
        self.recipe, self.seen, self.waiting, self.at = None, [], [], 0
        self.left, self.out, self.fine, self.outcomes, self.report = {}, set(), set(), [], None
        self._changed_since.clear()

    def close(self) -> None:
        """There is no sheet any more; what was put down stays."""
        self._todo = []
        self._forget()
        self.changed.emit()

    def _look(self, ids: Sequence[int], tell: Callable[[list[Prospect]], None]) -> None:
        asked = self._asked

        def told(answer: object) -> None:
            if asked != self._asked:
                return
            if isinstance(answer, list):
                tell(answer)
            elif not isinstance(answer, Cancelled):
                self.waiting = []
                self.say.problem(errands.words_of(answer))
                self.changed.emit()

        self._looking = self.work.look(told, errands.look_at, tuple(ids), self.recipe)

    def _next(self) -> None:
        if self.waiting:
            self._look(self.waiting[:AT_ONCE], self._looked)

    def _looked(self, found: list[Prospect]) -> None:
        now = self.chosen
        self.waiting = self.waiting[AT_ONCE:]
        self.seen = prospects.in_order([*self.seen, *found])
        # the chosen one stays chosen wherever it comes to lie; before a hand chose any, the first is
        if now is not None and self.at:
            self._choose_track(now.track)
        self.changed.emit()
        self._next()

    def stop_looking(self) -> None:
        """Leave out what was not looked at yet."""
        self.work.looks.stop(self._looking)
        self._asked += 1
        self.waiting = []
        self.changed.emit()

    def _track_changed(self, number: int, what: str) -> None:
        """A track of the sheet was mended in between: look at it anew when the sheet is seen again."""
        if self.stands and not self.busy and not self.outcomes and what == PREPARATION:
            self._changed_since.add(number)

    def freshen(self) -> None:
        """Look again at what was changed since."""
        old = [x.track for x in self.seen if x.track in self._changed_since]
        self._changed_since.clear()
        if old:
            self._look(old, self._freshened)

    def _freshened(self, found: list[Prospect]) -> None:
        new = {x.track: x for x in found}
        # it was mended by hand, so it is looked at; and it keeps its place
        self.fine |= set(new)
        self.seen = [new.get(x.track, x) for x in self.seen]
        self.changed.emit()

    # choosing

    def choose(self, place: int) -> None:
        """Choose a track of the sheet."""
        self.at = min(max(0, place), max(0, len(self.seen) - 1))
        self.moved.emit()

    def _choose_track(self, number: int) -> None:
        self.at = next((k for k, x in enumerate(self.seen) if x.track == number), 0)

    def next_doubtful(self) -> bool:
        """Choose the next one in doubt, round to the first; False where none is left."""
        left = self.doubtful
        if not left:
            return False
        self.choose(next((k for k in left if k > self.at), left[0]))
        return True

    def call_fine(self) -> None:
        """The chosen one is as it should be: on to the next in doubt."""
        x = self.chosen
        if x is not None and not self.outcomes:
            self.fine.add(x.track)
            self.out.discard(x.track)
            if not self.next_doubtful():
                self.moved.emit()

    def toggle(self, place: int) -> None:
        """Leave a track out, or take it in again."""
        if not self.outcomes and place < len(self.seen):
            self.out ^= {self.seen[place].track}
            self.moved.emit()

    def toggle_flag(self, place: int, key: Key) -> None:
        """Leave a single cue out, or take it in again."""
        if not self.outcomes and place < len(self.seen):
            number = self.seen[place].track
            self.left[number] = self.left.get(number, frozenset()) ^ {key}
            self.moved.emit()

    # putting down

    def put_down(self) -> None:
        """Place the cues of all that is wanted."""
        todo = self.wanted
        if self.recipe is None or self.outcomes or self.busy:
            return
        if self.waiting:
            self.say.refused(
                tr("{0} tracks are not looked at yet: wait for them, or stop looking.").format(len(self.waiting))
            )
            return
        if not todo:
            self.say.refused(tr("Nothing is left that would be placed."))
            return
        self._total, self._todo, self._done = len(todo), todo, []
        self.changed.emit()
        QTimer.singleShot(0, self._step)

    def stop(self) -> None:
        """Leave off where it is: what was put down so far is kept, and told."""
        if self.busy:
            self._todo = []
            self._end()

    def _step(self) -> None:
        if not self._todo or self.recipe is None:
            return
        x = self._todo.pop(0)
        try:
            if self.catalogue.library.has(x.track):
                outcome = batch.put_down(self.catalogue.library, x, self.recipe, self.left.get(x.track, ()))
                self._done.append(outcome)
                if outcome.head >= 0:
                    self.catalogue.tell(x.track, PREPARATION)
        except StoreError as e:
            # nothing more can be kept: what was done so far is told
            self._todo = []
            self.say.problem(str(e))
        self.stepped.emit(self._total - len(self._todo), self._total)
        if self._todo:
            QTimer.singleShot(0, self._step)
        else:
            self._end()

    def _end(self) -> None:
        by_track, wanted = {o.track_id: o for o in self._done}, {x.track for x in self.wanted}
        for x in self.seen:
            if x.track not in by_track:
                words = tr("left out by hand") if x.track in self.out or x.flags else tr("nothing to place")
                words = tr("not reached before it was stopped") if x.track in wanted else x.skipped or words
                by_track[x.track] = Outcome(x.track, x.title, skipped=words)
        self.outcomes = [by_track[x.track] for x in self.seen]
        self._keep_report()
        self.track.reread()
        self.changed.emit()

    def take_back(self) -> None:
        """Undo it in all the tracks where it is still the last edit, and say what became of it."""
        try:
            undone, kept = batch.take_back(self.catalogue.library, self.outcomes)
        except MervidError as e:
            self.say.problem(str(e))
            return
        for outcome in self.outcomes:
            if outcome.head >= 0 and self.catalogue.library.has(outcome.track_id):
                self.catalogue.tell(outcome.track_id, PREPARATION)
        ids, recipe = [x.track for x in self.seen], self.recipe
        choices = self.left, self.out, self.fine
        self.track.reread()
        words = f"Taken back in {undone} track{'s' if undone != 1 else ''}."
        if kept:
            words += f" Changed since, so left as they are: {', '.join(kept[:4])}{' …' if len(kept) > 4 else ''}."
        if recipe is not None and self.begin(ids, recipe):
            # what a person has gone through need not be gone through again
            self.left, self.out, self.fine = choices
        self.say.done(words)

    # the account

    def account(self) -> str:
        """What became of each track, as tab-separated text."""
        return batch.account(self.recipe.name if self.recipe is not None else "", self.outcomes)

    def _keep_report(self) -> None:
        stamp = QDateTime.currentDateTime().toString("yyyy-MM-dd HH.mm.ss")
        path = places.reports_folder() / f"{stamp} cues.tsv"
        try:
            places.make_private(path.parent)
            exchange.write_new(path, self.account())
        except (OSError, MervidError):
            # the tracks have their cues: an account that can't be kept is no reason to stop
            return
        self.report = path

    def export(self, path: Path) -> None:
        """Write the account into a file of a person's choice."""
        try:
            exchange.write_new(path, self.account(), self.catalogue.library.sources((path,)))
        except (OSError, MervidError) as e:
            self.say.problem(tr("{0} can't be written: {1}").format(path.name, errands.words_of(e)))
            return
        self.say.done(tr("Written: {0}").format(path))
