"""Real music whose beats are certain: `.venv/bin/python bench/real.py [--folder WORK] [--items]`.

Fetches the packages that `training.packages.JUDGED` lists (albums that the ear never learned from, by composers that it
never learned from), hears every recording, and keeps those whose attacks lie on one steady line far beyond chance
(`training.lattice`). Told is in how many of them the written grid leaves that line by over 20 ms, changes side or
changes level: in more than four beats of it. Nobody's labels are needed for that, and none are used. `MERVID_EAR=FILE`
tries other weights.
"""

from __future__ import annotations

import argparse
import sys
import warnings
from collections import Counter
from pathlib import Path

import numpy as np

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT))

from training import lattice, packages
from training.spread import spread

AWAY = 0.020
MOST = 4


def faults(line: lattice.Lattice, times: np.ndarray) -> set[str]:
    """What is wrong with beats at (n,) `times` where the line holds: "left", "side", "level"; none of it empty."""
    inside = line.inside(times)
    t = times[inside]
    if len(t) < 16:
        return {"left"}
    n = np.round((t - line.start) / line.period).astype(int)
    step = np.diff(n)
    usual = int(np.bincount(np.maximum(step, 0)).argmax())
    out = set()
    if (np.abs(line.off(t)) > AWAY).sum() > MOST:
        out.add("left")
    if usual < 1 or (step != usual).sum() > MOST + len(line.spans):
        out.add("level")
    elif np.bincount(n % usual).max() < len(n) - MOST:
        out.add("side")
    return out


def hear(path: Path) -> tuple[str, lattice.Lattice | None, set[str], float]:
    """The name, its line if it is certain, what is wrong with the written grid, and its tempo."""
    from mervid.core.errors import AudioError
    from mervid.core.findings.recommendation import recommend
    from mervid.core.hearing import analysis

    warnings.filterwarnings("ignore")
    try:
        facts, found = analysis.analyse(path)
    except AudioError as e:
        print(e, file=sys.stderr)
        return path.name, None, set(), 0.0
    line = lattice.find(found.onset_times, found.onset_strengths, facts.duration)
    if line is None or not line.certain:
        return path.name, None, set(), 0.0
    grid = recommend(found, facts.duration).grid
    if grid is None:
        return path.name, line, {"left"}, 0.0
    heard = found.heard.times
    times, _, _ = grid.positions(max(0.0, heard[0] - 0.1), min(facts.duration, heard[-1] + 0.1))
    return path.name, line, faults(line, times), grid.tempo_overall()


def main() -> int:
    """Print what was heard wrong."""
    parser = argparse.ArgumentParser(description=__doc__.split("\n")[0])
    parser.add_argument("--folder", type=Path, default=ROOT / "bench" / "out" / "real", help="where packages are kept")
    parser.add_argument("--items", action="store_true", help="name every recording")
    options = parser.parse_args()
    files = []
    for package, patterns in packages.JUDGED.items():
        packages.fetch(package, options.folder)
        files += packages.chosen(package, options.folder, patterns)
    rows = [r for r in spread(hear, files) if r[1] is not None]
    for name, line, wrong, tempo in rows:
        if line is not None and (options.items or wrong):
            print(
                f"  {name:32s} {tempo:7.2f} BPM, sixteenths of {15 / line.period:8.3f}: {', '.join(wrong) or 'right'}"
            )
    kinds = Counter(k for r in rows for k in r[2])
    told = ", ".join(f"{k} {n}" for k, n in kinds.most_common())
    print(f"{len(rows)} of {len(files)} recordings are certain; wrong {sum(bool(r[2]) for r in rows)} ({told})")
    return 0


if __name__ == "__main__":
    sys.exit(main())
