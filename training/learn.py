"""Learning: crops of many takes, changed in key, colour and level, shown to the network for as long as asked."""

from __future__ import annotations

import ctypes
import math
import time
from pathlib import Path

import numpy as np
import torch
from numpy.random import Generator
from torch.nn import functional

from mervid.core.hearing.ear import TEMPI
from mervid.core.hearing.spectra import EAR_FPS, SCALE
from training import dataset
from training.network import Ear
from training.targets import change, spans, targets

CROP = 2048
BATCH = 8
WEIGHTS = {"beat": 1.0, "downbeat": 1.0, "section": 0.2, "drums": 0.05, "voice": 0.05}


def seen(path: Path) -> torch.Tensor:
    """The first frames of a take as the network is shown them: (1, 3, 72, `CROP` at most)."""
    features, _, _ = dataset.load(path.parent, path.name)
    return torch.from_numpy(features[:CROP].astype(np.float32) / SCALE).permute(2, 1, 0)[None]


class Takes:
    """All takes of a folder in memory, with their targets."""

    def __init__(self, folder: Path, names: list[str]) -> None:
        self.features, self.rows, self.tempi, self.families, self.truths = [], [], [], [], []
        self.known, self.tasks = [], []
        for name in names:
            features, truth, family = dataset.load(folder, name)
            rows, tempo = targets(truth, len(features))
            self.features.append(features)
            self.rows.append(np.rint(rows * 255).astype(np.uint8))
            self.tempi.append(np.rint(tempo * 255).astype(np.uint8))
            self.families.append(family)
            self.truths.append(truth)
            known = truth.get("known")
            self.known.append(None if known is None else spans(known, len(features)))
            self.tasks.append(truth.get("tasks", np.ones(len(WEIGHTS))).astype(np.float32))

    def batch(self, rng: Generator) -> tuple[torch.Tensor, torch.Tensor, torch.Tensor, torch.Tensor]:
        """Features (8, 3, 72, CROP), targets, tempo, and which answers are known, (8, 5, CROP)."""
        x = np.zeros((BATCH, CROP, 72, 3), np.float32)
        y = np.zeros((BATCH, 5, CROP), np.float32)
        z = np.zeros((BATCH, TEMPI, CROP), np.float32)
        there = np.zeros((BATCH, 5, CROP), np.float32)
        for i in range(BATCH):
            k = int(rng.integers(len(self.features)))
            n = len(self.features[k])
            start = int(rng.integers(0, max(1, n - CROP + 1)))
            part = slice(start, min(n, start + CROP))
            m = part.stop - part.start
            x[i, :m] = change(rng, self.features[k][part].astype(np.float32) / SCALE)
            y[i, :, :m] = self.rows[k][:, part] / np.float32(255)
            z[i, :, :m] = self.tempi[k][:, part] / np.float32(255)
            known = self.known[k]
            # where nothing is known, nothing is asked
            there[i, :, :m] = self.tasks[k][:, None] * (1.0 if known is None else known[part])
            z[i, :, :m] *= there[i, 0, :m]
        return (
            torch.from_numpy(x).permute(0, 3, 2, 1),
            torch.from_numpy(y),
            torch.from_numpy(z),
            torch.from_numpy(there),
        )


def loss(out: torch.Tensor, tempo: torch.Tensor, y: torch.Tensor, z: torch.Tensor, there: torch.Tensor) -> torch.Tensor:
    """Cross entropies of all tasks; what isn't known is left out."""
    each = functional.binary_cross_entropy_with_logits(out, y, reduction="none") * there
    weights = torch.tensor(list(WEIGHTS.values()))[None, :, None]
    known = z.sum(dim=1)
    speed = -(z * functional.log_softmax(tempo, dim=1)).sum(dim=1).sum() / known.sum().clamp(min=1)
    return (each * weights).sum() / there[:, 0].sum() + 0.03 * speed


def _computed() -> float:
    """Processor time of this process for each thread that computes, s."""
    return time.process_time() / torch.get_num_threads()


def _keep_memory() -> None:
    """Let the C library keep what is freed: handing it back and asking for it anew costs a fifth of every step."""
    m_mmap_max, m_trim_threshold = -4, -1
    mallopt = getattr(ctypes.CDLL(None), "mallopt", None)
    if mallopt:
        mallopt(m_mmap_max, 0)
        mallopt(m_trim_threshold, 2**31 - 1)


def learn(
    folder: Path,
    *,
    minutes: float,
    seed: int = 1,
    start: Path | None = None,
    out: Path,
    steps: int | None = None,
    rate: float | None = None,
) -> Ear:
    """Train for so many minutes of computing; the network's moving average is saved to `out`, at the end for good.

    Minutes are of processor time on all threads, so that other work on the machine costs no learning.

    Parameters
    ----------
    start : weights to go on from
    rate : the highest learning rate; by default half as high where there are weights to go on from
    """
    _keep_memory()
    torch.manual_seed(seed)
    rng = np.random.default_rng(seed)
    takes = Takes(folder, sorted(p.name for p in folder.glob("*.npz") if not p.name.endswith(".part.npz")))
    print(f"{len(takes.features)} takes, {sum(map(len, takes.features)) / EAR_FPS / 3600:.1f} h", flush=True)
    net, mean = Ear(), Ear()
    if start:
        net.load_state_dict(torch.load(start))
    mean.load_state_dict(net.state_dict())
    net = net.to(memory_format=torch.channels_last)
    top = rate or (2e-3 if start is None else 1e-3)
    optimiser = torch.optim.AdamW(net.parameters(), lr=top, weight_decay=0.01)
    began, step, running = _computed(), 0, 0.0
    while True:
        part = (_computed() - began) / (60 * minutes) if steps is None else step / steps
        if part >= 1:
            break
        now = top * min(1.0, (step + 1) / 200) * (0.5 + 0.5 * math.cos(math.pi * part)) + 1e-5
        for group in optimiser.param_groups:
            group["lr"] = now
        x, y, z, there = takes.batch(rng)
        net.train()
        value = loss(*net(x.to(memory_format=torch.channels_last)), y, z, there)
        optimiser.zero_grad()
        value.backward()
        torch.nn.utils.clip_grad_norm_(net.parameters(), 1.0)
        optimiser.step()
        step += 1
        running = 0.98 * running + 0.02 * value.item() if step > 1 else value.item()
        keep = min(0.999, step / (step + 10))
        with torch.no_grad():
            for p, q in zip(mean.state_dict().values(), net.state_dict().values(), strict=True):
                if p.dtype.is_floating_point:
                    p.lerp_(q, 1 - keep)
                else:
                    p.copy_(q)
        if step % 100 == 0:
            print(f"{(_computed() - began) / 60:5.1f} min  step {step}  loss {running:.4f}", flush=True)
        if step % 500 == 0:
            torch.save(mean.state_dict(), out)
    torch.save(mean.state_dict(), out)
    mean.eval()
    return mean
