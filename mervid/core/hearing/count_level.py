"""Which level beats are counted at: as they were found, twice or half as fast, three for two, or between the beats.

A path through the ear's answers decides from moment to moment; level is a question about the whole recording
(listeners differ in it, and tempo sways them: Moelants & McKinney, ICMPC 2004). Here every reading of the whole count
is described by what the ear heard at its beats, between them and at its downbeats, by how regular that is, and by its
tempo; a linear score of these, learned from rendered music that the ear had not learned from (`training/level.py`),
gives each reading its chance.
"""

from __future__ import annotations

from functools import cache
from pathlib import Path
from zipfile import BadZipFile

import attrs
import numpy as np

from ..arrays import Floats
from . import bar_pointer, voices
from .ear import Strengths

WEIGHTS = Path(__file__).parent / "weights" / "level.npz"
FORMAT = 1
LEAST = 16
FEATURES = 17
_CENTRE = 110.0
LIKELIER = 0.5
"""A reading so likely is taken instead of the one that was found."""


@attrs.frozen
class Reading:
    """Another way to count the same music.

    Attributes
    ----------
    name : in words, after "beats"
    ratio : beats for each that was found
    shift : by how many beats later it begins
    kind : which of the learned readings it is
    """

    name: str
    ratio: float
    shift: float
    kind: int


AS_FOUND = Reading("as found", 1.0, 0.0, 0)
READINGS = (
    AS_FOUND,
    Reading("twice as fast", 2.0, 0.0, 1),
    Reading("half as fast", 0.5, 0.0, 2),
    Reading("half as fast, on the other beats", 0.5, 0.5, 2),
    Reading("between the beats", 1.0, 0.5, 3),
    Reading("three beats for two", 1.5, 0.0, 4),
    Reading("two beats for three", 2 / 3, 0.0, 5),
)
KINDS = 6


def places(n: int, ratio: float, first: float) -> Floats:
    """Where the beats of another count lie among n that were found, the first of these at 0."""
    return np.arange(first, n - 1 + 1e-9, 1 / ratio)


def read_as(times: Floats, reading: Reading) -> Floats:
    """(n,) beats in s as another reading counts them: beats between are set evenly."""
    n = len(times)
    first = 2 * reading.shift if reading.ratio == 0.5 else reading.shift
    return np.interp(places(n, reading.ratio, first), np.arange(n), times)


def describe(ear: Strengths, times: Floats) -> Floats:
    """What speaks for each of `READINGS` of beats at (n,) `times`: (readings, `FEATURES`).

    Readings too fast or too slow for the ear are nan.
    """
    gain = bar_pointer.observed(ear.beat)
    tempo = 60 / float(np.median(np.diff(times)))
    rows = np.full((len(READINGS), FEATURES), np.nan)
    for k, r in enumerate(READINGS):
        if r is AS_FOUND or bar_pointer.SLOWEST <= tempo * r.ratio <= bar_pointer.FASTEST:
            rows[k] = _described(ear, gain, read_as(times, r))
    return rows


def _described(ear: Strengths, gain: Floats, times: Floats) -> Floats:
    beat, down = bar_pointer.peaks(ear.beat, times, 1), bar_pointer.peaks(ear.downbeat, times, 1)
    step = np.diff(times)
    half = bar_pointer.peaks(ear.beat, times[:-1] + step / 2, 1)
    thirds = np.concatenate([times[:-1] + step / 3, times[:-1] + 2 * step / 3])
    third = bar_pointer.peaks(ear.beat, thirds, 1)
    phases = np.array([down[k::4].mean() for k in range(4)])
    best, next_best = np.sort(phases)[::-1][:2]
    across = float(phases[(int(phases.argmax()) + 2) % 4])
    octaves = float(np.log2(60 / np.median(step) / _CENTRE))
    share = float(bar_pointer.tempo_shares(ear, times).mean())
    return np.array(
        [
            bar_pointer.gained(gain, times) / len(times),
            np.percentile(beat, 10),
            beat.mean(),
            np.log(beat.mean() + 0.02),
            half.mean(),
            np.log(half.mean() + 0.02),
            third.mean(),
            abs(beat[::2].mean() - beat[1::2].mean()),
            abs(down[::2].mean() - down[1::2].mean()),
            best,
            best - next_best,
            across / (best + 0.05),
            share,
            np.log(share + 0.02),
            octaves,
            octaves**2,
            float(ear.drums.mean()) * octaves,
        ]
    )


@cache
def _learned(path: Path) -> tuple[Floats, Floats] | None:
    """Weight of each feature and bias of each kind of reading; None where the file is missing or damaged."""
    try:
        with np.load(path, allow_pickle=False) as z:
            weights, bias = z["weights"], z["bias"]
            right = int(z["format"]) == FORMAT and weights.shape == (FEATURES,) and bias.shape == (KINDS,)
            return (weights, bias) if right else None
    except (OSError, ValueError, KeyError, EOFError, BadZipFile):
        return None


def chances(ear: Strengths, times: Floats) -> Floats | None:
    """How likely each of `READINGS` is for beats at (n,) `times`, which sum to 1; None where that can't be told.

    Readings too fast or too slow for the ear have no chance.
    """
    learned = _learned(voices.among(WEIGHTS, ear))
    if learned is None or len(times) < LEAST:
        return None
    weights, bias = learned
    scores = describe(ear, times) @ weights + bias[[r.kind for r in READINGS]]
    scores[np.isnan(scores)] = -np.inf
    shares = np.exp(scores - scores.max())
    return np.asarray(shares / shares.sum())


def likeliest(ear: Strengths, times: Floats, shares: Floats | None) -> Floats:
    """Beats as the whole recording speaks for them: `times` unless another reading is likelier than not.

    Parameters
    ----------
    shares : what `chances` says of them
    """
    if shares is None or shares[1:].max() <= LIKELIER:
        return times
    reading = READINGS[int(shares.argmax())]
    other = read_as(times, reading)
    if reading.ratio != 1:
        other = bar_pointer.beats_along(ear, other)
        # the search begins with the file, the music where it was found
        other = other[(other > times[0] - np.diff(times[:2])[0]) & (other < times[-1] + np.diff(times[-2:])[0])]
    return other if len(other) >= LEAST else times
