"""What each bar of a track sounds like: the row of pictures from which its form is read.

For every bar of the grid: timbre (24 bands), harmony (12 pitch classes in each half of the bar), rhythm (attack
strength on 16 places), and how much percussion, voice and level it has. Features in step with the music rather than
with the clock make repetitions comparable on a grid that wanders (Bartsch & Wakefield, WASPAA 2001, for beats).
"""

from __future__ import annotations

import attrs
import numpy as np
from numpy.typing import NDArray

from ..arrays import Floats, Ints, Singles
from ..hearing.evidence import TONE_FPS, Evidence
from ..hearing.features import highest_attack
from ..hearing.scene import SLOW_FPS, between
from ..hearing.spectra import EAR_FPS
from ..model.beatgrid import Grid
from ..sound import loudness

PLACES, _REACH = 16, 30
"""Places in a bar at which attacks are looked at, and by how many ms they may lie beside one."""
_QUIET = 40.0
_NEAR_S = 0.25
_RINGS = 0.3
_LEAD, _QUIETER = 8, 0.25
"""So many bars before bar 1 can be a lead-in; so much quieter than what follows, in the spread of the track."""
_SILENT = 2.5
"""So much quieter than the bars after it is a bar without music."""


@attrs.frozen(eq=False)
class Bars:
    """The bars of a track that hold music.

    Attributes
    ----------
    starts : (n + 1,) beat on which each begins, and the one on which the last ends
    times : (n + 1,) the same in s
    timbre : (n, 24), each band standardised over the track
    harmony : (n, 24), pitch classes of the first and the second half, each half of length 1
    rhythm : (n, 16), attack strength at each sixteenth of the bar, 0 to 1
    drums, voice : (n,) how surely there is percussion, a voice; 0 to 1
    level : (n,) how loud, in standard deviations of the track
    opens : (n,) how surely the ear hears a section begin with this bar, 0 to 1
    pitches : (n, 24) share of each pitch class in the first and the second half, from which harmony is made; (0, 24)
        where that isn't known
    """

    starts: Floats
    times: Floats
    timbre: Floats
    harmony: Floats
    rhythm: Floats
    drums: Floats
    voice: Floats
    level: Floats
    opens: Floats
    pitches: Floats = attrs.field(factory=lambda: np.zeros((0, 24)))

    def __len__(self) -> int:
        return len(self.starts) - 1


def sounding(evidence: Evidence, duration: float) -> tuple[float, float]:
    """From where to where there is music, s: not the lead-in of a record, nor silence at the end."""
    on, off = 0.0, duration
    loud = evidence.loudness
    if len(loud):
        heard = np.flatnonzero(loud > loud.max() - _QUIET)
        on = float(heard[0]) * loudness.STEP
        off = min(duration, float(heard[-1] + 1) * loudness.STEP)
    times = evidence.onset_times[evidence.onset_strengths > 0.1]
    if len(times):
        on, off = max(on, float(times[0]) - 0.05), min(off, float(times[-1]) + 2.0)
    if evidence.condition.lead_in:
        on = max(on, evidence.condition.lead_in)
    beats = evidence.heard.times
    if len(beats):
        on, off = min(on, float(beats[0])), max(off, float(beats[-1]))
    return on, max(on, off)


