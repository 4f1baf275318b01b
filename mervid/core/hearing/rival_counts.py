"""Rival counts: is the music counted at its level and on the beat, all through, or twice as fast, or between the beats?

A path through the ear's answers decides from moment to moment. It may go to the off-beat for a while and come back, by
a sudden half beat or over some that are squeezed, or count a whole recording at another level. What was found and its
rivals are each described beat by beat (`rival_figures`), a network says of each beat whether it is right as part of
that count, and the best way through all of them, which rarely goes from one to another, is taken (for the level: with
what `count_level` says of the whole). Where it leaves what was found, the ear's answers are drawn to it, and the
pointer searches again.
"""

from __future__ import annotations

from pathlib import Path

import attrs
import numpy as np

from ..arrays import Floats, Ints, Singles
from . import bar_pointer, beat_net, count_level, one_level, rival_figures, voices
from .ear import Strengths
from .scene import Scene
from .spectra import EAR_FPS

WEIGHTS = Path(__file__).parent / "weights" / "rivals.npz"


@attrs.frozen
class Rival:
    """Another way to count the same beats.

    Attributes
    ----------
    shift : by how many of those found it begins later
    reading : which of `count_level.READINGS` it is, in the whole
    """

    shift: float
    reading: int

    @property
    def ratio(self) -> float:
        """Beats for each that was found."""
        return count_level.READINGS[self.reading].ratio


RIVALS = (
    Rival(0.0, 0),
    Rival(0.0, 1),
    Rival(0.0, 2),
    Rival(1.0, 3),
    Rival(0.5, 4),
    Rival(0.0, 5),
    Rival(1 / 3, 5),
    Rival(0.0, 6),
    Rival(0.5, 6),
    Rival(1.0, 6),
)
AS_FOUND, BETWEEN = 0, 4
_SLOWEST, _FASTEST = 45.0, 230.0
_NEVER = -12.0
TRUST = 0.3
"""How much of each beat's log odds counts: neighbours say nearly the same."""
_WHOLE, _UNLIKELY = 2.0, -6.0
"""How much the log of a reading's chance counts, and the least it can be."""
_SIDE, _OTHER = 8.0, 1e4
"""What going between the beats, or back, costs; and to any other count: a recording keeps its level."""
_KEPT, _GIVEN = 0.3, 0.5
"""Of the ear's answers: what is left of them off the count that is taken, what is given to it of those around."""
_AROUND = 17
SPOKEN, SPOKEN_TO_THEIRS = 0.33, 0.7
"""Of voices alone: where no count is likelier right than this, somebody talks, at no pulse; their own ear is surer."""
_RATIOS = tuple(sorted({r.ratio for r in count_level.READINGS} - {1.0}))
_SURER, _DOUBTFUL = 0.05, 0.8
"""By how much likelier right the beats of another search must be; and where those that were found are no likelier than
this, the search is made again at every level, for one that is."""
_SURE, _WORTH = 3.0, 0.01
"""Where what was found is so sure, readings that have less of a chance in the whole are not looked at."""


def _at(rival: Rival, n: int) -> Floats:
    """Where the rival's beats lie among the n that were found."""
    return count_level.places(n, rival.ratio, rival.shift)


def rivals(times: Floats) -> list[Floats | None]:
    """Beats in s of each of `RIVALS` of (n,) `times`; None where they are too few, or too fast or slow to be heard."""
    out: list[Floats | None] = []
    for rival in RIVALS:
        beats = np.interp(_at(rival, len(times)), np.arange(len(times)), times)
        heard = len(beats) >= beat_net.LEAST and _SLOWEST <= 60 / np.median(np.diff(beats)) <= _FASTEST
        out.append(beats if heard else None)
    return out


