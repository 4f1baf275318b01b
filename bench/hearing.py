"""Accuracy of hearing on recordings with known beats: `.venv/bin/python bench/hearing.py [FOLDER ...]`.

FOLDERs hold NAME.ogg (or .flac) and NAME.json {beats, downbeats, class}; by default ../shared/bench/items (where it
is) and the demo set. In one run, per class: what is heard, the grid that Mervid writes of it, librosa and (with
--networks) recurrent networks, where they are installed. Columns: F-measure at ±70, ±20 and ±10 ms, CMLt and AMLt as
mir_eval measures them, downbeat F at ±70 ms, median and 95th percentile of the error of matched beats, 'ready' (95 % of
the beats within 20 ms and no more than 5 % elsewhere), first downbeat within 20 ms, CPU seconds per minute of audio;
for the grid also its pins and its error against the truth. Then what went wrong where, how far confidence can be
believed, and memory. Figure and predictions go to bench/out; `../shared/bench/pairs.py bench/out/hearing/grid` then
says how two tracks stay together by the grids.
"""

from __future__ import annotations

import argparse
import importlib.util
import itertools
import json
import os
import resource
import sys
import time
import warnings
from collections import Counter, defaultdict
from pathlib import Path
from typing import Any

ROOT = Path(__file__).resolve().parent.parent
sys.path[:0] = [str(ROOT), str(ROOT / "bench")]

from scoring import FAULTS, score, written

from training.spread import spread

OUT = ROOT / "bench" / "out" / "hearing"
COLUMNS = ("F70", "F20", "F10", "CMLt", "AMLt", "dbF70", "med", "p95", "ready", "first", "cpu/min", "pins", "grid p95")
STEPS = (0.0, 0.2, 0.4, 0.6, 0.8, 0.9, 0.95, 1.0)
Row = dict[str, Any]


def _audio(folder: str, name: str) -> Path:
    path = Path(folder) / f"{name}.ogg"
    return path if path.exists() else path.with_suffix(".flac")


def hear(job: tuple[str, str, tuple[str, ...], Path]) -> list[Row]:
    """Analyse one recording in a worker process and score it, by every ear asked for."""
    import mir_eval
    import numpy as np
    import yardsticks

    from mervid.core.findings.recommendation import recommend
    from mervid.core.hearing import analysis, ear

    warnings.filterwarnings("ignore")
    folder, name, others, out = job
    truth = json.loads((Path(folder) / f"{name}.json").read_text("utf-8"))
    ref, down = np.array(truth["beats"]), np.array(truth["downbeats"])
    common = {"name": name, "class": truth.get("class", "demo")}
    ear.load()
    started = time.process_time()
    facts, found = analysis.analyse(_audio(folder, name))
    cpu = time.process_time() - started
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    heard = found.heard
    out.mkdir(parents=True, exist_ok=True)
    prediction = {"beats": heard.times.tolist(), "downbeats": heard.downbeats.tolist()}
    (out / f"{name}.json").write_text(json.dumps(prediction))
    row = {**common, "by": "ours", **score(ref, down, heard.times, heard.downbeats), "peak": peak}
    row["cpu/min"] = cpu / facts.duration * 60
    known = (heard.times > ref[0] - 0.2) & (heard.times < ref[-1] + 0.2)
    matched = {j for _, j in mir_eval.util.match_events(ref, heard.times, 0.02)} if len(heard.times) else set()
    row["sure"] = [(float(heard.confidence[j]), j in matched) for j in np.flatnonzero(known).tolist()]
    row["level"] = (heard.level_chance, row["F70"])
    row["phase"] = (heard.phase_chance, row["dbF70"] if row["F70"] > 0.8 else np.nan)
    rows = [row]
    grid = recommend(found, facts.duration).grid
    if grid is not None:
        times, bars = written(grid, heard, facts.duration)
        off = 1000 * np.abs(ref - grid.time_at(np.round(grid.beat_at(ref))))
        figures = {**common, "by": "grid", **score(ref, down, times, bars), "pins": len(grid.pins)}
        rows.append(figures | {"grid p95": float(np.percentile(off, 95))})
        (out / "grid").mkdir(exist_ok=True)
        prediction = {"beats": times.tolist(), "downbeats": bars.tolist()}
        (out / "grid" / f"{name}.json").write_text(json.dumps(prediction))
    for other in others:
        started = time.process_time()
        beats, downbeats = yardsticks.KINDS[other][1](_audio(folder, name))
        cpu = time.process_time() - started
        rows.append({**common, "by": other, **score(ref, down, beats, downbeats), "cpu/min": cpu / facts.duration * 60})
    return rows


