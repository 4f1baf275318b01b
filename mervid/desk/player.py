"""Playing: a position that runs, a program of sound, and an output that may die at any time.

The sound device lives in a thread of its own. Where there is none, or it stops answering, a silent clock keeps the
transport going, and says that it does.
"""

from __future__ import annotations

import logging
import time
from collections.abc import Callable

import attrs
import numpy as np
from PyQt6.QtCore import QIODevice, QMetaObject, QObject, Qt, QThread, QTimer, pyqtSignal, pyqtSlot

from ..core.playback import Program, render

log = logging.getLogger(__name__)
SILENT = "silent clock"
BUFFER_S = 0.2
DEAD_AFTER_S = 0.5


class SilentClock:
    """A position that runs by the clock and makes no sound. `now` may be a test's own time."""

    name = SILENT

    def __init__(self, now: Callable[[], float] = time.perf_counter) -> None:
        self._now = now
        self._since = 0.0
        self._running = False

    def start(self, program: Program) -> None:
        """Run from now on."""
        self._since, self._running = self._now(), True

    def change(self, program: Program) -> None:
        """Nothing is heard, so nothing changes."""

    def stop(self) -> None:
        """Stand still."""
        self._running = False

    def elapsed(self) -> float:
        """Seconds played since `start`."""
        return self._now() - self._since if self._running else 0.0


