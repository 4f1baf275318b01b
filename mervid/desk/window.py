"""The window: track list at the left, the stage in the middle, the transport along the bottom, words in between.

It names no stage: it is given their classes, and finds in each its title, its commands and what waits in it.
"""

from __future__ import annotations

import json
from collections.abc import Sequence
from functools import partial

import attrs
from PyQt6.QtCore import QSettings, QSize, Qt, QTimer
from PyQt6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent, QResizeEvent
from PyQt6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QHBoxLayout,
    QMainWindow,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from ..core.model.tempo_range import TempoRange
from . import settings
from .commands.command import PROGRAM, Command, CommandSet, Table, Unhandled
from .keyboard import Keyboard
from .pad_desk import PadDesk
from .session.catalogue import PROGRESS
from .session.session import Session
from .stages.common.guide_commands import GuideCommands
from .stages.common.pad_commands import PadCommands
from .stages.common.playing_commands import PlayingCommands
from .stages.common.program_commands import ProgramCommands
from .stages.common.settings_commands import SettingsCommands
from .stages.common.track_commands import TrackCommands
from .stages.frame import EDIT_KEYS, MOVE_KEYS, SIDEWAYS_KEYS, Stage
from .theme import style
from .theme.palette import DAY, NIGHT
from .theme.style import Theme
from .theme.tr import tr
from .widgets import file_dialogs, outward
from .widgets.empty import Empty
from .widgets.figures_dialog import FiguresDialog
from .widgets.finder import Edits, Finder, KeySheet
from .widgets.guide_strip import GuideStrip
from .widgets.header import Header, Tab
from .widgets.pad_board import PadBoard
from .widgets.parts import Note
from .widgets.replaced_dialog import ReplacedDialog
from .widgets.side import Side
from .widgets.text_fields import finish_typing
from .widgets.transport import Transport

LEAST = QSize(960, 600)
"""Px of the smallest window in which everything has room."""
NARROW_PX = 1120
"""A window narrower than this has no room for the list beside pictures and panel."""
COUNT_MS = 40
"""What waits in each stage is counted so long after a change: too soon to notice, late enough to count many as one."""


