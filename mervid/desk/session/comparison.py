"""Compare: the grid as it stands, as it would be fitted, and as it was when the track was last locked."""

from __future__ import annotations

import attrs

from ...core.edits import grid_edits
from ...core.model.preparation import Preparation
from ...jobs.fitter import FOLLOW
from ..theme.tr import tr
from .offers import Offers
from .open_track import OpenTrack
from .preview import COMPARISON


@attrs.frozen
class Look:
    """A grid to look at instead of the one that stands: its name, the preparation, and what takes it over."""

    name: str
    preparation: Preparation
    locked: bool


class Comparison:
    """Steps through what there is to compare with; what is saved stays."""

    def __init__(self, track: OpenTrack, offers: Offers) -> None:
        self.track, self.offers = track, offers
        self._look: Look | None = None

    @property
    def look(self) -> Look | None:
        """What is looked at instead of what stands."""
        return self._look if self.track.preview.owner == COMPARISON else None

    def looks(self) -> list[Look]:
        """What there is to compare with that differs from what stands."""
        t = self.track
        out = []
        fitted = self.offers.found.get(FOLLOW)
        if fitted is not None and fitted.preparation is not None:
            grid = fitted.preparation.grid
            out.append(Look(tr("the fitted grid"), attrs.evolve(t.preparation, grid=grid), locked=False))
        kept = t.catalogue.library.last_locked(t.row.id) if t.row is not None else None
        if kept is not None:
            out.append(Look(tr("the grid when last locked"), attrs.evolve(t.preparation, grid=kept.grid), locked=True))
        return [look for look in out if look.preparation.grid != t.preparation.grid]

    def step(self) -> bool:
        """Show the next one, or what stands again. False where there is nothing to compare with."""
        looks, now = self.looks(), self.look
        names = [look.name for look in looks]
        after = names.index(now.name) + 1 if now is not None and now.name in names else 0
        self._look = looks[after] if after < len(looks) and (now is None or after) else None
        if self._look is None:
            self.track.preview.clear(COMPARISON)
        else:
            self.track.preview.show(COMPARISON, self._look.preparation)
        return bool(looks)

    def end(self, *, keep: bool) -> bool:
        """Take over what is shown, or go back to what stands. False where nothing is compared."""
        look = self.look
        if look is None:
            return False
        self.track.preview.clear(COMPARISON)
        if keep and look.locked and look.preparation.grid is not None:
            self.track.apply(grid_edits.restore, look.preparation.grid)
        elif keep:
            self.offers.use(FOLLOW)
        return True
