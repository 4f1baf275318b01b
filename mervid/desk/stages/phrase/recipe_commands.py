"""Commands on cue recipes: take one in hand, apply it here or to many tracks, keep it as a file."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtWidgets import QFileDialog

from ....core.cues.recipes import Recipe
from ....core.errors import FormatError
from ....store.batch import Outcome
from ...commands.command import CUES, command, request
from ...widgets.batch_report import BatchReport
from .base import PhraseStageCommands
from .surface import RECIPE, SKIPS


class RecipeCommands(PhraseStageCommands):
    """Rules that place cues."""

    # recipes

    @request
    def recipe(self, number: object) -> None:
        self.shelf.use(int(str(number)))

    @command("A", "Apply the recipe in hand", CUES, also="automatic cues place rules")
    def apply(self, _: object) -> None:
        told = self.shelf.apply()
        if told is not None:
            words = f"{told.placed} cue{'s' if told.placed != 1 else ''} placed."
            if told.problems:
                words += f" Not placed: {'; '.join(told.problems[:3])}."
            self.say.done(words + " Ctrl+Z takes it back.")

    # over many tracks

    @command("Shift+A", "Apply the recipe in hand to the tracks chosen at the left", CUES, also="batch many automatic")
    def apply_all(self, _: object) -> None:
        ids = self.session.selection.ids
        if ids and self.shelf.recipe is not None:
            self.session.batch.apply_to(ids, self.shelf.recipe)

    def batch_stepped(self, done: int, of: int) -> None:
        """So many tracks of so many are done."""
        if of > 3:
            self.say.done(f"Recipe: {done} of {of} tracks …")

    def batch_ended(self, outcomes: list[Outcome]) -> None:
        """All tracks are done: tell what became of each."""
        recipe = self.shelf.recipe
        report = BatchReport(self.view, recipe.name if recipe is not None else "", outcomes)
        report.taken_back.connect(self.session.batch.take_back)
        report.open()

    # pages

    @command("G", "The recipe in words", CUES, also="rules page edit")
    def recipe_page(self, _: object) -> None:
        self.view.pages.turn(RECIPE)

    @command("Q", "Skips", CUES, also="jump chorus page")
    def skips_page(self, _: object) -> None:
        self.view.pages.turn(SKIPS)

    # files

    def saved(self, recipe: Recipe) -> None:
        try:
            path = self.shelf.save(recipe)
        except FormatError as e:
            self.say.problem(str(e))
            return
        self.say.done(f"Kept as {path}")

    def from_file(self) -> None:
        name, _ = QFileDialog.getOpenFileName(
            self.view, "Take a recipe from a file", str(Path.home()), "Recipes (*.toml)"
        )
        if name:
            self.open_recipe(Path(name))

    def open_recipe(self, path: Path) -> None:
        """Take a recipe from a file in hand."""
        try:
            self.shelf.open_file(path)
        except FormatError as e:
            self.say.problem(str(e))
