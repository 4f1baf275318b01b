"""Each phrase of a track in figures, for `role_model`: where it stands, what is heard in it, and in those beside it.

None of them depends on key or loudness of the recording, one on its tempo; what is compared is the track with itself.
"""

from __future__ import annotations

import itertools

import attrs
import numpy as np

from ..arrays import Bools, Floats, Ints, Singles
from .bar_features import Bars
from .boundary_features import HIGHEST, LOWEST
from .segmentation import Outline

SUNG = 0.35
"""From this share of a phrase with a voice on, a voice leads."""
PLACES, COUNT = 44, 237
"""So many figures say where a phrase stands and how loud, struck and sung it is; so many there are in all."""
_TOP = 0.2
_DRUMMED = 0.3
_LEAST_LIKELY = -8.0


@attrs.frozen(eq=False)
class Phrases:
    """The phrases of a track in figures, (k,) each.

    Attributes
    ----------
    bars : their lengths
    letters : which are alike
    level : in standard deviations of the track
    top : among the loudest
    hits : how much is struck, 1 the most
    voice : how surely there is a voice
    rise, busier : of the second half over the first
    returns : how often the letter comes
    first : whether that letter is the first that comes again
    sung : whether there is a voice in much of the track
    """

    bars: Ints
    letters: Ints
    level: Floats
    top: Bools
    hits: Floats
    voice: Floats
    rise: Floats
    busier: Floats
    returns: Floats
    first: Bools
    sung: bool

    def __len__(self) -> int:
        return len(self.bars)


def _parts(found: Outline) -> list[slice]:
    return [slice(int(a), int(b)) for a, b in itertools.pairwise(found.edges)]


def describe(bars: Bars, found: Outline) -> Phrases:
    """What is heard in each phrase."""
    parts, letters = _parts(found), found.letters
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
    returns = np.array([(letters == x).sum() for x in letters], float)
    # an intro that returns as the outro is no verse
    inner = letters[1:-1].tolist()
    again = [x for x in inner if inner.count(x) > 1]
    again = again or [int(x) for x, n in zip(letters, returns, strict=True) if n > 1]
    return Phrases(
        np.diff(found.edges),
        letters,
        level,
        level > level.max() - _TOP,
        hits / (hits.max() + 1e-9) if bars.drums.max() > _DRUMMED else np.ones(len(parts)),
        np.array([bars.voice[p].mean() for p in parts]),
        np.array(rise),
        np.array(busier),
        returns,
        np.array([bool(again) and x == again[0] for x in letters]),
        bool((bars.voice > 0.5).mean() > SUNG),
    )


def figures(p: Phrases, bars: Bars, found: Outline, argued: Floats) -> Singles:
    """(k, `COUNT`) float32: a row for each phrase, with the figures of the phrases before and after it.

    Parameters
    ----------
    argued : (k, roles) log chance of each role by the arguments of `labelling`
    """
    own = [*_places(p, bars), *_sounds(bars, found), *_likeness(found)]
    rows = np.stack([np.asarray(c, np.float32) for c in (*own, *np.maximum(argued.T, _LEAST_LIKELY) / 3)], axis=1)
    none = np.zeros_like(rows[:1])
    return np.concatenate([rows, np.concatenate([none, rows[:-1]]), np.concatenate([rows[1:], none])], axis=1)


def _places(p: Phrases, bars: Bars) -> list[Floats]:
    """Where it stands, how loud, struck and sung it is, and where it comes again."""
    k = len(p)
    at = np.arange(k)
    begins = np.concatenate([[0], np.cumsum(p.bars)])[:-1] / p.bars.sum()
    share = np.array([p.bars[p.letters == x].sum() for x in p.letters]) / p.bars.sum()
    seen: dict[int, int] = {}
    order = np.array([seen.setdefault(int(x), len(seen)) for x in p.letters])
    voice = p.voice / max(0.3, float(p.voice.max()))
    whole = np.ones(k)
    bpm = 60 * np.diff(bars.starts).sum() / np.diff(bars.times).sum()
    return [
        *(at == n for n in (0, 1, 2)),
        *(at == k - n for n in (1, 2, 3)),
        begins,
        begins + p.bars / p.bars.sum(),
        np.log2(p.bars),
        *(p.bars == n for n in (4, 8, 16, 32)),
        p.bars < 4,
        p.level,
        p.level - p.level.max(),
        p.top,
        *_around(p.level),
        p.hits,
        *_around(p.hits),
        voice,
        p.voice,
        *_around(voice),
        p.rise,
        p.busier,
        np.log(p.returns),
        share,
        p.first,
        order / max(1, k),
        order == 0,
        *(_same(p.letters, n) for n in (-1, 1, -2, 2)),
        p.letters == p.letters[0],
        p.letters == p.letters[-1],
        whole * p.sung,
        whole * float((bars.voice > 0.5).mean()),
        whole * float(bars.drums.mean()),
        whole * np.log2(k),
        whole * np.log2(bpm / 110),
    ]


def _sounds(bars: Bars, found: Outline) -> list[Floats]:
    """How low, full and bright it is, how densely struck and how much off the beat; how much it changes."""
    parts = _parts(found)
    timbre, rhythm = bars.timbre, bars.rhythm
    measured = (
        timbre[:, :LOWEST].mean(axis=1),
        timbre[:, LOWEST:HIGHEST].mean(axis=1),
        timbre[:, HIGHEST:].mean(axis=1),
        rhythm.mean(axis=1),
        rhythm[:, 2::4].mean(axis=1) - rhythm[:, ::4].mean(axis=1),
    )
    out: list[Floats] = []
    for row in measured:
        mean = np.array([row[p].mean() for p in parts])
        out += [mean, mean - mean.max(), *_around(mean)]
    out.append(np.array([np.linalg.norm(bars.harmony[p].mean(axis=0)) for p in parts]))
    out.append(np.array([timbre[p].std(axis=0).mean() for p in parts]))
    return out


def _likeness(found: Outline) -> list[Floats]:
    """How far it is from the likest phrase elsewhere, from those beside it and from all; how surely it begins."""
    d, k = found.apart, len(found.apart)
    at = np.arange(k)
    elsewhere = np.abs(at[:, None] - at) > 1
    likest = np.where(elsewhere.any(axis=1), np.where(elsewhere, d, np.inf).min(axis=1), d.max())
    beside = np.diagonal(d, 1)
    mean = d.sum(axis=1) / max(1, k - 1)
    none = np.zeros(1)
    return [
        likest,
        np.concatenate([none, beside]),
        np.concatenate([beside, none]),
        mean,
        mean - mean.mean(),
        found.odds / 3,
    ]


def _around(x: Floats) -> tuple[Floats, Floats]:
    """How far each lies above the one before and the one after; 0 at the ends."""
    step = np.diff(x)
    return np.concatenate([[0.0], step]), np.concatenate([-step, [0.0]])


def _same(letters: Ints, by: int) -> Bools:
    """Whether the phrase `by` places on is alike."""
    at = np.arange(len(letters)) + by
    inside = (at >= 0) & (at < len(letters))
    return inside & (letters[np.clip(at, 0, len(letters) - 1)] == letters)
