"""What can be asked of a chosen part of the track: hear it anew, pin it, its own tempo, a ramp, a pause."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from ....core.edits import part_edits, track_edits, typed_values
from ....core.edits.part_edits import Edges
from ....core.errors import Refused
from ....core.model import hints
from ....core.model.preparation import Preparation
from ...widgets.value_line import Field

if TYPE_CHECKING:
    from .stage import AlignStage as Stage
else:
    Stage = object

CHOOSE = "Choose a part first: drag with Shift in the overview, or press [ and ]."


class PartRequests(Stage):
    """The part of the Align stage that deals with chosen parts."""

    def _ask_part_edge(self, which: object) -> None:
        """Begin or end the part at the playhead."""
        here, end = self.player.position, self.bench.duration
        a, b = self.part or (0.0, end)
        a, b = (here, b if b > here else end) if which == 0 else (a if a < here else 0.0, here)
        if b - a > 0.1:
            self._choose_part((a, b))

    def _ask_part(self, kind: object) -> None:
        """Tell the hearing something about the chosen part, or about the whole track."""
        start, stop = self.part or (0.0, hints.END)
        if kind == hints.QUIET and self.part is None:
            self.bench.said.emit("refused", CHOOSE)
            return
        value = 0.0
        if kind == hints.TEMPO:
            tempo = self._read(typed_values.tempo, self.readings.tempo.text())
            if tempo is None:
                return
            value = tempo
        elif kind == hints.ALIKE:
            value = max(0.0, start - 2.0)
        if self.bench.tell(hints.Hint(str(kind), start, stop, value)):
            self._choose_part(None)

    def _edges(self, *, bars: bool = True, whole: bool = False) -> Edges | None:
        """The chosen part in beats; the whole track where that makes sense and none is chosen. Says what is missing."""
        grid = self.bench.preparation.grid
        if grid is None:
            self._no_grid()
            return None
        if self.part is None and not whole:
            self.bench.said.emit("refused", CHOOSE)
            return None
        start, stop = self.part or (0.0, self.bench.duration)
        try:
            return part_edits.edges(grid, start, stop, self.bench.duration, bars=bars)
        except Refused as e:
            self.bench.said.emit("refused", str(e))
            return None

    def _ask_part_typed(self, pair: object) -> None:
        """The part as typed: begin and end."""
        start, stop = (self._read(typed_values.time, t) for t in pair)  # type: ignore[attr-defined]
        if start is None or stop is None:
            self.readings.show_part(self.part)
        elif stop <= start:
            self.bench.said.emit("refused", "The part must end after it begins.")
            self.readings.show_part(self.part)
        else:
            self._choose_part((min(start, self.bench.duration), min(stop, self.bench.duration)))

    def _ask_part_whole(self, _: object) -> None:
        self._choose_part(None)

    def _use(self, edit: Callable[..., Preparation], *arguments: object) -> bool:
        """An edit of the chosen part, which then is let go."""
        done = self.bench.apply(edit, *arguments)
        if done:
            self._choose_part(None)
        return done

    def _ask_pin_every(self, every: object) -> None:
        part, grid = self._edges(), self.bench.preparation.grid
        if part is not None and grid is not None and self.bench.heard is not None:
            beats = 1.0 if every == "beat" else float(str(every)) * grid.beats_per_bar(0.0)
            self._use(part_edits.pin_every, self.bench.heard, part, beats)

    def _ask_follow_part(self, _: object) -> None:
        part = self._edges(whole=True)
        if part is not None and self.bench.heard is not None:
            self._use(part_edits.follow_part, self.bench.heard, part)

    def _ask_own_tempo(self, _: object) -> None:
        # a tempo may change on any beat
        part = self._edges(bars=False)
        if part is not None:
            self._use(part_edits.own_tempo, self.bench.heard, part)

    def _ask_own_tempo_typed(self, _: object) -> None:
        part, grid = self._edges(bars=False), self.bench.preparation.grid
        if part is None or grid is None:
            return
        field = Field("tempo", f"{self._tempo_near(part):.3f} BPM", typed_values.tempo)
        self.form.ask(
            "A tempo of its own", (field,), lambda t: self._use(part_edits.own_tempo, self.bench.heard, part, t)
        )

    def _tempo_near(self, part: Edges) -> float:
        """The tempo heard in the part, or the grid's there."""
        grid, heard = self.bench.preparation.grid, self.bench.heard
        assert grid is not None
        try:
            if heard is not None:
                return part_edits.measured_tempo(grid, heard, part)
        except Refused:
            pass
        return grid.tempo_at(float(grid.time_at(part.first or 0.0)) + 0.01)

    def _ask_ramp(self, _: object) -> None:
        part, grid = self._edges(), self.bench.preparation.grid
        if part is None or grid is None:
            return
        if part.first is None or part.last is None:
            self.bench.said.emit(
                "refused", "A ramp needs a bar where it begins and one where it ends inside the track."
            )
            return
        ends = [Edges(part.first - 8, part.first), Edges(part.last, part.last + 8)]
        fields = tuple(
            Field(name, f"{self._tempo_near(end):.3f} BPM", typed_values.tempo)
            for name, end in zip(("from", "to"), ends, strict=True)
        )
        self.form.ask("Ramp", fields, lambda a, b: self._use(part_edits.ramp, part, a, b))

    def _ask_pause(self, _: object) -> None:
        if self.part is None:
            self.bench.said.emit("refused", CHOOSE)
        else:
            self._use(part_edits.pause, *self.part)

    def _ask_zone(self, _: object) -> None:
        """Make the part a mix zone; where it lies inside one, take that zone away."""
        if self.part is None:
            self.bench.said.emit("refused", CHOOSE)
            return
        start, stop = self.part
        zones = self.bench.preparation.mix_zones
        inside = [z for z in zones if z[0] <= start + 0.05 and stop <= z[1] + 0.05]
        wanted = tuple(z for z in zones if z not in inside) if inside else (*zones, (start, stop))
        self._use(track_edits.set_zones, wanted)
