"""Beat tracking: which instants a listener would tap, and which of them begin a bar.

The trained ear says how strongly each moment is a beat or a downbeat; a bar pointer makes one count of it; then each
beat goes to the beginning of its attack, steady stretches become steady and carry the count through breaks. Without
the ear's weights the hand-made features of `untrained_pointer` take the first two steps.
"""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

import attrs
import numpy as np

from ..arrays import Bools, Floats, Ints, Singles
from ..model.beatgrid import MeterMark
from . import (
    bar_lines,
    bar_pointer,
    beat_confidence,
    beat_net,
    beat_refinement,
    beat_sides,
    count_level,
    first_beat,
    music_span,
    opening,
    places,
    rival_counts,
    slides,
    untrained_pointer,
    voices,
)
from .drum_patterns import BEATS
from .ear import Strengths
from .features import Sound
from .heard import Heard, nothing_heard
from .scene import Scene

_RESTING = 12
_LEVEL = np.array([0.47, 0.56, -0.73])
"""Weights of the two log odds of a count, and what is always added: a logistic regression on 397 rendered takes."""
_HEARD = 0.2
_STRETCH = 4
_PLAYED = 0.6
"""How sure the count must be where voices alone have none: of 135 unseen talks and noises one reaches .51."""


@attrs.frozen(eq=False)
class Found:
    """Beats before they are numbered and judged.

    Attributes
    ----------
    times : (k,) s
    position : (k,) place in the bar, 0 is its first beat
    steady : (k,) bool, on a steady line
    metre : beats in most bars
    level : the chance that the count is at the right level and on the beat, 0 to 1
    margin : by how much the bar's phase beats the next best, 0 to 1
    ear : what the ear says, with downbeats as they were reconsidered at these beats
    pulse : whether times are the pulse, not strokes about it
    elsewhere : s of another bar line that may begin bar 1, and the chance that it does
    most : the most that the chance of that phase can be
    """

    times: Floats
    position: Ints
    steady: Bools
    metre: int
    level: float
    margin: float
    ear: Strengths
    pulse: bool = False
    elsewhere: tuple[float, float] = (0.0, 0.0)
    most: float = 1.0


@attrs.frozen(eq=False)
class Counted:
    """Beats before they are barred.

    Attributes
    ----------
    ear : what the ear says, drawn to these beats where it had counted otherwise
    times : (k,) s
    steady : (k,) which steady line each lies on, -1 for none
    share : of the rival counts, where that can be told
    """

    ear: Strengths
    times: Floats
    steady: Ints
    share: float | None = None


def track(sound: Sound, *, progress: Callable[[float], None] = lambda part: None) -> tuple[Heard, Strengths | None]:
    """Hear the beats of a recording; with them the ear's answers, its downbeats reconsidered at these beats.

    Voices alone are followed by their own ear, too; the surer count of both is taken, and carried on by the other's.
    Where neither has any, it may be a tune that is played: it is followed as music.

    Parameters
    ----------
    progress
        Called with the share done, 0 to 1; may raise to stop.

    Examples
    --------
    >>> heard, _ = track(listen(samples, 44100))  # doctest: +SKIP
    >>> 60 / np.median(np.diff(heard.times))  # doctest: +SKIP
    120.0
    """
    if sound.strengths is None:
        return _without_ear(sound, progress), None
    found = follow(sound.strengths, sound.attack, sound.duration, seen=sound.scene, progress=progress)
    if sound.sung is not None:
        other = follow(
            sound.sung,
            sound.attack,
            sound.duration,
            seen=sound.scene,
            spoken=rival_counts.SPOKEN_TO_THEIRS,
            progress=lambda part: progress(1.0),
        )
        sure, less = (found, other) if found.level >= other.level else (other, found)
        found = _carried_on(sure, less.times)
    if not len(found.times) and voices.alone(sound.strengths):
        other = follow(_as_music(sound.strengths), sound.attack, sound.duration, seen=sound.scene)
        if other.level >= _PLAYED:
            found = attrs.evolve(other, ear=attrs.evolve(other.ear, voice=sound.strengths.voice))
    return judged(found.ear, sound.attack, found), found.ear


