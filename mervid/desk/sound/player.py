"""Playing: a position that runs, a program of sound, loops and jumps, and an output that may die at any time."""

from __future__ import annotations

import logging
import time
from collections.abc import Mapping

import attrs
from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from ...core.playing.mixing import Jump, Program
from .output import SILENT, DeviceOutput, SilentClock

log = logging.getLogger(__name__)
FRAME_MS, STEP_MS = 16, 250
"""So often the playhead moves: as smooth as a screen is, or in steps for who wants pictures still."""
BUFFER_MS = 60.0


class Player(QObject):
    """The transport: a position in s, playing or not, on whatever output there is."""

    moved = pyqtSignal(float)
    playing_changed = pyqtSignal(bool)
    output_changed = pyqtSignal(str)
    program_changed = pyqtSignal()
    said = pyqtSignal(str, str)
    measured = pyqtSignal(object)

    def __init__(
        self,
        *,
        clock: SilentClock | None = None,
        look_for_device: bool = True,
        buffer_ms: float = BUFFER_MS,
        delays: Mapping[str, float] | None = None,
    ) -> None:
        super().__init__()
        self.buffer_ms = buffer_ms
        self.delays = dict(delays or {})
        self._clock = clock or SilentClock()
        self._device: DeviceOutput | None = None
        self._use_device = False
        self.program: Program | None = None
        self.playing = False
        self._position = 0.0
        self._began = 0.0
        self.devices: dict[str, str] = {}
        self.device_key = ""
        self.output_name = f"{SILENT}: no sound device"
        self._timer = QTimer(self)
        self._timer.setInterval(FRAME_MS)
        self._timer.timeout.connect(self.tick)
        if look_for_device and clock is None:
            QTimer.singleShot(300, self.look)

    # outputs

    def look(self) -> None:
        """Look for sound devices, anew if need be."""
        if self._device is None:
            self._device = DeviceOutput(buffer_s=self.buffer_ms / 1000)
            self._device.found.connect(self._found)
            self._device.missing.connect(self._missing)
            self._device.died.connect(self._died)
            self._device.measured.connect(self.measured)
        self._device.look()

    def choose_output(self, key: str) -> None:
        """Play on a device, by its key; the empty key is the silent clock."""
        if not key:
            self._switch(False, f"{SILENT}: chosen")
        elif self._device is not None:
            self._device.choose(key)

    def _found(self, names: dict[str, str], key: str) -> None:
        self.devices = names
        if not self._use_device or key != self.device_key:
            self.device_key = key
            self._switch(True, names[key])

    def _missing(self, why: str) -> None:
        self.devices = {}
        self._switch(False, f"{SILENT}: {why}")

    def _died(self, why: str) -> None:
        log.warning("Sound output: %s.", why)
        self._switch(False, f"{SILENT}: {why}")
        self.said.emit(
            "problem", f"No sound: {why}. The silent clock goes on; choose an output at the right of the transport."
        )

    def _switch(self, use_device: bool, name: str) -> None:
        """Go on playing on another output."""
        resume = self.playing
        if resume:
            self.pause()
        self._use_device = use_device
        self.output_name = name
        self.output_changed.emit(name)
        if resume:
            self.play()

    @property
    def _output(self) -> DeviceOutput | SilentClock:
        return self._device if self._use_device and self._device is not None else self._clock

    def _place(self) -> float:
        """What is heard now, s: what the output says, less the delay that was measured for this device."""
        place, p = self._output.place(), self.program
        late = self.delays.get(self.device_key, 0.0) if self._use_device else 0.0
        if not late or p is None or place >= self.duration:
            return place
        # at half speed a second of the recording lasts two; round a loop the end comes before the beginning
        heard = place - late * (0.5 if p.half else 1.0)
        if p.loop is not None and p.loop[0] <= place < p.loop[1] and heard < p.loop[0]:
            round_it = time.monotonic() - self._began > p.loop[1] - p.loop[0]
            heard = heard + p.loop[1] - p.loop[0] if round_it else p.loop[0]
        return max(0.0, heard)

    def measure_delay(self) -> bool:
        """Find out how late the device in use speaks; `measured` tells. False where there is none."""
        if not self._use_device or self._device is None:
            return False
        self.pause()
        self._device.measure()
        return True

    def set_delay(self, seconds: float) -> None:
        """The device in use sounds so much later than it says, s."""
        self.delays[self.device_key] = seconds

    def set_buffer(self, ms: float) -> None:
        """Keep so much sound ahead for the device from now on."""
        self.buffer_ms = ms
        if self._device is not None:
            self.pause()
            self._device.buffer_s = ms / 1000
            self._device.look()

    def set_calm(self, calm: bool) -> None:
        """Let the playhead move in steps, or run along."""
        self._timer.setInterval(STEP_MS if calm else FRAME_MS)

    def close(self) -> None:
        """Fall silent for good."""
        self.pause()
        if self._device is not None:
            self._device.close()

    # program

    def load(self, program: Program | None) -> None:
        """Play something else, from its beginning."""
        self.pause()
        self.program = program
        self.seek(0.0)
        self.program_changed.emit()

    def change(self, **changes: object) -> None:
        """Change what sounds (beat, balance, grid, speed), also while playing."""
        self._change(Jump(), **changes)

    def _change(self, jump: Jump, **changes: object) -> None:
        if self.program is None:
            return
        self.program = attrs.evolve(self.program, **changes)  # type: ignore[arg-type]
        if self.playing:
            self._output.change(self.program, jump)
        if changes:
            self.program_changed.emit()

    @property
    def position(self) -> float:
        """Where the playhead is, s."""
        return self._position

    def now(self) -> float:
        """What is heard at this very moment, s; `position` is what was drawn last."""
        return self._place() if self.playing else self._position

    @property
    def duration(self) -> float:
        """Length of what is loaded, s."""
        return self.program.duration if self.program else 0.0

    # moving

    def play(self) -> None:
        """Run from the playhead; from the beginning when it stands at the end."""
        if self.program is None or self.playing:
            return
        if self._position >= self.duration - 0.01:
            self._position = 0.0
        self.playing = True
        self._began = time.monotonic()
        self._output.start(self.program, self._position)
        self._timer.start()
        self.playing_changed.emit(True)

    def pause(self) -> None:
        """Stand still where the playhead is."""
        if not self.playing:
            return
        self.tick()
        if not self.playing:
            return
        self.playing = False
        self._timer.stop()
        self._output.stop()
        self.playing_changed.emit(False)

    def toggle(self) -> None:
        """Play or pause."""
        (self.pause if self.playing else self.play)()

    def seek(self, time_s: float) -> None:
        """Move the playhead, and play on from there when playing; a loop that doesn't reach there ends."""
        self._position, self._began = min(max(time_s, 0.0), self.duration), time.monotonic()
        loop = self.program.loop if self.program is not None else None
        ends = loop is not None and not loop[0] - 1e-6 <= self._position < loop[1]
        changes: dict[str, object] = {"loop": None} if ends else {}
        if self.program is not None and self.program.skip is not None:
            changes["skip"] = None
        self._change(Jump(to=self._position), **changes)
        self.moved.emit(self._position)

    def jump(self, beats: float) -> None:
        """Go `beats` on (back if negative) to the same place of the beat, without a gap; a loop comes along."""
        p = self.program
        if p is None or p.grid is None:
            return
        grid = p.grid
        goal = float(grid.time_at(grid.beat_at(self.now()) + beats))
        if not 0.0 <= goal < self.duration:
            return
        loop = p.loop
        if loop is not None:
            a, b = (float(t) for t in grid.time_at(grid.beat_at(loop) + beats))
            loop = (a, b) if a >= 0 and b <= self.duration else None
        if self.playing:
            self._change(Jump(by=beats), loop=loop, skip=None)
        else:
            self._position = goal
            self._change(Jump(), loop=loop)
        self.moved.emit(goal)

    def go(self, time_s: float) -> None:
        """Go to an instant; while it plays, on the beat: to the same place of the beat nearest to it."""
        grid = self.program.grid if self.program is not None else None
        if self.playing and grid is not None:
            self.jump(round(float(grid.beat_at(time_s)) - float(grid.beat_at(self.now()))))
        else:
            self.seek(time_s)

    def try_skip(self, lead: float, leave: float, enter: float) -> None:
        """Play from `lead` s on, and at `leave` go on at `enter`, without a gap."""
        if self.program is None or not lead <= leave < enter < self.duration:
            return
        self._position = lead
        self._change(Jump(to=lead), loop=None, skip=(leave, enter))
        self.moved.emit(lead)
        self.play()

    def set_loop(self, loop: tuple[float, float] | None) -> None:
        """Go round from start to stop, s; from the start at once when the playhead is elsewhere. None plays on."""
        if loop is not None and not loop[0] - 1e-6 <= self.now() < loop[1]:
            self._position = max(0.0, loop[0])
            self._change(Jump(to=self._position), loop=loop, skip=None)
            self.moved.emit(self._position)
        else:
            self._change(Jump(), loop=loop, skip=None)

    def tick(self) -> None:
        """Read the output's clock."""
        if not self.playing:
            return
        self._position = self._place()
        if self._position >= self.duration:
            self._position = self.duration
            self.playing = False
            self._timer.stop()
            self._output.stop()
            self.playing_changed.emit(False)
        self.moved.emit(self._position)
