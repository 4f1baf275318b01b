"""Tapping along with the open track: the row of taps, what it says by now, and how late this hand and device are.

No widgets here. A tap is placed where the sound is at that moment, less the delay that calibration found.
"""

from __future__ import annotations

import time

import attrs
import numpy as np
from PyQt6.QtCore import QObject, pyqtSignal

from ...core.edits import listening_edits
from ...core.errors import Refused
from ...core.guided import tap_reading
from ...core.guided.tap_reading import Reading
from ...core.model import preparation
from ...core.model.beatgrid import Grid, Pin, steady
from ...core.model.preparation import Preparation
from ...core.playing import reference_beat
from ...core.playing.mixing import Program
from .. import settings
from ..sound.player import Player
from ..theme.tr import tr
from .messages import Messages
from .open_track import OpenTrack

CALIBRATION_BPM, CALIBRATION_S, CALIBRATION_TAPS = 100.0, 60.0, 20
_LISTEN_FIRST = 3


@attrs.frozen
class Tap:
    """A tap at `time` s of the recording; `down` on a downbeat."""

    time: float
    down: bool


class Tapping(QObject):
    """The row of taps; `changed` whenever there is something new to show."""

    changed = pyqtSignal()

    def __init__(self, track: OpenTrack, player: Player, say: Messages) -> None:
        super().__init__()
        self.track, self.player, self.say = track, player, say
        self.taps: list[Tap] = []
        self.reading: Reading | None = None
        self.refusal = ""
        self.struck_at = 0.0
        self._held: tuple[Program, float] | None = None
        self._clicks = steady(tempo=CALIBRATION_BPM, first=1.0, beats=64)
        track.opened.connect(self._opened)

    def _opened(self) -> None:
        self.end_calibration()
        self.clear()

    # taps

    @property
    def delay(self) -> float:
        """How late this hand taps on this device, s; 0 before calibration."""
        return settings.tap_delay() or 0.0

    @property
    def calibrated(self) -> bool:
        """Whether the delay has been measured."""
        return settings.tap_delay() is not None

    def clear(self) -> None:
        """Begin a new row."""
        self.taps, self.reading, self.refusal = [], None, ""
        self.changed.emit()

    def tap(self, *, down: bool = False, ago: float = 0.0) -> None:
        """A tap, struck `ago` s before now. While nothing plays, the first tap starts the music."""
        if self.player.program is None:
            return
        self.struck_at = time.monotonic()
        if not self.player.playing:
            self.player.play()
            self.changed.emit()
            return
        pace = 0.5 if self.player.program.half else 1.0
        lag = ago + (0.0 if self.calibrating else self.delay)
        at = self.player.now() - pace * lag
        if self.taps and not 0 <= at - self.taps[-1].time <= tap_reading.LOST_S:
            # elsewhere, or after a long rest: another row
            self.taps = []
        self.taps.append(Tap(at, down))
        self._read()
        self.changed.emit()

    def _read(self) -> None:
        self.reading, self.refusal = None, ""
        times = np.array([t.time for t in self.taps])
        if len(times) < tap_reading.LEAST:
            return
        try:
            self.reading = tap_reading.read(times, np.array([t.down for t in self.taps]), bar=self._bar())
        except Refused as e:
            self.refusal = str(e)
        if self.calibrating and len(self.taps) >= CALIBRATION_TAPS + _LISTEN_FIRST:
            self._calibrated(times)

    def _bar(self) -> int:
        grid = self.track.preparation.grid
        return grid.beats_per_bar(float(grid.beat_at(self.taps[0].time))) if grid is not None and self.taps else 4

    def words(self) -> str:
        """What the row says by now, and what is asked for."""
        t, r = self, self.reading
        if t.calibrating:
            left = max(0, 23 - len(t.taps))
            return tr("Tap once with every click: {0} more measure how late you and this device are.").format(left)
        if t.refusal:
            return t.refusal
        known = (
            tr("Your {0:.0f} ms are taken off.").format(t.delay * 1000) if t.calibrated else tr("Not calibrated yet.")
        )
        if r is None:
            return tr("{0} The first strike starts the music; most of a minute is enough.").format(known)
        lost = int((~r.used).sum())
        words = tr("{0} taps, each ± {1:.0f} ms, so beats ± {2:.0f} ms").format(
            len(r.times), r.scatter * 1000, r.phase_sd * 1000
        )
        words += tr("; {0} left out").format(lost) if lost else ""
        words += tr("; the tempo wanders") if r.wanders else ""
        return f"{words}. {known}"

    def use(self) -> bool:
        """Hear the track along the taps; without an ear, lay one steady tempo through them."""
        if self.reading is None or self.calibrating:
            self.say.refused(
                self.refusal or tr("Tap at least {0} beats first (0, then Space).").format(tap_reading.LEAST)
            )
            return False
        evidence, found = self.track.evidence, self.reading
        if evidence is not None and evidence.strengths is not None:
            return self.track.apply(listening_edits.tap_along, evidence, found.beats, found.downs)
        return self.track.apply(_laid, found)

    # calibration

    @property
    def calibrating(self) -> bool:
        """Whether clicks sound to measure the hand's delay."""
        return self._held is not None

    def calibrate(self) -> None:
        """Sound a click to tap along with; the track comes back afterwards."""
        held = self.player.program
        if self.calibrating or held is None:
            return
        self._held = (held, self.player.position)
        silence = np.zeros((int(CALIBRATION_S * held.rate), 2), np.float32)
        self.player.load(Program(silence, held.rate, self._clicks, reference_beat.CLICK))
        self.clear()
        self.player.play()

    def _calibrated(self, times: np.ndarray) -> None:
        beats = self._clicks.time_at(np.arange(-2, 120))
        try:
            delay, scatter = tap_reading.delay(times[_LISTEN_FIRST:], np.asarray(beats))
        except Refused as e:
            self.end_calibration()
            self.say.refused(str(e))
            return
        settings.set_tap_delay(delay)
        self.end_calibration()
        self.say.done(
            tr("You tap {0:.0f} ms late here, within {1:.0f} ms: taken off from now on.").format(
                delay * 1000, scatter * 1000
            )
        )

    def end_calibration(self) -> None:
        """Bring the track back."""
        if self._held is None:
            return
        (held, at), self._held = self._held, None
        self.player.load(held)
        self.player.seek(at)
        self.clear()


@preparation.edit("Tap along")
def _laid(p: Preparation, found: Reading) -> Preparation:
    """One steady tempo as tapped; a bar begins on the first beat tapped as one."""
    first = float(found.downs[0]) if len(found.downs) else float(found.beats[0])
    last = float(found.beats[-1])
    beats = max(1.0, round((last - first) * found.tempo / 60))
    grid = Grid((Pin(first, 0.0, hand=True), Pin(first + beats * 60 / found.tempo, beats)))
    return preparation.carried(p, grid)
