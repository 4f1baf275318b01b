"""What each phrase is for: intro, verse, chorus, break, build, drop or outro, each with its chance and its reason.

Roles are habits, not acoustics, so each is argued for and against by what can be heard: where the phrase stands, how
loud it is, whether percussion stops, whether it returns, whether it rises to what follows. The arguments are added and
made into chances (softmax); the strongest one for the role that wins is its reason. The weights are common practice,
no source.
"""

from __future__ import annotations

import itertools

import attrs
import numpy as np

from ..arrays import Bools, Floats
from .bar_features import Bars
from .segmentation import Outline

INTRO, VERSE, CHORUS, BREAK, BUILD, DROP, OUTRO = "intro", "verse", "chorus", "break", "build", "drop", "outro"
ROLES = (INTRO, VERSE, CHORUS, BREAK, BUILD, DROP, OUTRO)
_SUNG = 0.35
_TOP = 0.2
_LEAP = 1.3
_DRUMMED = 0.3


@attrs.frozen
class Role:
    """A role, how likely it is, and why."""

    name: str
    chance: float
    reason: str


@attrs.frozen(eq=False)
class _Heard:
    """Each phrase in figures, (k,) each.

    `level` in standard deviations of the track; `top` among the loudest; `hits` how much is struck, 1 the most;
    `rise`, `busier` of its second half over its first; `returns` how often its letter comes; `first` whether that
    letter is the first that comes again.
    """

    level: Floats
    top: Bools
    hits: Floats
    voice: Floats
    rise: Floats
    busier: Floats
    returns: Floats
    first: Bools
    sung: bool


def roles(bars: Bars, found: Outline) -> list[Role]:
    """The likeliest role of each phrase."""
    k = len(found.letters)
    if k == 0:
        return []
    heard = _describe(bars, found)
    out = []
    for i in range(k):
        cases = {name: _argument(heard, i, name) for name in ROLES}
        total = np.array([sum(w for w, _ in cases[name]) for name in ROLES])
        chance = np.exp(total - total.max())
        chance /= chance.sum()
        best = int(chance.argmax())
        reasons = sorted((a for a in cases[ROLES[best]] if a[1] and a[0] > 0), reverse=True)
        words = ", ".join(w for _, w in reasons[:2]) or "nothing else fits better"
        out.append(Role(ROLES[best], float(chance[best]), words))
    return out


def _describe(bars: Bars, found: Outline) -> _Heard:
    parts = [slice(int(a), int(b)) for a, b in itertools.pairwise(found.edges)]
    level = np.array([bars.level[p].mean() for p in parts])
    strokes = bars.rhythm.mean(axis=1) * bars.drums
    busy = (strokes - strokes.mean()) / (strokes.std() + 1e-6)
    rise, busier = [], []
    for p in parts:
        middle = p.start + max(1, (p.stop - p.start) // 2)
        first, second = slice(p.start, middle), slice(min(middle, p.stop - 1), p.stop)
        rise.append(bars.level[second].mean() - bars.level[first].mean())
        busier.append(busy[second].mean() - busy[first].mean())
    hits = np.array([strokes[p].mean() for p in parts])
    returns = np.array([(found.letters == x).sum() for x in found.letters], float)
    # an intro that returns as the outro is no verse
    inner = found.letters[1:-1].tolist()
    again = [x for x in inner if inner.count(x) > 1]
    again = again or [int(x) for x, n in zip(found.letters, returns, strict=True) if n > 1]
    return _Heard(
        level,
        level > level.max() - _TOP,
        hits / (hits.max() + 1e-9) if bars.drums.max() > _DRUMMED else np.ones(len(parts)),
        np.array([bars.voice[p].mean() for p in parts]),
        np.array(rise),
        np.array(busier),
        returns,
        np.array([bool(again) and x == again[0] for x in found.letters]),
        bool((bars.voice > 0.5).mean() > _SUNG),
    )


Argument = list[tuple[float, str]]


def _argument(h: _Heard, i: int, role: str) -> Argument:
    """Arguments for (above 0) and against a role: weight and words."""
    last = len(h.level) - 1
    edge = i in (0, last)
    before = float(h.level[i] - h.level[i - 1]) if i else 0.0
    after = float(h.level[i + 1] - h.level[i]) if i < last else 0.0
    returns = f"returns {int(h.returns[i])} times"
    leads = h.sung and h.voice[i] > _SUNG
    if role == INTRO:
        return [
            (4.0 if i == 0 else -3.5, "opens the track"),
            (1.0 * (h.level[i] < h.level.max() - 0.7), "quieter than what follows"),
            (1.0 * (i == 1 and h.level[0] < h.level[1] < h.level.max() - 1), "still building up"),
            (-3.5 * (i == 0 and last > 1 and leads), ""),
        ]
    if role == OUTRO:
        return [
            (4.0 if i == last and last > 0 else -4.0, "ends the track"),
            (1.0 * (h.level[i] < h.level.max() - 0.7), "quieter than the loudest part"),
            (1.0 * (i == last - 1 and before < -0.5 and last > 2), "it has begun to empty"),
            (-2.5 * (i == last and leads and h.returns[i] > 1), ""),
        ]
    if role == BREAK:
        around = max(h.hits[i - 1] if i else 0.0, h.hits[i + 1] if i < last else 0.0)
        return [
            (2.2 * (not edge and h.hits[i] < 0.55 * around), "percussion all but stops"),
            (2.0 * (not edge and before < -0.4 and after > 0.4), "a dip between two fuller parts"),
            (1.0 * (not edge and before < -0.8), "much quieter than what came before"),
            (-3.0 if edge else -0.8, ""),
            (-1.5 * bool(h.top[i]), ""),
        ]
    if role == BUILD:
        next_top = not edge and after > _LEAP and bool(h.top[i + 1])
        return [
            (3.2 * next_top, "the loudest part comes next, at a leap"),
            (0.8 * (not edge and after > 0.5), "leads into a louder part"),
            (1.0 * (not edge and after > 0.5 and h.rise[i] > 0.5), "gets louder as it goes"),
            (1.0 * (not edge and after > 0.5 and h.busier[i] > 0.6), "gets busier as it goes"),
            (-1.6, ""),
            (-1.5 * bool(h.sung or edge), ""),
        ]
    if role == DROP:
        return [
            (1.0 * bool(h.top[i]), "among the loudest parts"),
            (2.2 * (i > 0 and before > _LEAP), "comes in at a leap"),
            (0.8 if not h.sung else -1.6, "hardly any voice in the track"),
            (-1.6, ""),
            (-3.0 * edge, ""),
        ]
    if role == CHORUS:
        return [
            ((0.6 if h.sung else 1.3) * bool(h.top[i]), "among the loudest parts"),
            (-0.8 * (leads and bool(h.first[i])), ""),
            (0.7 * (i > 0 and not edge and before > 0.2), "lifts out of what came before"),
            (1.2 * (leads and h.returns[i] > 1 and not h.first[i]), f"answers the verse, {returns}"),
            (0.3 * (h.returns[i] > 1), returns),
            (0.3 * leads, "a voice leads"),
            (-0.8, ""),
            (-2.0 * edge * (not leads), ""),
        ]
    return [
        (0.8 * (not edge), "a part inside the track"),
        (0.9 * (leads and bool(h.first[i])), "the first part that comes again"),
        (0.6 * (not edge and not h.top[i]), "not among the loudest"),
        (0.3 * (h.returns[i] > 1), returns),
        (0.3 * leads, "a voice leads"),
        (-1.5 * edge * (not leads), ""),
    ]
