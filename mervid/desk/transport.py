"""The transport along the bottom: play, where we are, the tempo here, the click, and what makes the sound."""

from __future__ import annotations

from PyQt6.QtCore import QSize, Qt, pyqtSignal
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QLabel, QPushButton, QSlider, QVBoxLayout

from ..core.grid import Grid
from .theme.style import Theme, icon
from .words import clock


class Transport(QFrame):
    """Shows position and output; says what is asked for."""

    play_pressed = pyqtSignal()
    click_changed = pyqtSignal(bool, float)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("transport")
        self.play = QPushButton()
        self.play.setAccessibleName("Play or pause")
        self.play.setToolTip("Play or pause (Space)")
        self.play.setIconSize(QSize(22, 22))
        self.play.setFixedSize(48, 40)
        self.play.clicked.connect(self.play_pressed)
        self.place = QLabel("–")
        self.place.setObjectName("figure")
        self.place.setMinimumWidth(96)
        self.place.setToolTip("Bar and beat")
        self.time = QLabel("0:00.000")
        self.time.setObjectName("figure")
        self.time.setMinimumWidth(128)
        self.tempo = QLabel("–")
        self.tempo.setObjectName("figure")
        self.tempo.setMinimumWidth(110)
        self.click = QPushButton(" Click")
        self.click.setCheckable(True)
        self.click.setToolTip("A click on every beat of the grid, higher on downbeats (K)")
        self.level = QSlider(Qt.Orientation.Horizontal)
        self.level.setRange(0, 100)
        self.level.setValue(70)
        self.level.setFixedWidth(96)
        self.level.setAccessibleName("Click level")
        self.level.setToolTip("Click level")
        self.click.toggled.connect(self._click)
        self.level.valueChanged.connect(self._click)
        self.hover = QLabel("")
        self.hover.setObjectName("faint")
        self.output = QLabel("")
        self.output.setObjectName("faint")
        self.output.setToolTip("Where the sound goes")
        row = QHBoxLayout(self)
        row.setContentsMargins(12, 6, 14, 6)
        row.setSpacing(14)
        row.addWidget(self.play)
        for name, label in (("BAR.BEAT", self.place), ("TIME", self.time), ("TEMPO HERE", self.tempo)):
            row.addLayout(_named(name, label))
        row.addSpacing(6)
        row.addWidget(self.click)
        row.addWidget(self.level)
        row.addStretch(1)
        side = QVBoxLayout()
        side.setSpacing(1)
        for label in (self.hover, self.output):
            label.setAlignment(Qt.AlignmentFlag.AlignRight)
            side.addWidget(label)
        row.addLayout(side)
        self.dress(False)

    def dress(self, playing: bool) -> None:
        """Draw the icons in the palette's ink."""
        ink = Theme.palette.ink
        self.play.setIcon(icon("pause" if playing else "play", ink, 22))
        checked = Theme.palette.paper if self.click.isChecked() else ink
        self.click.setIcon(icon("click", checked, 16))

    def _click(self, *_: object) -> None:
        checked = self.click.isChecked()
        self.click.setIcon(icon("click", Theme.palette.paper if checked else Theme.palette.ink, 16))
        self.click_changed.emit(checked, self.level.value() / 100)

    def show_position(self, position: float, grid: Grid | None) -> None:
        """Bar.beat, time and tempo at the playhead."""
        self.time.setText(clock(position, digits=3))
        if grid is None:
            self.place.setText("–")
            self.tempo.setText("–")
            return
        self.place.setText(grid.name_at(float(grid.beat_at(position))))
        self.tempo.setText(f"{grid.tempo_at(position):.2f}")


def _named(name: str, label: QLabel) -> QVBoxLayout:
    head = QLabel(name)
    head.setObjectName("heading")
    column = QVBoxLayout()
    column.setSpacing(0)
    column.addWidget(head)
    column.addWidget(label)
    return column
