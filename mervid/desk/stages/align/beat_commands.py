"""Commands on single beats: this is a beat, a bar starts here, how bars are counted, and pins by hand."""

from __future__ import annotations

import numpy as np

from ....core.edits import count_edits, grid_edits, listening_edits, track_edits, typed_values
from ....core.errors import Refused
from ....core.model.preparation import Preparation
from ...commands.command import COUNT, PINS, command, request
from ...session.preview import DRAG
from ...theme.tr import tr
from ...widgets.value_line import Field
from .base import AlignCommands


class BeatCommands(AlignCommands):
    """Beats, bars and pins."""

    @command("B", "This is a beat: listen again around it", COUNT, also="on the beat off-beat fix here")
    def beat(self, time: object) -> None:
        """The hit at a time, or at the playhead, is a beat."""
        at = time if isinstance(time, float) else self.player.position
        if self.track.evidence is not None:
            self.track.apply(listening_edits.pin_beat, self.track.evidence, self.track.snap(at))

    @command("D", "A bar starts here", COUNT, also="downbeat one first beat")
    def downbeat(self, _: object) -> None:
        position, evidence = self.player.position, self.track.evidence
        if evidence is None:
            self.track.apply(grid_edits.set_downbeat, position)
        else:
            self.track.apply(listening_edits.begin_bar, evidence, position)

    @command("Shift+D", "Begin the count anew here: the bar before may be odd", COUNT, also="restart meter slip skip")
    def restart(self, _: object) -> None:
        position, evidence = self.player.position, self.track.evidence
        if evidence is None:
            self.track.apply(count_edits.restart, position)
        else:
            self.track.apply(listening_edits.restart, evidence, position)

    @command("Ctrl+Backspace", "Take away the odd bar nearest to here", COUNT, also="count through remove meter mark")
    def count_through(self, _: object) -> None:
        self.track.apply(count_edits.count_through, self.player.position)

    @command("M", "Type how many beats a bar has from here on", COUNT, also="meter time signature waltz")
    def meter(self, _: object) -> None:
        grid = self.track.grid
        if grid is None:
            self.no_grid()
            return
        position = self.player.position
        now = grid.beats_per_bar(float(grid.beat_at(position)))
        field = Field(tr("beats a bar"), str(now), lambda t: typed_values.whole(t, "beats", 1, 32))
        self.view.line.ask(
            tr("From the bar here on"), (field,), lambda n: self.track.apply(count_edits.set_meter, position, n)
        )

    @command("Ctrl+M", "Type how many beats all bars have, and hear where they begin", COUNT, also="meter five seven")
    def count_bars(self, _: object) -> None:
        """In the chosen part, or in the whole track."""
        grid, evidence = self.track.grid, self.track.evidence
        if grid is None or evidence is None:
            self.no_grid()
            return
        part = self.session.part.value
        low, high = listening_edits.LEAST_BAR, listening_edits.MOST_BAR
        now = grid.beats_per_bar(float(grid.beat_at(part[0] if part else self.player.position)))
        field = Field(tr("beats a bar"), str(now), lambda t: typed_values.whole(t, "beats", low, high))
        title = tr("Bars of this part, as they are heard") if part else tr("All bars, as they are heard")

        def take(beats: int) -> bool:
            done = self.track.apply(listening_edits.count_bars, evidence, beats, *(part or ()))
            if done and part:
                self.session.part.choose(None)
            return done

        self.view.line.ask(title, (field,), take)

    @command("Ctrl+D", "Call the bar here bar 1", COUNT, also="first bar number start count")
    def count_from(self, _: object) -> None:
        self.track.apply(count_edits.count_from, self.player.position)

    @command("Ctrl+Shift+D", "Call the first bar of the music bar 1", COUNT, also="first beat number start count")
    def count_from_first(self, _: object) -> None:
        start = self.track.music_begins()
        if start is None:
            self.say.refused(tr("Nothing sounds here yet: go to the first bar and press Ctrl+D."))
        else:
            self.track.apply(count_edits.count_from_first, start)

    # pins

    @command("P", "Pin the nearest beat to the attack here", PINS, also="anchor fix marker")
    def pin(self, _: object) -> None:
        grid = self.track.grid
        if grid is None:
            self.no_grid()
            return
        position = self.player.position
        beat = float(round(float(grid.beat_at(position))))
        self.track.apply(grid_edits.add_pin, beat, self.track.snap(position))

    @command("Backspace", "Remove the chosen pin", PINS, also="delete unpin")
    def unpin(self, _: object) -> None:
        index = self.view.chosen_pin if self.view.chosen_pin >= 0 else self.nearest_pin()
        if index >= 0 and self.track.apply(grid_edits.remove_pin, index):
            self.view.choose_pin(-1)

    @command("N", "Go to the next pin and choose it", PINS, 1)
    @command("Shift+N", "Go to the pin before and choose it", PINS, -1)
    def pin_by(self, step: int) -> None:
        grid = self.track.grid
        if grid is None:
            return
        here = self.player.position
        after = (
            int(np.searchsorted(grid.times, here + 1e-4))
            if step > 0
            else int(np.searchsorted(grid.times, here - 1e-4)) - 1
        )
        index = int(np.clip(after, 0, len(grid.pins) - 1))
        self.view.choose_pin(index)
        self.player.seek(max(0.0, grid.pins[index].time))

    @command("Alt+Left", "Nudge the chosen pin 1 ms earlier", PINS, -1.0)
    @command("Alt+Right", "Nudge the chosen pin 1 ms later", PINS, 1.0)
    def nudge(self, milliseconds: float) -> None:
        grid, index = self.track.grid, self.view.chosen_pin
        if grid is None:
            return
        if index < 0:
            self.say.refused(tr("No pin is chosen: N goes to the next one, or click one."))
        elif self.track.apply(grid_edits.move_pin, index, grid.pins[index].time + milliseconds / 1000):
            self.view.choose_pin(index)

    # pins in the hand: (time s, beat, whether it snaps)

    def _snapped(self, time: float, snap: bool, reach: float | None = None) -> float:
        if not snap:
            return time
        return self.track.snap(time) if reach is None else self.track.snap(time, reach)

    def _close_reach(self) -> float:
        # in the close-up, snapping reaches eight pixels or 30 ms, whichever is less
        return min(0.03, 8 / max(1, self.view.closeup.width()) * self.view.closeup.span)

    def _preview(self, time: float, beat: float) -> None:
        if self.track.preparation.locked:
            return
        value = self._pinned(time, beat)
        if value is not None:
            self.track.preview.show(DRAG, value)

    def _pinned(self, time: float, beat: float) -> Preparation | None:
        """The preparation with `beat` pinned at `time`, or None where that makes no grid."""
        try:
            return grid_edits.add_pin(self.track.preparation, beat, time)
        except Refused:
            return None

    def pull(self, beat: float, time: float) -> None:
        """A hand pin, and the hearing guided between its neighbours."""
        evidence = self.track.evidence
        if evidence is None:
            self.track.apply(grid_edits.add_pin, beat, time)
        else:
            self.track.apply(listening_edits.pull, evidence, beat, time)

    def fold_moving(self, time: float, beat: float, snap: bool) -> None:
        """Ink is dragged in the fold."""
        self._preview(self._snapped(time, snap), beat)

    def fold_placed(self, time: float, beat: float, snap: bool) -> None:
        """Ink was let go on its thread."""
        self.pull(beat, self._snapped(time, snap))

    def spot_moving(self, time: float, beat: float, snap: bool) -> None:
        """A hit is dragged in the spot check."""
        self._preview(self._snapped(time, snap, self.view.spots.reach / 6), beat)

    def spot_placed(self, time: float, beat: float, snap: bool) -> None:
        """A hit was let go in the spot check."""
        self.pull(beat, self._snapped(time, snap, self.view.spots.reach / 6))

    def close_moving(self, time: float, beat: float, snap: bool) -> None:
        """A beat line is dragged in the close-up."""
        self._preview(self._snapped(time, snap, self._close_reach()), beat)

    def close_placed(self, time: float, beat: float, snap: bool) -> None:
        """A beat line was let go in the close-up."""
        time = self._snapped(time, snap, self._close_reach())
        if self.track.apply(grid_edits.add_pin, beat, time) and self.track.grid is not None:
            self.view.choose_pin(int(np.argmin(np.abs(self.track.grid.beats - beat))))

    def pin_typed(self, index: int, time: float) -> None:
        """A pin's time was typed in the table."""
        if self.track.apply(grid_edits.move_pin, index, time):
            self.view.choose_pin(index)
        self.view.show_spots()

    def pin_removed(self, index: int) -> None:
        """A pin was taken out of the table."""
        self.track.apply(grid_edits.remove_pin, index)

    def let_go(self) -> None:
        """What was dragged stays as it was."""
        self.track.preview.clear(DRAG)

    @request
    def zones(self, moved: tuple[tuple[tuple[float, float], ...], float, bool]) -> None:
        """Mix zones whose edge is dragged (zones, the edge in s, whether it was let go): it goes to a bar line."""
        zones, edge, keep = moved
        t, p = self.track, self.track.preparation
        if not p.locked and p.grid is not None:
            near = float(np.clip(p.grid.time_at(p.grid.bar_line_near(edge)), 0.0, t.duration))
            zones = tuple((near if x == edge else x, near if y == edge else y) for x, y in zones)
        if keep:
            t.apply(track_edits.set_zones, zones)
        elif not p.locked:
            t.preview.show(DRAG, track_edits.set_zones(p, zones))
