"""Straighten: one steady tempo for a recording that had none.

The grid says where each beat lies, the wish where it shall lie; between beats the map is straight where pitch is held,
and smooth where pitch goes with the speed: a monotone cubic (Fritsch & Carlson, SIAM J. Numer. Anal. 17, 1980), with
the wave of a turntable in it where there is one. A beat falls exactly where it is wanted, so that the new grid lies
where the sound is.
"""

from __future__ import annotations

import attrs
import numpy as np

from ..arrays import Bools, Floats
from ..errors import Refused
from ..hearing.turntable import Wave
from ..maths.piecewise import piecewise
from ..maths.polyline import fewest_pins
from ..model.beatgrid import LEAST_TEMPO, MOST_TEMPO, Grid, Pin, steady
from . import wow

GLIDE_BARS = 4
MOST_SPEED = 2.0
"""No beat is played faster than so many times, nor slower."""
EASY = 0.08
"""Beyond this a change of speed is heard for what it is (common practice, no source)."""
_DENSE_S = 0.01
_EXACT = 6e-7
_LEAST_SWING = 0.02
_OFF_BEAT = (0.52, 0.72)
"""Where the second half of a swung beat begins, in beats: a triplet's is at 0.67."""


@attrs.frozen
class Wish:
    """What is wanted of a straightened recording.

    Attributes
    ----------
    tempo : BPM
    hold_pitch : pitch stays; else it goes with the speed, as on a turntable
    zones_only : only the mix zones are straight, the middle keeps its feel
    share : how much of the drift is taken out, 0 to 1
    keep_swing : beats stay divided as they are; else their second halves begin in their middles
    glide_bars : so long the middle takes from the straight tempo to its own, and back
    """

    tempo: float
    hold_pitch: bool = True
    zones_only: bool = False
    share: float = 1.0
    keep_swing: bool = True
    glide_bars: int = GLIDE_BARS

    def __attrs_post_init__(self) -> None:
        if not LEAST_TEMPO <= self.tempo <= MOST_TEMPO:
            raise Refused(f"{self.tempo:g} BPM is no tempo ({LEAST_TEMPO:.0f} to {MOST_TEMPO:.0f} is possible).")
        if not 0 <= self.share <= 1:
            raise Refused(f"{100 * self.share:g} % of the drift can't be taken out: 0 to 100.")
        if not 0 <= self.glide_bars <= 64:
            raise Refused(f"A glide of {self.glide_bars} bars is not possible: 0 to 64.")
        if not self.keep_swing and not self.hold_pitch:
            raise Refused("Swing is taken out only with the pitch held: else every beat would bend it twice.")


@attrs.frozen(eq=False)
class Straight:
    """A recording laid out anew in time.

    Attributes
    ----------
    own, mix : (n,) instants of the recording and where they fall in the result, s; straight lines between
    knots : (k, 2) the same at the beats alone
    grid : of the result
    duration : of the result, s
    speeds : (k - 1,) how fast each beat is played; 1 is as recorded
    """

    wish: Wish
    own: Floats
    mix: Floats
    knots: Floats
    grid: Grid
    duration: float
    speeds: Floats

    def to_result(self, time: float) -> float:
        """Where an instant of the recording falls, s."""
        return float(piecewise(time, self.own, self.mix))

    @property
    def hardest(self) -> float:
        """The change of speed that is furthest from none; 0.03 is 3 % faster."""
        away = self.speeds - 1
        return float(away[np.abs(away).argmax()])


def proposed_tempo(grid: Grid) -> float:
    """The whole number nearest to the usual tempo; of a record that ran fast or slow, likely the original's."""
    spans = np.diff(grid.beats)
    order = np.argsort(grid.tempi)
    middle = np.searchsorted(np.cumsum(spans[order]), spans.sum() / 2)
    usual = float(grid.tempi[order][min(int(middle), len(order) - 1)])
    return float(min(MOST_TEMPO, max(LEAST_TEMPO, round(usual))))


