"""Commands on the open track that every stage knows: jumps along its grid, cues, undo, and the lock."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QApplication

from ....core.cues import cue_edits
from ....core.model import preparation
from ...commands.command import CUES, LOOK, PROGRAM, TRUST, CommandSet, command, numbered, request
from ...session.session import Session
from ...theme.tr import tr

BARS_TO_A_PHRASE = 8
"""Where the phrases of a track are not known; common practice, no source."""


class TrackCommands(CommandSet):
    """What can be done to a track whatever is seen of it."""

    def __init__(self, session: Session) -> None:
        self.session, self.track, self.player, self.say = session, session.track, session.player, session.say

    # jumps

    @command("Left", "One beat back", LOOK, -1, also="jump")
    @command("Right", "One beat on", LOOK, 1, also="jump")
    def step(self, beats: int) -> None:
        """Jump by whole beats; while it plays, to the same place of the beat."""
        grid = self.session.listening.grid
        if grid is None:
            return
        if self.player.playing:
            self.player.jump(beats)
            return
        here = float(grid.beat_at(self.player.position))
        goal = np.floor(here + 1e-6) + beats if beats > 0 else np.ceil(here - 1e-6) + beats
        self.player.seek(float(grid.time_at(goal)))

    @command("Shift+Left", "One bar back", LOOK, -1, also="jump")
    @command("Shift+Right", "One bar on", LOOK, 1, also="jump")
    def step_bar(self, bars: int) -> None:
        """Jump by whole bars; while it plays, to the same place of the bar."""
        grid = self.session.listening.grid
        if grid is None:
            return
        index, within = grid.bar_index(float(grid.beat_at(self.player.now())) + 1e-6)
        if self.player.playing:
            here, there = (float(b) for b in grid.bar_start([int(index), int(index) + bars]))
            self.player.jump(there - here)
            return
        goal = int(index) + bars + (1 if bars < 0 and float(within) > 1e-3 else 0)
        self.player.seek(float(grid.time_at(grid.bar_start(goal))))

    @command("Ctrl+Left", "One phrase back", LOOK, -1, also="jump section")
    @command("Ctrl+Right", "One phrase on", LOOK, 1, also="jump section")
    def step_phrase(self, step: int) -> None:
        """Jump to where the next phrase begins, or the one before."""
        form, grid = self.track.form, self.track.grid
        if form is None or grid is None:
            self.step_bar(BARS_TO_A_PHRASE * step)
            return
        here = float(grid.beat_at(self.player.now()))
        starts = [q.start for q in form.phrases]
        ahead = [b for b in starts if (b > here + 0.5 if step > 0 else b < here - 0.5)]
        if ahead:
            self.player.go(max(0.0, float(grid.time_at(ahead[0] if step > 0 else ahead[-1]))))

    @command("Ctrl+PgDown", "The next track of the list", LOOK, 1, also="down below open")
    @command("Ctrl+PgUp", "The track of the list before", LOOK, -1, also="up above open")
    def next_track(self, step: int) -> None:
        """Open the track below the open one in the list, or above it."""
        row, shown = self.track.row, self.session.shown
        at = shown.row_of(row.id) if row is not None else -1
        goal = at + step if at >= 0 else 0
        if 0 <= goal < len(shown):
            self.session.open(int(shown.ids[goal]))
        else:
            self.say.done(f"{shown.title} has no track {'after' if step > 0 else 'before'} this one.")

    @command("Ctrl+Shift+PgDown", "Next track to review", LOOK, 1, also="needs a person doubt work")
    @command("Ctrl+Shift+PgUp", "Previous track to review", LOOK, -1, also="needs a person doubt work")
    def next_needing(self, step: int) -> None:
        row = self.track.row
        found = self.session.shown.next_needing(row.id if row is not None else None, step)
        if found is None:
            self.say.done(tr("Nothing more in {0} needs a person.").format(self.session.shown.title))
        else:
            self.session.open(found)

    # cues

    @command("C", "Set a cue on the nearest downbeat", CUES, False, also="hot cue point marker first beat")
    @command("Shift+C", "Set a cue just here", CUES, True, also="hot cue point marker free")
    def cue(self, free: object) -> None:
        snap = cue_edits.FREE if free else cue_edits.DOWNBEAT
        self.track.apply(cue_edits.add_cue, self.player.position, snap=snap)

    @request
    def cue_pressed(self, _: object) -> None:
        self.cue(bool(QApplication.keyboardModifiers() & Qt.KeyboardModifier.ShiftModifier))

    @numbered("{}", "Cue {}: go there; in Phrase, set it where there is none", CUES, 8,
              "Go to a cue; in Phrase, set it where there is none", also="hot cue jump slot")  # fmt: skip
    def cue_number(self, number: int) -> None:
        cue = cue_edits.in_slot(self.track.preparation, number)
        if cue is not None:
            self.player.go(cue.at(self.track.grid))

    @request
    def jump(self, cue_id: object) -> None:
        for cue in self.track.preparation.cues:
            if cue.id == cue_id:
                self.player.go(cue.at(self.track.grid))

    @request
    def rename(self, pair: tuple[str, str]) -> None:
        if not self.track.apply(cue_edits.rename_cue, *pair):
            # what was typed goes
            self.track.show_again()

    @request
    def delete(self, cue_id: object) -> None:
        self.track.apply(cue_edits.delete_cue, cue_id)

    # trust

    @command("Ctrl+L", "Lock or unlock", TRUST, also="safe protect ready finished")
    def lock(self, _: object) -> None:
        locked = self.track.preparation.locked
        self.track.set_readiness(preparation.CHECKED if locked else preparation.LOCKED)

    @command("Ctrl+Z", "Undo", PROGRAM, also="back revert take back", typing=True)
    def undo(self, _: object) -> None:
        self.track.undo()

    @command("Ctrl+Shift+Z", "Redo", PROGRAM, also="forth again", typing=True)
    def redo(self, _: object) -> None:
        self.track.redo()
