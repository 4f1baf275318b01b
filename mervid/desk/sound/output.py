"""Where the sound goes: a device, played by a process of its own, or a silent clock that only keeps time.

Both are told what to play and asked where the sound is. A device that goes away, stops answering or dies says so
once; nothing here waits for it.
"""

from __future__ import annotations

import logging
import multiprocessing
import os
import tempfile
import threading
import time
from collections import deque
from collections.abc import Callable
from pathlib import Path
from typing import Any

import attrs
import numpy as np
from PyQt6.QtCore import QObject, QSocketNotifier, QTimer, pyqtSignal

from ...core.playing.mixing import Jump, Program, Reel
from ...core.rendering.duet import Duet
from ...core.sound.decoding import Kept
from . import sound_process
from .sound_process import OnDisk

log = logging.getLogger(__name__)
SILENT = "silent clock"
DEAD_AFTER_S = 2.0


class SilentClock:
    """A position that runs by the clock and makes no sound. `now` may be a test's own time."""

    name = SILENT

    def __init__(self, now: Callable[[], float] = time.perf_counter) -> None:
        self._now = now
        self._since = 0.0
        self._reel: Reel | None = None

    def start(self, program: Program, at: float) -> None:
        """Run from `at` s on."""
        self._since, self._reel = self._now(), Reel(program, at)

    def _catch_up(self) -> float:
        """Frames that have gone by."""
        assert self._reel is not None
        frames = (self._now() - self._since) * self._reel.program.rate
        self._reel.skip(max(0, int(frames) - self._reel.handed_out))
        return frames

    def change(self, program: Program, jump: Jump = Jump()) -> None:
        """Go on with another program, or elsewhere, from now on."""
        if self._reel is not None:
            self._catch_up()
            self._reel.change(program, jump)
            self._reel.skip(0)

    def stop(self) -> None:
        """Stand still."""
        self._reel = None

    def place(self) -> float:
        """The place that would be heard now, s."""
        return self._reel.place(self._catch_up()) if self._reel is not None else 0.0


class Teller:
    """Tells another process through a pipe, from a thread of its own: whoever tells never waits.

    While a change waits to be told, a newer one takes its place: what is dragged makes more of them than can be heard.
    """

    def __init__(self, pipe: Any) -> None:
        self._pipe = pipe
        self._words: deque[tuple[Any, ...]] = deque()
        self._there = threading.Condition()
        self._open = True
        threading.Thread(target=self._run, name="sound-teller", daemon=True).start()

    def tell(self, *words: Any) -> None:
        """Say it soon, in order."""
        with self._there:
            if words[0] == "change" and self._words and self._words[-1][0] == "change":
                _, _, before = self._words.pop()
                words = (*words[:2], before.then(words[2]))
            self._words.append(words)
            self._there.notify()

    def close(self) -> None:
        """Say nothing more."""
        with self._there:
            self._open = False
            self._words.clear()
            self._there.notify()

    def _run(self) -> None:
        while True:
            with self._there:
                while self._open and not self._words:
                    self._there.wait()
                if not self._open:
                    return
                words = self._words.popleft()
            try:
                self._pipe.send(words)
            except (OSError, ValueError):
                # the reading side sees that the process is gone, and says so
                return


@attrs.frozen(eq=False)
class _Named:
    """Samples, where they lie on the disk, and the file that was made for them, which lives as long as this."""

    samples: Kept
    where: OnDisk
    file: Any = None

    @classmethod
    def of(cls, samples: Kept) -> _Named:
        """Name them once: the name of a file that fills up may later be another's."""
        path, file = getattr(samples, "filename", None), None
        if path is None:
            file = tempfile.NamedTemporaryFile(suffix=".f32")  # noqa: SIM115
            np.ascontiguousarray(samples).tofile(file.name)
            path = file.name
        frames, channels = samples.shape
        return cls(samples, OnDisk(str(Path(path)), os.stat(path).st_ino, samples.dtype.str, frames, channels), file)


