"""What the Phrase stage shows: overview, ladder and a page of tools over one another; the panel at the right."""

from __future__ import annotations

import attrs
import numpy as np
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QSplitter, QStackedLayout, QVBoxLayout, QWidget

from ....core.cues import cue_edits
from ....core.form import phrase_edits
from ....core.form.skips import Skip
from ...session.session import Session
from ...theme.tr import tr
from ...theme.words import Words
from ...views.closeup import CloseUp
from ...views.overview import Overview
from ...views.phrase_ladder import PhraseLadder
from ...widgets.player_page import PlayerPage
from ..frame import Keys, Page, Pages
from .panel import PhrasePanel
from .recipe_page import RecipePage
from .sheet_page import SheetPage
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
        self._opened_track = 0
        self.overview, self.ladder, self.closeup = Overview(), PhraseLadder(), CloseUp()
        self.editor, self.gear, self.skips = RecipePage(), PlayerPage(), SkipsPage()
        self.panel = PhrasePanel(keys)

        def tip(words: str, name: str) -> str:
            return f"{words} ({keys(name, None)})"

        self.pages = Pages((
            Page(CLOSE, tr("CLOSE-UP"), tr("The waveform around the playhead"), self.closeup),
            Page(RECIPE, tr("RECIPE"),
                 tip(tr("The rules of the recipe in hand, and what each would do"), "recipe-page"), self.editor),
            Page(PLAYER, tr("PLAYER"), tip(tr("What a player at the gig will see"), "player-page"), self.gear),
            Page(SKIPS, tr("SKIPS"), f"From chorus to chorus on the beat ({keys('try-skip', None)} hears the next one)",
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
        self.sheet = SheetPage(session.sheet)
        self.to_sheet = QPushButton("")
        self.to_sheet.setToolTip(tip(tr("Back to what the recipe would do to all of them"), "apply-all"))
        self.to_sheet.hide()
        front = QWidget()
        column = QVBoxLayout(front)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.to_sheet)
        column.addWidget(views, 1)
        self.front = QWidget()
        row = QHBoxLayout(self.front)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(front, 1)
        row.addWidget(self.panel)
        self.sides = QStackedLayout(self)
        self.sides.addWidget(self.front)
        self.sides.addWidget(self.sheet)
        self._connect()

    # the contact sheet

    def show_sheet(self) -> None:
        """What the recipe would do to many tracks."""
        self.sides.setCurrentWidget(self.sheet)
        self.sheet.refresh()
        self.sheet.cards.setFocus()

    def show_track_view(self) -> None:
        """The open track."""
        self.sides.setCurrentWidget(self.front)
        self.show_way_back()
        self.ladder.setFocus()

    def _leave_sheet(self) -> None:
        """Another track was opened: it is shown, and a strip leads back to the sheet."""
        before, self._opened_track = self._opened_track, self.track.row.id if self.track.row is not None else 0
        if self.sides.currentWidget() is self.sheet and self._opened_track not in (0, before):
            self.show_track_view()

    def show_way_back(self) -> None:
        """While there is a sheet, a strip above the track leads back to it."""
        s = self.session.sheet
        self.to_sheet.setVisible(s.stands)
        if s.recipe is not None:
            left = len(s.doubtful)
            words = tr("{0} still in doubt").format(left) if left else tr("none in doubt")
            self.to_sheet.setText(
                tr("Back to the contact sheet of {0}: {1} tracks, {2}").format(s.recipe.name, len(s.seen), words)
            )

    def _connect(self) -> None:
        s, t = self.session, self.track
        t.opened.connect(self._sound)
        t.opened.connect(self._leave_sheet)
        t.sound_changed.connect(self._sound)
        t.shown_changed.connect(self.refresh)
        s.reports.changed.connect(self._show_overview)
        s.phrases.changed.connect(self.refresh)
        s.recipes.changed.connect(self.refresh)
        s.sheet.changed.connect(self.show_way_back)
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
            return self.track.state_words(
                tr("No beats were heard here, so there are no bars yet. Begin a grid in Align.")
            )
        return self.track.state_words(tr("Too few bars to tell phrases from."))

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
        rows = choice.rows
        shown, first = rows if rows is not None else (None, [])
        inside = np.diff([*first, len(form.phrases)]).tolist() if form is not None else []
        self.ladder.show_chosen(self.row_of(choice.chosen), choice.cue_id)
        self.ladder.show_ghosts(outcome[0].cues if outcome is not None and page == RECIPE else ())
        self.ladder.show_form(p, shown, self._skips_between(first), self._message(), inside)
        self.panel.show_track(t.row.title if t.row is not None else "", p, form)
        self.panel.show_phrase(p, form, choice.chosen, closed=choice.is_closed)
        seams = {c.id: cue_edits.seam_words(choice.seam(c)) for c in p.cues if c.bars}
        self.panel.show_cues(p, form, seams, choice.cue, choice.snap)
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

    def row_of(self, index: int) -> int:
        """The row of the ladder that holds a phrase."""
        rows = self.choice.rows
        return int(np.searchsorted(rows[1], index, "right")) - 1 if rows is not None else index

    def phrase_of(self, row: int) -> int:
        """The first phrase of a row of the ladder."""
        rows = self.choice.rows
        return rows[1][row] if rows is not None and row < len(rows[1]) else row

    def _skips_between(self, first: list[int]) -> list[Skip]:
        """Skips by rows instead of phrases."""
        skips = self.choice.skips
        if not skips or len(first) == len(self.track.form.phrases if self.track.form else ()):
            return skips
        return [attrs.evolve(s, source=self.row_of(s.source), target=self.row_of(s.target)) for s in skips]

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