def odds(whole: rival_figures.Whole, times: Floats, only: tuple[int, ...] = tuple(range(len(RIVALS)))) -> Floats | None:
    """Log odds that each of `RIVALS` is right, at (n,) `times`: (rivals, n), very low where `only` others are asked.

    None where the network can't tell, as its weights are missing.
    """
    net = beat_net.load(voices.among(WEIGHTS, whole.ear), rival_figures.COUNT)
    if net is None:
        return None
    n = len(times)
    out = np.full((len(RIVALS), n), _NEVER)
    all_beats = rivals(times)
    for k in only:
        beats = all_beats[k]
        if beats is not None:
            out[k] = np.interp(np.arange(n), _at(RIVALS[k], n), net(rival_figures.figures(whole, beats)))
    return out


def tells_voices(ear: Strengths) -> bool:
    """Whether this is a recording of voices alone, and the network that knows those is there."""
    return voices.alone(ear) and beat_net.load(voices.theirs(WEIGHTS), rival_figures.COUNT) is not None


def sure_of_side(ear: Strengths, attack: Singles, seen: Scene, times: Floats) -> Floats | None:
    """By how much the log odds of beats at (n,) `times` are higher than those between them, (n,)."""
    if len(times) < beat_net.LEAST:
        return None
    told = odds(rival_figures.Whole.of(ear, attack, seen), times, (AS_FOUND, BETWEEN))
    return None if told is None else told[AS_FOUND] - told[BETWEEN]


def best_way(odds: Floats, shares: Floats | None) -> Ints:
    """Which of `RIVALS` is right at each beat that was found, (n,).

    Parameters
    ----------
    odds : (rivals, n) log odds of each
    shares : how likely each of `count_level.READINGS` is for the whole, where that can be told
    """
    count, n = odds.shape
    gain = TRUST * np.maximum(odds - np.logaddexp.reduce(odds, axis=0), _NEVER)
    if shares is not None:
        whole = np.maximum(np.log(shares[[r.reading for r in RIVALS]] + 1e-4), _UNLIKELY)
        gain += _WHOLE * whole[:, None] / n
    change = np.full((count, count), -_OTHER)
    change[AS_FOUND, BETWEEN] = change[BETWEEN, AS_FOUND] = -_SIDE
    np.fill_diagonal(change, 0.0)
    return bar_pointer.best_path(gain.T, change)


def along(times: Floats, way: Ints) -> Floats:
    """Beats in s of the count that each of (n,) `times` was found to belong to, one after the other."""
    n = len(times)
    pieces = []
    for k in np.unique(way):
        at = _at(RIVALS[k], n)
        pieces.append(np.interp(at[way[np.clip(np.rint(at).astype(int), 0, n - 1)] == k], np.arange(n), times))
    return np.sort(np.concatenate(pieces))


def drawn(ear: Strengths, times: Floats, way: Ints, beats: Floats) -> Strengths:
    """The ear's answers, drawn to `beats` where `way` leaves what was found at `times`."""
    frame = np.arange(len(ear.beat)) / EAR_FPS
    inside = (way != AS_FOUND)[np.clip(np.searchsorted(times, frame), 0, len(times) - 1)]
    usual = bar_pointer.around(bar_pointer.peaks(ear.beat, times), _AROUND)
    near = _nearness(beats, frame)
    given = _GIVEN * np.interp(frame, times, usual) * near**2
    beat = np.where(inside, np.maximum(ear.beat * (_KEPT + (1 - _KEPT) * near), given), ear.beat)
    return attrs.evolve(ear, beat=beat.astype(np.float32))


def _nearness(beats: Floats, frame: Floats) -> Floats:
    """1 at beats, falling within some frames of 20 ms: (frames,)."""
    j = np.clip(np.searchsorted(beats, frame), 1, len(beats) - 1)
    off = np.minimum(np.abs(frame - beats[j - 1]), np.abs(frame - beats[j])) * EAR_FPS
    return np.exp(-0.5 * (off / 1.5) ** 2)


