"""State of the Phrase stage: what is chosen, the recipes, what one would place, the player that stands in.

No widgets here.
"""

from __future__ import annotations

import re
from pathlib import Path

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from ... import places
from ...core.cues import cue_edits, player_profile, recipes
from ...core.cues.player_profile import Arrival, Gear
from ...core.cues.recipes import Place, Recipe, Told
from ...core.errors import FormatError, MervidError, Refused
from ...core.form import skips
from ...core.form.skips import Skip
from ...core.model.cue import Cue
from ...core.model.form import Form
from ...core.model.preparation import Preparation
from ...formats import exchange
from ...formats import recipe as recipe_files
from ...store import batch
from ...store.batch import Outcome
from ...store.schema import StoreError
from .open_track import Workbench


class PhraseChoice(QObject):
    """`changed` whenever what is shown may be another thing; `batch_done` with the outcomes of many tracks."""

    changed = pyqtSignal()
    batch_step = pyqtSignal(int, int)
    batch_done = pyqtSignal(list)

    def __init__(self, bench: Workbench, folder: Path | None = None) -> None:
        super().__init__()
        self.bench = bench
        self.folder = folder or places.recipes_folder()
        self.chosen = 0
        self.cue_id = ""
        self.snap = cue_edits.DOWNBEAT
        self.gear: Gear = player_profile.EIGHT
        self.shipped: list[Recipe] = []
        self.own: dict[Path, Recipe] = {}
        self.problems: list[str] = []
        self.recipe: Recipe | None = None
        self._todo: list[int] = []
        self._total = 0
        self._outcomes: list[Outcome] = []
        self._batch_recipe: Recipe | None = None
        self.last_batch: list[Outcome] = []
        self._skips: tuple[object, list[Skip]] | None = None
        self.load_recipes()

    # recipes

    def load_recipes(self) -> None:
        """Read the shipped recipes and the user's own; what can't be read is kept as a word about it."""
        self.shipped = recipe_files.shipped()
        self.own, self.problems = {}, []
        for path in sorted(self.folder.glob("*.toml")) if self.folder.is_dir() else []:
            try:
                self.own[path] = recipe_files.load(path)
            except FormatError as e:
                self.problems.append(str(e))
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
            self.recipe = every[number]
            self.changed.emit()

    def change(self, recipe: Recipe) -> None:
        """The recipe in hand was edited."""
        self.recipe = recipe
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
        self.load_recipes()
        self.changed.emit()
        return path

    @property
    def place(self) -> Place | None:
        """What rules can refer to in the open track; None without a grid."""
        b = self.bench
        if b.preparation.grid is None:
            return None
        return Place(b.preparation.grid, b.form, b.duration, b.vocal)

    def preview(self) -> tuple[Preparation, Told] | None:
        """What the recipe in hand would place in the open track; None where it can't be worked out."""
        place = self.place
        if place is None or self.recipe is None:
            return None
        try:
            return recipes.work_out(self.bench.preparation, self.recipe, place)
        except Refused:
            return None

    def apply(self) -> Told | None:
        """Apply the recipe in hand to the open track; None where it was refused, which is said."""
        place, recipe = self.place, self.recipe
        if recipe is None:
            return None
        if place is None:
            self.bench.said.emit("refused", "There is no grid yet, so no cue has a place: see Align.")
            return None
        found = self.preview()
        if not self.bench.apply(recipes.apply, recipe, place):
            if found is not None and not self.bench.preparation.locked:
                self.bench.said.emit("done", "The cues are as this recipe places them already.")
            return None
        return found[1] if found else None

    # a recipe over many tracks

    def apply_to(self, track_ids: list[int]) -> None:
        """Apply the recipe in hand to many tracks, one in each turn of the event loop."""
        if self._todo or self.recipe is None:
            return
        self._todo, self._total = list(track_ids), len(track_ids)
        self._outcomes, self._batch_recipe = [], self.recipe
        QTimer.singleShot(0, self._step)

    def stop(self) -> None:
        """Leave off where it is: what was applied so far is kept."""
        self._todo = []

    def _step(self) -> None:
        if not self._todo or self._batch_recipe is None:
            return
        number = self._todo.pop(0)
        try:
            if self.bench.library.has(number):
                self._outcomes.append(batch.apply_recipe(self.bench.library, number, self._batch_recipe))
        except StoreError as e:
            # nothing more can be kept: what was done so far is told
            self._todo = []
            self.bench.said.emit("problem", str(e))
        self.batch_step.emit(self._total - len(self._todo), self._total)
        if self._todo:
            QTimer.singleShot(0, self._step)
            return
        self.last_batch = self._outcomes
        self.bench.reread()
        self.batch_done.emit(self.last_batch)

    def take_batch_back(self) -> tuple[int, list[str]]:
        """Undo the last recipe in all the tracks it was applied to."""
        try:
            done = batch.take_back(self.bench.library, self.last_batch)
        except MervidError as e:
            self.bench.said.emit("problem", str(e))
            return 0, []
        self.last_batch = []
        self.bench.reread()
        return done

    # what is chosen

    def choose(self, index: int) -> None:
        """Choose a phrase."""
        if index != self.chosen:
            self.chosen = index
            self.changed.emit()

    def choose_cue(self, cue_id: str) -> None:
        """Choose a cue."""
        if cue_id != self.cue_id:
            self.cue_id = cue_id
            self.changed.emit()

    @property
    def cue(self) -> Cue | None:
        """The chosen cue, while it is there."""
        return next((c for c in self.bench.preparation.cues if c.id == self.cue_id), None)

    def seam(self, cue: Cue) -> float | None:
        """The error at the seam of a cue's loop, ms; None without one, or where nothing is heard."""
        p, found = self.bench.preparation, self.bench.drift()
        loop = cue_edits.loop_of(p, cue)
        if loop is None or found is None or p.grid is None:
            return None
        return cue_edits.seam_error(found[0], loop, 60 / p.grid.tempo_at(loop[0]))

    @property
    def arrival(self) -> Arrival:
        """What the player that stands in has of the open track."""
        return player_profile.arrive(self.bench.preparation, self.gear)

    def complete(self) -> bool:
        """Add what that player would lose."""
        return self.bench.apply(player_profile.complete, self.gear)

    @property
    def skips(self) -> list[Skip]:
        """Skips from chorus to chorus in the open track."""
        form, grid = self.bench.form, self.bench.preparation.grid
        if form is None or grid is None:
            return []
        key = (form, grid)
        if self._skips is None or self._skips[0] != key:
            self._skips = (key, skips.skips(grid, form))
        return self._skips[1]

    def kept_form(self) -> Form:
        """The form to edit. Raises `Refused` where there is none."""
        form = self.bench.form
        if form is None:
            raise Refused("There are no phrases yet: the track needs a grid and a few bars of music.")
        return form
