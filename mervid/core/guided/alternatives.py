"""Second opinions: what else the beats could be, and how likely each is.

The count may be at another level (twice or half as fast, or three for two), between the beats, or right with bars that
begin elsewhere, for the whole track or for one section, or that have five or seven beats. The chance of the reading
that was chosen is calibrated when the ear is trained; what is left is shared among the others by what the ear heard at
their beats.
"""

from __future__ import annotations

import attrs
import numpy as np

from ..arrays import Floats, Ints
from ..hearing import bar_pointer, count_level, odd_bars
from ..hearing.count_level import READINGS
from ..hearing.drum_patterns import BEATS
from ..hearing.ear import Strengths
from ..hearing.evidence import Evidence
from ..hearing.heard import Heard
from ..model.hints import COUNT, DOWNBEAT, END, METRE, Hint

_LEAST = 0.02
_SECONDS = 4.0
_SECTION = 32
_CLEARLY = 5.0
_MOST = 6
_SETTLED = 0.979
_ODD = 0.95
"""The chance of bars of five or seven where they are told: of 67 such rendered takes none was something else."""


@attrs.frozen
class Opinion:
    """One way to read the track.

    Attributes
    ----------
    name : in words, after "Beats" or "Bars": "twice as fast", "begin 1 beat later"
    chance : 0 to 1
    hints : what to tell the guided hearing to read it so; none for the reading that stands
    start, stop : s, the part it is about
    about : "level", "phase", "metre" or "section"
    """

    name: str
    chance: float
    hints: tuple[Hint, ...] = ()
    start: float = 0.0
    stop: float = END
    about: str = "level"


