"""The first ten minutes: eight steps on the demo set, each noticed when it was done.

A step looks at what is true in the session, not at which button was pressed, so that every way of doing it counts.
"""

from __future__ import annotations

from collections.abc import Callable

import attrs
from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from ... import places
from ...core.playing import reference_beat
from ...store.track import READY
from ..theme.tr import marked
from .delivering import Delivering
from .listening import Listening
from .open_track import OpenTrack
from .pairing import Pairing

LOOK_MS = 250
FIRST, SECOND = "Copper Ferry", "Pontoon Static"
FOLLOWED_PINS = 4
"""A grid that follows a drummer has at least so many pins; a steady one has two."""


@attrs.frozen
class Step:
    """One thing to look at, one thing to do.

    Attributes
    ----------
    stage : where it is done
    look, do : sentences
    button, request, argument : what does it, or leads to it, where a button can; empty where only a hand can
    """

    title: str
    stage: str
    look: str
    do: str
    button: str = ""
    request: str = ""
    argument: object = None


STEPS = (
    Step(
        marked("Hear a live drummer"), "gather",
        marked("Eight recordings come in and are heard. A drummer played Copper Ferry: its tempo is a range."),
        marked("Wait until Copper Ferry has a tempo, choose it in the table and press Enter: it opens in Align."),
        marked("Take in the demo set"), "demo",
    ),
    Step(
        marked("See him drift"), "align",
        marked("The fold is the track cut at every bar and stacked. Under one steady tempo its ink wanders."),
        marked("Press S: one steady tempo. Look how the threads bend, and at the worst error at the right."),
        marked("One steady tempo"), "fit", "steady",
    ),
    Step(
        marked("Make him true"), "align",
        marked("A grid that follows has a pin wherever he changes his mind; between two pins the tempo is even."),
        marked("Press F: follow the recording. The threads stand straight."),
        marked("Follow the recording"), "fit", "follow",
    ),
    Step(
        marked("Trust your ears"), "align",
        marked("Eyes find most faults, ears decide. The reference beat is played along the grid."),
        marked("Press Space to play and K for the beat: they must stay together. Space stops."),
        marked("Reference beat"), "click",
    ),
    Step(
        marked("Put cues by a recipe"), "phrase",
        marked("One row is one phrase. A recipe says in words where cues go: first beat, drop, chorus."),
        marked("Go to Phrase (F4) and press A: the recipe in hand puts its cues down."),
        marked("Apply the recipe"), "apply",
    ),
    Step(
        marked("Lock what is right"), "phrase",
        marked("A locked track changes only after you unlock it. That is what you take to the gig."),
        marked("Press Ctrl+L. The list shows a boxed tick."),
        marked("Lock"), "lock",
    ),
    Step(
        marked("Hear two tracks together"), "rehearse",
        marked("Both tracks lie on one clock, one ink each. The tear line says by how many ms their beats fall apart."),
        marked("Press U in Rehearse (F5): Copper Ferry leaves. Open Pontoon Static in the list, then G and Space."),
        marked("The open track leaves"), "leaves",
    ),
    Step(
        marked("Write a stick"), "deliver",
        marked("What a player can't do is said before anything is written; afterwards every file is read back."),
        marked("Go to Deliver (F6), press Ctrl+Shift+O to choose an empty folder, then Ctrl+Enter to write."),
        marked("Choose a folder"), "folder",
    ),
)  # fmt: skip


class FirstMinutes(QObject):
    """Which step is due; `changed` when it is another, or when it was done."""

    changed = pyqtSignal()

    def __init__(self, track: OpenTrack, listening: Listening, pairing: Pairing, delivering: Delivering) -> None:
        super().__init__()
        self._track, self._listening, self._pairing = track, listening, pairing
        self._delivering = delivering
        self.at: int | None = None
        self.done = [False] * len(STEPS)
        self._timer = QTimer(self)
        self._timer.setInterval(LOOK_MS)
        self._timer.timeout.connect(self.look)
        self._tests: tuple[Callable[[], bool], ...] = (
            self._opened, self._steady, self._followed, self._heard_beat, self._cued, self._locked, self._together,
            self._written,
        )  # fmt: skip

    @property
    def step(self) -> Step | None:
        """The step that is due; None outside of the tour, and after its end."""
        return STEPS[self.at] if self.at is not None and self.at < len(STEPS) else None

    @property
    def is_over(self) -> bool:
        """Whether all steps are behind."""
        return self.at is not None and self.at >= len(STEPS)

    def begin(self) -> None:
        """Start, from the first step on."""
        self.at, self.done = 0, [False] * len(STEPS)
        self._timer.start()
        self.changed.emit()

    def leave(self) -> None:
        """No more of it."""
        self._timer.stop()
        self.at = None
        self.changed.emit()

    def go(self, by: int) -> None:
        """The next step, or the one before."""
        if self.at is not None:
            self.at = min(max(0, self.at + by), len(STEPS))
            if self.is_over:
                self._timer.stop()
            else:
                self._timer.start()
            self.changed.emit()

    def look(self) -> None:
        """Whether the step that is due was done."""
        if self.step is not None and self.at is not None and not self.done[self.at] and self._tests[self.at]():
            self.done[self.at] = True
            self.changed.emit()

    # what each step comes to

    def _is_first(self) -> bool:
        row = self._track.row
        return row is not None and row.path.stem == FIRST and row.path.parent == places.demo_folder()

    def _opened(self) -> bool:
        row = self._track.row
        return self._is_first() and row is not None and row.state == READY and self._track.grid is not None

    def _pins(self) -> int:
        grid = self._track.preparation.grid
        return len(grid.pins) if grid is not None else 0

    def _steady(self) -> bool:
        return self._is_first() and self._pins() == 2

    def _followed(self) -> bool:
        return self._is_first() and self._pins() >= FOLLOWED_PINS

    def _heard_beat(self) -> bool:
        return self._listening.player.playing and self._listening.mix.beat != reference_beat.OFF

    def _cued(self) -> bool:
        return any(c.recipe for c in self._track.preparation.cues)

    def _locked(self) -> bool:
        return self._track.preparation.locked

    def _together(self) -> bool:
        p = self._pairing
        return p.active and p.judged is not None and self._listening.player.playing

    def _written(self) -> bool:
        report = self._delivering.report
        return report is not None and bool(report.written or report.same) and not self._delivering.writing
