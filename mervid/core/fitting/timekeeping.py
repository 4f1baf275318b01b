"""What kind of time a recording keeps: steady, stepped, ramping, wandering, a turntable's, or unclear.

Read from where the beats' attacks lie, from the stretches that one steady line explains, and from the sound: a sway
of all pitches at a turning rate, noise before the music.
"""

from __future__ import annotations

import itertools

import attrs
import numpy as np

from ..arrays import Bools, Floats, Singles
from ..hearing import beat_refinement
from ..hearing.beat_refinement import Run
from ..hearing.beat_tracking import stretches
from ..hearing.heard import Heard
from ..hearing.turntable import Sway
from ..sound.condition import Condition
from . import tempo_estimate
from .tempo_estimate import Estimate

STEADY, STEPPED, RAMPING, WANDERING, TURNTABLE, UNCLEAR = (
    "steady", "stepped", "ramping", "wandering", "turntable", "unclear",
)  # fmt: skip
KINDS = (STEADY, STEPPED, RAMPING, WANDERING, TURNTABLE, UNCLEAR)

NEAR = 0.02
_LEAST_BEATS = 16
_UNSURE = 0.75
_MOSTLY = 0.8
_SURE = 0.9
_STRETCH, _END = 4, 2
_STROKES = 48
_STEP = 0.01
_EQUAL = 0.0015
_RAMP = 0.04
_LASTING = 9.0
_RAMP_BEATS = 5


@attrs.frozen(eq=False)
class Timekeeping:
    """What is known about the time a recording keeps.

    Attributes
    ----------
    kind : one of `KINDS`
    runs : stretches that one steady line explains, by index of heard beats
    steady : the steady line that passes most beats, None where fewer than 8 lie on any
    inside : (n,) bool, which beats lie within 20 ms of that line
    """

    kind: str
    runs: tuple[Run, ...]
    steady: Estimate | None
    inside: Bools


def judge(
    heard: Heard,
    attack: Singles,
    *,
    drums: Floats | None = None,
    sway: Sway | None = None,
    condition: Condition = Condition(),
) -> Timekeeping:
    """Find out the kind of time.

    Parameters
    ----------
    attack : attack strength, 1000 a second
    drums : (n,) how sure percussion is at each heard beat, 0 to 1; unknown is taken for certain
    """
    n = len(heard.times)
    if n < _LEAST_BEATS:
        return Timekeeping(UNCLEAR, (), None, np.zeros(n, bool))
    attacks, clear = beat_refinement.to_own_attacks(attack, heard.times)
    runs = tuple(beat_refinement.steady_runs(attacks, clear))
    drums = np.ones(n) if drums is None else drums
    firm = (drums >= 0.5) & (heard.confidence >= _SURE)
    line, inside = _main_line(attacks, clear, heard.numbers.astype(float), runs, firm)
    kind = _kind(heard, runs, inside, drums, sway, condition)
    return Timekeeping(kind, runs, line, inside)


def _main_line(
    attacks: Floats, clear: Floats, numbers: Floats, runs: tuple[Run, ...], firm: Bools
) -> tuple[Estimate | None, Bools]:
    """The steady line that passes most beats, grown from any of the runs; where drums keep it, measured on these."""
    best: tuple[int, Estimate | None, Bools] = (0, None, np.zeros(len(attacks), bool))
    for run in runs:
        inside = np.zeros(len(attacks), bool)
        inside[run.first : run.last + 1] = True
        found: Estimate | None = None
        for _ in range(4):
            known = inside & (clear > 0)
            if known.sum() < 8:
                break
            found = tempo_estimate.estimate(attacks[known], numbers[known])
            inside = np.abs(attacks - found.origin - found.period * numbers) < NEAR
        if found is not None and inside.sum() > best[0]:
            best = (int(inside.sum()), found, inside)
    _, line, inside = best
    strokes = inside & (clear > 0) & firm
    if line is not None and strokes.sum() >= _STROKES:
        line = tempo_estimate.estimate(attacks[strokes], numbers[strokes])
    return line, inside


def _kind(
    heard: Heard,
    runs: tuple[Run, ...],
    inside: Bools,
    drums: Floats,
    sway: Sway | None,
    condition: Condition,
) -> str:
    n = len(heard.times)
    if sway is not None:
        return TURNTABLE
    if float(np.median(heard.confidence)) < _UNSURE:
        return UNCLEAR
    # beats off the line count against it where they are surely heard: not in a lead-in without drums
    against = [
        (a, b)
        for a, b in stretches(~inside, _END)
        if (b - a >= _STRETCH or a == 0 or b == n)
        and float(np.median(heard.confidence[a:b])) >= _SURE
        and float(np.median(drums[a:b])) >= 0.5
    ]
    if inside.mean() >= _MOSTLY and not against:
        return STEADY
    if inside.mean() >= _MOSTLY and all(b == n or a == 0 for a, b in against):
        # all but the beginning or the end: it gets going, or slows down to stop
        return RAMPING
    if condition.lead_in is not None:
        return TURNTABLE
    # for some seconds a drummer, too, keeps one line
    runs = tuple(r for r in runs if (r.last - r.first) * r.period >= _LASTING)
    covered = sum(r.last - r.first + 1 for r in runs) / n
    changes = [(a, b, abs(b.period / a.period - 1)) for a, b in itertools.pairwise(runs)]
    stepped = [c for c in changes if c[2] >= _STEP]
    if covered >= _MOSTLY and stepped:
        return RAMPING if any(_passes(heard.times, a, b) for a, b, _ in stepped) else STEPPED
    if covered >= _SURE and changes and all(c[2] < _EQUAL for c in changes):
        return STEPPED
    return RAMPING if _glides(heard.times) else WANDERING


def _passes(times: Floats, before: Run, after: Run) -> bool:
    """Does the tempo pass gradually from one run to the next?"""
    gap = np.diff(times[before.last : after.first + 1])
    if len(gap) < _RAMP_BEATS:
        return False
    part = (gap - before.period) / (after.period - before.period)
    between = (part > -0.25) & (part < 1.25)
    return bool(between.mean() > 0.8 and np.corrcoef(np.arange(len(part)), part)[0, 1] > 0.6)


def _glides(times: Floats) -> bool:
    """Is most of a wide change of tempo one long slide in one direction?"""
    if len(times) < 40:
        return False
    step = np.diff(times)
    period = np.array([np.median(step[max(0, i - 4) : i + 5]) for i in range(len(step))])[::4]
    level = np.log(period)
    whole = float(np.percentile(level, 98) - np.percentile(level, 2))
    moves = np.diff(level)
    # small moves against the slide don't end it
    slides = (
        abs(float(level[j] - level[i]))
        for i in range(0, len(level), 2)
        for j in range(i + 3, min(i + 20, len(level)))
        if (np.sign(moves[i:j]) * np.sign(level[j] - level[i]) >= -0.0).mean() > 0.9
    )
    return whole > 2 * _RAMP and max(slides, default=0.0) > 0.7 * whole
