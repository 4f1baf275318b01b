"""Phrase: the form of the track, cues and loops on it, recipes, the player that stands in, skips."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QButtonGroup,
    QHBoxLayout,
    QLabel,
    QSplitter,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from ....core.cues import cue_edits
from ....core.form import phrase_edits
from ....core.form.skips import Skip
from ...session.open_track import Workbench
from ...session.phrase_choice import PhraseChoice
from ...sound.player import Player
from ...views.closeup import CloseUp
from ...views.overview import Overview
from ...views.phrase_ladder import PhraseLadder
from ..align.pieces import page_tabs
from .panel import PhrasePanel
from .player_page import GearPage
from .recipe_page import RecipeEditor
from .requests import PhraseRequests
from .skips_page import SkipsPage

PAGES = (
    ("CLOSE-UP", "The waveform around the playhead"),
    ("RECIPE", "The rules of the recipe in hand, with what each would do here (G)"),
    ("PLAYER", "What a player at the gig will see (P)"),
    ("SKIPS", "From chorus to chorus on the beat (K hears the next one)"),
)


class PhraseStage(PhraseRequests, QWidget):
    """Overview, ladder and a page of tools over one another; the panel at the right."""

    reading = pyqtSignal(str)
    batch_wanted = pyqtSignal()

    def __init__(self, bench: Workbench, player: Player) -> None:
        super().__init__()
        self.setObjectName("bench")
        self.bench, self.player = bench, player
        self.state = PhraseChoice(bench)
        self.chosen_tracks = 1
        self.overview, self.ladder, self.closeup = Overview(), PhraseLadder(), CloseUp()
        self.editor, self.gear, self.skips = RecipeEditor(), GearPage(), SkipsPage()
        self.panel = PhrasePanel()
        views = QSplitter(Qt.Orientation.Vertical)
        views.setChildrenCollapsible(False)
        for view, stretch in ((self.overview, 0), (self.ladder, 5), (self._tools(), 2)):
            views.addWidget(view)
            views.setStretchFactor(views.count() - 1, stretch)
        views.setSizes([92, 380, 190])
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(views, 1)
        row.addWidget(self.panel)
        self._connect()

    def _tools(self) -> QWidget:
        box = QWidget()
        box.setObjectName("bench")
        column = QVBoxLayout(box)
        column.setContentsMargins(0, 3, 0, 0)
        column.setSpacing(1)
        row = QHBoxLayout()
        row.setContentsMargins(12, 0, 12, 0)
        row.setSpacing(4)
        self.page_buttons = QButtonGroup(self)
        page_tabs(self.page_buttons, row, PAGES)
        self.page_buttons.idClicked.connect(self.turn_page)
        row.addStretch(1)
        self.hint = QLabel("")
        self.hint.setObjectName("faint")
        row.addWidget(self.hint)
        column.addLayout(row)
        self.pages = QStackedWidget()
        for page in (self.closeup, self.editor, self.gear, self.skips):
            self.pages.addWidget(page)
        column.addWidget(self.pages, 1)
        return box

    def turn_page(self, page: int) -> None:
        """Show the close-up (0), the recipe (1), the player (2) or the skips (3)."""
        button = self.page_buttons.button(page)
        if button is not None:
            button.setChecked(True)
        self.pages.setCurrentIndex(page)
        if page == 1:
            # files may have been mended or added meanwhile
            self.state.load_recipes()
        self.refresh()

    def _connect(self) -> None:
        b = self.bench
        b.track_opened.connect(self._opened)
        b.sound_changed.connect(self._sound)
        b.shown_changed.connect(self.refresh)
        b.offers_changed.connect(self.refresh)
        self.state.changed.connect(self.refresh)
        for view in (self.overview, self.ladder, self.closeup):
            view.seek.connect(self.player.seek)
        self.player.moved.connect(self._moved)
        self.player.program_changed.connect(self._programmed)
        self.player.playing_changed.connect(lambda _: self._countdown())
        ladder = self.ladder
        ladder.chosen.connect(self.state.choose)
        ladder.cue_chosen.connect(self.state.choose_cue)
        ladder.start_placed.connect(self._start_placed)
        ladder.cue_placed.connect(self._cue_placed)
        ladder.menu_wanted.connect(self._menu)
        ladder.hovered.connect(self.reading)
        panel = self.panel
        panel.asked.connect(self.ask)
        panel.cues.jumped.connect(lambda i: self.ask("jump", i))
        panel.cues.chosen.connect(self.state.choose_cue)
        panel.cues.renamed.connect(lambda i, n: self.ask("rename", (i, n)))
        panel.cues.deleted.connect(lambda i: self.ask("delete", i))
        self.editor.changed.connect(self.state.change)
        self.editor.saved.connect(self._recipe_saved)
        self.editor.opened.connect(self._recipe_from_file)
        g = self.gear
        g.gear_chosen.connect(lambda kind: self.ask("gear", kind))
        g.hit.connect(lambda i: self.ask("jump", i))
        g.waited.connect(self._gear_wait)
        g.loaded.connect(self._gear_load)
        g.stepped.connect(self._gear_step)
        g.started.connect(self.player.toggle)
        g.completed.connect(self.state.complete)
        self.skips.tried.connect(lambda k: self.ask("try-skip", k))

    def ask(self, name: str, argument: object = None) -> None:
        """Carry out one request by name; see `commands` and the buttons of the panel."""
        if self.bench.track is not None:
            getattr(self, f"_ask_{name.replace('-', '_')}")(argument)

    def can(self, name: str) -> bool:
        """Whether this stage knows a request."""
        return hasattr(self, f"_ask_{name.replace('-', '_')}")

    # showing

    def _message(self) -> str:
        if self.bench.preparation.grid is None:
            return self.bench.state_words("No beats were heard here, so there are no bars yet. Begin a grid in Align.")
        return self.bench.state_words("Too few bars to tell phrases from.")

    def _opened(self) -> None:
        self.state.chosen, self.state.cue_id = 0, ""
        self._sound()

    def _sound(self) -> None:
        if not self.isVisible():
            return
        b, message = self.bench, self._message()
        self.overview.show_sound(b.waveform, b.evidence, message)
        self.ladder.show_sound(b.waveform, b.ink, message)
        onsets = (b.onset_times, b.onset_strengths)
        self.closeup.show_sound(b.waveform, b.samples, b.evidence, onsets, message)
        self.refresh()
        self._moved(self.player.position)

    def showEvent(self, e: object) -> None:
        self._sound()

    def refresh(self) -> None:
        """Show what there is now; nothing while another stage is seen."""
        if not self.isVisible():
            return
        b, s = self.bench, self.state
        p, form = b.shown, b.form
        if form is not None:
            s.chosen = min(s.chosen, len(form.phrases) - 1)
        found = b.drift()
        self.overview.show_preparation(p, found[0] if found else None, b.advice.unsure(), form)
        self.closeup.show_preparation(p, form)
        preview = s.preview()
        seen = self.pages.currentIndex() == 1
        self.ladder.current, self.ladder.cue_id = s.chosen, s.cue_id
        self.ladder.ghosts = preview[0].cues if preview is not None and seen else ()
        self.ladder.message = self._message()
        self.ladder.show_form(p, form, s.skips)
        title = b.track.title if b.track is not None else ""
        self.panel.show_track(title, p, form)
        self.panel.show_phrase(p, form, s.chosen)
        seams = {c.id: cue_edits.seam_words(s.seam(c)) for c in p.cues if c.bars}
        self.panel.show_cues(p, seams, s.cue, s.snap)
        told = preview[1] if preview is not None else None
        self.panel.show_recipes(s.names, s.at, told, self.chosen_tracks, s.problems)
        self.editor.show_recipe(s.recipe)
        self.editor.show_told(told, p.grid, p.origin)
        self.gear.show_arrival(p, s.gear, s.arrival)
        self.skips.show_skips(self.ordered_skips(), form, p.grid, p.origin)
        self._countdown()
        hints = {1: "dashed flags: what it would place", 2: "Space plays; number keys hit cues"}
        self.hint.setText(hints.get(self.pages.currentIndex(), ""))

    def ordered_skips(self) -> list[Skip]:
        """Skips that keep the phrase first, then short ones."""
        return sorted(self.state.skips, key=lambda s: (not s.keeps, s.target - s.source, s.source))

    def show_chosen_tracks(self, count: int) -> None:
        """So many tracks are chosen in the list."""
        self.chosen_tracks = count
        self.refresh()

    def follow_playhead(self) -> None:
        """Choose the phrase at the playhead."""
        form, grid = self.bench.form, self.bench.grid
        if form is not None and grid is not None:
            self.state.choose(phrase_edits.phrase_at(form, float(grid.beat_at(self.player.position))))

    def _moved(self, position: float) -> None:
        if not self.isVisible():
            return
        for view in (self.overview, self.ladder, self.closeup):
            view.set_position(position)
        self._countdown()

    def _programmed(self) -> None:
        """A skip is on its way, or no longer: the ladder shows what it leaves out."""
        p = self.player.program
        left_out = None
        if p is not None and p.skip is not None and p.grid is not None:
            a, b = (float(x) for x in p.grid.beat_at(p.skip))
            left_out = (a, b)
        if left_out != self.ladder.left_out:
            self.ladder.left_out = left_out
            self.ladder.update()

    def _countdown(self) -> None:
        p = self.bench.shown
        if p.grid is None or self.pages.currentIndex() != 2:
            return
        beat = float(p.grid.beat_at(self.player.position))
        ahead = [c for c in p.cues if float(p.grid.beat_at(c.at(p.grid))) > beat + 1e-6]
        if not ahead:
            self.gear.show_countdown("–", "", self.player.playing)
            return
        goal = float(p.grid.beat_at(ahead[0].at(p.grid)))
        self.gear.show_countdown(phrase_edits.until(p.grid, beat, goal), ahead[0].name, self.player.playing)
