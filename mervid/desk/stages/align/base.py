"""What the sets of commands of Align share."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from ....core.edits import count_edits
from ....core.errors import Refused
from ...commands.command import CommandSet
from ...session.session import Session
from ...theme.figures import ms
from ...theme.tr import tr
from .surface import AlignSurface


class AlignCommands(CommandSet):
    """Handlers that turn requests into edits of the open track; what can't be done is said."""

    def __init__(self, session: Session, view: AlignSurface) -> None:
        self.session, self.view = session, view
        self.track, self.player, self.say = session.track, session.player, session.say

    def read(self, read: Callable[[str], float], text: object) -> float | None:
        """A value typed; None, with a word about it, where it can't be read."""
        try:
            return read(str(text))
        except Refused as e:
            self.say.refused(str(e))
            return None

    def no_grid(self) -> None:
        """Say that there is nothing to count along."""
        self.say.refused(tr("There is no grid yet: type a tempo first."))

    def warn_if_off(self, what: str) -> None:
        """Say by how many ms the new tempo misses what is heard, where it does."""
        p = self.track.preparation
        off = count_edits.off_by_most(p, self.track.heard)
        if off is not None and off[0] > p.tolerance.loose:
            bar = p.grid.name_at(float(p.grid.beat_at(off[1]))) if p.grid is not None else ""
            self.say.refused(
                tr("{0} is set, but beats lie up to {1} off it (at {2}). Ctrl+Z takes it back.").format(
                    what, ms(off[0]), bar
                )
            )
        elif off is not None:
            self.say.done(tr("{0}: no beat is heard more than {1} off it.").format(what, ms(off[0])))

    def nearest_pin(self) -> int:
        """The pin nearest to the playhead, by its index; -1 without a grid."""
        grid = self.track.grid
        return int(np.argmin(np.abs(grid.times - self.player.position))) if grid is not None else -1
