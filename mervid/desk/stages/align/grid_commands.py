"""Commands on the whole grid: fit it, type a tempo, count at another level, slide it, set how far a beat may stray."""

from __future__ import annotations

from ....core.edits import count_edits, grid_edits, typed_values
from ...commands.command import GRID, command, request
from ...theme.tr import tr
from ...widgets.value_line import Field
from .base import AlignCommands


class GridCommands(AlignCommands):
    """The grid as a whole."""

    _first_point: float | None = None

    @command("S", "One steady tempo", GRID, "steady", also="machine constant fixed straight")
    @command("F", "Follow the recording", GRID, "follow", also="drift drummer variable wander fit beatgrid")
    def fit(self, which: object) -> None:
        self.session.offers.use(str(which))

    @command("T", "Type a tempo", GRID, also="bpm set enter")
    def type_tempo(self, _: object) -> None:
        self.view.panel.tempo.setFocus()
        self.view.panel.tempo.selectAll()

    @request
    def tempo(self, text: object) -> None:
        value = self.read(typed_values.tempo, text)
        if value is not None and self.track.apply(grid_edits.set_tempo, value, first=self.player.position):
            self.warn_if_off(tr("{0:g} BPM").format(value))

    @request
    def tempo_typed(self, _: object) -> None:
        self.view.panel.tempo.forget()
        self.tempo(self.view.panel.tempo.text())

    @command("Shift+T", "Round the tempo to a whole number", GRID, also="integer exact bpm")
    def round(self, _: object) -> None:
        if self.track.apply(count_edits.round_tempo) and self.track.grid is not None:
            self.warn_if_off(tr("{0:.0f} BPM").format(self.track.grid.tempo_overall()))

    @command("Alt+D", "Tempo from two downbeats: mark the first, then the last", GRID, also="bars between measure")
    def two_points(self, _: object) -> None:
        """The first press marks a downbeat, the second another; then the bars between are asked for."""
        here, before = self.track.snap(self.player.position), self._first_point
        if before is None or abs(here - before) < 0.5:
            self._first_point = here
            self.say.done(tr("First downbeat marked at {0:.3f} s. Go to a late one, press Alt+D.").format(here))
            return
        first, last = sorted((before, here))
        self._first_point = None
        bars = count_edits.bars_between(self.track.preparation, self.track.heard, first, last)

        def take(count: int) -> bool:
            if not self.track.apply(count_edits.two_points, first, last, count):
                return False
            if self.track.preparation.grid is not None:
                self.warn_if_off(tr("{0:.3f} BPM").format(self.track.preparation.grid.tempo_overall()))
            return True

        field = Field(tr("bars between"), str(bars), lambda t: typed_values.whole(t, "bars", 1, 9999))
        self.view.line.ask(tr("Tempo from {0:.3f} s to {1:.3f} s").format(first, last), (field,), take)

    def forget_point(self) -> None:
        """Another track is opened: the downbeat that was marked lies in the one before."""
        self._first_point = None

    @command("H", "Count every second beat", GRID, grid_edits.halve, also="half time halve slower level")
    @command("Shift+H", "Count twice as many beats", GRID, grid_edits.double, also="double time faster level")
    @command("Ctrl+H", "Count three beats for two", GRID, grid_edits.three_for_two, also="triplet waltz level")
    @command("Ctrl+Shift+H", "Count two beats for three", GRID, grid_edits.two_for_three, also="triplet waltz level")
    def edit(self, edit: object) -> None:
        self.track.apply(edit)  # type: ignore[arg-type]

    @command(",", "Slide the grid 1 ms earlier", GRID, -1.0, also="move shift nudge phase")
    @command(".", "Slide the grid 1 ms later", GRID, 1.0, also="move shift nudge phase")
    @command("Shift+,", "Slide the grid 10 ms earlier", GRID, -10.0, also="move shift nudge phase")
    @command("Shift+.", "Slide the grid 10 ms later", GRID, 10.0, also="move shift nudge phase")
    def slide(self, step: object) -> None:
        self.track.apply(grid_edits.slide, step)

    @command("Alt+,", "Slide the grid half a beat earlier", GRID, -0.5, also="off-beat upbeat move")
    @command("Alt+.", "Slide the grid half a beat later", GRID, 0.5, also="off-beat upbeat move")
    @command("Alt+Shift+,", "Slide the grid a beat earlier", GRID, -1.0, also="move one")
    @command("Alt+Shift+.", "Slide the grid a beat later", GRID, 1.0, also="move one")
    def slide_beats(self, beats: object) -> None:
        self.track.apply(count_edits.slide_beats, beats)

    @command("Alt+T", "Type how far a beat may stray", GRID, also="tolerance ms accuracy allowed")
    def tolerance(self, _: object) -> None:
        now = self.track.preparation.tolerance
        fields = (
            Field(tr("mix zones"), f"{now.tight:g} ms", typed_values.tolerance),
            Field("elsewhere", f"{now.loose:g} ms", typed_values.tolerance),
        )
        # taking the values that stand is no mistake
        self.view.line.ask(
            tr("How far a beat may stray"),
            fields,
            lambda tight, loose: self.session.trial.use(tight, loose) or not self.track.preparation.locked,
        )

    @request
    def tolerance_tried(self, pair: tuple[float, float]) -> None:
        self.session.trial.ask(*pair)

    @request
    def tolerance_set(self, pair: tuple[float, float]) -> None:
        if not self.session.trial.use(*pair):
            self.view.panel.show_tolerance(self.track.preparation)
