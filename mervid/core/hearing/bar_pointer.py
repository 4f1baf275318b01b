"""From strengths to beats and bars: the most likely path of a pointer that keeps time.

The bar pointer model (Whiteley, Cemgil & Godsill, ISMIR 2006; state space after Krebs, Böck & Widmer, ISMIR 2015: the
tempo changes at beats only), with the ear's beat and downbeat strengths as what is observed. Within a beat the pointer
only advances, so a whole beat is scored at once, and a block as long as the shortest beat is searched in one go. Bars
are found afterwards, on the beats: one count that goes through, with rare, penalised slips.
"""

from __future__ import annotations

from collections.abc import Callable
from functools import cache

import numpy as np

from ..arrays import Bools, Floats, Ints, Singles
from ..progress import within
from .ear import Strengths, tempi
from .spectra import EAR_FPS

POINTER_FPS = 100
SLOWEST, FASTEST = 50.0, 216.0
_PERIODS = np.unique(np.rint(np.geomspace(60 * POINTER_FPS / FASTEST, 60 * POINTER_FPS / SLOWEST, 96)).astype(int))
_NEAR = 4
_STIFF = 90.0
_BESIDE = 0.3
"""Log-odds that landing a frame beside the period costs: a tempo between frames, or jitter, is no change of tempo."""
_ASIDE = (-1, 1)
_RUNNING = 33
"""Beats whose median period is the running tempo."""
_LEASH_REACH = 0.2
_FREE = 0.035
_LEASHED = 300.0
"""Log-odds for each e-fold by which a period leaves the running tempo's by more than `_FREE`."""
_JUMP = 25.0
_JUMPED = 127
_TEMPO_TRUST = 0.3
_NEVER = np.float32(-1e6)
_LEAST = 0.015
FAINTLY = 0.02
"""Beside a beat so faint a downbeat tells nothing."""
QUIET = 3.5
_LEVEL = 1.6
_WINDOW = 8 * 60 * POINTER_FPS
_OVERLAP = 30 * POINTER_FPS

SLIP = 25.0
"""Log odds that a slip of the count of beats in a bar costs."""
_HALF_BAR = 20.0
_METRE_CHANGE = 30.0
_METRES = (4, 3)
_RARER = {4: 0.0, 3: 3.0}


@cache
def _tempo_costs(first: int, last: int) -> Singles:
    """Log-cost of coming from the period k - _NEAR places away: (2 _NEAR + 1, periods `first` to before `last`)."""
    n = last - first
    out = np.full((2 * _NEAR + 1, n), _NEVER, np.float32)
    for k in range(-_NEAR, _NEAR + 1):
        i = np.arange(max(0, -k), min(n, n - k))
        out[k + _NEAR, i] = -_STIFF * np.abs(np.log(_PERIODS[first + i + k] / _PERIODS[first + i]))
    return out


def observed(beat: Singles) -> Floats:
    """What a beat gains at each frame, log-odds, (2 n,) at 100 a second from (n,) strengths at 50 a second.

    A beat gains the log of its strength, and what calling the frames around it 'no beat' would have cost.
    """
    at = np.arange(2 * len(beat)) / 2
    x = np.clip(np.interp(at, np.arange(len(beat)), beat), _LEAST, 1 - _LEAST)
    saved = np.convolve(-np.log(1 - x), np.ones(5) / 2, "same")
    peak = np.maximum(x, np.maximum(np.roll(x, 1), np.roll(x, -1)))
    return np.log(np.maximum(x, 0.8 * peak)) + saved


def levels(tempo: Singles, periods: Ints) -> Singles:
    """Log of how likely each of `periods`, in frames, is at each frame: (2 n, periods) from (n, 32)."""
    smooth = np.maximum(tempo, 1e-3)
    place = np.interp(60 * POINTER_FPS / periods, tempi(smooth.shape[1]), np.arange(smooth.shape[1]))
    low = np.floor(place).astype(int)
    part = (place - low).astype(np.float32)
    high = np.minimum(low + 1, smooth.shape[1] - 1)
    level = np.log(smooth[:, low] * (1 - part) + smooth[:, high] * part).astype(np.float32)
    return np.repeat(level, 2, axis=0)


def beats(strengths: Strengths, *, progress: Callable[[float], None] = lambda part: None) -> Floats:
    """Times of the most likely beats in s, (k,).

    A recording rarely changes its level: where stretches were counted at half or double, the search is made again
    with periods near the usual one only.
    """
    if len(strengths.beat) < _PERIODS[0]:
        return np.zeros(0)
    found = _search(strengths, np.ones(len(_PERIODS), bool), within(progress, 0.0, 0.5))
    usual = usual_period(found)
    if usual is not None:
        near = np.abs(np.log(_PERIODS / POINTER_FPS / usual)) < np.log(_LEVEL)
        found = _search(strengths, near, within(progress, 0.5, 0.75))
    return beats_along(strengths, found, within(progress, 0.75, 1.0))


