"""The pad board: sixteen pads, two wheels and a fader in a small window, for who has no controller at hand.

It is a device like any other: what is struck here goes as MIDI bytes into the same place as a cable's, and its lights
come back as bytes.
"""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QCloseEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QWheelEvent
from PyQt6.QtWidgets import QAbstractButton, QGridLayout, QHBoxLayout, QSlider, QVBoxLayout, QWidget

from ...core.pads import messages
from ...core.pads.messages import CONTROL, LOW_BITS, MOST_FINE, NOTE, Control, Message
from ...core.pads.pad_map import LEVELS, Level, Press, Request, Turn
from ..commands.command import Table
from ..session.pads import Pads
from ..theme.style import Theme, font
from ..theme.tr import tr
from ..theme.words import Words
from .parts import KeepKeys

NAME = "Pad board"
FIRST_NOTE, WHEELS, FADER = 36, (20, 21), 7
ROWS = COLUMNS = 4
ARROWS = {Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_Left, Qt.Key.Key_Right}
_STRUCK = 100
_TICK_PX = 6
"""A wheel that is dragged so far turns by one tick."""


class PadBoard(QWidget):
    """A window of its own; it is plugged in while it is seen."""

    def __init__(self, parent: QWidget, pads: Pads, table: Callable[[], Table]) -> None:
        super().__init__(parent, Qt.WindowType.Tool)
        self.setObjectName("paper")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setWindowTitle(tr("Pad board"))
        self._pads, self._table = pads, table
        self.pads = [Pad(FIRST_NOTE + i) for i in range(ROWS * COLUMNS)]
        self.wheels = [Wheel(n) for n in WHEELS]
        self.fader = QSlider(Qt.Orientation.Vertical)
        self.fader.setRange(0, MOST_FINE)
        self.fader.setValue(MOST_FINE // 2)
        self.fader.setPageStep(MOST_FINE // 16)
        self.fader.setObjectName("fader")
        self.fader.setFixedWidth(34)
        self.fader.valueChanged.connect(self._faded)
        field = QGridLayout()
        field.setSpacing(8)
        for i, pad in enumerate(self.pads):
            # the lowest note lies below at the left, as hands on pads expect it; common practice, no source
            field.addWidget(pad, ROWS - 1 - i // COLUMNS, i % COLUMNS)
            pad.struck.connect(self._struck)
        self._under: dict[int, Words] = {}
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 14, 16, 14)
        row.setSpacing(18)
        row.addLayout(field)
        for widget, number in (*((w, w.number) for w in self.wheels), (self.fader, FADER)):
            words = Words("")
            words.setObjectName("faint")
            words.setWordWrap(True)
            words.setFixedSize(96, 84)
            words.setAlignment(Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignTop)
            self._under[number] = words
            column = QVBoxLayout()
            column.setSpacing(8)
            column.addWidget(widget, 0, Qt.AlignmentFlag.AlignHCenter)
            column.addWidget(words)
            column.addStretch(1)
            row.addLayout(column)
        # keys that aren't meant for the board go on to the window
        for some, keys in ((self.pads, {Qt.Key.Key_Space}), ([*self.wheels, self.fader], ARROWS)):
            for widget in some:
                widget.installEventFilter(KeepKeys(widget, keys))
        for wheel in self.wheels:
            wheel.turned.connect(self._turned)
        pads.changed.connect(self.name_all)
        self.name_all()

    # a device

    def showEvent(self, e: object) -> None:
        if NAME not in self._pads.ports.devices:
            self._pads.ports.plug(NAME, self)
        self.name_all()

    def closeEvent(self, e: QCloseEvent | None) -> None:
        self._pads.ports.unplug(NAME)
        super().closeEvent(e)

    def send(self, data: bytes) -> None:
        """A light goes on or off."""
        m = messages.read(data)
        if m is not None and m.control.kind == NOTE:
            for pad in self.pads:
                if pad.number == m.control.number:
                    pad.light(m.value > 0)

    def _give(self, message: Message) -> None:
        self._pads.ports.receive(NAME, messages.write(message))

    def _struck(self, number: int, velocity: int) -> None:
        self._give(Message(Control(NOTE, 1, number), velocity))

    def _turned(self, number: int, ticks: int) -> None:
        for _ in range(abs(ticks)):
            self._give(Message(Control(CONTROL, 1, number), 1 if ticks > 0 else 127))

    def _faded(self, value: int) -> None:
        self._give(Message(Control(CONTROL, 1, FADER), value >> 7))
        self._give(Message(Control(CONTROL, 1, FADER + LOW_BITS), value & 127))

    # what it says

    def name_all(self) -> None:
        """Write on each pad what it does."""
        found = self._pads.map_of(NAME)
        for pad in self.pads:
            b = found.at(Control(NOTE, 1, pad.number))
            pad.name(self._words(b.does) if isinstance(b, Press) else "")
        for number, label in self._under.items():
            b = found.at(Control(CONTROL, 1, number))
            words = self._words(b.on) if isinstance(b, Turn) else LEVELS[b.sets] if isinstance(b, Level) else "–"
            label.setText(words)
        for wheel in self.wheels:
            wheel.setAccessibleName(tr("Wheel: {0}").format(self._under[wheel.number].text()))
        self.fader.setAccessibleName(tr("Fader: {0}").format(self._under[FADER].text()))

    def _words(self, request: Request) -> str:
        meant = self._table().meant(request.name, request.argument, request.stage)
        return meant[0].words.split(":")[0].split(";")[0] if meant else request.name


class Pad(QAbstractButton):
    """One pad: `struck` with its note and how hard, 0 when it is let go."""

    struck = pyqtSignal(int, int)

    def __init__(self, number: int) -> None:
        super().__init__()
        self.number, self.lit = number, False
        self.setFixedSize(86, 62)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.pressed.connect(lambda: self.struck.emit(number, _STRUCK))
        self.released.connect(lambda: self.struck.emit(number, 0))

    def name(self, words: str) -> None:
        """What it does."""
        self.setText(words)
        self.setAccessibleName(words or tr("Pad {0}, nothing learned").format(self.number))
        self.setToolTip(tr("Note {0}").format(self.number))
        self.update()

    def light(self, lit: bool) -> None:
        """Lit or dark."""
        self.lit = lit
        self.update()

    def paintEvent(self, e: QPaintEvent | None) -> None:
        pal = Theme.palette
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        r = QRectF(self.rect()).adjusted(1.5, 1.5, -1.5, -1.5)
        ground, ink = ("ink", "paper") if self.lit else ("selected" if self.isDown() else "raised", "ink")
        p.setPen(QPen(pal.color("hand" if self.hasFocus() else "border"), 2.5 if self.hasFocus() else 1))
        p.setBrush(pal.color(ground))
        p.drawRoundedRect(r, 4, 4)
        p.setPen(pal.color(ink))
        p.setFont(font(8.5, bold=self.lit))
        flags = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap
        p.drawText(r.adjusted(5, 3, -5, -3), int(flags), self.text())
        p.end()


class Wheel(QWidget):
    """An endless wheel seen from the side: dragged, rolled or turned by the arrow keys; `turned` with its ticks."""

    turned = pyqtSignal(int, int)

    def __init__(self, number: int) -> None:
        super().__init__()
        self.number, self._at, self._held = number, 0, 0.0
        self.setFixedSize(QSize(46, 170))
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setToolTip(tr("Control {0}: drag, roll, or arrow keys").format(number))
        self.setCursor(Qt.CursorShape.SizeVerCursor)

    def turn(self, ticks: int) -> None:
        """By so many ticks, to the right positive."""
        if ticks:
            self._at += ticks
            self.update()
            self.turned.emit(self.number, ticks)

    def mousePressEvent(self, e: QMouseEvent | None) -> None:
        if e is not None:
            self._held = e.position().y()

    def mouseMoveEvent(self, e: QMouseEvent | None) -> None:
        if e is not None:
            ticks = int((self._held - e.position().y()) / _TICK_PX)
            self._held -= ticks * _TICK_PX
            self.turn(ticks)

    def wheelEvent(self, e: QWheelEvent | None) -> None:
        if e is not None:
            self.turn(round(e.angleDelta().y() / 120))

    def keyPressEvent(self, e: QKeyEvent | None) -> None:
        keys = {Qt.Key.Key_Up: 1, Qt.Key.Key_Right: 1, Qt.Key.Key_Down: -1, Qt.Key.Key_Left: -1}
        if e is not None and e.key() in keys:
            self.turn(keys[Qt.Key(e.key())])
        else:
            super().keyPressEvent(e)

    def paintEvent(self, e: QPaintEvent | None) -> None:
        pal = Theme.palette
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        r = QRectF(self.rect()).adjusted(1.5, 1.5, -1.5, -1.5)
        p.setPen(QPen(pal.color("hand" if self.hasFocus() else "border"), 2.5 if self.hasFocus() else 1))
        p.setBrush(pal.color("raised"))
        p.drawRoundedRect(r, 10, 10)
        p.setClipRect(r.adjusted(4, 4, -4, -4))
        step = 12.0
        y = r.bottom() - (self._at * _TICK_PX) % step
        k = 0
        while y > r.top():
            # flatter towards the edges, as a cylinder looks
            inset = 8 + 6 * abs(y - r.center().y()) / (r.height() / 2)
            p.setPen(QPen(pal.color("ink" if k % 3 == 0 else "border"), 1.4))
            p.drawLine(QPointF(r.left() + inset, y), QPointF(r.right() - inset, y))
            y -= step
            k += 1
        p.end()