class Window(QMainWindow):
    """Everything on one desk.

    Parameters
    ----------
    stages : the stages of the work, in their order
    """

    def __init__(self, session: Session, stages: Sequence[type[Stage]]) -> None:
        super().__init__()
        self.session = session
        self.setWindowTitle(tr("Mervid"))
        self.setAcceptDrops(True)
        self.resize(1280, 800)
        self.setMinimumSize(LEAST)
        self.transport, self.note = Transport(session), Note()
        self.board: PadBoard | None = None
        self._there = False
        self._list_wished: bool | None = None
        self.strip = GuideStrip(session.first_minutes)
        self.stages: dict[str, Stage] = {s.key: s(session) for s in stages}
        kept = str(QSettings().value("stage", ""))
        self.seen = kept if kept in self.stages else next(iter(self.stages))
        self._common: tuple[CommandSet, ...] = (
            TrackCommands(session),
            PlayingCommands(session, self.transport),
            PadCommands(session, self.transport, self.show_board),
            ProgramCommands(session, self),
            SettingsCommands(session, self, self),
            GuideCommands(session, self, self, self.place_in_guide),
        )
        self._handlers = {name: act for one in self._common for name, act in one.handlers().items()}
        self._handlers["to-stage"] = self.go_to_stage
        self._handlers["straighten-page"] = lambda _: self.show_page("deliver", "straight")
        self.usual = Table(self._all_commands())
        self.table = self.usual.with_keys(settings.own_keys())
        self.side = Side(session)
        self.list = self.side.list
        tabs = [Tab(s.key, tr(s.title), f"{tr(s.tip)} ({s.shortcut})") for s in self.stages.values()]
        self.header = Header(session, tabs, self.table)
        self._count = QTimer(self)
        self._count.setSingleShot(True)
        self._count.setInterval(COUNT_MS)
        self._count.timeout.connect(self._show_counts)
        self._build()
        self._connect()
        self.keyboard, self.pads = Keyboard(self, self), PadDesk(self)
        self.keyboard.bind()
        self.keyboard.leave_own(
            [(self.list, MOVE_KEYS | EDIT_KEYS), (self.transport.balance, MOVE_KEYS | SIDEWAYS_KEYS)]
        )
        self.keyboard.name_in_tips((self.header, self.side, self.transport))
        self.dress()
        self._show_counts()
        self._show_track()
        self._look_so()
        self.go_to_stage(self.seen)
        if not self.pages.currentIndex():
            self.first.setFocus()

    def _all_commands(self) -> tuple[Command, ...]:
        """The commands of all stages, then those that every stage knows, then the stages themselves."""
        stages = [c for s in self.stages.values() for c in s.commands()]
        common = [c for one in self._common for c in one.commands()]
        there = [
            Command(
                s.shortcut, "to-stage", s.key, tr("Stage: {0}").format(tr(s.title)), PROGRAM, also=s.tip, typing=True
            )
            for s in self.stages.values()
        ]
        return (*map(_told, stages), *there, *map(_told, common))

    # building

    def _build(self) -> None:
        empty = Empty()
        empty.asked.connect(self.ask)
        self.first = empty.buttons["add-folder"]
        self.pages = QStackedWidget()
        self.pages.addWidget(empty)
        for stage in self.stages.values():
            self.pages.addWidget(stage)
        middle = QHBoxLayout()
        middle.setSpacing(0)
        middle.addWidget(self.side)
        middle.addWidget(self.pages, 1)
        whole = QVBoxLayout()
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(0)
        whole.addWidget(self.header)
        whole.addWidget(self.strip)
        whole.addLayout(middle, 1)
        whole.addWidget(self.note)
        whole.addWidget(self.transport)
        body = QWidget()
        body.setLayout(whole)
        self.setCentralWidget(body)

    def _connect(self) -> None:
        s = self.session
        s.say.said.connect(self.note.say)
        s.track.closing.connect(partial(finish_typing, self))
        s.track.opened.connect(self._opened)
        s.track.shown_changed.connect(self._show_track)
        c = s.catalogue
        for changed in (c.added, c.changed, c.many_changed, c.removed, c.refilled):
            changed.connect(self._library_changed)
        s.watch.differs.connect(self._ask_what_becomes)
        s.bookcase.acted.connect(self._show_track)
        self.header.asked.connect(self.ask)
        self.strip.asked.connect(self._take_step)
        self.strip.stage_wanted.connect(self._go_where_there_is)
        self.header.stage_chosen.connect(self.go_to_stage)
        self.header.commanded.connect(self.run)
        self.list.chosen.connect(s.open)
        self.list.lent.connect(self._lent)
        for key, stage in self.stages.items():
            stage.reading.connect(self.transport.hover.setText)
            stage.asked.connect(partial(self.ask_of, key))

    def _look_so(self) -> None:
        """As the stages were looked at when the window was closed."""
        try:
            told = json.loads(str(QSettings().value("looks", "{}")))
            for key, stage in self.stages.items():
                stage.look_so({str(k): float(v) for k, v in told.get(key, {}).items()})
        except (ValueError, TypeError, AttributeError):
            return

    def come_forward(self) -> None:
        """Be seen above all other windows."""
        self.setWindowState(self.windowState() & ~Qt.WindowState.WindowMinimized)
        self.show()
        self.raise_()
        self.activateWindow()

    def place_in_guide(self) -> tuple[str, str]:
        """Where the guide tells of what is seen: page and heading."""
        if not self.pages.currentIndex():
            return "start", ""
        stage = self.stages[self.seen]
        return stage.guide.get(stage.place) or stage.guide[""]

    def _go_where_there_is(self, key: str) -> None:
        """Show a stage, once there is any track to show in it."""
        if self.session.library.any():
            self.go_to_stage(key)

    def _take_step(self, key: str, name: str, argument: object) -> None:
        """Do what a step of the guided start asks for, once its stage can be shown."""
        if key == self.seen or name in self._handlers:
            self.ask_of(key, name, argument)

    def titles(self) -> dict[str, str]:
        """What the stages are called, by key."""
        return {key: tr(stage.title) for key, stage in self.stages.items()}

    def use_keys(self) -> None:
        """A person's own keys from now on: in shortcuts, menus, lists and tips."""
        self.table = self.usual.with_keys(settings.own_keys())
        self.keyboard.bind()
        self.header.use(self.table)
        self.keyboard.name_in_tips((self.header, self.side, self.transport))

    # commands

    def ask(self, name: str, argument: object = None) -> None:
        """Carry out a request: the stage that is seen, or what all know. While a pad learns, it learns this."""
        self.ask_of(self.seen, name, argument)

    def ask_of(self, key: str, name: str, argument: object = None) -> None:
        """Carry out a request of one stage, seen or not, or of all stages. Raises `Unhandled` where nobody does."""
        if self.pads.learns(name, argument):
            return
        if self.stages[key].can(name):
            self.stages[key].ask(name, argument)
        elif name in self._handlers:
            self._handlers[name](argument)
        else:
            raise Unhandled(f"{key}: {name}")

    def run(self, command: Command) -> None:
        """Do what a command says, in its own stage."""
        if self.pads.learns(command.name, command.argument, command.stage):
            return
        if command.stage and command.stage != self.seen:
            self.go_to_stage(command.stage)
        self.ask(command.name, command.argument)

    # pads

    def show_board(self) -> None:
        """The pad board, in a window beside this one."""
        if self.board is None:
            self.board = PadBoard(self, self.session.pads, lambda: self.table)
        self.board.show()
        self.board.raise_()

    def go_to_stage(self, key: object) -> None:
        """Show a stage."""
        if key != self.seen:
            finish_typing(self)
            self.stages[self.seen].leave()
        self.seen = str(key)
        self._choose_page()
        self.header.show_stage(self.seen)
        self._show_track()
        self.stages[self.seen].enter()

    def show_page(self, stage: str, page: str) -> None:
        """Show a page of another stage."""
        self.go_to_stage(stage)
        self.ask_of(stage, f"{stage}-page", page)

    def play(self) -> None:
        """Play or pause; on a button that Tab has reached, press it."""
        focus = QApplication.focusWidget()
        if isinstance(focus, QAbstractButton) and focus.window() is self:
            focus.click()
        else:
            self.session.player.toggle()

    def find_command(self) -> None:
        """Find a command by plain words."""
        finder = Finder(self, self.table)
        finder.chosen.connect(self.run)
        finder.open()

    def show_keys(self) -> None:
        """All keys of the stage that is seen."""
        KeySheet(self, self.table, self.seen, self.stages[self.seen].mouse).open()

    def show_history(self) -> None:
        """The edits of the open track."""
        row = self.session.track.row
        if row is not None:
            edits = Edits(self, *self.session.library.names(row.id))
            edits.chosen.connect(self.session.track.go_to_edit)
            edits.open()

    def show_figures(self) -> None:
        """What the pictures of the stage show, as tables."""
        tables = self.stages[self.seen].in_figures()
        row = self.session.track.row
        if not tables or row is None:
            self.session.say.refused(tr("There is nothing to say in figures yet: open a track that was heard."))
            return
        told = FiguresDialog(self, row.title, tables)
        told.went.connect(self.session.player.seek)
        told.open()

    def _lent(self, full: int, borrower: int) -> None:
        """One track was dragged onto another: borrow its grid, where a stage can."""
        self.session.open(borrower)
        able = next((s for s in (self.stages[self.seen], *self.stages.values()) if s.can("borrow")), None)
        if able is not None:
            able.ask("borrow", full)

    # showing

    def dress(self) -> None:
        """Draw icons in the palette in force."""
        self.header.dress()
        self.transport.dress()

    def redraw(self) -> None:
        """Draw everything again: colours of roles have changed."""
        self.session.track.shown_changed.emit()
        for widget in self.findChildren(QWidget):
            widget.update()

    def toggle_night(self) -> None:
        """Swap paper for slate; the desktop is followed no more."""
        self.use_look(settings.NIGHT if Theme.palette is DAY else settings.DAY)

    def use_look(self, look: str) -> None:
        """Day, night, or as the desktop is, from now on."""
        settings.set_look(look)
        self.follow_desktop()

    def follow_desktop(self) -> None:
        """Wear what was chosen, or what the desktop wears."""
        self.set_night(style.is_night(settings.look()))

    def use_range(self, wanted: TempoRange | None) -> None:
        """Where tempi are expected from now on."""
        self.side.set_range(wanted)

    def set_night(self, night: bool) -> None:
        """Use the night or the day palette."""
        app = QApplication.instance()
        if isinstance(app, QApplication):
            style.apply(app, NIGHT if night else DAY)
        self.dress()
        self.update()

    def _library_changed(self, *what: object) -> None:
        if PROGRESS not in what:
            # what changes by the dozen is counted once
            self._count.start()
            self._choose_page()

    def _show_counts(self) -> None:
        for key, stage in self.stages.items():
            self.header.show_waiting(key, *stage.waiting())

    def _choose_page(self) -> None:
        there = self.session.library.any()
        page = 1 + list(self.stages).index(self.seen) if there else 0
        self.header.enable_stages(there)
        self._there = there
        self._fit()
        if page != self.pages.currentIndex():
            self.pages.setCurrentIndex(page)
            (self.stages[self.seen].first if there else self.first).setFocus()

    def _fit(self) -> None:
        """Where the window is narrow, the list makes room for the pictures, and buttons at the top say less."""
        narrow = self.width() < NARROW_PX
        wished = not narrow if self._list_wished is None else self._list_wished
        self.side.setVisible(self._there and wished and not self.stages[self.seen].own_side)
        self.header.show_short(narrow)
        self.transport.show_short(narrow)

    def toggle_list(self) -> None:
        """The list at the left, or room for the pictures."""
        self._list_wished = not self.side.isVisible()
        self._fit()
        if self.side.isVisible():
            self.list.setFocus()

    def resizeEvent(self, e: QResizeEvent | None) -> None:
        super().resizeEvent(e)
        self._fit()

    def _opened(self) -> None:
        self._show_track()
        row = self.session.track.row
        self.setWindowTitle(tr("{0} – Mervid").format(row.title) if row else tr("Mervid"))
        # who looks through the library reads it in a column
        if row is not None and not row.delay_known and not self.stages[self.seen].own_side:
            self.session.say.done(
                tr("{0} does not say its encoder's delay: other programs may place time zero 25 ms off.").format(
                    row.title
                )
            )

    def _ask_what_becomes(self, track_id: int) -> None:
        if self.session.track.is_open(track_id) and not self.findChildren(ReplacedDialog):
            ReplacedDialog(self, self.session.watch, track_id).open()

    def _show_track(self) -> None:
        self.header.show_track(self.stages[self.seen].undo_names())

    # files

    def dragEnterEvent(self, e: QDragEnterEvent | None) -> None:
        if e is not None and outward.is_from_outside(e.mimeData()):
            e.acceptProposedAction()

    def dropEvent(self, e: QDropEvent | None) -> None:
        mime = e.mimeData() if e is not None else None
        if e is None or mime is None or not outward.is_from_outside(mime):
            return
        self.session.queue.add_files(file_dialogs.dropped_paths(mime.urls()))
        e.acceptProposedAction()

    def closeEvent(self, e: QCloseEvent | None) -> None:
        finish_typing(self)
        kept = QSettings()
        kept.setValue("geometry", self.saveGeometry())
        kept.setValue("stage", self.seen)
        kept.setValue("looks", json.dumps({key: stage.looks() for key, stage in self.stages.items()}))
        self.session.whereabouts.keep()
        if self.board is not None:
            self.board.close()
        self._count.stop()
        self.session.close()
        super().closeEvent(e)


def _told(c: Command) -> Command:
    """A command in the language in force."""
    return attrs.evolve(c, words=tr(c.words), words_in_list=tr(c.words_in_list))
