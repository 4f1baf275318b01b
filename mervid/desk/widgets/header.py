"""The line along the top: the stages with what waits in each, and what can be done to track and program."""

from __future__ import annotations

from collections.abc import Sequence

import attrs
from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QButtonGroup, QFrame, QHBoxLayout, QMenu, QPushButton, QToolButton

from ...formats import exchange
from ..commands.command import Command, Table
from ..session.session import Session
from ..theme.style import Theme, icon
from ..theme.tr import tr
from ..theme.words import Words

ICON = 18


@attrs.frozen
class Tab:
    """A stage as the header shows it."""

    key: str
    title: str
    tip: str


class Header(QFrame):
    """Emits what is asked for."""

    stage_chosen = pyqtSignal(str)
    asked = pyqtSignal(str, object)
    commanded = pyqtSignal(object)

    def __init__(self, session: Session, tabs: Sequence[Tab], table: Table) -> None:
        super().__init__()
        self.setObjectName("header")
        self._track = session.track
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 4, 10, 0)
        row.setSpacing(6)
        mark = Words(tr("Mervid"))
        mark.setObjectName("wordmark")
        row.addWidget(mark)
        row.addSpacing(24)
        self._group = QButtonGroup(self)
        self.tabs: dict[str, QPushButton] = {}
        self._tabs = {tab.key: tab for tab in tabs}
        for tab in tabs:
            b = QPushButton(tab.title)
            b.setObjectName("stage")
            b.setCheckable(True)
            b.setToolTip(tab.tip)
            b.setAccessibleDescription(tab.tip)
            b.clicked.connect(lambda _=False, k=tab.key: self.stage_chosen.emit(k))
            self._group.addButton(b)
            self.tabs[tab.key] = b
            row.addWidget(b, 0, Qt.AlignmentFlag.AlignBottom)
        row.addStretch(1)
        self.buttons: dict[str, QToolButton] = {}
        for name, request, text, tip in (
            ("open", "open", tr("Open"), tr("Open recordings (Ctrl+O)")),
            ("undo", "undo", tr("Undo"), tr("Undo (Ctrl+Z)")),
            ("redo", "redo", tr("Redo"), tr("Redo (Ctrl+Shift+Z)")),
            ("export", "", tr("Hand over"), tr("Export or import beats")),
            ("lock", "lock", tr("Lock"), tr("Lock or unlock this track (Ctrl+L)")),
            ("night", "night", "", tr("Light or dark theme (F8)")),
            ("pen", "", tr("Commands"), tr("Everything that can be done, with its keys (/ finds, F1 lists)")),
        ):
            row.addWidget(self._button(name, request, text, tip))
        self._menus = {"export": (QMenu(self), self._fill_exchange), "pen": (QMenu(self), self._fill_commands)}
        for name, (menu, _) in self._menus.items():
            self.buttons[name].setMenu(menu)
            self.buttons[name].setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        self.use(table)

    def _button(self, name: str, request: str, text: str, tip: str) -> QToolButton:
        b = QToolButton()
        b.setObjectName("plain")
        b.setText(text)
        b.setToolTip(tip)
        b.setAccessibleName(tip)
        beside = Qt.ToolButtonStyle.ToolButtonTextBesideIcon if text else Qt.ToolButtonStyle.ToolButtonIconOnly
        b.setToolButtonStyle(beside)
        if request:
            b.clicked.connect(lambda: self.asked.emit(request, None))
        self.buttons[name] = b
        return b

    def use(self, table: Table) -> None:
        """Show these commands in the menus."""
        for menu, fill in self._menus.values():
            menu.clear()
            fill(menu, table)

    def _fill_exchange(self, menu: QMenu, table: Table) -> None:
        for ending, words in exchange.FORMS.items():
            text = f"{words}…\t{table.keys_of('export', ending)}"
            menu.addAction(text, lambda e=ending: self.asked.emit("export", e))
        menu.addSeparator()
        menu.addAction(f"Import beats, phrases, cues…\t{table.keys_of('take')}", lambda: self.asked.emit("take", None))

    def _fill_commands(self, menu: QMenu, table: Table) -> None:
        """All commands by group, each with its key; ways to find one before them."""
        for name in ("find", "keys", "guide", "first-minutes", "history", "settings"):
            words = next(c.words for c in table.commands if c.name == name)
            menu.addAction(f"{words}…\t{table.keys_of(name)}", lambda n=name: self.asked.emit(n, None))
        menu.addSeparator()
        for group in table.groups:
            part = menu.addMenu(tr(group))
            assert part is not None
            for command in table.of_group(group):
                if command.keys_in_list is None:
                    self._add(part, command)

    def _add(self, menu: QMenu, command: Command) -> None:
        # the key is shown, not bound again
        action = menu.addAction(f"{command.words}\t{command.keys}")
        assert action is not None
        action.triggered.connect(lambda: self.commanded.emit(command))

    # showing

    def dress(self) -> None:
        """Draw icons in the palette in force."""
        for name, b in self.buttons.items():
            file = name if name != "lock" else "lock" if self._track.preparation.locked else "unlock"
            b.setIcon(icon(file, Theme.palette.ink, ICON))

    def show_short(self, short: bool) -> None:
        """Buttons with an icon alone, where there is no room for their words: tips and names say them."""
        style = Qt.ToolButtonStyle.ToolButtonIconOnly if short else Qt.ToolButtonStyle.ToolButtonTextBesideIcon
        for b in self.buttons.values():
            if b.text() and b.toolButtonStyle() != style:
                b.setToolButtonStyle(style)

    def show_stage(self, key: str) -> None:
        """Which stage is seen."""
        self.tabs[key].setChecked(True)

    def enable_stages(self, there: bool) -> None:
        """Whether there is any track to work on."""
        for b in self.tabs.values():
            b.setEnabled(there)

    def show_waiting(self, key: str, count: int, why: str) -> None:
        """How many tracks wait in a stage, and what for."""
        tab, button = self._tabs[key], self.tabs[key]
        button.setText(f"{tab.title}   {count}" if count else tab.title)
        button.setToolTip(f"{tab.tip}. {count} track{'s are' if count != 1 else ' is'} {why}" if why else tab.tip)

    def show_track(self, names: tuple[str | None, str | None] | None = None) -> None:
        """What can be undone, redone, locked and handed over.

        Parameters
        ----------
        names : what undo and redo would touch, where that isn't the open track
        """
        t = self._track
        if t.shown is not t.preparation:
            return
        for name, words in zip(("undo", "redo"), names or (t.undo_name, t.redo_name), strict=True):
            button = self.buttons[name]
            button.setEnabled(words is not None)
            button.setToolTip(f"{name.capitalize()}: {words}" if words else tr("Nothing to {0}").format(name))
        lock, locked = self.buttons["lock"], t.preparation.locked
        lock.setText(tr("Unlock") if locked else tr("Lock"))
        lock.setEnabled(t.preparation.grid is not None)
        lock.setIcon(icon("lock" if locked else "unlock", Theme.palette.ink, ICON))
        self.buttons["export"].setEnabled(t.row is not None)
