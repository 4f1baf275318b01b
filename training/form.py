"""Fit what `core/form/novelty.py` weighs: `python -m training.form --work FOLDER SOUNDFONT [SOUNDFONT ...]`.

Renders takes of other seeds than the ear learned from, hears them, and fits the odds of boundaries by logistic
regression; then chooses how much lengths count, and how near phrases must be to share a letter, by the measures of
mir_eval on the same takes. Prints what to write into `core/form/novelty.py`.
"""

from __future__ import annotations

import argparse
import sys
from pathlib import Path
from typing import Any

import numpy as np

from mervid.core.form import bar_features, novelty, same_phrases, segmentation
from mervid.core.hearing import analysis
from mervid.formats import beatlist
from training import composer, dataset
from training.spread import spread

FIRST = 3_000_000


def _hear(path: Path) -> dict[str, Any] | None:
    """Bars of one take under its true beats, which of them begin a section, and the sections' kinds."""
    _, truth, _ = dataset.load(path.parent, path.name)
    if len(truth["beats"]) < 32 or len(truth["sections"]) < 2:
        return None
    facts, evidence = analysis.analyse(path.with_suffix(".flac"))
    position = np.where(np.isin(truth["beats"], truth["downbeats"]), 1, 2)
    grid = beatlist.to_grid(truth["beats"], position)
    found = bar_features.describe(evidence, grid, facts.duration)
    if found is None:
        return None
    rng = np.random.default_rng([2026, int(path.stem)])
    if rng.random() < 0.03:
        return None
    kinds = [s.kind for s in composer.compose(rng, 75.0).sections]
    first = len(kinds) - len(truth["sections"])
    return {"bars": found, "sections": truth["sections"], "kinds": kinds[first:], "name": path.stem}


def fit(x: np.ndarray, y: np.ndarray, *, ridge: float = 0.02) -> np.ndarray:
    """Weights and constant of a logistic regression in which a change never speaks against a boundary: (k + 1,)."""
    from scipy.optimize import minimize

    design = np.concatenate([x, np.ones((len(x), 1))], axis=1)

    def cost(w: np.ndarray) -> tuple[float, np.ndarray]:
        z = design @ w
        p = 1 / (1 + np.exp(-np.clip(z, -30, 30)))
        value = np.logaddexp(0, z) - y * z
        keep = np.append(w[:-1], 0.0)
        return float(value.sum() + ridge * keep @ keep), design.T @ (p - y) + 2 * ridge * keep

    bounds = [(0.0, None)] * x.shape[1] + [(None, None)]
    return np.asarray(minimize(cost, np.zeros(design.shape[1]), jac=True, method="L-BFGS-B", bounds=bounds).x)


def _is_edge(row: dict[str, Any]) -> np.ndarray:
    times = row["bars"].times[1:-1]
    return (np.abs(times[:, None] - row["sections"][None]).min(axis=1) < 0.3).astype(float)


def _intervals(edges: np.ndarray, end: float) -> np.ndarray:
    edges = np.append(edges, end)
    return np.stack([edges[:-1], edges[1:]], axis=1)


def score(rows: list[dict[str, Any]], weights: np.ndarray, count: float, alike: float) -> tuple[float, float]:
    """Mean boundary F at 0.5 s and mean pairwise F of all takes."""
    import mir_eval

    hits, pairs = [], []
    for r in rows:
        b = r["bars"]
        edges = segmentation.best_edges(novelty.boundary_odds(novelty.changes(b), weights), count=count)
        named = same_phrases.letters(same_phrases.apart(b, edges), alike=alike)
        start, end = float(b.times[0]), float(b.times[-1])
        inner = r["sections"][(r["sections"] > start + 0.3) & (r["sections"] < end - 0.3)]
        ref = _intervals(np.concatenate([[start], inner]), end)
        at = np.searchsorted(r["sections"], ref[:, 0] + 0.3) - 1
        labels = [r["kinds"][k] if 0 <= k < len(r["kinds"]) else "before" for k in at]
        est = _intervals(b.times[edges[:-1]], end)
        ref, est = ref - start, est - start
        hits.append(mir_eval.segment.detection(ref, est, window=0.5, trim=True)[2] if len(ref) > 1 else np.nan)
        pairs.append(mir_eval.segment.pairwise(ref, labels, est, [str(x) for x in named])[2])
    return float(np.nanmean(hits)), float(np.mean(pairs))


def main() -> int:
    """Render, hear, fit, choose."""
    parser = argparse.ArgumentParser(prog="python -m training.form", description=__doc__.split("\n")[0])
    parser.add_argument("soundfonts", nargs="+", type=Path)
    parser.add_argument("--work", type=Path, required=True)
    parser.add_argument("--takes", type=int, default=80)
    options = parser.parse_args()
    dataset.build(options.work, options.soundfonts, range(FIRST, FIRST + options.takes), keep_audio=True)
    rows = [r for r in spread(_hear, sorted(options.work.glob("*.npz"))) if r]
    half = len(rows) // 2
    for name, learn, check in (("first half", rows[:half], rows[half:]), ("all", rows, rows)):
        x = np.concatenate([novelty.changes(r["bars"]) for r in learn])
        y = np.concatenate([_is_edge(r) for r in learn])
        w = fit(x, y)
        print(name, len(learn), "takes,", int(y.sum()), "boundaries of", len(y))
        print("  ", ", ".join(f"{v:.2f}" for v in w))
        for count in (0.3, 0.6, 1.0, 1.5):
            print(f"   lengths count {count}: F at 0.5 s {score(check, w, count, 0.5)[0]:.3f}")
        for alike in (0.3, 0.4, 0.5, 0.6, 0.7):
            print(f"   alike {alike}: pairwise {score(check, w, 1.0, alike)[1]:.3f}")
    return 0


if __name__ == "__main__":
    sys.exit(main())
