"""A small network over beats, or bar lines: each one's answer from the figures of some dozens to either side.

Dilated convolutions as in the ear (Davies & Böck, EUSIPCO 2019), here over beats and not over frames: what counts is
how many beats away something is. `training/beats.py` and `training/boundary.py` make the weights, docs/hearing.md tells
from what.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from functools import cache
from pathlib import Path
from typing import Any
from zipfile import BadZipFile

import attrs
import numpy as np

from ..arrays import Floats, Singles

FORMAT = 1
LEAST = 16
"""Fewer beats are not judged."""
TAPS = 3
_CLIP = 5.0


@attrs.frozen(eq=False)
class Block:
    """Convolution `dilation` beats apart, (taps, width, width), then a matrix; added to what came in."""

    dilation: int
    across: Singles
    across_bias: Singles
    join: Singles
    join_bias: Singles


@attrs.frozen(eq=False)
class Layers:
    """What enters, the blocks, what is answered."""

    enter: tuple[Singles, Singles]
    blocks: tuple[Block, ...]
    answer: tuple[Singles, Singles]

    def answers(self, x: Singles) -> Singles:
        """(n,) from (n, figures) of unit spread."""
        x = np.maximum(x @ self.enter[0] + self.enter[1], 0)
        n = len(x)
        for b in self.blocks:
            padded = np.pad(x, ((b.dilation, b.dilation), (0, 0)))
            y = b.across_bias + sum(padded[k * b.dilation : k * b.dilation + n] @ b.across[k] for k in range(TAPS))
            x = x + np.maximum(y, 0) @ b.join + b.join_bias
        found: Singles = (np.maximum(x, 0) @ self.answer[0] + self.answer[1])[:, 0]
        return found


@attrs.frozen(eq=False)
class Net:
    """Mean and spread of the figures, and some networks that learned the same from other beginnings."""

    mean: Singles
    spread: Singles
    members: tuple[Layers, ...]

    def __call__(self, rows: Singles) -> Floats:
        """One number for each beat with (n, figures): (n,), the mean of what the members say."""
        x = even(rows, self.mean, self.spread)
        return np.mean([m.answers(x) for m in self.members], axis=0, dtype=np.float64)


def even(rows: Singles, mean: Singles, spread: Singles) -> Singles:
    """(n, figures) of unit spread, as networks read them."""
    return np.clip((rows - mean) / spread, -_CLIP, _CLIP)


def arrays(z: Mapping[str, Any], member: int, dilations: Sequence[int]) -> list[Singles]:
    """Those of one network in a file, as PyTorch orders and keeps them: (out, in, taps)."""
    return [z[f"{member}.{i}"].astype(np.float32) for i in range(4 + 4 * len(dilations))]


@cache
def load(path: Path, figures: int) -> Net | None:
    """The network in `path` that reads so many figures; None where it is missing, damaged or another one."""
    try:
        with np.load(path, allow_pickle=False) as z:
            if int(z["format"]) != FORMAT:
                return None
            dilations = [int(d) for d in z["dilations"]]
            members = tuple(_layers(z, k, dilations) for k in range(int(z["nets"])))
            mean, spread = z["mean"].astype(np.float32), z["spread"].astype(np.float32)
        net = Net(mean, spread, members)
        return net if np.isfinite(net(np.zeros((LEAST, figures), np.float32))).all() else None
    except (OSError, ValueError, KeyError, IndexError, EOFError, BadZipFile):
        return None


def _layers(z: Mapping[str, Any], member: int, dilations: list[int]) -> Layers:
    p = arrays(z, member, dilations)
    blocks = []
    for k, dilation in enumerate(dilations):
        across, across_bias, join, join_bias = p[2 + 4 * k : 6 + 4 * k]
        turned = np.ascontiguousarray(across.transpose(2, 1, 0))
        blocks.append(Block(dilation, turned, across_bias, join[..., 0].T, join_bias))
    return Layers((p[0][..., 0].T, p[1]), tuple(blocks), (p[-2][..., 0].T, p[-1]))
