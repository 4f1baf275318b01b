"""Sound at another speed and its own pitch: a phase vocoder whose time map is exact at every attack.

Frames under a Hann window are taken where the map says and added up four deep. The phase of a bin is turned by the
same amount as between two frames of the recording one hop apart (Portnoff 1976), and all bins round a peak as the peak
is (identity phase locking: Laroche and Dolson, IEEE Trans. Speech and Audio Proc. 7, 1999), so a tone keeps its pitch.
Both channels are turned alike, by what their sum says, so that the stereo picture and a mono sum stay whole. Round an
attack the recording runs at its own speed, so that no two frames disagree where it falls, and the bins it fills begin
anew with their own phases (after Roebel, DAFx 2003); what the speed differs is made up between attacks.

A chunk needs the phases at the end of the one before. Where that isn't known, as after a jump, it begins with the
recording's own.
"""

from __future__ import annotations

from collections import OrderedDict
from functools import cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..arrays import Bools, Floats, Ints, Singles
from ..maths.piecewise import piecewise
from ..sound.decoding import Kept
from .varispeed import between, frames

Turns = NDArray[np.complex64]

OVERLAP = 4
CALM_S = 0.022
"""Round an attack the recording runs at its own speed for so long before and after."""
LEAST_GAP_S = 0.075
"""Attacks closer than that are one: between them nothing would be left to make up the time."""
_LOUDER, _ROSE = 1.3, 1.6
"""An attack makes the whole so many times stronger, and a bin that belongs to it so many times."""
_AFTER = 3
_KEPT = 64
_TINY = 1e-9


def window_of(rate: int) -> int:
    """Length of a frame: some 46 ms, a power of two."""
    return 1 << round(np.log2(rate * 0.0465))


@cache
def _window(size: int) -> Singles:
    return np.sqrt(np.asarray(0.5 - 0.5 * np.cos(2 * np.pi * np.arange(size) / size))).astype(np.float32) ** 2


def calm_map(own: Floats, mix: Floats, attacks: Floats) -> tuple[Floats, Floats]:
    """The map with its own speed round each attack: attacks stay where they fall, the speed differs between them.

    Parameters
    ----------
    own, mix : (n,) the joined lines, s
    attacks : (k,) s of the recording, see `spaced`

    Returns
    -------
    own, mix : (m,) knots of the new map, s
    """
    if not len(attacks):
        return own, mix
    there = piecewise(attacks, own, mix)
    knots_own = np.stack([attacks - CALM_S, attacks + CALM_S], axis=1).ravel()
    knots_mix = np.stack([there - CALM_S, there + CALM_S], axis=1).ravel()
    # other knots count where no attack is near: they bend the map between
    far = np.abs(own - attacks[_nearest(own, attacks)]) > LEAST_GAP_S
    x = np.concatenate([knots_own, own[far]])
    y = np.concatenate([knots_mix, mix[far]])
    order = np.argsort(x)
    x, y = x[order], y[order]
    good = np.concatenate([[True], (np.diff(x) > 1e-4) & (np.diff(y) > 1e-4)])
    return x[good], y[good]


def spaced(attacks: Floats, own: Floats) -> Floats:
    """Those attacks within the map that lie far enough behind the one before."""
    out: list[float] = []
    for a in attacks[(attacks >= own[0]) & (attacks <= own[-1])].tolist():
        if not out or a - out[-1] >= LEAST_GAP_S:
            out.append(a)
    return np.array(out)


def _nearest(x: Floats, points: Floats) -> Any:
    i = np.clip(np.searchsorted(points, x), 1, max(1, len(points) - 1))
    i = np.minimum(i, len(points) - 1)
    left = np.maximum(i - 1, 0)
    return np.where(np.abs(x - points[left]) <= np.abs(x - points[i]), left, i)


def _peaks(loud: Singles) -> Ints:
    """For each bin of each frame the peak that it belongs to: the nearest bin louder than two on either side."""
    n = loud.shape[1]
    at = np.arange(n, dtype=np.int32)
    inner = loud[:, 2:-2]
    peak = np.zeros(loud.shape, bool)
    peak[:, 2:-2] = (inner >= loud[:, 1:-3]) & (inner > loud[:, 3:-1]) & (inner >= loud[:, :-4]) & (inner > loud[:, 4:])
    left = np.maximum.accumulate(np.where(peak, at, -n), axis=1)
    right = np.minimum.accumulate(np.where(peak, at, 2 * n)[:, ::-1], axis=1)[:, ::-1]
    near = np.where(at - left <= right - at, left, right)
    return np.where((near < 0) | (near >= n), at, near)


