"""What a person told the hearing about a part of the track, as values that are kept with the preparation."""

from __future__ import annotations

import attrs

DOWNBEAT, QUIET, TEMPO, EVEN, ALIKE = "downbeat", "quiet", "tempo", "even", "alike"
COUNT, TAP, METRE = "count", "tap", "metre"
END = 1e9
"""Stands for the end of the track in a hint."""


@attrs.frozen
class Hint:
    """One thing a person said about a part of the track.

    Attributes
    ----------
    kind : "downbeat" (at `start`), "quiet" (no beats from `start` to `stop`), "tempo" (about `value` BPM), "even" (one
        steady tempo), "alike" (bars continue the count of the part around `value` s), "count" (`value` beats for
        each that was heard, and `shift` beats later), "tap" (a hand that tapped along says: a beat at `start`) or
        "metre" (bars of `value` beats)
    start, stop : s
    """

    kind: str
    start: float = 0.0
    stop: float = END
    value: float = 0.0
    shift: float = 0.0
