"""What every stage has: a key and a title, named pages, a panel, its commands, and a count of what waits in it."""

from __future__ import annotations

from collections.abc import Callable
from functools import cache
from typing import Any, ClassVar

import attrs
from PyQt6.QtCore import Qt, pyqtBoundSignal, pyqtSignal
from PyQt6.QtWidgets import (
    QButtonGroup,
    QFrame,
    QHBoxLayout,
    QPushButton,
    QScrollArea,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from ..commands.command import Command, CommandSet, Table
from ..session import in_figures
from ..session.in_figures import InFigures
from ..session.session import Session

MOVE_KEYS = {Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_Home, Qt.Key.Key_End}
EDIT_KEYS = {Qt.Key.Key_Delete, Qt.Key.Key_Backspace, Qt.Key.Key_Return, Qt.Key.Key_Escape}
SIDEWAYS_KEYS = {Qt.Key.Key_Left, Qt.Key.Key_Right}
OwnKeys = list[tuple[QWidget, set[Qt.Key]]]
"""Widgets, and the keys that they keep from the window's commands."""


@attrs.frozen
class Page:
    """One page of a stage: its name in the code, its title on screen, a tip, and what is on it."""

    name: str
    title: str
    tip: str
    widget: QWidget


class Pages(QWidget):
    """Pages one of which is seen, under a row of tabs; what else belongs into that row is added to `row`."""

    turned = pyqtSignal(str)

    def __init__(self, pages: tuple[Page, ...]) -> None:
        super().__init__()
        self.setObjectName("paper")
        self.pages = pages
        self.row = QHBoxLayout()
        self.row.setContentsMargins(12, 0, 12, 0)
        self.row.setSpacing(4)
        self.tabs = QButtonGroup(self)
        self.stack = QStackedWidget()
        for i, page in enumerate(pages):
            b = QPushButton(page.title)
            b.setObjectName("page")
            b.setCheckable(True)
            b.setChecked(i == 0)
            b.setToolTip(page.tip)
            self.tabs.addButton(b, i)
            self.row.addWidget(b)
            self.stack.addWidget(page.widget)
        self.tabs.idClicked.connect(lambda i: self.turn_to(self.pages[i].name))
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(0, 4, 0, 0)
        self.column.setSpacing(2)
        self.column.addLayout(self.row)
        self.column.addWidget(self.stack, 1)

    @property
    def seen(self) -> str:
        """The name of the page that is seen."""
        return self.pages[self.stack.currentIndex()].name

    def turn_to(self, name: str) -> None:
        """Show a page."""
        index = next(i for i, page in enumerate(self.pages) if page.name == name)
        button = self.tabs.button(index)
        if button is not None:
            button.setChecked(True)
        self.stack.setCurrentIndex(index)
        self.turned.emit(name)

    def turn(self, name: str) -> None:
        """Show a page, or the first one again where it is seen already."""
        self.turn_to(self.pages[0].name if self.seen == name else name)


class Panel(QFrame):
    """The panel at the right of a stage; it scrolls where the window is low."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("readings")
        self.setFixedWidth(324)

    def body(self, spacing: int) -> QVBoxLayout:
        """The column that holds all of it."""
        self._body = body = QWidget()
        body.setObjectName("readingsBody")
        scroll = QScrollArea()
        scroll.setWidget(body)
        scroll.setWidgetResizable(True)
        scroll.setFrameShape(QFrame.Shape.NoFrame)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.addWidget(scroll)
        column = QVBoxLayout(body)
        column.setContentsMargins(14, 10, 16, 10)
        column.setSpacing(spacing)
        return column

    def fit(self) -> None:
        """As high as its rows need, at once: else rows that came are squeezed until the next painting."""
        column, wide = self._body.layout(), self._body.width()
        if column is not None:
            column.activate()
            self._body.resize(wide, max(self._body.height(), column.totalHeightForWidth(wide)))


Keys = Callable[[str, object], str]
"""The shortcut of a request (name, argument)."""


def asking(text: str, name: str, argument: object, tip: str, asked: pyqtBoundSignal, keys: Keys) -> QPushButton:
    """A button that asks for something; its tip tells the key."""
    b = QPushButton(text)
    b.setMinimumWidth(30)
    key = keys(name, argument)
    b.setToolTip(f"{tip} ({key})" if key else tip)
    b.clicked.connect(lambda: asked.emit(name, argument))
    return b


class Stage(QWidget):
    """One stage of the work.

    A subclass names itself, lists its sets of commands, builds itself over a session, and gives `use` one object of
    each set. `reading` is a line of words about what the mouse is over; `asked` comes from its buttons, for this stage
    or for all.
    """

    key: ClassVar[str] = ""
    title: ClassVar[str] = ""
    tip: ClassVar[str] = ""
    shortcut: ClassVar[str] = ""
    sets: ClassVar[tuple[type[CommandSet], ...]] = ()
    own_side: ClassVar[bool] = False
    """Whether it has what stands at the left of the others in itself."""
    guide: ClassVar[dict[str, tuple[str, str]]] = {}
    """Where the guide tells of each of its pages, by name: page and heading there; "" for the rest."""
    mouse: ClassVar[tuple[tuple[str, str], ...]] = ()
    """What hands can do in its views: the gesture, and what comes of it."""

    reading = pyqtSignal(str)
    asked = pyqtSignal(str, object)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("paper")
        self.session = session
        self._handlers: dict[str, Callable[[Any], object]] = {}

    @classmethod
    @cache
    def commands(cls) -> tuple[Command, ...]:
        """The commands of the stage."""
        return tuple(attrs.evolve(c, stage=cls.key) for s in cls.sets for c in s.commands())

    @classmethod
    def keys_of(cls, name: str, argument: object = None) -> str:
        """The shortcut of a request of this stage; empty where it has none."""
        return Table(cls.commands()).keys_of(name, argument)

    def use(self, *sets: CommandSet) -> None:
        """Let these carry out the requests."""
        for one in sets:
            self._handlers.update(one.handlers())

    def can(self, name: str) -> bool:
        """Whether this stage knows a request."""
        return name in self._handlers

    def ask(self, name: str, argument: object = None) -> None:
        """Carry out a request on the open track."""
        if self.session.track.row is not None:
            self._handlers[name](argument)

    def enter(self) -> None:
        """The stage is seen from now on."""

    def leave(self) -> None:
        """Another stage is seen from now on."""

    def looks(self) -> dict[str, float]:
        """How it is looked at, to be kept between sessions: zooms and the like, by name."""
        return {}

    def look_so(self, looks: dict[str, float]) -> None:
        """Be looked at as `looks` said."""

    @property
    def place(self) -> str:
        """The name of the page that is seen; empty where there is only one."""
        return ""

    def in_figures(self) -> list[InFigures]:
        """What its pictures show, as tables: of the open track, where a stage shows nothing else."""
        return in_figures.of_track(self.session.track)

    def undo_names(self) -> tuple[str | None, str | None] | None:
        """What undo and redo would touch here, where that isn't the open track."""
        return None

    def waiting(self) -> tuple[int, str]:
        """How many tracks wait in this stage, and what for: 'not checked yet'."""
        return 0, ""

    def own_keys(self) -> OwnKeys:
        """Which widgets keep which keys from the commands."""
        return []

    @property
    def first(self) -> QWidget:
        """What has the focus when the stage is entered."""
        return self
