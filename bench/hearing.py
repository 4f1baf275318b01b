"""Accuracy of hearing on recordings with known beats: `.venv/bin/python bench/hearing.py [FOLDER ...] [--workers N]`.

FOLDERs hold NAME.ogg and NAME.json {beats, downbeats, class}; by default ../shared/bench/items (where it is) and the
demo set. Columns: F-measure at ±70, ±20 and ±10 ms, CMLt and AMLt as mir_eval measures them, downbeat F at ±70 ms,
median and 95th percentile of the error of matched beats, 'ready' (95 % of the beats within 20 ms and no more than 5 %
elsewhere), and what following achieves: pins, worst error against the truth. Predictions go to bench/out/hearing.
"""

from __future__ import annotations

import argparse
import json
import os
import resource
import sys
import time
import warnings
from collections import defaultdict
from multiprocessing import get_context
from pathlib import Path
from typing import Any

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT))
OUT = ROOT / "bench" / "out" / "hearing"
COLUMNS = ("F70", "F20", "F10", "CMLt", "AMLt", "dbF70", "med", "p95", "ready", "pins", "grid p95", "cpu/min")


def hear(job: tuple[str, str]) -> dict[str, Any]:
    """Analyse one recording in a worker process and score it."""
    import mir_eval
    import numpy as np

    from mervid.core import analysis, preparation

    warnings.filterwarnings("ignore")
    folder, name = job
    truth = json.loads((Path(folder) / f"{name}.json").read_text("utf-8"))
    started = time.process_time()
    facts, found = analysis.analyse(Path(folder) / f"{name}.ogg")
    cpu = time.process_time() - started
    heard = found.heard
    OUT.mkdir(parents=True, exist_ok=True)
    prediction = {"beats": heard.times.tolist(), "downbeats": heard.downbeats.tolist()}
    (OUT / f"{name}.json").write_text(json.dumps(prediction))
    ref = np.array(truth["beats"])
    lo, hi = (ref[1] - ref[0]) / 2, (ref[-1] - ref[-2]) / 2

    def inside(x: Any) -> Any:
        return x[(x > ref[0] - lo) & (x < ref[-1] + hi)]

    est, down = inside(heard.times), np.array(truth["downbeats"])

    def f(r: Any, e: Any, w: float) -> float:
        return float(mir_eval.beat.f_measure(r, e, w)) if len(e) else 0.0

    _, cmlt, _, amlt = mir_eval.beat.continuity(ref, est) if len(est) > 1 else (0, 0, 0, 0)
    pairs = mir_eval.util.match_events(ref, est, 0.07) if len(est) else []
    error = np.array([1000 * (est[j] - ref[i]) for i, j in pairs] or [np.nan])
    near = len(mir_eval.util.match_events(ref, est, 0.02)) if len(est) else 0
    row = {
        "F70": f(ref, est, 0.07),
        "F20": f(ref, est, 0.02),
        "F10": f(ref, est, 0.01),
        "CMLt": cmlt,
        "AMLt": amlt,
        "dbF70": f(down, inside(heard.downbeats), 0.07) if len(down) else np.nan,
        "med": float(np.median(np.abs(error))),
        "p95": float(np.percentile(np.abs(error), 95)),
        "ready": float(near >= 0.95 * len(ref) and near >= 0.95 * len(est)),
        "cpu/min": cpu / facts.duration * 60,
    }
    p = preparation.propose(heard, facts.duration)
    if p.grid is not None:
        grid = preparation.follow_recording(p, heard).grid
        assert grid is not None
        off = 1000 * np.abs(ref - grid.time_at(np.round(grid.beat_at(ref))))
        row |= {"pins": len(grid.pins), "grid p95": float(np.percentile(off, 95))}
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    return {"name": name, "class": truth.get("class", "demo"), "bias": float(np.median(error)), "peak": peak, **row}


def main() -> int:
    """Print the table."""
    import numpy as np

    parser = argparse.ArgumentParser(description=__doc__.split("\n")[0])
    parser.add_argument("folders", nargs="*", type=Path)
    parser.add_argument("--workers", type=int, default=2)
    parser.add_argument("--items", action="store_true", help="print each recording too")
    options = parser.parse_args()
    shared = ROOT.parent / "shared" / "bench" / "items"
    folders = options.folders or [f for f in (shared, ROOT / "mervid" / "demo" / "tracks") if f.is_dir()]
    jobs = [(str(f), p.stem) for f in folders for p in sorted(f.glob("*.json")) if p.with_suffix(".ogg").exists()]
    if not jobs:
        print("bench/hearing: no recordings with truth found", file=sys.stderr)
        return 2
    for name in ("OMP_NUM_THREADS", "OPENBLAS_NUM_THREADS"):
        os.environ[name] = "1"
    with get_context("spawn").Pool(options.workers) as pool:
        rows = pool.map(hear, jobs, chunksize=1)
    groups: dict[str, list[dict[str, Any]]] = defaultdict(list)
    for row in rows:
        for group in {row["class"], *(() if row["class"] in ("acapella", "demo") else ("DRUMS",))}:
            groups[group].append(row)

    def show(label: str, count: object, part: list[dict[str, Any]]) -> None:
        cells = []
        for c in COLUMNS:
            values = [r[c] for r in part if c in r and not np.isnan(r[c])]
            cells.append(f"{np.mean(values):8.3f}" if values else f"{'-':>8s}")
        print(f"{label:16s}{count!s:>4s}" + "".join(cells))

    print(f"{'':16s}{'n':>4s}" + "".join(f"{c:>8s}" for c in COLUMNS))
    if options.items:
        for row in rows:
            show(row["name"], "", [row])
    for group in sorted(groups, key=lambda g: (g.isupper(), g)):
        show(group, len(groups[group]), groups[group])
    print(f"bias of matched beats, median over recordings: {np.median([r['bias'] for r in rows]):+.2f} ms")
    print(f"peak memory of a worker: {max(r['peak'] for r in rows):.0f} MB")
    return 0


if __name__ == "__main__":
    sys.exit(main())