class _Feed(QIODevice):
    """What the sound device pulls from, in its own thread: a program and the frame it has reached."""

    def __init__(self, program: Program, frame: int) -> None:
        super().__init__()
        self.program = program
        self._frame = frame

    def isSequential(self) -> bool:
        return True

    def bytesAvailable(self) -> int:
        return 1 << 20

    def readData(self, most: int) -> bytes:
        count = min(most // 8, 8192)
        if count <= 0:
            return b""
        block = render(self.program, self._frame, count)
        self._frame += count
        return block.tobytes()

    def writeData(self, data: object) -> int:
        return -1


class _Device(QObject):
    """The sound device, living in the audio thread. Talks to the window by signals and two plain numbers."""

    found = pyqtSignal(str)
    missing = pyqtSignal(str)
    died = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self.request: tuple[Program, int] | None = None
        self.played = 0.0
        self.played_at = 0.0
        self._sink = None
        self._feed: _Feed | None = None
        self._timer: QTimer | None = None
        self._moved = 0.0

    @pyqtSlot()
    def look(self) -> None:
        """Find the default output; say its name or why there is none."""
        try:
            from PyQt6.QtMultimedia import QMediaDevices

            device = QMediaDevices.defaultAudioOutput()
        except ImportError:
            self.missing.emit("no sound library")
            return
        if device.isNull():
            self.missing.emit("no sound device")
        else:
            self.found.emit(device.description())

    @pyqtSlot()
    def begin(self) -> None:
        """Play the requested program."""
        from PyQt6.QtMultimedia import QAudioFormat, QAudioSink, QMediaDevices

        self.end()
        if self.request is None:
            return
        program, frame = self.request
        device = QMediaDevices.defaultAudioOutput()
        form = QAudioFormat()
        form.setSampleRate(program.rate)
        form.setChannelCount(2)
        form.setSampleFormat(QAudioFormat.SampleFormat.Float)
        if device.isNull() or not device.isFormatSupported(form):
            self.died.emit("the sound device went away" if device.isNull() else "the sound device can't play this")
            return
        self._feed = _Feed(program, frame)
        self._feed.open(QIODevice.OpenModeFlag.ReadOnly)
        self._sink = QAudioSink(device, form)
        self._sink.setBufferSize(int(BUFFER_S * program.rate) * 8)
        self.played, self.played_at = 0.0, time.perf_counter()
        self._moved = time.perf_counter()
        self._sink.start(self._feed)
        if self._timer is None:
            self._timer = QTimer(self)
            self._timer.setInterval(20)
            self._timer.timeout.connect(self._watch)
        self._timer.start()

    @pyqtSlot()
    def end(self) -> None:
        """Fall silent."""
        if self._timer is not None:
            self._timer.stop()
        if self._sink is not None:
            self._sink.stop()
            self._sink.deleteLater()
        self._sink = self._feed = None

    def change(self, program: Program) -> None:
        """Swap the program under a running feed; one reference, so no lock."""
        if self._feed is not None:
            self._feed.program = program

    def _watch(self) -> None:
        """Read how far the device is. A device that claims to play but does not move is dead."""
        if self._sink is None:
            return
        played, now = self._sink.processedUSecs() / 1e6, time.perf_counter()
        if played > self.played:
            self._moved = now
            self.played, self.played_at = played, now
        elif now - self._moved > DEAD_AFTER_S:
            self.end()
            self.died.emit("the sound device stopped answering")


class DeviceOutput(QObject):
    """The window's side of the sound device."""

    found = pyqtSignal(str)
    missing = pyqtSignal(str)
    died = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self.name = "sound device"
        self._thread = QThread()
        self._thread.setObjectName("audio")
        self._device = _Device()
        self._device.moveToThread(self._thread)
        self._device.found.connect(self._named)
        self._device.missing.connect(self.missing)
        self._device.died.connect(self.died)
        self._thread.start()
        self._call("look")

    def _named(self, name: str) -> None:
        self.name = name
        self.found.emit(name)

    def _call(self, slot: str) -> None:
        QMetaObject.invokeMethod(self._device, slot, Qt.ConnectionType.QueuedConnection)

    def start(self, program: Program, frame: int = 0) -> None:
        """Play from `frame`."""
        self._device.played, self._device.played_at = 0.0, time.perf_counter()
        self._device.request = (program, frame)
        self._call("begin")

    def change(self, program: Program) -> None:
        """Play on with another program (click, level, grid)."""
        self._device.change(program)

    def stop(self) -> None:
        """Fall silent."""
        self._call("end")

    def elapsed(self) -> float:
        """Seconds the device says it played, carried on by the clock between its reports."""
        if self._device.played <= 0.0:
            return 0.0
        return self._device.played + min(0.1, time.perf_counter() - self._device.played_at)

    def close(self) -> None:
        """Stop the thread."""
        self._call("end")
        self._thread.quit()
        self._thread.wait(1000)


class Player(QObject):
    """The transport: a position in s, playing or not, on whatever output there is."""

    moved = pyqtSignal(float)
    playing_changed = pyqtSignal(bool)
    output_changed = pyqtSignal(str)

    def __init__(self, *, clock: SilentClock | None = None, look_for_device: bool = True) -> None:
        super().__init__()
        self._clock = clock or SilentClock()
        self._device: DeviceOutput | None = None
        self._use_device = False
        self.program: Program | None = None
        self.playing = False
        self._position = 0.0
        self._from = 0.0
        self.output_name = f"{SILENT}: no sound device"
        self._timer = QTimer(self)
        self._timer.setInterval(16)
        self._timer.timeout.connect(self.tick)
        if look_for_device and clock is None:
            QTimer.singleShot(300, self._look)

    def _look(self) -> None:
        self._device = DeviceOutput()
        self._device.found.connect(self._found)
        self._device.missing.connect(self._missing)
        self._device.died.connect(self._died)

    def _found(self, name: str) -> None:
        resume = self.playing
        if resume:
            self.pause()
        self._use_device = True
        self._set_output(name)
        if resume:
            self.play()

    def _missing(self, why: str) -> None:
        self._set_output(f"{SILENT}: {why}")

    def _died(self, why: str) -> None:
        log.warning("Sound output: %s.", why)
        was_playing = self.playing
        if was_playing:
            self.pause()
        self._use_device = False
        self._set_output(f"{SILENT}: {why}")
        if was_playing:
            self.play()

    def _set_output(self, name: str) -> None:
        self.output_name = name
        self.output_changed.emit(name)

    def close(self) -> None:
        """Fall silent for good."""
        self.pause()
        if self._device is not None:
            self._device.close()

    def load(self, program: Program | None) -> None:
        """Play something else, from its beginning."""
        self.pause()
        self.program = program
        self.seek(0.0)

    def change(self, **changes: object) -> None:
        """Change click, levels or grid, also while playing."""
        if self.program is None:
            return
        self.program = attrs.evolve(self.program, **changes)  # type: ignore[arg-type]
        if self.playing:
            (self._device if self._use_device and self._device else self._clock).change(self.program)

    @property
    def position(self) -> float:
        """Where the playhead is, s."""
        return self._position

    @property
    def duration(self) -> float:
        """Length of what is loaded, s."""
        return self.program.frames / self.program.rate if self.program else 0.0

    def play(self) -> None:
        """Run from the playhead; from the beginning when it stands at the end."""
        if self.program is None or self.playing:
            return
        if self._position >= self.duration - 0.01:
            self._position = 0.0
        self._from = self._position
        self.playing = True
        if self._use_device and self._device is not None:
            self._device.start(self.program, round(self._from * self.program.rate))
        else:
            self._clock.start(self.program)
        self._timer.start()
        self.playing_changed.emit(True)

    def pause(self) -> None:
        """Stand still where the playhead is."""
        if not self.playing:
            return
        self.tick()
        self.playing = False
        self._timer.stop()
        if self._device is not None:
            self._device.stop()
        self._clock.stop()
        self.playing_changed.emit(False)

    def toggle(self) -> None:
        """Play or pause."""
        (self.pause if self.playing else self.play)()

    def seek(self, time_s: float) -> None:
        """Move the playhead, and play on from there when playing."""
        self._position = float(np.clip(time_s, 0.0, max(0.0, self.duration)))
        if self.playing and self.program is not None:
            self._from = self._position
            if self._use_device and self._device is not None:
                self._device.start(self.program, round(self._from * self.program.rate))
            else:
                self._clock.start(self.program)
        self.moved.emit(self._position)

    def tick(self) -> None:
        """Read the output's clock."""
        if not self.playing:
            return
        output = self._device if self._use_device and self._device is not None else self._clock
        self._position = self._from + output.elapsed()
        if self._position >= self.duration:
            self._position = self.duration
            self.playing = False
            self._timer.stop()
            output.stop()
            self.playing_changed.emit(False)
        self.moved.emit(self._position)
