"""Commands to look: pages, the spot check, doubts, findings and their fixes, second opinions, comparing, zooming."""

from __future__ import annotations

from ....core.edits import grid_edits, track_edits
from ....core.findings.recommendation import recommend
from ....core.findings.study import Finding
from ...commands.command import LOOK, TRUST, command, request
from ...theme.tr import tr
from .base import AlignCommands
from .surface import FOLD, ROWS, SPOTS, TABLE


class LookCommands(AlignCommands):
    """What is seen, and what is made of it."""

    # spot check

    @command("I", "Next place of the spot check", LOOK, 1, also="check verify five")
    @command("Shift+I", "Place of the spot check before", LOOK, -1)
    def spot(self, step: int) -> None:
        if self.view.pages.seen != SPOTS:
            self.view.pages.turn_to(SPOTS)
            step = 0
        self.look_at_spot(self.session.spots.current + step)

    def look_at_spot(self, index: int) -> None:
        """Go to a place of the spot check."""
        spot = self.session.spots.go(index)
        if spot is not None:
            self.player.seek(spot.start)
            if self.session.listening.touring:
                self.session.listening.visit()
                self.view.show_tour()

    @command("Q", "Spot check: the same close look at five places", LOOK, SPOTS, also="verify accuracy page")
    @command("Shift+Q", "Table of pins and bars", LOOK, TABLE, also="figures list page bar fold")
    def page(self, page: object) -> None:
        self.view.pages.turn(str(page))

    @command("X", "This place is right: mark it as seen, and on to the next", TRUST, also="ok fine checked spot")
    def seen(self, index: object) -> None:
        """Mark a place as seen, or take it back; by key go on to the next that isn't."""
        spots = self.session.spots
        if self.view.pages.seen != SPOTS:
            self.say.refused(tr("Nothing is marked: open the spot check first (Q)."))
            return
        at = index if isinstance(index, int) else spots.current
        if not spots.mark(at) or isinstance(index, int):
            return
        if not spots.left:
            self.session.listening.end_tour()
            self.say.done(tr("All five places were seen: the track is checked. Ctrl+L locks it."))
            return
        seen = [s.seen for s in spots.states()]
        self.look_at_spot(next((at + k) % len(seen) for k in range(1, len(seen) + 1) if not seen[(at + k) % len(seen)]))

    # doubts and findings

    @command("J", "Go to the next doubtful place", LOOK, also="drift worst error unsure wrong")
    def next_doubt(self, _: object) -> None:
        place = self.session.reports.next_place(self.player.position)
        if place is None:
            self.say.done(tr("No beat is doubtful or out of tolerance."))
        else:
            self.player.seek(place)

    @request
    def go_to(self, finding: Finding) -> None:
        if finding.start is not None:
            self.player.seek(max(0.0, finding.start))

    @request
    def look_at(self, finding: Finding | None) -> None:
        self.session.reports.look(finding)

    @request
    def fix(self, finding: Finding) -> None:
        self.session.reports.use(finding)

    @command("Ctrl+Shift+R", "Go back to what was heard", TRUST, also="reset revert start over analysis")
    def revert(self, _: object) -> None:
        evidence = self.track.evidence
        if evidence is not None:
            first = recommend(evidence, self.track.duration, self.session.offers.expected)
            self.track.apply(grid_edits.revert, first)

    # instead of what stands

    @command("O", "Show the next way to read the track", LOOK, also="second opinion other reading alternative")
    def opinion(self, _: object) -> None:
        self.session.comparison.end(keep=False)
        self.session.reports.step()

    @command("V", "Compare: now, the fitted grid, the grid when last locked", LOOK, also="difference before after")
    def compare(self, _: object) -> None:
        self.session.reports.end(keep=False)
        if not self.session.comparison.step():
            self.say.refused(tr("Nothing to compare: the fitted grid and the last locked one are this one."))
        self.view.show_line()

    @command("Return", "Keep what is shown instead", LOOK, True, also="take accept")
    @command("Escape", "Go back to what stands; let go of the part", LOOK, False, also="cancel leave")
    def keep_opinion(self, keep: object) -> None:
        if self.view.line.isVisible() and not keep:
            self.view.line.close_line()
        elif self.session.comparison.end(keep=bool(keep)) or self.session.reports.end(keep=bool(keep)):
            self.view.show_line()
        elif not keep and self.session.part.value is not None:
            self.session.part.choose(None)
        elif not keep:
            self.view.pages.turn_to(FOLD)

    # views

    @command("Alt+V", "Half-beat lines on or off", LOOK, also="eighths off-beats")
    def halves(self, _: object) -> None:
        on = not self.view.closeup.halves
        for view in (self.view.closeup, self.view.fold):
            view.halves = on
            view.refresh()

    @command("Shift+V", "More bars a row in the fold", LOOK, also="two four eight bar fold")
    def rows(self, _: object) -> None:
        self.view.pages.turn_to(FOLD)
        self.view.show_rows(ROWS[(ROWS.index(self.view.fold.bars) + 1) % len(ROWS)])

    @command("Up", "Closer", LOOK, 0.7, also="zoom in waveform close-up")
    @command("Down", "Wider", LOOK, 1.4, also="zoom out waveform")
    def zoom(self, factor: float) -> None:
        view = self.view.spots if self.view.pages.seen == SPOTS else self.view.closeup
        view.zoom(factor)

    @command("W", "Turn the leaf of tools at the right", LOOK, also="panel tab hand part cues note ear")
    def leaf(self, _: object) -> None:
        leaves = self.view.panel.leaves
        self.view.panel.turn_to((leaves.currentIndex() + 1) % leaves.count())

    # trust

    @command("Shift+W", "Write a note", TRUST, also="comment text remark")
    def notes(self, _: object) -> None:
        self.view.panel.turn_to(3)
        self.view.panel.notes.setFocus()

    @request
    def write_notes(self, text: object) -> None:
        self.track.apply(track_edits.write_notes, str(text))

    @request
    def readiness(self, name: object) -> None:
        self.track.set_readiness(str(name))
        # a press must not leave a button checked that the track isn't
        self.view.panel.show_readiness(self.track.preparation.readiness)
