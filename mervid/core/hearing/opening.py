"""Where the music begins: which of the first bar lines opens its first bar.

Before it may lie silence, a count by sticks or voice, speech, single hits, or nothing at all, where a file is cut to
the beat; and the first bars may be too soft for a pointer that waits until it is sure. The count is carried back to the
beginning of the file, and a network over its first beats says of each whether the music has begun. The bar line that
parts these answers best is bar 1.
"""

from __future__ import annotations

from pathlib import Path

import attrs
import numpy as np

from ..arrays import Floats, Ints, Singles
from . import bar_figures, bar_lines, bar_pointer, beat_net, first_beat, first_line, first_stroke, voices
from .drum_patterns import BEATS
from .ear import Strengths
from .features import ATTACK_RATE
from .first_line import Lines
from .first_stroke import Stroke
from .scene import Scene, between
from .spectra import EAR_FPS, SCALE

WEIGHTS = Path(__file__).parent / "weights" / "opening.npz"
MOST = 16
"""Beats that are tried before the first that was found."""
JUDGED = 80
"""Beats of those found that are judged."""
_EARLY, _AT_STROKE = 0.03, 0.06
"""s before the file in which its first beat may be reckoned: anyway, and where the file begins with a stroke, as the
first beats of people are no more even than the others."""
_SOONER = 1.5
"""Log odds for the music having begun: long beginnings without it are far rarer than among the takes of `training`."""
_SAME = 0.012
_CLEAR = 0.05
_USUAL = 0.02
_HIGH = 3.0
_POSITIONS = 5
COUNT = bar_figures.COUNT + 17 + _POSITIONS


@attrs.frozen(eq=False)
class Barred:
    """Beats in bars, with those before them that may belong to the music.

    Attributes
    ----------
    times : (n,) s
    tried : how many of them were put before what was found
    position : (n,) place of each in its bar, 0 begins one
    metre : beats in most bars
    margin : by how much the bar's phase beats the next best, 0 to 1
    odds : (n,) log odds that each begins a bar
    figures : (n, `bar_figures.COUNT`)
    level : (n,) how loud it is from each to the next, as spectra are compressed
    usual : how loud it is in the track
    most : the most that the chance of that phase can be, by the first stroke
    """

    times: Floats
    tried: int
    position: Ints
    metre: int
    margin: float
    odds: Floats
    figures: Singles
    level: Floats
    usual: float
    most: float = 1.0


def barred(ear: Strengths, attack: Singles, seen: Scene, times: Floats) -> Barred | None:
    """Beats at `times` in s in bars, and carried back to the beginning; None where the network of bars can't tell."""
    if len(times) < beat_net.LEAST:
        return None
    before = _before(attack, times)
    whole = np.append(before, times)
    rows = bar_figures.figures(ear, seen, whole)
    odds = bar_lines.odds(ear, rows)
    if odds is None:
        return None
    position, metre, margin = bar_pointer.bars(bar_lines.answered(ear, whole, odds), times)
    position = np.append((position[0] - np.arange(len(before), 0, -1)) % metre, position)
    return Barred(whole, len(before), position, metre, margin, odds, rows, *_level(seen, whole))


def first_stroke_of(ear: Strengths, attack: Singles, whole: Barred) -> Stroke | None:
    """The first stroke; None where it begins a bar, and where bars of four are no matter of strokes."""
    net = beat_net.load(WEIGHTS, COUNT)
    if net is None or whole.metre != BEATS or voices.alone(ear):
        return None
    struck = _beside(attack, whole.times[: first_stroke.WITHIN])[:, 1]
    beat = first_stroke.beside_a_bar(whole.position, struck)
    if beat is None:
        return None
    begun = float(net(figures(ear, attack, whole))[beat])
    return first_stroke.stroke(whole.times, whole.position, whole.odds, beat, strength=float(struck[beat]), begun=begun)


def from_first_stroke(ear: Strengths, attack: Singles, whole: Barred) -> Barred:
    """Bars moved onto the first stroke where that is likelier: see `first_stroke`."""
    first = first_stroke_of(ear, attack, whole)
    if first is None:
        return whole
    if first.chance < first_stroke.LIKELY:
        return attrs.evolve(whole, most=1 - first.chance)
    position, odds = first_stroke.moved(whole.position, whole.odds, first)
    heard, found = bar_lines.answered(ear, whole.times, odds), slice(whole.tried, None)
    margin = bar_pointer.margin(bar_pointer.sides(heard, whole.times[found]), position[found], whole.metre)
    return attrs.evolve(whole, position=position, odds=odds, margin=margin, most=first.chance)


def _before(attack: Singles, times: Floats) -> Floats:
    """Beats evenly back from the first of `times` to the beginning of the file, onto attacks where there are some."""
    period = float(np.median(np.diff(times[: first_beat.EVEN + 1])))
    earliest = -(_AT_STROKE if first_beat.cut(attack) >= first_beat.STRUCK else _EARLY)
    out: list[float] = []
    t = float(times[0])
    while len(out) < MOST and t - period >= earliest:
        place, strength = first_beat.attack_beside(attack, t - period)
        t = max(0.0, place if strength >= first_beat.STRUCK else t - period)
        out.append(t)
    return np.array(out[::-1])


