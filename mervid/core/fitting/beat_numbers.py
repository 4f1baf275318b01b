"""Which beat of a grid a heard beat is: not merely the nearest one, but the one of its own count.

Over a steady grid a drummer can stray by more than half a beat; the count goes on all the same.
"""

from __future__ import annotations

import numpy as np

from ..arrays import Floats
from ..model.beatgrid import Grid


def phase(beats: Floats) -> Floats:
    """Distance of each fractional grid beat from the whole beat of its own count, in beats.

    A phase unwrapping that a stray beat can't derail: the branch is the one nearest a slow reference, which each
    beat moves by a little only.
    """
    nearest = beats - np.round(beats)
    if len(beats) and np.abs(nearest).max() < 0.3:
        # never near a branch: the nearest whole beat is the beat's own
        return nearest
    reference = 0.0
    head = beats[:16]
    if len(head):
        near = head - np.round(head)
        reference = float(np.median(near))
    out = []
    for b in beats.tolist():
        e = b - round(b - reference)
        step = e - reference
        reference += 0.25 * min(0.12, max(-0.12, step))
        out.append(e)
    return np.array(out)


def own_beats(times: Floats, grid: Grid) -> Floats:
    """The grid beat that each heard beat in s is counted as, (n,); halves where the grid counts half as many."""
    if not len(times):
        return np.zeros(0)
    beats = grid.beat_at(times)
    parts = max(1, round(1 / max(0.1, float(np.median(np.diff(beats)))))) if len(times) > 2 else 1
    return np.asarray((beats * parts - phase(beats * parts)) / parts)
