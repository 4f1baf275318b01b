"""Commands on phrases: where they begin, what they are for, how bars are counted, and skips between them."""

from __future__ import annotations

from collections.abc import Callable
from typing import cast

from PyQt6.QtCore import QPointF
from PyQt6.QtWidgets import QMenu

from ....core.errors import Refused
from ....core.form import phrase_edits, skips
from ....core.model.form import PHRASE_ROLES
from ...commands.command import PHRASES, command, request
from ...theme.tr import tr
from .base import PhraseStageCommands


class PhraseCommands(PhraseStageCommands):
    """The form of the track."""

    # phrases

    @command("B", "Split: a phrase begins on the bar line at the playhead", PHRASES, also="section cut")
    def split_here(self, _: object) -> None:
        grid = self.track.grid
        if grid is not None and self.edit_form(phrase_edits.split, float(grid.beat_at(self.player.position))):
            self.choose_at_playhead()

    @command("Backspace", "Merge the chosen phrase with the one before", PHRASES, also="join section")
    def merge(self, _: object) -> None:
        if self.edit_form(phrase_edits.merge, self.choice.chosen):
            self.choice.choose(max(0, self.choice.chosen - 1))

    @command("Alt+Left", "Begin the chosen phrase a bar earlier", PHRASES, -1, also="move section")
    @command("Alt+Right", "Begin the chosen phrase a bar later", PHRASES, 1, also="move section")
    def shift_start(self, bars: object) -> None:
        form, grid = self.track.form, self.track.grid
        if form is None or grid is None or self.choice.chosen >= len(form.phrases):
            return
        start = form.phrases[self.choice.chosen].start
        beat = float(grid.bar_start(int(grid.bar_index(start + 1e-6)[0]) + int(str(bars))))
        self.edit_form(phrase_edits.move_start, self.choice.chosen, beat)

    @request
    def role(self, role: object) -> None:
        # a closed section is one row: what is said of it is said of all of it
        self.edit_form(phrase_edits.set_role, self.choice.chosen, role, whole=self.choice.is_closed)

    # sections

    @command("D", "A section begins with the chosen phrase, or goes on", PHRASES, also="divide join part level")
    def section(self, _: object) -> None:
        form = self.track.form
        if form is not None and self.choice.chosen < len(form.phrases):
            joins = form.phrases[self.choice.chosen].joins
            self.edit_form(phrase_edits.begin_section if joins else phrase_edits.join_section, self.choice.chosen)

    @command("H", "Close the chosen section to one row, or open it", PHRASES, also="fold collapse hide level")
    def fold(self, _: object) -> None:
        self._fold(lambda: self.choice.fold(self.choice.chosen))

    @command("Shift+H", "Close all sections, or open them", PHRASES, also="fold collapse hide level")
    def fold_all(self, _: object) -> None:
        self._fold(self.choice.fold_all)

    def _fold(self, act: Callable[[], None]) -> None:
        try:
            act()
        except Refused as e:
            self.say.refused(str(e))

    @command("R", "Next role for the chosen phrase", PHRASES, 1, also="intro verse chorus break build drop outro")
    @command("Shift+R", "Role before for the chosen phrase", PHRASES, -1)
    def next_role(self, step: object) -> None:
        form = self.track.form
        if form is not None and self.choice.chosen < len(form.phrases):
            now = PHRASE_ROLES.index(form.phrases[self.choice.chosen].role)
            self.role(PHRASE_ROLES[(now + int(str(step))) % len(PHRASE_ROLES)])

    @request
    def letter(self, typed: object) -> None:
        """The letter typed for a phrase: its index, and the text."""
        index, text = cast(tuple[int, str], typed)
        self.edit_form(phrase_edits.set_letter, index, text)

    @command("Alt+R", "Next letter for the chosen phrase", PHRASES, also="alike same section")
    def next_letter(self, _: object) -> None:
        form = self.track.form
        if form is None or self.choice.chosen >= len(form.phrases):
            return
        known = sorted({q.letter for q in form.phrases})
        every = [*known, next(c for c in map(chr, range(65, 91)) if c not in known)]
        now = every.index(form.phrases[self.choice.chosen].letter)
        self.letter((self.choice.chosen, every[(now + 1) % len(every)]))

    @command("=", "From the chosen phrase on the key is a semitone higher", PHRASES, 1, also="modulation transposed")
    @command("-", "From the chosen phrase on the key is a semitone lower", PHRASES, -1)
    def raise_key(self, by: object) -> None:
        self.edit_form(phrase_edits.raise_key, self.choice.chosen, int(str(by)))

    @command("F", "Phrases as they are heard: forget what hands did", PHRASES, also="reset sections")
    def as_heard(self, _: object) -> None:
        self.track.apply(phrase_edits.as_heard)

    @command("Up", "The phrase before", PHRASES, -1)
    @command("Down", "The next phrase", PHRASES, 1)
    def phrase_by(self, step: object) -> None:
        """Go to the next phrase or the one before."""
        form, grid = self.track.form, self.track.grid
        if form is None or grid is None:
            return
        here = phrase_edits.phrase_at(form, float(grid.beat_at(self.player.now())))
        goal = min(max(0, here + int(str(step))), len(form.phrases) - 1)
        self.choice.choose(goal)
        self.player.go(max(0.0, float(grid.time_at(form.phrases[goal].start))))

    # counting and words

    @request
    def count(self, what: object) -> None:
        if what == "drop":
            self.track.apply(phrase_edits.count_from_drop, self.track.form)
        elif self.track.preparation.origin is not None:
            self.track.apply(phrase_edits.count_from_start)
        self.view.refresh()

    @command("O", "Count bars from the drop, or from the first downbeat", PHRASES, also="lead-in minus number")
    def count_toggle(self, _: object) -> None:
        self.count("start" if self.track.preparation.origin is not None else "drop")

    @command("Shift+O", "Count bars from the bar line at the playhead", PHRASES, also="bar 1 drop number")
    def count_here(self, _: object) -> None:
        grid = self.track.grid
        if grid is not None:
            self.track.apply(phrase_edits.count_from_drop, None, float(grid.beat_at(self.player.position)))

    @command("Shift+W", "Write the line of words", PHRASES, also="describe summary text")
    def line(self, _: object) -> None:
        self.view.panel.line.setFocus()
        self.view.panel.line.selectAll()

    @request
    def line_written(self, text: object) -> None:
        p = self.track.preparation
        made = phrase_edits.line_of(p, self.track.form)
        wanted = "" if str(text) == made and not p.line else str(text)
        if wanted != p.line:
            self.track.apply(phrase_edits.write_line, wanted)

    def choose_at_playhead(self) -> None:
        """Choose the phrase at the playhead."""
        grid = self.track.grid
        if grid is not None:
            self.choose_at(float(grid.beat_at(self.player.position)))

    # skips

    @command("J", "Hear the next skip from chorus to chorus", PHRASES, also="jump")
    def try_skip(self, number: object) -> None:
        """Play two bars before a skip, and skip. Without a number: the next one ahead of the playhead."""
        grid, found = self.track.grid, self.view.ordered_skips()
        if grid is None or not found:
            self.say.refused(tr("There are not two choruses here to skip between."))
            return
        if isinstance(number, int):
            skip = found[number]
        else:
            here = float(grid.beat_at(self.player.now()))
            skip = next((s for s in found if s.leave > here), found[0])
        lead, leave, enter = skips.times(grid, skip)
        self.player.try_skip(lead, leave, enter)
        at = phrase_edits.bar_of(grid, skip.leave, self.track.preparation.origin)
        to = phrase_edits.bar_of(grid, skip.enter, self.track.preparation.origin)
        self.say.done(tr("From bar {0} it goes on at bar {1}: {2:g} bars are left out.").format(at, to, skip.bars))

    # hands in the ladder

    def start_placed(self, index: int, beat: float) -> None:
        """The beginning of a phrase was let go elsewhere."""
        if not self.edit_form(phrase_edits.move_start, index, beat):
            self.view.refresh()

    def menu(self, row: int, at: QPointF) -> None:
        """Roles, and what else can be done to a phrase."""
        form = self.track.form
        if form is None or row >= len(form.phrases):
            return
        menu = QMenu(self.view)
        for role in PHRASE_ROLES:
            action = menu.addAction(role.capitalize(), lambda r=role: self.role(r))
            if action is not None:
                action.setCheckable(True)
                action.setChecked(form.phrases[row].role == role)
        menu.addSeparator()
        joins = form.phrases[row].joins
        menu.addAction(f"{'Begin a section here' if joins else 'Go on with the section before'}\tD",
                       lambda: self.section(None))  # fmt: skip
        menu.addAction(tr("Close or open the section\tH"), lambda: self.fold(None))
        menu.addAction(tr("Key a semitone higher from here\t="), lambda: self.raise_key(1))
        menu.addAction(tr("Key a semitone lower from here\t-"), lambda: self.raise_key(-1))
        menu.addAction(tr("Split at the playhead\tS"), lambda: self.split_here(None))
        menu.addAction(tr("Merge with the one before\tBackspace"), lambda: self.merge(None))
        menu.popup(at.toPoint())