def describe(evidence: Evidence, grid: Grid, duration: float) -> Bars | None:
    """The bars that hold music; None for fewer than two."""
    on, off = sounding(evidence, duration)
    index, starts = grid.bars(max(0.0, on), off)
    starts = np.append(starts, grid.bar_start(int(index[-1]) + 1))
    times = grid.time_at(starts)
    # a bar counts when more than half of it sounds
    middle = (times[1:] + times[:-1]) / 2
    inside = np.flatnonzero((middle > on) & (middle < off) & (times[1:] > 0) & (times[:-1] > -0.3))
    if len(inside) < 2:
        return None
    starts, times = starts[inside[0] : inside[-1] + 2], times[inside[0] : inside[-1] + 2]
    rhythm = _pattern(evidence.attack, grid, starts)
    kept = _without_ring(rhythm)
    starts, times, rhythm = starts[: kept + 1], times[: kept + 1], rhythm[:kept]
    colour = _means(evidence.colour.astype(float), TONE_FPS, times)
    lead = _lead_in(starts, colour.mean(axis=1))
    starts, times, rhythm, colour = starts[lead:], times[lead:], rhythm[lead:], colour[lead:]
    level = colour.mean(axis=1)
    spread = colour.std(axis=0) + 1e-3 + 0.05 * colour.std()
    halves = np.sort(np.concatenate([times, grid.time_at((starts[1:] + starts[:-1]) / 2)]))
    pitches = _means(evidence.chroma.astype(float), TONE_FPS, halves).reshape(len(starts) - 1, -1)
    ear = evidence.strengths
    if ear is not None:
        drums, voice = (_means(x[:, None].astype(float), EAR_FPS, times)[:, 0] for x in (ear.drums, ear.voice))
        opens = _near(ear.section, times[:-1])
    else:
        drums = _means(evidence.percussive[:, None] / 255.0, SLOW_FPS, times)[:, 0]
        voice, opens = np.zeros(len(drums)), np.zeros(len(drums))
    return Bars(
        starts,
        times,
        (colour - colour.mean(axis=0)) / spread,
        _harmony(pitches),
        rhythm,
        drums,
        voice,
        (level - level.mean()) / (level.std() + 1e-6),
        opens,
        pitches,
    )


def _harmony(pitches: Floats) -> Floats:
    """(n, 24) how the pitch classes of each half of a bar stand out of those of the track, each half of length 1."""
    halves = pitches.reshape(-1, 12)
    out = halves - halves.mean(axis=0)
    out /= np.linalg.norm(out, axis=1, keepdims=True) + 1e-6
    return np.asarray(out.reshape(pitches.shape))


def lowered(pitches: Floats, by: Ints) -> Floats:
    """Pitches of bars, (n, 24), each bar moved down by so many semitones, (n,)."""
    at = (np.arange(12) + by[:, None]) % 12
    return np.take_along_axis(pitches, np.concatenate([at, at + 12], axis=1), axis=1)


def in_one_key(bars: Bars, raised: Ints) -> Bars:
    """With the harmony of bars that lie `raised` semitones, (n,), above the beginning as it would be without that."""
    pitches = lowered(bars.pitches, raised)
    return attrs.evolve(bars, pitches=pitches, harmony=_harmony(pitches))


def _lead_in(starts: Floats, level: Floats) -> int:
    """How many bars before bar 1 are no music: few, and quieter than those that follow (speech, a count, noise)."""
    before, spread = int(np.searchsorted(starts[:-1], -1e-6)), level.std()
    after = level[before : before + _LEAD]
    fits = 0 < before <= _LEAD and len(level) - before >= 2 * before
    lead = before if fits and level[:before].mean() < after.mean() - _QUIETER * spread else 0
    # a bar 1 that is all but silent was counted from a breath, or from the sticks that count the band in
    while lead < len(level) - 2 * _LEAD and level[lead] < level[lead + 1 : lead + 1 + _LEAD].mean() - _SILENT * spread:
        lead += 1
    return lead


def _without_ring(rhythm: Floats) -> int:
    """How many bars are left without a last one or two in which nothing is struck after the first beat."""
    after = rhythm[:, 2:].mean(axis=1)
    count, usual = len(rhythm), float(np.median(after))
    while count > max(2, len(rhythm) - 2) and after[count - 1] < _RINGS * usual:
        count -= 1
    return count


def _means(x: Floats, rate: float, edges: Floats) -> Floats:
    """Mean of the rows of (m, k) `x`, `rate` a second, between neighbouring `edges` in s: (len(edges) - 1, k)."""
    return between(x, rate, edges[:-1], edges[1:])


def _near(x: Singles, times: Floats) -> Floats:
    """The strongest of `x`, 50 a second, near each time."""
    reach = int(_NEAR_S * EAR_FPS)
    padded = np.pad(x.astype(float), (reach, reach + 1))
    at = np.clip(np.rint(times * EAR_FPS).astype(int), 0, max(0, len(x) - 1))
    return np.asarray(np.stack([padded[at + k] for k in range(2 * reach + 1)]).max(axis=0))


def _pattern(attack: NDArray[np.uint8], grid: Grid, starts: Floats) -> Floats:
    """Strongest attack around each sixteenth of each bar, (bars, 16) in 0 to 1."""
    places = np.arange(PLACES) / PLACES
    beats = starts[:-1, None] + places[None] * np.diff(starts)[:, None]
    return highest_attack(attack, grid.time_at(beats), _REACH) / 255
