"""The sound device, in a process of its own: painting and analysis can't make it stumble, and it can't make them hang.

It is told what to play through a pipe and tells back how far the sound is. A sound server that stops answering stops
this process at most; the window then ends it and goes on with the silent clock.

Told: ("start", number, program, s), ("change", program, jump), ("stop",),
("device", key), ("quit",). Tells: ("devices", {key: name}, key in use), ("at", number, s, monotonic s), ("ended",
number), ("lost", why), ("stumbled", how often).
"""

from __future__ import annotations

import os
import select
import signal
import time
from multiprocessing.connection import Connection
from typing import Any

import attrs
import numpy as np
from PyQt6.QtCore import QCoreApplication, QIODevice, QObject, QSocketNotifier, QTimer

from ...core.playing.mixing import Program, Reel
from ...core.rendering.duet import Duet
from ...core.sound.decoding import Kept
from .measuring import Clock, Measuring

TELL_MS = 12
MOST_AT_ONCE = 4096
STARTING = 8
BUFFERS_S = (0.06, 0.12, 0.25)
"""Sound that waits in the device: what is changed is heard after so long. After two stumbles the next is taken."""


@attrs.frozen
class OnDisk:
    """Samples of (frames, channels) in a file; `node` tells it from another one that had the same name."""

    path: str
    node: int
    kind: str
    frames: int
    channels: int


class Maps:
    """Samples that were mapped, until others are played."""

    def __init__(self) -> None:
        self._known: dict[OnDisk, Kept] = {}

    def resolved(self, program: Program) -> Program:
        """The program with its samples in the place of their names. Raises OSError where a file has gone."""
        samples: Any = program.samples
        if isinstance(samples, Duet):
            names: Any = (samples.leaving.samples, samples.coming.samples)
            self._know(names)
            leaving = attrs.evolve(samples.leaving, samples=self._known[names[0]])
            coming = attrs.evolve(samples.coming, samples=self._known[names[1]])
            return attrs.evolve(program, samples=attrs.evolve(samples, leaving=leaving, coming=coming))
        self._know((samples,))
        return attrs.evolve(program, samples=self._known[samples])

    def _know(self, names: tuple[OnDisk, ...]) -> None:
        new: dict[OnDisk, Kept] = {}
        for n in names:
            mapped = self._known.get(n)
            new[n] = mapped if mapped is not None else np.memmap(n.path, n.kind, "r", shape=(n.frames, n.channels))
        self._known = new