def opinions(evidence: Evidence, heard: Heard, hints: tuple[Hint, ...] = ()) -> tuple[Opinion, ...]:
    """The reading that stands, then the others, likeliest first; those under 2 % are left out.

    Parameters
    ----------
    heard : what is heard under the `hints` that hold now
    """
    n = len(heard.times)
    if n < 16:
        return ()
    level, phase = heard.level_chance or 0.5, heard.phase_chance or 0.5
    ear = evidence.strengths
    # how many beats a bar has, a person has said, or what comes again tells
    odd = 0 if ear is None or any(h.kind == METRE for h in hints) else odd_bars.size(evidence, heard.times)
    sized = 1.0 if not odd else _ODD if odd == heard.metre else 1 - _ODD
    out = [Opinion("as it stands", level * sized * phase)]
    others = _levels(ear, evidence, heard)
    total = sum(score for _, score in others) or 1.0
    for (name, ratio, shift), score in others:
        # bars begin anew with another count: their phase is as open as it was
        hint = Hint(COUNT, value=ratio, shift=shift)
        out.append(Opinion(f"beats {name}", (1 - level) * score / total, (hint,)))
    position, size = heard.position, heard.metre
    each = _shifts(evidence, heard, position, size)
    if size > 1:
        support = each.sum(axis=1) / 8
        shares = np.exp(np.clip(support[1:] - support[1:].max(), -20, 0))
        shares /= shares.sum()
        for k in range(1, size):
            later = np.flatnonzero(position == k)
            if len(later):
                at = float(heard.times[later[len(later) // 2]])
                name = f"bars begin {_moved(k, size)}"
                chance = level * sized * (1 - phase) * float(shares[k - 1])
                out.append(Opinion(name, chance, (Hint(DOWNBEAT, at),), about="phase"))
    if phase < _SETTLED:
        out += _sections(each, heard, position)
    if odd:
        other = BEATS if odd == size else odd
        hint = Hint(METRE, value=float(other))
        out.append(Opinion(f"bars of {other} beats", level * (1 - sized), (hint,), about="metre"))
    likely = [o for o in out[1:] if o.chance >= _LEAST]
    return (out[0], *sorted(likely, key=lambda o: -o.chance)[:_MOST])


def _moved(k: int, size: int) -> str:
    """Bars that begin `k` of `size` beats later, in the shorter way."""
    n, way = (k, "later") if k <= size / 2 else (size - k, "earlier")
    return f"{n} beat{'s' if n > 1 else ''} {way}"


def _levels(ear: Strengths | None, evidence: Evidence, heard: Heard) -> list[tuple[tuple[str, float, float], float]]:
    """Each other level with its weight: its chance, or what speaks for it where that can't be told."""
    shares = count_level.chances(ear, heard.times) if ear is not None else None
    if shares is not None:
        return [((r.name, r.ratio, r.shift), float(s)) for r, s in zip(READINGS[1:], shares[1:], strict=True)]
    out = []
    numbers = heard.numbers.astype(float)
    for reading in READINGS[1:]:
        count = numbers * reading.ratio + reading.shift
        whole = np.arange(np.ceil(count[0]), np.floor(count[-1]) + 1)
        times = np.interp(whole, count, heard.times)
        bpm = 60 / float(np.median(np.diff(times))) if len(times) > 8 else 0.0
        if not bar_pointer.SLOWEST * 0.9 < bpm < bar_pointer.FASTEST * 1.1:
            continue
        score = _struck(evidence, times) if ear is None else _support(ear, times)
        out.append(((reading.name, reading.ratio, reading.shift), float(np.exp(_SECONDS * score))))
    return out


def _support(ear: Strengths, times: Floats) -> float:
    """Mean log-odds per s of beats at `times`, and the ear's log-share of their tempo."""
    gain = bar_pointer.gained(bar_pointer.observed(ear.beat), times)
    share = np.log(bar_pointer.tempo_shares(ear, times) + 0.01)
    return float(gain / (times[-1] - times[0]) / 2 + 0.5 * share.mean())


def _struck(evidence: Evidence, times: Floats) -> float:
    """How much is struck at `times`, where there is no ear: mean attack strength."""
    at = np.clip(np.rint(times * 1000).astype(int), 0, len(evidence.attack) - 1)
    return float(evidence.attack[at].mean()) / 255


def _shifts(evidence: Evidence, heard: Heard, position: Ints, size: int) -> Floats:
    """For each beat (columns) what speaks for it when all bars begin 0, 1, ... beats later (rows): log-odds,
    less what speaks for it where none begins."""
    if evidence.strengths is None:
        return np.zeros((size, len(position)))
    told = odd_bars.odds(evidence, heard.times, size)
    return np.array([np.where(position % size == k, told, 0.0) for k in range(size)])


def _sections(each: Floats, heard: Heard, position: Ints) -> list[Opinion]:
    """Sections that begin their bars elsewhere, by what the ear heard in them alone; `each` as `_shifts` gives it."""
    size, n = each.shape
    found: list[tuple[int, int, int, float]] = []
    for a in range(0, n - _SECTION // 2, _SECTION // 2):
        part = each[:, a : a + _SECTION].sum(axis=1)
        k = int(part.argmax())
        won = float(part[k] - part[0])
        if k and won > _CLEARLY:
            if found and found[-1][2] == k and found[-1][1] >= a:
                found[-1] = (found[-1][0], min(n, a + _SECTION), k, max(found[-1][3], won))
            else:
                found.append((a, min(n, a + _SECTION), k, won))
    out = []
    for a, b, k, won in found:
        if b - a > 0.8 * n:
            continue
        inside = np.flatnonzero((position[a:b] % size) == k) + a
        start, stop = float(heard.times[a]), float(heard.times[b - 1])
        here = float(heard.times[inside[0]])
        # what comes after keeps its bars
        back = np.flatnonzero(position[b:] == 0) + b
        hints = [Hint(DOWNBEAT, here), Hint(DOWNBEAT, float(heard.times[inside[-1]]))]
        before = np.flatnonzero(position[:a] == 0)
        if len(before):
            hints.insert(0, Hint(DOWNBEAT, float(heard.times[before[-1]])))
        if len(back):
            hints.append(Hint(DOWNBEAT, float(heard.times[back[0]])))
        later = _moved(k, size)
        chance = 1 / (1 + np.exp(-(won - 12) / 6))
        out.append(Opinion(f"bars begin {later} in this part", float(chance), tuple(hints), start, stop, "section"))
    return sorted(out, key=lambda o: -o.chance)[:2]
