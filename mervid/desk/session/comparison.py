"""Compare: the grid as it stands, as it would be fitted, and as it was when the track was last locked."""

from __future__ import annotations

from typing import TYPE_CHECKING

import attrs

from ...core.edits import grid_edits
from ...core.model.preparation import Preparation
from ...jobs.fitter import FOLLOW

if TYPE_CHECKING:
    from .open_track import Workbench


@attrs.frozen
class Look:
    """A grid to look at instead of the one that stands: its name, the preparation, and what takes it over."""

    name: str
    preparation: Preparation
    locked: bool


class Comparison:
    """Steps through what there is to compare with; what is saved stays."""

    def __init__(self, bench: Workbench) -> None:
        self.bench = bench
        self.look: Look | None = None

    def looks(self) -> list[Look]:
        """What there is to compare with that differs from what stands."""
        b = self.bench
        out = []
        fitted = b.offers.get(FOLLOW)
        if fitted is not None and fitted.preparation is not None:
            grid = fitted.preparation.grid
            out.append(Look("the fitted grid", attrs.evolve(b.preparation, grid=grid), locked=False))
        kept = b.library.last_locked(b.track.id) if b.track is not None else None
        if kept is not None:
            out.append(Look("the grid when last locked", attrs.evolve(b.preparation, grid=kept.grid), locked=True))
        return [look for look in out if look.preparation.grid != b.preparation.grid]

    def step(self) -> bool:
        """Show the next one, or what stands again. False where there is nothing to compare with."""
        looks = self.looks()
        names = [look.name for look in looks]
        after = names.index(self.look.name) + 1 if self.look is not None and self.look.name in names else 0
        self.look = looks[after] if after < len(looks) and (self.look is None or after) else None
        self.bench.preview(self.look.preparation if self.look is not None else None)
        return bool(looks)

    def end(self, *, keep: bool) -> bool:
        """Take over what is shown, or go back to what stands. False where nothing is compared."""
        look, self.look = self.look, None
        if look is None:
            return False
        self.bench.preview(None)
        if keep and look.locked and look.preparation.grid is not None:
            self.bench.apply(grid_edits.restore, look.preparation.grid)
        elif keep:
            self.bench.use_offer(FOLLOW)
        return True