class Feed(QIODevice):
    """What the sound device pulls from: the reel, and how often it was served too late."""

    def __init__(self, reel: Reel, buffer_s: float) -> None:
        super().__init__()
        self.reel = reel
        self.stumbles = 0
        self._buffer_s = buffer_s
        self._calls = 0
        self._last = 0.0

    def isSequential(self) -> bool:
        return True

    def bytesAvailable(self) -> int:
        return 1 << 20

    def readData(self, most: int) -> bytes:
        count = min(most // 8, MOST_AT_ONCE)
        if count <= 0:
            return b""
        now = time.monotonic()
        # once it runs, a device asks as soon as there is room: nothing asked for so long, and all has sounded
        if self._calls > STARTING and now - self._last > self._buffer_s:
            self.stumbles += 1
        self._calls += 1
        self._last = now
        return self.reel.read(count).tobytes()

    def writeData(self, data: object) -> int:
        return -1


class Sound(QObject):
    """Plays what it is told on the device it is told."""

    def __init__(self, pipe: Connection, buffer_s: float) -> None:
        super().__init__()
        from PyQt6.QtMultimedia import QMediaDevices

        self._pipe = pipe
        self._buffer_s = buffer_s
        self._maps = Maps()
        self._number = 0
        self._sink: Any = None
        self._feed: Feed | None = None
        self._clock = Clock()
        self._stumbles = 0
        self._measuring: Measuring | None = None
        self._media = QMediaDevices()
        self._wanted = ""
        self._media.audioOutputsChanged.connect(self._devices_changed)
        self._listener = QSocketNotifier(pipe.fileno(), QSocketNotifier.Type.Read, self)  # type: ignore[call-overload]
        self._listener.activated.connect(self._hear)
        self._timer = QTimer(self)
        self._timer.setInterval(TELL_MS)
        self._timer.timeout.connect(self._tell_place)
        self._tell_devices()

    # devices

    def _outputs(self) -> dict[str, Any]:
        return {d.id().data().decode("utf-8", "replace"): d for d in self._media.audioOutputs()}

    def _device(self) -> tuple[str, Any]:
        """Key and device that are used: the one wanted, or the default; ("", None) where there is none."""
        found = self._outputs()
        if self._wanted:
            return (self._wanted, found[self._wanted]) if self._wanted in found else ("", None)
        default = self._media.defaultAudioOutput()
        return ("", None) if default.isNull() else (default.id().data().decode("utf-8", "replace"), default)

    def _tell_devices(self) -> None:
        names = {key: device.description() for key, device in self._outputs().items()}
        key = self._device()[0]
        # the device that is found first stays the one in use until somebody chooses another
        self._wanted = self._wanted or key
        self._tell("devices", names, key)

    def _devices_changed(self) -> None:
        gone = bool(self._wanted) and self._wanted not in self._outputs()
        if gone:
            self._end()
            self._tell("lost", "the sound device went away")
            self._wanted = "nothing"
        self._tell_devices()

    # being told

    def _hear(self) -> None:
        try:
            while self._pipe.poll():
                self._take(*self._pipe.recv())
        except (EOFError, ConnectionError):
            self._leave()
        except OSError:
            self._end()
            self._tell("lost", "the sound that was to be played is gone")

    def _take(self, what: str, *rest: Any) -> None:
        if what == "start":
            number, program, at = rest
            self._number = number
            self._begin(self._maps.resolved(program), at)
        elif what == "change" and self._feed is not None:
            program, jump = rest
            self._feed.reel.change(self._maps.resolved(program), jump)
        elif what == "stop":
            self._end()
        elif what == "device":
            self._wanted = rest[0]
            self._tell_devices()
        elif what == "measure":
            self._end()
            self._measuring = Measuring(self._device()[1], self._measured)
        elif what == "quit":
            self._leave()

    def _measured(self, answer: object) -> None:
        self._measuring = None
        self._tell("measured", answer)

    def _leave(self) -> None:
        self._end()
        app = QCoreApplication.instance()
        if app is not None:
            app.quit()

    # playing

    def _begin(self, program: Program, at: float) -> None:
        from PyQt6.QtMultimedia import QAudioFormat, QAudioSink

        self._end()
        _, device = self._device()
        form = QAudioFormat()
        form.setSampleRate(program.rate)
        form.setChannelCount(2)
        form.setSampleFormat(QAudioFormat.SampleFormat.Float)
        if device is None or not device.isFormatSupported(form):
            self._tell("lost", "the sound device went away" if device is None else "the sound device can't play this")
            return
        self._feed, self._clock = Feed(Reel(program, at), self._buffer_s), Clock()
        self._feed.open(QIODevice.OpenModeFlag.ReadOnly)
        self._sink = QAudioSink(device, form)
        self._sink.setBufferSize(int(self._buffer_s * program.rate) * 8)
        self._stumbles = 0
        self._sink.start(self._feed)
        self._timer.start()

    def _end(self) -> None:
        self._timer.stop()
        if self._sink is not None:
            self._sink.stop()
            self._sink.deleteLater()
        self._sink = self._feed = None

    def _tell_place(self) -> None:
        if self._sink is None or self._feed is None:
            return
        from PyQt6.QtMultimedia import QtAudio  # type: ignore[attr-defined]

        if self._sink.error() not in (QtAudio.Error.NoError, QtAudio.Error.UnderrunError):
            self._end()
            self._tell("lost", "the sound device failed")
            return
        reel, now = self._feed.reel, time.monotonic()
        heard = self._clock.heard(now, self._sink.processedUSecs() / 1e6) * reel.program.rate
        place = reel.place(min(heard, reel.handed_out))
        if self._can_tell():
            self._tell("at", self._number, place, now)
        if self._feed.stumbles > self._stumbles:
            self._stumbles = self._feed.stumbles
            self._tell("stumbled", self._stumbles)
            longer = next((b for b in BUFFERS_S if b > self._buffer_s + 1e-6), None)
            if self._stumbles > 1 and longer is not None:
                self._buffer_s = longer
                self._begin(reel.program, place)
        if reel.program.loop is None and place >= reel.program.duration - 1e-6:
            self._end()
            self._tell("ended", self._number)

    def _can_tell(self) -> bool:
        """Whether the window reads what it is told: where it doesn't, the place can wait, the sound can't."""
        return bool(select.select([], [self._pipe.fileno()], [], 0)[1])

    def _tell(self, *words: object) -> None:
        try:
            self._pipe.send(words)
        except OSError:
            self._leave()


def run(pipe: Connection, buffer_s: float) -> None:
    """What the process does: play until the pipe closes."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    os.environ.setdefault("QT_LOGGING_RULES", "qt.multimedia*=false")
    app = QCoreApplication(["mervid-sound"])
    try:
        sound = Sound(pipe, buffer_s)
    except ImportError:
        pipe.send(("lost", "no sound library"))
        return
    app.exec()
    del sound
