"""Commands on a chosen part of the track: hear it anew, pin it, its own tempo, a ramp, a pause."""

from __future__ import annotations

from collections.abc import Callable
from typing import cast

from ....core.edits import part_edits, track_edits, typed_values
from ....core.edits.part_edits import Edges
from ....core.errors import Refused
from ....core.model.hints import ALIKE, END, EVEN, QUIET, TEMPO, Hint
from ....core.model.preparation import Preparation
from ...commands.command import PART, command, request
from ...theme.tr import tr
from ...widgets.value_line import Field
from .base import AlignCommands

CHOOSE = "Choose a part first: drag with Shift in the overview, or press [ and ]."


class PartCommands(AlignCommands):
    """What can be done to a part."""

    @property
    def chosen(self) -> tuple[float, float] | None:
        """The chosen part, s."""
        return self.session.part.value

    @command("[", "The part begins here", PART, 0, also="select from region")
    @command("]", "The part ends here", PART, 1, also="select to region")
    def part_edge(self, which: object) -> None:
        """Begin or end the part at the playhead."""
        here, end = self.player.position, self.track.duration
        a, b = self.chosen or (0.0, end)
        a, b = (here, b if b > here else end) if which == 0 else (a if a < here else 0.0, here)
        if b - a > 0.1:
            self.session.part.choose((a, b))

    @command("Ctrl+Shift+T", "Listen again with tempi near the typed one", PART, TEMPO, also="tempo hint half double")
    @command("Shift+S", "Listen again: this part is steady", PART, EVEN, also="even constant")
    @command("Shift+Z", "Listen again: no beats in this part", PART, QUIET, also="silence quiet break")
    @command("Shift+O", "Bars of this part count on from what comes before", PART, ALIKE, also="continue count")
    def part(self, kind: object) -> None:
        """Tell the hearing something about the chosen part, or about the whole track."""
        start, stop = self.chosen or (0.0, END)
        if kind == QUIET and self.chosen is None:
            self.say.refused(CHOOSE)
            return
        value = 0.0
        if kind == TEMPO:
            # the tempo is used here: it does not become the tempo of the whole track later on
            self.view.panel.tempo.forget()
            tempo = self.read(typed_values.tempo, self.view.panel.tempo.text())
            if tempo is None:
                return
            value = tempo
        elif kind == ALIKE:
            value = max(0.0, start - 2.0)
        if self.track.listen_again(Hint(str(kind), start, stop, value)):
            self.session.part.choose(None)

    def _edges(self, *, bars: bool = True, whole: bool = False) -> Edges | None:
        """The chosen part in beats; the whole track where that makes sense and none is chosen. Says what is missing."""
        grid = self.track.preparation.grid
        if grid is None:
            self.no_grid()
            return None
        if self.chosen is None and not whole:
            self.say.refused(CHOOSE)
            return None
        start, stop = self.chosen or (0.0, self.track.duration)
        try:
            return part_edits.edges(grid, start, stop, self.track.duration, bars=bars)
        except Refused as e:
            self.say.refused(str(e))
            return None

    @request
    def part_typed(self, pair: object) -> None:
        """The part as typed: begin and end."""
        begin, end = cast(tuple[str, str], pair)
        start = self.read(typed_values.time, begin) if begin.strip() else 0.0
        stop = self.read(typed_values.time, end) if end.strip() else self.track.duration
        if start is None or stop is None:
            self.view.panel.show_part(self.chosen)
        elif stop <= start:
            self.say.refused(tr("The part must end after it begins."))
            self.view.panel.show_part(self.chosen)
        else:
            self.session.part.choose((min(start, self.track.duration), min(stop, self.track.duration)))

    @request
    def part_whole(self, _: object) -> None:
        self.session.part.choose(None)

    def _use(self, edit: Callable[..., Preparation], *arguments: object) -> bool:
        """An edit of the chosen part, which then is let go."""
        done = self.track.apply(edit, *arguments)
        if done:
            self.session.part.choose(None)
        return done

    @command("Ctrl+1", "Pin every beat of the part", PART, "beat")
    @command("Ctrl+2", "Pin every bar of the part", PART, "1")
    @command("Ctrl+3", "Pin every second bar of the part", PART, "2")
    @command("Ctrl+4", "Pin every fourth bar of the part", PART, "4")
    def pin_every(self, every: object) -> None:
        part, grid = self._edges(), self.track.preparation.grid
        if part is not None and grid is not None and self.track.heard is not None:
            beats = 1.0 if every == "beat" else float(str(every)) * grid.beats_per_bar(0.0)
            self._use(part_edits.pin_every, self.track.heard, part, beats)

    @command("Shift+F", "Follow the recording in the part", PART, also="drift fit")
    def follow_part(self, _: object) -> None:
        part = self._edges(whole=True)
        if part is not None and self.track.heard is not None:
            self._use(part_edits.follow_part, self.track.heard, part)

    @command("L", "A tempo of its own for the part, measured", PART, also="step change")
    def own_tempo(self, _: object) -> None:
        # a tempo may change on any beat
        part = self._edges(bars=False)
        if part is not None:
            self._use(part_edits.own_tempo, self.track.heard, part)

    @command("Shift+L", "Type a tempo of its own for the part", PART, also="step change")
    def own_tempo_typed(self, _: object) -> None:
        part, grid = self._edges(bars=False), self.track.preparation.grid
        if part is None or grid is None:
            return
        field = Field("tempo", tr("{0:.3f} BPM").format(self._tempo_near(part)), typed_values.tempo)
        self.view.line.ask(
            tr("A tempo of its own"), (field,), lambda t: self._use(part_edits.own_tempo, self.track.heard, part, t)
        )

    def _tempo_near(self, part: Edges) -> float:
        """The tempo heard in the part, or the grid's there."""
        grid, heard = self.track.preparation.grid, self.track.heard
        assert grid is not None
        try:
            if heard is not None:
                return part_edits.measured_tempo(grid, heard, part)
        except Refused:
            pass
        return grid.tempo_at(float(grid.time_at(part.first or 0.0)) + 0.01)

    @command("Alt+L", "Ramp from one tempo to another over the part", PART, also="accelerate slow down ritardando")
    def ramp(self, _: object) -> None:
        part, grid = self._edges(), self.track.preparation.grid
        if part is None or grid is None:
            return
        if part.first is None or part.last is None:
            self.say.refused(tr("A ramp needs a bar where it begins and one where it ends inside the track."))
            return
        ends = [Edges(part.first - 8, part.first), Edges(part.last, part.last + 8)]
        fields = tuple(
            Field(name, tr("{0:.3f} BPM").format(self._tempo_near(end)), typed_values.tempo)
            for name, end in zip(("from", "to"), ends, strict=True)
        )
        self.view.line.ask(tr("Ramp"), fields, lambda a, b: self._use(part_edits.ramp, part, a, b))

    @command("Z", "A pause: no beats run in the part", PART, also="stop gap fermata")
    def pause(self, _: object) -> None:
        if self.chosen is None:
            self.say.refused(CHOOSE)
        else:
            self._use(part_edits.pause, *self.chosen)

    @command("Shift+M", "The part is a mix zone, or is no longer one", PART, also="mix in out intro outro")
    def zone(self, _: object) -> None:
        """Make the part a mix zone; where it lies inside one, take that zone away."""
        if self.chosen is None:
            self.say.refused(CHOOSE)
            return
        start, stop = self.chosen
        zones = self.track.preparation.mix_zones
        inside = [z for z in zones if z[0] <= start + 0.05 and stop <= z[1] + 0.05]
        wanted = tuple(z for z in zones if z not in inside) if inside else (*zones, (start, stop))
        self._use(track_edits.set_zones, wanted)
