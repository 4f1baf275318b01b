"""Commands on cue recipes: take one in hand, apply it here or to many tracks, keep it as a file."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtWidgets import QFileDialog

from ....core.cues import habit
from ....core.cues.habit import Held
from ....core.cues.recipes import Recipe
from ....core.errors import FormatError
from ...commands.command import CUES, command, request
from ...theme.tr import tr
from ...widgets import file_dialogs
from ...widgets.habit_dialog import HabitDialog
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
                words += tr(" Not placed: {0}.").format("; ".join(told.problems[:3]))
            self.say.done(words + tr(" Ctrl+Z takes it back."))

    # over many tracks

    @command("Shift+A", "The recipe in hand over the chosen tracks: the contact sheet", CUES,
             also="batch many automatic hundred list apply all")  # fmt: skip
    def apply_all(self, _: object) -> None:
        sheet, ids = self.session.sheet, self.session.selection.ids
        others = len(ids) > 1 and set(ids) != {x.track for x in sheet.seen}
        # one that was put down gives way to other tracks; one that is gone through stays until it is closed
        if sheet.stands and not (sheet.outcomes and others):
            sheet.freshen()
            self.view.show_sheet()
        elif ids and self.shelf.recipe is not None and sheet.begin(ids, self.shelf.recipe):
            self.view.show_sheet()

    @request
    def sheet_next(self, _: object) -> None:
        if not self.session.sheet.next_doubtful():
            self.say.done(tr("None is left in doubt."))

    @request
    def sheet_fine(self, _: object) -> None:
        self.session.sheet.call_fine()

    @request
    def sheet_fix(self, place: object) -> None:
        """Open a track of the sheet, and go to where the first cue in doubt would lie."""
        sheet = self.session.sheet
        if isinstance(place, int):
            sheet.choose(place)
        x = sheet.chosen
        if x is None or not self.session.library.has(x.track):
            return
        self.session.open(x.track)
        self.view.show_track_view()
        unsure = min(x.flags, key=lambda f: f.chance, default=None)
        grid = self.track.grid
        if unsure is not None and grid is not None:
            self.player.go(unsure.cue.at(grid))
            self.choose_at(unsure.key[0])

    @request
    def sheet_out(self, _: object) -> None:
        self.session.sheet.toggle(self.session.sheet.at)

    @request
    def sheet_apply(self, _: object) -> None:
        self.session.sheet.put_down()

    @request
    def sheet_stop(self, _: object) -> None:
        sheet = self.session.sheet
        if sheet.busy:
            sheet.stop()
        else:
            sheet.stop_looking()

    @request
    def sheet_undo(self, _: object) -> None:
        self.session.sheet.take_back()

    @request
    def sheet_export(self, _: object) -> None:
        path = file_dialogs.file(self.view, tr("Write the account"), "reports", "cues.tsv", "Values (*.tsv)")
        if path is not None:
            self.session.sheet.export(path)

    @request
    def sheet_leave(self, _: object) -> None:
        self.view.show_track_view()

    @request
    def sheet_close(self, _: object) -> None:
        self.session.sheet.close()
        self.view.show_track_view()

    # a person's own habit

    @command("Alt+A", "A recipe from the cues that you set by hand", CUES, also="learn habit automatic rules mine")
    def learn_habit(self, _: object) -> None:
        self.shelf.learn(self.session.work)

    def habit_learned(self, held: tuple[Held, ...], tracks: int) -> None:
        """Show the rules that were found; those that are ticked become the recipe in hand."""
        dialog = HabitDialog(self.view, held, tracks)
        dialog.taken.connect(lambda rules: self._take_habit(rules, tracks))
        dialog.open()

    def _take_habit(self, held: list[Held], tracks: int) -> None:
        self.shelf.change(habit.recipe_of(held, tracks))
        self.view.pages.turn_to(RECIPE)
        self.say.done(tr("Your habit is the recipe in hand: change it, save it, apply it."))

    # pages

    @command("Q", "The recipe in words", CUES, also="rules page edit")
    def recipe_page(self, _: object) -> None:
        self.view.pages.turn(RECIPE)

    @command("Shift+Q", "Skips", CUES, also="jump chorus page")
    def skips_page(self, _: object) -> None:
        self.view.pages.turn(SKIPS)

    # files

    def saved(self, recipe: Recipe) -> None:
        try:
            path = self.shelf.save(recipe)
        except FormatError as e:
            self.say.problem(str(e))
            return
        self.say.done(tr("Kept as {0}").format(path))

    def from_file(self) -> None:
        name, _ = QFileDialog.getOpenFileName(
            self.view, tr("Take a recipe from a file"), str(Path.home()), "Recipes (*.toml)"
        )
        if name:
            self.open_recipe(Path(name))

    def open_recipe(self, path: Path) -> None:
        """Take a recipe from a file in hand."""
        try:
            self.shelf.open_file(path)
        except FormatError as e:
            self.say.problem(str(e))