class DeviceOutput(QObject):
    """The window's side of the sound process."""

    found = pyqtSignal(dict, str)
    missing = pyqtSignal(str)
    died = pyqtSignal(str)
    measured = pyqtSignal(object)

    def __init__(self, *, buffer_s: float = sound_process.BUFFERS_S[0]) -> None:
        super().__init__()
        self.buffer_s = buffer_s
        self.stumbles = 0
        self._process: Any = None
        self._pipe: Any = None
        self._teller: Teller | None = None
        self._listener: QSocketNotifier | None = None
        self._program: Program | None = None
        self._number = 0
        self._at = (0.0, 0.0)
        self._moved = 0.0
        self._names: list[_Named] = []
        self._watch = QTimer(self)
        self._watch.setInterval(100)
        self._watch.timeout.connect(self._look_alive)

    @property
    def pid(self) -> int | None:
        """The sound process, while it runs."""
        return self._process.pid if self._process is not None else None

    def look(self) -> None:
        """Start the sound process, which tells what devices there are."""
        self.close()
        context = multiprocessing.get_context("spawn")
        self._pipe, theirs = context.Pipe()
        self._process = context.Process(target=sound_process.run, args=(theirs, self.buffer_s), daemon=True)
        self._process.start()
        theirs.close()
        self._teller = Teller(self._pipe)
        self._listener = QSocketNotifier(self._pipe.fileno(), QSocketNotifier.Type.Read, self)
        self._listener.activated.connect(self._hear)

    def _hear(self) -> None:
        try:
            while self._pipe is not None and self._pipe.poll():
                self._take(*self._pipe.recv())
        except (EOFError, OSError):
            self._lost("the sound process ended")

    def _take(self, what: str, *rest: Any) -> None:
        if what == "at":
            number, place, at = rest
            if number == self._number and place != self._at[0]:
                self._at, self._moved = (place, at), time.monotonic()
        elif what == "devices":
            names, key = rest
            if key:
                self.found.emit(names, key)
            else:
                self.missing.emit("no sound device")
        elif what == "ended":
            if rest[0] == self._number and self._program is not None:
                self._at = (self._program.duration, time.monotonic())
        elif what == "stumbled":
            self.stumbles = rest[0]
            log.warning("The sound stumbled (%d times since it began).", self.stumbles)
        elif what == "measured":
            self.measured.emit(rest[0])
        elif what == "lost":
            self._program = None
            self._watch.stop()
            self.died.emit(rest[0])

    def _lost(self, why: str) -> None:
        playing = self._program is not None
        self.close()
        if playing:
            self.died.emit(why)
        else:
            self.missing.emit(why)

    def _look_alive(self) -> None:
        """A device that claims to play but does not move is dead, and so is its process."""
        if self._program is not None and time.monotonic() - self._moved > DEAD_AFTER_S:
            place, duration = self._at[0], self._program.duration
            if place < duration - 0.01:
                self._lost("the sound device stopped answering")

    def _tell(self, *words: object) -> None:
        if self._teller is not None:
            self._teller.tell(*words)

    def _share(self, program: Program) -> Program:
        """The program with each recording named by its file: the process maps it there."""
        samples = program.samples
        if isinstance(samples, Duet):
            parts = (attrs.evolve(p, samples=self._named(p.samples)) for p in (samples.leaving, samples.coming))
            leaving, coming = parts
            return attrs.evolve(program, samples=attrs.evolve(samples, leaving=leaving, coming=coming))
        return attrs.evolve(program, samples=self._named(samples))

    def _named(self, samples: Kept) -> Any:
        """Where the process finds these samples; those that are in no file are put in one."""
        known = next((n for n in self._names if n.samples is samples), None)
        if known is None:
            known = _Named.of(samples)
            self._names = [*self._names[-3:], known]
        return known.where

    def start(self, program: Program, at: float) -> None:
        """Play from `at` s on."""
        self._number += 1
        self._program = program
        self._at = (at, float("inf"))
        self._moved = time.monotonic() + 2.0
        self._tell("start", self._number, self._share(program), at)
        self._watch.start()

    def change(self, program: Program, jump: Jump = Jump()) -> None:
        """Play on with another program, or elsewhere."""
        self._program = program
        self._tell("change", self._share(program), jump)

    def choose(self, key: str) -> None:
        """Use another device from now on."""
        if self._process is None:
            self.look()
        self._tell("device", key)

    def measure(self) -> None:
        """Play clicks and listen for them; `measured` comes with (delay, scatter) in s, or with why not."""
        self._tell("measure")

    def stop(self) -> None:
        """Fall silent."""
        self._program = None
        self._watch.stop()
        self._tell("stop")

    def place(self) -> float:
        """The place that is heard now, s: what the device said last, carried on by the clock."""
        place, at = self._at
        p = self._program
        if p is None or not np.isfinite(at):
            return place
        since = min(0.1, max(0.0, time.monotonic() - at))
        now = place + since * p.rate / p.pace
        behind = p.skipped(p.frame_at(place))
        return min(p.duration, now if behind else p.folded(now * p.pace) / p.pace)

    def close(self) -> None:
        """End the sound process without waiting for it."""
        self._watch.stop()
        self._program = None
        process, self._process = self._process, None
        if self._listener is not None:
            self._listener.setEnabled(False)
            self._listener.deleteLater()
            self._listener = None
        if self._teller is not None:
            self._teller.close()
            self._teller = None
        pipe, self._pipe = self._pipe, None
        if process is not None:
            process.terminate()
            process.join(0.3)
            if process.is_alive():
                process.kill()
        if pipe is not None:
            # only now: the teller may still have been writing
            pipe.close()
        self._names = []
