"""From the trained network to the weights the product ships: norms folded in, half precision, one .npz."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import torch
from torch import Tensor, nn

from mervid.core.hearing import ear
from training.network import DILATIONS, Ear


def _folded(conv: nn.Conv1d | nn.Conv2d, norm: nn.BatchNorm1d | nn.BatchNorm2d) -> tuple[Tensor, Tensor]:
    """Weights and bias of the convolution with its batch norm taken in (exact, as the norm comes after)."""
    assert norm.running_var is not None and norm.running_mean is not None
    scale = norm.weight / torch.sqrt(norm.running_var + norm.eps)
    shape = (-1,) + (1,) * (conv.weight.ndim - 1)
    return conv.weight * scale.reshape(shape), norm.bias - norm.running_mean * scale


def export(net: Ear, path: Path) -> None:
    """Write `net` for `mervid.core.ear`."""
    out: dict[str, np.ndarray] = {"format": np.array(ear.FORMAT), "dilations": np.array(DILATIONS)}

    def put(name: str, value: Tensor) -> None:
        out[name] = value.detach().numpy().astype(np.float16)

    with torch.no_grad():
        for k, (conv, norm) in enumerate(((net.one, net.one_norm), (net.two, net.two_norm))):
            w, b = _folded(conv, norm)
            # (out, in, band, frame) to rows in the order of frame, band, channel
            put(f"front{k}", w.permute(3, 2, 1, 0).reshape(-1, w.shape[0]))
            put(f"front{k}_bias", b)
        w, b = _folded(net.three, net.three_norm)
        put("front2", w[..., 0].permute(2, 1, 0).reshape(-1, w.shape[0]))
        put("front2_bias", b)
        for k, layer in enumerate(net.layers):
            scale = layer.norm.weight / torch.sqrt(layer.norm.running_var + layer.norm.eps)
            half = len(scale) // 2
            put(f"near{k}", (layer.near.weight * scale[:half, None, None]).permute(2, 1, 0))
            put(f"far{k}", (layer.far.weight * scale[half:, None, None]).permute(2, 1, 0))
            bias = torch.cat([layer.near.bias, layer.far.bias])
            put(f"bias{k}", (bias - layer.norm.running_mean) * scale + layer.norm.bias)
            put(f"join{k}", torch.cat([layer.join.weight[..., 0].T, layer.join.bias[None]]))
        put("heads", torch.cat([net.heads.weight[..., 0], net.tempo.weight[..., 0]]).T)
        put("heads_bias", torch.cat([net.heads.bias, net.tempo.bias]))
    out["calibration"] = np.array(ear.UNCALIBRATED, np.float32)
    path.parent.mkdir(parents=True, exist_ok=True)
    np.savez_compressed(path, **out)


def calibrate(path: Path, calibration: np.ndarray) -> None:
    """Put what the validation music taught about confidence into weights that were written before."""
    with np.load(path) as z:
        out = {name: z[name] for name in z.files}
    out["calibration"] = calibration.astype(np.float32)
    np.savez_compressed(path, **out)
    ear.load.cache_clear()
