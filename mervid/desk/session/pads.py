"""Pads in the session: devices under their maps, what they ask for, learning, and their lights."""

from __future__ import annotations

import logging
import time
from collections import Counter
from pathlib import Path

import attrs
from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from ...core.errors import FormatError, Refused
from ...core.pads import learning, lights, messages
from ...core.pads.hands import Hands, Set
from ...core.pads.lights import State
from ...core.pads.messages import Control, Message
from ...core.pads.pad_map import PadMap, Request
from ...core.playing import reference_beat
from ...formats import pad_files
from ..pads.ports import Ports
from ..theme.tr import tr
from .listening import Listening
from .messages import Messages
from .open_track import OpenTrack

log = logging.getLogger(__name__)


@attrs.frozen
class Lesson:
    """What the next move is to mean: a command with the one that goes back, or a level; `words` say it."""

    wanted: Request | str
    words: str
    back: Request | None = None


class Pads(QObject):
    """Hears controllers.

    `asked` with a request, `level` with its name and a value from 0 to 1; `changed` when devices, maps, or what is
    learned are others.
    """

    asked = pyqtSignal(object)
    level = pyqtSignal(str, float)
    changed = pyqtSignal()

    def __init__(self, track: OpenTrack, listening: Listening, say: Messages, ports: Ports | None = None) -> None:
        super().__init__()
        self.track, self.listening, self.say = track, listening, say
        self.ports = ports or Ports()
        self.maps: dict[str, PadMap] = {}
        self.problems: list[str] = []
        self.choosing = False
        """Whether it is asked what the next pad shall do."""
        self.lesson: Lesson | None = None
        self._hands: dict[str, Hands] = {}
        self._lit: dict[str, dict[Control, Message]] = {}
        self._heard: list[tuple[str, Message]] = []
        self._struck: float | None = None
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.setInterval(int(learning.REST_S * 1000))
        self._rest.timeout.connect(self._learn)
        self._lights = QTimer(self)
        self._lights.setSingleShot(True)
        self._lights.setInterval(30)
        self._lights.timeout.connect(self._show_lights)
        self.ports.heard.connect(self._hear)
        self.ports.changed.connect(self._plugged)
        for happened in (
            track.opened, track.shown_changed, listening.changed, listening.player.playing_changed,
            listening.player.program_changed,
        ):  # fmt: skip
            happened.connect(self._lights.start)
        self.load()

    def close(self) -> None:
        """Let go of all devices."""
        self._rest.stop()
        self._lights.stop()
        self.ports.close()

    # maps

    def load(self) -> None:
        """Read all maps anew."""
        self.maps, self.problems = pad_files.known()
        self._take_up()

    def map_of(self, device: str) -> PadMap:
        """The map of a device; an empty one where nothing is learned."""
        return self.maps.get(device) or PadMap(device)

    def set_map(self, pad_map: PadMap) -> bool:
        """Use this map for its device, and keep it. Whether it could be kept."""
        self.maps[pad_map.device] = pad_map
        self._take_up()
        try:
            pad_files.save(pad_map)
        except FormatError as e:
            self.say.problem(str(e))
            return False
        return True

    def take_file(self, path: Path) -> PadMap | None:
        """Take a map from a file among one's own."""
        try:
            found = pad_files.load(path)
        except FormatError as e:
            self.say.refused(str(e))
            return None
        return found if self.set_map(found) else None

    def _take_up(self) -> None:
        self._hands = {name: Hands(self.map_of(name)) for name in self.ports.devices}
        self._lit.clear()
        self._lights.start()
        self.changed.emit()

    def _plugged(self) -> None:
        new = [name for name in self.ports.devices if name not in self._hands]
        gone = [name for name in self._hands if name not in self.ports.devices]
        self._take_up()
        for name in new:
            if not self.map_of(name).bindings:
                self.say.done(tr("{0} is there. Nothing is learned for it yet: Settings, Pads.").format(name))
        if gone:
            self.say.done(tr("{0} is gone.").format(gone[0]))

    # hearing

    @property
    def ago(self) -> float:
        """How long ago the pad was struck whose request is being carried out, s; 0 otherwise."""
        return 0.0 if self._struck is None else time.perf_counter() - self._struck

    def _hear(self, device: str, data: bytes, at: float) -> None:
        message = messages.read(data)
        if message is None:
            return
        if self.lesson is not None:
            self._listen(device, message)
            return
        hands = self._hands.get(device)
        if hands is None:
            return
        self._struck = at
        try:
            for asked in hands.take(message):
                if isinstance(asked, Set):
                    self.level.emit(asked.level, asked.at)
                else:
                    self.asked.emit(asked)
        finally:
            self._struck = None

    # learning

    def teach(self, lesson: Lesson) -> None:
        """The next move is to mean this."""
        self.choosing = False
        self.lesson, self._heard = lesson, []
        self.say.done(
            tr("{0}: now move the pad, the wheel or the fader that shall do it. Esc lets it be.").format(lesson.words)
        )
        self.changed.emit()

    def choose(self) -> None:
        """Ask what the next pad shall do."""
        self.let_be()
        self.choosing = True
        self.say.done(
            tr("What shall a pad do? Press its key, click its button, or find it by words (/). Esc lets it be.")
        )
        self.changed.emit()

    def let_be(self) -> None:
        """Learn nothing."""
        self.choosing, self.lesson, self._heard = False, None, []
        self._rest.stop()
        self.changed.emit()

    def _listen(self, device: str, message: Message) -> None:
        self._heard.append((device, message))
        if learning.is_clear(message):
            # a pad went down: whatever else trembles meanwhile is not meant
            self._heard = [(device, message)]
            self._learn()
        else:
            self._rest.start()

    def _learn(self) -> None:
        lesson, heard = self.lesson, self._heard
        self._heard = []
        if lesson is None or not heard:
            return
        # of several that moved, the one that moved most
        device = Counter(d for d, _ in heard).most_common(1)[0][0]
        try:
            binding = learning.bind([m for d, m in heard if d == device], lesson.wanted, lesson.back)
        except Refused as e:
            self.say.refused(str(e))
            return
        self.lesson = None
        before = self.map_of(device).at(binding.control)
        if self.set_map(self.map_of(device).bound(binding)):
            instead = tr(" instead of what it did before") if before is not None else ""
            self.say.done(
                tr("Learned: {0} of {1} is {2}{3}.").format(
                    binding.control.words, device, lesson.words.lower(), instead
                )
            )

    # lights

    def state(self) -> State:
        """What is on in the session."""
        program, p = self.listening.player.program, self.track.preparation
        mix = self.listening.mix
        on = {
            "play": self.listening.player.playing,
            "loop": program is not None and program.loop is not None,
            "half-speed": program is not None and program.half,
            "click": mix.beat != reference_beat.OFF,
            "split": mix.split,
            "lock": p.locked,
        }
        cues = frozenset(c.slot for c in p.cues if c.slot is not None)
        return State(frozenset(name for name, is_on in on.items() if is_on), cues)

    def _show_lights(self) -> None:
        state = self.state()
        for device in self.ports.devices:
            wanted, before = lights.messages(self.map_of(device), state), self._lit.get(device, {})
            for control, message in wanted.items():
                if before.get(control) != message:
                    self.ports.send(device, messages.write(message))
            self._lit[device] = wanted
