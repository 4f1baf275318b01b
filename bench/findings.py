"""What the recording tells, measured: `.venv/bin/python bench/findings.py [FOLDER ...]`.

FOLDERs hold NAME.ogg (or .flac) and NAME.json {beats, downbeats, class, notes}; by default ../shared/bench/items
(where it is) and the demo set. Prints the confusion of kinds; findings right and false per class; what guided hearing
repairs of hearing made wrong on purpose (bar phase, off-beat, level), and how long it takes; pins and worst error
after following, also with five wrong beats in a hundred; and whether a person is asked where the written grid must be
mended, and only there. What was heard is kept in bench/out/evidence for the next run.
"""

from __future__ import annotations

import hashlib
import json
import re
import sys
import time
import warnings
from collections import Counter, defaultdict
from pathlib import Path
from typing import Any

import attrs

ROOT = Path(__file__).resolve().parent.parent
sys.path[:0] = [str(ROOT), str(ROOT / "bench")]

from scoring import score, written

from training.spread import spread

KEPT = ROOT / "bench" / "out" / "evidence"
Row = dict[str, Any]

BARS = 0.9
"""F of downbeats below which bars must be mended."""
EXPECTED = {
    "steady": {"steady"}, "intro": {"steady"}, "real": {"steady"}, "live": {"wandering"}, "stepped": {"stepped"},
    "ramp": {"ramping"}, "vinyl": {"turntable"}, "hiphop": {"steady", "wandering"},
    "acapella": {"unclear", "steady", "wandering"},
}  # fmt: skip


def evidence_of(folder: str, name: str) -> tuple[Any, float]:
    """What is heard in a recording, from the last run if nothing changed, and its length in s."""
    from mervid.core.hearing import analysis, ear, evidence

    path = Path(folder) / f"{name}.ogg"
    path = path if path.exists() else path.with_suffix(".flac")
    digest = hashlib.sha256(path.read_bytes() + ear.WEIGHTS.read_bytes())
    for source in sorted((ROOT / "mervid" / "core").rglob("*.py")):
        digest.update(source.read_bytes())
    kept = KEPT / f"{name}-{digest.hexdigest()[:16]}.npz"
    if not kept.exists():
        KEPT.mkdir(parents=True, exist_ok=True)
        for old in KEPT.glob(f"{name}-*.npz"):
            old.unlink()
        kept.write_bytes(evidence.to_bytes(analysis.analyse(path)[1]))
    found = evidence.from_bytes(kept.read_bytes())
    return found, len(found.attack) / 1000


def tells(job: tuple[str, str]) -> Row:
    """Everything about one recording."""
    import numpy as np

    from mervid.core.findings import grid_findings, study
    from mervid.core.fitting import proposal
    from mervid.core.guided import alternatives

    warnings.filterwarnings("ignore")
    folder, name = job
    truth = json.loads((Path(folder) / f"{name}.json").read_text("utf-8"))
    beats, downs = np.array(truth["beats"]), np.array(truth["downbeats"])
    found, duration = evidence_of(folder, name)
    heard = found.heard
    row: Row = {"name": name, "class": truth.get("class", "demo"), "notes": str(truth.get("notes", ""))}
    p = proposal.propose(heard, duration)
    studied = study.study(p, found, alternatives.opinions(found, heard), duration=duration)
    told = grid_findings.findings(studied)
    row["kind"] = studied.study.kind
    row["told"] = [(f.key, f.text) for f in told]
    row |= _checked(told, row, beats, downs, heard)
    if len(heard.times) > 20:
        row |= _guided(found, beats, downs)
        row |= _fitted(p, heard, beats)
    row |= _asked(found, duration, beats, downs)
    return row


def _asked(found: Any, duration: float, beats: Any, downs: Any) -> Row:
    """Which findings ask for a decision on the grid that a new track opens with, and whether that must be mended."""
    from mervid.core.findings.recommendation import recommend
    from mervid.core.findings.report import Question, report

    p = recommend(found, duration)
    asks = [f.key for f in report(Question(p, found, duration)).findings if f.weight == "doubt"]
    if p.grid is None:
        return {"asks": asks, "mend": True}
    figures = score(beats, downs, *written(p.grid, found.heard, duration))
    right = figures["ready"] == 1 and not figures["dbF70"] < BARS and figures["first"] != 0
    return {"asks": asks, "mend": not right}


