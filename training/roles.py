"""Teach what phrases are for: `python -m training.roles FOLDER` after `python -m training.boundary --work FOLDER ...`.

The songs are those that were rendered and heard there. Each phrase that Mervid finds under its own grid gets the kind
of the section that most of it lies in; small networks learn kinds from its figures, one of them from those of places
alone, and which kinds follow each other is counted for each style of form. Songs of `composer.form` have no habits of
form, so they teach sound alone. How much the moves count and the heat that makes chances true (Guo et al., ICML 2017)
are chosen on songs kept from the networks.
"""

from __future__ import annotations

import argparse
import itertools
import json
import sys
from pathlib import Path
from typing import Any

import attrs
import numpy as np
from numpy.typing import NDArray

from mervid.core.form import labelling, role_features, role_model, segmentation, small_nets
from mervid.core.form.role_model import KINDS, STYLES, Model
from mervid.core.form.small_nets import Nets
from training import boundary
from training.spread import spread

HIDDEN, DROP, ROUNDS, BATCH, RATE, DECAY = (48, 24), 0.4, 80, 128, 2e-3, 3e-2
MISSED = 0.6
"""A phrase of which less lies in one section has no kind."""
FOLDS, NETS = 5, 2
EVEN = 0.3
"""How far songs of rare styles count more: 0 not at all, 1 until all styles count alike."""
LEAST = 0.02
"""Chance of a move that was never seen, spread over all kinds."""


@attrs.frozen(eq=False)
class Lesson:
    """A song: figures of its phrases, what habit says of them, the kind of each, and its style (-1 for none)."""

    rows: NDArray[np.float32]
    argued: NDArray[np.float64]
    kinds: NDArray[np.int64]
    sung: bool
    style: int


def style_of(alike: list[str], kinds: list[str]) -> int:
    """By the names that `training.forms` gives; -1 for a song of `composer.form`."""
    if {"groove", "drop"} & set(alike):
        return STYLES.index("dance")
    if "hook" in alike:
        return STYLES.index("hip-hop")
    if "vamp" in alike:
        return STYLES.index("long vamps")
    if set(alike) <= {"intro", "verse", "chorus", "break"} and not any(k.endswith("+") for k in kinds):
        return -1
    return STYLES.index("song with a hook")


def lesson(path: Path) -> Lesson | None:
    """A song as Mervid divides it."""
    song = boundary.follow(path)
    if song is None:
        return None
    truth = json.loads(path.with_suffix(".json").read_text())
    found = segmentation.outline(song.bars)
    p = role_features.describe(song.bars, found)
    times = song.bars.times[found.edges]
    names = [k.rstrip("+") for k in truth["kinds"]]
    starts = np.append(truth["starts"], np.inf)
    kinds = []
    for a, b in itertools.pairwise(times):
        share = np.zeros(len(KINDS))
        for name, s, e in zip(names, starts[:-1], starts[1:], strict=True):
            share[KINDS.index(name)] += max(0.0, min(b, e) - max(a, s))
        kinds.append(int(share.argmax()) if share.max() > MISSED * (b - a) else -1)
    style = style_of(truth["alike"], truth["kinds"])
    argued = labelling.arguments(p)
    rows = role_features.figures(p, song.bars, found, argued)
    return Lesson(rows, labelling.of_kinds(argued), np.array(kinds), p.sung, style)


