"""A stick as its player plays it: only what lies on it, the way the player would have it."""

from __future__ import annotations

import tempfile
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from PyQt6.QtCore import QObject, pyqtSignal

from ...core.cues import player_profile
from ...core.cues.player_profile import Arrival, Gear
from ...core.errors import MervidError
from ...core.model.cue import Cue
from ...core.playing.mixing import Program
from ...formats import delivered
from ...formats.delivered import Loaded, Stick
from ...jobs import sides
from ..sound.player import Player
from .listening import Landmarks, Listening
from .messages import Messages


class StickPlaying(QObject):
    """`changed` when another track is in the player.

    Attributes
    ----------
    loaded : the track as the player has it; None where none is in it
    """

    changed = pyqtSignal()
    _decoded = pyqtSignal(int, object)

    def __init__(self, player: Player, listening: Listening, say: Messages) -> None:
        super().__init__()
        self.player, self.listening, self.say = player, listening, say
        self.loaded: Loaded | None = None
        self.stick: Stick | None = None
        self._folder: tempfile.TemporaryDirectory[str] | None = None
        self._active = False
        self._asked = 0
        self._hand = ThreadPoolExecutor(1, thread_name_prefix="stick")
        self._decoded.connect(self._ready)

    def close(self) -> None:
        """Let go of the sound."""
        self._active = False
        self._hand.shutdown(wait=True, cancel_futures=True)
        self._drop()

    def _drop(self) -> None:
        self.loaded = None
        if self._folder is not None:
            self.player.load(None)
            self._folder.cleanup()
            self._folder = None

    def activate(self, active: bool) -> None:
        """The stick is looked at, or no longer: then the open track is played again."""
        if active == self._active:
            return
        self._active = active
        self.listening.stand_aside(active)
        if not active:
            self._drop()
        self.changed.emit()

    def put_in(self, stick: Stick, path: Path) -> None:
        """Load a track, as a player does: it stands at the first standby cue, or at the beginning."""
        self._drop()
        self.stick = stick
        self._asked += 1
        try:
            self.loaded = delivered.load(stick, path)
            self._folder = tempfile.TemporaryDirectory(prefix="mervid-stick-", ignore_cleanup_errors=True)
        except (MervidError, OSError) as e:
            self.say.problem(str(e))
            self._drop()
        else:
            self._hand.submit(self._decode, self._asked, path, Path(self._folder.name))
        self.changed.emit()

    def _decode(self, number: int, path: Path, folder: Path) -> None:
        """In the thread: two hours of sound take a while."""
        try:
            answer: object = sides.sound(path, folder) if number == self._asked else None
        except (MervidError, OSError) as e:
            answer = e
        self._decoded.emit(number, answer)

    def _ready(self, number: int, answer: object) -> None:
        if number != self._asked or self.loaded is None or not self._active:
            return
        if not isinstance(answer, tuple):
            self.say.problem(str(answer))
            self._drop()
            self.changed.emit()
            return
        samples, facts = answer
        self.player.load(Program(samples, facts.rate, self.loaded.grid))
        if self.loaded.grid is not None:
            p = self.loaded.preparation
            starts = [q.start for q in p.form.phrases] if p.form is not None else []
            self.listening.count_by(Landmarks(self.loaded.grid, None, starts, []))
        self.stand()
        self.changed.emit()

    # its few keys

    @property
    def gear(self) -> Gear:
        """What kind of player it is."""
        assert self.stick is not None
        return self.stick.profile.gear

    @property
    def arrival(self) -> Arrival | None:
        """What it has of the track."""
        return player_profile.arrive(self.loaded.preparation, self.gear) if self.loaded is not None else None

    @property
    def gear_follows(self) -> bool:
        """Whether it follows a grid that bends."""
        return self.stick is not None and self.stick.profile.variable_grids

    def instant(self, cue: Cue) -> float:
        """Where a cue lies, s."""
        assert self.loaded is not None
        # a player knows instants: what came with a grid lies where that grid said
        return cue.at(self.loaded.preparation.grid or self.loaded.grid)

    def stand(self) -> None:
        """Wait at the first standby cue, or at the beginning."""
        self.player.pause()
        first = next(iter(self.arrival.standby), None) if self.arrival is not None else None
        self.player.seek(self.instant(first) if first is not None else 0.0)

    def step(self, step: int) -> None:
        """To the standby cue before or after, and wait there."""
        if self.arrival is None:
            return
        times = sorted(self.instant(c) for c in self.arrival.standby)
        here = self.player.now()
        left = [t for t in times if (t > here + 0.02 if step > 0 else t < here - 0.05)]
        if left:
            self.player.pause()
            self.player.seek(left[0] if step > 0 else left[-1])

    def hit(self, cue_id: str) -> None:
        """A hot cue: on the beat while it plays, else from there at once."""
        cue = self._cue(cue_id)
        if cue is not None:
            self.player.go(self.instant(cue))
            self.player.play()

    def wait_at(self, cue_id: str) -> None:
        """A standby cue: there, and wait."""
        cue = self._cue(cue_id)
        if cue is not None:
            self.player.pause()
            self.player.seek(self.instant(cue))

    def _cue(self, cue_id: str) -> Cue | None:
        return next((c for c in self.loaded.preparation.cues if c.id == cue_id), None) if self.loaded else None
