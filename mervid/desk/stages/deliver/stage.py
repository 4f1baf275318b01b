"""Deliver: what leaves Mervid, right on any gear, and the originals safe."""

from __future__ import annotations

from typing import Any, ClassVar

from PyQt6.QtWidgets import QVBoxLayout, QWidget

from ...session.session import Session
from ..frame import MOVE_KEYS, OwnKeys, Stage
from .commands import OutCommands, StraightCommands, WordCommands
from .surface import KEEP, PAPER, PLAYER, STICK, STRAIGHT, TAGS, DeliverSurface


class DeliverStage(Stage):
    """The list in sight and the open track on their way out."""

    key, title, shortcut = "deliver", "Deliver", "F6"
    tip = "Tags, straightened sound, a folder for a player, paper, a backup"
    sets = (OutCommands, StraightCommands, WordCommands)
    mouse = (
        ("Double-click a file on the stick", "Put it into the player"),
        ("Click a row of what was straightened", "Its folds before and after"),
    )

    guide: ClassVar = {
        "": ("deliver", ""),
        PLAYER: ("deliver", "For a player"),
        STICK: ("deliver", "On the stick"),
        STRAIGHT: ("deliver", "Straighten"),
        TAGS: ("deliver", "Tags"),
        PAPER: ("deliver", "Paper"),
        KEEP: ("deliver", "Keep"),
    }

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.view = DeliverSurface(session, self.keys_of)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.view)
        self.out = OutCommands(session, self.view)
        self.straight, self.words = StraightCommands(session, self.view), WordCommands(session, self.view)
        self.use(self.out, self.straight, self.words)
        v, s = self.view, session.stick_playing
        for panel in (v.target, v.wish, v.tags, v.paper, v.keep):
            panel.asked.connect(self.asked)
        v.stick.put_in.connect(self.out.put_in)
        page = v.stick.player
        page.hit.connect(s.hit)
        page.waited.connect(s.wait_at)
        page.loaded.connect(s.stand)
        page.stepped.connect(s.step)
        page.started.connect(session.player.toggle)
        session.tag_writing.restore()

    def ask(self, name: str, argument: Any = None) -> None:
        """Carry out a request; a list can leave before any track is open."""
        self._handlers[name](argument)

    def enter(self) -> None:
        self.view.activate(True)

    def leave(self) -> None:
        self.session.delivering.activate(False)
        self.session.paper.activate(False)
        self.session.stick_playing.activate(False)

    @property
    def place(self) -> str:
        return self.view.pages.seen

    def own_keys(self) -> OwnKeys:
        v = self.view
        tables = (v.delivery.table, v.straight.table, v.preview.table, v.stick.table)
        return [(table, MOVE_KEYS) for table in tables]

    @property
    def first(self) -> QWidget:
        return self.view.delivery.table
