"""Hearing without the trained ear: a bar pointer on hand-made onset strengths, for when the weights can't be read.

The pointer moves through the bar at some tempo under one of a few rhythms (state space after Krebs,
Böck & Widmer, ISMIR 2015: tempo changes at beats only). Inside a beat the pointer just advances, so a whole beat
is scored at once from running sums of the onset strengths, which makes the Viterbi search short. The
bar's phase is then settled over the whole track by where sound and harmony change.
"""

from __future__ import annotations

from collections.abc import Callable
from functools import cache

import numpy as np
from numpy.typing import NDArray

from ..arrays import Floats, Ints, Singles
from ..progress import within
from .drum_patterns import BEATS, BINS, PATTERNS, expected
from .features import FLUX_FPS, Sound
from .scene import SLOW_FPS

SLOWEST, FASTEST = 55.0, 210.0

_PERIODS = np.unique(np.rint(np.geomspace(60 * FLUX_FPS / FASTEST, 60 * FLUX_FPS / SLOWEST, 84)).astype(int))
_LONGEST = int(_PERIODS[-1])
_NEAR = 5
_JUMPED = 127
_SLOW_COUNT = 76.0
_BACKBEAT = 0.6
_NEVER = np.float32(-1e6)
_TEMPER = 0.35
_PRIOR_BPM, _PRIOR_OCTAVES, _PRIOR_WEIGHT = 108.0, 0.55, 3.0
_RHYTHM_CHANGE = 4.0
_TEMPO_JUMP = 40.0
_TEMPO_STIFF = 120.0
_WINDOW = 6 * 60 * FLUX_FPS
_OVERLAP = 40 * FLUX_FPS


def hear(sound: Sound, *, progress: Callable[[float], None] = lambda part: None) -> tuple[Floats, Ints, float]:
    """Beats about where they are (s), position of each in its bar of four, and the margin of that phase, 0 to 1.

    Parameters
    ----------
    progress : called with the share done, 0 to 1; may raise to stop
    """
    nothing = np.zeros(0), np.zeros(0, np.int64), 0.0
    if len(sound.flux) < 2 * _LONGEST or not np.any(sound.attack > 0.1):
        return nothing
    frames, position = _decode(sound.flux, progress)
    frames, position = _one_level(frames, position)
    frames, position = _not_half(sound.flux, frames, position)
    times = frames / FLUX_FPS
    inside = (times > -0.05) & (times < sound.duration)
    times, position = times[inside], position[inside]
    if len(times) < 4:
        return nothing
    position, margin = _bar_phase(sound, times, position)
    return times, position, margin


@cache
def _tempo_costs() -> Singles:
    """(2·near+1, periods): log weight of going to period i from i + k, k from -near to near."""
    i = np.arange(len(_PERIODS))[None]
    j = i + np.arange(-_NEAR, _NEAR + 1)[:, None]
    ok = (j >= 0) & (j < len(_PERIODS))
    ratio = _PERIODS[i] / _PERIODS[np.clip(j, 0, len(_PERIODS) - 1)]
    return np.where(ok, -_TEMPO_STIFF * np.abs(ratio - 1), _NEVER).astype(np.float32)


@cache
def _emission_weights() -> tuple[Singles, Singles]:
    """Log likelihood of a beat as weights on its binned sums (gamma density of shape 2, mean as expected).

    Returns
    -------
    (periods, 16 · 5, 4 · patterns) weights: four bands and a count of frames in each sixteenth; and
    (periods,) what the tempo prior adds to a beat.
    """
    mean = expected(_PERIODS / FLUX_FPS)
    w = np.zeros((len(_PERIODS), BINS, 5, BEATS, len(PATTERNS)))
    w[:, :, :4] = -2 / mean.transpose(0, 3, 4, 2, 1)
    w[:, :, 4] = -2 * np.log(mean).sum(axis=4).transpose(0, 3, 2, 1)
    octaves = np.log2(60 * FLUX_FPS / _PERIODS / _PRIOR_BPM)
    prior = -_PRIOR_WEIGHT * 0.5 * (octaves / _PRIOR_OCTAVES) ** 2 * _PERIODS / FLUX_FPS
    return (_TEMPER * w).reshape(len(_PERIODS), BINS * 5, -1).astype(np.float32), prior.astype(np.float32)


def _decode(flux: Singles, progress: Callable[[float], None]) -> tuple[Floats, Ints]:
    """Most likely beats: frame numbers and position in the bar (0 to 3), window by window."""
    total = len(flux)
    found: list[tuple[int, int]] = []
    start, state = 0, None
    while True:
        stop = min(total, start + _WINDOW)
        part = (start / total, stop / total)
        path = _viterbi(
            flux[start:stop],
            state,
            within(progress, *part),
        )
        if stop == total:
            found += [(start + t, b) for t, b, _, _ in path]
            break
        kept = [s for s in path if s[0] < stop - start - _OVERLAP]
        t, b, r, i = kept[-1]
        found += [(start + t, b) for t, b, _, _ in kept[:-1]]
        start, state = start + t, (b, r, i)
    frames, position = np.array(found).T
    return frames.astype(np.float64), position