def _carried_on(found: Found, others: Floats) -> Found:
    """A count with what another ear counts beyond its ends, where they agree."""
    before, after = voices.carried_on(found.times, others)
    if not len(before) and not len(after):
        return found
    head = (found.position[0] - np.arange(len(before), 0, -1)) % found.metre
    tail = (found.position[-1] + np.arange(1, len(after) + 1)) % found.metre
    return attrs.evolve(
        found,
        times=np.concatenate([before, found.times, after]),
        position=np.concatenate([head, found.position, tail]),
        steady=np.pad(found.steady, (len(before), len(after))),
    )


def _as_music(ear: Strengths) -> Strengths:
    """What the ear says, the voice just so faint that this is no voice alone: a tune can be taken for one."""
    return attrs.evolve(ear, voice=ear.voice * np.float32(0.99 * voices.SUNG / ear.voice.mean()))


def judged(ear: Strengths, attack: Singles, found: Found) -> Heard:
    """Beats that were found, numbered, each with the chance that it is right."""
    weights = ear.calibration
    confidence = beat_confidence.chance(beat_confidence.figures(ear, attack, found.times, found.steady), weights[:6])
    phase = min(found.most, float(beat_confidence.chance(np.array([found.margin]), weights[8:])))
    heard = _counted(found.times, found.position, found.metre, confidence, found.level, phase)
    return attrs.evolve(heard, pulse=found.pulse, elsewhere=found.elsewhere)


def follow(
    ear: Strengths,
    attack: Singles,
    duration: float,
    *,
    seen: Scene | None = None,
    spoken: float = rival_counts.SPOKEN,
    progress: Callable[[float], None] = lambda part: None,
) -> Found:
    """From what the ear says to precise beats with their places in bars; no beats where fewer than four are heard.

    Parameters
    ----------
    seen : what else was heard, by which bars and places are told better; without it the ear alone tells them
    spoken : see `rival_counts.heard_as`
    """
    counted = count(ear, attack, duration, seen=seen, spoken=spoken, progress=progress)
    ear, times, steady = counted.ear, counted.times, counted.steady
    if not len(times):
        return Found(times, steady, steady >= 0, BEATS, 0.0, 0.0, ear)
    level = _level_chance(ear, times)
    if counted.share is not None:
        level = level_chance(counted.share, level)
    whole = None if seen is None else opening.barred(ear, attack, seen, times)
    if seen is None or whole is None:
        position, metre, margin = bar_pointer.bars(ear, times)
        begin = first_beat.first_bar(ear, times, position)
        return Found(times[begin:], position[begin:], steady[begin:] >= 0, metre, level, margin, ear)
    whole = opening.from_first_stroke(ear, attack, whole)
    begin, elsewhere = opening.opens(ear, attack, whole)
    steady = np.append(np.full(whole.tried, -1), steady)[begin:]
    position = whole.position[begin:]
    times = places.nearer(ear, attack, seen, whole.times[begin:], position=position, steady=steady)
    # a file may be cut on its first beat
    times = first_beat.at_cut(attack, np.maximum(times, 0.0))
    ear = bar_lines.answered(ear, times, whole.odds[begin:])
    # syllables lie about their beat: a pin at each would follow them
    pulse = places.known() and not voices.alone(ear)
    return Found(times, position, steady >= 0, whole.metre, level, whole.margin, ear, pulse, elsewhere, whole.most)


