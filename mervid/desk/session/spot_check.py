"""The spot check of the open track: its five places, what is true of each now, and which were seen."""

from __future__ import annotations

from PyQt6.QtCore import QObject, pyqtSignal

from ...core.edits import spot_check
from ...core.edits.spot_check import Spot, State
from ...core.errors import MervidError
from .messages import Messages
from .open_track import OpenTrack
from .reports import Reports


class SpotChecks(QObject):
    """The places stay where they are while they are looked at and mended; entering the check anew chooses again."""

    changed = pyqtSignal()

    def __init__(self, track: OpenTrack, reports: Reports, say: Messages) -> None:
        super().__init__()
        self.track, self.reports, self.say = track, reports, say
        self.spots: tuple[Spot, ...] = ()
        self.current = 0
        track.opened.connect(self._forget)

    def _forget(self) -> None:
        """Another track is opened: its places are chosen when they are looked at."""
        self.spots, self.current = (), 0
        self.changed.emit()

    def choose(self) -> None:
        """Find the five places under the grid that is saved."""
        t = self.track
        found = t.drift()
        self.spots, self.current = (), 0
        if t.preparation.grid is not None and t.duration > 0:
            trace = found[0] if found else None
            self.spots = spot_check.choose(t.preparation.grid, trace, self.reports.unsure(), t.duration)
            seen = [s.seen for s in self.states()]
            self.current = seen.index(False) if False in seen else 0
        self.changed.emit()

    def states(self) -> tuple[State, ...]:
        """What is true of each place under the grid that is shown."""
        found = self.track.drift()
        return tuple(spot_check.state(s, self.track.shown, found[0] if found else None) for s in self.spots)

    def go(self, index: int) -> Spot | None:
        """Make a place the one looked at."""
        if not self.spots:
            return None
        self.current = index % len(self.spots)
        self.changed.emit()
        return self.spots[self.current]

    def mark(self, index: int) -> bool:
        """Mark a place as seen, or take the mark back. Whether it is seen now."""
        t = self.track
        if t.row is None or not 0 <= index < len(self.spots):
            return False
        seen = not self.states()[index].seen
        try:
            value = spot_check.mark_seen(t.preparation, self.spots[index], self.spots, seen=seen)
        except MervidError as e:
            self.say.refused(str(e))
            return not seen
        t.replace(value)
        self.changed.emit()
        return seen

    @property
    def left(self) -> int:
        """How many places are not seen yet."""
        return sum(not s.seen for s in self.states())
