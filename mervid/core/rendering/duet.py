"""Two recordings as one: each on the clock of the mix, faded, shared out in bands, and added.

A `Duet` is a value that any output can pull frames from, like a recording; what is computed on the way is kept in
chunks, so that a change of fades or a solo costs nothing. The written mix comes from here as well as the one heard.
"""

from __future__ import annotations

from collections import OrderedDict
from functools import cached_property
from typing import Any

import attrs
import numpy as np

from ..arrays import Floats, Singles
from ..pairs.clock import Together
from ..pairs.meeting import CUT, EQUAL_POWER, MOST_GAIN_DB, STRAIGHT, Meeting, Tone
from ..sound.decoding import Kept
from . import bands
from .held_pitch import HeldPitch
from .varispeed import between, instants

CHUNK = 8192
"""Frames that are rendered at once."""
HEADROOM_DB = -5.0
"""Both are turned down by this, so that they may sound together."""
NEITHER, LEAVING, COMING = "", "leaving", "coming"
_CHUNKS_KEPT, _STREAMS_KEPT = 6, 6
_STEP_S = 0.005
"""A cut is so short a fade: a step in a wave would click."""
_SWAP_S = 0.25
"""Low sound changes hands within so long."""


@attrs.frozen(eq=False)
class Part:
    """One of the two recordings.

    Attributes
    ----------
    samples : (frames, channels) at `rate` Hz
    own, mix : (n,) the joined lines that tie it to the mix, s
    attacks : (k,) instants at which it is struck, s: there its pitch is held without a smear
    lufs : how loud it is; None where that isn't known
    """

    samples: Kept
    rate: int
    own: Floats
    mix: Floats
    attacks: Floats
    lufs: float | None = None


