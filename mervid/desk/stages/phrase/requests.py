"""What can be asked of the Phrase stage by key, button, menu or mouse. Each request turns into an edit of the track."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtWidgets import QFileDialog, QMenu

from ....core.cues import cue_edits
from ....core.cues.player_profile import Gear
from ....core.cues.recipes import Recipe
from ....core.errors import FormatError, Refused
from ....core.form import phrase_edits, skips
from ....core.model.cue import HOT, STANDBY, Cue
from ....core.model.form import PHRASE_ROLES

if TYPE_CHECKING:
    from .stage import PhraseStage as Stage
else:
    Stage = object


class PhraseRequests(Stage):
    """The part of the Phrase stage that carries requests out."""

    def _edit(self, edit: object, *args: object) -> bool:
        """An edit of the phrases as they are shown."""
        try:
            form = self.state.kept_form()
        except Refused as e:
            self.bench.said.emit("refused", str(e))
            return False
        return self.bench.apply(edit, form, *args)  # type: ignore[arg-type]

    # phrases

    def _ask_split_here(self, _: object) -> None:
        grid = self.bench.grid
        if grid is not None and self._edit(phrase_edits.split, float(grid.beat_at(self.player.position))):
            self.follow_playhead()

    def _ask_merge(self, _: object) -> None:
        if self._edit(phrase_edits.merge, self.state.chosen):
            self.state.choose(max(0, self.state.chosen - 1))

    def _ask_shift_start(self, bars: object) -> None:
        form, grid = self.bench.form, self.bench.grid
        if form is None or grid is None or self.state.chosen >= len(form.phrases):
            return
        start = form.phrases[self.state.chosen].start
        beat = float(grid.bar_start(int(grid.bar_index(start + 1e-6)[0]) + int(str(bars))))
        self._edit(phrase_edits.move_start, self.state.chosen, beat)

    def _ask_role(self, role: object) -> None:
        self._edit(phrase_edits.set_role, self.state.chosen, role)

    def _ask_next_role(self, step: object) -> None:
        form = self.bench.form
        if form is not None and self.state.chosen < len(form.phrases):
            now = PHRASE_ROLES.index(form.phrases[self.state.chosen].role)
            self._ask_role(PHRASE_ROLES[(now + int(str(step))) % len(PHRASE_ROLES)])

    def _ask_letter(self, letter: object) -> None:
        self._edit(phrase_edits.set_letter, self.state.chosen, letter)

    def _ask_next_letter(self, _: object) -> None:
        form = self.bench.form
        if form is None or self.state.chosen >= len(form.phrases):
            return
        known = sorted({q.letter for q in form.phrases})
        every = [*known, next(c for c in map(chr, range(65, 91)) if c not in known)]
        now = every.index(form.phrases[self.state.chosen].letter)
        self._ask_letter(every[(now + 1) % len(every)])

    def _ask_as_heard(self, _: object) -> None:
        self.bench.apply(phrase_edits.as_heard)

    def _ask_phrase_by(self, step: object) -> None:
        """Go to the next phrase or the one before."""
        form, grid = self.bench.form, self.bench.grid
        if form is None or grid is None:
            return
        here = phrase_edits.phrase_at(form, float(grid.beat_at(self.player.now())))
        goal = min(max(0, here + int(str(step))), len(form.phrases) - 1)
        self.state.choose(goal)
        self.player.go(max(0.0, float(grid.time_at(form.phrases[goal].start))))

    # counting and words

    def _ask_count(self, what: object) -> None:
        if what == "drop":
            self.bench.apply(phrase_edits.count_from_drop, self.bench.form)
        elif self.bench.preparation.origin is not None:
            self.bench.apply(phrase_edits.count_from_start)
        self.refresh()

    def _ask_count_toggle(self, _: object) -> None:
        self._ask_count("start" if self.bench.preparation.origin is not None else "drop")

    def _ask_count_here(self, _: object) -> None:
        grid = self.bench.grid
        if grid is not None:
            self.bench.apply(phrase_edits.count_from_drop, None, float(grid.beat_at(self.player.position)))

    def _ask_line(self, _: object) -> None:
        self.panel.line.setFocus()
        self.panel.line.selectAll()

    def _ask_line_written(self, text: object) -> None:
        p = self.bench.preparation
        made = phrase_edits.line_of(p, self.bench.form)
        wanted = "" if str(text) == made and not p.line else str(text)
        if wanted != p.line:
            self.bench.apply(phrase_edits.write_line, wanted)

    # cues

    def hit(self, cue: Cue) -> None:
        """Go to a cue; while it plays, on the beat."""
        self.state.choose_cue(cue.id)
        self.player.go(cue.at(self.bench.grid))

    def _cue(self, cue_id: object) -> Cue | None:
        return next((c for c in self.bench.preparation.cues if c.id == cue_id), None)

    def _set(self, kind: str, snap: str, slot: int | None = None) -> None:
        """Set a cue at what is heard now; its role is that of the phrase that begins there."""
        before = {c.id for c in self.bench.preparation.cues}
        at = self.player.now()
        role = self.role_at(at, snap)
        if self.bench.apply(cue_edits.add_cue, at, snap=snap, kind=kind, role=role, slot=slot):
            new = [c.id for c in self.bench.preparation.cues if c.id not in before]
            self.state.choose_cue(new[0] if new else "")

    def role_at(self, time: float, snap: str) -> str:
        """The role a cue set here gets: that of the phrase whose beginning it snaps to."""
        form, grid = self.bench.form, self.bench.grid
        if form is None or grid is None or snap == cue_edits.FREE:
            return "own"
        beat = cue_edits.snapped(grid, time, snap)
        q = next((q for q in form.phrases if abs(q.start - beat) < 1e-6), None)
        if q is None:
            return "own"
        if q is form.phrases[0]:
            return "first beat"
        return q.role if q.role in cue_edits.CUE_ROLES else "own"

    def _ask_cue(self, free: object) -> None:
        self._set(HOT, cue_edits.FREE if free else self.state.snap)

    def _ask_standby(self, _: object) -> None:
        self._set(STANDBY, self.state.snap)

    def _ask_cue_number(self, number: object) -> None:
        """Hit the cue in a slot; set one where there is none."""
        slot = int(str(number))
        cue = cue_edits.in_slot(self.bench.preparation, slot)
        if cue is not None:
            self.hit(cue)
        else:
            self._set(HOT, self.state.snap, slot)

    def _ask_cue_into(self, number: object) -> None:
        """Set a cue in a slot, whatever stands there."""
        self._set(HOT, self.state.snap, int(str(number)))

    def _ask_jump(self, cue_id: object) -> None:
        cue = self._cue(cue_id)
        if cue is not None:
            self.hit(cue)

    def _ask_rename(self, pair: object) -> None:
        if not self.bench.apply(cue_edits.rename_cue, *pair):  # type: ignore[misc]
            self.refresh()

    def _ask_delete(self, cue_id: object) -> None:
        self.bench.apply(cue_edits.delete_cue, cue_id)

    def _ask_delete_cue(self, _: object) -> None:
        if self.state.cue is None:
            self.bench.said.emit("refused", "No cue is chosen: click one.")
        else:
            self.bench.apply(cue_edits.delete_cue, self.state.cue_id)

    def _cue_edit(self, edit: object, *args: object) -> None:
        if self.state.cue is not None and not self.bench.apply(edit, self.state.cue_id, *args):  # type: ignore[arg-type]
            self.refresh()

    def _ask_cue_role(self, role: object) -> None:
        self._cue_edit(cue_edits.set_cue_role, role)

    def _ask_cue_kind(self, kind: object) -> None:
        self._cue_edit(cue_edits.set_kind, kind)

    def _ask_cue_slot(self, slot: object) -> None:
        self._cue_edit(cue_edits.set_slot, slot)

    def _ask_cue_loop(self, bars: object) -> None:
        self._cue_edit(cue_edits.set_loop, bars)

    def _ask_snap(self, snap: object) -> None:
        self.state.snap = str(snap)
        self.refresh()

    def _ask_hear_loop(self, _: object) -> None:
        cue = self.state.cue
        loop = cue_edits.loop_of(self.bench.preparation, cue) if cue is not None else None
        if loop is None:
            self.bench.said.emit("refused", "The chosen cue has no loop: give it one first.")
            return
        self.player.set_loop((loop[0], min(loop[1], self.player.duration)))
        self.player.play()

    # recipes

    def _ask_recipe(self, number: object) -> None:
        self.state.use(int(str(number)))

    def _ask_apply(self, _: object) -> None:
        told = self.state.apply()
        if told is not None:
            words = f"{told.placed} cue{'s' if told.placed != 1 else ''} placed."
            if told.problems:
                words += f" Not placed: {'; '.join(told.problems[:3])}."
            self.bench.said.emit("done", words + " Ctrl+Z takes it back.")

    def _ask_apply_all(self, _: object) -> None:
        self.batch_wanted.emit()

    def _ask_recipe_page(self, _: object) -> None:
        self.turn_page(1 if self.pages.currentIndex() != 1 else 0)

    def _ask_player_page(self, _: object) -> None:
        self.turn_page(2 if self.pages.currentIndex() != 2 else 0)

    def _ask_skips_page(self, _: object) -> None:
        self.turn_page(3 if self.pages.currentIndex() != 3 else 0)

    def _recipe_saved(self, recipe: Recipe) -> None:
        try:
            path = self.state.save(recipe)
        except FormatError as e:
            self.bench.said.emit("problem", str(e))
            return
        self.bench.said.emit("done", f"Kept as {path}")

    def _recipe_from_file(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "Take a recipe from a file", str(Path.home()), "Recipes (*.toml)")
        if name:
            self.open_recipe(Path(name))

    def open_recipe(self, path: Path) -> None:
        """Take a recipe from a file in hand."""
        try:
            self.state.open_file(path)
        except FormatError as e:
            self.bench.said.emit("problem", str(e))

    # player and skips

    def _ask_gear(self, kind: object) -> None:
        if isinstance(kind, Gear):
            self.state.gear = kind
            self.refresh()

    def _gear_load(self) -> None:
        """As a player does: it stands at the first standby cue, or at the beginning, and waits."""
        self.player.pause()
        first = next(iter(self.state.arrival.standby), None)
        self.player.seek(first.at(self.bench.grid) if first is not None else 0.0)

    def _gear_step(self, step: int) -> None:
        """To the standby cue before or after, and wait there."""
        grid = self.bench.grid
        times = [c.at(grid) for c in self.state.arrival.standby]
        here = self.player.now()
        left = [t for t in times if (t > here + 0.02 if step > 0 else t < here - 0.05)]
        if left:
            self.player.pause()
            self.player.seek(left[0] if step > 0 else left[-1])

    def _gear_wait(self, cue_id: str) -> None:
        cue = self._cue(cue_id)
        if cue is not None:
            self.player.pause()
            self.player.seek(cue.at(self.bench.grid))

    def _ask_try_skip(self, number: object) -> None:
        """Play two bars before a skip, and skip. Without a number: the next one ahead of the playhead."""
        grid, found = self.bench.grid, self.ordered_skips()
        if grid is None or not found:
            self.bench.said.emit("refused", "There are not two choruses here to skip between.")
            return
        if isinstance(number, int):
            skip = found[number]
        else:
            here = float(grid.beat_at(self.player.now()))
            skip = next((s for s in found if s.leave > here), found[0])
        lead, leave, enter = skips.times(grid, skip)
        self.player.try_skip(lead, leave, enter)
        at = phrase_edits.bar_of(grid, skip.leave, self.bench.preparation.origin)
        to = phrase_edits.bar_of(grid, skip.enter, self.bench.preparation.origin)
        self.bench.said.emit("done", f"From bar {at} it goes on at bar {to}: {skip.bars:g} bars are left out.")

    # hands in the ladder

    def _start_placed(self, index: int, beat: float) -> None:
        if not self._edit(phrase_edits.move_start, index, beat):
            self.refresh()

    def _cue_placed(self, cue_id: str, time: float, free: bool) -> None:
        if not self.bench.apply(cue_edits.move_cue, cue_id, time, snap=cue_edits.FREE if free else self.state.snap):
            self.refresh()

    def _menu(self, row: int, at: object) -> None:
        """Roles, and what else can be done to a phrase."""
        form = self.bench.form
        if form is None or row >= len(form.phrases):
            return
        menu = QMenu(self)
        for role in PHRASE_ROLES:
            action = menu.addAction(role.capitalize(), lambda r=role: self._ask_role(r))
            if action is not None:
                action.setCheckable(True)
                action.setChecked(form.phrases[row].role == role)
        menu.addSeparator()
        menu.addAction("Split at the playhead\tS", lambda: self._ask_split_here(None))
        menu.addAction("Merge with the one before\tBackspace", lambda: self._ask_merge(None))
        menu.popup(at.toPoint())  # type: ignore[attr-defined]