def count(
    ear: Strengths,
    attack: Singles,
    duration: float,
    *,
    seen: Scene | None = None,
    spoken: float = rival_counts.SPOKEN,
    progress: Callable[[float], None] = lambda part: None,
) -> Counted:
    """Precise beats of the count that the whole recording speaks for; none at all where fewer than four."""
    times = searched(ear, duration, progress=progress) if np.any(attack > 0.1) else np.zeros(0)
    # a voice without a pulse is told from one that has one by its rivals: the ear is as faint with both
    sung = seen is not None and len(times) >= beat_net.LEAST and rival_counts.tells_voices(ear)
    times = times if sung else music_span.music(ear, times)
    share, found, heard = None, times, ear
    if seen is not None:
        ear, times, share = rival_counts.heard_as(ear, attack, seen, times, spoken=spoken)
    else:
        times = count_level.likeliest(ear, times, count_level.chances(ear, times))
    times = music_span.music(ear, times[times < duration], pulse=sung)
    if len(times) < 4 <= len(found) and not sung:
        # a pulse was heard: in doubt, but better than none
        ear, times, share = heard, found, None if share is None else 1 - share
    if len(times) < 4:
        return Counted(ear, np.zeros(0), np.zeros(0, np.int64))
    times, clear, steady = _settled(ear, attack, seen, times)
    if seen is not None and (mended := slides.mended(ear, attack, seen, times)):
        ear, times = mended[0], mended[1][mended[1] < duration]
        times, clear, steady = _settled(ear, attack, seen, times)
    times, clear, steady = carry(ear, times, clear, steady, duration)
    keep = ~_at_rest(bar_pointer.peaks(ear.beat, times, 3), steady >= 0)
    return Counted(ear, *_from_first(ear, attack, times[keep], steady[keep]), share)


def _settled(ear: Strengths, attack: Singles, seen: Scene | None, rough: Floats) -> tuple[Floats, Floats, Ints]:
    """Beats settled in their bars, by what is told of their side where it can be."""
    position, metre, _ = bar_pointer.bars(ear, rough)
    sure = None if seen is None else partial(rival_counts.sure_of_side, ear, attack, seen)
    return settle(ear, attack, rough, position, metre, sure=sure)


def searched(ear: Strengths, duration: float, *, progress: Callable[[float], None] = lambda part: None) -> Floats:
    """The pointer's beats in s, to some 10 ms, whether there is music or not."""
    times = bar_pointer.beats(ear, progress=progress)
    return times[times < duration]


def rough(ear: Strengths, duration: float, *, progress: Callable[[float], None] = lambda part: None) -> Floats:
    """The pointer's beats in s while there is music, to some 10 ms; none where no pulse is heard."""
    return music_span.music(ear, searched(ear, duration, progress=progress))


def level_chance(share: float, likely: float) -> float:
    """The chance that a count is right, from its share of the rivals and from what `count_level` says of it."""
    at = np.clip([likely, share], 0.01, 0.99)
    return float(beat_confidence.chance(np.log(at / (1 - at)), _LEVEL))


def _level_chance(ear: Strengths, times: Floats) -> float:
    """The chance that beats are at the right level and on the right side."""
    shares = count_level.chances(ear, times)
    if shares is not None:
        return float(shares[0])
    return float(beat_confidence.chance(np.array([bar_pointer.agreement(ear, times)]), ear.calibration[6:8]))


def _from_first(ear: Strengths, attack: Singles, times: Floats, steady: Ints) -> tuple[Floats, Ints]:
    """From the first beat of the music on; what is new lies on no steady line."""
    whole = first_beat.from_first(ear, attack, times)
    if not len(times):
        return times, steady
    at = np.minimum(np.searchsorted(times, whole), len(times) - 1)
    return whole, np.where(times[at] == whole, steady[at], -1)


