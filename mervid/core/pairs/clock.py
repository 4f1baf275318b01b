"""Two tracks on one clock.

Both grids tie time to beats by straight lines, and so does the clock; where a beat of the one falls in the mix is then
exact, not searched. Mix time 0 is the first sample of the leaving track. Before the overlap the leaving track sounds
alone, after it the coming one: at the speed it had at the end, so that nothing jumps.
"""

from __future__ import annotations

import attrs
import numpy as np
from numpy.typing import ArrayLike

from ..arrays import Floats
from ..errors import Refused
from ..maths.piecewise import piecewise
from ..model.beatgrid import Grid, MeterMark, Pin
from .meeting import GLIDE, STEADY, Meeting

_SAME = 1e-6
_SETTLED = 8.0
"""Beats at the end of the overlap whose mean speed the coming track keeps."""
LEAST_BEATS = 1.0
"""An overlap is cut short where a track ends; less than so many beats is none."""
EDGE_S = 0.5
"""So much of an overlap may lie beyond what was recorded: a first beat that was cut off, the last one's ring."""


@attrs.frozen(eq=False)
class TimeMap:
    """Where each instant of a recording falls in the mix: joined straight lines through pairs of s.

    Attributes
    ----------
    own : (n,) instants of the recording, s
    mix : (n,) where they fall in the mix, s
    """

    own: Floats
    mix: Floats

    def to_mix(self, own: ArrayLike) -> Floats:
        """Where instants of the recording fall in the mix, s."""
        return piecewise(own, self.own, self.mix)

    def to_own(self, mix: ArrayLike) -> Floats:
        """Which instants of the recording sound at these of the mix, s; the exact inverse."""
        return piecewise(mix, self.mix, self.own)

    def speeds(self, start: float, stop: float) -> Floats:
        """Speed of each line between two instants of the mix; 1 is as recorded."""
        inside = (self.mix[1:] > start + _SAME) & (self.mix[:-1] < stop - _SAME)
        return (np.diff(self.own) / np.diff(self.mix))[inside]

    def later(self, by: float) -> TimeMap:
        """The same, `by` s later in the mix."""
        return TimeMap(self.own, self.mix + by) if by else self


@attrs.frozen(eq=False)
class Together:
    """A meeting laid out in time.

    Attributes
    ----------
    leaving, coming : where each recording falls in the mix
    clock : the grid of the mix; its beats are those of the leaving track, and counted on by the coming one
    start, stop : the overlap in mix time, s
    beats : length of the overlap in beats
    length : of the mix, s
    """

    meeting: Meeting
    leaving: TimeMap
    coming: TimeMap
    clock: Grid
    start: float
    stop: float
    beats: float
    length: float

    @property
    def first_bar(self) -> int:
        """The bar of the clock in which the overlap begins, see `Grid.bar_index`."""
        return int(self.clock.bar_index(self.meeting.at + _SAME)[0])

    @property
    def stretch(self) -> tuple[float, float]:
        """How far the speed of either track is from its own in the overlap, at most: (leaving, coming); 0.03 is 3 %."""
        out = []
        for one in (self.leaving, self.coming):
            away = one.speeds(self.start, self.stop) - 1
            out.append(float(away[np.abs(away).argmax()]) if len(away) else 0.0)
        return out[0], out[1]

    @property
    def mean_stretch(self) -> float:
        """How far the coming track's speed is from its own over the whole overlap; 0.03 is 3 % faster."""
        a, b = self.coming.to_own([self.start, self.stop])
        return float((b - a) / (self.stop - self.start) - 1)


def overlap_beats(leaving: Grid, meeting: Meeting) -> float:
    """Length of the overlap in beats of the leaving track."""
    index = int(leaving.bar_index(meeting.at + _SAME)[0])
    return float(leaving.bar_start(index + meeting.bars) - leaving.bar_start(index))


def lay(leaving: Grid, coming: Grid, meeting: Meeting, durations: tuple[float, float]) -> Together:
    """Lay the coming track over the leaving one.

    Parameters
    ----------
    durations : of the leaving and of the coming recording, s

    Raises
    ------
    Refused
        The meeting lies outside a track, or a track is too short for it; the message says which.
    """
    n = overlap_beats(leaving, meeting)
    _check(leaving, coming, meeting, durations, n)
    u = _knots(leaving, coming, meeting, n)
    own_l, own_c = leaving.time_at(meeting.at + u), coming.time_at(meeting.enter + meeting.level * u)
    if meeting.clock == STEADY:
        return _steady(leaving, coming, meeting, durations, n)
    weight = (u[1:] + u[:-1]) / 2 / n if meeting.clock == GLIDE else np.zeros(len(u) - 1)
    steps = (1 - weight) * np.diff(own_l) + weight * np.diff(own_c)
    mix = own_l[0] + np.concatenate([[0.0], np.cumsum(steps)])
    settled = max(0.0, n - _SETTLED)
    last = u >= settled - _SAME
    speed = 1.0 if meeting.clock == GLIDE else float(np.ptp(own_c[last]) / np.ptp(mix[last]))
    before = _before(leaving, meeting)
    early = leaving.time_at(meeting.at + before)
    # the leaving track is done at the end of the overlap; the coming one goes on to its own end
    rest = _after(coming, meeting, n, durations[1])
    late_own = coming.time_at(meeting.enter + meeting.level * rest)
    late = mix[-1] + (late_own - own_c[-1]) / speed
    return _together(
        meeting,
        TimeMap(np.concatenate([early, own_l]), np.concatenate([early, mix])),
        TimeMap(np.concatenate([own_c, late_own]), np.concatenate([mix, late])),
        (np.concatenate([early, mix, late]), np.concatenate([before, u, rest])),
        (leaving, coming, n, durations[1]),
    )


