"""Keys: every command with its key; each can be another, and what clashes is told."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QEvent, QObject, Qt
from PyQt6.QtGui import QKeyEvent, QKeySequence
from PyQt6.QtWidgets import QHBoxLayout, QKeySequenceEdit, QLineEdit, QWidget

from ... import settings
from ...commands.command import Command, Table
from ...theme.tr import tr
from ...theme.words import Words
from ..plain_table import PlainTable
from .page import SettingsPage, button

SPARED = {"Return", "Escape", "Tab", "Shift+Tab", "Backtab"}
"""Keys by which windows themselves are used."""


class KeysPage(SettingsPage):
    """A table of commands; the chosen one's key is typed below it.

    Parameters
    ----------
    usual : the commands with the keys they come with
    titles : of the stages, by key
    use : takes a person's own keys
    """

    def __init__(self, usual: Table, titles: dict[str, str], use: Callable[[], None]) -> None:
        super().__init__(tr("Keys"))
        self._usual, self._titles, self._use = usual, titles, use
        self.own = settings.own_keys()
        self.search = QLineEdit()
        self.search.setPlaceholderText(tr("Find a command, a key or a stage"))
        self.search.setAccessibleName(tr("Find a command, a key or a stage"))
        self.search.textChanged.connect(self.refresh)
        self.table = PlainTable(
            tr("Commands and their keys"), ((tr("Command"), 0), (tr("Where"), 90), (tr("Key"), 120))
        )
        self.table.setMinimumHeight(250)
        self.table.picked.connect(self._picked)
        self.keys = QKeySequenceEdit()
        self.keys.setMaximumSequenceLength(1)
        self.keys.setFixedWidth(150)
        self.keys.setAccessibleName(tr("Key of the chosen command"))
        self.keys.installEventFilter(_OneKey(self.keys))
        self.keys.editingFinished.connect(self._typed)
        self.none = button(tr("No key"), tr("The chosen command has no key any more"))
        self.none.clicked.connect(lambda: self._set(""))
        self.back = button(tr("As it came"), tr("The key that the chosen command comes with"))
        self.back.clicked.connect(self._reset)
        self.all = button(tr("All as they came"), tr("Forget all keys of your own"))
        self.all.clicked.connect(self._reset_all)
        self.told = Words("")
        self.told.setWordWrap(True)
        self.told.setMinimumHeight(34)
        line = QHBoxLayout()
        line.addWidget(Words(tr("Its key")))
        for one in (self.keys, self.none, self.back):
            line.addWidget(one)
        line.addStretch(1)
        line.addWidget(self.all)
        body: list[QWidget] = [self.search, self.table]
        for w in body:
            self.column.addWidget(w)
        self.column.addLayout(line)
        self.column.addWidget(self.told)
        self.refresh()
        self.table.setCurrentCell(0, 0)

    @property
    def now(self) -> Table:
        """All commands with the keys they have now."""
        return self._usual.with_keys(self.own)

    def refresh(self) -> None:
        """Show what is looked for; what clashes is said."""
        words = self.search.text()
        now = self.now
        clashing = {c.id for pair in now.clashes() for c in pair}
        stages = {c.id: self._titles.get(c.stage, "everywhere") for c in now.commands}
        found = [
            c for c in now.commands
            if all(w in f"{c.words} {c.also} {c.keys} {stages[c.id]}".lower() for w in words.lower().split())
        ]  # fmt: skip
        mine = {True: " (own)", False: ""}
        rows = [(c.id, (c.words, stages[c.id], c.keys + mine[c.id in self.own])) for c in found]
        self.table.fill(rows, warned=[c.id in clashing for c in found])
        self._tell()

    def _chosen(self) -> Command | None:
        key = self.table.key_of(self.table.currentRow())
        return next((c for c in self.now.commands if c.id == key), None)

    def _picked(self, _: object) -> None:
        command = self._chosen()
        self.keys.setKeySequence(QKeySequence(command.keys if command is not None else ""))

    def _typed(self) -> None:
        self._set(name_of(self.keys.keySequence()))

    def _set(self, keys: str) -> None:
        command = self._chosen()
        if command is None or keys == command.keys:
            return
        if keys in SPARED:
            self.keys.setKeySequence(QKeySequence(command.keys))
            self.told.setText(tr("{0} is how windows themselves are used: choose another.").format(keys))
            return
        usual = next(c for c in self._usual.commands if c.id == command.id)
        if keys == usual.keys:
            self.own.pop(command.id, None)
        else:
            self.own[command.id] = keys
        self._keep()

    def _reset(self) -> None:
        command = self._chosen()
        if command is not None and self.own.pop(command.id, None) is not None:
            self._keep()

    def _reset_all(self) -> None:
        self.own.clear()
        self._keep()

    def _keep(self) -> None:
        settings.set_own_keys(self.own)
        self.refresh()
        self._picked(None)
        self._use()

    def _tell(self) -> None:
        """What clashes: the same key in the same place, or a stage's own key before one that holds everywhere."""
        now, changed = self.now, set(self.own)
        clashes = now.clashes()
        if clashes:
            a, b = sorted(clashes[0], key=lambda c: not c.is_own)
            more = tr(" {0} more such.").format(len(clashes) - 1) if len(clashes) > 1 else ""
            self.told.setText(
                tr("{0} is two things: {1}, and {2}. The first of them answers.{3}").format(
                    a.keys, _small(a), _small(b), more
                )
            )
            return
        hidden = [
            (a, b) for a in now.commands for b in now.commands
            if a.keys and a.keys == b.keys and a.stage and not b.stage and {a.id, b.id} & changed
        ]  # fmt: skip
        if hidden:
            a, b = hidden[0]
            there, other = (b, a) if b.is_own and not a.is_own else (a, b)
            self.told.setText(
                tr("In {0}, {1} is {2}, not {3}.").format(self._titles[a.stage], a.keys, _small(there), _small(other))
            )
        else:
            own = len(self.own)
            self.told.setText(f"{own} key{'s' if own != 1 else ''} of your own." if own else tr("No key clashes."))


def name_of(keys: QKeySequence) -> str:
    """A key as commands name it: Qt shortens two of them."""
    parts = keys.toString().split("+")
    return "+".join([*parts[:-1], {"Del": "Delete", "Esc": "Escape"}.get(parts[-1], parts[-1])])


def _small(c: Command) -> str:
    return f"'{c.words}'"


class _OneKey(QObject):
    """A field for a key takes what is a shortcut elsewhere, and is done after one; Tab goes on."""

    def __init__(self, field: QKeySequenceEdit) -> None:
        super().__init__(field)
        self._field = field

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.ShortcutOverride:
            event.accept()
            return True
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            if event.key() in (Qt.Key.Key_Tab, Qt.Key.Key_Backtab):
                self._next(event.key() == Qt.Key.Key_Tab)
                return True
            # one key is all there is: what stood there goes
            self._field.clear()
        return False

    def _next(self, on: bool) -> None:
        target = self._field.nextInFocusChain() if on else self._field.previousInFocusChain()
        while target is not None and target is not self._field and not target.focusPolicy() & Qt.FocusPolicy.TabFocus:
            target = target.nextInFocusChain() if on else target.previousInFocusChain()
        if target is not None:
            target.setFocus(Qt.FocusReason.TabFocusReason)
