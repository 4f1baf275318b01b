"""Commands by ear: nudging while it plays, the tour, tapping along, borrowing a grid."""

from __future__ import annotations

from ....core.edits import count_edits, grid_edits
from ....core.errors import Refused
from ....core.model import preparation
from ...commands.command import EAR, command, request
from ...session.preview import DRAG
from ...theme.tr import tr
from ...widgets.borrow_dialog import BorrowDialog
from .base import AlignCommands
from .surface import FOLD, SPOTS, TAP


class EarCommands(AlignCommands):
    """What is done while listening."""

    # nudging

    @command("Ctrl+Up", "Tempo 0.01 BPM faster", EAR, 0.01, also="nudge pitch")
    @command("Ctrl+Down", "Tempo 0.01 BPM slower", EAR, -0.01, also="nudge pitch")
    @command("Ctrl+Shift+Up", "Tempo 0.001 BPM faster", EAR, 0.001, also="nudge pitch fine")
    @command("Ctrl+Shift+Down", "Tempo 0.001 BPM slower", EAR, -0.001, also="nudge pitch fine")
    def retune(self, by: object) -> None:
        self.track.apply(count_edits.retune, by)

    @request
    def jog(self, what: tuple[str, float, bool]) -> None:
        """A strip is dragged: the grid goes along, and with it what is heard; it is kept when let go."""
        name, value, keep = what
        edit = {"slide": grid_edits.slide, "retune": count_edits.retune}.get(name)
        p = self.track.preparation
        if edit is None or (p.locked and not keep):
            self.track.preview.clear(DRAG)
        elif keep:
            self.track.apply(edit, value)
        else:
            try:
                self.track.preview.show(DRAG, edit(p, value))
            except Refused:
                self.track.preview.clear(DRAG)

    # tour

    @command("Alt+Q", "Tour: hear two bars at each place of the spot check", EAR, also="listen check metronome")
    def tour(self, _: object) -> None:
        if self.track.grid is None:
            self.no_grid()
            return
        listening = self.session.listening
        if not listening.touring:
            self.view.pages.turn_to(SPOTS)
            self.view.panel.turn_to(4)
        if not listening.tour() and not self.session.spots.spots:
            self.say.refused(tr("There is nothing to hear here yet."))

    @command("Shift+X", "On the tour: stop here and mend it", EAR, also="fix wrong")
    def to_fix(self, _: object) -> None:
        """On the tour: this place is wrong; it goes round until it is mended, and the tour waits."""
        if not self.session.listening.touring:
            self.say.refused(tr("No listening check is running: Alt+Q starts one."))
            return
        self.session.listening.end_tour(loop=True)
        name = self.session.spots.spots[self.session.spots.current].name
        self.say.done(
            tr("Mend it here ({0}): drag hits onto the line, or nudge. It goes round; Alt+Q goes on.").format(name)
        )

    # tapping

    @command("0", "Tap along with the music", EAR, also="tapping tempo hand")
    def tap_page(self, _: object) -> None:
        """Open the tap pad, or leave it."""
        leave = self.view.pages.seen == TAP
        self.view.pages.turn_to(FOLD if leave else TAP)
        if not leave:
            self.view.pad.setFocus()

    @request
    def tap_use(self, _: object) -> None:
        if self.session.tapping.use():
            self.session.tapping.clear()
            self.player.pause()
            self.say.done(tr("Heard along your taps. Ctrl+Z takes it back."))

    @request
    def tap_clear(self, _: object) -> None:
        self.session.tapping.clear()
        self.view.pad.setFocus()

    @command("Ctrl+0", "Measure how late you and this device tap", EAR, also="calibrate latency delay")
    def calibrate(self, _: object) -> None:
        if self.session.tapping.calibrating:
            self.session.tapping.end_calibration()
        else:
            self.view.pages.turn_to(TAP)
            self.session.tapping.calibrate()
        self.view.pad.setFocus()

    def left_pad(self) -> None:
        """Escape was pressed on the tap pad."""
        if self.session.tapping.calibrating:
            self.session.tapping.end_calibration()
        else:
            self.view.pages.turn_to(FOLD)
            self.view.fold.setFocus()

    # borrowing

    @command("Ctrl+B", "Borrow the grid of the full recording", EAR, also="acapella voice sibling instrumental copy")
    def borrow(self, full: object) -> None:
        """Choose whose grid to borrow; `full` is the track to begin with."""
        if self.track.row is None or self.track.evidence is None:
            self.say.refused(tr("This track is not heard yet: wait until it is."))
        elif self.track.preparation.locked:
            self.say.refused(preparation.LOCKED_WORDS)
        else:
            BorrowDialog(self.view, self.session.borrowing, full if isinstance(full, int) else None).open()
