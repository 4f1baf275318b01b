"""Commands on cues: set, hit, change and delete them, and what the player that stands in does with them."""

from __future__ import annotations

from collections.abc import Callable

from ....core.cues import cue_edits
from ....core.cues.player_profile import Gear
from ....core.model.cue import HOT, STANDBY
from ....core.model.preparation import Preparation
from ...commands.command import CUES, command, numbered, request
from ...theme.tr import tr
from .base import PhraseStageCommands
from .surface import PLAYER


class CueCommands(PhraseStageCommands):
    """The cues of the track."""

    def _set(self, kind: str, snap: str, slot: int | None = None) -> None:
        """Set a cue at what is heard now; its role is that of the phrase that begins there."""
        before = {c.id for c in self.track.preparation.cues}
        at = self.player.now()
        role = self.role_at(at, snap)
        if self.track.apply(cue_edits.add_cue, at, snap=snap, kind=kind, role=role, slot=slot):
            new = [c.id for c in self.track.preparation.cues if c.id not in before]
            self.choice.choose_cue(new[0] if new else "")

    def role_at(self, time: float, snap: str) -> str:
        """The role a cue set here gets: that of the phrase whose beginning it snaps to."""
        form, grid = self.track.form, self.track.grid
        if form is None or grid is None or snap == cue_edits.FREE:
            return "own"
        beat = cue_edits.snapped(grid, time, snap)
        q = next((q for q in form.phrases if abs(q.start - beat) < 1e-6), None)
        if q is None:
            return "own"
        if q is form.phrases[0]:
            return tr("first beat")
        return q.role if q.role in cue_edits.CUE_ROLES else "own"

    @request
    def cue(self, free: object) -> None:
        self._set(HOT, cue_edits.FREE if free else self.choice.snap)

    @command("Alt+C", "Set a standby cue", CUES, also="wait memory point marker")
    def standby(self, _: object) -> None:
        self._set(STANDBY, self.choice.snap)

    @request
    def cue_number(self, number: object) -> None:
        """Hit the cue in a slot; set one where there is none."""
        slot = int(str(number))
        cue = cue_edits.in_slot(self.track.preparation, slot)
        if cue is not None:
            self.hit(cue)
        else:
            self._set(HOT, self.choice.snap, slot)

    @numbered("Shift+{}", "Set cue {} here, whatever stands in it", CUES, 8,
              "Set a cue here, whatever stands in its slot", also="hot cue slot")  # fmt: skip
    def cue_into(self, number: object) -> None:
        """Set a cue in a slot, whatever stands there."""
        self._set(HOT, self.choice.snap, int(str(number)))

    @request
    def jump(self, cue_id: object) -> None:
        cue = self.cue_of(cue_id)
        if cue is not None:
            self.hit(cue)

    @request
    def rename(self, pair: tuple[str, str]) -> None:
        if not self.track.apply(cue_edits.rename_cue, *pair):
            self.view.refresh()

    @request
    def delete(self, cue_id: object) -> None:
        self.track.apply(cue_edits.delete_cue, cue_id)

    @command("Delete", "Delete the chosen cue", CUES, also="remove")
    def delete_cue(self, _: object) -> None:
        if self.choice.cue is None:
            self.say.refused(tr("No cue is chosen: click one."))
        else:
            self.track.apply(cue_edits.delete_cue, self.choice.cue_id)

    def _cue_edit(self, edit: Callable[..., Preparation], *args: object) -> None:
        if self.choice.cue is not None and not self.track.apply(edit, self.choice.cue_id, *args):
            self.view.refresh()

    @request
    def cue_role(self, role: object) -> None:
        self._cue_edit(cue_edits.set_cue_role, role)

    @request
    def cue_kind(self, kind: object) -> None:
        self._cue_edit(cue_edits.set_kind, kind)

    @request
    def cue_slot(self, slot: object) -> None:
        self._cue_edit(cue_edits.set_slot, slot)

    @request
    def loop_of_cue(self, bars: object) -> None:
        self._cue_edit(cue_edits.set_loop, bars)

    @request
    def snap(self, snap: object) -> None:
        self.choice.choose_snap(str(snap))

    @command("Ctrl+Shift+J", "Go round the loop of the chosen cue", CUES, also="repeat hear")
    def hear_loop(self, _: object) -> None:
        cue = self.choice.cue
        loop = cue_edits.loop_of(self.track.preparation, cue) if cue is not None else None
        if loop is None:
            self.say.refused(tr("The chosen cue has no loop: give it one first."))
            return
        self.player.set_loop((loop[0], min(loop[1], self.player.duration)))
        self.player.play()

    # the player that stands in

    @command("Alt+Q", "The player that stands in", CUES, also="gear hardware page")
    def player_page(self, _: object) -> None:
        self.view.pages.turn(PLAYER)

    @request
    def gear(self, kind: object) -> None:
        if isinstance(kind, Gear):
            self.choice.choose_gear(kind)

    def load(self) -> None:
        """As a player does: it stands at the first standby cue, or at the beginning, and waits."""
        self.player.pause()
        first = next(iter(self.choice.arrival.standby), None)
        self.player.seek(first.at(self.track.grid) if first is not None else 0.0)

    def step_standby(self, step: int) -> None:
        """To the standby cue before or after, and wait there."""
        grid = self.track.grid
        times = [c.at(grid) for c in self.choice.arrival.standby]
        here = self.player.now()
        left = [t for t in times if (t > here + 0.02 if step > 0 else t < here - 0.05)]
        if left:
            self.player.pause()
            self.player.seek(left[0] if step > 0 else left[-1])

    def wait_at(self, cue_id: str) -> None:
        cue = self.cue_of(cue_id)
        if cue is not None:
            self.player.pause()
            self.player.seek(cue.at(self.track.grid))

    # hands in the ladder

    def cue_placed(self, cue_id: str, time: float, free: bool) -> None:
        if not self.track.apply(cue_edits.move_cue, cue_id, time, snap=cue_edits.FREE if free else self.choice.snap):
            self.view.refresh()
