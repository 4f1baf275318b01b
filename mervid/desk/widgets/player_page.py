"""A player that stands in for club gear: what it has of a track, played with its few keys."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QButtonGroup, QFrame, QGridLayout, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from ...core.cues import player_profile
from ...core.cues.player_profile import Arrival, Gear
from ...core.form import phrase_edits
from ...core.model.cue import SLOTS, Cue
from ...core.model.preparation import Preparation
from ..theme.palette import letter_of, role_inks
from ..theme.style import Theme
from ..theme.tr import tr
from ..theme.words import Words, tip_of
from .parts import heading, restyle


class SlotButton(QPushButton):
    """One hot cue of the player: its slot, role and name."""

    def __init__(self, number: int) -> None:
        super().__init__()
        self.number = number
        self.setMinimumHeight(44)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self._lines = ("", "")

    def resizeEvent(self, e: QResizeEvent | None) -> None:
        super().resizeEvent(e)
        self._fit()

    def _fit(self) -> None:
        """Both lines, as far as there is room."""
        room, end = self.width() - 18, Qt.TextElideMode.ElideRight
        self.setText("\n".join(self.fontMetrics().elidedText(line, end, room) for line in self._lines))

    def show_cue(self, cue: Cue | None, where: str) -> None:
        """What is in this slot."""
        self.setEnabled(cue is not None)
        if cue is None:
            self._lines = (str(self.number + 1), "empty")
            self._fit()
            self.setStyleSheet("")
            self.setAccessibleName(tr("Slot {0}, empty").format(self.number + 1))
            return
        hue, letter = role_inks(Theme.palette, cue.role)[0].name(), letter_of(cue.role)
        self._lines = (f"{self.number + 1}{letter} {cue.name}", where)
        self._fit()
        self.setStyleSheet(f"border-left: 7px solid {hue}; padding: 3px 3px;")
        self.setAccessibleName(tr("Slot {0}: {1}, {2}").format(self.number + 1, cue.name, cue.role))
        self.setToolTip(
            tip_of(tr("{0}, {1}: plays at once, on the beat ({2})").format(cue.name, cue.role, self.number + 1))
        )


class PlayerPage(QWidget):
    """Emits what is pressed; the stage knows what plays."""

    gear_chosen = pyqtSignal(object)
    hit = pyqtSignal(str)
    waited = pyqtSignal(str)
    loaded = pyqtSignal()
    stepped = pyqtSignal(int)
    started = pyqtSignal()
    completed = pyqtSignal()

    def __init__(self, *, kinds: tuple[Gear, ...] = player_profile.GEARS) -> None:
        super().__init__()
        self.setObjectName("paper")
        self.kinds = kinds
        self.gear: Gear = player_profile.EIGHT
        self.standing: list[Cue] = []
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 4, 12, 6)
        column.setSpacing(5)
        head = QHBoxLayout()
        head.setSpacing(4)
        self.label = Words(tr("A player with") if kinds else "")
        self.label.setObjectName("faint")
        head.addWidget(self.label)
        self.gears = QButtonGroup(self)
        for i, g in enumerate(kinds):
            b = QPushButton(g.name)
            b.setCheckable(True)
            b.setChecked(i == 0)
            b.setMinimumWidth(b.sizeHint().width())
            self.gears.addButton(b, i)
            head.addWidget(b)
        self.gears.idClicked.connect(lambda i: self.gear_chosen.emit(kinds[i]))
        head.addStretch(1)
        self.warning = Words("")
        self.warning.setWordWrap(True)
        self.add = QPushButton(tr("Add what is missing"))
        self.add.setToolTip(tr("Keep as standby cues, too, what this player would lose"))
        self.add.clicked.connect(self.completed)
        self.add.setMinimumWidth(self.add.sizeHint().width())
        self.add.setVisible(bool(kinds))
        column.addLayout(head)
        told = QHBoxLayout()
        told.addWidget(self.warning, 1)
        told.addWidget(self.add)
        column.addLayout(told)
        body = QHBoxLayout()
        body.setSpacing(10)
        body.addLayout(self._front(), 0)
        body.addWidget(self._slots(), 1)
        body.addLayout(self._waits(), 0)
        column.addLayout(body, 1)

    def _front(self) -> QVBoxLayout:
        """Load, step along the standby cues, go; and the countdown."""
        column = QVBoxLayout()
        column.setSpacing(4)
        self.load = QPushButton(tr("Load"))
        self.load.setToolTip(tr("As a player does: it stands at the first standby cue, or at the beginning"))
        self.load.clicked.connect(self.loaded)
        self.back, self.on = QPushButton(tr("Cue back")), QPushButton(tr("Cue on"))
        self.back.setToolTip(tr("Jump to the standby cue before and wait there"))
        self.on.setToolTip(tr("Jump to the next standby cue and wait there"))
        self.back.clicked.connect(lambda: self.stepped.emit(-1))
        self.on.clicked.connect(lambda: self.stepped.emit(1))
        self.go = QPushButton(tr("Go"))
        self.go.setToolTip(tr("Play from here, or stop (Space)"))
        self.go.clicked.connect(self.started)
        row = QHBoxLayout()
        row.setSpacing(4)
        row.addWidget(self.back)
        row.addWidget(self.on)
        column.addWidget(self.load)
        column.addLayout(row)
        column.addWidget(self.go)
        self.count = Words("–")
        self.count.setObjectName("figure")
        self.count.setToolTip(tr("Bars and beats until the next cue"))
        self.count_words = Words("")
        self.count_words.setObjectName("faint")
        column.addWidget(self.count)
        column.addWidget(self.count_words)
        column.addStretch(1)
        return column

    def _slots(self) -> QWidget:
        box = QFrame()
        grid = QGridLayout(box)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setSpacing(5)
        self.none = Words(tr("This player has no hot cues: only standby cues help on it."))
        self.none.setObjectName("faint")
        self.none.setWordWrap(True)
        self.none.setAlignment(Qt.AlignmentFlag.AlignCenter)
        grid.addWidget(self.none, 0, 0, 2, 4)
        self.slots: list[SlotButton] = []
        for n in range(SLOTS):
            b = SlotButton(n)
            b.clicked.connect(lambda _=False, n=n: self._hit(n))
            self.slots.append(b)
            grid.addWidget(b, n // 4, n % 4)
        return box

    def _waits(self) -> QVBoxLayout:
        column = QVBoxLayout()
        column.setSpacing(3)
        column.addWidget(heading(tr("STANDBY CUES")))
        self.waits = [QPushButton("") for _ in range(5)]
        for k, b in enumerate(self.waits):
            b.setObjectName("plain")
            b.setMinimumWidth(180)
            b.clicked.connect(lambda _=False, k=k: self._wait(k))
            column.addWidget(b)
        self.more = Words("")
        self.more.setObjectName("faint")
        column.addWidget(self.more)
        column.addStretch(1)
        return column

    def _hit(self, number: int) -> None:
        cue = self.hot[number] if number < len(self.hot) else None
        if cue is not None:
            self.hit.emit(cue.id)

    def _wait(self, k: int) -> None:
        if k < len(self.standing):
            self.waited.emit(self.standing[k].id)

    # what is shown

    def show_arrival(self, p: Preparation, kind: Gear, arrival: Arrival) -> None:
        """What this player has of the track."""
        self.gear, self.hot = kind, arrival.hot
        self.standing = list(arrival.standby)
        button = self.gears.button(self.kinds.index(kind)) if kind in self.kinds else None
        if button is not None:
            button.setChecked(True)
        if not self.kinds:
            self.label.setText(kind.name)

        def where(c: Cue) -> str:
            if p.grid is None or c.beat is None:
                return "free"
            return tr("bar {0}").format(phrase_edits.bar_of(p.grid, c.beat, p.origin))

        for n, b in enumerate(self.slots):
            b.setVisible(n < kind.slots)
            cue = arrival.hot[n] if n < kind.slots else None
            b.show_cue(cue, where(cue) if cue is not None else "")
        self.none.setVisible(kind.slots == 0)
        for k, wait in enumerate(self.waits):
            wait.setVisible(k < len(self.standing))
            if k < len(self.standing):
                c = self.standing[k]
                wait.setText(f"{letter_of(c.role)} {c.name}, {where(c)}".strip())
        rest = len(self.standing) - len(self.waits)
        self.more.setText(tr("and {0} more").format(rest) if rest > 0 else "" if self.standing else tr("none"))
        for step in (self.back, self.on):
            step.setEnabled(bool(self.standing))
        self.add.setEnabled(bool(arrival.lost) and not p.locked)
        words = " ".join(arrival.warnings) or tr("Every cue is there on this player.")
        self.warning.setObjectName("warn" if arrival.warnings else "faint")
        restyle(self.warning)
        self.warning.setText(words)

    def show_countdown(self, bars: str, name: str, playing: bool) -> None:
        """Bars and beats until the next cue."""
        self.count.setText(bars)
        self.count_words.setText(tr("until {0}").format(name) if name else tr("no cue ahead"))
        self.go.setText(tr("Stop") if playing else tr("Go"))
