"""The clock of a sound device, and how late it speaks: clicks are played and recorded again at the same time."""

from __future__ import annotations

import time
from collections import deque
from collections.abc import Callable
from typing import Any

import numpy as np
from PyQt6.QtCore import QBuffer, QByteArray, QIODevice, QObject, QTimer

from ...core.errors import Refused
from ...core.playing import loopback

RATE = 48_000
LOOK_MS = 10
BUFFER_S = 0.1
LONGEST_S = 6.0


class Clock:
    """Smooths what a device says of how far it is: it counts in chunks, sound runs on."""

    def __init__(self) -> None:
        self._ahead: deque[float] = deque(maxlen=60)

    def heard(self, now: float, processed: float) -> float:
        """Seconds heard at `now`, s, when the device says `processed`."""
        if processed <= 0:
            return 0.0
        if self._ahead and abs(processed - now - self._ahead[-1]) > 0.2:
            self._ahead.clear()
        self._ahead.append(processed - now)
        return max(0.0, now + float(np.median(self._ahead)))


class Measuring(QObject):
    """Plays the clicks on a device and listens on the usual input; `done` gets (delay, scatter) in s, or why not."""

    def __init__(self, device: Any, done: Callable[[object], None]) -> None:
        super().__init__()
        from PyQt6.QtMultimedia import QAudioFormat, QAudioSink, QAudioSource, QMediaDevices

        self._done = done
        self._blocks: list[bytes] = []
        self._arrived: list[tuple[float, float]] = []
        self._said: list[tuple[float, float]] = []
        self._ending = 0.0
        self._timer = QTimer(self)
        self._timer.setInterval(LOOK_MS)
        self._timer.timeout.connect(self._look)
        form, mono = QAudioFormat(), QAudioFormat()
        for f, channels in ((form, 2), (mono, 1)):
            f.setSampleRate(RATE)
            f.setChannelCount(channels)
            f.setSampleFormat(QAudioFormat.SampleFormat.Float)
        source = QMediaDevices.defaultAudioInput()
        if device is None or source.isNull():
            QTimer.singleShot(0, lambda: done("There is no input to listen on." if device else "There is no device."))
            return
        played = loopback.clicks(RATE)
        self._length = len(played) / RATE
        self._bytes = QByteArray(played.tobytes())
        self._buffer = QBuffer(self._bytes, self)
        self._buffer.open(QIODevice.OpenModeFlag.ReadOnly)
        self._source = QAudioSource(source, mono, self)
        self._sink = QAudioSink(device, form, self)
        self._sink.setBufferSize(int(BUFFER_S * RATE) * 8)
        self._input = self._source.start()
        if self._input is None:
            QTimer.singleShot(0, lambda: done("The input can't be listened on."))
            return
        self._sink.start(self._buffer)
        self._began = time.monotonic()
        self._timer.start()

    def _look(self) -> None:
        now = time.monotonic()
        block = self._input.readAll().data() if self._input is not None else b""
        if block:
            self._blocks.append(block)
            self._arrived.append((now, sum(map(len, self._blocks)) / 4 / RATE))
        self._said.append((now, self._sink.processedUSecs() / 1e6))
        ends = self._said[-1][1] > self._length - 0.3
        self._ending = self._ending or (now if ends else 0.0)
        late = now - self._began > self._length + LONGEST_S
        if late or (self._ending and now - self._ending > loopback.LATEST_S + 0.5):
            self._timer.stop()
            self._source.stop()
            self._sink.stop()
            self._done(self._judge())

    def _judge(self) -> object:
        recorded = np.frombuffer(b"".join(self._blocks), np.float32)
        said, arrived = (np.array(rows, float).reshape(-1, 2) for rows in (self._said, self._arrived))
        try:
            return loopback.measured(recorded, RATE, said=said, arrived=arrived)
        except Refused as e:
            return str(e)
