"""Rehearse: lay the beginning of one track over the end of another, hear it, and see whether it holds."""

from __future__ import annotations

from typing import Any, ClassVar

import attrs
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from ....core.errors import Refused
from ....core.figures import signed
from ....core.pairs import tying
from ....core.pairs.meeting import MOST_NUDGE_MS
from ....core.pairs.tying import Tie
from ...session import in_figures
from ...session.in_figures import InFigures
from ...session.session import Session
from ...theme.tr import tr
from ..frame import EDIT_KEYS, MOVE_KEYS, SIDEWAYS_KEYS, OwnKeys, Stage
from .commands import PairCommands
from .keeping_commands import KeepingCommands
from .surface import LIST, RehearseSurface


class RehearseStage(Stage):
    """The open track comes in over the one that leaves."""

    key, title, shortcut = "rehearse", "Rehearse", "F5"
    tip = "Two tracks together, by ear and by figure"
    sets = (PairCommands, KeepingCommands)
    mouse = (
        ("Drag a ladder of the zipper", "Meet elsewhere in that track, by bars"),
        ("Drag the lower end of the overlap", "A longer or shorter overlap"),
        ("Drag sideways in the fold", "Hold the coming track back or push it on"),
        (
            "Shift+drag ink in the fold",
            "Pull one beat onto its thread: above of the leaving, below of the coming track",
        ),
        ("Click in the fold or the tear line", "Play from there"),
        ("Click a cell of the matrix", "Rehearse that pair"),
    )

    guide: ClassVar = {"": ("rehearse", "What you see"), LIST: ("rehearse", "The pairs of a list")}

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.view = RehearseSurface(session, self.keys_of)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.view)
        self.pair, self.keeping = PairCommands(session, self.view), KeepingCommands(session, self.view)
        self.use(self.pair, self.keeping)
        self._connect()

    def _connect(self) -> None:
        v, s = self.view, self.session
        for view in (v.fold, v.line):
            view.seek.connect(s.player.seek)
            view.hovered.connect(self.reading)
        v.fold.pushing.connect(self._pushing)
        v.fold.pushed.connect(lambda by: self.ask("nudge", round(by, 1)))
        v.fold.pulling.connect(self._pulling)
        v.fold.pulled.connect(self._pulled)
        v.fold.dropped.connect(v.refresh)
        v.zipper.hovered.connect(self.reading)
        v.zipper.sliding.connect(self._sliding)
        v.zipper.slid.connect(lambda what, bars: self.ask("slid", (what, bars)))
        v.zipper.dropped.connect(v.refresh)
        v.values.refused.connect(s.say.refused)
        v.panel.asked.connect(self.asked)
        v.list.asked.connect(self.asked)
        v.list.plan.chosen.connect(lambda a, b: self.ask("pair", (a, b)))
        v.list.plan.noted.connect(lambda a, b, text: self.ask("note", (a, b, text)))
        v.list.plan.shifted.connect(lambda place, step: self.ask("shift", (place, step)))
        v.list.matrix.chosen.connect(lambda a, b: self.ask("pair", (a, b)))
        v.list.matrix.hovered.connect(self.reading)

    def _pushing(self, by: float) -> None:
        """What holding back by so many ms would give."""
        p = self.session.pairing
        if p.meeting is None:
            return
        tried = attrs.evolve(p.meeting, nudge=max(-MOST_NUDGE_MS, min(MOST_NUDGE_MS, round(p.meeting.nudge + by, 1))))
        judged = p.try_out(tried)
        if judged is not None:
            self.view.show_as(tried, judged)
            self.reading.emit(tr("{0}: 95 % within {1:.0f} ms").format(signed(by, "ms"), judged.line.p95 or 0))

    def _tie(self, coming: bool, mix: float, beat: float) -> Tie | None:
        p = self.session.pairing
        if p.leaving is None or p.coming is None or p.judged is None:
            return None
        return tying.by_hand(p.leaving, p.coming, p.judged.together, coming, mix, beat)

    def _pulling(self, coming: bool, mix: float, beat: float) -> None:
        """What ink would look like where the hand has it."""
        p, tie = self.session.pairing, self._tie(coming, mix, beat)
        if tie is None or p.leaving is None or p.coming is None or p.judged is None:
            return
        try:
            together = tying.tried(p.leaving, p.coming, p.judged.together.meeting, tie)
        except Refused:
            return
        self.view.fold.show_meeting(together, p.judged.line)
        words = tr("bar {0} of the overlap: {1} beside its beat")
        self.reading.emit(words.format(tie.bar + 1, signed(tie.off, "ms")))

    def _pulled(self, coming: bool, mix: float, beat: float) -> None:
        tie = self._tie(coming, mix, beat)
        self.reading.emit("")
        if tie is not None:
            self.ask("pull", tie)
        else:
            self.view.refresh()

    def _sliding(self, what: str, bars: int) -> None:
        """What another place would give."""
        tried = self.pair.view_after(what, bars)
        judged = self.session.pairing.try_out(tried) if tried is not None else None
        if tried is not None and judged is not None:
            self.view.show_as(tried, judged)

    def ask(self, name: str, argument: Any = None) -> None:
        """Carry out a request; a pair can be chosen before any track is open."""
        self._handlers[name](argument)

    def enter(self) -> None:
        self.session.duet.activate(True)
        self.session.pairing.activate(True)
        self.session.pair_table.activate(self.view.pages.seen == LIST)

    def leave(self) -> None:
        self.view.values.close_line()
        self.session.pairing.activate(False)
        self.session.duet.activate(False)
        self.session.pair_table.activate(False)

    def undo_names(self) -> tuple[str | None, str | None] | None:
        return self.session.pairing.names()

    def in_figures(self) -> list[InFigures]:
        return in_figures.of_pair(self.session.pairing)

    @property
    def place(self) -> str:
        return self.view.pages.seen

    def own_keys(self) -> OwnKeys:
        moves = MOVE_KEYS | EDIT_KEYS
        return [(self.view.list.plan, moves), (self.view.list.matrix, moves | SIDEWAYS_KEYS)]

    @property
    def first(self) -> QWidget:
        return self.view.fold
