"""Measures of beats against the truth, and what went wrong, for `hearing.py`.

Measures are mir_eval's. What goes wrong is one of six: *level* (counted at half, double or three for two), *side*
(between the beats), *bar* (another beat begins the bars), *start* and *end* (beats missing or invented there), *place*
(right beats not within 20 ms). A recording may have several.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Row = dict[str, Any]

FAULTS = ("level", "side", "bar", "start", "end", "place")
SOME = 0.05
_EDGE = 8


def within(ref: Floats, x: Any) -> Floats:
    """What of `x` lies where the truth is known; the rest isn't counted."""
    x = np.asarray(x, float)
    lo, hi = (ref[1] - ref[0]) / 2, (ref[-1] - ref[-2]) / 2
    return x[(x > ref[0] - lo) & (x < ref[-1] + hi)]


def written(grid: Any, heard: Any, duration: float) -> tuple[Floats, Floats]:
    """Beats and downbeats of a grid, s, as far as beats were heard."""
    half = 15 / grid.tempo_overall()
    times, _, place = grid.listed(max(0.0, heard.times[0] - half), min(duration, heard.times[-1] + half))
    return times, times[place == 1]


def score(ref: Floats, down: Floats, beats: Any, downbeats: Any) -> Row:
    """Measures of (k,) beats in s against the truth."""
    import mir_eval

    est, bars = within(ref, beats), within(ref, downbeats)

    def f(r: Any, e: Any, w: float) -> float:
        return float(mir_eval.beat.f_measure(r, e, w)) if len(e) and len(r) else 0.0

    _, cmlt, _, amlt = mir_eval.beat.continuity(ref, est) if len(est) > 1 else (0, 0, 0, 0)
    pairs = mir_eval.util.match_events(ref, est, 0.07) if len(est) else []
    error = np.array([1000 * (est[j] - ref[i]) for i, j in pairs] or [np.nan])
    near = len(mir_eval.util.match_events(ref, est, 0.02)) if len(est) else 0
    row: Row = {
        "F70": f(ref, est, 0.07),
        "F20": f(ref, est, 0.02),
        "F10": f(ref, est, 0.01),
        "CMLt": cmlt,
        "AMLt": amlt,
        "dbF70": f(down, bars, 0.07) if len(down) else np.nan,
        "med": float(np.median(np.abs(error))),
        "p95": float(np.percentile(np.abs(error), 95)),
        "ready": float(near >= 0.95 * len(ref) and near >= 0.95 * len(est)),
        "bias": float(np.median(error)),
        "first": float(len(downbeats) > 0 and abs(downbeats[0] - down[0]) <= 0.02) if len(down) else np.nan,
    }
    row["faults"] = faults(ref, down, est, bars)
    return row


def faults(ref: Floats, down: Floats, est: Floats, bars: Floats) -> list[str]:
    """What went wrong with (k,) beats, of `FAULTS`, each in over a twentieth of the recording or at its edge."""
    if len(est) < 4:
        return ["level"]
    place = np.interp(est, ref, np.arange(len(ref)))
    step = np.diff(place)
    side = np.abs(place - np.round(place)) > 0.25
    level = np.abs(step - 1) > 0.25
    out = []
    # one odd step is a beat too many or too few; a stretch of them is another level
    if np.convolve(level, np.ones(4), "valid").max(initial=0) == 4 and level.mean() > SOME:
        out.append("level")
    elif (side[:-1] & ~level).mean() > SOME:
        out.append("side")
    off = np.abs(est[np.abs(est[None] - ref[:, None]).argmin(axis=1)] - ref)
    hit = off <= 0.07
    if len(down) and "level" not in out:
        right = np.array([np.abs(bars - d).min(initial=np.inf) <= 0.07 for d in down])
        if (~right & np.array([hit[np.abs(ref - d).argmin()] for d in down])).mean() > SOME:
            out.append("bar")
    inner = hit[_EDGE:-_EDGE].mean() if len(hit) > 3 * _EDGE else hit.mean()
    for name, edge in (("start", hit[:_EDGE]), ("end", hit[-_EDGE:])):
        if inner > 0.9 and not edge.all():
            out.append(name)
    if (hit & (off > 0.02)).mean() > SOME:
        out.append("place")
    return out
