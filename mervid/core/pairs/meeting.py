"""A meeting: where two tracks lie over each other, for how long, on whose clock, and how each comes and goes.

Places are beats of the tracks' own grids, so that a meeting follows a grid that is mended. Bars are counted as the
leaving track counts them.
"""

from __future__ import annotations

import json
import math

import attrs
import cattrs

from ..errors import FormatError, Refused
from ..model.beatgrid import LEAST_TEMPO, MOST_TEMPO

LEAVING, STEADY, GLIDE = "leaving", "steady", "glide"
CLOCKS = (LEAVING, STEADY, GLIDE)
CUT, STRAIGHT, EQUAL_POWER = "cut", "straight", "equal power"
LAWS = (CUT, STRAIGHT, EQUAL_POWER)
LEVELS = (1.0, 0.5, 2.0)
LENGTHS = (4, 8, 16, 32, 64)
"""Bars of overlap that are offered; others can be typed."""
MOST_BARS = 256
USUAL_BARS = 32
MOST_NUDGE_MS = 500.0
MOST_GAIN_DB = 12.0
MOST_STRETCH = 0.08
"""Speed and pitch may differ so far before it is told: at more a held pitch sounds of it (see guide, Rehearse)."""


def nearest_level(ratio: float) -> float:
    """At which level a track is counted whose tempo is `ratio` times another's: where the two lie nearest.

    >>> nearest_level(1.1), nearest_level(0.55), nearest_level(1.9)
    (1.0, 0.5, 2.0)
    """
    return min(LEVELS, key=lambda k: abs(math.log(ratio / k)))


@attrs.frozen
class Tone:
    """Gains of three bands in dB: below 180 Hz, between, and above 2500 Hz."""

    low: float = 0.0
    mid: float = 0.0
    high: float = 0.0

    @property
    def flat(self) -> bool:
        return self == Tone()


@attrs.frozen
class Meeting:
    """Beat `at` of the leaving track and beat `enter` of the coming one sound together, and `bars` bars from there.

    Attributes
    ----------
    clock : `LEAVING` plays the leaving track as it is and the coming one on its beats, `STEADY` both at `tempo`,
        `GLIDE` goes from the tempo of the one to that of the other
    level : beats of the coming track to one of the leaving track: 1, or 0.5 or 2 where they are counted differently
    hold_pitch : pitch stays when speed changes
    fade_in, fade_out : law by which the coming track fades in over the first half, the leaving one out over the second
    swap : bar of the overlap, from 0, at which low sound passes from the one to the other; None for no such thing
    leaving_tone, coming_tone : gains of the bands
    match : the coming track is set as loud as the leaving one
    nudge : ms by which the coming track comes later than its grid says

    Raises
    ------
    Refused
        A value that can't be; the message names it.
    """

    at: float
    enter: float
    bars: int = USUAL_BARS
    clock: str = LEAVING
    tempo: float = 0.0
    level: float = 1.0
    hold_pitch: bool = True
    fade_in: str = EQUAL_POWER
    fade_out: str = EQUAL_POWER
    swap: int | None = None
    leaving_tone: Tone = Tone()
    coming_tone: Tone = Tone()
    match: bool = True
    nudge: float = 0.0

    def __attrs_post_init__(self) -> None:
        if not 1 <= self.bars <= MOST_BARS:
            raise Refused(f"An overlap has 1 to {MOST_BARS} bars, not {self.bars}.")
        if self.clock not in CLOCKS:
            raise Refused(f"'{self.clock}' is no clock: {', '.join(CLOCKS)}.")
        if self.clock == STEADY and not LEAST_TEMPO <= self.tempo <= MOST_TEMPO:
            raise Refused(f"A steady clock needs a tempo of {LEAST_TEMPO:.0f} to {MOST_TEMPO:.0f} BPM.")
        if self.fade_in not in LAWS or self.fade_out not in LAWS:
            raise Refused(f"A fade is one of {', '.join(LAWS)}.")
        if self.level not in LEVELS:
            raise Refused("Beats can be counted alike, at half or at double.")
        if not abs(self.nudge) <= MOST_NUDGE_MS:
            raise Refused(f"A meeting can be nudged by {MOST_NUDGE_MS:.0f} ms at most.")
        if self.swap is not None and not 0 <= self.swap <= self.bars:
            raise Refused(f"Low sound changes hands within the overlap, at bar 0 to {self.bars}.")
        for gain in (*attrs.astuple(self.leaving_tone), *attrs.astuple(self.coming_tone)):
            if not abs(gain) <= 4 * MOST_GAIN_DB:
                raise Refused(f"A band's gain lies between -{4 * MOST_GAIN_DB:.0f} and {4 * MOST_GAIN_DB:.0f} dB.")


_converter = cattrs.Converter(forbid_extra_keys=True, detailed_validation=False)


def to_json(meeting: Meeting) -> str:
    """The meeting as JSON text."""
    return json.dumps(_converter.unstructure(meeting), separators=(",", ":"), allow_nan=False)


def from_json(text: str) -> Meeting:
    """Inverse of `to_json`. Raises `FormatError` for anything else."""
    try:
        return _converter.structure(json.loads(text), Meeting)
    except Exception as e:
        raise FormatError(f"This is no meeting: {type(e).__name__}.") from None