def beats_along(strengths: Strengths, found: Floats, progress: Callable[[float], None] = lambda part: None) -> Floats:
    """Times of the most likely beats in s near the running tempo of those `found`, (k,); these where it has none."""
    running = running_period(found, np.diff(found), len(strengths.beat))
    return found if running is None else beats_keeping(strengths, running, progress)


def beats_keeping(
    strengths: Strengths, running: Singles, progress: Callable[[float], None] = lambda part: None
) -> Floats:
    """Times of the most likely beats in s near a `running_period`, (k,); none where no tempo near it is searched."""
    around = np.log(_PERIODS / POINTER_FPS)
    near = (around > np.log(running.min()) - _LEASH_REACH) & (around < np.log(running.max()) + _LEASH_REACH)
    return _search(strengths, near, progress, running) if near.any() else np.zeros(0)


def running_period(times: Floats, steps: Floats, frames: int) -> Singles | None:
    """The period in s that is usual around each of the ear's frames, (2 frames,) at 100 a second; None for few beats.

    Parameters
    ----------
    times : (n,) beats in s
    steps : (n - 1,) the period that each but the first ends
    """
    if len(times) < _RUNNING // 2:
        return None
    from scipy.ndimage import median_filter

    period = median_filter(steps, _RUNNING, mode="nearest")
    at = np.arange(2 * frames) / POINTER_FPS
    return np.interp(at, times[1:], period).astype(np.float32)


def _leash(running: Singles, lengths: Ints) -> Singles:
    """What each period loses at each frame for leaving the running one, log-odds; one frame is always free."""
    off = np.abs(np.log(lengths[None] / POINTER_FPS / running[:, None]))
    free = np.maximum(_FREE, 1.01 / (running[:, None] * POINTER_FPS))
    return (-_LEASHED * np.maximum(0, off - free)).astype(np.float32)


def beats_near(strengths: Strengths, tempo: float, reach: float) -> Floats:
    """Times of the most likely beats in s with tempi within a factor `reach` of `tempo` BPM only, (k,)."""
    near = np.abs(np.log(_PERIODS / POINTER_FPS * tempo / 60)) < np.log(reach)
    if len(strengths.beat) < _PERIODS[0] or not near.any():
        return np.zeros(0)
    return _search(strengths, near, lambda part: None)


def usual_period(times: Floats) -> float | None:
    """The period in s that half of the time lies under, if some of it lies at another level; else None."""
    if len(times) < 8:
        return None
    period = np.sort(np.diff(times))
    share = np.cumsum(period) / period.sum()
    usual = float(period[np.searchsorted(share, 0.5)])
    elsewhere = np.abs(np.log(period / usual)) > np.log(_LEVEL)
    return usual if period[elsewhere].sum() > 0.02 * period.sum() else None