def _looked_at(whole: rival_figures.Whole, times: Floats, shares: Floats | None) -> Floats | None:
    """The log odds of all rivals that are worth a look: where what was found is sure, those with some chance only."""
    told = odds(whole, times, (AS_FOUND, BETWEEN))
    if told is None:
        return None
    likely = np.ones(len(count_level.READINGS)) if shares is None else shares
    least = _WORTH if told[AS_FOUND].mean() >= _SURE else 0.0
    others = tuple(k for k, r in enumerate(RIVALS) if r.ratio != 1 and likely[r.reading] >= least)
    more = odds(whole, times, others) if others else None
    return told if more is None else np.maximum(told, more)


def heard_as(
    ear: Strengths, attack: Singles, seen: Scene, times: Floats, *, spoken: float = SPOKEN
) -> tuple[Strengths, Floats, float | None]:
    """Beats as the whole recording speaks for them, and the ear's answers to them; as given where nothing else does.

    Last comes the share that the count which is taken has of all its rivals, 0 to 1, where that can be told.

    Parameters
    ----------
    spoken : voices alone have no beats where none is likelier right than this
    """
    if len(times) < beat_net.LEAST:
        return ear, times, None
    whole = rival_figures.Whole.of(ear, attack, seen)
    known = _known(whole, times)
    if known is None:
        return ear, count_level.likeliest(ear, times, count_level.chances(ear, times)), None
    if not tells_voices(ear):
        known = _searched_again(whole, known)
    elif _right(*known[1:]) < spoken:
        return ear, times[:0], None
    times, told, way = known
    if (way == AS_FOUND).all():
        return ear, times, _share(told, way)
    beats = along(times, way)
    ear = drawn(ear, times, way, beats)
    found = bar_pointer.beats_along(ear, beats)
    # the search begins with the file, the music where it was found
    first = min(times[0], beats[0]) - (times[1] - times[0])
    last = max(times[-1], beats[-1]) + (times[-1] - times[-2])
    return ear, found[(found > first) & (found < last)], _share(told, way)


_Known = tuple[Floats, Floats, Ints]
"""Beats in s, the log odds of `RIVALS` at them, and the best way through these."""


def _known(whole: rival_figures.Whole, times: Floats) -> _Known | None:
    """What is told of a count; None where it has too few beats, or the network can't tell."""
    if len(times) < beat_net.LEAST:
        return None
    shares = count_level.chances(whole.ear, times)
    told = _looked_at(whole, times, shares)
    return None if told is None else (times, told, best_way(told, shares))


def _searched_again(whole: rival_figures.Whole, found: _Known) -> _Known:
    """What was found, or a likelier count of those at one level throughout."""
    times, told, way = found
    ratio, right = RIVALS[way[0]].ratio, _right(told, way)
    others = one_level.at_its_levels(whole.ear, times)
    if ratio != 1:
        others += one_level.at_ratios(whole.ear, times, (ratio,))
    found = _likelier(whole, others, found, right + _SURER)
    if found[0] is times and right <= _DOUBTFUL:
        others = one_level.at_ratios(whole.ear, times, (r for r in _RATIOS if r != ratio))
        found = _likelier(whole, others, found, max(right + _SURER, _DOUBTFUL))
    return found


def _likelier(whole: rival_figures.Whole, others: list[Floats], found: _Known, least: float) -> _Known:
    """The likeliest of other counts, where its beats are likelier right than `least`; else what was found."""
    for times in others:
        known = _known(whole, times)
        if known is not None and (right := _right(*known[1:])) > least:
            found, least = known, right
    return found


def _right(told: Floats, way: Ints) -> float:
    """How likely its beats are right, by themselves."""
    return float((1 / (1 + np.exp(-told[way, np.arange(len(way))]))).mean())


def _share(told: Floats, way: Ints) -> float:
    return float(np.exp(told[way, np.arange(len(way))] - np.logaddexp.reduce(told, axis=0)).mean())
