"""Pads at the window: what a pad asks for is done where one is, and what it shall do is chosen there."""

from __future__ import annotations

from typing import Protocol

from ..core.pads.pad_map import Request
from .commands.command import Command, Table
from .session.pads import Lesson
from .session.session import Session
from .stages.frame import Stage
from .theme.tr import tr

TYPED = (
    "write-notes", "tempo", "part-typed", "line-written", "letter", "tag-template", "straight-tempo", "straight-drift",
    "straight-glide",
)  # fmt: skip
"""Requests that carry typed text."""
STILL_DONE = ("find", "learn", *TYPED)
"""Requests that are carried out, not learned, while Mervid asks what a pad does: typed text is never lost."""


class Desk(Protocol):
    """What the window has for pads."""

    session: Session
    stages: dict[str, Stage]
    seen: str
    table: Table

    def run(self, command: Command) -> None: ...
    def ask(self, name: str, argument: object = None) -> None: ...
    def titles(self) -> dict[str, str]: ...


class PadDesk:
    """Between the pads of the session and the commands of the window."""

    def __init__(self, desk: Desk) -> None:
        self._desk = desk
        desk.session.pads.asked.connect(self.asked)
        desk.session.pads.level.connect(desk.ask)

    def learns(self, name: str, argument: object, stage: str = "") -> bool:
        """While it is asked what a pad shall do: learn this instead of doing it. Whether it was taken so."""
        if not self._desk.session.pads.choosing or name in STILL_DONE:
            return False
        self._teach(name, argument, stage or self._desk.seen)
        return True

    def _teach(self, name: str, argument: object, stage: str) -> None:
        pads, table = self._desk.session.pads, self._desk.table
        wanted = [c for c in table.commands if (c.name, c.argument) == (name, argument)]
        here = [c for c in wanted if c.stage in ("", stage)]
        if not here:
            pads.say.refused(tr("No pad can do that: choose something that has a key, or that / finds."))
            return
        command = min(here, key=lambda c: c.stage != stage)
        back = table.opposite(command)
        if back is not None and isinstance(command.argument, int | float) and command.argument < 0:
            # a wheel goes on to the right, whichever of the two was named
            command, back = back, command
        other = None if back is None else Request(name, back.word)
        # no stage: what stands in several under one name answers in the one that is seen
        pads.teach(Lesson(Request(name, command.word), command.words, other))

    def asked(self, request: Request) -> None:
        """A pad asks: the stage that is seen answers, or the one that is named; other stages are told of."""
        desk = self._desk
        found = desk.table.meant(request.name, request.argument, request.stage)
        there = [c for c in found if c.stage in ("", desk.seen)]
        if there:
            desk.run(min(there, key=lambda c: c.stage != desk.seen))
        elif desk.stages[desk.seen].can(request.name):
            # a wheel that slides the grid in Align nudges the coming track in Rehearse
            desk.ask(request.name, request.argument)
        elif found:
            place, words = desk.titles()[found[0].stage], found[0].words
            desk.session.say.refused(tr("In {0}, this pad is: {1}{2}.").format(place, words[0].lower(), words[1:]))
        else:
            desk.session.say.refused(
                tr("This pad asks for '{0}', which Mervid doesn't know: learn it anew.").format(request.name)
            )
