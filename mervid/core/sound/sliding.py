"""A recording read forwards in slices, as if it lay in memory, while only a few seconds of it do.

What renders a whole recording anew asks for frames in order, with a short look back. Two hours then take no more memory
than two minutes.
"""

from __future__ import annotations

from collections.abc import Iterator
from types import EllipsisType

import numpy as np

from ..arrays import Samples, Singles
from . import decoding
from .decoding import Source

BACK = 1 << 19
"""Frames that are kept behind the last slice: nothing looks back further."""


class Sliding:
    """`samples[a:b]` of a recording that is decoded as it is asked for, stereo at most.

    Parameters
    ----------
    frames : its length, counted by an earlier decode

    Raises
    ------
    AudioError
        On reading: the file stops being readable.
    ValueError
        A slice lies before what is still kept.
    """

    dtype = np.dtype(np.float32)

    def __init__(self, source: Source, frames: int) -> None:
        self._blocks: Iterator[Samples] = iter(decoding.blocks(source, []))
        self._channels = min(2, source.channels)
        self._frames = frames
        self._held = np.zeros((0, self._channels), np.float32)
        self._first = 0

    @property
    def shape(self) -> tuple[int, int]:
        """(frames, channels)."""
        return self._frames, self._channels

    def __len__(self) -> int:
        return self._frames

    def __getitem__(self, part: slice | EllipsisType) -> Singles:
        if not isinstance(part, slice):
            raise TypeError("A recording that is read forwards can only be sliced.")
        start, stop, _ = part.indices(self._frames)
        if start < self._first:
            raise ValueError(f"Frame {start} has gone: what is kept begins at {self._first}.")
        more, end = [self._held], self._first + len(self._held)
        while end < stop:
            block = next(self._blocks, None)
            if block is None:
                # a file that was cut since it was counted ends in silence
                more.append(np.zeros((stop - end, self._channels), np.float32))
                break
            kept = np.nan_to_num(block[:, : self._channels], posinf=0.0, neginf=0.0)
            more.append(kept)
            end += len(kept)
        held = np.concatenate(more) if len(more) > 1 else self._held
        drop = max(0, start - BACK - self._first)
        if drop > BACK:
            held, self._first = held[drop:].copy(), self._first + drop
        self._held = held
        return held[start - self._first : stop - self._first]