def _without_ear(sound: Sound, progress: Callable[[float], None]) -> Heard:
    rough, position, margin = untrained_pointer.hear(sound, progress=progress)
    if len(rough) < 4:
        return nothing_heard()
    times, _, _ = place(sound.attack, rough, position, BEATS)
    confidence = beat_confidence.evenness(sound.attack, times)
    first, last = beat_confidence.sounding(confidence)
    part = slice(first, last)
    if last - first < 4:
        return nothing_heard()
    return _counted(times[part], position[part], BEATS, confidence[part], 0.5, margin)


def place(
    attack: Singles, rough: Floats, position: Ints, metre: int, ear: Strengths | None = None
) -> tuple[Floats, Floats, Ints]:
    """Precise times of roughly placed beats: attacks, then steady lines, then what lies between.

    The ear knows to some ms where a beat is meant, under soft attacks too; without it the attacks around vote.

    Returns
    -------
    times (k,) in s; how clear each beat's place is, 0 to 1; which steady run it lies on, -1 for none
    """
    if ear is None:
        times, clear = beat_refinement.to_attacks(attack, rough)
    else:
        times, clear = beat_refinement.to_own_attacks(attack, bar_pointer.centre(ear.beat, rough))
        clear = np.where(bar_pointer.peaks(ear.beat, times) > music_span.FAINT, np.maximum(clear, _HEARD), 0.0)
    times = beat_refinement.level_snares(times, clear, position, metre)
    steady = np.full(len(times), -1)
    lined = times.copy()
    for number, run in enumerate(beat_refinement.steady_runs(times, clear)):
        i = np.arange(run.first, run.last + 1)
        lined[i] = run.at(i)
        steady[i] = number
    return _in_order(beat_refinement.calm(lined, clear, steady >= 0)), clear, steady


def _in_order(times: Floats) -> Floats:
    """Keep beats apart where moves brought two together: the later one goes back."""
    least = 0.1 * np.arange(len(times))
    moved = np.maximum.accumulate(times - least) + least
    return np.where(moved > times + 1e-9, moved, times)


def stretches(mask: Bools, least: int = 1) -> list[tuple[int, int]]:
    """First and one past the last of each stretch of `mask` that is at least so long."""
    edges = np.flatnonzero(np.diff(np.concatenate([[0], mask.astype(int), [0]])))
    return [(int(a), int(b)) for a, b in zip(edges[::2], edges[1::2], strict=True) if b - a >= least]


def _at_rest(strength: Floats, steady: Bools) -> Bools:
    """Beats in long stretches where the ear hears no beat at all and no steady line carries the count."""
    out = np.zeros(len(strength), bool)
    faint = (strength < music_span.FAINT / 2) & ~steady
    for a, b in stretches(faint, _RESTING):
        out[a:b] = True
    return out


def settle(
    ear: Strengths,
    attack: Singles,
    rough: Floats,
    position: Ints,
    metre: int,
    *,
    sure: Callable[[Floats], Floats | None] | None = None,
) -> tuple[Floats, Floats, Ints]:
    """Placed beats, as `place` gives them, on one side of the beat through all steady stretches of one tempo."""
    times, clear, steady = place(attack, rough, position, metre, ear)
    agreed = beat_sides.agree(ear, times, steady, sure=sure)
    if agreed is None:
        return times, clear, steady
    position, metre, _ = bar_pointer.bars(ear, agreed)
    return place(attack, agreed, position, metre, ear)