def figures(ear: Strengths, attack: Singles, whole: Barred) -> Singles:
    """Figures of the first beats: (n, `COUNT`)."""
    n = min(len(whole.times), whole.tried + JUDGED)
    times = whole.times[:n]
    period = bar_pointer.periods(whole.times)[:n]
    own, half = _beside(attack, times), _beside(attack, times + period / 2)
    level = whole.level[:n]
    so_far = np.maximum.accumulate(np.append(0, level[:-1]))
    beat, down = bar_pointer.peaks(ear.beat, times), bar_pointer.peaks(ear.downbeat, times)
    share = 1 / (1 + np.exp(-whole.odds))
    opens = whole.position == 0
    order = np.arange(n)
    rows = [
        # what is struck: beside the beat, at it, half a beat on, since the one before, ever before
        own[:, 1],
        own[:, 1] * (np.abs(own[:, 0] - times) < _SAME),
        half[:, 1],
        _highest(attack, times - period + _CLEAR, times - _CLEAR),
        _highest(attack, np.zeros(n), times - _CLEAR),
        # how it is heard beside what is usual in the track: as a downbeat, by the ear alone, as a beat
        _beside_usual(share[:n], share[opens]),
        _beside_usual(down, bar_pointer.peaks(ear.downbeat, whole.times[opens])),
        _beside_usual(beat, bar_pointer.peaks(ear.beat, whole.times)),
        # how loud it is, beside the track, beside all before
        level,
        level - whole.usual,
        level - so_far,
        # where it is: in the file, among the beats; how even the count is there; whether this is music with drums
        np.minimum(times / period, MOST) / 4,
        np.minimum(order, MOST) / 4,
        order < whole.tried,
        order == whole.tried,
        np.clip(np.gradient(times) / np.median(period) - 1, -0.5, 0.5) * 5,
        np.full(n, bar_pointer.peaks(ear.drums, times).mean()),
    ]
    which = np.eye(_POSITIONS)[np.minimum(whole.position[:n], _POSITIONS - 1)]
    return np.concatenate([whole.figures[:n], np.stack(rows, axis=1), which], axis=1).astype(np.float32)


def _level(seen: Scene, times: Floats) -> tuple[Floats, float]:
    """How loud it is from each beat to the next, and in the track."""
    loud = seen.levels.mean(axis=1, keepdims=True, dtype=np.float32) / np.float32(SCALE)
    level = between(loud, EAR_FPS, np.maximum(times, 0), times + bar_pointer.periods(times))[:, 0]
    return np.asarray(level, float), float(np.median(loud))


def _beside(attack: Singles, times: Floats) -> Floats:
    """Place in s and strength of the attack beside each time: (n, 2)."""
    return np.array([first_beat.attack_beside(attack, float(t)) for t in times])


def _highest(attack: Singles, start: Floats, stop: Floats) -> Floats:
    """The strongest attack from each `start` to each `stop` in s; 0 where there is no room."""
    a = np.maximum(np.rint(start * ATTACK_RATE).astype(int), 0)
    b = np.maximum(np.rint(stop * ATTACK_RATE).astype(int), 0)
    return np.array([attack[i:j].max(initial=0) for i, j in zip(a, b, strict=True)], float)


def _beside_usual(strength: Floats, usual: Floats) -> Floats:
    middle = float(np.median(usual)) if len(usual) else 1.0
    return np.minimum(strength / max(middle, _USUAL), _HIGH)


def lines(ear: Strengths, attack: Singles, whole: Barred) -> Lines | None:
    """The bar lines that may be bar 1; None where there is none, and where the network of beginnings can't tell."""
    net = beat_net.load(voices.among(WEIGHTS, ear), COUNT)
    if net is None or not np.any(whole.position[whole.tried :] == 0):
        return None
    begun = net(figures(ear, attack, whole)) + _SOONER
    return first_line.lines(begun, whole.position, whole.level, whole.usual)


def opens(ear: Strengths, attack: Singles, whole: Barred) -> tuple[int, tuple[float, float]]:
    """The beat of `whole` with which the music begins, bar 1 or its pick-up; and where else bar 1 may be.

    That is the s of a bar line, and the chance that it is bar 1: 0 where there is no other.
    """
    found = whole.position[whole.tried :]
    told = lines(ear, attack, whole)
    if told is None:
        return whole.tried + first_beat.first_bar(ear, whole.times[whole.tried :], found), (0.0, 0.0)
    # of 130 songs of voices alone, that weren't learned from, it would mend none and spoil one
    first = first_line.first_line(told, likely=1.0 if voices.alone(ear) else first_line.LIKELY)
    begin = whole.tried if first.beat == whole.tried + int(np.argmax(found == 0)) else first.beat
    return begin, (0.0, 0.0) if first.other is None else (float(whole.times[first.other]), first.chance)
