"""What is heard of the open track: its sound with the reference beat, loops that follow the grid, jumps, the tour.

Keeps a loop in beats, so that it moves with a nudged grid.
"""

from __future__ import annotations

import attrs
import numpy as np
from PyQt6.QtCore import QObject, pyqtSignal

from ...core.fitting import drift
from ...core.model.beatgrid import Grid
from ...core.model.form import Form
from ...core.model.preparation import Preparation
from ...core.playing import reference_beat
from ...core.playing.mixing import Program
from ..sound.player import Player
from ..theme.tr import tr
from .chosen_part import ChosenPart
from .kept import Once
from .messages import Messages
from .open_track import OpenTrack
from .spot_check import SpotChecks

LOOPS = (1, 2, 4, 8, 16)
"""Lengths of a loop, bars."""


@attrs.frozen
class Mix:
    """How the reference beat stands to the track; see `Program`."""

    beat: str = reference_beat.OFF
    halves: bool = False
    balance: float = 0.0
    split: bool = False


@attrs.frozen(eq=False)
class Landmarks:
    """What the transport counts by: a grid, the beat bars are counted from, and ascending beats to count down to."""

    grid: Grid
    origin: float | None
    starts: list[float]
    cues: list[float]


class Listening(QObject):
    """Loads what is open into the player, and turns wishes into programs.

    `changed` when another program runs, or another length of loops is chosen; `beat_wanted` when the reference beat is
    to sound.
    """

    tour_changed = pyqtSignal()
    changed = pyqtSignal()
    beat_wanted = pyqtSignal()

    def __init__(self, track: OpenTrack, player: Player, part: ChosenPart, spots: SpotChecks, say: Messages) -> None:
        super().__init__()
        self.track, self.player, self.say = track, player, say
        self._part, self._spots = part, spots
        self._loop_beats: tuple[float, float] | None = None
        self.mix = Mix()
        self.loop_bars = 4
        self.touring = False
        self.aside = False
        self._marks: Landmarks | None = None
        self._track_marks = Once[Landmarks]()
        player.program_changed.connect(self._programmed)
        track.opened.connect(self.end_tour)
        track.opened.connect(self.load)
        track.sound_changed.connect(self.load)
        track.shown_changed.connect(self._grid_changed)

    def use_mix(self, mix: Mix) -> None:
        """The reference beat from now on."""
        self.mix = mix
        self.player.change(**attrs.asdict(mix))

    # program

    def stand_aside(self, aside: bool) -> None:
        """Let another load what is played, or no longer: then the open track is loaded again."""
        if aside == self.aside:
            return
        self.aside, self._marks = aside, None
        self.end_tour()
        self.player.load(None)
        if not aside:
            self.load()

    def count_by(self, marks: Landmarks | None) -> None:
        """While another loads what is played: what the transport counts by."""
        self._marks = marks

    def landmarks(self) -> Landmarks | None:
        """What the transport counts by; None where there is no grid."""
        if self.aside:
            return self._marks
        p, form, grid = self.track.shown, self.track.form, self.track.shown.grid
        if grid is None:
            return None
        return self._track_marks.of((grid, form, p.cues, p.origin), lambda: _landmarks(grid, form, p))

    @property
    def grid(self) -> Grid | None:
        """The grid that loops follow: of what is played."""
        p = self.player.program
        return p.grid if self.aside and p is not None else self.track.grid

    def load(self) -> None:
        """Play the open track, unless it is loaded already."""
        if self.aside:
            return
        b = self.track
        if b.samples is None or b.row is None:
            self.player.load(None)
            return
        held = self.player.program
        if held is not None and held.samples is b.samples:
            self._tell_loudness()
            return
        self._loop_beats = None
        self.player.load(Program(b.samples, b.row.rate, b.preparation.grid, **attrs.asdict(self.mix)))
        self._tell_loudness()

    def _tell_loudness(self) -> None:
        e, p = self.track.evidence, self.player.program
        if e is not None and p is not None and p.loudness is not e.loudness:
            self.player.change(loudness=e.loudness)

    def _grid_changed(self) -> None:
        """Another grid is shown: the reference beat and the loop go along at once."""
        grid = self.track.shown.grid
        p = self.player.program
        if self.aside or p is None or p.grid is grid:
            return
        loop = p.loop
        if grid is not None and loop is not None and self._loop_beats is not None:
            a, b = (float(t) for t in grid.time_at(self._loop_beats))
            loop = (max(0.0, a), min(b, self.player.duration))
        self.player.change(grid=grid, loop=loop)

    def _programmed(self) -> None:
        p = self.player.program
        if p is None or p.loop is None:
            self._loop_beats = None
        elif p.grid is not None:
            a, b = (float(x) for x in p.grid.beat_at(p.loop))
            self._loop_beats = (a, b)
        self.changed.emit()

    # loops and speed

    def toggle_loop(self) -> None:
        """Go round the chosen part, or some bars from the one at the playhead; or play on."""
        p = self.player.program
        if p is None:
            self.changed.emit()
            return
        if p.loop is not None:
            self.player.set_loop(None)
            return
        loop = self._wanted_loop()
        if loop is None:
            self.changed.emit()
            self.say.refused(tr("There is no grid to loop along: choose a part (Shift+drag above), or tap."))
        else:
            self.player.set_loop(loop)

    def _wanted_loop(self) -> tuple[float, float] | None:
        part, grid = None if self.aside else self._part.value, self.grid
        if grid is None:
            return part
        if part is not None:
            beats = np.round(grid.beat_at(part))
            if beats[1] > beats[0]:
                return self._inside(*(float(t) for t in grid.time_at(beats)))
        index = int(grid.bar_index(float(grid.beat_at(self.player.now())) + 1e-6)[0])
        return self.bars_from(index, self.loop_bars)

    def bars_from(self, index: int, bars: int) -> tuple[float, float] | None:
        """Instants of `bars` bars from bar `index` on, s, within the recording; None where nothing is left."""
        grid = self.grid
        if grid is None:
            return None
        return self._inside(*(float(t) for t in grid.time_at(grid.bar_start([index, index + bars]))))

    def _inside(self, start: float, stop: float) -> tuple[float, float] | None:
        start, stop = max(0.0, start), min(stop, self.player.duration)
        return (start, stop) if stop - start > 0.05 else None

    def set_length(self, bars: int) -> None:
        """So many bars to a loop; a running one keeps its beginning."""
        self.loop_bars = bars
        p, grid = self.player.program, self.grid
        if p is not None and p.loop is not None and grid is not None:
            loop = self.bars_from(int(grid.bar_index(float(grid.beat_at(p.loop[0])) + 0.01)[0]), bars)
            if loop is not None:
                self.player.set_loop(loop)
        self.changed.emit()

    def step_length(self, step: int) -> None:
        """The next longer or shorter loop."""
        at = LOOPS.index(self.loop_bars) + step
        self.set_length(LOOPS[int(np.clip(at, 0, len(LOOPS) - 1))])

    def toggle_half(self) -> None:
        """Half speed, or full."""
        p = self.player.program
        if p is None:
            self.changed.emit()
        else:
            self.player.change(half=not p.half)

    # tour

    def tour(self) -> bool:
        """Begin or end going round two bars at each place of the spot check. Whether it runs now."""
        if self.touring:
            self.end_tour()
            return False
        if self.player.program is None or not self._spots.spots:
            return False
        self.touring = True
        self.visit()
        self.tour_changed.emit()
        return True

    def visit(self) -> None:
        """Go round the current place of the spot check, with the reference beat."""
        checking, grid = self._spots, self.track.grid
        if not checking.spots or grid is None:
            return
        spot = checking.spots[checking.current]
        loop = self.bars_from(int(grid.bar_index(float(grid.beat_at(spot.start)) + 0.05)[0]), 2)
        if loop is None:
            return
        self.player.set_loop(loop)
        if not loop[0] <= self.player.now() < loop[0] + 0.05:
            self.player.seek(loop[0])
        if self.mix.beat == reference_beat.OFF:
            self.beat_wanted.emit()
        self.player.play()

    def end_tour(self, *, loop: bool = False) -> None:
        """No more tour; `loop` keeps going round where it stopped."""
        if not self.touring:
            return
        self.touring = False
        if not loop:
            self.player.set_loop(None)
            self.player.pause()
        self.tour_changed.emit()

    # early or late

    def lateness(self) -> tuple[float | None, float]:
        """How late what was heard in the last two bars came against the grid, ms, and how much is allowed here."""
        found, grid, at = self.track.drift(), self.track.grid, self.player.position
        value = drift.lately(found[0], grid, at) if found and grid is not None else None
        shown = self.track.shown
        return value, float(shown.tolerance.at(np.array([at]), shown.mix_zones)[0])


def _landmarks(grid: Grid, form: Form | None, p: Preparation) -> Landmarks:
    """Where phrases begin, and the last one ends; where cues lie."""
    starts = [*(q.start for q in form.phrases), form.end] if form is not None else []
    return Landmarks(grid, p.origin, starts, sorted(float(grid.beat_at(c.at(grid))) for c in p.cues))