def swing_of(times: Floats, strengths: Floats, grid: Grid) -> float | None:
    """Where the second half of a beat begins, in beats; None where beats are halved evenly, or that isn't heard.

    Parameters
    ----------
    times, strengths : (n,) onsets, s, and how strong they are
    """
    if not len(times):
        return None
    within = np.asarray(grid.beat_at(times)) % 1.0
    swung = (within > _OFF_BEAT[0]) & (within < _OFF_BEAT[1])
    even = np.abs(within - 0.5) <= _LEAST_SWING
    if swung.sum() < 8 or strengths[swung].sum() < strengths[even].sum():
        return None
    place = float(np.median(within[swung]))
    return place if place - 0.5 > _LEAST_SWING else None


def lay(
    grid: Grid,
    wish: Wish,
    duration: float,
    *,
    zones: tuple[tuple[float, float], ...] = (),
    waves: tuple[Wave, ...] = (),
    swing: float | None = None,
) -> Straight:
    """Where everything falls under a wish.

    Parameters
    ----------
    duration : of the recording, s
    zones : mix zones, s
    waves : the wow of a turntable as its pitches show it, for a wish without held pitch
    swing : where second halves of beats begin, for a wish that takes swing out

    Raises
    ------
    Refused
        A beat would have to be played more than twice as fast, or there is nothing to take out.
    """
    beats = _beats(grid, duration)
    own = np.asarray(grid.time_at(beats))
    steps = _steps(grid, wish, beats, own, zones)
    speeds = np.diff(own) / steps
    _check(grid, speeds, beats)
    mix = np.concatenate([[0.0], np.cumsum(steps)])
    # the recording begins and ends where it does: its first sample is the result's first
    mix -= piecewise(0.0, own, mix)
    if not wish.keep_swing:
        if swing is None:
            raise Refused("No swing is heard in this recording: there is none to take out.")
        own, mix = _halved(own, mix, swing)
    knots = np.stack([own, mix], axis=1)
    result = _grid(grid, wish, beats, mix if wish.keep_swing else mix[::2])
    if wish.hold_pitch:
        ends_own = np.concatenate([[min(0.0, own[0])], own, [max(duration, own[-1])]])
        ends_mix = piecewise(ends_own, own, mix)
        keep = np.concatenate([[True], np.diff(ends_own) > 1e-9])
        dense_own, dense_mix = ends_own[keep], ends_mix[keep]
    else:
        # beyond its pins a grid only reaches on, and shows no sway
        pinned = (own > grid.times[0] - 1e-6) & (own < grid.times[-1] + 1e-6)
        dense_own, dense_mix = _smooth(own, mix, pinned, duration, waves)
    end = float(piecewise(duration, dense_own, dense_mix))
    return Straight(wish, dense_own, dense_mix, knots, result, end, speeds)


def _beats(grid: Grid, duration: float) -> Floats:
    """Whole beats from the one before the first sample to the one after the last, and the pins between."""
    first, last = np.floor(float(grid.beat_at(0.0))), np.ceil(float(grid.beat_at(duration)))
    inner = grid.beats[(grid.beats > first) & (grid.beats < last)]
    beats = np.unique(np.concatenate([np.arange(first, max(last, first + 2) + 1), inner]))
    return beats[np.concatenate([[True], np.diff(beats) > 1e-6])]


def _steps(grid: Grid, wish: Wish, beats: Floats, own: Floats, zones: tuple[tuple[float, float], ...]) -> Floats:
    """How long each step from knot to knot shall last, s."""
    count, lasted = np.diff(beats), np.diff(own)
    even = count * 60.0 / wish.tempo
    if wish.zones_only:
        if not zones:
            raise Refused("There are no mix zones to straighten: mark them in Align first.")
        weight = wish.share * _in_zones(grid, beats, own, zones, wish.glide_bars)
        return np.asarray(weight * even + (1 - weight) * lasted)
    # the drift that is kept lies round the tempo that is wanted
    mean = even.sum() / lasted.sum()
    return np.asarray(wish.share * even + (1 - wish.share) * mean * lasted)