def _viterbi(
    flux: Singles,
    state: tuple[int, int, int] | None,
    progress: Callable[[float], None],
) -> list[tuple[int, int, int, int]]:
    """Beats of one window as (frame, position in bar, rhythm, period index).

    Frames before the start and after the end count nothing; a given `state` pins the first beat at frame 0.
    No beat is shorter than the shortest period, so that many frames can be searched at once.
    """
    n, rhythms, periods = len(flux), len(PATTERNS), len(_PERIODS)
    pad, block = _LONGEST, int(_PERIODS[0])
    steps = -(-(n + pad) // block) * block
    weights, prior = _emission_weights()
    stiff = _tempo_costs()
    sums = np.zeros((steps + 2 * pad + 2, 5))
    sums[pad + 1 : pad + n + 1, :4] = flux
    sums[pad + 1 : pad + n + 1, 4] = 1
    sums = np.cumsum(sums, axis=0)
    edges = np.rint(_PERIODS[:, None] * (np.arange(BINS + 1) - 0.5) / BINS).astype(int)
    length = -(-(pad + block + 1) // block) * block
    ring = np.full((length, BEATS, rhythms, periods), _NEVER, np.float32)
    from_tempo = np.zeros((steps, BEATS, rhythms, periods), np.int8)
    from_jump = np.zeros((steps, BEATS, rhythms), np.uint8)
    from_rhythm = np.zeros((steps, rhythms, periods), np.uint8)
    rows = np.arange(periods)
    padded = np.full((block, BEATS, rhythms, periods + 2 * _NEAR), _NEVER, np.float32)
    best_end, best_state = -np.inf, (0, 0, 0, 0)
    offset = 0.0
    for base in range(0, steps, block):
        progress(base / steps)
        frames = base + np.arange(block)
        at = sums[np.maximum(frames[None, :, None] + edges[:, None], 0)]
        scores = np.diff(at, axis=2).astype(np.float32).reshape(periods, block, BINS * 5) @ weights
        scores += prior[:, None, None]
        slot = base % length
        here = ring[slot : slot + block]
        if state is None:
            here[frames <= pad] = np.maximum(here[frames <= pad], -offset)
        elif base <= pad < base + block:
            here[(pad - base, *state)] = -offset
        # a rhythm may change at the bar line
        bar = here[:, 0]
        lead = bar.argmax(axis=1)
        change = bar.max(axis=1) - _RHYTHM_CHANGE
        other = change[:, None] > bar
        from_rhythm[frames] = np.where(other, lead[:, None], np.arange(rhythms)[None, :, None])
        bar[...] = np.where(other, change[:, None], bar)
        padded[..., _NEAR:-_NEAR] = here
        far = here.argmax(axis=3)
        from_jump[frames] = far
        value = np.broadcast_to(here.max(axis=3, keepdims=True) - _TEMPO_JUMP, here.shape).copy()
        choice = np.full(here.shape, _JUMPED, np.int8)
        for k in range(2 * _NEAR + 1):
            option = padded[..., k : k + periods] + stiff[k]
            better = option > value
            np.copyto(choice, k - _NEAR, where=better)
            np.maximum(value, option, out=value)
        from_tempo[frames] = choice
        here[...] = _NEVER
        arrive = np.roll(
            value.transpose(3, 0, 1, 2) + scores.reshape(periods, block, BEATS, rhythms),
            1,
            axis=2,
        )
        arrive = np.maximum(arrive, _NEVER)
        land = _PERIODS[:, None] + frames[None]
        ring[land % length, :, :, rows[:, None]] = arrive
        over = land >= n + pad
        if over.any():
            top = np.where(over[:, :, None, None], arrive, -np.inf)
            top[:, frames >= n + pad] = -np.inf
            if top.max() + offset > best_end:
                best_end = float(top.max()) + offset
                i, t, b, r = (int(v) for v in np.unravel_index(int(top.argmax()), top.shape))
                best_state = (base + t, (b - 1) % BEATS, r, i)
        # keep the figures small enough for single precision
        top_score = float(ring.max())
        if top_score > _NEVER / 2:
            ring -= np.float32(top_score)
            np.maximum(ring, _NEVER, out=ring)
            offset += top_score
    return _walked_back(best_state, (from_tempo, from_jump, from_rhythm), pad, first=0 if state is None else pad)


def _walked_back(
    state: tuple[int, int, int, int],
    came: tuple[NDArray[np.int8], NDArray[np.uint8], NDArray[np.uint8]],
    pad: int,
    *,
    first: int,
) -> list[tuple[int, int, int, int]]:
    """The beats that lead to `state`, by where each `came` from; none lies before `first`, counted with the pad."""
    from_tempo, from_jump, from_rhythm = came
    path = []
    t, b, r, i = state
    while True:
        path.append((t - pad, b, r, i))
        move = int(from_tempo[t, b, r, i])
        i_before = int(from_jump[t, b, r]) if move == _JUMPED else i + move
        r_before = int(from_rhythm[t, r, i_before]) if b == 0 else r
        before = t - int(_PERIODS[i_before])
        if t <= pad or before < first:
            break
        t, b, r, i = before, (b - 1) % BEATS, r_before, i_before
    return path[::-1]


def _one_level(frames: Floats, position: Ints) -> tuple[Floats, Ints]:
    """Bring stretches that were counted at half or double speed to the level of the rest.

    A quiet intro often reads at half speed; a recording rarely changes its level. Gaps of
    about two periods get a beat between, and stretches of about half a period lose every second beat.
    """
    if len(frames) < 16:
        return frames, position
    period = np.diff(frames)
    ratio = period / np.median(period)
    out, place = [frames[0]], [int(position[0])]
    skip = False
    for i in range(1, len(frames)):
        near = ratio[max(0, i - 3) : i + 3]
        if 1.75 < ratio[i - 1] < 2.25:
            out.append((frames[i - 1] + frames[i]) / 2)
            place.append(-1)
        elif np.median(near) < 0.6 and 0.4 < ratio[i - 1] < 0.6 and not skip:
            skip = True
            continue
        skip = False
        out.append(frames[i])
        place.append(int(position[i]))
    at = np.arange(len(out))
    # the decoder counts on without slips: the count that most beats agree on holds for all
    offset = np.bincount((np.array(place) - at)[np.array(place) >= 0] % BEATS, minlength=BEATS).argmax()
    return np.array(out), (at + offset) % BEATS


def _not_half(flux: Singles, frames: Floats, position: Ints) -> tuple[Floats, Ints]:
    """Double a very slow count when drums strike as hard halfway between its beats as on them.

    Clean machine music has nothing between its eighths, which reads well as a slow count whose off-beats are snares.
    """
    if len(frames) < 16 or 60 * FLUX_FPS / np.median(np.diff(frames)) > _SLOW_COUNT:
        return frames, position
    drums = flux[:, :3].sum(axis=1)
    between = (frames[:-1] + frames[1:]) / 2
    on, off = (
        np.mean([drums[max(0, f - 3) : f + 4].max(initial=0) for f in x.astype(int).tolist()])
        for x in (frames, between)
    )
    if off < 0.8 * on:
        return frames, position
    out = np.empty(2 * len(frames) - 1)
    out[::2], out[1::2] = frames, between
    return out, (2 * int(position[0]) + np.arange(len(out))) % BEATS


def _bar_phase(sound: Sound, times: Floats, position: Ints) -> tuple[Ints, float]:
    """Position in the bar of each beat, and the margin of that choice.

    Bars begin where colour and harmony change: for each of the four phases sum the change at its beats
    against the others, add the backbeat and some trust in the decoder, and take the best over the whole track.
    """
    edges = np.clip(np.rint(times * SLOW_FPS).astype(int), 0, len(sound.colour) - 1)
    spans = [slice(a, max(a + 1, b)) for a, b in zip(edges, [*edges[1:], len(sound.colour)], strict=True)]
    colour = np.array([sound.colour[s].mean(axis=0) for s in spans])
    chroma = np.array([sound.chroma[s].mean(axis=0) for s in spans])

    def change(x: Floats, width: int) -> Floats:
        run = np.concatenate([np.zeros((1, x.shape[1])), np.cumsum(x, axis=0)])
        i = np.arange(len(x))
        lo, hi = np.maximum(i - width, 0), np.minimum(i + width, len(x))
        after = (run[hi] - run[i]) / np.maximum(hi - i, 1)[:, None]
        before = (run[i] - run[lo]) / np.maximum(i - lo, 1)[:, None]
        d = np.linalg.norm(after - before, axis=1)
        d[: min(2, len(d))] = 0
        return d / (d.std() + 1e-9)

    weight = change(colour, 1) + change(chroma, 2) + change(chroma, 4) + change(colour, 4)
    # where in the count would the bar begin? k is the decoder's position that becomes the downbeat
    score = np.array([weight[position == k].mean() if (position == k).any() else 0.0 for k in range(BEATS)])
    # snares fall on the second and fourth beat (the backbeat; common practice, no source)
    frames = np.clip(np.rint(times * FLUX_FPS).astype(int), 0, len(sound.flux) - 1)
    struck = np.array([sound.flux[max(0, f - 2) : f + 3].max(axis=0) for f in frames])
    bottom = struck[:, 0] - struck[:, 2]
    bottom = (bottom - bottom.mean()) / (bottom.std() + 0.1)
    even = [bottom[position % 2 == k % 2].mean() if (position % 2 == k % 2).any() else 0.0 for k in range(BEATS)]
    score += _BACKBEAT * np.array(even)
    score[0] += 0.15 * (score.max() - score.min() + 0.1)
    order = np.argsort(-score)
    margin = float(np.clip((score[order[0]] - score[order[1]]) / 0.6, 0, 1))
    return (position - order[0]) % BEATS, margin
