"""How late a sound device speaks: clicks that it plays are recorded again, by a cable or a microphone, and found there.

The clicks come at uneven distances, so that only one shift lays all of them on what was recorded.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np

from ..arrays import Floats, Singles
from ..errors import Refused

GAPS_S = (0.31, 0.43, 0.35, 0.53, 0.39, 0.47, 0.33, 0.51, 0.41, 0.45, 0.37)
FIRST_S, LAST_S = 1.4, 0.9
"""Before the first click, so that the device runs evenly by then, and after the last."""
EARLIEST_S, LATEST_S = -0.08, 0.6
"""Between these the delay is looked for."""
PITCH_HZ, LONG_S = 3000.0, 0.003
NEAR_S = 0.004
"""Clicks that lie so near to where they should are heard; their places scatter by less on any device."""
ENOUGH = 0.75
"""So many of them must be."""
CLEAR = 6.0
"""A click must stand out so far over what is recorded between clicks."""
AROUND_S = 0.35
"""A clock is read by what was said of it so near: where it stumbled elsewhere, that tells nothing."""
STUMBLED_S = 0.02


def times() -> Floats:
    """Instants of the clicks, s."""
    return FIRST_S + np.concatenate([[0.0], np.cumsum(GAPS_S)])


def _click(rate: int) -> Floats:
    t = np.arange(int(LONG_S * rate)) / rate
    return np.sin(2 * np.pi * PITCH_HZ * t) * np.hanning(len(t))


def clicks(rate: int) -> Singles:
    """What is played: (frames, 2) at `rate` Hz."""
    at, one = times(), _click(rate)
    out = np.zeros((int((at[-1] + LAST_S) * rate), 2), np.float32)
    for t in at:
        k = round(float(t) * rate)
        out[k : k + len(one)] = 0.8 * one[:, None]
    return out


def measured(recorded: Floats | Singles, rate: int, *, said: Floats, arrived: Floats) -> tuple[float, float]:
    """How late clicks lie in a recording by the device's own clock, and how far their places scatter, s.

    A device that stumbles goes on later, and an input may lose something: each click is looked for by what both clocks
    were around it.

    Parameters
    ----------
    recorded : (frames,) at `rate` Hz
    said : (k, 2) instants, s, and how many s of the clicks the device said it had played by then
    arrived : (m, 2) instants, s, and how many s of the recording had come by then

    Raises
    ------
    Refused
        Too little was played or recorded, or the clicks can't be told from what else was recorded.
    """
    wanted = times()
    said = said[(said[:, 1] > 0) & (said[:, 1] < said[:, 1].max(initial=0.0))]
    if not len(arrived) or not len(said):
        raise Refused("Nothing was recorded.")
    if said[-1, 1] < wanted[-1]:
        raise Refused("The device did not play to the end: measure again.")
    played = wanted + _around(said[:, 1], said[:, 0] - said[:, 1], wanted, AROUND_S, np.median)
    # no sample arrives before it was recorded: the earliest block tells when recording began
    expected = played - _around(arrived[:, 0], arrived[:, 0] - arrived[:, 1], played, 2 * AROUND_S, np.min)
    stumbled = Refused("The sound stumbled meanwhile: measure again when the computer has less to do.")
    if not np.isfinite(expected).all():
        raise stumbled
    try:
        return delay(recorded, rate, expected)
    except Refused:
        if max(np.ptp(played - wanted), np.ptp(played - expected)) > STUMBLED_S:
            raise stumbled from None
        raise


def _around(at: Floats, values: Floats, instants: Floats, reach: float, of: Callable[[Floats], Any]) -> Floats:
    """What `of` makes of the values that lie `at` within `reach` of each instant; nan where there are none."""
    near = np.abs(at[None] - instants[:, None]) < reach
    return np.array([of(values[row]) if row.any() else np.nan for row in near])


def delay(recorded: Floats | Singles, rate: int, expected: Floats) -> tuple[float, float]:
    """How late clicks lie in a recording, and how far their places scatter, s.

    Parameters
    ----------
    recorded : (frames,) at `rate` Hz
    expected : instants of the recording at which they would lie without a delay, s

    Raises
    ------
    Refused
        The clicks can't be told from what else was recorded.
    """
    unheard = Refused("The clicks were not heard: join output and input by a cable, or hold the microphone nearer.")
    one = _click(rate)
    if len(recorded) < rate or not np.any(recorded):
        raise unheard
    matched = np.abs(np.convolve(np.asarray(recorded, float), one[::-1], "valid"))
    # the crests of the tone become one hump
    hump = np.convolve(matched, np.hanning(int(rate * 0.001) | 1), "same")
    lags = np.arange(round(EARLIEST_S * rate), round(LATEST_S * rate))
    at = np.round(np.asarray(expected) * rate).astype(np.int64)[:, None] + lags[None, :]
    inside = (at >= 0) & (at < len(hump))
    laid = np.where(inside, hump[np.clip(at, 0, len(hump) - 1)], 0.0)
    # a click that is missing costs less than one noise can win
    best = int(lags[np.minimum(laid, np.median(laid.max(axis=1))).sum(axis=0).argmax()])
    near = round(NEAR_S * rate)
    found = []
    floor = float(np.median(hump)) + 1e-12
    for t in np.asarray(expected):
        middle = round(float(t) * rate) + best
        low, high = max(0, middle - near), min(len(hump), middle + near + 1)
        if high - low > 2:
            top = low + int(hump[low:high].argmax())
            if hump[top] > CLEAR * floor and low < top < high - 1:
                found.append(top / rate - float(t))
    if len(found) < ENOUGH * len(expected):
        raise unheard
    return float(np.median(found)), float(np.std(found))
