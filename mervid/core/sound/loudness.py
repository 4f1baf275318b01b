"""How loud a recording is, moment by moment: ITU-R BS.1770-4 loudness of every three seconds.

Three seconds are the short-term window of EBU Tech 3341. The measure itself is pyloudnorm's.
"""

from __future__ import annotations

from typing import Any

import numpy as np

from ..arrays import Singles

STEP = 3.0
SILENCE = -70.0


class LoudnessMeter:
    """Takes a recording in pieces and measures each stretch of `STEP` s."""

    def __init__(self, rate: int) -> None:
        from pyloudnorm import Meter

        self._meter: Any = Meter(rate)
        self._size = int(STEP * rate)
        self._least = int(0.45 * rate)
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
        # surround is judged by its first two channels
        part = np.nan_to_num(part[:, :2], nan=0.0, posinf=0.0, neginf=0.0)
        if not part.any():
            self._found.append(SILENCE)
            return
        value = float(self._meter.integrated_loudness(part.astype(np.float64)))
        self._found.append(max(SILENCE, value) if np.isfinite(value) else SILENCE)

    def finish(self) -> Singles:
        """Loudness of each stretch, (n,) LUFS, `SILENCE` at least; a rest too short to measure is left out."""
        if self._held >= self._least:
            self._measure(np.concatenate(self._rest))
        self._rest, self._held = [], 0
        return np.array(self._found, np.float32)
