"""The bar fold: a track cut at every bar of its grid and stacked.

Across is time inside the bar, downward the bars, and ink is attack strength. Under a true grid each kind of hit makes a
straight vertical thread; drift bends the threads.
"""

from __future__ import annotations

from functools import reduce
from typing import Protocol

import attrs
import numpy as np
from numpy.typing import ArrayLike

from ..arrays import Floats, Ints, Singles
from ..hearing.features import ATTACK_RATE
from ..model.beatgrid import Grid

INK_RATE = 200
LEAD = 0.25
_ROWS_AT_ONCE = 32


class Timed(Protocol):
    """What tells when in the recording each beat sounds: a grid, or a track on another clock."""

    def time_at(self, beat: ArrayLike) -> Floats: ...


@attrs.frozen(eq=False)
class Rows:
    """Which bars the rows of a fold show.

    Attributes
    ----------
    index : (rows,) bar index of each row's first bar (0 at beat 0)
    first : (rows,) beat on which each row begins
    length : (rows,) beats in each row; short rows end early
    width : beats across, the longest row
    """

    index: Ints
    first: Floats
    length: Floats
    width: float

    def rows_of(self, beats: ArrayLike) -> Ints:
        """Row that shows each beat, clipped to the rows there are."""
        row = np.searchsorted(self.first, np.asarray(beats, float) + 1e-9, "right") - 1
        return np.minimum(np.maximum(row, 0), max(0, len(self.first) - 1))

    def row_of(self, beat: float) -> int:
        """Row that shows `beat`."""
        return int(self.rows_of(beat))


def ink(attack: Singles) -> Singles:
    """Attack strength for drawing, 200 a second: the strongest of each 5 ms, (n,) float32 in [0, 1]."""
    step = ATTACK_RATE // INK_RATE
    each = attack[: len(attack) // step * step].reshape(-1, step)
    # NumPy's own maximum along so short an axis takes ten times as long
    return reduce(np.maximum, (each[:, k] for k in range(step)))


def rows(grid: Grid, duration: float, *, bars: int = 1) -> Rows:
    """Cut the time from 0 to `duration` s into rows of `bars` bars, counted from bar 0."""
    index, _ = grid.bars(0.0, duration)
    at = np.arange(int(np.floor(index[0] / bars)) * bars, int(index[-1]) + 1, bars)
    first = grid.bar_start(at)
    length = grid.bar_start(at + bars) - first
    width = float(max(np.max(length), bars)) if len(length) else 4.0
    return Rows(at, first, length, width)


def image(
    inks: Singles,
    grid: Timed,
    what: Rows,
    *,
    columns: int,
    only: tuple[int, int] | None = None,
    into: Singles | None = None,
) -> Singles:
    """Paint the rows: (rows, columns) float32 in [0, 1], NaN where a row has no music or has ended.

    Each row starts `LEAD` beats before its bar line, so that the thread of the first beat is seen whole.

    Parameters
    ----------
    only
        First and one past the last row to compute; the others are kept from `into`.
    """
    out = into if into is not None else np.full((len(what.first), columns), np.nan, np.float32)
    a, b = only if only is not None else (0, len(what.first))
    across = (np.arange(columns) + 0.5) / columns * what.width - LEAD
    for start in range(a, b, _ROWS_AT_ONCE):
        stop = min(b, start + _ROWS_AT_ONCE)
        beats = what.first[start:stop, None] + across[None]
        edges = grid.time_at(np.concatenate([beats, beats[:, -1:] + what.width / columns], axis=1))
        at = edges[:, :-1] * INK_RATE
        i = at.astype(np.int64)
        # nearest of the two ink samples a column touches that is stronger: thin threads must not vanish
        ok = (at >= 0) & (i < len(inks) - 1)
        j = np.clip(i, 0, max(0, len(inks) - 2))
        value = np.maximum(inks[j], inks[j + 1] * (at - i > 0.5)) if len(inks) > 1 else np.zeros_like(at, np.float32)
        ended = across[None] >= what.length[start:stop, None]
        out[start:stop] = np.where(ok & ~ended, value, np.nan)
    return out
