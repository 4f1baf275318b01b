"""The transport along the bottom: play, where we are, the tempo here, reference beat, loop, speed, and the output."""

from __future__ import annotations

import math

from PyQt6.QtCore import QSize, Qt
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QMenu, QPushButton, QSlider, QToolButton, QVBoxLayout

from ...core.form import phrase_edits
from ...core.playing import reference_beat
from ..session.listening import LOOPS, Mix
from ..session.session import Session
from ..theme.figures import clock
from ..theme.style import Theme, icon
from ..theme.tr import tr
from ..theme.words import Words, tip_of
from .figure import Figure

OUTPUT_PX, OUTPUT_SHORT_PX = 150, 44
SAME = 1e-6
"""Beats nearer than this are one."""


class Transport(QFrame):
    """Shows position and output, and hands what is asked for to the player and to the listening."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("transport")
        self._track, self._player, self._listening = session.track, session.player, session.listening
        self.pattern = reference_beat.CLICK
        self._short, self._output_name = False, ""
        self.halves = False
        self.play = QPushButton()
        self.play.setAccessibleName(tr("Play or pause"))
        self.play.setToolTip(tr("Play or pause (Space)"))
        self.play.setIconSize(QSize(22, 22))
        self.play.setFixedSize(48, 40)
        self.play.clicked.connect(self._player.toggle)
        self.place = Figure("–", 62, tr("Bar and beat"), tr("Bar and beat"))
        self.time = Figure("0:00.000", 100, tr("Time"), tr("Where the playhead is"))
        self.tempo = Figure("–", 72, tr("Tempo here"), tr("Tempo of the grid at the playhead"))
        self.to_phrase = Figure(
            "–", 56, tr("To phrase"), tr("Bars and beats until the next phrase begins, counting down")
        )
        self.to_cue = Figure("–", 56, tr("To cue"), tr("Bars and beats until the next cue, counting down"))
        self._counted: object = None
        row = QHBoxLayout(self)
        row.setContentsMargins(12, 6, 14, 6)
        row.setSpacing(8)
        row.addWidget(self.play)
        for name, label in (
            (tr("BAR.BEAT"), self.place),
            (tr("TIME"), self.time),
            (tr("TEMPO HERE"), self.tempo),
            (tr("TO PHRASE"), self.to_phrase),
            (tr("TO CUE"), self.to_cue),
        ):
            row.addLayout(_named(name, label))
        row.addLayout(self._reference())
        row.addLayout(self._rounds())
        row.addStretch(1)
        self.hover = Words("")
        self.hover.setObjectName("faint")
        self.hover.setMinimumWidth(1)
        self.output = QToolButton()
        self.output.setObjectName("plain")
        self.output.setToolTip(tr("Where the sound goes: choose an output"))
        self.output.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        self.output_menu = QMenu(self.output)
        self.output_menu.aboutToShow.connect(self._fill_outputs)
        self.output.setMenu(self.output_menu)
        side = QVBoxLayout()
        side.setSpacing(0)
        self.hover.setAlignment(Qt.AlignmentFlag.AlignRight)
        side.addWidget(self.hover)
        side.addWidget(self.output, 0, Qt.AlignmentFlag.AlignRight)
        row.addLayout(side)
        self.name_pattern()
        self._show_program()
        self.show_output(self._player.output_name)
        self.dress()
        self._connect()

    def _connect(self) -> None:
        player, track = self._player, self._track
        player.playing_changed.connect(self.dress)
        player.output_changed.connect(self.show_output)
        player.moved.connect(self._show_position)
        track.opened.connect(self._show_position)
        track.shown_changed.connect(self._show_position)
        self._listening.changed.connect(self._show_program)
        self._listening.beat_wanted.connect(lambda: self.click.setChecked(True))

    def _reference(self) -> QVBoxLayout:
        """Reference beat: on or off, which, how it stands to the track, and one ear each."""
        self.click = QPushButton(tr(" Beat"))
        self.click.setCheckable(True)
        self.click.setAccessibleName(tr("Reference beat"))
        self.click.setToolTip(tr("Reference beat along the grid, on or off (K)"))
        self.choice = QToolButton()
        self.choice.setObjectName("plain")
        self.choice.setToolTip(tr("Which reference beat (Shift+K changes)"))
        self.choice.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        menu = QMenu(self.choice)
        for name in reference_beat.PATTERNS:
            menu.addAction(name.capitalize(), lambda n=name: self.use_pattern(n))
        menu.addSeparator()
        self.halves_action = menu.addAction(tr("Half-beats, too\tAlt+K"), self.toggle_halves)
        assert self.halves_action is not None
        self.halves_action.setCheckable(True)
        self.choice.setMenu(menu)
        self.balance = QSlider(Qt.Orientation.Horizontal)
        self.balance.setRange(-100, 100)
        self.balance.setValue(0)
        self.balance.setFixedWidth(84)
        self.balance.setAccessibleName(tr("Balance between track and reference beat"))
        self.balance.setToolTip(tr("Balance: the track alone at the left, the reference beat alone at the right"))
        self.split = QPushButton(tr("Split"))
        self.split.setCheckable(True)
        self.split.setToolTip(
            tr("Track in the left ear, reference beat in the right: a flam is heard best so (Ctrl+K)")
        )
        self.click.toggled.connect(self._sound)
        self.balance.valueChanged.connect(self._sound)
        self.split.toggled.connect(self._sound)
        column, head, row = QVBoxLayout(), QHBoxLayout(), QHBoxLayout()
        column.setSpacing(1)
        head.setSpacing(5)
        row.setSpacing(5)
        head.addWidget(self.click)
        head.addWidget(self.choice)
        head.addStretch(1)
        for name, widget in (("track", self.balance), ("beat", None)):
            label = Words(name)
            label.setObjectName("faint")
            row.addWidget(label)
            if widget is not None:
                row.addWidget(widget)
        row.addWidget(self.split)
        row.addStretch(1)
        column.addLayout(head)
        column.addLayout(row)
        return column

    def _rounds(self) -> QVBoxLayout:
        """Loop and half speed."""
        self.loop = QPushButton(tr("Loop"))
        self.loop.setCheckable(True)
        self.loop.setToolTip(tr("Go round from the bar at the playhead, or round the chosen part; seamless (Ctrl+J)"))
        self.loop.clicked.connect(self._listening.toggle_loop)
        self.length = QToolButton()
        self.length.setObjectName("plain")
        self.length.setToolTip(tr("How long the loop is (Alt+Up and Alt+Down)"))
        self.length.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        menu = QMenu(self.length)
        for n in LOOPS:
            menu.addAction(_bars(n), lambda n=n: self._listening.set_length(n))
        self.length.setMenu(menu)
        self.half = QPushButton(tr("Half speed"))
        self.half.setCheckable(True)
        self.half.setToolTip(tr("Half speed, an octave lower: a flam lasts twice as long (Alt+H)"))
        self.half.clicked.connect(self._listening.toggle_half)
        column, head = QVBoxLayout(), QHBoxLayout()
        column.setSpacing(1)
        head.setSpacing(5)
        head.addWidget(self.loop)
        head.addWidget(self.length)
        column.addLayout(head)
        column.addWidget(self.half, 0, Qt.AlignmentFlag.AlignLeft)
        return column

    # reference beat

    @property
    def mix(self) -> Mix:
        """What the reference beat is set to."""
        beat = self.pattern if self.click.isChecked() else reference_beat.OFF
        return Mix(beat, self.halves, self.balance.value() / 100, self.split.isChecked())

    def use_pattern(self, name: str) -> None:
        """Choose a reference beat, and hear it."""
        self.pattern = name
        self.name_pattern()
        if self.click.isChecked():
            self._sound()
        else:
            self.click.setChecked(True)

    def next_pattern(self) -> None:
        """The reference beat after this one."""
        at = reference_beat.PATTERNS.index(self.pattern)
        self.use_pattern(reference_beat.PATTERNS[(at + 1) % len(reference_beat.PATTERNS)])

    def toggle_halves(self) -> None:
        """Half-beats on or off."""
        self.halves = not self.halves
        self.name_pattern()
        self._sound()

    def name_pattern(self) -> None:
        """Say which reference beat is chosen."""
        self.choice.setText(f"{self.pattern.capitalize()}{' + ½' if self.halves else ''} ▾")
        if self.halves_action is not None:
            self.halves_action.setChecked(self.halves)

    def _sound(self, *_: object) -> None:
        self._dress_click()
        self._listening.use_mix(self.mix)

    # what is shown

    def dress(self) -> None:
        """Draw the icons in the palette's ink."""
        self.play.setIcon(icon("pause" if self._player.playing else "play", Theme.palette.ink, 22))
        self._dress_click()

    def _dress_click(self) -> None:
        checked = self.click.isChecked()
        self.click.setIcon(icon("click", Theme.palette.paper if checked else Theme.palette.ink, 16))

    def _show_program(self) -> None:
        """Loop and speed as they are."""
        program = self._player.program
        self.loop.setChecked(program is not None and program.loop is not None)
        self.half.setChecked(program is not None and program.half)
        text = _bars(self._listening.loop_bars)
        if program is not None and program.loop is not None and program.grid is not None:
            beat, end = (float(b) for b in program.grid.beat_at(program.loop))
            bars = (end - beat) / program.grid.beats_per_bar(beat + 0.01)
            text = _bars(round(bars)) if abs(bars - round(bars)) < 0.02 else tr("{0:.0f} beats").format(end - beat)
        self.length.setText(f"{text} ▾")

    def show_output(self, name: str) -> None:
        """Say where the sound goes."""
        self._output_name = name
        room = OUTPUT_SHORT_PX if self._short else OUTPUT_PX
        text = self.output.fontMetrics().elidedText(name, Qt.TextElideMode.ElideRight, room)
        self.output.setText(f"{text} ▾")
        self.output.setAccessibleName(tr("Output: {0}").format(name))
        self.output.setToolTip(tip_of(tr("{0}. Choose where the sound goes").format(name)))

    def show_short(self, short: bool) -> None:
        """Say less of the output, where there is no room."""
        if short != self._short:
            self._short = short
            self.hover.setVisible(not short)
            self.show_output(self._output_name)

    def _fill_outputs(self) -> None:
        menu, player = self.output_menu, self._player
        menu.clear()
        for key, name in player.devices.items():
            action = menu.addAction(name, lambda k=key: player.choose_output(k))
            if action is not None:
                action.setCheckable(True)
                action.setChecked(player.output_name == name)
        menu.addAction(tr("Silent clock"), lambda: player.choose_output(""))
        menu.addSeparator()
        menu.addAction(tr("Look for devices again"), player.look)

    def _show_position(self) -> None:
        """Bar.beat, time and tempo at the playhead; bars and beats until the next phrase and the next cue."""
        position, marks = self._player.position, self._listening.landmarks()
        self.time.show_text(clock(position, digits=3))
        if marks is None:
            self._counted = None
            for figure in (self.place, self.tempo, self.to_phrase, self.to_cue):
                figure.show_text("–")
            return
        grid, origin = marks.grid, marks.origin
        beat = float(grid.beat_at(position))
        goals = tuple(next((g for g in some if g > beat + SAME), None) for some in (marks.starts, marks.cues))
        # what is counted in whole beats changes with the beat, not with the frame
        left = tuple(None if g is None else math.ceil(g - beat - SAME) for g in goals)
        counted = (grid, origin, goals, left, math.floor(beat + SAME), grid.span_at(position))
        if counted == self._counted:
            return
        self._counted = counted
        self.place.show_text(phrase_edits.place_of(grid, beat, origin))
        self.tempo.show_text(f"{grid.tempo_at(position):.2f}")
        for figure, goal in zip((self.to_phrase, self.to_cue), goals, strict=True):
            figure.show_text("–" if goal is None else phrase_edits.until(grid, beat, goal))


def _bars(n: int) -> str:
    return f"{n} bar{'s' if n > 1 else ''}"


def _named(name: str, figure: Figure) -> QVBoxLayout:
    head = Words(name)
    head.setObjectName("heading")
    column = QVBoxLayout()
    column.setSpacing(0)
    column.addWidget(head)
    column.addWidget(figure)
    return column
