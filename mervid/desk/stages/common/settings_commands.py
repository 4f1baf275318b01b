"""Settings: the dialog, and what each of them sets in motion in the window."""

from __future__ import annotations

from typing import Protocol

from PyQt6.QtWidgets import QWidget

from ....core.model.tempo_range import TempoRange
from ...commands.command import PROGRAM, CommandSet, Table, command
from ...session.session import Session
from ...widgets.settings.cue_colours_page import CueColoursPage
from ...widgets.settings.dialog import SettingsDialog
from ...widgets.settings.keys_page import KeysPage
from ...widgets.settings.pads_page import PadsPage
from ...widgets.settings.pages import KeepPage, LookPage, MusicPage, SoundPage, WorkPage

WAYS: dict[str, tuple[str, str, object]] = {
    "calibrate": ("align", "calibrate", None),
    "back-up": ("deliver", "deliver-page", "keep"),
}
"""Where settings lead to: the stage, and what is asked for there."""


class Desk(Protocol):
    """What the window does when something is set."""

    table: Table
    usual: Table

    def ask(self, name: str, argument: object = None) -> None: ...
    def titles(self) -> dict[str, str]: ...
    def use_keys(self) -> None: ...
    def use_look(self, look: str) -> None: ...
    def use_range(self, wanted: TempoRange | None) -> None: ...
    def redraw(self) -> None: ...


class SettingsCommands(CommandSet):
    """One dialog; asked for again, the one that is open comes forward."""

    typing = True

    def __init__(self, session: Session, desk: Desk, parent: QWidget) -> None:
        self.session, self.desk, self._parent = session, desk, parent
        self.dialog: SettingsDialog | None = None

    @command("Ctrl+,", "Settings", PROGRAM, also="preferences options configure sound device keys pads")
    def settings(self, page: object) -> None:
        if self.dialog is not None:
            self.dialog.raise_()
            self.dialog.activateWindow()
            return
        s, desk = self.session, self.desk
        pages = (
            SoundPage(s, self._away),
            WorkPage(s),
            MusicPage(s, desk.use_range),
            LookPage(s, desk.use_look),
            CueColoursPage(desk.redraw),
            KeysPage(desk.usual, desk.titles(), desk.use_keys),
            PadsPage(s.pads, lambda: desk.table, desk.ask),
            KeepPage(s, self._away),
        )
        self.dialog = SettingsDialog(self._parent, pages, page if isinstance(page, str) else "")
        self.dialog.finished.connect(self._closed)
        self.dialog.show()

    def _closed(self) -> None:
        self.dialog = None

    def _away(self, name: str) -> None:
        """Something is asked for that is done in the window: the dialog makes room."""
        if self.dialog is not None:
            self.dialog.accept()
        stage, request, argument = WAYS[name]
        self.desk.ask("to-stage", stage)
        self.desk.ask(request, argument)
