"""How likely a phrase begins at each bar line, by a small network that was shown whole rendered songs.

Several of two hidden layers each, trained alike from other beginnings, whose answers are averaged (Breiman, Machine
Learning 24, 1996, on why that helps). Songs of rendered voices alone were few among them: where hardly anything is
struck, or the weights are missing or damaged, what is measured by hand serves.
"""

from __future__ import annotations

from functools import cache
from pathlib import Path
from zipfile import BadZipFile

import attrs
import numpy as np

from ..arrays import Floats, Singles
from . import boundary_features
from .bar_features import Bars
from .boundary_features import AT_MOST, OVER
from .novelty import boundary_odds, changes

WEIGHTS = Path(__file__).parent / "weights" / "boundary.npz"
BIAS = 0.5
"""Added to the network's odds: chosen on songs it was not shown, for the best F of boundaries."""
_STRUCK = 0.3
"""Percussion below which a track is one of voices alone."""
_MOST = 5.0


@attrs.frozen(eq=False)
class Net:
    """What was learned: mean and spread of the figures, and for each net its three layers."""

    mean: Singles
    spread: Singles
    layers: tuple[tuple[Singles, ...], ...]


@cache
def shipped() -> Net | None:
    """The network that comes with the program; None where its weights are missing or damaged."""
    try:
        with np.load(WEIGHTS, allow_pickle=False) as z:
            count = int(z["nets"])
            layers = tuple(tuple(z[f"{k}.{i}"].astype(np.float32) for i in range(6)) for k in range(count))
            return Net(z["mean"], z["spread"], layers)
    except (OSError, ValueError, KeyError, EOFError, BadZipFile):
        return None


def answer(net: Net, figures: Singles) -> Floats:
    """Log odds of each row of `boundary_features.features`, (n,)."""
    z = np.clip((figures - net.mean) / net.spread, -_MOST, _MOST).astype(np.float32)
    out = np.zeros(len(z))
    for w1, b1, w2, b2, w3, b3 in net.layers:
        hidden = np.maximum(0, np.maximum(0, z @ w1.T + b1) @ w2.T + b2)
        out += (hidden @ w3.T + b3)[:, 0]
    return np.asarray(out / len(net.layers))


def knows(bars: Bars) -> bool:
    """Whether the network serves: its weights are there, and it was shown music of this kind."""
    return shipped() is not None and float(bars.drums.mean()) >= _STRUCK


def odds(bars: Bars) -> Floats:
    """Log odds that a phrase begins at each bar line, (n - 1,)."""
    n, net = len(bars), shipped()
    if n < 2:
        return np.zeros(0)
    if net is None or not knows(bars):
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
    return answer(net, boundary_features.features(part)) + BIAS


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
