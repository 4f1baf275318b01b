"""Bars of five and seven, and of any size that a person tells: how many beats they have, and where they begin.

The ear knows bars of three and four. How many beats others have shows in what comes again: rhythm, timbre and harmony
of a beat are those of the beat one bar, two bars ... before it, whatever begins the bar (recurrences in descriptors of
beats: Gouyon & Herrera, AES Convention 114, 2003; from memory). With which beat they begin then tells where sections
begin, harmony and bass move, and the ear's downbeats, over all bars together.
"""

from __future__ import annotations

import attrs
import numpy as np

from ..arrays import Floats, Ints
from . import bar_pointer, beat_tracking, features
from .bar_figures import beside, change, even
from .drum_patterns import BEATS
from .evidence import TONE_FPS, Evidence
from .heard import Heard
from .scene import Sums, between

SIZES, USUAL = (5, 7), (3, BEATS)
"""Beats of bars that are told from usual ones, and of those, whose lines the ear tells by itself."""
LEAST = 60
"""Beats by which the size is told at least."""
CLEARLY = 0.15
"""How much more must come again after bars of an odd size than after usual ones. On 440 tracks without such bars (some
90 recordings, 113 takes of others, 191 rendered, bench, demo) the most was .08; 67 of 70 rendered ones with them have
more."""
_LAGS = np.arange(2, 29)
_SLOTS, _REACH = 4, 25
"""Parts of a beat at which attacks and timbre are looked at, and by how many ms an attack may lie beside one."""
_TIMBRES, _LOW = 8, 4
_SPANS = (1, 2)
_ODDS = {"downbeat": 0.3, "section": 1.0, "harmony": 0.5, "bass": 0.5}
"""Log odds for each standard deviation by which a beat stands out, on 71 rendered takes in five and seven."""
_TRUST, _MOST = 0.3, 0.95
"""How much of each beat's log odds counts in the chance, as neighbours say nearly the same; the most it can be."""


def size(evidence: Evidence, times: Floats) -> int:
    """How many beats the bars of (n,) `times` in s have where that is clearly an odd number; else 0."""
    if len(times) < LEAST:
        return 0
    again = recurrence(evidence, times)
    told = {m: float(again[_LAGS % m == 0].mean()) for m in (*SIZES, *USUAL)}
    odd = max(SIZES, key=lambda m: told[m])
    return odd if told[odd] - max(told[m] for m in USUAL) > CLEARLY else 0


def recurrence(evidence: Evidence, times: Floats) -> Floats:
    """How much of beats at (n,) `times` in s comes again 2 to 28 beats later: (27,), 3 is all of it, by nothing 0."""
    kinds = [even(x) for x in (_rhythm(evidence, times), _timbre(evidence, times), _harmony(evidence, times))]
    # of length 1 once, not for each lag
    unit = [x / np.maximum(np.linalg.norm(x, axis=1, keepdims=True), 1e-9) for x in kinds]
    return np.array([sum(float((x[k:] * x[:-k]).sum(axis=1).mean()) for x in unit) for k in _LAGS])


def _slots(times: Floats) -> tuple[Floats, Floats]:
    """The parts of each beat, (n, 4) s, and how long they are, (n, 1)."""
    part = bar_pointer.periods(times)[:, None] / _SLOTS
    return times[:, None] + part * np.arange(_SLOTS), part


def _rhythm(evidence: Evidence, times: Floats) -> Floats:
    """The strongest attack at each part of each beat, (n, 4)."""
    return features.highest_attack(evidence.attack, _slots(times)[0], _REACH).astype(float)


def _timbre(evidence: Evidence, times: Floats) -> Floats:
    """Levels of groups of bands in each part of each beat, (n, 32)."""
    slots, part = _slots(times)
    bands = evidence.colour.shape[1] // _TIMBRES
    groups = evidence.colour.astype(float).reshape(-1, _TIMBRES, bands).mean(axis=2)
    return np.concatenate([between(groups, TONE_FPS, at, at + part[:, 0]) for at in slots.T], axis=1)


def _harmony(evidence: Evidence, times: Floats) -> Floats:
    """Roots of the shares of pitch classes in each beat, (n, 12)."""
    return np.sqrt(between(evidence.chroma.astype(float), TONE_FPS, times, times + bar_pointer.periods(times)))


# where they begin


def odds(evidence: Evidence, times: Floats, beats: int) -> Floats:
    """By how much the log odds of beginning a bar of so many beats are above those of not, at (n,) `times` in s: (n,).

    Three and four are told by the ear alone; of others only differences between beats count.

    Raises
    ------
    ValueError
        The track was heard without the trained ear.
    """
    ear = evidence.strengths
    if ear is None:
        raise ValueError("Where bars begin is told by the trained ear.")
    yes, no = bar_pointer.sides(ear, times)
    if beats in USUAL:
        return yes - no
    period = bar_pointer.periods(times)
    pitches = Sums.of(np.sqrt(evidence.chroma.astype(np.float32)), TONE_FPS)
    before, after = beside(Sums.of(evidence.colour[:, :_LOW].astype(np.float32), TONE_FPS), times, period, max(_SPANS))
    told: list[tuple[str, Floats]] = [
        ("downbeat", yes - no),
        ("section", bar_pointer.peaks(ear.section, times, 6)),
        *(("harmony", change(pitches, times, period, span)) for span in _SPANS),
        ("bass", np.abs(after - before).mean(axis=1)),
    ]
    return np.asarray(sum(_ODDS[name] * (x - x.mean()) / (x.std() + 1e-9) for name, x in told))


def places(evidence: Evidence, times: Floats, numbers: Ints, beats: int) -> tuple[Ints, float]:
    """The place of each beat in bars of so many, 0 begins one, (n,); the chance that the right beat does.

    Bars go through, but for rare slips of the count.

    Parameters
    ----------
    numbers : (n,) the count of each beat: what is missing between two has its place, too

    Raises
    ------
    ValueError
        As `odds`.
    """
    told = odds(evidence, times, beats)
    at = numbers - numbers[0]
    gain = np.zeros((int(at[-1]) + 1, beats))
    gain[at, 0] = told
    cost = np.full((beats, beats), -bar_pointer.SLIP)
    cost[np.arange(beats), (np.arange(beats) + 1) % beats] = 0.0
    place = bar_pointer.best_path(gain, cost)[at]
    each = _TRUST * np.array([told[place == k].sum() for k in range(beats)])
    return place, min(_MOST, float(1 / np.exp(each - each[0]).sum()))


def counted(evidence: Evidence, beats: int) -> Heard:
    """What was heard, in bars of so many beats; see `places`."""
    h = evidence.heard
    place, chance = places(evidence, h.times, h.numbers, beats)
    told = beat_tracking.numbered(h.times, h.numbers, place == 0, beats, h.confidence, h.level_chance, chance)
    return attrs.evolve(told, pulse=h.pulse)


def recounted(evidence: Evidence) -> Evidence:
    """With its beats in bars of five or seven, where they clearly are."""
    if evidence.strengths is None or not (beats := size(evidence, evidence.heard.times)):
        return evidence
    return attrs.evolve(evidence, heard=counted(evidence, beats))