def carry(ear: Strengths, times: Floats, clear: Floats, steady: Ints, duration: float) -> tuple[Floats, Floats, Ints]:
    """Let steady lines count through what lies between and beside them.

    What the pointer made of a faint stretch between two runs on one line is replaced by the line's beats; the first and
    the last run reach outward over faint beats in the same way.
    """
    runs = [np.flatnonzero(steady == k) for k in range(int(steady.max(initial=-1)) + 1)]
    if not runs:
        return times, clear, steady
    pieces: list[tuple[Floats, Floats, Ints]] = []

    def raw(a: int, b: int) -> tuple[Floats, Floats, Ints]:
        return times[a:b], clear[a:b], steady[a:b]

    def lined(new: Floats, number: int) -> tuple[Floats, Floats, Ints]:
        return new, np.zeros(len(new)), np.full(len(new), number)

    def better(new: Floats, old: Floats) -> bool:
        """Do the line's beats stand in for the pointer's? Only where those are hardly heard, and no worse there."""
        if not len(new) or len(old) < _STRETCH:
            return False
        a, b = bar_pointer.peaks(ear.beat, new, 2), bar_pointer.peaks(ear.beat, old, 2)
        return bool(b.mean() < music_span.SURE and a.sum() >= 0.85 * b.sum())

    period = [float(np.median(np.diff(times[r]))) for r in runs]
    first = runs[0]
    head = np.arange(times[first[0]] - period[0], max(0.0, times[0] - 0.5 * period[0]), -period[0])[::-1]
    pieces.append(lined(head, 0) if better(head, times[: first[0]]) else raw(0, first[0]))
    for k, run in enumerate(runs):
        pieces.append(raw(run[0], run[-1] + 1))
        if k + 1 == len(runs):
            break
        start, stop = run[-1] + 1, runs[k + 1][0]
        gap = times[stop] - times[run[-1]]
        beats = round(gap / ((period[k] + period[k + 1]) / 2))
        drift = abs(gap - beats * (period[k] + period[k + 1]) / 2)
        between = beat_sides.between(times[run[-1]], times[stop], (period[k] + period[k + 1]) / 2)
        same = abs(period[k] / period[k + 1] - 1) < 0.004 and drift < 0.03
        join = same and stop > start and better(between, times[start:stop])
        pieces.append(lined(between, k) if join else raw(start, stop))
    last = runs[-1]
    tail = np.arange(times[last[-1]] + period[-1], min(duration, times[-1] + 0.5 * period[-1]), period[-1])
    pieces.append(lined(tail, len(runs) - 1) if better(tail, times[last[-1] + 1 :]) else raw(last[-1] + 1, len(times)))
    out = tuple(np.concatenate(column) for column in zip(*pieces, strict=True))
    return out[0], out[1], out[2]


def _counted(times: Floats, position: Ints, metre: int, confidence: Floats, level: float, phase: float) -> Heard:
    """Beats numbered from the first downbeat; beats left out in a rest are counted all the same."""
    if len(times) < 4:
        return nothing_heard()
    step = np.diff(times)
    local = np.array([np.median(step[max(0, i - 4) : i + 5]) for i in range(len(step))])
    skipped = np.maximum(np.rint(step / local).astype(np.int64), 1)
    skipped[step < 1.7 * local] = 1
    numbers = np.concatenate([[0], np.cumsum(skipped)])
    return numbered(times, numbers, position == 0, metre, confidence, level, phase)


def numbered(
    times: Floats,
    numbers: Ints,
    begins: Bools,
    metre: int,
    confidence: Floats,
    level: float,
    phase: float,
) -> Heard:
    """What was heard, from beats, their count and which of them begin a bar; the first of these becomes beat 0."""
    opens = np.flatnonzero(begins)
    if not len(opens):
        return Heard(times, numbers, confidence, (MeterMark(0.0, metre),), level, phase)
    numbers = numbers - numbers[opens[0]]
    starts = numbers[opens]
    sizes = np.append(np.diff(starts), metre)
    # a rest longer than a bar is so many whole bars, the last of which may be odd
    marks: list[MeterMark] = []
    for beat, size in zip(starts.tolist(), sizes.tolist(), strict=True):
        whole, odd = (size // metre, size % metre) if size > 6 else (0, 0)
        for at, bars in ((beat, metre if whole else size), (beat + whole * metre, odd)):
            if bars and (not marks or marks[-1].beats_per_bar != bars):
                marks.append(MeterMark(float(at), int(bars)))
    return Heard(times, numbers, confidence, tuple(marks), level, phase)
