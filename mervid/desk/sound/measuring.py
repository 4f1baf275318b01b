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
SETTLED_S, LONGEST_S = 1.0, 6.0
UNEVEN, STUMBLED_S = 0.01, 0.06
"""A clock that runs so wrongly, or that jumps so far, is none to measure by."""


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
        self._arrived: list[tuple[float, int]] = []
        self._heard: list[tuple[float, float]] = []
        self._clock = Clock()
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
            self._arrived.append((now, sum(map(len, self._blocks)) // 4))
        heard = self._clock.heard(now, self._sink.processedUSecs() / 1e6)
        if heard > 0:
            self._heard.append((now, heard))
        ends = bool(self._heard) and self._heard[-1][1] > self._length - 0.3
        self._ending = self._ending or (now if ends else 0.0)
        late = now - self._began > self._length + LONGEST_S
        if late or (self._ending and now - self._ending > loopback.LATEST_S + 0.5):
            self._timer.stop()
            self._source.stop()
            self._sink.stop()
            self._done(self._judge())

    def _judge(self) -> object:
        """Where clicks should lie in the recording by the device's own clock, and where they do."""
        if len(self._heard) < 10 or not self._arrived:
            return "Nothing was recorded."
        recorded = np.frombuffer(b"".join(self._blocks), np.float32)
        # no sample arrives before it was recorded: the earliest block tells when recording began
        zero = min(now - count / RATE for now, count in self._arrived)
        # devices halt once or twice while they begin
        even = [h for h in self._heard if SETTLED_S < h[1] < self._length - 0.2]
        if len(even) < 100:
            return "The device did not play to the end: measure again."
        now, place = np.array(even).T
        # the clock runs evenly: one line through all that the device said
        slope, offset = np.polyfit(place, now, 1)
        off = now - (slope * place + offset)
        lost = self._arrived[-1][0] - zero - len(recorded) / RATE
        if abs(slope - 1) > UNEVEN or np.abs(off).max() > STUMBLED_S or lost > STUMBLED_S:
            return "The sound stumbled meanwhile: measure again when the computer has less to do."
        try:
            return loopback.delay(recorded, RATE, slope * loopback.times() + offset - zero)
        except Refused as e:
            return str(e)
