"""Small networks that were trained alike from other beginnings and whose answers are averaged.

Breiman (Machine Learning 24, 1996) on why averaging helps. Each has two hidden layers of rectified units.
"""

from __future__ import annotations

from typing import Any

import attrs
import numpy as np

from ..arrays import Floats, Singles

_MOST = 5.0


@attrs.frozen(eq=False)
class Nets:
    """What was learned: mean and spread of the figures, and for each net its weights and offsets, layer by layer."""

    mean: Singles
    spread: Singles
    layers: tuple[tuple[Singles, ...], ...]


def read(z: Any) -> Nets:
    """The networks in an opened .npz. Raises `KeyError` or `ValueError` where something is missing or damaged."""
    count = int(z["nets"])
    layers = tuple(tuple(z[f"{k}.{i}"].astype(np.float32) for i in range(6)) for k in range(count))
    return Nets(z["mean"], z["spread"], layers)


def answer(nets: Nets, figures: Singles) -> Floats:
    """What they say of each row of figures, (n, answers)."""
    z = np.clip((figures - nets.mean) / nets.spread, -_MOST, _MOST).astype(np.float32)
    out = np.zeros((len(z), len(nets.layers[0][-1])))
    for w1, b1, w2, b2, w3, b3 in nets.layers:
        hidden = np.maximum(0, np.maximum(0, z @ w1.T + b1) @ w2.T + b2)
        out += hidden @ w3.T + b3
    return out / len(nets.layers)
