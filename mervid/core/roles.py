"""What each phrase is for: intro, verse, chorus, break, build, drop or outro, each with its chance and its reason.

Roles are habits, not acoustics, so each is argued for and against by what can be heard: where the phrase stands, how
loud it is, whether percussion stops, whether it returns, whether it rises to what follows. The arguments are added and
made into chances (softmax); the strongest one for the role that wins is its reason. The weights are common practice,
no source.
"""

from __future__ import annotations

import attrs
import numpy as np
from numpy.typing import NDArray

from .bars import Bars
from .form import Outline

Floats = NDArray[np.float64]

INTRO, VERSE, CHORUS, BREAK, BUILD, DROP, OUTRO = "intro", "verse", "chorus", "break", "build", "drop", "outro"
ROLES = (INTRO, VERSE, CHORUS, BREAK, BUILD, DROP, OUTRO)
_SUNG = 0.35


@attrs.frozen
class Role:
    """A role, how likely it is, and why."""

    name: str
    chance: float
    reason: str


@attrs.frozen(eq=False)
class _Heard:
    """Each phrase in figures, (k,) each."""

    level: Floats
    rank: Floats
    drums: Floats
    voice: Floats
    rise: Floats
    busier: Floats
    times: Floats
    bars: Floats
    sung: bool


def roles(bars: Bars, found: Outline) -> list[Role]:
    """The likeliest role of each phrase."""
    k = len(found.letters)
    if k == 0:
        return []
    heard = _describe(bars, found)
    out = []
    for i in range(k):
        cases = {name: _case(heard, i, name) for name in ROLES}
        total = np.array([sum(w for w, _ in cases[name]) for name in ROLES])
        chance = np.exp(total - total.max())
        chance /= chance.sum()
        best = int(chance.argmax())
        reasons = sorted((a for a in cases[ROLES[best]] if a[1] and a[0] > 0), reverse=True)
        words = ", ".join(w for _, w in reasons[:2]) or "nothing else fits better"
        out.append(Role(ROLES[best], float(chance[best]), words))
    return out


def _describe(bars: Bars, found: Outline) -> _Heard:
    parts = [slice(int(a), int(b)) for a, b in zip(found.edges[:-1], found.edges[1:], strict=True)]
    level = np.array([bars.level[p].mean() for p in parts])
    busy = bars.rhythm.mean(axis=1)
    busy = (busy - busy.mean()) / (busy.std() + 1e-6)
    slopes, busier = [], []
    for p in parts:
        n = p.stop - p.start
        half = max(1, n // 2)
        slopes.append(bars.level[p.stop - half : p.stop].mean() - bars.level[p.start : p.start + half].mean())
        busier.append(busy[p.stop - half : p.stop].mean() - busy[p.start : p.start + half].mean())
    lengths = np.diff(found.edges).astype(float)
    returns = np.array([(found.letters == x).sum() for x in found.letters], float)
    order = np.argsort(np.argsort(level))
    voice = np.array([bars.voice[p].mean() for p in parts])
    return _Heard(
        level,
        order / max(1, len(parts) - 1),
        np.array([bars.drums[p].mean() for p in parts]),
        voice,
        np.array(slopes),
        np.array(busier),
        returns,
        lengths,
        bool((bars.voice > 0.5).mean() > _SUNG / 2),
    )


def _case(h: _Heard, i: int, role: str) -> list[tuple[float, str]]:
    """Arguments for (above 0) and against a role: weight and words."""
    last = len(h.level) - 1
    before = h.level[i] - h.level[i - 1] if i else 0.0
    after = h.level[i + 1] - h.level[i] if i < last else 0.0
    drums_before = h.drums[i - 1] if i else 0.0
    drums_after = h.drums[i + 1] if i < last else 0.0
    around = max(drums_before, drums_after)
    returns = f"returns {int(h.times[i])} times"
    inner = 0 < i < last
    if role == INTRO:
        return [
            (4.0 if i == 0 else -3.5, "opens the track"),
            (1.0 * (h.level[i] < h.level.max() - 0.7), "quieter than what follows"),
            (1.0 * (i == 1 and h.level[0] < h.level[1] < h.level.max() - 1), "still building up"),
            (-2.0 * (i == 0 and h.rank[i] > 0.9 and last > 1), ""),
        ]
    if role == OUTRO:
        return [
            (4.0 if i == last and last > 0 else -4.0, "ends the track"),
            (1.0 * (h.level[i] < h.level.max() - 0.7), "quieter than the loudest part"),
            (1.0 * (i == last - 1 and before < -0.5 and last > 2), "it has begun to empty"),
        ]
    if role == BREAK:
        thin = inner and h.drums[i] < 0.5 * around and around > 0.4
        return [
            (2.6 * thin, "percussion stops"),
            (1.6 * (inner and before < -0.8), "much quieter than what came before"),
            (0.6 * (inner and before < -0.4 and after > 0.4), "a dip between two fuller parts"),
            (-2.5 if not inner else -0.6, ""),
            (-1.5 * (h.rank[i] > 0.6), ""),
        ]
    if role == BUILD:
        fuller = inner and after > 0.5
        return [
            (1.2 * fuller, "leads into a louder part"),
            (1.3 * (fuller and h.rank[i + 1 if inner else i] > 0.9), "the loudest part comes next"),
            (1.2 * (fuller and h.rise[i] > 0.5), "gets louder as it goes"),
            (1.0 * (fuller and h.busier[i] > 0.4), "gets busier as it goes"),
            (0.8 * (fuller and h.drums[i] < 0.6 * drums_after), "thinner percussion than what follows"),
            (-2.2, ""),
            (-1.5 * (not h.sung and h.times[i] > 2), ""),
        ]
    if role == DROP:
        return [
            (1.5 * (h.rank[i] > 0.85), "among the loudest parts"),
            (1.6 * (i > 0 and before > 0.8), "comes in much louder"),
            (1.0 * (i > 0 and h.drums[i] > drums_before + 0.3), "full percussion comes back"),
            (0.8 if not h.sung else -1.6, "hardly any voice in the track"),
            (-1.6, ""),
            (-3.0 * (i in (0, last)), ""),
        ]
    if role == CHORUS:
        loud = h.rank[i] > 0.5
        return [
            (1.2 * (loud and h.times[i] > 1), f"louder, and {returns}"),
            (1.0 * (h.rank[i] > 0.8), "among the loudest parts"),
            (0.9 * (h.sung and h.voice[i] > _SUNG), "a voice leads"),
            (0.5 * (h.times[i] > 1), returns),
            (0.6 * (inner and before > 0.4), "lifts out of what came before"),
            (-0.6 - 0.5 * (not h.sung), ""),
            (-3.0 * (i in (0, last)), ""),
        ]
    return [
        (0.9 * inner, "a part inside the track"),
        (0.7 * (inner and h.rank[i] < 0.7), "not among the loudest"),
        (0.6 * (h.times[i] > 1), returns),
        (0.5 * (h.sung and h.voice[i] > _SUNG), "a voice leads"),
        (-2.0 * (i in (0, last)), ""),
    ]
