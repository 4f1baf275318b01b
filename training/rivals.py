"""What the network of `mervid.core.hearing.rival_counts` learns: which beats of a count are right, and of its rivals.

Every take is counted by the ear's pointer; that count and its rivals are shown, each beat of which is right or not.
Counts that slip to the off-beat for a while are rare, so they are made besides: from the true beats, suddenly or over
some beats, and mostly with the ear's answers moved along, as it is the ear that errs there.
"""

from __future__ import annotations

from pathlib import Path

import attrs
import numpy as np
from numpy.random import Generator
from numpy.typing import NDArray

from mervid.core.hearing import bar_pointer, beat_net, beat_tracking, rival_counts, rival_figures, voices
from mervid.core.hearing.ear import Strengths
from mervid.core.hearing.spectra import EAR_FPS
from training.beat_net import Task, yes_or_no
from training.heard_takes import Read, nearest, read

Floats = NDArray[np.float64]
Singles = NDArray[np.float32]
ON, LEVEL = 0.12, 0.2
"""Of a beat: how far a right one may lie from a true one; of e: how far its period from the true one."""
SLIPPED = 2
SHORTEST, LONGEST, MOST = 8, 90, 0.45
"""Beats of a slip, and the share of a take that it takes at most."""
AT_FIRST, AT_LAST = 0.35, 0.25
MOVED_WITH = 0.65
JITTER_S = 0.004
EVEN = 0.4
STEPS = 2400
RIGHT, MADE = 0.4, 0.45
"""How often the right reading of a take is shown, and a count that was made to slip."""


@attrs.frozen(eq=False)
class Count:
    """Beats of a count: (n, figures), which are right and where that is known, (n,) each; whether it was made."""

    figures: Singles
    right: Singles
    known: Singles
    made: bool


def lesson(path: Path | None) -> list[Count] | None:
    """The count of a take, its rivals, and counts made to slip; None where it has too few beats."""
    if path is None:
        return None
    take = read(path)
    # with voices alone the network is asked whether there is a pulse at all
    search = beat_tracking.searched if voices.alone(take.ear) else beat_tracking.rough
    times = search(take.ear, take.duration)
    if 0 < len(take.beats) < 24 or len(times) < beat_net.LEAST:
        return None
    whole = rival_figures.Whole.of(take.ear, take.attack, take.seen)
    out = [_count(take, whole, rival, False) for rival in rival_counts.rivals(times) if rival is not None]
    step = np.diff(take.beats)
    if len(step) and np.all(np.abs(step / np.median(step) - 1) < EVEN):
        rng = np.random.default_rng(int(path.stem))
        for _ in range(SLIPPED):
            ear, wrong = slipped(rng, take.ear, take.beats)
            both = rival_counts.rivals(wrong)
            pair = (both[rival_counts.AS_FOUND], both[rival_counts.BETWEEN])
            whole = rival_figures.Whole.of(ear, take.attack, take.seen)
            out += [_count(take, whole, rival, True) for rival in pair if rival is not None]
    return out


def _count(take: Read, whole: rival_figures.Whole, times: Floats, made: bool) -> Count:
    right, known = judged(times, take.beats)
    return Count(rival_figures.figures(whole, times), right, known, made)


def judged(times: Floats, beats: Floats) -> tuple[Singles, Singles]:
    """Which beats are right: on a true one and at its level; and which lie in the music, where that is known."""
    if not len(beats):
        # somebody talks: no count is right
        return np.zeros(len(times), np.float32), np.ones(len(times), np.float32)
    true = nearest(beats, times)
    step = np.diff(beats)
    long = step[np.minimum(np.searchsorted(beats, true), len(step) - 1)]
    period = bar_pointer.periods(times)
    around = np.array([np.median(period[max(0, i - 2) : i + 3]) for i in range(len(period))])
    on = np.abs(true - times) < ON * long
    level = np.abs(np.log(around / long)) < LEVEL
    inside = (times > beats[0] - step[0] / 2) & (times < beats[-1] + step[-1] / 2)
    return (on & level).astype(np.float32), inside.astype(np.float32)


def slipped(rng: Generator, ear: Strengths, beats: Floats) -> tuple[Strengths, Floats]:
    """A count of true `beats` that goes to the off-beat once or twice; the ear's answers mostly go with it."""
    n = len(beats)
    times = beats + rng.normal(0, JITTER_S, n)
    at = np.arange(n, dtype=float)
    beat, down = ear.beat.copy(), ear.downbeat.copy()
    frame = np.arange(len(beat)) / EAR_FPS
    half = np.interp(frame, times[:-1], np.diff(times)) / 2
    for _ in range(int(rng.integers(1, 3))):
        length = int(min(n * MOST, rng.integers(SHORTEST, LONGEST)))
        where = rng.random()
        first = (
            0 if where < AT_FIRST else n - length if where < AT_FIRST + AT_LAST else int(rng.integers(0, n - length))
        )
        way = 1.0 if rng.random() < 0.5 else -1.0
        slip = np.zeros(n)
        slip[first : first + length] = 0.5 * way
        beats_over = int(rng.integers(0, 7))
        if beats_over:
            over = np.ones(beats_over + 1) / (beats_over + 1)
            slip = np.convolve(np.pad(slip, beats_over, mode="edge"), over, "same")[beats_over:-beats_over]
        at = np.where(slip != 0, np.arange(n) + slip, at)
        if rng.random() < MOVED_WITH:
            inside = (frame >= times[first] - 0.1) & (frame < times[min(first + length, n - 1)])
            share = rng.uniform(0.5, 1)
            for x in (beat, down):
                moved = np.interp(frame - way * half, frame, x)
                x[inside] = (share * moved + (1 - share) * x)[inside]
    wrong = np.interp(at, np.arange(n), times)[(at >= 0) & (at <= n - 1)]
    apart = np.append(True, np.diff(wrong) > JITTER_S * 30)
    return attrs.evolve(ear, beat=beat, downbeat=down), wrong[apart]


def task(lessons: list[list[Count]]) -> Task:
    """What is learned, beat by beat."""
    counts = [count for lesson in lessons for count in lesson]
    ends = np.cumsum([len(lesson) for lesson in lessons])
    return Task(
        [count.figures for count in counts],
        [count.right for count in counts],
        [count.known for count in counts],
        dilations=(1, 2, 4, 8, 16, 32),
        steps=STEPS,
        loss=yes_or_no(),
        parts=rival_figures.PARTS,
        left_out=0.15,
        groups=tuple(tuple(range(end - len(lesson), end)) for end, lesson in zip(ends, lessons, strict=True)),
        odds=tuple(odds(lesson) for lesson in lessons),
    )


def odds(lesson: list[Count]) -> Floats:
    """How often each count of a take is shown: those made to slip, the right reading, any other."""
    made = np.array([count.made for count in lesson])
    right = np.array([count.right.sum() for count in lesson]) * ~made
    share = MADE if made.any() else 0.0
    odds = (1 - share) * (1 - RIGHT) * ~made / (~made).sum()
    odds[int(right.argmax())] += (1 - share) * RIGHT
    return np.asarray(odds + share * made / max(int(made.sum()), 1))
