"""Align: tempo, pins, downbeats, drift. Joins what is shown to what can be done."""

from __future__ import annotations

from typing import ClassVar

from PyQt6.QtWidgets import QVBoxLayout, QWidget

from ....store import facts
from ...session.session import Session
from ...theme.tr import tr
from ...widgets.parts import edit_by_click_and_key
from ..frame import EDIT_KEYS, MOVE_KEYS, SIDEWAYS_KEYS, OwnKeys, Stage
from .beat_commands import BeatCommands
from .ear_commands import EarCommands
from .grid_commands import GridCommands
from .look_commands import LookCommands
from .part_commands import PartCommands
from .surface import ROWS, SPOTS, TABLE, TAP, AlignSurface


class AlignStage(Stage):
    """The grid of the open track."""

    key, title, shortcut = "align", "Align", "F3"
    tip = "Tempo, pins, downbeats, drift"
    sets = (LookCommands, EarCommands, GridCommands, BeatCommands, PartCommands)
    mouse = (
        ("Drag ink in the fold", "Pull it onto its thread: a hand pin, and the hearing is guided"),
        ("Ctrl+click in fold or close-up", "This hit is the beat"),
        ("Shift+drag in the overview", "Choose a part"),
        ("Drag a zone's edge in the overview", "Move the edge of a mix zone"),
        ("Shift while dragging", "No snapping to attacks"),
    )

    guide: ClassVar = {
        "": ("align", "Drifting tracks"),
        SPOTS: ("align", "The spot check"),
        TABLE: ("align", "The spot check"),
        TAP: ("ear", "Tapping"),
    }

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.view = AlignSurface(session, self.keys_of)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.view)
        self.look, self.ear = LookCommands(session, self.view), EarCommands(session, self.view)
        self.grid, self.beats = GridCommands(session, self.view), BeatCommands(session, self.view)
        self.parts = PartCommands(session, self.view)
        self.use(self.look, self.ear, self.grid, self.beats, self.parts)
        self._connect()

    def _connect(self) -> None:
        v, s, beats = self.view, self.session, self.beats
        s.track.opened.connect(self.grid.forget_point)
        for view in (v.overview, v.trace, v.fold, v.closeup, v.spots, v.tables):
            view.seek.connect(s.player.seek)
        v.overview.part_chosen.connect(s.part.choose)
        v.overview.dropped.connect(beats.let_go)
        v.overview.dropped.connect(lambda: s.part.choose(s.part.value))
        for table in (v.tables.pins, v.tables.bars):
            edit_by_click_and_key(table)
        v.overview.zones_moving.connect(lambda z, t: self.ask("zones", (z, t, False)))
        v.overview.zones_placed.connect(lambda z, t: self.ask("zones", (z, t, True)))
        v.fold.hovered.connect(self.reading)
        v.fold.pin_moving.connect(beats.fold_moving)
        v.fold.pin_placed.connect(beats.fold_placed)
        v.closeup.pin_moving.connect(beats.close_moving)
        v.closeup.pin_placed.connect(beats.close_placed)
        v.spots.pin_moving.connect(beats.spot_moving)
        v.spots.pin_placed.connect(beats.spot_placed)
        v.spots.chosen.connect(self.look.look_at_spot)
        v.spots.marked.connect(lambda i: self.ask("seen", i))
        v.tables.moved.connect(beats.pin_typed)
        v.tables.removed.connect(beats.pin_removed)
        for teller in (v.tables, v.line):
            teller.refused.connect(s.say.refused)
        for view in (v.fold, v.closeup):
            view.beat_picked.connect(lambda t: self.ask("beat", t))
        for view in (v.fold, v.closeup, v.spots):
            view.dropped.connect(beats.let_go)
        for view in (v.closeup, v.trace):
            view.pin_chosen.connect(v.choose_pin)
        v.pad.tapped.connect(lambda down, since: s.tapping.tap(down=down, ago=since))
        v.pad.left.connect(self.ear.left_pad)
        v.pad.taken.connect(lambda: self.ask("tap-use"))
        for asker in (v, v.panel):
            asker.asked.connect(self.asked)

    def leave(self) -> None:
        self.session.listening.end_tour()

    @property
    def place(self) -> str:
        return self.view.pages.seen

    def waiting(self) -> tuple[int, str]:
        return facts.unchecked(self.session.library), tr("not checked yet")

    def looks(self) -> dict[str, float]:
        return {"rows": self.view.fold.bars, "closeup": self.view.closeup.span}

    def look_so(self, looks: dict[str, float]) -> None:
        if looks.get("rows") in ROWS:
            self.view.show_rows(int(looks["rows"]))
        closeup = self.view.closeup
        closeup.zoom(looks.get("closeup", closeup.span) / closeup.span)

    def own_keys(self) -> OwnKeys:
        v = self.view
        return [
            (v.panel.cues, MOVE_KEYS | EDIT_KEYS),
            *((t, MOVE_KEYS | EDIT_KEYS) for t in (v.tables.pins, v.tables.bars, v.tables.spots)),
            *((s.slider, MOVE_KEYS | SIDEWAYS_KEYS) for s in v.panel.tolerances),
        ]

    @property
    def first(self) -> QWidget:
        return self.view.fold