def _steady(leaving: Grid, coming: Grid, meeting: Meeting, durations: tuple[float, float], n: float) -> Together:
    """Both on one tempo from beginning to end."""
    beat = 60.0 / meeting.tempo
    first, last = float(leaving.beat_at(0.0)) - meeting.at, (float(coming.beat_at(durations[1])) - meeting.enter)
    last = max(last / meeting.level, n + 1)
    every = _knots(leaving, coming, meeting, n)
    u_l = np.unique(np.concatenate([[first], _inside(leaving.beats - meeting.at, first, n), every]))
    u_c = np.unique(np.concatenate([every, _inside((coming.beats - meeting.enter) / meeting.level, 0, last), [last]]))
    u_l, u_c = _apart(u_l), _apart(u_c)
    own_l = leaving.time_at(meeting.at + u_l)
    own_c = coming.time_at(meeting.enter + meeting.level * u_c)
    ends = np.array([first, 0.0, n, last])
    return _together(
        meeting,
        TimeMap(own_l, (u_l - first) * beat),
        TimeMap(own_c, (u_c - first) * beat),
        ((ends - first) * beat, ends),
        (leaving, coming, n, durations[1]),
    )


def _together(
    meeting: Meeting,
    leaving: TimeMap,
    coming: TimeMap,
    clock: tuple[Floats, Floats],
    about: tuple[Grid, Grid, float, float],
) -> Together:
    grid_l, grid_c, n, end = about
    times, beats = clock
    pins = tuple(Pin(float(t), float(b)) for t, b in zip(times, meeting.at + beats, strict=True))
    grid = Grid(pins, _meter(grid_l, grid_c, meeting, n))
    start, stop = (float(t) for t in grid.time_at([meeting.at, meeting.at + n]))
    coming = coming.later(meeting.nudge / 1000)
    return Together(meeting, leaving, coming, grid, start, stop, n, max(stop, float(coming.to_mix(end))))


def _check(leaving: Grid, coming: Grid, meeting: Meeting, durations: tuple[float, float], n: float) -> None:
    places = (
        ("leaving", leaving, meeting.at, n, durations[0]),
        ("coming", coming, meeting.enter, n * meeting.level, durations[1]),
    )
    for name, grid, at, beats, duration in places:
        start, stop = (float(t) for t in grid.time_at([at, at + beats]))
        if not -EDGE_S <= start < duration:
            raise Refused(f"The meeting lies outside the {name} track: at {start:.1f} s of {duration:.1f} s.")
        if stop > duration + EDGE_S:
            left = int(
                (float(grid.beat_at(duration)) - at + 0.5)
                / grid.beats_per_bar(at)
                / meeting.level ** (name == "coming")
            )
            raise Refused(
                f"The {name} track ends {stop - duration:.1f} s before an overlap of {meeting.bars} bars does: "
                f"{max(0, left)} bars are left from there."
            )
    if n < LEAST_BEATS:
        raise Refused("The overlap is too short.")


def _inside(u: Floats, start: float, stop: float) -> Floats:
    return u[(u > start + _SAME) & (u < stop - _SAME)]


def _apart(u: Floats) -> Floats:
    """Ascending beats without those that lie a rounding error after another."""
    return u[np.concatenate([[True], np.diff(u) > _SAME])]


def _knots(leaving: Grid, coming: Grid, meeting: Meeting, n: float) -> Floats:
    """Beats of the overlap between which all is straight: every whole one, and the pins of both grids."""
    parts = (
        np.arange(0.0, n), _inside(leaving.beats - meeting.at, 0, n),
        _inside((coming.beats - meeting.enter) / meeting.level, 0, n), [n],
    )  # fmt: skip
    u = np.unique(np.concatenate(parts))
    u = _apart(u)
    u[-1] = n
    return u


def _before(leaving: Grid, meeting: Meeting) -> Floats:
    """Pins of the leaving track before the meeting, in beats from it, and its first sample."""
    first = float(leaving.beat_at(0.0)) - meeting.at
    if first > -_SAME:
        return np.zeros(0)
    return _apart(np.concatenate([[first], _inside(leaving.beats - meeting.at, first, 0.0)]))


def _after(coming: Grid, meeting: Meeting, n: float, duration: float) -> Floats:
    """Pins of the coming track after the overlap, in beats from the meeting, and its last sample."""
    last = max((float(coming.beat_at(duration)) - meeting.enter) / meeting.level, n + 1)
    return _apart(np.concatenate([_inside((coming.beats - meeting.enter) / meeting.level, n, last), [last]]))


def _meter(leaving: Grid, coming: Grid, meeting: Meeting, n: float) -> tuple[MeterMark, ...]:
    """Bars as the leaving track counts them to the end of the overlap, then as the coming one does."""
    end = meeting.at + n
    marks = [m for m in leaving.meter if m.beat < end - _SAME]
    if meeting.level == 1.0 and abs(end - round(end)) < _SAME:
        index, within = coming.bar_index(meeting.enter + n + _SAME)
        bar = int(index) + (float(within) > 0.01)
        first = round(float(coming.bar_start(bar)) - meeting.enter + meeting.at)
        marks.append(MeterMark(float(first), coming.beats_per_bar(float(coming.bar_start(bar)))))
        shift = meeting.at - meeting.enter
        later = [m for m in coming.meter if m.beat > float(coming.bar_start(bar)) + _SAME]
        marks += [MeterMark(float(round(m.beat + shift)), m.beats_per_bar) for m in later]
    return tuple(marks) or leaving.meter[:1]
