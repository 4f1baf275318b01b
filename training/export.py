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


def restored(path: Path, heard: list[Tensor]) -> Ear:
    """The network that `export` wrote to `path`, to learn on.

    Its norms are gone there; they are set to what they would be by `heard`, (batch, 3, 72, frames) each.
    """
    with np.load(path) as z:
        known = {name: torch.from_numpy(z[name].astype(np.float32)) for name in z.files if name != "format"}
    net = Ear()
    norms = [net.one_norm, net.two_norm, net.three_norm, *(layer.norm for layer in net.layers)]
    seen: list[list[Tensor]] = [[] for _ in norms]
    with torch.no_grad():
        for k, conv in enumerate((net.one, net.two, net.three)):
            out, into, bands, frames = conv.weight.shape
            conv.weight.copy_(known[f"front{k}"].reshape(frames, bands, into, out).permute(3, 2, 1, 0))
            norms[k].bias.copy_(known[f"front{k}_bias"])
        for k, layer in enumerate(net.layers):
            layer.near.weight.copy_(known[f"near{k}"].permute(2, 1, 0))
            layer.far.weight.copy_(known[f"far{k}"].permute(2, 1, 0))
            layer.near.bias.zero_()
            layer.far.bias.zero_()
            layer.norm.bias.copy_(known[f"bias{k}"])
            layer.join.weight.copy_(known[f"join{k}"][:-1].T[..., None])
            layer.join.bias.copy_(known[f"join{k}"][-1])
        flags = len(net.heads.bias)
        for head, rows in ((net.heads, slice(None, flags)), (net.tempo, slice(flags, None))):
            head.weight.copy_(known["heads"].T[rows, :, None])
            head.bias.copy_(known["heads_bias"][rows])
        hooks = []
        for norm, sums in zip(norms, seen, strict=True):
            # changes nothing, until it is known what comes in
            norm.running_var.fill_(1 - norm.eps)
            hooks.append(norm.register_forward_pre_hook(lambda _, x, sums=sums: sums.append(_moments(x[0]))))
        net.eval()
        for x in heard:
            net(x)
        for hook, norm, sums in zip(hooks, norms, seen, strict=True):
            hook.remove()
            count, mean, square = torch.stack(sums).sum(dim=0)
            norm.running_mean.copy_(mean / count)
            norm.running_var.copy_(square / count - norm.running_mean**2)
            norm.bias.add_(norm.running_mean)
            norm.weight.copy_(torch.sqrt(norm.running_var + norm.eps))
    return net


def _moments(x: Tensor) -> Tensor:
    """Of each channel how many values, their sum and their squares': (3, channels)."""
    x = x.double().transpose(0, 1).flatten(1)
    return torch.stack([torch.full_like(x[:, 0], x.shape[1]), x.sum(dim=1), (x * x).sum(dim=1)])


def calibrate(path: Path, calibration: np.ndarray) -> None:
    """Put what the validation music taught about confidence into weights that were written before."""
    with np.load(path) as z:
        out = {name: z[name] for name in z.files}
    out["calibration"] = calibration.astype(np.float32)
    np.savez_compressed(path, **out)
    ear.load.cache_clear()