def _search(
    strengths: Strengths, allowed: Bools, progress: Callable[[float], None], running: Singles | None = None
) -> Floats:
    """The best path's beats in s, of the `allowed` periods, which are neighbours.

    Long recordings are searched in windows; each goes on where the last was sure.

    Parameters
    ----------
    running : the period in s that the search keeps near to, (2 n,); None where it is free
    """
    gain = observed(strengths.beat)
    n = len(gain)
    places = np.flatnonzero(allowed)
    span = int(places[0]), int(places[-1]) + 1
    lengths = _PERIODS[span[0] : span[1]]
    path: list[int] = []
    start, state = 0, None
    while True:
        end = min(n, start + _WINDOW)
        rest = n - end
        if rest < _OVERLAP:
            end = n
        level = levels(strengths.tempo[start // 2 : -(-end // 2)], lengths)[start % 2 :][: end - start]
        leash = None if running is None else _leash(running[start:end], lengths)
        found = _viterbi(
            gain[start:end],
            level,
            leash,
            span=span,
            state=state,
            progress=within(progress, start / n, (end if end == n else end - _OVERLAP) / n),
        )
        at = [start + t for t, _ in found]
        if end == n:
            path += at
            break
        keep = sum(t < end - _OVERLAP for t in at)
        path += at[:keep]
        if keep < len(at):
            start, state = at[keep], found[keep][1]
        else:
            start, state = end - _OVERLAP, None
    return np.array(path, float) / POINTER_FPS


def _viterbi(
    gain: Floats,
    level: Singles,
    leash: Singles | None,
    *,
    span: tuple[int, int],
    state: int | None,
    progress: Callable[[float], None],
) -> list[tuple[int, int]]:
    """(frame, period index) of the best path's beats; `state` is the period of a beat known to fall on frame 0.

    Only the periods from place `span[0]` to before `span[1]` are allowed; indices count from there.
    """
    lengths = _PERIODS[span[0] : span[1]]
    # all that can land in a block has begun before it
    n, periods, block = len(gain), len(lengths), int(lengths[0]) - 1
    stiff = _tempo_costs(*span)
    longest = int(lengths[-1])
    # frame t is row first + t; before it nothing has begun
    first = longest + 2
    # best score of a path whose last beat is at t and had this period, before and after its next period is chosen
    best = np.full((first + n, periods), _NEVER, np.float32)
    value = np.full((first + n, periods), _NEVER, np.float32)
    choice = np.full((first + n, periods), _JUMPED, np.int8)
    jumped = np.zeros(first + n, np.uint8)
    begun = np.zeros((longest, periods), bool)
    # the best of those that land one period after t, and from how many frames beside t it comes
    landing = np.full((first + n, periods), _NEVER, np.float32)
    beside = np.zeros((first + n, periods), np.int8)
    weight = (_TEMPO_TRUST * lengths / 50.0).astype(np.float32)
    # where nothing speaks for a beat, every tempo loses as much in a second
    least = (-QUIET * lengths / 50.0).astype(np.float32)
    rows = np.arange(periods)
    for a in range(0, n, block):
        progress(a / n)
        b = min(n, a + block)
        t = np.arange(a, b)
        here = landing[first + t[:, None] - lengths[None], rows]
        if state is None and a < longest:
            # a path may begin with any beat before the longest period has gone by, at no gain lost
            begins = (t < longest)[:, None] & (here <= 0)
            here[begins] = 0.0
            begun[a:b] = begins[: longest - a]
        elif state is not None and a == 0:
            here[0, state] = 0.0
        here += np.maximum(gain[a:b, None].astype(np.float32), least) + weight * level[a:b]
        if leash is not None:
            here += leash[a:b]
        best[first + a : first + b] = here
        jumped[first + a : first + b] = here.argmax(axis=1)
        score = np.repeat((here.max(axis=1) - _JUMP)[:, None], periods, axis=1)
        chosen = choice[first + a : first + b]
        padded = np.pad(here, ((0, 0), (_NEAR, _NEAR)), constant_values=_NEVER)
        for k in range(2 * _NEAR + 1):
            # from the period k places away to this one
            option = padded[:, k : k + periods] + stiff[k]
            np.copyto(chosen, k - _NEAR, where=option > score)
            np.maximum(score, option, out=score)
        value[first + a : first + b] = score
        # a beat may land a frame early or late; the last frame's neighbour isn't known yet
        low, high = first + a - 1, first + b - 1
        land = value[low:high].copy()
        for off in _ASIDE:
            option = value[low - off : high - off] - np.float32(_BESIDE)
            np.copyto(beside[low:high], off, where=option > land)
            np.maximum(land, option, out=land)
        landing[low:high] = land
    # the last beat lies within one period of the end
    tail = best[first : first + n].copy()
    late = np.arange(n)[:, None] + lengths[None] >= n
    tail[~late] = _NEVER
    beat, i = (int(v) for v in np.unravel_index(int(tail.argmax()), tail.shape))
    path = []
    while True:
        path.append((beat, i))
        at = beat - int(lengths[i])
        before = at - int(beside[first + at, i])
        if before < 0 or (beat < longest and begun[beat, i]):
            break
        move = int(choice[first + before, i])
        previous = int(jumped[first + before]) if move == _JUMPED else i + move
        if best[first + before, previous] <= _NEVER / 2:
            break
        beat, i = before, previous
    return path[::-1]


def periods(times: Floats) -> Floats:
    """From each of (n,) beats to the next in s, from the last as from the one before: (n,)."""
    return np.append(np.diff(times), times[-1] - times[-2])


def around(x: Floats, beats: int) -> Floats:
    """Mean of each of (n,) values and its neighbours, so many `beats` in all; the ends go on as they are."""
    return np.convolve(np.pad(x, beats // 2, mode="edge"), np.ones(beats) / beats, "valid")


def best_path(gain: Floats, cost: Floats, first: Floats | float = 0.0) -> Ints:
    """The states that gain most in all, (n,): Viterbi (IEEE Trans. Inf. Theory, 1967; from memory).

    Parameters
    ----------
    gain : (n, states) log odds
    cost : (states, states) log odds of going from one (row) to another, none of them positive
    first : log odds of beginning in each state
    """
    score = first + gain[0]
    back = np.zeros(gain.shape, int)
    for t in range(1, len(gain)):
        options = score[:, None] + cost
        back[t] = options.argmax(axis=0)
        score = options.max(axis=0) + gain[t]
    path = [int(score.argmax())]
    for t in range(len(gain) - 1, 0, -1):
        path.append(int(back[t, path[-1]]))
    return np.array(path[::-1])


def peaks(x: Singles, times: Floats, reach: int = 2) -> Floats:
    """The strongest value of a strength within `reach` frames of each time: (k,)."""
    centre = np.clip(np.rint(times * EAR_FPS).astype(int), 0, len(x) - 1)
    padded = np.pad(x, reach)
    return np.max([padded[centre + k] for k in range(2 * reach + 1)], axis=0).astype(float)


def centre(x: Singles, times: Floats) -> Floats:
    """Times in s between the frames: the centre of the strength around the strongest frame next to each time."""
    if len(x) < 5 or not len(times):
        return times
    frame = np.clip(np.rint(times * EAR_FPS).astype(int), 2, len(x) - 3)
    best = frame + np.argmax([x[frame - 1], x[frame], x[frame + 1]], axis=0) - 1
    before, at, after = (x[best + k].astype(float) for k in (-1, 0, 1))
    return (best + (after - before) / np.maximum(before + at + after, 1e-6)) / EAR_FPS


def gained(gain: Floats, times: Floats) -> float:
    """What beats at `times` gain in all, log-odds; `gain` is what `observed` gives. A beat unheard loses no more."""
    frame = np.clip(np.rint(times * POINTER_FPS).astype(int), 0, len(gain) - 1)
    return float(np.maximum(gain[frame], -QUIET).sum())


def agreement(strengths: Strengths, times: Floats) -> float:
    """Mean share of the ear's idea of tempo that agrees with the beats' own, 0 to 1."""
    return float(tempo_shares(strengths, times).mean()) if len(times) >= 4 else 0.0


def tempo_shares(strengths: Strengths, times: Floats) -> Floats:
    """Share of the ear's idea of tempo within 9 % of each beat's own, from the second beat on: (k - 1,), 0 to 1."""
    frame = np.clip(np.rint(times[1:] * EAR_FPS).astype(int), 0, len(strengths.tempo) - 1)
    bpm = 60 / np.diff(times)
    near = np.abs(np.log(tempi(strengths.tempo.shape[1])[None] / bpm[:, None])) < 0.09
    return np.asarray((strengths.tempo[frame] * near).sum(axis=1))


def sides(strengths: Strengths, times: Floats) -> tuple[Floats, Floats]:
    """For each beat the log-odds of beginning a bar and of not: (k,) each."""
    beat, down = peaks(strengths.beat, times), peaks(strengths.downbeat, times)
    share = np.clip(down / (np.maximum(beat, down) + FAINTLY), 0.02, 0.98)
    return np.log(share / 0.25), np.log((1 - share) / 0.75)


def bars(strengths: Strengths, times: Floats) -> tuple[Ints, int, float]:
    """Position in its bar of each beat, beats in most bars, and how far that beats the best other phase, 0 to 1.

    A hidden Markov model over the beats: positions follow each other; a bar cut short, a slip of the count and a
    change between four and three are possible but dear.
    """
    if not len(times):
        return np.zeros(0, int), 4, 0.0
    yes, no = sides(strengths, times)
    states = [(m, k) for m in _METRES for k in range(m)]
    size = len(states)
    cost = np.full((size, size), -60.0)
    for i, (m, k) in enumerate(states):
        for j, (m2, k2) in enumerate(states):
            if m == m2:
                cost[i, j] = 0.0 if k2 == (k + 1) % m else -SLIP
                if m == 4 and k == 1 and k2 == 0:
                    cost[i, j] = -_HALF_BAR
            elif k == m - 1 and k2 == 0:
                cost[i, j] = -_METRE_CHANGE
    emit = np.array([yes if k == 0 else no for _, k in states]).T
    path = best_path(emit, cost, np.array([-_RARER[m] for m, _ in states]))
    chosen = np.array(states)[path]
    position = chosen[:, 1]
    metre = int(np.bincount(chosen[:, 0]).argmax())
    return position, metre, margin((yes, no), position, metre)


def margin(odds: tuple[Floats, Floats], position: Ints, metre: int) -> float:
    """How far, by the `sides` of (k,) beats, these places in bars beat the same moved by one, two, … beats, 0 to 1."""
    yes, no = odds
    here = float(np.where(position == 0, yes, no).mean())
    others = [float(np.where((position - k) % metre == 0, yes, no).mean()) for k in range(1, metre)]
    return float(np.clip((here - max(others)) / 2, 0, 1))
