"""The beatgrid: a map between time and beats that need not keep one tempo.

A grid is a row of pins, each tying an instant to a beat number, and meter marks that say where bars begin. Between
two pins the tempo is constant (a span); the first and the last span reach outward for ever. This is the tempo map of
a Standard MIDI File (MIDI 1.0, RP-001) with its corners given by time instead of by tempo.

Beat 0 is the first downbeat. Bars are counted 1, 2, 3 ... from it and -1, -2 ... before it: there is no bar 0.
"""

from __future__ import annotations

import itertools
from functools import cached_property

import attrs
import numpy as np
from numpy.typing import ArrayLike, NDArray

from ..arrays import Floats, Ints
from ..errors import Refused
from ..maths.piecewise import piecewise

LEAST_TEMPO, MOST_TEMPO = 10.0, 1000.0
CUT = 0.02
"""s by which the beat on which a file is cut may lie before it."""


@attrs.frozen
class Pin:
    """An instant tied to a beat. `hand` pins were placed by a person and no computation moves them."""

    time: float
    beat: float
    hand: bool = False


@attrs.frozen
class MeterMark:
    """At `beat` a bar begins, with `beats_per_bar` from here on."""

    beat: float = 0.0
    beats_per_bar: int = 4


def validate(pins: tuple[Pin, ...], meter: tuple[MeterMark, ...]) -> None:
    """Raise `Refused`, naming the offending pins, unless they make a strictly increasing grid."""
    if len(pins) < 2:
        raise Refused("A grid needs at least two pins.")
    # all at once first: a drag makes a grid of a thousand pins at each move of the mouse
    if not _in_order(pins):
        _name_fault(pins)
    if not meter:
        raise Refused("A grid needs a meter mark.")
    for m in meter:
        if not 1 <= m.beats_per_bar <= 32 or m.beat != round(m.beat):
            raise Refused(f"A meter mark needs a whole beat and 1 to 32 beats a bar, not {m}.")
    for u, v in itertools.pairwise(meter):
        if v.beat <= u.beat:
            raise Refused(f"The meter mark on beat {v.beat:g} must lie after the one on beat {u.beat:g}.")


def _in_order(pins: tuple[Pin, ...]) -> bool:
    """Whether all pins are finite and in order, with possible tempi between them."""
    times, beats = np.array([p.time for p in pins], float), np.array([p.beat for p in pins], float)
    with np.errstate(invalid="ignore", divide="ignore"):
        time, beat = np.diff(times), np.diff(beats)
        tempo = 60 * beat / time
    possible = (time > 0) & (beat > 0) & (tempo >= LEAST_TEMPO) & (tempo <= MOST_TEMPO)
    return bool(np.isfinite(times).all() and np.isfinite(beats).all() and possible.all())


def _name_fault(pins: tuple[Pin, ...]) -> None:
    """Raise `Refused` with the first pins that are not in order."""
    for p in pins:
        if not (np.isfinite(p.time) and np.isfinite(p.beat)):
            raise Refused(f"A pin needs a finite time and beat, not {p.time} s and beat {p.beat}.")
    for a, b in itertools.pairwise(pins):
        if not (b.time > a.time and b.beat > a.beat):
            raise Refused(
                f"The pin on beat {b.beat:g} at {b.time:.3f} s must lie after "
                f"the pin on beat {a.beat:g} at {a.time:.3f} s."
            )
        tempo = 60 * (b.beat - a.beat) / (b.time - a.time)
        if not LEAST_TEMPO <= tempo <= MOST_TEMPO:
            raise Refused(
                f"Between the pins on beats {a.beat:g} and {b.beat:g} the tempo would be {tempo:.4g} BPM "
                f"({LEAST_TEMPO:.0f} to {MOST_TEMPO:.0f} is possible)."
            )


def locate(at: Floats, size: Ints, beat: Floats) -> tuple[NDArray[np.intp], Ints, Floats]:
    """Which meter mark governs each beat, whole bars since that mark, and beats since the bar's start.

    Parameters
    ----------
    at, size : (marks,) the marks' beats and their beats a bar
    """
    k = np.maximum(np.searchsorted(at, beat, "right") - 1, 0)
    since = np.floor((beat - at[k]) / size[k]).astype(np.int64)
    return k, since, beat - at[k] - since * size[k]


