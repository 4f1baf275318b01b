"""Slides: places where the count comes to the other side of the beat over a few beats that are squeezed or stretched.

A path that can't jump slides where the ear is drawn to the off-beat for a while. Music hardly does it: of 2119 rendered
takes the true beats of 15 slide so, what was heard of 61. So one side of a slide is wrong, unless two sides speak
strongly for what they are, and it is told over all beats on either side which.
"""

from __future__ import annotations

import numpy as np

from ..arrays import Bools, Floats, Singles
from . import bar_pointer, beat_sides, rival_counts
from .ear import Strengths
from .scene import Scene

_NEAR = 8
_LEAST = 4
"""Beats by whose steps the tempo beside a slide is told: two bars, so that what comes again in each cancels; and how
many there are beside it at least."""
_LONGEST = 7
_SAME_TEMPO, _ABOUT = 0.02, 0.1
_BESIDE, _SHORTER = 0.7, 0.02
"""How uneven the steps beside a slide may be, of those in it; how much worse each beat more makes it."""
_MOST, _EVERY = 2, 100
"""Where there are more, and more than one in so many beats, the count as a whole is doubtful."""
_KEPT, _DOUBT = 20.0, 6.0
"""What it costs that the side does change, in log odds; by how much one side must be the likelier."""
_TOLD_BY = 12
"""More beats than these tell no more of the side of a part, as neighbours say nearly the same."""


def find(times: Floats) -> list[tuple[int, int]]:
    """The last beat before and the first after each slide of (n,) `times` in s.

    While the tempo is the same before and after, to 2 %, two to seven steps are half a beat too short or too long in
    all; the steps beside them are even.
    """
    from scipy.ndimage import uniform_filter1d

    step = np.diff(times)
    out: list[tuple[int, int]] = []
    if len(step) < 2 * _LEAST + 2:
        return out
    tempo = uniform_filter1d(step, _NEAR, mode="nearest")
    seen: list[tuple[float, int, int]] = []
    for size in range(2, _LONGEST + 1):
        i = np.arange(_LEAST, len(step) - size - _LEAST + 1)
        j = i + size
        before, after = tempo[i - _NEAR // 2], tempo[np.minimum(j + _NEAR // 2, len(tempo) - 1)]
        slid = (times[j] - times[i]) / ((before + after) / 2) - size
        uneven = np.maximum(np.abs(step[i - 1] / before - 1), np.abs(step[j] / after - 1))
        off = np.abs(np.abs(slid) - 0.5)
        found = (np.abs(np.log(after / before)) < _SAME_TEMPO) & (off < _ABOUT)
        found &= uneven < _BESIDE * np.abs(slid) / size
        seen += zip((off + _SHORTER * size)[found], i[found].tolist(), j[found].tolist(), strict=True)
    for _, a, b in sorted(seen):
        if all(y <= a or b <= x for x, y in out):
            out.append((a, b))
    return sorted(out)


def best_sides(kept: Floats) -> Bools:
    """Which parts between slides lie between the beats, (k,).

    Parameters
    ----------
    kept : (k,) log odds of each that it is on the beat
    """
    gain = np.stack([np.zeros(len(kept)), -kept], axis=1)
    between: Bools = bar_pointer.best_path(gain, np.array([[-_KEPT, 0.0], [0.0, -_KEPT]])) == 1
    doubtful = kept[~between].sum() - kept[between].sum() < _DOUBT
    return between & ~doubtful


def moved(times: Floats, slides: list[tuple[int, int]], between: Bools) -> Floats:
    """Beats with some of the parts between `slides` half a beat later, and as many beats between them as fit there.

    Each part has two beats at least.
    """
    parts = []
    for (a, b), later in zip(_parts(len(times), slides), between, strict=True):
        step = np.diff(times[a:b])
        parts.append(times[a:b] + 0.5 * later * np.append(step, step[-1]))
    out = [parts[0]]
    for k, (i, j) in enumerate(slides):
        start, stop = parts[k][-1], parts[k + 1][0]
        if between[k] == between[k + 1]:
            out.append(np.interp(np.arange(i + 1, j), [i, j], [start, stop]) if between[k] else times[i + 1 : j])
        else:
            usual = float(np.median(np.concatenate([np.diff(parts[k])[-_NEAR:], np.diff(parts[k + 1])[:_NEAR]])))
            out.append(beat_sides.between(float(start), float(stop), usual))
        out.append(parts[k + 1])
    return np.concatenate(out)


def mended(ear: Strengths, attack: Singles, seen: Scene, times: Floats) -> tuple[Strengths, Floats] | None:
    """The ear's answers and beats in s without slides; None where nothing changes."""
    slides = find(times)
    parts = _parts(len(times), slides)
    if not 0 < len(slides) <= max(_MOST, len(times) // _EVERY) or min(b - a for a, b in parts) < _LEAST:
        return None
    told = rival_counts.sure_of_side(ear, attack, seen, times)
    if told is None:
        return None
    kept = [rival_counts.TRUST * told[a:b].mean() * min(b - a, _TOLD_BY) for a, b in parts]
    between = best_sides(np.array(kept))
    if not between.any():
        return None
    beats = moved(times, slides, between)
    later = np.zeros(len(times), bool)
    for (a, b), so in zip(parts, between, strict=True):
        later[a:b] = so
    for i, j in slides:
        later[i + 1 : j] = later[i] or later[j]
    way = np.where(later, rival_counts.BETWEEN, rival_counts.AS_FOUND)
    return rival_counts.drawn(ear, times, way, beats), beats


def _parts(n: int, slides: list[tuple[int, int]]) -> list[tuple[int, int]]:
    """First and one past the last beat of each part between slides."""
    edges = [0, *(x for i, j in slides for x in (i + 1, j)), n]
    return list(zip(edges[::2], edges[1::2], strict=True))
