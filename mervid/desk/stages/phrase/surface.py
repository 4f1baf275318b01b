"""What the Phrase stage shows: overview, ladder and a page of tools over one another; the panel at the right."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import QHBoxLayout, QSplitter, QWidget

from ....core.cues import cue_edits
from ....core.form import phrase_edits
from ....core.form.skips import Skip
from ...session.session import Session
from ...theme.words import Words
from ...views.closeup import CloseUp
from ...views.overview import Overview
from ...views.phrase_ladder import PhraseLadder
from ...widgets.player_page import PlayerPage
from ..frame import Keys, Page, Pages
from .panel import PhrasePanel
from .recipe_page import RecipePage
from .skips_page import SkipsPage

CLOSE, RECIPE, PLAYER, SKIPS = "close-up", "recipe", "player", "skips"
HINTS = {RECIPE: "dashed flags: what it would place", PLAYER: "Space plays; number keys hit cues"}


class PhraseSurface(QWidget):
    """Shows what there is, and nothing while another stage is seen."""

    def __init__(self, session: Session, keys: Keys) -> None:
        super().__init__()
        self.setObjectName("paper")
        self.session, self.track, self.choice = session, session.track, session.phrases
        self.chosen_tracks = 1
        self.overview, self.ladder, self.closeup = Overview(), PhraseLadder(), CloseUp()
        self.editor, self.gear, self.skips = RecipePage(), PlayerPage(), SkipsPage()
        self.panel = PhrasePanel(keys)

        def tip(words: str, name: str) -> str:
            return f"{words} ({keys(name, None)})"

        self.pages = Pages((
            Page(CLOSE, "CLOSE-UP", "The waveform around the playhead", self.closeup),
            Page(RECIPE, "RECIPE", tip("The rules of the recipe in hand, and what each would do", "recipe-page"),
                 self.editor),
            Page(PLAYER, "PLAYER", tip("What a player at the gig will see", "player-page"), self.gear),
            Page(SKIPS, "SKIPS", f"From chorus to chorus on the beat ({keys('try-skip', None)} hears the next one)",
                 self.skips),
        ))  # fmt: skip
        self.pages.row.addStretch(1)
        self.hint = Words("")
        self.hint.setObjectName("faint")
        self.pages.row.addWidget(self.hint)
        self.pages.turned.connect(self._turned)
        views = QSplitter(Qt.Orientation.Vertical)
        views.setChildrenCollapsible(False)
        for view, stretch in ((self.overview, 0), (self.ladder, 5), (self.pages, 2)):
            views.addWidget(view)
            views.setStretchFactor(views.count() - 1, stretch)
        views.setSizes([92, 380, 190])
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(views, 1)
        row.addWidget(self.panel)
        self._connect()

    def _connect(self) -> None:
        s, t = self.session, self.track
        t.opened.connect(self._sound)
        t.sound_changed.connect(self._sound)
        t.shown_changed.connect(self.refresh)
        s.reports.changed.connect(self._show_overview)
        s.phrases.changed.connect(self.refresh)
        s.recipes.changed.connect(self.refresh)
        s.player.moved.connect(self._moved)
        s.player.program_changed.connect(self._programmed)
        s.player.playing_changed.connect(lambda _: self._countdown())

    def _turned(self, page: str) -> None:
        if page == RECIPE:
            # files may have been mended or added meanwhile
            self.session.recipes.load()
        self.refresh()

    # showing

    def _message(self) -> str:
        if self.track.preparation.grid is None:
            return self.track.state_words("No beats were heard here, so there are no bars yet. Begin a grid in Align.")
        return self.track.state_words("Too few bars to tell phrases from.")

    def _sound(self) -> None:
        if not self.isVisible():
            return
        t, message = self.track, self._message()
        self.overview.show_sound(t.waveform, t.evidence, message)
        self.ladder.show_sound(t.waveform, t.ink, message)
        self.closeup.show_sound(t.waveform, t.samples, t.evidence, (t.onset_times, t.onset_strengths), message)
        self.refresh()
        self._moved(self.session.player.position)

    def showEvent(self, e: QShowEvent | None) -> None:
        self._sound()

    def _show_overview(self) -> None:
        if self.isVisible():
            found = self.track.drift()
            unsure = self.session.reports.unsure()
            self.overview.show_preparation(self.track.shown, found[0] if found else None, unsure, self.track.form)

    def refresh(self) -> None:
        """Show what there is now; nothing while another stage is seen."""
        if not self.isVisible():
            return
        t, choice, shelf, page = self.track, self.choice, self.session.recipes, self.pages.seen
        p, form = t.shown, t.form
        self._show_overview()
        self.closeup.show_preparation(p, form)
        outcome = shelf.outcome()
        told = outcome[1] if outcome is not None else None
        self.ladder.show_chosen(choice.chosen, choice.cue_id)
        self.ladder.show_ghosts(outcome[0].cues if outcome is not None and page == RECIPE else ())
        self.ladder.show_form(p, form, choice.skips, self._message())
        self.panel.show_track(t.row.title if t.row is not None else "", p, form)
        self.panel.show_phrase(p, form, choice.chosen)
        seams = {c.id: cue_edits.seam_words(choice.seam(c)) for c in p.cues if c.bars}
        self.panel.show_cues(p, seams, choice.cue, choice.snap)
        self.panel.show_recipes(shelf.names, shelf.at, told, self.chosen_tracks, shelf.problems)
        if page == RECIPE:
            self.editor.show_recipe(shelf.recipe)
            self.editor.show_told(told, p.grid, p.origin)
        elif page == PLAYER:
            self.gear.show_arrival(p, choice.gear, choice.arrival)
        elif page == SKIPS:
            self.skips.show_skips(self.ordered_skips(), form, p.grid, p.origin)
        self._countdown()
        self.hint.setText(HINTS.get(page, ""))

    def ordered_skips(self) -> list[Skip]:
        """Skips that keep the phrase first, then short ones."""
        return sorted(self.choice.skips, key=lambda s: (not s.keeps, s.target - s.source, s.source))

    def show_chosen_tracks(self, count: int) -> None:
        """So many tracks are chosen in the list."""
        self.chosen_tracks = count
        self.panel.show_chosen_tracks(count)

    # while it plays

    def _moved(self, position: float) -> None:
        if not self.isVisible():
            return
        for view in (self.overview, self.ladder, self.closeup):
            view.set_position(position)
        self._countdown()

    def _programmed(self) -> None:
        """A skip is on its way, or no longer: the ladder shows what it leaves out."""
        p = self.session.player.program
        left_out = None
        if p is not None and p.skip is not None and p.grid is not None:
            a, b = (float(x) for x in p.grid.beat_at(p.skip))
            left_out = (a, b)
        self.ladder.show_left_out(left_out)

    def _countdown(self) -> None:
        p, player = self.track.shown, self.session.player
        if p.grid is None or self.pages.seen != PLAYER:
            return
        beat = float(p.grid.beat_at(player.position))
        ahead = [c for c in p.cues if float(p.grid.beat_at(c.at(p.grid))) > beat + 1e-6]
        if not ahead:
            self.gear.show_countdown("–", "", player.playing)
            return
        goal = float(p.grid.beat_at(ahead[0].at(p.grid)))
        self.gear.show_countdown(phrase_edits.until(p.grid, beat, goal), ahead[0].name, player.playing)
