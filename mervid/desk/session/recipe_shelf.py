"""The cue recipes there are, shipped and own, which one is in hand, and what it would place in the open track."""

from __future__ import annotations

import re
from pathlib import Path

from PyQt6.QtCore import QObject, QSettings, pyqtSignal

from ... import places
from ...core.cues import recipes
from ...core.cues.recipes import Recipe, Told
from ...core.errors import Cancelled, FormatError, Refused
from ...core.model.preparation import Preparation
from ...formats import exchange
from ...formats import recipe as recipe_files
from ...jobs import errands
from ..theme.tr import tr
from .errands import NO_LIBRARY, Errands
from .kept import Once
from .messages import Messages
from .open_track import OpenTrack

IN_USE = "recipe"
"""The name of the setting that holds the recipe in use, as TOML."""


class RecipeShelf(QObject):
    """`changed` when another recipe is in hand or all were read anew; `learned` with a habit and its tracks."""

    changed = pyqtSignal()
    learned = pyqtSignal(tuple, int)

    def __init__(self, track: OpenTrack, say: Messages, folder: Path | None = None) -> None:
        super().__init__()
        self.track, self.say = track, say
        self.folder = folder or places.recipes_folder()
        self.shipped: list[Recipe] = []
        self.own: dict[Path, Recipe] = {}
        self.problems: list[str] = []
        self.recipe: Recipe | None = None
        self._outcome = Once[tuple[Preparation, Told] | None]()
        self._recall()
        self.load()

    def _recall(self) -> None:
        """Take up the recipe that was in use when the program was closed, saved or not."""
        try:
            self.recipe = recipe_files.read(str(QSettings().value(IN_USE, "")))
        except FormatError:
            self.recipe = None

    def load(self) -> None:
        """Read the shipped recipes and the user's own; what can't be read is kept as a word about it."""
        self.shipped = recipe_files.shipped()
        self.own, self.problems = recipe_files.own(self.folder)
        if self.recipe is None:
            self.recipe = self.shipped[0]

    @property
    def names(self) -> list[str]:
        """The recipes to choose from: shipped ones, then own ones."""
        return [r.name for r in self.shipped] + [f"{r.name} (own)" for r in self.own.values()]

    @property
    def at(self) -> int:
        """Which of `names` is in hand; -1 for one that was changed and not saved."""
        every = [*self.shipped, *self.own.values()]
        return every.index(self.recipe) if self.recipe in every else -1

    def use(self, number: int) -> None:
        """Take a recipe in hand."""
        every = [*self.shipped, *self.own.values()]
        if 0 <= number < len(every):
            self.change(every[number])

    def change(self, recipe: Recipe) -> None:
        """The recipe in hand was edited; it is there again after a restart, also if nobody saves it."""
        self.recipe = recipe
        QSettings().setValue(IN_USE, recipe_files.write(recipe))
        self.changed.emit()

    def open_file(self, path: Path) -> None:
        """Take a recipe from a file; it is copied among the user's own. Raises `FormatError`."""
        self.save(recipe_files.load(path))

    def save(self, recipe: Recipe) -> Path:
        """Keep a recipe among the user's own, under its name; one of that name is written over.

        Raises
        ------
        FormatError
            It can't be written.
        """
        stem = re.sub(r"[^\w\- ]+", "", recipe.name).strip() or "recipe"
        path = self.folder / f"{stem}.toml"
        try:
            self.folder.mkdir(parents=True, exist_ok=True)
            exchange.write_new(path, recipe_files.write(recipe))
        except OSError as e:
            raise FormatError(f"{path.name} can't be written: {e.strerror or e}.") from None
        self.recipe = recipe
        self.load()
        self.changed.emit()
        return path

    # a person's own habit

    def learn(self, work: Errands) -> None:
        """Read a habit from the cues that a hand set; `learned` comes with what was found."""
        if work.path is None:
            self.say.refused(NO_LIBRARY)
            return
        self.say.done(tr("Reading your habit from the cues that you set …"))
        work.look(self._learned, errands.learn_habit)

    def _learned(self, answer: object) -> None:
        if isinstance(answer, tuple):
            self.learned.emit(*answer)
        elif isinstance(answer, Refused):
            self.say.refused(str(answer))
        elif not isinstance(answer, Cancelled):
            self.say.problem(errands.words_of(answer))

    # in the open track

    def outcome(self) -> tuple[Preparation, Told] | None:
        """What the recipe in hand would place in the open track; None where it can't be worked out."""
        p, recipe = self.track.preparation, self.recipe

        def work_out() -> tuple[Preparation, Told] | None:
            place = self.track.place
            if place is None or recipe is None:
                return None
            try:
                return recipes.work_out(p, recipe, place)
            except Refused:
                return None

        return self._outcome.of((p, self.track.form, recipe), work_out)

    def apply(self) -> Told | None:
        """Apply the recipe in hand to the open track; None where it was refused, which is said."""
        place, recipe = self.track.place, self.recipe
        if recipe is None:
            return None
        if place is None:
            self.say.refused(tr("There is no grid yet, so no cue has a place: see Align."))
            return None
        found = self.outcome()
        if not self.track.apply(recipes.apply, recipe, place):
            if found is not None and not self.track.preparation.locked:
                self.say.done(tr("The cues are as this recipe places them already."))
            return None
        return found[1] if found else None
