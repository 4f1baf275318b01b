"""Help: the guide at what is seen, and the guided start."""

from __future__ import annotations

from collections.abc import Callable
from typing import Protocol

from PyQt6.QtWidgets import QWidget

from ...commands.command import PROGRAM, CommandSet, Table, command
from ...session.session import Session
from ...widgets.guide_window import GuideWindow


class Seen(Protocol):
    """What the window tells of what is seen."""

    table: Table

    def titles(self) -> dict[str, str]: ...


class GuideCommands(CommandSet):
    """One guide; asked for again it turns to another page."""

    typing = True

    def __init__(self, session: Session, desk: Seen, parent: QWidget, place: Callable[[], tuple[str, str]]) -> None:
        self.session, self.desk, self._parent, self._place = session, desk, parent, place
        self.window: GuideWindow | None = None

    @command("Shift+F1", "The guide, at what is seen", PROGRAM, also="help manual documentation how")
    def guide(self, place: object) -> None:
        """Open it, at a place given as (page, heading), or at what is seen."""
        page, heading = place if isinstance(place, tuple) else self._place()
        if self.window is None:
            self.window = GuideWindow(self._parent, self.desk.table, self.desk.titles())
            self.window.finished.connect(self._closed)
        self.window.show_at(page, heading)
        self.window.show()
        self.window.raise_()

    def _closed(self) -> None:
        self.window = None

    @command("", "The first ten minutes: a guided start", PROGRAM, also="help tutorial learn begin demo tour")
    def first_minutes(self, _: object) -> None:
        self.session.first_minutes.begin()
