"""How well the ear with given weights hears validation takes, and what its confidence should be.

Validation takes are made by the same generator from other seeds: good for choosing settings, too kind as a measure of
hearing. What counts is `bench/hearing.py` on music that was not made here.
"""

from __future__ import annotations

import warnings
from collections import defaultdict
from functools import partial
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from mervid.core.errors import FormatError
from mervid.core.hearing import bar_pointer, beat_confidence, beat_tracking, features
from training import dataset
from training.spread import spread

Row = dict[str, Any]


def hear(weights: Path, path: Path) -> Row:
    """Score one validation take; `path` is its .npz, beside which the .flac lies."""
    import mir_eval
    import soundfile

    warnings.filterwarnings("ignore")
    _, truth, family = dataset.load(path.parent, path.name)
    samples, rate = soundfile.read(path.with_suffix(".flac"), dtype="float32")
    listener = features.Listener(rate, weights=weights)
    listener.push(samples)
    sound = listener.finish()
    if sound.strengths is None:
        raise FormatError(sound.problem)
    found = beat_tracking.follow(sound.strengths, sound.attack, sound.duration, seen=sound.scene)
    heard = beat_tracking.judged(found.ear, sound.attack, found)
    ref, down = truth["beats"], truth["downbeats"]
    row: Row = {"name": path.stem, "family": family, "beats": len(heard.times)}
    if len(ref) < 8:
        return row
    near = mir_eval.util.match_events(ref, heard.times, 0.02) if len(heard.times) else []
    _, cmlt, _, amlt = mir_eval.beat.continuity(ref, heard.times) if len(heard.times) > 1 else (0, 0, 0, 0)
    for name, a, b, w in (
        ("F70", ref, heard.times, 0.07),
        ("F20", ref, heard.times, 0.02),
        ("F10", ref, heard.times, 0.01),
        ("downbeat", down, heard.downbeats, 0.07),
    ):
        row[name] = float(mir_eval.beat.f_measure(a, b, w)) if len(b) else 0.0
    row["CMLt"], row["AMLt"] = cmlt, amlt
    row["ready"] = float(len(near) >= 0.95 * max(len(ref), len(heard.times)))
    if len(heard.times):
        right = np.zeros(len(heard.times))
        right[[j for _, j in near]] = 1
        row["features"] = beat_confidence.figures(sound.strengths, sound.attack, found.times, found.steady)
        row["right"] = right
        row["level"] = (bar_pointer.agreement(sound.strengths, found.times), float(row["F70"] > 0.8))
        row["phase"] = (found.margin, float(row["downbeat"] > 0.8)) if row["F70"] > 0.8 else None
    return row


def logistic(x: NDArray[np.float64], y: NDArray[np.float64]) -> NDArray[np.float64]:
    """Weights and bias of a logistic regression by Newton's method, slightly ridged: (n + 1,)."""
    design = np.concatenate([x, np.ones((len(x), 1))], axis=1)
    w = np.zeros(design.shape[1])
    for _ in range(25):
        p = 1 / (1 + np.exp(-np.clip(design @ w, -30, 30)))
        gradient = design.T @ (y - p) - 1e-2 * w
        hessian = (design * (p * (1 - p))[:, None]).T @ design + 1e-2 * np.eye(len(w))
        w = w + np.linalg.solve(hessian, gradient)
    return w


def judge(
    weights: Path, folder: Path, *, processes: int = 2, quiet: bool = False, out: Path | None = None
) -> NDArray[np.float64]:
    """Print measures by family of music, and write them to `out`; returns the calibration they ask for, (10,)."""
    paths = [p for p in sorted(folder.glob("*.npz")) if p.with_suffix(".flac").exists()]
    rows = list(spread(partial(hear, weights), paths, processes=processes))
    figures = table(rows, quiet=quiet)
    print(figures)
    if out is not None:
        out.write_text(figures + "\n", "utf-8")
    known = [r for r in rows if "features" in r]
    beats = logistic(np.concatenate([r["features"] for r in known]), np.concatenate([r["right"] for r in known]))
    whole = [np.array([r[name] for r in known if r[name]]) for name in ("level", "phase")]
    return np.concatenate([beats, *(logistic(pairs[:, :1], pairs[:, 1]) for pairs in whole)])


def table(rows: list[Row], *, quiet: bool = False) -> str:
    """Measures by family of music, beats heard where there are none, and, unless `quiet`, the takes misheard."""
    names = ("F70", "F20", "F10", "CMLt", "AMLt", "downbeat", "ready")
    groups: dict[str, list[Row]] = defaultdict(list)
    for r in rows:
        if "F70" in r:
            groups[r["family"]].append(r)
            groups["ALL"].append(r)
    lines = [f"{'':12s}   n " + " ".join(f"{c:>8s}" for c in names)]
    for g in sorted(groups, key=lambda g: (g == "ALL", g)):
        means = " ".join(f"{np.mean([r[c] for r in groups[g]]):8.3f}" for c in names)
        lines.append(f"{g:12s} {len(groups[g]):3d} {means}")
    lines.append(f"beats heard where there are none: {[r['beats'] for r in rows if 'F70' not in r]}")
    for r in [] if quiet else rows:
        if r.get("F70", 1) < 0.9 or r.get("downbeat", 1) < 0.8:
            measures = " ".join(f"{c} {r[c]:.2f}" for c in ("F70", "F20", "AMLt", "downbeat"))
            lines.append(f"  {r['name']} {r['family']:10s} {measures}")
    return "\n".join(lines)
