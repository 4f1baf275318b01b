"""What each phrase is for: intro, verse, chorus, break, build, drop or outro, each with its chance and its reason.

Roles are habits, not acoustics, so each is argued for and against by what can be heard: where the phrase stands, how
loud it is, whether percussion stops, whether it returns, whether it rises to what follows. The arguments are added
(their weights are common practice, no source) to what a small network and the habits of whole forms say (`role_model`);
the strongest one for the role that wins is its reason. Where no role is likely enough nothing is claimed.
"""

from __future__ import annotations

import attrs
import numpy as np

from ..arrays import Floats
from ..model.form import OTHER
from . import role_features, role_model
from .bar_features import Bars
from .role_features import SUNG, Phrases
from .segmentation import Outline

INTRO, VERSE, CHORUS, BREAK, BUILD, DROP, OUTRO = "intro", "verse", "chorus", "break", "build", "drop", "outro"
ROLES = (INTRO, VERSE, CHORUS, BREAK, BUILD, DROP, OUTRO)
NAMES = (*ROLES, OTHER)
MEANS = {**{role: role for role in ROLES}, "pre": BUILD, "turn": OTHER}
"""What the kinds of `role_model` are called."""
TELLS = 0.4
"""Below this chance of the likeliest role nothing is claimed."""
COUNT = 1.5
"""How much the arguments count beside the network: best on rendered songs of other forms than it was shown."""
_LEAP, _GOES_ON = 1.3, 0.7


@attrs.frozen
class Role:
    """A role, how likely it is, and why."""

    name: str
    chance: float
    reason: str


def roles(bars: Bars, found: Outline) -> list[Role]:
    """The likeliest role of each phrase."""
    k = len(found.letters)
    if k == 0:
        return []
    heard = role_features.describe(bars, found)
    argued = arguments(heard)
    model = role_model.shipped(heard.sung)
    if model is None:
        chances = np.exp(argued)
    else:
        rows = role_features.figures(heard, bars, found, argued)
        kinds, _ = role_model.read(model, rows, of_kinds(argued), sung=heard.sung)
        chances = np.array([kinds @ [MEANS[kind] == name for kind in role_model.KINDS] for name in NAMES]).T
    by_name = [dict(zip(NAMES, row.tolist(), strict=False)) for row in chances]
    out = [_named(heard, i, x) for i, x in enumerate(by_name)]
    for i in range(1, k - 1):
        if out[i + 1].name == DROP and out[i].name in (VERSE, BREAK) and _leads(heard, i):
            # the last before a drop is its build, unless the drums stop
            out[i] = Role(BUILD, by_name[i][out[i].name] + by_name[i][BUILD], "the drop comes next, at a leap")
    return out


def _leads(heard: Phrases, i: int) -> bool:
    """Whether a phrase leads to the next one at a leap, while the drums go on."""
    around = max(heard.hits[i - 1], heard.hits[i + 1])
    return bool(heard.level[i + 1] - heard.level[i] > _LEAP and heard.hits[i] > _GOES_ON * around)


def _named(heard: Phrases, i: int, chances: dict[str, float]) -> Role:
    """The likeliest role, or none where two are nearly as likely."""
    best, second = sorted(chances, key=lambda name: -chances[name])[:2]
    if chances[best] < TELLS:
        return Role(OTHER, chances[best], f"{best} or {second}, there is no telling")
    if best == OTHER:
        return Role(OTHER, chances[best], "a turnaround between two parts")
    reasons = sorted((a for a in _argument(heard, i, best) if a[1] and a[0] > 0), reverse=True)
    words = ", ".join(w for _, w in reasons[:2]) or "it fits between what comes before and after"
    return Role(best, chances[best], words)


def arguments(heard: Phrases) -> Floats:
    """Log chance of each of `ROLES` for each phrase, by the arguments alone: (k, roles)."""
    total = np.array([[sum(w for w, _ in _argument(heard, i, name)) for name in ROLES] for i in range(len(heard))])
    return np.asarray(total - np.logaddexp.reduce(total, axis=1)[:, None])


def of_kinds(argued: Floats) -> Floats:
    """What `arguments` say, for the kinds of `role_model`: the finer ones share what speaks for their neighbours."""
    by = dict(zip(ROLES, COUNT * argued.T, strict=True))
    by["pre"] = np.logaddexp(by[VERSE], by[BUILD]) - np.log(3)
    by["turn"] = np.logaddexp(by[VERSE], by[BREAK]) - np.log(4)
    return np.stack([by[kind] for kind in role_model.KINDS], axis=1)


Argument = list[tuple[float, str]]


def _argument(h: Phrases, i: int, role: str) -> Argument:
    """Arguments for (above 0) and against a role: weight and words."""
    last = len(h.level) - 1
    edge = i in (0, last)
    before = float(h.level[i] - h.level[i - 1]) if i else 0.0
    after = float(h.level[i + 1] - h.level[i]) if i < last else 0.0
    returns = f"returns {int(h.returns[i])} times"
    leads = h.sung and h.voice[i] > SUNG
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
            (1.2 * (leads and h.returns[i] > 1 and not h.first[i]), "answers the verse"),
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