def _in_zones(grid: Grid, beats: Floats, own: Floats, zones: tuple[tuple[float, float], ...], glide: int) -> Floats:
    """1 in the mix zones, which reach to bar lines, 0 where the middle keeps its feel, and lines between."""
    middle = (beats[1:] + beats[:-1]) / 2
    weight = np.zeros(len(middle))
    for start, stop in zones:
        index, within = grid.bar_index(grid.beat_at([start, stop]))
        first, last = (float(b) for b in grid.bar_start([int(index[0]), int(index[1]) + (float(within[1]) > 1e-3)]))
        long = max(1e-9, glide * grid.beats_per_bar(first))
        away = np.maximum(np.maximum(first - middle, middle - last), 0.0)
        weight = np.maximum(weight, np.clip(1 - away / long, 0, 1) if glide else (away == 0).astype(float))
    return weight


def _check(grid: Grid, speeds: Floats, beats: Floats) -> None:
    bad = np.flatnonzero((speeds > MOST_SPEED) | (speeds < 1 / MOST_SPEED))
    if len(bad):
        where = grid.name_at(float(beats[bad[0]]))
        raise Refused(
            f"At bar {where} it would have to run {speeds[bad[0]]:.2f} times as fast as it was played: "
            "another tempo, or a grid that is right there, is needed."
        )


def _halved(own: Floats, mix: Floats, swing: float) -> tuple[Floats, Floats]:
    """A knot inside each step: what begins the second half of the beat goes to its middle."""
    inner_own, inner_mix = own[:-1] + swing * np.diff(own), mix[:-1] + 0.5 * np.diff(mix)
    out_own, out_mix = np.empty(2 * len(own) - 1), np.empty(2 * len(own) - 1)
    out_own[::2], out_own[1::2], out_mix[::2], out_mix[1::2] = own, inner_own, mix, inner_mix
    return out_own, out_mix


def _grid(grid: Grid, wish: Wish, beats: Floats, mix: Floats) -> Grid:
    """The grid of the result."""
    if not wish.zones_only and wish.share == 1.0:
        first = float(piecewise(0.0, beats, mix))
        return attrs.evolve(steady(tempo=wish.tempo, first=first), meter=grid.meter)
    chosen, _ = fewest_pins(mix, beats, np.full(len(beats), _EXACT))
    return Grid(tuple(Pin(float(mix[i]), float(beats[i])) for i in chosen), grid.meter)


def _smooth(own: Floats, mix: Floats, pinned: Bools, duration: float, waves: tuple[Wave, ...]) -> tuple[Floats, Floats]:
    """A smooth map through the knots, as lines so short that nobody hears their corners."""
    from scipy.interpolate import PchipInterpolator

    t = np.arange(min(own[0], 0.0), max(own[-1], duration) + _DENSE_S, _DENSE_S)
    ahead, exact = wow.of_beats(own[pinned], mix[pinned]), True
    if waves:
        heard = wow.of_waves(waves)
        if ahead is None or wow.share_in(own[pinned], mix[pinned], heard) < 0.5:
            # beats that were heard are coarser than the wave: it is taken out beside them
            ahead, exact = heard, False
    base = mix - ahead(own) if ahead is not None and exact else mix
    curve = PchipInterpolator(own, base, extrapolate=False)
    inside = (t >= own[0]) & (t <= own[-1])
    out = piecewise(t, own, base)
    out[inside] = curve(t[inside])
    if ahead is not None:
        out = out + ahead(t)
    if np.any(np.diff(out) < _DENSE_S / MOST_SPEED / 2):
        raise Refused("Its speed changes too suddenly to be mended by speed alone: hold the pitch instead.")
    # the first sample stays the first: what the wave adds there goes everywhere
    if not exact:
        out = out - float(np.interp(0.0, t, out)) + float(np.interp(0.0, own, mix))
    return t, np.asarray(out)
