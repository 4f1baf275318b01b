"""How much of each pitch a recording holds, whatever the octave and however it is tuned: what its key is read from.

Only peaks of the spectrum count, placed between bins: drums and hiss have none that last. An instant counts by the root
of its strength, so that a loud chorus doesn't outweigh the rest (pitch class profiles: Fujishima, ICMC 1999; of peaks:
Gómez, 2006).
"""

from __future__ import annotations

import numpy as np

from ..arrays import Floats, Ints, Singles

STEPS = 120
"""Places in an octave: a tenth of a semitone each; place 0 is C at A = 440 Hz."""
LOW, BASS, HIGH = 50.0, 250.0, 2000.0
"""Hz: all pitches are heard from `LOW` to `HIGH`, those of the bass up to `BASS`."""
_LOUD = 0.6
_C4 = 261.6255653


class PitchMeter:
    """Adds up the peaks of spectra that come in chunks."""

    def __init__(self) -> None:
        self._found = np.zeros((2, STEPS))

    def push(self, frame: Ints, hz: Floats, loud: Floats) -> None:
        """Take the peaks of whole frames: which frame, where in Hz, and how strong."""
        heard = (hz > LOW) & (hz < HIGH)
        frame, hz, strength = frame[heard], hz[heard], loud[heard] ** _LOUD
        if not len(frame):
            return
        place = np.rint(STEPS * np.log2(hz / _C4)).astype(int) % STEPS
        for row, used in enumerate((np.ones(len(hz), bool), hz < BASS)):
            total = np.bincount(frame[used], strength[used], minlength=int(frame.max()) + 1)
            shares = strength[used] / np.sqrt(np.maximum(total[frame[used]], 1e-9))
            self._found[row] += np.bincount(place[used], shares, minlength=STEPS)

    def finish(self) -> Singles:
        """(2, `STEPS`) float32: shares of all pitches and of the bass; each row sums to 1, or to 0 where none is."""
        totals = self._found.sum(axis=1, keepdims=True)
        return np.where(totals > 0, self._found / np.maximum(totals, 1e-9), 0).astype(np.float32)