def _checked(told: Any, row: Row, beats: Any, downs: Any, heard: Any) -> Row:
    """Which findings are right by the truth, which false, which missing."""
    import numpy as np

    number = np.arange(len(beats))
    period = float(np.polyfit(number, beats, 1)[0])
    tempo = 60 / period
    left = beats - np.polyval(np.polyfit(number, beats, 1), number)
    keys = {f.key for f in told}
    right, false, missing = [], [], []

    def say(key: str, holds: bool) -> None:
        if key in keys:
            (right if holds else false).append(key)
        elif holds:
            missing.append(key)

    steady = np.abs(left).max() < 0.005
    say("whole", bool(steady and abs(tempo - round(tempo)) < 0.002))
    if "fraction" in keys:
        (right if steady and abs(tempo - round(tempo)) >= 0.0005 else false).append("fraction")
    record = "turntable {" in row["notes"] or "33 1/3" in row["notes"]
    say("wow", record)
    say("lead-in", record)
    say("step", row["class"] == "stepped")
    say("ramp", row["class"] == "ramp")
    if "wander" in keys:
        wanders = np.abs(left).max() > 0.015
        (right if wanders else false).append("wander")
    if "drift" in keys:
        (right if np.abs(left).max() > 0.008 else false).append("drift")
    say("bare", row["class"] == "acapella")
    if len(downs) and len(heard.downbeats):
        near = np.abs(heard.downbeats[:, None] - downs[None]).min(axis=1) < 0.07
        wrong = near.mean() < 0.6
        # a doubt about bars that are right is a question too many; a wrong phase without one is a miss
        if "downbeat" in keys:
            (right if wrong else false).append("downbeat")
        elif wrong:
            missing.append("downbeat")
    return {"right": right, "false": false, "missing": missing}


def _f(ref: Any, est: Any, window: float) -> float:
    import mir_eval

    return float(mir_eval.beat.f_measure(ref, est, window)) if len(ref) and len(est) else float("nan")


