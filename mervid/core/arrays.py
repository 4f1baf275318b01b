"""The types of arrays, once: what the numbers are, not what they mean. Shapes and units stand with each use."""

from __future__ import annotations

import io
import lzma
from typing import Any

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
"""float64: times in s, beats, figures."""
Singles = NDArray[np.float32]
"""float32: features of the sound, strengths."""
Samples = NDArray[np.float32]
"""float32 sound, (frames,) or (frames, channels), full scale is 1."""
Ints = NDArray[np.int64]
Bools = NDArray[np.bool_]


_BYTES = ({"id": lzma.FILTER_LZMA2, "preset": 6 | lzma.PRESET_EXTREME, "lc": 4, "lp": 0, "pb": 0},)
"""What is kept is bytes that follow each other, not machine words: four bits of the byte before tell most."""
_ZIP = b"PK"
_LONG = 4 << 20
"""Bytes of what was heard in some twenty minutes."""
_MOST = 1 << 30
"""No block of a recording that Mervid takes holds so many bytes."""


def packed(**arrays: NDArray[Any]) -> bytes:
    """Arrays as one block, an .npz in one stream of LZMA: a quarter smaller than NumPy's own.

    Of a long recording NumPy's own is taken, which is read four times as fast: it opens at once like any other.
    """
    out = io.BytesIO()
    ordered = {name: np.asarray(array, order="C") for name, array in arrays.items()}
    if sum(array.nbytes for array in ordered.values()) > _LONG:
        np.savez_compressed(out, allow_pickle=False, **ordered)
        return out.getvalue()
    np.savez(out, allow_pickle=False, **ordered)
    return lzma.compress(out.getvalue(), filters=_BYTES)


def unpacked(blob: bytes) -> dict[str, NDArray[Any]]:
    """Inverse of `packed`; also of blocks of before, where each array was compressed by itself.

    Raises
    ------
    Exception
        Of many kinds, where the block is damaged: whoever reads one says what it was.
    """
    if not blob.startswith(_ZIP):
        stream = lzma.LZMADecompressor(lzma.FORMAT_XZ)
        blob = stream.decompress(blob, _MOST)
        if not stream.eof:
            raise ValueError("it ends early")
    with np.load(io.BytesIO(blob), allow_pickle=False) as box:
        return dict(box)