def moves_of(lessons: list[Lesson]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Log chances of moves in each style; and of the styles of what has no voice and of what is sung.

    All styles are as likely before that is heard, since nobody's box is as the renderer draws.
    """
    n = len(KINDS)
    count = np.zeros((len(STYLES), n + 1, n + 1))
    for one in lessons:
        kinds = one.kinds[one.kinds >= 0]
        if one.style < 0 or not len(kinds):
            continue
        row = [n, *kinds.tolist(), n]
        for a, b in itertools.pairwise(row):
            count[one.style, a, b] += 1
    chance = count / np.maximum(count.sum(axis=2, keepdims=True), 1)
    chance = (1 - LEAST) * chance + LEAST / n
    chance[:, n, n] = 1e-6
    known = [(one.style, one.sung) for one in lessons if one.style >= 0]
    voiced = np.array([[sum(k == (s, sung) for k in known) + 1 for s in range(len(STYLES))] for sung in (False, True)])
    share = voiced / voiced.sum(axis=0)
    return np.log(chance), np.log(share / share.sum(axis=1, keepdims=True))


def network(lessons: list[Lesson], seed: int) -> tuple[dict[str, NDArray[Any]], list[NDArray[np.float32]]]:
    """Mean and spread of the figures, and the six arrays of a network."""
    import torch
    from torch import nn

    torch.manual_seed(seed)
    x = np.concatenate([one.rows[one.kinds >= 0] for one in lessons])
    y = torch.tensor(np.concatenate([one.kinds[one.kinds >= 0] for one in lessons]))
    songs = np.bincount([one.style + 1 for one in lessons], minlength=len(STYLES) + 1)
    # few songs are dance music: each style is to be learned as well as any other
    weight = np.concatenate([np.full((one.kinds >= 0).sum(), songs[one.style + 1] ** -EVEN) for one in lessons])
    counts = torch.tensor((weight / weight.mean()).astype(np.float32))
    mean, width = x.mean(axis=0), x.std(axis=0) + 1e-3
    z = torch.tensor(np.clip((x - mean) / width, -5, 5).astype(np.float32))
    a, b = HIDDEN
    net = nn.Sequential(
        nn.Linear(x.shape[1], a), nn.ReLU(), nn.Dropout(DROP), nn.Linear(a, b), nn.ReLU(), nn.Linear(b, len(KINDS))
    )
    steps = torch.optim.AdamW(net.parameters(), lr=RATE, weight_decay=DECAY)
    net.train()
    for _ in range(ROUNDS):
        for part in torch.randperm(len(z)).split(BATCH):
            each = net(z[part] + 0.1 * torch.randn(len(part), x.shape[1]))
            cost = (nn.functional.cross_entropy(each, y[part], reduction="none") * counts[part]).mean()
            steps.zero_grad()
            cost.backward()
            steps.step()
    return {"mean": mean, "spread": width}, [p.detach().numpy().astype(np.float16) for p in net.parameters()]


def usual_of(lessons: list[Lesson]) -> NDArray[np.float64]:
    """Log share of each kind among the phrases."""
    kinds = np.concatenate([one.kinds[one.kinds >= 0] for one in lessons])
    return np.log((np.bincount(kinds, minlength=len(KINDS)) + 1) / (len(kinds) + len(KINDS)))


def model_of(lessons: list[Lesson], seeds: range) -> Model:
    """A model of these lessons, with a network for each seed; heat and count are still to be chosen."""
    moves, styles = moves_of(lessons)
    made = [network(lessons, seed) for seed in seeds]
    nets = tuple(tuple(w.astype(np.float32) for w in layers) for _, layers in made)
    parts = made[0][0]
    return Model(Nets(parts["mean"], parts["spread"], nets), moves, styles, usual_of(lessons), 1.0, 1.0)


def judge(judged: list[tuple[Model, Lesson]], heat: float, count: float) -> tuple[float, float]:
    """Mean log loss and share right, over phrases with a kind."""
    loss, right, n = 0.0, 0, 0
    for model, one in judged:
        scaled = attrs.evolve(model, heat=heat, count=count)
        chances, _ = role_model.smooth(scaled, small_nets.answer(model.nets, one.rows) + one.argued, sung=one.sung)
        known = np.flatnonzero(one.kinds >= 0)
        loss -= float(np.log(np.maximum(chances[known, one.kinds[known]], 1e-6)).sum())
        right += int((chances[known].argmax(axis=1) == one.kinds[known]).sum())
        n += len(known)
    return loss / n, right / n


def learn(lessons: list[Lesson]) -> dict[str, NDArray[Any]]:
    """The weights as they are shipped; heat and count by songs that the network of a fold wasn't shown."""
    judged: list[tuple[Model, Lesson]] = []
    for k in range(FOLDS):
        shown = [one for i, one in enumerate(lessons) if i % FOLDS != k]
        model = model_of(shown, range(2 * k, 2 * k + 2))
        judged += [(model, one) for i, one in enumerate(lessons) if i % FOLDS == k and one.style >= 0]
    best = min(
        ((heat, count) for heat in (1.5, 2.0, 2.5, 3.0, 4.0) for count in (0.0, 0.3, 0.5, 0.7, 1.0)),
        key=lambda c: judge(judged, *c)[0],
    )
    for name, (heat, count) in (("each by itself", (best[0], 0.0)), ("with moves", best)):
        loss, right = judge(judged, heat, count)
        print(f"  {name}: heat {heat}, moves count {count}: log loss {loss:.3f}, right {right:.3f}")
    return shipped(model_of(lessons, range(NETS)), *best)


def shipped(model: Model, heat: float, count: float) -> dict[str, NDArray[Any]]:
    """A model as it lies on the disk."""
    nets = model.nets
    out: dict[str, NDArray[Any]] = {"mean": nets.mean, "spread": nets.spread, "nets": np.array(len(nets.layers))}
    out |= {"moves": model.moves, "styles": model.styles, "usual": model.usual, "scales": np.array((heat, count))}
    return out | {f"{k}.{i}": w.astype(np.float16) for k, net in enumerate(nets.layers) for i, w in enumerate(net)}


def main() -> int:
    """Learn from the songs in a folder."""
    parser = argparse.ArgumentParser(prog="python -m training.roles", description=__doc__.split("\n")[0])
    parser.add_argument("work", type=Path, help="the folder of python -m training.boundary")
    parser.add_argument("--out", type=Path, default=role_model.WEIGHTS.parent, help="the folder of the weights")
    options = parser.parse_args()
    paths = sorted(options.work.glob("*.ev"))
    if not paths:
        print(f"training: {options.work} holds no songs", file=sys.stderr)
        return 2
    lessons = [one for one in spread(lesson, paths, most_each=200) if one is not None]
    print(f"{len(lessons)} songs, {sum(int((one.kinds >= 0).sum()) for one in lessons)} phrases")
    for path, read in ((role_model.WEIGHTS, role_features.PLACES), (role_model.WEIGHTS_SUNG, role_features.COUNT)):
        print(path.name)
        cut = [attrs.evolve(one, rows=one.rows[:, :read]) for one in lessons]
        np.savez_compressed(options.out / path.name, **learn(cut))
    return 0


if __name__ == "__main__":
    sys.exit(main())