def _guided(found: Any, beats: Any, downs: Any) -> Row:
    """F of what guided hearing makes of hearing made wrong on purpose, less that of the right one; and its time."""
    import numpy as np

    from mervid.core.guided import constrained_tracking
    from mervid.core.model.hints import DOWNBEAT, TEMPO, Hint

    h = found.heard
    between = (h.times[:-1] + h.times[1:]) / 2
    middle = len(h.times) // 2
    bar = float(h.downbeats[len(h.downbeats) // 2])
    tempo = float(round(60 / float(np.median(np.diff(h.times)))))
    late = attrs.evolve(h, meter=tuple(attrs.evolve(m, beat=m.beat + 2) for m in h.meter))
    from mervid.core.hearing.heard import Heard

    off = attrs.evolve(h, times=between, numbers=h.numbers[:-1], confidence=h.confidence[:-1])
    twice = np.sort(np.concatenate([h.times, between]))
    double = Heard(twice, np.arange(len(twice)), np.full(len(twice), 0.8))
    half = Heard(h.times[::2], np.arange(len(h.times[::2])), np.full(len(h.times[::2]), 0.8))
    out: Row = {}
    for key, wrong, hints, pins in (
        ("phase", late, (Hint(DOWNBEAT, bar),), ()),
        ("off-beat", off, (), (float(h.times[middle]),)),
        ("double", double, (Hint(TEMPO, value=tempo),), ()),
        ("half", half, (Hint(TEMPO, value=tempo),), ()),
    ):
        started = time.perf_counter()
        again = constrained_tracking.listen(attrs.evolve(found, heard=wrong), hints, pins)
        out[f"{key} time"] = (time.perf_counter() - started) / float(h.times[-1]) * 300
        if key == "phase":
            out[key] = _f(downs, again.downbeats, 0.07) - _f(downs, h.downbeats, 0.07)
        else:
            out[key] = _f(beats, again.times, 0.02) - _f(beats, h.times, 0.02)
    return out


def _fitted(p: Any, heard: Any, beats: Any) -> Row:
    """Pins and worst error after following; and how far five wrong beats in a hundred move it."""
    import numpy as np

    from mervid.core.edits import grid_edits
    from mervid.core.fitting import drift

    made = grid_edits.follow_recording(p, heard)
    grid = made.grid
    assert grid is not None
    error = np.abs(drift.trace_of(made, heard).error)  # type: ignore[union-attr]
    near = np.abs(beats - grid.time_at(np.round(grid.beat_at(beats)))) * 1000
    inner = [q for q in grid.pins[1:-1]]
    on_bars = np.mean([np.abs(heard.downbeats - q.time).min() < 0.03 for q in inner]) if inner else np.nan
    rng = np.random.default_rng(1)
    moved = []
    for _ in range(3):
        t = heard.times.copy()
        bad = rng.choice(np.arange(2, len(t) - 2), max(1, len(t) // 20), replace=False)
        t[bad] += rng.choice([-1, 1], len(bad)) * rng.uniform(0.04, 0.2, len(bad))
        order = np.concatenate([[True], np.diff(np.maximum.accumulate(t)) > 0.02])
        worse = attrs.evolve(heard, times=t[order], numbers=heard.numbers[order], confidence=heard.confidence[order])
        other = grid_edits.follow_recording(p, worse).grid
        assert other is not None
        at = np.array([q.time for q in grid.pins])
        moved.append(float(np.percentile(np.abs(other.time_at(np.array([q.beat for q in grid.pins])) - at), 80)) * 1000)
    return {
        "pins": len(grid.pins),
        "worst": float(error.max()),
        "true p95": float(np.percentile(near, 95)),
        "on bars": float(on_bars),
        "moved": float(np.median(moved)),
    }


def main() -> int:
    """Run over all recordings and print the tables."""
    import numpy as np

    folders = [Path(a) for a in sys.argv[1:]] or [
        f for f in (ROOT.parent / "shared" / "bench" / "items", ROOT / "mervid" / "demo" / "tracks") if f.is_dir()
    ]
    jobs = [(str(f), p.stem) for f in folders for p in sorted(f.glob("*.json"))]
    rows = list(spread(tells, jobs))
    groups: dict[str, list[Row]] = defaultdict(list)
    for row in rows:
        groups[row["class"]].append(row)
    kinds = ("steady", "stepped", "ramping", "wandering", "turntable", "unclear")
    print("kinds      " + "".join(f"{k:>11}" for k in kinds) + "      right")
    for name, part in groups.items():
        count = Counter(r["kind"] for r in part)
        # what was played from a record is a record, whatever its class
        good = [
            r["kind"] in EXPECTED.get(name, set(kinds)) or ("turntable {" in r["notes"] and r["kind"] == "turntable")
            for r in part
        ]
        print(f"{name:<11}" + "".join(f"{count[k] or '.':>11}" for k in kinds) + f"    {sum(good)} of {len(part)}")
    print("\nfindings    right  false  missing")
    for name, part in groups.items():
        told = {k: Counter(x for r in part for x in r[k]) for k in ("right", "false", "missing")}
        tail = "; ".join(
            f"{k}: " + ", ".join(f"{n} {c}" for n, c in told[k].items()) for k in ("false", "missing") if told[k]
        )
        print(f"{name:<11}" + "".join(f"{sum(told[k].values()):>7}" for k in told) + f"   {tail}")
    keys = ("phase", "off-beat", "double", "half")
    print("\nguided hearing: F less that of the right hearing, mean (lowest); ms for 5 min of music, median (most)")
    for name, part in groups.items():
        line = f"{name:<11}"
        for k in keys:
            v = np.array([r[k] for r in part if k in r and np.isfinite(r[k])])
            t = np.array([r[f"{k} time"] for r in part if k in r]) * 1000
            line += (
                f"  {k} {v.mean():+.2f} ({v.min():+.2f}) {np.median(t):.0f} ({t.max():.0f}) ms"
                if len(v)
                else f"  {k} –"
            )
        print(line)
    print("\nfollowing     pins  worst ms  true p95  on bars  moved by 5 % wrong beats, ms")
    for name, part in groups.items():
        v = {k: np.array([r[k] for r in part if k in r]) for k in ("pins", "worst", "true p95", "on bars", "moved")}
        bars = float(np.nanmean(v["on bars"])) if np.isfinite(v["on bars"]).any() else float("nan")
        print(
            f"{name:<11} {v['pins'].mean():>6.1f} {v['worst'].mean():>9.1f} {np.median(v['true p95']):>9.1f} "
            f"{bars:>8.2f} {np.median(v['moved']):>8.1f}"
        )
    print("\na person is asked, of recordings that must be mended (beats, bars or bar 1), and of those that needn't")
    for name, part in groups.items():
        mend, fine = ([r for r in part if r["mend"] is whether] for whether in (True, False))
        counts = Counter(k for r in part for k in set(r["asks"]))
        asked = [sum(bool(r["asks"]) for r in some) for some in (mend, fine)]
        print(
            f"{name:<11}{asked[0]:>4} of {len(mend)}{asked[1]:>5} of {len(fine)}   "
            + ", ".join(f"{k} {n}" for k, n in counts.items())
        )
    if "--all" in sys.argv:
        for r in rows:
            print(r["name"], r["kind"], *(re.sub(r"\s+", " ", f"{k}: {t}") for k, t in r["told"]), sep="\n    ")
    return 0


if __name__ == "__main__":
    sys.exit(main())
