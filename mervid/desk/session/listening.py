"""What is heard of the open track: its sound with the reference beat, loops that follow the grid, jumps, the tour.

Knows the player, the workbench and the transport, and keeps a loop in beats, so that it moves with a nudged grid.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QMenu

from ...core.playing.mixing import Program
from ..sound.player import Player
from ..widgets.transport import LOOPS, Transport
from .open_track import Workbench


class Listening(QObject):
    """Loads what is open into the player, and turns wishes of the transport into programs."""

    tour_changed = pyqtSignal()

    def __init__(
        self, bench: Workbench, player: Player, transport: Transport, part: Callable[[], tuple[float, float] | None]
    ) -> None:
        super().__init__()
        self.bench, self.player, self.transport = bench, player, transport
        self._part = part
        self._loop_beats: tuple[float, float] | None = None
        self.touring = False
        t = transport
        t.sound_changed.connect(lambda: player.change(**t.sound()))
        t.loop_pressed.connect(self.toggle_loop)
        t.length_chosen.connect(self.set_length)
        t.half_pressed.connect(self.toggle_half)
        t.play_pressed.connect(player.toggle)
        t.output_menu.aboutToShow.connect(self._fill_outputs)
        player.playing_changed.connect(t.dress)
        player.program_changed.connect(self._programmed)
        player.output_changed.connect(t.show_output)
        player.moved.connect(lambda at: t.show_position(at, bench.shown, bench.form))
        player.said.connect(bench.said)
        t.show_output(player.output_name)

    # program

    def load(self) -> None:
        """Play the open track, unless it is loaded already."""
        b = self.bench
        if b.samples is None or b.track is None:
            self.player.load(None)
            return
        held = self.player.program
        if held is not None and held.samples is b.samples:
            self._tell_loudness()
            return
        self._loop_beats = None
        self.player.load(Program(b.samples, b.track.rate, b.preparation.grid, **self.transport.sound()))  # type: ignore[arg-type]
        self._tell_loudness()

    def _tell_loudness(self) -> None:
        e, p = self.bench.evidence, self.player.program
        if e is not None and p is not None and p.loudness is not e.loudness:
            self.player.change(loudness=e.loudness)

    def grid_changed(self) -> None:
        """Another grid is shown: the reference beat and the loop go along at once."""
        grid = self.bench.shown.grid
        p = self.player.program
        if p is None or p.grid is grid:
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
        self.transport.show_program(p)

    # loops and speed

    def toggle_loop(self) -> None:
        """Go round the chosen part, or some bars from the one at the playhead; or play on."""
        p = self.player.program
        if p is None:
            self.transport.show_program(None)
            return
        if p.loop is not None:
            self.player.set_loop(None)
            return
        loop = self._wanted_loop()
        if loop is None:
            self.transport.show_program(p)
            self.bench.said.emit("refused", "There is no grid to loop along: choose a part (Shift+drag above), or tap.")
        else:
            self.player.set_loop(loop)

    def _wanted_loop(self) -> tuple[float, float] | None:
        part, grid = self._part(), self.bench.grid
        if grid is None:
            return part
        if part is not None:
            beats = np.round(grid.beat_at(part))
            if beats[1] > beats[0]:
                return self._inside(*(float(t) for t in grid.time_at(beats)))
        index = int(grid.bar_index(float(grid.beat_at(self.player.now())) + 1e-6)[0])
        return self.bars_from(index, self.transport.loop_bars)

    def bars_from(self, index: int, bars: int) -> tuple[float, float] | None:
        """Instants of `bars` bars from bar `index` on, s, within the recording; None where nothing is left."""
        grid = self.bench.grid
        if grid is None:
            return None
        return self._inside(*(float(t) for t in grid.time_at(grid.bar_start([index, index + bars]))))

    def _inside(self, start: float, stop: float) -> tuple[float, float] | None:
        start, stop = max(0.0, start), min(stop, self.player.duration)
        return (start, stop) if stop - start > 0.05 else None

    def set_length(self, bars: int) -> None:
        """So many bars to a loop; a running one keeps its beginning."""
        self.transport.loop_bars = bars
        p, grid = self.player.program, self.bench.grid
        if p is not None and p.loop is not None and grid is not None:
            loop = self.bars_from(int(grid.bar_index(float(grid.beat_at(p.loop[0])) + 0.01)[0]), bars)
            if loop is not None:
                self.player.set_loop(loop)
        self.transport.show_program(p)

    def step_length(self, step: int) -> None:
        """The next longer or shorter loop."""
        at = LOOPS.index(self.transport.loop_bars) + step
        self.set_length(LOOPS[int(np.clip(at, 0, len(LOOPS) - 1))])

    def toggle_half(self) -> None:
        """Half speed, or full."""
        p = self.player.program
        if p is None:
            self.transport.show_program(None)
        else:
            self.player.change(half=not p.half)

    # tour

    def tour(self) -> bool:
        """Begin or end going round two bars at each place of the spot check. Whether it runs now."""
        if self.touring:
            self.end_tour()
            return False
        if self.player.program is None or not self.bench.checking.spots:
            return False
        self.touring = True
        self.visit()
        self.tour_changed.emit()
        return True

    def visit(self) -> None:
        """Go round the current place of the spot check, with the reference beat."""
        checking, grid = self.bench.checking, self.bench.grid
        if not checking.spots or grid is None:
            return
        spot = checking.spots[checking.current]
        loop = self.bars_from(int(grid.bar_index(float(grid.beat_at(spot.start)) + 0.05)[0]), 2)
        if loop is None:
            return
        self.player.set_loop(loop)
        if not loop[0] <= self.player.now() < loop[0] + 0.05:
            self.player.seek(loop[0])
        if not self.transport.click.isChecked():
            self.transport.click.setChecked(True)
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

    # outputs

    def _fill_outputs(self) -> None:
        menu: QMenu = self.transport.output_menu
        menu.clear()
        for key, name in self.player.devices.items():
            action = menu.addAction(name, lambda k=key: self.player.choose_output(k))
            if action is not None:
                action.setCheckable(True)
                action.setChecked(self.player.output_name == name)
        menu.addAction("Silent clock", lambda: self.player.choose_output(""))
        menu.addSeparator()
        menu.addAction("Look for devices again", self.player.look)