@attrs.frozen
class Grid:
    """Pins and meter marks, in order.

    Raises
    ------
    Refused
        The pins aren't strictly increasing in time and in beats; the message names them.

    Examples
    --------
    >>> grid = steady(tempo=120.0, first=0.5)
    >>> float(grid.time_at(4)), float(grid.beat_at(2.5))
    (2.5, 4.0)
    >>> grid.name_at(-1.0), grid.name_at(5.0)
    ('-1.4', '2.2')
    """

    pins: tuple[Pin, ...]
    meter: tuple[MeterMark, ...] = (MeterMark(),)

    def __attrs_post_init__(self) -> None:
        validate(self.pins, self.meter)

    @cached_property
    def times(self) -> Floats:
        """Pin times, (n,) s."""
        return np.array([p.time for p in self.pins])

    @cached_property
    def beats(self) -> Floats:
        """Pin beats, (n,)."""
        return np.array([p.beat for p in self.pins])

    @cached_property
    def hand_pins(self) -> tuple[Pin, ...]:
        """The pins that a person placed."""
        return tuple(p for p in self.pins if p.hand)

    def beat_at(self, time: ArrayLike) -> Floats:
        """Beat number at each time in s; any shape, any finite time."""
        return piecewise(time, self.times, self.beats)

    def time_at(self, beat: ArrayLike) -> Floats:
        """Time in s of each beat number; the exact inverse of `beat_at`."""
        return piecewise(beat, self.beats, self.times)

    def span_at(self, time: float) -> int:
        """Index of the span that governs `time`: span i lies between pins i and i + 1."""
        return min(max(int(np.searchsorted(self.times, time, "right")) - 1, 0), len(self.pins) - 2)

    @cached_property
    def tempi(self) -> Floats:
        """Tempo of each span, (n - 1,) BPM."""
        return 60 * np.diff(self.beats) / np.diff(self.times)

    def tempo_at(self, time: float) -> float:
        """Tempo in BPM of the span at `time`."""
        return float(self.tempi[self.span_at(time)])

    def tempo_overall(self) -> float:
        """Mean tempo from the first to the last pin, BPM."""
        return float(60 * (self.beats[-1] - self.beats[0]) / (self.times[-1] - self.times[0]))

    @cached_property
    def _bars(self) -> tuple[Floats, Ints, Ints]:
        """For each meter mark: its beat, its beats a bar, and how many bars since beat 0 it begins with."""
        at = np.array([m.beat for m in self.meter])
        size = np.array([m.beats_per_bar for m in self.meter], np.int64)
        count = np.concatenate([[0], np.cumsum(np.ceil(np.diff(at) / size[:-1]).astype(np.int64))])
        k = max(0, int(np.searchsorted(at, 0.0, "right")) - 1)
        return at, size, count - int(count[k] + np.floor((0.0 - at[k]) / size[k]))

    def bar_index(self, beat: ArrayLike) -> tuple[Ints, Floats]:
        """Which bar each beat lies in, counted from 0 at beat 0, and its distance from that bar's start in beats."""
        b = np.asarray(beat, float)
        at, size, count = self._bars
        k, since, rest = locate(at, size, b)
        return count[k] + since, rest

    def bar_start(self, index: ArrayLike) -> Floats:
        """Beat on which each bar begins, by the index that `bar_index` gives."""
        i = np.asarray(index, np.int64)
        at, size, count = self._bars
        k = np.maximum(np.searchsorted(count, i, "right") - 1, 0)
        return at[k] + (i - count[k]) * size[k]

    def bar_line_near(self, time: float) -> float:
        """The beat of the bar line that lies nearest to `time`, s."""
        index = int(self.bar_index(self.beat_at(time))[0])
        here, after = (float(x) for x in self.bar_start([index, index + 1]))
        return here if abs(float(self.time_at(here)) - time) <= abs(float(self.time_at(after)) - time) else after

    def beats_per_bar(self, beat: float) -> int:
        """Beats a bar that the meter mark governing `beat` says."""
        return int(self.bar_sizes(beat))

    def bar_sizes(self, beat: ArrayLike) -> Ints:
        """Beats a bar that the meter mark governing each beat says; any shape."""
        at, size, _ = self._bars
        return np.asarray(size[np.maximum(np.searchsorted(at, beat, "right") - 1, 0)])

    def bars(self, start: float, stop: float) -> tuple[Ints, Floats]:
        """Index and first beat of each bar that has a part in the times `start` to `stop`, s."""
        (first, last), _ = self.bar_index(self.beat_at([start, stop]))
        index = np.arange(first, last + 1)
        return index, self.bar_start(index)

    def name_at(self, beat: float) -> str:
        """`bar.beat` as shown on screen: '12.3', and before beat 0 '-1.4'."""
        # a beat that came back from a time may lie a rounding error before itself
        index, within = self.bar_index(beat + 1e-6)
        return f"{bar_name(int(index))}.{int(np.floor(within)) + 1}"

    def positions(self, start: float, stop: float) -> tuple[Floats, Ints, Ints]:
        """The whole beats from time `start` to `stop` inclusive.

        Returns
        -------
        times (n,) s, beat numbers (n,), and position in the bar (n,), 1 on a downbeat.
        """
        lo, hi = self.beat_at([start - 1e-9, stop + 1e-9])
        beats = np.arange(int(np.ceil(lo)), int(np.floor(hi)) + 1)
        _, within = self.bar_index(beats)
        return self.time_at(beats), beats, np.rint(within).astype(np.int64) + 1

    def precedes(self, beat: float) -> bool:
        """Whether a beat lies before the recording, and isn't the one on which the file is cut."""
        return bool(self.time_at(beat) < -CUT)

    def listed(self, start: float, stop: float) -> tuple[Floats, Ints, Ints]:
        """What `positions` returns, for whoever reads a recording's beats: none of them lies before it.

        A file that is cut on its first beat may have that some ms before its first sample: it is listed on that.

        Examples
        --------
        >>> steady(tempo=120, first=-0.003).listed(0.0, 1.2)[0].round(3).tolist()
        [0.0, 0.497, 0.997]
        """
        times, beats, place = self.positions(start if start > 0 else -CUT, stop)
        return np.maximum(times, 0.0), beats, place


def bar_name(index: int) -> str:
    """What bar `index` (0 at beat 0) is called: 1, 2, ... and -1, -2, ... before it."""
    return str(index + 1 if index >= 0 else index)


def steady(*, tempo: float, first: float, beats: int = 4, hand: bool = False) -> Grid:
    """One span at `tempo` BPM whose beat 0 lies at `first` s."""
    if not LEAST_TEMPO <= tempo <= MOST_TEMPO:
        raise Refused(f"{tempo:g} BPM is no tempo ({LEAST_TEMPO:.0f} to {MOST_TEMPO:.0f} is possible).")
    return Grid((Pin(first, 0.0, hand), Pin(first + 60.0 * beats / tempo, float(beats))))
