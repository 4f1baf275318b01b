"""Commands about controllers: learning a pad, the pad board, and the taps that come from one."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from ....core.pads import pad_map
from ...commands.command import EAR, PROGRAM, CommandSet, command, request
from ...session.pads import Lesson
from ...session.session import Session
from ...widgets.transport import Transport


class PadCommands(CommandSet):
    """What hands on a controller need beside the commands that all have."""

    typing = True

    def __init__(self, session: Session, transport: Transport, show_board: Callable[[], None]) -> None:
        self.session, self.transport, self._show_board = session, transport, show_board

    @command("Alt+P", "Learn a pad: say what, then move it", PROGRAM, also="midi controller map assign bind")
    def learn(self, _: object) -> None:
        self.session.pads.choose()

    @command("", "Learn a fader for the balance", PROGRAM, pad_map.BALANCE, also="midi controller map knob")
    @command("", "Learn a fader for the tempo of a steady clock", PROGRAM, pad_map.TEMPO, also="midi controller pitch")
    def learn_level(self, level: Any) -> None:
        self.session.pads.teach(Lesson(level, pad_map.LEVELS[level]))

    @command("Alt+Shift+P", "Pad board: pads, wheels and a fader in a window", PROGRAM, also="midi controller screen")
    def board(self, _: object) -> None:
        self._show_board()

    @command("", "Tap a beat", EAR, "beat", also="pad pedal tempo hand")
    @command("", "Tap a downbeat", EAR, "downbeat", also="pad pedal tempo hand")
    def tap(self, which: object) -> None:
        """A tap lies where the sound was when the pad was struck."""
        self.session.tapping.tap(down=which == "downbeat", ago=self.session.pads.ago)

    @request
    def balance(self, at: Any) -> None:
        """A fader: 0 the track alone, 1 the reference beat alone."""
        self.transport.balance.setValue(round(200 * float(at)) - 100)
