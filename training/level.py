"""Learn which level to count at: `python -m training.level TAKES [--ear WEIGHTS]`, on takes the ear did not learn from.

Every take is heard; the reading of the beats found that agrees with the truth is the right one. A softmax over linear
scores of the readings is fitted (ridge penalty; Newton-like L-BFGS), judged by five-fold cross-validation, and written.
"""

from __future__ import annotations

import argparse
from collections import Counter
from functools import partial
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from mervid.core.hearing import bar_pointer, count_level, ear
from mervid.core.hearing.count_level import FEATURES, KINDS, LEAST, READINGS, describe, read_as
from mervid.core.hearing.ear import Strengths
from training import dataset
from training.spread import spread

Floats = NDArray[np.float64]
RIDGE = 0.004
RIGHT = 0.8


def hear(weights: Path, path: Path) -> tuple[Floats, int] | None:
    """The lesson of a take of `training.dataset`."""
    features, truth, _ = dataset.load(path.parent, path.name)
    return lesson(ear.load(weights).hear(features), truth["beats"])


def lesson(heard: Strengths, ref: Floats) -> tuple[Floats, int] | None:
    """Features of every reading of a take, (readings, FEATURES), nan where it is too fast or slow; the right one.

    None where no reading is right.
    """
    import mir_eval

    if len(ref) < LEAST:
        return None
    times = bar_pointer.beats(heard)
    inside = times[(times > ref[0] - 0.3) & (times < ref[-1] + 0.3)]
    if len(inside) < LEAST:
        return None
    scores = [mir_eval.beat.f_measure(ref, read_as(inside, r), 0.07) for r in READINGS]
    right = 0 if scores[0] > RIGHT else int(np.argmax(scores))
    if scores[right] < RIGHT:
        return None
    rows = describe(heard, times)
    return None if np.isnan(rows[right]).any() else (rows, right)


def _scores(p: Floats, rows: Floats) -> Floats:
    bias = np.array([p[FEATURES + r.kind] for r in READINGS])
    scores = np.where(np.isnan(rows[..., 0]), -1e9, np.nan_to_num(rows) @ p[:FEATURES] + bias)
    return scores - scores.max(axis=1, keepdims=True)


def chances(p: Floats, rows: Floats) -> Floats:
    """Chance of each reading: (takes, readings)."""
    shares = np.exp(_scores(p, rows))
    return np.asarray(shares / shares.sum(axis=1, keepdims=True))


def fit(rows: Floats, right: NDArray[np.int64]) -> Floats:
    """Weights and biases, (FEATURES + KINDS,), of features of unit spread."""
    from scipy.optimize import minimize

    n = len(right)
    known = np.nan_to_num(rows)

    def loss(p: Floats) -> tuple[float, Floats]:
        q = chances(p, rows)
        value = -np.log(q[np.arange(n), right] + 1e-12).mean() + RIDGE / 2 * (p[:FEATURES] @ p[:FEATURES])
        q[np.arange(n), right] -= 1
        slope = np.zeros(len(p))
        slope[:FEATURES] = np.einsum("ij,ijk->k", q, known) / n + RIDGE * p[:FEATURES]
        for k, r in enumerate(READINGS):
            slope[FEATURES + r.kind] += q[:, k].sum() / n
        return float(value), slope

    return np.asarray(minimize(loss, np.zeros(FEATURES + KINDS), jac=True, method="L-BFGS-B").x)


def learn(path: Path, found: list[tuple[Floats, int]]) -> None:
    """Fit, judge, write to `path`."""
    rows, right = np.array([r[0] for r in found]), np.array([r[1] for r in found])
    mean, size = (f(rows.reshape(-1, FEATURES), axis=0) for f in (np.nanmean, np.nanstd))
    even = (rows - mean) / size
    fold = np.arange(len(right)) % 5
    said = np.concatenate([chances(fit(even[fold != k], right[fold != k]), even[fold == k]) for k in range(5)])
    truth = np.concatenate([right[fold == k] for k in range(5)])
    print(f"{len(right)} takes; right reading: {dict(Counter(READINGS[k].name for k in right.tolist()))}")
    for least in (0.5, 0.6, 0.7, 0.8):
        picked = np.where(said[:, 1:].max(axis=1) > least, said.argmax(axis=1), 0)
        mended, broken = ((picked == truth) & (truth != 0)).sum(), ((picked != 0) & (truth == 0)).sum()
        print(f"  changed above {least}: {mended} mended, {broken} broken, right in {(picked == truth).mean():.4f}")
    for a, b in ((0, 0.5), (0.5, 0.8), (0.8, 0.95), (0.95, 1.01)):
        part = (said[:, 0] >= a) & (said[:, 0] < b)
        if part.any():
            print(
                f"  said {said[part, 0].mean():.2f}: right as found in {(truth[part] == 0).mean():.2f} of {part.sum()}"
            )
    p = fit(even, right)
    weights = p[:FEATURES] / size
    # what is taken off every reading alike changes nothing
    np.savez(path, format=np.array(count_level.FORMAT), weights=weights, bias=p[FEATURES:])
    print(f"written: {path}")


def main() -> int:
    """Hear, fit, judge, write."""
    parser = argparse.ArgumentParser(prog="python -m training.level", description=__doc__.split("\n")[0])
    parser.add_argument("takes", type=Path)
    parser.add_argument("--ear", type=Path, default=ear.WEIGHTS)
    parser.add_argument("--out", type=Path, default=count_level.WEIGHTS)
    options = parser.parse_args()
    paths = sorted(p for p in options.takes.glob("*.npz") if not p.name.endswith(".part.npz"))
    learn(options.out, [r for r in spread(partial(hear, options.ear), paths) if r is not None])
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
