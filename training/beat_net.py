"""Teach the networks of `mervid.core.hearing.beat_net`: what takes of beats, or songs of bar lines, are learned by.

Of each kind `NETS` are made from other beginnings; each stops by a sixth of the takes that is kept from it.
"""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Any

import attrs
import numpy as np
from numpy.typing import NDArray

from mervid.core.hearing import beat_net

Singles = NDArray[np.float32]
WIDTH, DROP = 48, 0.3
BATCH, LENGTH, RATE, DECAY, BLUR = 32, 192, 3e-3, 3e-2, 0.3
LEFT_OUT = 0.25
"""How often each part of the figures is left out of an example."""
KEPT, NETS, LOOK = 6, 3, 100
ON_STEPS, ON_RATE, ON_SHARE = 700, 8e-4, 0.7
"""Of networks that learn on: how long and how fast they do, and how much of what they become is taken."""


def _net(figures: int, width: int, dilations: tuple[int, ...]) -> Any:
    """The network of `mervid.core.hearing.beat_net`, to be learned."""
    import torch
    from torch import nn

    class Block(nn.Module):
        def __init__(self, dilation: int) -> None:
            super().__init__()
            self.across = nn.Conv1d(width, width, beat_net.TAPS, dilation=dilation, padding=dilation)
            self.join = nn.Conv1d(width, width, 1)
            self.drop = nn.Dropout(DROP)

        def forward(self, x: Any) -> Any:
            return x + self.join(self.drop(torch.relu(self.across(x))))

    blocks = (Block(d) for d in dilations)
    return nn.Sequential(nn.Conv1d(figures, width, 1), nn.ReLU(), *blocks, nn.ReLU(), nn.Conv1d(width, 1, 1))


@attrs.frozen(eq=False)
class Task:
    """What a network learns.

    Attributes
    ----------
    rows, targets, known : of each take, (n, figures), (n,) what is to be answered and (n,) where that is known
    dilations : of the network
    steps : how long it learns
    loss : of each answer, from answers and targets
    parts : figures that are left out together, now and then
    left_out : how often each is
    groups : which rows are of one take, where it has several
    odds : how often each of these is shown
    width : of the network
    """

    rows: list[Singles]
    targets: list[Singles]
    known: list[Singles]
    dilations: tuple[int, ...]
    steps: int
    loss: Callable[[Any, Any], Any]
    parts: tuple[tuple[int, int], ...] = ()
    left_out: float = LEFT_OUT
    groups: tuple[tuple[int, ...], ...] = ()
    odds: tuple[NDArray[np.float64], ...] = ()
    width: int = WIDTH

    def takes(self) -> tuple[tuple[int, ...], ...]:
        """Which rows belong to each take."""
        return self.groups or tuple((i,) for i in range(len(self.rows)))

    def example(self, rng: np.random.Generator, take: int) -> tuple[Singles, ...]:
        """Some beats of a take: rows, targets, known; `LENGTH` each."""
        if self.groups:
            take = int(rng.choice(self.groups[take], p=self.odds[take]))
        whole = (self.rows[take], self.targets[take], self.known[take])
        n = len(whole[1])
        a = int(rng.integers(0, max(1, n - LENGTH // 2)))
        m = min(LENGTH, n - a)
        out = tuple(np.zeros((LENGTH, *v.shape[1:]), np.float32) for v in whole)
        for to, of in zip(out, whole, strict=True):
            to[:m] = of[a : a + m]
        out[0][:m] += BLUR * rng.standard_normal((m, out[0].shape[1])).astype(np.float32)
        for first, last in self.parts:
            if rng.random() < self.left_out:
                out[0][:, first:last] = 0
        return out


def learn(task: Task) -> dict[str, NDArray[Any]]:
    """Networks as they are shipped, by number of the network and of the array."""
    heap = np.concatenate(task.rows)
    out = {"format": np.array(beat_net.FORMAT), "nets": np.array(NETS), "dilations": np.array(task.dilations)}
    out |= {"mean": heap.mean(axis=0), "spread": heap.std(axis=0) + 1e-3}
    even = _even(task, out)
    for k in range(NETS):
        out |= {f"{k}.{i}": p for i, p in enumerate(_member(even, k))}
    return out


def learn_on(task: Task, known: dict[str, NDArray[Any]]) -> dict[str, NDArray[Any]]:
    """What networks that are shipped become by more takes, without losing what they `known` of others.

    They learn on slowly, and between what they were and what they are then, `ON_SHARE` of the way is gone (Wortsman et
    al., "Robust fine-tuning of zero-shot models", CVPR 2022; from memory).
    """
    out, even = dict(known), attrs.evolve(_even(task, known), steps=ON_STEPS)
    for k in range(int(known["nets"])):
        old = beat_net.arrays(known, k, task.dilations)
        for i, (before, after) in enumerate(zip(old, _member(even, k, old), strict=True)):
            out[f"{k}.{i}"] = (before + ON_SHARE * (after.astype(np.float32) - before)).astype(np.float16)
    return out


def _even(task: Task, known: dict[str, NDArray[Any]]) -> Task:
    """The task with figures of unit spread."""
    rows = [beat_net.even(x, known["mean"], known["spread"]).astype(np.float32) for x in task.rows]
    return attrs.evolve(task, rows=rows)


def _member(task: Task, number: int, begun: list[Singles] | None = None) -> list[NDArray[np.float16]]:
    """One network, as it was when the takes kept back from it were told best; it goes on where another had `begun`."""
    import torch

    torch.manual_seed(number)
    rng = np.random.default_rng(number)
    takes_ = np.arange(len(task.takes()))
    shown = takes_[takes_ % KEPT != number]
    kept = [i for take in takes_[takes_ % KEPT == number] for i in task.takes()[take]]
    net = _net(task.rows[0].shape[1], task.width, task.dilations)
    if begun:
        with torch.no_grad():
            for p, was in zip(net.parameters(), begun, strict=True):
                p.copy_(torch.tensor(was))
    rate = ON_RATE if begun else RATE
    steps = torch.optim.AdamW(net.parameters(), lr=rate, weight_decay=DECAY)

    def loss(parts: list[Any]) -> Any:
        x, y, w = (torch.tensor(np.stack(v)) for v in parts)
        return (task.loss(net(x.transpose(1, 2))[:, 0], y) * w).sum() / w.sum().clamp(min=1)

    best, out = np.inf, list[NDArray[np.float16]]()
    for k in range(1, task.steps + 1):
        for group in steps.param_groups:
            group["lr"] = rate * min(1.0, k / LOOK) * (0.02 + 0.49 * (1 + np.cos(np.pi * k / task.steps)))
        net.train()
        cost = loss(list(zip(*(task.example(rng, int(rng.choice(shown))) for _ in range(BATCH)), strict=True)))
        steps.zero_grad()
        cost.backward()
        steps.step()
        if k % LOOK:
            continue
        net.eval()
        with torch.no_grad():
            parts = ([[v[i]] for v in (task.rows, task.targets, task.known)] for i in kept)
            now = float(np.mean([loss(p).item() for p in parts]))
        if now < best:
            best, out = now, [p.detach().numpy().astype(np.float16) for p in net.parameters()]
    print(f"  network {number}: shown {cost.item():.4f}, kept {best:.4f}", flush=True)
    return out


def yes_or_no() -> Callable[[Any, Any], Any]:
    """The loss of each answer that is a chance, from log odds."""
    from torch.nn.functional import binary_cross_entropy_with_logits

    return partial(binary_cross_entropy_with_logits, reduction="none")
