"""The network: a small convolutional front end over frequency, then dilated convolutions over time.

After Davies & Böck, "Temporal convolutional networks for musical audio beat tracking" (EUSIPCO 2019), and Böck &
Davies, "Deconstruct, analyse, reconstruct" (ISMIR 2020): two dilations a layer; beat, downbeat and tempo learned
together. Section starts, percussion and voice are learned beside them. It sees about 20 s to either side.
"""

from __future__ import annotations

import torch
from torch import Tensor, nn

from mervid.core.hearing.ear import TEMPI
from mervid.core.hearing.spectra import CHANNELS

FRONT = (32, 48)
WIDTH = 48
DILATIONS = (1, 2, 4, 8, 16, 32, 64, 128)
KERNEL = 5
OUTPUTS = ("beat", "downbeat", "section", "drums", "voice")


class Layer(nn.Module):
    """Two dilated convolutions side by side, joined, added to what came in."""

    def __init__(self, width: int, dilation: int) -> None:
        super().__init__()
        self.near = nn.Conv1d(width, width // 2, KERNEL, dilation=dilation, padding=2 * dilation)
        self.far = nn.Conv1d(width, width // 2, KERNEL, dilation=2 * dilation, padding=4 * dilation)
        self.norm = nn.BatchNorm1d(width)
        self.act = nn.ReLU()
        self.drop = nn.Dropout1d(0.1)
        self.join = nn.Conv1d(width, width, 1)

    def forward(self, x: Tensor) -> Tensor:
        y = torch.cat([self.near(x), self.far(x)], dim=1)
        return x + self.join(self.drop(self.act(self.norm(y))))


class Ear(nn.Module):
    """(batch, 3, 72, frames) features in 0 to 1 give (batch, 5, frames) logits and (batch, 32, frames) of tempo."""

    def __init__(self, width: int = WIDTH) -> None:
        super().__init__()
        a, b = FRONT
        self.one = nn.Conv2d(CHANNELS, a, (5, 3), stride=(3, 1), padding=1, bias=False)
        self.one_norm = nn.BatchNorm2d(a)
        self.two = nn.Conv2d(a, b, (5, 3), stride=(3, 1), padding=1, bias=False)
        self.two_norm = nn.BatchNorm2d(b)
        self.three = nn.Conv2d(b, width, (8, 1), bias=False)
        self.three_norm = nn.BatchNorm2d(width)
        self.act = nn.ReLU()
        self.drop = nn.Dropout(0.1)
        self.layers = nn.ModuleList(Layer(width, d) for d in DILATIONS)
        self.heads = nn.Conv1d(width, len(OUTPUTS), 1)
        self.tempo = nn.Conv1d(width, TEMPI, 1)

    def forward(self, x: Tensor) -> tuple[Tensor, Tensor]:
        x = self.act(self.one_norm(self.one(x)))
        x = self.act(self.two_norm(self.two(x)))
        x = self.act(self.three_norm(self.three(x))).squeeze(2)
        x = self.drop(x)
        for layer in self.layers:
            x = layer(x)
        x = self.act(x)
        return self.heads(x), self.tempo(x)
