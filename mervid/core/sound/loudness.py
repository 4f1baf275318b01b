"""How loud a recording is, moment by moment: ITU-R BS.1770-4 loudness of every three seconds.

Three seconds without a gate are the short-term loudness of EBU Tech 3341. The weighting filters are pyloudnorm's, here
as one filter of fourth order over both channels at once, which takes a third of the time.
"""

from __future__ import annotations

from functools import cache

import numpy as np

from ..arrays import Floats, Singles

STEP = 3.0
SILENCE = -70.0
_OFFSET = -0.691
_LEAST = 0.45


@cache
def _weighting(rate: int) -> tuple[Floats, Floats]:
    """Numerator and denominator of the K-weighting of BS.1770 at `rate` Hz."""
    from pyloudnorm.iirfilter import IIRfilter

    shelf = IIRfilter(4.0, 1 / np.sqrt(2), 1500.0, rate, "high_shelf")
    high = IIRfilter(0.0, 0.5, 38.0, rate, "high_pass")
    return np.convolve(shelf.b, high.b), np.convolve(shelf.a, high.a)


class LoudnessMeter:
    """Takes a recording in pieces and measures each stretch of `STEP` s."""

    def __init__(self, rate: int) -> None:
        self._weighting = _weighting(rate)
        self._size = int(STEP * rate)
        self._least = int(_LEAST * rate)
        self._rest: list[Singles] = []
        self._held = 0
        self._found: list[float] = []

    def push(self, block: Singles) -> None:
        """Take (frames, channels) float32."""
        self._rest.append(block)
        self._held += len(block)
        while self._held >= self._size:
            whole = np.concatenate(self._rest)
            self._measure(whole[: self._size])
            self._rest = [whole[self._size :]]
            self._held = len(self._rest[0])

    def _measure(self, part: Singles) -> None:
        from scipy.signal import lfilter

        # surround is judged by its first two channels
        x = np.ascontiguousarray(part.reshape(len(part), -1)[:, :2].T, np.float64)
        y = lfilter(*self._weighting, np.nan_to_num(x, copy=False, nan=0.0, posinf=0.0, neginf=0.0))
        power = float(np.vdot(y, y)) / len(part)
        self._found.append(max(SILENCE, _OFFSET + 10 * np.log10(power)) if power > 0 else SILENCE)

    def finish(self) -> Singles:
        """Loudness of each stretch, (n,) LUFS, `SILENCE` at least; a rest too short to measure is left out."""
        if self._held >= self._least:
            self._measure(np.concatenate(self._rest))
        self._rest, self._held = [], 0
        return np.array(self._found, np.float32)