def table(rows: list[Row], *, items: bool) -> None:
    """Print measures per class, each ear below the other."""
    import numpy as np

    groups: dict[str, list[Row]] = defaultdict(list)
    for row in rows:
        for group in {row["class"], *(() if row["class"] in ("acapella", "demo") else ("DRUMS",))}:
            groups[group].append(row)

    def show(label: str, count: object, part: list[Row]) -> None:
        cells = []
        for c in COLUMNS:
            values = [r[c] for r in part if c in r and not np.isnan(r[c])]
            cells.append(f"{np.mean(values):9.3f}" if values else f"{'-':>9s}")
        print(f"{label:22s}{count!s:>4s}" + "".join(cells))

    print(f"{'':22s}{'n':>4s}" + "".join(f"{c:>9s}" for c in COLUMNS))
    if items:
        for row in rows:
            show(f"{row['name']} {row['by'] if row['by'] != 'ours' else ''} {' '.join(row['faults'])}"[:24], "", [row])
    for group in sorted(groups, key=lambda g: (g.isupper(), g)):
        for by in dict.fromkeys(r["by"] for r in groups[group]):
            part = [r for r in groups[group] if r["by"] == by]
            show(group if by == "ours" else f"  {by}", len(part), part)


def reliability(rows: list[Row]) -> list[tuple[float, float, float, int]]:
    """Of beats said to be so sure, how many are right: (from, mean said, share right, count) for each step."""
    import numpy as np

    pairs = np.array([p for r in rows for p in r.get("sure", ())], float).reshape(-1, 2)
    out = []
    for a, b in itertools.pairwise(STEPS):
        part = pairs[(pairs[:, 0] >= a) & (pairs[:, 0] < b + (b == 1.0))]
        if len(part):
            out.append((a, float(part[:, 0].mean()), float(part[:, 1].mean()), len(part)))
    return out


def compare(ours: list[Row], theirs: list[Row], name: str) -> None:
    """Print what changes with another ear: by recording, then how often each way and how likely by chance."""
    from scipy.stats import binomtest

    other = {r["name"]: r for r in theirs}
    columns = ("F70", "F20", "F10", "CMLt", "dbF70", "ready", "first")
    print(f"\nwith {name} instead: {', '.join(columns)}")
    signs: dict[str, list[float]] = defaultdict(list)
    for r in ours:
        change = {c: other[r["name"]][c] - r[c] for c in columns if r["name"] in other}
        for c, d in change.items():
            if abs(d) > 0.005:
                signs[c].append(d)
        if any(abs(d) > 0.02 for d in change.values()):
            print(
                f"  {r['name']:16s}"
                + "".join(f"{d:+8.2f}" if abs(d) > 0.005 else f"{'=':>8s}" for d in change.values())
            )
    for c in columns:
        up = sum(d > 0 for d in signs[c])
        n = len(signs[c])
        chance = binomtest(up, n).pvalue if n else 1.0
        print(f"  {c:6s} better {up}, worse {n - up}, by chance {chance:.2f}, mean {sum(signs[c]) / len(ours):+.4f}")


def figure(rows: list[Row], path: Path) -> None:
    """Accuracy per class, and said against true."""
    import matplotlib

    matplotlib.use("Agg")
    import numpy as np
    from matplotlib import pyplot

    fig, (left, right) = pyplot.subplots(1, 2, figsize=(12, 4.5))
    classes = sorted({r["class"] for r in rows})
    ears = list(dict.fromkeys(r["by"] for r in rows))
    for k, by in enumerate(ears):
        values = [np.mean([r["F20"] for r in rows if r["by"] == by and r["class"] == c]) for c in classes]
        left.bar(np.arange(len(classes)) + 0.8 * k / len(ears), values, 0.8 / len(ears), label=by)
    left.set_xticks(np.arange(len(classes)) + 0.3, classes, rotation=40)
    left.set_ylabel("F-measure at ±20 ms")
    left.legend()
    said = reliability(rows)
    right.plot([0, 1], [0, 1], color="0.7")
    right.plot([s[1] for s in said], [s[2] for s in said], "o-")
    right.set_xlabel("said to be right")
    right.set_ylabel("right within 20 ms")
    fig.tight_layout()
    fig.savefig(path, dpi=90)


