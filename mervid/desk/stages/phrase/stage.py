"""Phrase: the form of the track, cues on it, recipes, the player that stands in, skips."""

from __future__ import annotations

from typing import ClassVar

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from ....store import facts
from ...session.in_figures import InFigures, of_sheet
from ...session.session import Session
from ...theme.tr import tr
from ..frame import EDIT_KEYS, MOVE_KEYS, SIDEWAYS_KEYS, OwnKeys, Stage
from .cue_commands import CueCommands
from .phrase_commands import PhraseCommands
from .recipe_commands import RecipeCommands
from .surface import PLAYER, RECIPE, SKIPS, PhraseSurface

SHEET_KEYS = {Qt.Key.Key_N, Qt.Key.Key_X, Qt.Key.Key_Space, Qt.Key.Key_Comma, Qt.Key.Key_Period}


class PhraseStage(Stage):
    """The phrases and cues of the open track."""

    key, title, shortcut = "phrase", "Phrase", "F4"
    tip = "The form of the track, cues, loops, recipes"
    sets = (PhraseCommands, CueCommands, RecipeCommands)
    mouse = (
        ("Drag the end of a row in the ladder", "The next phrase begins there, on a bar line"),
        ("Drag a cue in the ladder", "Move it; freely with Shift"),
        ("Right click a row in the ladder", "Roles, sections, split, merge"),
        ("Click a flag in the contact sheet", "Leave that cue out, or take it in again"),
    )

    guide: ClassVar = {
        "": ("phrase", "The ladder"),
        RECIPE: ("phrase", "Recipes"),
        PLAYER: ("phrase", "The player that stands in"),
        SKIPS: ("phrase", "Skips"),
    }

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.view = PhraseSurface(session, self.keys_of)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.view)
        self.phrases, self.cues = PhraseCommands(session, self.view), CueCommands(session, self.view)
        self.recipes = RecipeCommands(session, self.view)
        self.use(self.phrases, self.cues, self.recipes)
        self._connect()

    def _connect(self) -> None:
        v, s = self.view, self.session
        for view in (v.overview, v.ladder, v.closeup):
            view.seek.connect(s.player.seek)
        v.ladder.chosen.connect(lambda row: s.phrases.choose(v.phrase_of(row)))
        v.ladder.cue_chosen.connect(s.phrases.choose_cue)
        v.ladder.start_placed.connect(lambda row, beat: self.phrases.start_placed(v.phrase_of(row), beat))
        v.ladder.cue_placed.connect(self.cues.cue_placed)
        v.ladder.menu_wanted.connect(lambda row, at: self.phrases.menu(v.phrase_of(row), at))
        v.ladder.hovered.connect(self.reading)
        v.panel.asked.connect(self.asked)
        v.panel.cues.jumped.connect(lambda i: self.ask("jump", i))
        v.panel.cues.chosen.connect(s.phrases.choose_cue)
        v.panel.cues.renamed.connect(lambda i, n: self.ask("rename", (i, n)))
        v.panel.cues.deleted.connect(lambda i: self.ask("delete", i))
        v.editor.changed.connect(s.recipes.change)
        v.editor.saved.connect(self.recipes.saved)
        v.editor.opened.connect(self.recipes.from_file)
        v.editor.habit_wanted.connect(lambda: self.ask("learn-habit"))
        s.recipes.learned.connect(self.recipes.habit_learned)
        v.gear.gear_chosen.connect(lambda kind: self.ask("gear", kind))
        v.gear.hit.connect(lambda i: self.ask("jump", i))
        v.gear.waited.connect(self.cues.wait_at)
        v.gear.loaded.connect(self.cues.load)
        v.gear.stepped.connect(self.cues.step_standby)
        v.gear.started.connect(s.player.toggle)
        v.gear.completed.connect(s.phrases.complete)
        v.skips.tried.connect(lambda k: self.ask("try-skip", k))
        v.sheet.asked.connect(self.asked)
        v.to_sheet.clicked.connect(lambda: self.ask("apply-all"))
        s.selection.changed.connect(lambda: v.show_chosen_tracks(len(s.selection.ids)))

    def in_figures(self) -> list[InFigures]:
        sheet = of_sheet(self.session.sheet) if self.view.sheet.isVisible() else []
        return sheet or super().in_figures()

    @property
    def place(self) -> str:
        return self.view.pages.seen

    def waiting(self) -> tuple[int, str]:
        return facts.without_cues(self.session.library), tr("without cues")

    def own_keys(self) -> OwnKeys:
        sheet = MOVE_KEYS | EDIT_KEYS | SIDEWAYS_KEYS | SHEET_KEYS
        return [(self.view.panel.cues, MOVE_KEYS | EDIT_KEYS), (self.view.sheet.cards, sheet)]

    @property
    def first(self) -> QWidget:
        return self.view.sheet.cards if self.view.sheet.isVisible() else self.view.ladder