class _Stream:
    """One recording on the clock of the mix, rendered in chunks; its bands where they are asked for."""

    def __init__(self, part: Part, rate: int, hold: bool) -> None:
        self._part, self._rate = part, rate
        speeds = np.diff(part.own) / np.diff(part.mix)
        # a track that runs at its own speed needs no other clock
        held = hold and bool(np.abs(speeds - 1).max() > 1e-9)
        self._held = HeldPitch(part.samples, part.rate, rate, part.own, part.mix, part.attacks) if held else None
        self._chunks: OrderedDict[tuple[str, int], Any] = OrderedDict()

    def _make(self, index: int) -> Singles:
        start = index * CHUNK
        if self._held is not None:
            return self._held.read(start, CHUNK)
        p = self._part
        return between(p.samples, instants(p.own, p.mix, self._rate, start, CHUNK) * p.rate)

    def _split(self, index: int) -> tuple[Singles, Singles]:
        around = bands.reach(self._rate)
        return bands.split(self.read(index * CHUNK - around, CHUNK + 2 * around), self._rate)

    def _kept(self, kind: str, index: int) -> Any:
        key = (kind, index)
        if key not in self._chunks:
            self._chunks[key] = self._make(index) if kind == "whole" else self._split(index)
            while len(self._chunks) > 2 * _CHUNKS_KEPT:
                self._chunks.popitem(last=False)
        self._chunks.move_to_end(key)
        return self._chunks[key]

    def _pieces(self, kind: str, start: int, count: int) -> list[tuple[Any, slice]]:
        out = []
        for index in range(start // CHUNK, (start + count - 1) // CHUNK + 1):
            a, b = max(start, index * CHUNK), min(start + count, (index + 1) * CHUNK)
            out.append((self._kept(kind, index), slice(a - index * CHUNK, b - index * CHUNK)))
        return out

    def read(self, start: int, count: int) -> Singles:
        """Frames of the mix, (count, 2)."""
        return np.concatenate([chunk[part] for chunk, part in self._pieces("whole", start, count)])

    def low_and_high(self, start: int, count: int) -> tuple[Singles, Singles]:
        """The low and the high band of those frames."""
        pieces = self._pieces("bands", start, count)
        low, high = (np.concatenate([chunk[i][part] for chunk, part in pieces]) for i in (0, 1))
        return low, high


_streams: OrderedDict[Any, _Stream] = OrderedDict()
"""Kept from one duet to the next: a change of fades is another duet of the same two streams."""


def _stream(part: Part, rate: int, hold: bool) -> _Stream:
    name = getattr(part.samples, "filename", None) or id(part.samples)
    key = (str(name), len(part.samples), rate, hold, part.own.tobytes(), part.mix.tobytes(), part.attacks.tobytes())
    if key not in _streams:
        _streams[key] = _Stream(part, rate, hold)
        while len(_streams) > _STREAMS_KEPT:
            _streams.popitem(last=False)
    _streams.move_to_end(key)
    return _streams[key]


def gain_of(law: str, x: Floats) -> Floats:
    """How loud something is that fades in by a law, `x` of the way (below 0 not yet, above 1 all of it).

    Examples
    --------
    >>> gain_of(EQUAL_POWER, np.array([-1.0, 0.5, 2.0])).round(3).tolist()
    [0.0, 0.707, 1.0]
    """
    x = np.clip(x, 0.0, 1.0)
    if law == EQUAL_POWER:
        return np.asarray(np.sin(x * np.pi / 2))
    return np.asarray(x if law == STRAIGHT else (x > 0).astype(float))


@attrs.frozen(eq=False)
class Duet:
    """Two recordings laid over each other, as frames at `rate` Hz.

    Attributes
    ----------
    start, stop : the overlap, s of the mix
    swap : s of the mix at which low sound changes hands; None for no such thing
    length : of the mix, s
    split : the leaving track left, the coming one right, both as loud as they are
    solo : which of the two sounds alone; `NEITHER` for both
    """

    leaving: Part
    coming: Part
    meeting: Meeting
    rate: int
    start: float
    stop: float
    length: float
    swap: float | None = None
    split: bool = False
    solo: str = NEITHER

    def __len__(self) -> int:
        return int(self.length * self.rate)

    @cached_property
    def _gains(self) -> tuple[float, float]:
        level = 10 ** (HEADROOM_DB / 20)
        a, b = self.leaving.lufs, self.coming.lufs
        if not self.meeting.match or a is None or b is None:
            return level, level
        return level, level * 10 ** (float(np.clip(a - b, -MOST_GAIN_DB, MOST_GAIN_DB)) / 20)

    def read(self, start: int, count: int) -> Singles:
        """Frames `start` to `start + count`, (count, 2); silence outside the mix."""
        out = np.zeros((count, 2), np.float32)
        time = np.arange(start, start + count) / self.rate
        for which, part, envelope, tone in (
            (LEAVING, self.leaving, self._out(time), self.meeting.leaving_tone),
            (COMING, self.coming, self._in(time), self.meeting.coming_tone),
        ):
            if self.solo not in (NEITHER, which) or not envelope.any():
                continue
            stream = _stream(part, self.rate, self.meeting.hold_pitch)
            if self.split:
                out[:, int(which == COMING)] = stream.read(start, count).mean(axis=1) * envelope
            else:
                out += self._shaped(stream, start, count, tone, self._low(time, which)) * envelope[:, None]
        inside = (time >= 0) & (time < self.length)
        return out if inside.all() else out * inside[:, None].astype(np.float32)

    @property
    def _plain(self) -> bool:
        """Whether fades and bands are left out: what is looked into is heard as it is."""
        return self.split or self.solo != NEITHER

    def _in(self, time: Floats) -> Singles:
        """How loud the coming track is."""
        if self._plain or self.meeting.fade_in == CUT:
            gain = np.clip((time - self.start) / _STEP_S + 1, 0, 1)
        else:
            gain = gain_of(self.meeting.fade_in, (time - self.start) / (self.stop - self.start) * 2)
        return np.asarray(gain * self._gains[1], np.float32)

    def _out(self, time: Floats) -> Singles:
        """How loud the leaving track is."""
        if self._plain or self.meeting.fade_out == CUT:
            gain = np.clip((self.stop - time) / _STEP_S, 0, 1)
        else:
            gain = gain_of(self.meeting.fade_out, (self.stop - time) / (self.stop - self.start) * 2)
        return np.asarray(gain * self._gains[0], np.float32)

    def _low(self, time: Floats, which: str) -> Floats | None:
        """How much of the low band of one of them sounds; None for all of it."""
        if self.swap is None or self._plain:
            return None
        given = gain_of(EQUAL_POWER, (time - self.swap) / _SWAP_S + 0.5)
        kept = gain_of(EQUAL_POWER, (self.swap - time) / _SWAP_S + 0.5)
        return kept if which == LEAVING else given

    def _shaped(self, stream: _Stream, start: int, count: int, tone: Tone, low: Floats | None) -> Singles:
        whole = stream.read(start, count)
        if self._plain or (tone.flat and (low is None or bool((low == 1).all()))):
            return whole
        below, above = stream.low_and_high(start, count)
        lows, mids, highs = (10 ** (db / 20) for db in attrs.astuple(tone))
        share = np.full(count, lows) if low is None else lows * low
        shaped = mids * whole + (share - mids)[:, None] * below + (highs - mids) * above
        return np.asarray(shaped, np.float32)


def duet_of(together: Together, leaving: Part, coming: Part, *, split: bool = False, solo: str = NEITHER) -> Duet:
    """The two recordings as they meet; `own` and `mix` of the parts are taken from `together`."""
    m = together.meeting
    swap = None
    if m.swap is not None:
        swap = float(together.clock.time_at(together.clock.bar_start(together.first_bar + m.swap)))
    return Duet(
        attrs.evolve(leaving, own=together.leaving.own, mix=together.leaving.mix),
        attrs.evolve(coming, own=together.coming.own, mix=together.coming.mix),
        m,
        max(leaving.rate, coming.rate),
        together.start,
        together.stop,
        together.length,
        swap,
        split,
        solo,
    )
