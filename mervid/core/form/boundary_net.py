"""How likely a phrase begins at each bar line, by a small network that was shown whole rendered songs.

Songs of voices alone have a network of their own, which was shown such songs: a phrase is what is said until the voice
begins anew. Where nothing is struck or sung, or weights are missing or damaged, what is measured by hand serves.
"""

from __future__ import annotations

from pathlib import Path

import numpy as np

from ..arrays import Floats
from ..hearing import beat_net, voices
from ..hearing.beat_net import Net
from . import boundary_features
from .bar_features import Bars
from .boundary_features import AT_MOST, COUNT, OVER
from .novelty import boundary_odds, changes

WEIGHTS = Path(__file__).parent / "weights" / "boundary.npz"
BIAS_SUNG = 1.5
"""Added to the odds of voices alone: chosen on songs that the network was not shown, for the best F."""
BY_HAND = 0.5
"""How much what is measured by hand counts beside a network, as real songs are not like rendered ones: on songs that it
was not shown it costs little."""
_STRUCK = 0.3
"""Percussion of the music that most of its songs were."""


def shipped(path: Path) -> Net | None:
    """A network that comes with the program; None where its weights are missing or damaged."""
    return beat_net.load(path, COUNT)


def serving(bars: Bars) -> Net | None:
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
    return _in_parts(net, bars) if n > AT_MOST else _part(net, bars, 0, n)


def _part(net: Net, bars: Bars, start: int, stop: int) -> Floats:
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
    measured = changes(part)
    said = net(boundary_features.features(part, measured)) + BY_HAND * boundary_odds(measured)
    return said if net is shipped(WEIGHTS) else said + BIAS_SUNG


def _in_parts(net: Net, bars: Bars) -> Floats:
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