class HeldPitch:
    """A recording on another clock, at its own pitch; read chunk by chunk in frames of the mix.

    Parameters
    ----------
    samples : (frames, channels) at `source_rate` Hz
    own, mix : (n,) the joined lines that tie the recording to the mix, s
    attacks : (k,) beats and onsets of the recording, s; the most certain ones suffice
    """

    def __init__(self, samples: Kept, source_rate: int, rate: int, own: Floats, mix: Floats, attacks: Floats) -> None:
        self._samples, self._ratio, self._rate = samples, source_rate / rate, rate
        attacks = spaced(attacks, own)
        self._own, self._mix = calm_map(own, mix, attacks)
        self.size = window_of(rate)
        self.hop = self.size // OVERLAP
        self._attacks = np.rint(piecewise(attacks, self._own, self._mix) * rate / self.hop).astype(np.int64)
        self._states: OrderedDict[int, Turns] = OrderedDict()

    def _centres(self, first: int, count: int) -> NDArray[np.int64]:
        """The frame of the recording, at the rate of the mix, in the middle of each of `count` frames of the mix."""
        at = piecewise(np.arange(first, first + count) * self.hop / self._rate, self._mix, self._own)
        return np.rint(at * self._rate).astype(np.int64)

    def _read(self, start: int, count: int) -> Singles:
        """Frames of the recording at the rate of the mix."""
        if self._ratio == 1.0:
            return frames(self._samples, start, count)
        return between(self._samples, np.arange(start, start + count, dtype=float) * self._ratio)

    def read(self, start: int, count: int) -> Singles:
        """Frames `start` to `start + count` of the mix, (count, 2)."""
        import scipy.fft

        size, hop = self.size, self.hop
        # a frame belongs to its middle; the first and last that reach into the block
        first = -(-(start - size // 2) // hop)
        first += first * hop - size // 2 + size <= start
        last = (start + count + size // 2 - 1) // hop
        n = last - first + 1
        # one frame before, to turn on from; three after, to see what an attack at the edge fills
        centre = self._centres(first - 1, n + 1 + _AFTER)
        low = int(centre.min()) - hop - size // 2
        sound = self._read(low, int(centre.max()) + size // 2 + 1 - low)
        if not sound.any():
            self._states.pop(last, None)
            return np.zeros((count, 2), np.float32)
        window = _window(size)
        views = np.lib.stride_tricks.sliding_window_view(sound, size, axis=0)
        begin = centre - size // 2 - low
        here = scipy.fft.rfft(views[begin] * window, axis=-1, overwrite_x=True)
        both = here.sum(axis=1)
        inner = slice(1, n + 1)
        before = scipy.fft.rfft(views[begin[inner] - hop].sum(axis=1) * window, axis=-1, overwrite_x=True)
        turns = self._turns(first, both, before)
        pieces = scipy.fft.irfft(here[inner] * turns[:, None, :], n=size, axis=-1, overwrite_x=True) * window
        out = np.zeros((2, (n - 1) * hop + size), np.float32)
        for k in range(n):
            out[:, k * hop : k * hop + size] += pieces[k]
        offset = start - (first * hop - size // 2)
        # four Hann windows squared add up to 1.5
        return np.asarray(out[:, offset : offset + count].T / np.float32(1.5), np.float32)

    def _turns(self, first: int, both: Turns, before: Turns) -> Turns:
        """How far each bin of each frame is turned, (n, bins) of length 1."""
        step = both[: len(before)] * np.conj(before)
        strength = np.abs(step)
        # where nothing sounds there is nothing to turn
        step = np.where(strength > _TINY, step / np.maximum(strength, _TINY), 1).astype(np.complex64)
        kept = self._states.get(first)
        out = np.empty_like(step)
        turn = kept if kept is not None else np.ones(step.shape[1], np.complex64)
        loud = np.abs(both)
        peaks = _peaks(loud)
        resets = self._resets(first, loud, peaks)
        for k in range(len(step)):
            if k:
                turn = (turn * step[k])[peaks[k + 1]]
            reset = resets.get(first + k)
            if reset is not None and not (k == 0 and kept is not None):
                turn = np.where(reset, np.complex64(1), turn)
            out[k] = turn
            self._keep(first + k, turn)
        return out

    def _keep(self, frame: int, turn: Turns) -> None:
        self._states[frame] = turn
        self._states.move_to_end(frame)
        while len(self._states) > _KEPT:
            self._states.popitem(last=False)

    def _resets(self, first: int, loud: Singles, peaks: Ints) -> dict[int, Bools]:
        """For frames in which an attack comes into sight: the bins that it fills."""
        out = {}
        # loud[0] is the frame before the first
        a, b = np.searchsorted(self._attacks, [first + 2, first + len(loud) - 2])
        for at in self._attacks[a:b].tolist():
            k = at - first + 1
            # the first frame that holds the attack; the one before it against the one that holds it whole
            after, before = loud[k + 1], loud[k - 3]
            # tones that beat rise and fall all the time: an attack makes the whole stronger
            if after.sum() > _LOUDER * before.sum():
                out[at - 2] = (after > _ROSE * before)[peaks[k + 1]]
        return out
