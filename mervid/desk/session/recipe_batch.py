"""One recipe over many tracks, one track in each turn of the event loop, and one way to take it all back."""

from __future__ import annotations

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from ...core.cues.recipes import Recipe
from ...core.errors import MervidError
from ...store import batch
from ...store.batch import Outcome
from ...store.schema import StoreError
from .catalogue import PREPARATION, Catalogue
from .messages import Messages
from .open_track import OpenTrack


class RecipeBatch(QObject):
    """`stepped` with how many are done of how many; `ended` with the outcomes."""

    stepped = pyqtSignal(int, int)
    ended = pyqtSignal(list)

    def __init__(self, catalogue: Catalogue, track: OpenTrack, say: Messages) -> None:
        super().__init__()
        self.catalogue, self.track, self.say = catalogue, track, say
        self._todo: list[int] = []
        self._total = 0
        self._recipe: Recipe | None = None
        self._outcomes: list[Outcome] = []
        self.last: list[Outcome] = []

    def apply_to(self, track_ids: list[int], recipe: Recipe) -> None:
        """Apply a recipe to many tracks."""
        if self._todo:
            return
        self._todo, self._total = list(track_ids), len(track_ids)
        self._outcomes, self._recipe = [], recipe
        QTimer.singleShot(0, self._step)

    def stop(self) -> None:
        """Leave off where it is: what was applied so far is kept."""
        self._todo = []

    def _step(self) -> None:
        if not self._todo or self._recipe is None:
            return
        number = self._todo.pop(0)
        try:
            if self.catalogue.library.has(number):
                outcome = batch.apply_recipe(self.catalogue.library, number, self._recipe)
                self._outcomes.append(outcome)
                if outcome.head >= 0:
                    self.catalogue.tell(number, PREPARATION)
        except StoreError as e:
            # nothing more can be kept: what was done so far is told
            self._todo = []
            self.say.problem(str(e))
        self.stepped.emit(self._total - len(self._todo), self._total)
        if self._todo:
            QTimer.singleShot(0, self._step)
            return
        self.last = self._outcomes
        self.track.reread()
        self.ended.emit(self.last)

    def take_back(self) -> None:
        """Undo the last recipe in all the tracks it was applied to, and say what became of it."""
        last, self.last = self.last, []
        try:
            undone, kept = batch.take_back(self.catalogue.library, last)
        except MervidError as e:
            self.say.problem(str(e))
            return
        for outcome in last:
            if self.catalogue.library.has(outcome.track_id):
                self.catalogue.tell(outcome.track_id, PREPARATION)
        self.track.reread()
        words = f"Taken back in {undone} track{'s' if undone != 1 else ''}."
        if kept:
            words += f" Changed since, so left as they are: {', '.join(kept[:4])}{' …' if len(kept) > 4 else ''}."
        self.say.done(words)
