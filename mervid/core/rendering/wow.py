"""Wow, the slow sway of a turntable, as a time map: how far the record had run ahead at each instant.

A record turns at one of three rates, and what sways once a turn is a wave at that rate (IEC 60386 measures it as wow).
Beats lie too far apart to draw such a wave through them: two or three fall into a turn. But its rate is known, so that
its height and its phase can be fitted, to the beats where these are exact, else to how pitches moved.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np

from ..arrays import Floats
from ..hearing.turntable import TURNS, Wave

Ahead = Callable[[Floats], Floats]
"""How many s the record is ahead at each instant of the recording, s."""

_NEAR = 0.02
_STEPS = 81
_TREND_S = 10.0
"""What is slower than this is a drift of its own."""
_SIDE_S = 2400.0
"""No side of a record is longer: over more, one wave at one rate means nothing."""
_LEAST = 4e-5
"""Waves that move nothing by so many s are none."""
_EXPLAINED = 0.6
"""Share of what is left beside the drift that a wave must explain."""


def of_waves(waves: tuple[Wave, ...]) -> Ahead:
    """What was measured on pitches, stretch by stretch, see `turntable.waves`."""
    at = np.array([w.time for w in waves])
    cosine, sine = np.array([w.cosine for w in waves]), np.array([w.sine for w in waves])
    turn = 2 * np.pi * waves[0].rate

    def ahead(t: Floats) -> Floats:
        a, b = np.interp(t, at, cosine), np.interp(t, at, sine)
        return np.asarray((a * np.sin(turn * t) - b * np.cos(turn * t)) / turn)

    return ahead


def of_beats(times: Floats, even: Floats) -> Ahead | None:
    """The wave at a turning rate in exact beats; None where there is none.

    Parameters
    ----------
    times : (n,) where beats lie in the recording, s
    even : (n,) where they would lie without wow, up to a slow drift, s
    """
    if len(times) < 16 or not 2 * _TREND_S < times[-1] - times[0] < _SIDE_S:
        return None
    basis = _slow(times)
    ortho, _ = np.linalg.qr(basis)

    def left(x: Floats) -> Floats:
        return np.asarray(x - ortho @ (ortho.T @ x))

    rest = left(even)
    total = float(rest @ rest)
    best: tuple[float, float, Any] | None = None
    for turn in TURNS.values():
        # each time closer round what was found
        middle, width = turn, _NEAR
        for _ in range(3):
            for rate in middle * (1 + np.linspace(-width, width, _STEPS)):
                design = left(_waves(times, rate))
                found, *_ = np.linalg.lstsq(design, rest, rcond=None)
                missed = float(np.sum((rest - design @ found) ** 2))
                if best is None or missed < best[0]:
                    best = missed, float(rate), found
            assert best is not None
            middle, width = float(best[1]), width / 20
    assert best is not None
    missed, rate, found = best
    if np.hypot(found[0], found[1]) < _LEAST or missed > (1 - _EXPLAINED) * total:
        return None
    return lambda t: np.asarray(_waves(t, rate) @ found)


def _waves(t: Floats, rate: float) -> Floats:
    """Once a turn and twice."""
    angle = 2 * np.pi * rate * t
    return np.stack([np.cos(angle), np.sin(angle), np.cos(2 * angle), np.sin(2 * angle)], axis=1)


def _slow(t: Floats) -> Floats:
    """What a drift can be: a cubic spline with a knot every `_TREND_S`."""
    from scipy.interpolate import BSpline

    inner = np.linspace(t[0], t[-1], max(2, int((t[-1] - t[0]) / _TREND_S) + 1))
    knots = np.concatenate([[t[0]] * 3, inner, [t[-1]] * 3])
    return np.asarray(BSpline.design_matrix(np.clip(t, t[0], t[-1]), knots, 3).toarray())


def share_in(times: Floats, even: Floats, ahead: Ahead) -> float:
    """How much of a known wave the beats show already: 0 for none, 1 for all of it."""
    if len(times) < 4:
        return 0.0
    basis, _ = np.linalg.qr(_slow(times))
    wave, rest = (x - basis @ (basis.T @ x) for x in (ahead(times), even))
    size = float(wave @ wave)
    return float(wave @ rest) / size if size > 0 else 0.0
