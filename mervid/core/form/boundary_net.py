"""How likely a phrase begins at each bar line, by a small network that was shown whole rendered songs.

Songs of voices alone have a network of their own, which was shown such songs: a phrase is what is said until the voice
begins anew. Where nothing is struck or sung, or weights are missing or damaged, what is measured by hand serves.
"""

from __future__ import annotations

from functools import cache
from pathlib import Path
from zipfile import BadZipFile

import numpy as np

from ..arrays import Floats
from ..hearing import voices
from . import boundary_features, small_nets
from .bar_features import Bars
from .boundary_features import AT_MOST, OVER
from .novelty import boundary_odds, changes
from .small_nets import Nets

WEIGHTS = Path(__file__).parent / "weights" / "boundary.npz"
BIAS, BIAS_SUNG = 0.5, 1.9
"""Added to the network's odds, and to those of voices alone: chosen on songs it was not shown, for the best F."""
BY_HAND = 0.5
"""How much what is measured by hand counts beside the network of voices, as few real voices are like rendered ones: on
songs that it was not shown it changes nothing."""
_STRUCK = 0.3
"""Percussion of the music that most of its songs were."""


@cache
def shipped(path: Path) -> Nets | None:
    """A network that comes with the program; None where its weights are missing or damaged."""
    try:
        with np.load(path, allow_pickle=False) as z:
            return small_nets.read(z)
    except (OSError, ValueError, KeyError, EOFError, BadZipFile):
        return None


def serving(bars: Bars) -> Nets | None:
    """The network that was shown music of this kind; None where there is none."""
    if not len(bars):
        return None
    if bars.drums.mean() >= _STRUCK:
        return shipped(WEIGHTS)
    return shipped(voices.theirs(WEIGHTS)) if voices.alone(bars) else None


def odds(bars: Bars) -> Floats:
    """Log odds that a phrase begins at each bar line, (n - 1,)."""
    n, net = len(bars), serving(bars)
    if n < 2:
        return np.zeros(0)
    if net is None:
        return boundary_odds(changes(bars))
    said = _in_parts(net, bars) if n > AT_MOST else _part(net, bars, 0, n)
    return said + BIAS if net is shipped(WEIGHTS) else said + BIAS_SUNG + BY_HAND * boundary_odds(changes(bars))


def _part(net: Nets, bars: Bars, start: int, stop: int) -> Floats:
    """The odds of bar lines `start` + 1 to `stop` - 1, heard by these bars alone."""
    of = slice(start, stop)
    part = Bars(
        starts=bars.starts[start : stop + 1],
        times=bars.times[start : stop + 1],
        timbre=bars.timbre[of],
        harmony=bars.harmony[of],
        rhythm=bars.rhythm[of],
        drums=bars.drums[of],
        voice=bars.voice[of],
        level=bars.level[of],
        opens=bars.opens[of],
    )
    return small_nets.answer(net, boundary_features.features(part))[:, 0]


def _in_parts(net: Nets, bars: Bars) -> Floats:
    """A long track part by part, each line by the part in whose middle it lies."""
    n = len(bars)
    out = np.zeros(n - 1)
    start = 0
    while True:
        stop = min(n, start + AT_MOST)
        found = _part(net, bars, start, stop)
        first = start + OVER if start else 0
        out[first : stop - 1] = found[first - start :]
        if stop == n:
            return out
        start = stop - 2 * OVER
