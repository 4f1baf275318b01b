"""Pads: which controllers there are, what each pad of one does, and learning more."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QSettings
from PyQt6.QtWidgets import QFileDialog, QHBoxLayout

from ....core.errors import FormatError
from ....core.pads import messages
from ....core.pads.messages import Control
from ....core.pads.pad_map import LEVELS, Binding, Level, Press, Request, Turn
from ....formats import pad_files
from ...commands.command import Table
from ...names import kept_folder
from ...session.pads import Pads
from ...theme.tr import tr
from ...theme.words import Words
from ..plain_table import PlainTable
from .page import OneOf, SettingsPage, button


class PadsPage(SettingsPage):
    """One device at a time."""

    def __init__(self, pads: Pads, table: Callable[[], Table], ask: Callable[[str, object], None]) -> None:
        super().__init__(tr("Pads"))
        self._pads, self._table, self._ask = pads, table, ask
        self.device = OneOf((), "")
        self.device.activated.connect(self.refresh)
        self.told = Words("")
        self.told.setObjectName("faint")
        self.told.setWordWrap(True)
        self.bindings = PlainTable(
            tr("What each pad does"), ((tr("Pad"), 150), (tr("Kind"), 64), (tr("What it does"), 0))
        )
        self.bindings.setMinimumHeight(230)
        self.learn = button(tr("Learn a pad…"), tr("Say what it should do, then move it (Alt+P)"))
        self.learn.clicked.connect(lambda: self._ask("learn", None))
        self.faders = [
            button(tr("Learn a fader: {0}…").format(level), tr("{0}: then move a fader or a knob").format(words))
            for level, words in LEVELS.items()
        ]
        for b, level in zip(self.faders, LEVELS, strict=True):
            b.clicked.connect(lambda _=False, n=level: self._ask("learn-level", n))
        self.away = button(tr("Take it away"), tr("The chosen pad does nothing any more"))
        self.away.clicked.connect(self._take_away)
        self.take = button(tr("Take a map from a file…"), tr("A map that somebody wrote, for a controller of its name"))
        self.take.clicked.connect(self._take_file)
        self.write = button(tr("Write it to a file…"), tr("A readable file, for others with the same controller"))
        self.write.clicked.connect(self._write_file)
        self.board = button(tr("Pad board"), tr("Pads, wheels and a fader in a window (Alt+Shift+P)"))
        self.board.clicked.connect(lambda: self._ask("board", None))
        self.row(
            tr("Controller"),
            tr("Heard as soon as it is plugged in. What it does is kept under its name."),
            self.device,
            self.board,
        )
        self.column.addWidget(self.told)
        self.column.addWidget(self.bindings, 1)
        for some in ((self.learn, *self.faders), (self.away, self.take, self.write)):
            line = QHBoxLayout()
            for b in some:
                line.addWidget(b)
            line.addStretch(1)
            self.column.addLayout(line)
        pads.changed.connect(self.enter)
        pads.ports.heard.connect(self._heard)
        self.enter()

    def enter(self) -> None:
        """The devices there are now, then those that are known."""
        there = list(self._pads.ports.devices)
        names = [*there, *(n for n in self._pads.maps if n not in there)]
        now = self.device.currentData()
        self.device.offer(
            [(n, n if n in there else tr("{0} (not plugged in)").format(n)) for n in names],
            now if now in names else names[0],
        )
        self.refresh()

    def refresh(self) -> None:
        """What the chosen one does."""
        found = self._pads.map_of(self._name())
        rows = [(b.control, (b.control.words, _kind(b), self._does(b))) for b in found.bindings]
        self.bindings.fill(rows)
        self.away.setEnabled(bool(rows))
        self.write.setEnabled(bool(rows))
        words = [self._pads.ports.problem, *self._pads.problems]
        self.told.setText(" ".join(w for w in words if w))
        self.told.setVisible(bool(self.told.text()))

    def _name(self) -> str:
        return str(self.device.currentData() or "")

    def _does(self, b: Binding) -> str:
        if isinstance(b, Level):
            return LEVELS[b.sets]
        if isinstance(b, Turn):
            return tr("{0}; back: {1}").format(self._words(b.on), self._words(b.back))
        return self._words(b.does)

    def _words(self, request: Request) -> str:
        meant = self._table().meant(request.name, request.argument, request.stage)
        return meant[0].words if meant else tr("'{0}', which Mervid doesn't know").format(request.name)

    def _heard(self, device: str, data: bytes, _: float) -> None:
        """What is moved is chosen in the table."""
        message = messages.read(data)
        if message is None or device != self._name():
            return
        bound = self._pads.map_of(device).at(message.control)
        for r in range(self.bindings.rowCount()):
            if bound is not None and self.bindings.key_of(r) == bound.control:
                self.bindings.setCurrentCell(r, 0)

    def _take_away(self) -> None:
        control = self.bindings.key_of(self.bindings.currentRow())
        if isinstance(control, Control):
            self._pads.set_map(self._pads.map_of(self._name()).without(control))

    def _take_file(self) -> None:
        start = str(QSettings().value("export", str(Path.home())))
        name, _ = QFileDialog.getOpenFileName(self, tr("Take a map of a controller"), start, "Maps (*.toml)")
        if name:
            taken = self._pads.take_file(Path(name))
            if taken is not None:
                self.enter()
                self.device.setCurrentIndex(self.device.findData(taken.device))
                self.refresh()
                self._pads.say.done(
                    tr("The map of {0} was taken: {1} pads, wheels and faders.").format(
                        taken.device, len(taken.bindings)
                    )
                )

    def _write_file(self) -> None:
        start = (kept_folder("export") or Path.home()) / f"{self._name()}{pad_files.ENDING}"
        name, _ = QFileDialog.getSaveFileName(self, tr("Write the map to a file"), str(start), "Maps (*.toml)")
        if name:
            path = Path(name)
            try:
                pad_files.save(self._pads.map_of(self._name()), path if path.suffix else path.with_suffix(".toml"))
            except FormatError as e:
                self._pads.say.problem(str(e))
            else:
                self._pads.say.done(tr("Written: {0}.").format(path.name))


def _kind(b: Binding) -> str:
    return "pad" if isinstance(b, Press) else "wheel" if isinstance(b, Turn) else "fader"
