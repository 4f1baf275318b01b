"""The keys of the window: which command a key asks for where one is, a person's own keys, and tips that say them."""

from __future__ import annotations

from typing import Protocol

from PyQt6.QtCore import QObject, Qt
from PyQt6.QtGui import QAction, QKeySequence
from PyQt6.QtWidgets import QAbstractButton, QApplication, QLineEdit, QPlainTextEdit, QWidget

from . import settings
from .commands.command import Command, Table, answering
from .session.session import Session
from .stages.frame import OwnKeys, Stage
from .theme.tr import tr
from .widgets import tips
from .widgets.parts import KeepKeys


class Desk(Protocol):
    """What the window has for its keys."""

    session: Session
    stages: dict[str, Stage]
    seen: str
    table: Table
    usual: Table

    def run(self, command: Command) -> None: ...
    def titles(self) -> dict[str, str]: ...


class Keyboard(QObject):
    """Shortcuts of a window.

    Attributes
    ----------
    keep_key : the shortcut that lets what is shown be kept; it sleeps while there is nothing
    """

    def __init__(self, window: QWidget, desk: Desk) -> None:
        super().__init__(window)
        self._window, self._desk = window, desk
        self._actions: list[QAction] = []
        self.keep_key: QAction | None = None
        self._renamed = False
        desk.session.reports.changed.connect(self.keep_key_follows)
        desk.session.track.preview.changed.connect(self.keep_key_follows)

    def bind(self) -> None:
        """Give every key of the table its shortcut, anew."""
        for action in self._actions:
            self._window.removeAction(action)
            action.deleteLater()
        self._actions, self.keep_key = [], None
        by_key: dict[str, list[Command]] = {}
        for command in self._desk.table.commands:
            by_key.setdefault(command.keys, []).append(command)
        by_key.setdefault("Ctrl+Y", []).extend(c for c in self._desk.table.commands if c.name == "redo")
        by_key.pop("", None)
        for keys, commands in by_key.items():
            action = QAction(self)
            action.setShortcut(QKeySequence(keys))
            action.triggered.connect(lambda _=False, k=keys, c=commands: self._press(k, c))
            self._window.addAction(action)
            self._actions.append(action)
            if keys == "Return":
                # fields and lists have it, except while there is something to keep
                self.keep_key = action
        self.keep_key_follows()

    def keep_key_follows(self) -> None:
        """Return is a shortcut only while there is something to keep."""
        if self.keep_key is not None:
            s = self._desk.session
            self.keep_key.setEnabled(s.reports.opinion is not None or s.comparison.look is not None)

    def leave_own(self, own: OwnKeys) -> None:
        """Lists and sliders keep the keys they move by; a click on a button doesn't take Space away from playing."""
        for widget, keys in (*own, *(pair for stage in self._desk.stages.values() for pair in stage.own_keys())):
            widget.installEventFilter(KeepKeys(widget, keys))
        for button in self._window.findChildren(QAbstractButton):
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)

    def name_in_tips(self, around: tuple[QWidget, ...]) -> None:
        """Say a person's own keys in the tips of all stages, and of what stands around them."""
        own = settings.own_keys()
        if not own and not self._renamed:
            # tips are as they were made
            return
        self._renamed = True
        for key, stage in self._desk.stages.items():
            tips.name_keys(stage, tips.other_keys(self._desk.usual, own, key))
        for widget in around:
            tips.name_keys(widget, tips.other_keys(self._desk.usual, own, ""))

    def _press(self, keys: str, commands: list[Command]) -> None:
        desk, pads = self._desk, self._desk.session.pads
        if keys == "Escape" and (pads.choosing or pads.lesson is not None):
            pads.let_be()
            desk.session.say.done(tr("No pad was learned."))
            return
        command = answering(commands, desk.seen)
        if command is None and keys in ("Escape", "Return"):
            return
        if command is None:
            place, words = desk.titles()[commands[0].stage], commands[0].words
            desk.session.say.refused(tr("In {0}, {1} is: {2}{3}.").format(place, keys, words[0].lower(), words[1:]))
            return
        # letters belong to a text field while one is being typed in
        typed_in = isinstance(QApplication.focusWidget(), QLineEdit | QPlainTextEdit)
        if command.typing or not typed_in:
            desk.run(command)