def main() -> int:
    """Print the tables."""
    import numpy as np
    import yardsticks

    parser = argparse.ArgumentParser(description=__doc__.split("\n")[0])
    parser.add_argument("folders", nargs="*", type=Path)
    parser.add_argument("--workers", type=int, default=2)
    parser.add_argument("--items", action="store_true", help="print each recording too")
    parser.add_argument("--networks", action="store_true", help="run the recurrent networks beside (slow)")
    parser.add_argument("--against", type=Path, metavar="WEIGHTS", help="compare the written grids with another ear's")
    parser.add_argument("--alone", action="store_true", help="run no yardstick")
    options = parser.parse_args()
    shared = ROOT.parent / "shared" / "bench" / "items"
    folders = options.folders or [f for f in (shared, ROOT / "mervid" / "demo" / "tracks") if f.is_dir()]
    installed = yardsticks.available()
    wanted = [] if options.alone else ["librosa"] + (["networks"] if options.networks else [])
    others = tuple(k for k in wanted if k in installed)
    for missing in set(wanted) - set(others):
        print(f"bench/hearing: {missing} is not installed (see bench/yardsticks.py) and is left out", file=sys.stderr)
    jobs = [
        (str(f), p.stem, others, OUT)
        for f in folders
        for p in sorted(f.glob("*.json"))
        if _audio(str(f), p.stem).exists()
    ]
    if not jobs:
        print("bench/hearing: no recordings with truth found", file=sys.stderr)
        return 2
    rows = [row for part in spread(hear, jobs, processes=options.workers) for row in part]
    table(rows, items=options.items)
    ours = [r for r in rows if r["by"] == "ours"]
    written = [r for r in rows if r["by"] == "grid"]
    count = Counter(k for r in written for k in r["faults"])
    print("\nwhat went wrong in the written grids: " + ", ".join(f"{k} {count[k]}" for k in FAULTS))
    for r in written:
        if r["faults"]:
            cells = "  ".join(f"{c} {r[c]:.2f}" for c in ("F70", "F20", "dbF70"))
            print(f"  {r['name']:16s} {cells}  {', '.join(r['faults'])}")
    if options.against is not None:
        os.environ["MERVID_EAR"] = str(options.against.resolve())
        jobs = [(f, name, (), OUT / "against") for f, name, _, _ in jobs]
        others_rows = [row for part in spread(hear, jobs, processes=options.workers) for row in part]
        compare(written, [r for r in others_rows if r["by"] == "grid"], options.against.name)
    print("\nconfidence of beats:   said   right within 20 ms   beats")
    for a, said, right, count in reliability(ours):
        print(f"    from {a:4.2f}         {said:5.2f}          {right:5.2f}         {count:6d}")
    for what, key in (("level (F70", "level"), ("bar phase, where the level is (downbeat F", "phase")):
        print(f"{what} over .8): said to be so sure, right")
        for a, b in ((0, 0.5), (0.5, 0.8), (0.8, 0.9), (0.9, 1.0)):
            part = [f > 0.8 for m, f in (r[key] for r in ours) if a <= m < b and not np.isnan(f)]
            if part:
                print(f"    {a:4.2f} to {b:4.2f}   {sum(part)} of {len(part)}")
    print(f"\nbias of matched beats, median over recordings: {np.median([r['bias'] for r in ours]):+.2f} ms")
    beside = ", yardsticks included (--alone leaves them out)" if others else ""
    print(f"peak memory of a worker: {max(r['peak'] for r in ours):.0f} MB{beside}")
    if importlib.util.find_spec("matplotlib"):
        figure(rows, OUT.parent / "hearing.png")
        print(f"figure: {OUT.parent / 'hearing.png'}")
    return 0


if __name__ == "__main__":
    sys.exit(main())
