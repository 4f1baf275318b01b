"""Accuracy of the form: `.venv/bin/python bench/form.py [FOLDER ...]`.

FOLDERs hold NAME.ogg or NAME.flac and NAME.json with `beats`, `downbeats` and `sections`, a list of {start or bar,
kind or label}; by default the demo set and ../shared/bench/items; `bench/songs.py` renders sixty more. Boundaries at
0.5 and 3 s and pairwise labels as mir_eval.segment measures them: of phrases, and of the sections they make; roles
where they are named alike, lengths in bars that are exact, steps of the key where sections say `raised`. ALL, and as
FORM without recordings whose sections are only where a tempo changes or drums come in. In the same run two public
structure methods, which are told the true number of sections and of kinds: agglomerative clustering (librosa),
Laplacian spectral clustering (McFee & Ellis, ISMIR 2014). Ours on the grid that a new track opens with, and on the true
one. Time for five minutes.
"""

from __future__ import annotations

import importlib.util
import json
import sys
import time
from collections import defaultdict
from pathlib import Path
from typing import Any

ROOT = Path(__file__).resolve().parent.parent
sys.path[:0] = [str(ROOT)]

import mir_eval
import numpy as np

from mervid import places
from mervid.core.findings.recommendation import recommend
from mervid.core.form import bar_features, labelling, phrase_edits, segmentation
from mervid.core.hearing import analysis
from mervid.formats import beatlist
from training.spread import spread

COLUMNS = (
    "F .5", "F 3", "pairs", "roles", "lengths", "sections F .5", "sections F 3", "sections pairs", "F .5 true grid",
    "librosa F .5", "librosa F 3", "librosa pairs", "spectral F .5", "spectral F 3", "spectral pairs",
)  # fmt: skip
NAMES = {"hook": "chorus", "drums in": "verse"}
TEMPO, EVENTS = ("stepped", "ramp"), {"first downbeat", "drums in"}
"""Classes whose sections are changes of tempo, and names of what is no phrase: FORM leaves such recordings out."""


def truth_of(path: Path) -> tuple[np.ndarray, list[str], dict[str, Any]] | None:
    """Starts in s and names of the true sections; None where there are fewer than two."""
    data = json.loads(path.read_text("utf-8"))
    sections = data.get("sections") or []
    downs = data.get("downbeats") or []
    if len(sections) < 2 or not downs:
        return None
    starts = [float(s["start"]) if "start" in s else float(downs[min(s["bar"], len(downs) - 1)]) for s in sections]
    names = [str(s.get("kind") or s.get("label")) for s in sections]
    # a section that begins where the music ends is none
    lasts = np.append(np.diff(starts), float(data["beats"][-1]) - starts[-1]) > 0.1
    if lasts.sum() < 2:
        return None
    return np.maximum(0.0, starts)[lasts], [n for n, kept in zip(names, lasts, strict=True) if kept], data


def scores(ref: np.ndarray, names: list[str], est: np.ndarray, letters: list[str], end: float) -> dict[str, float]:
    """Boundaries and pairs; both are cut to the same stretch."""
    r, n = mir_eval.util.adjust_intervals(ref, list(names), 0.0, end)
    e, x = mir_eval.util.adjust_intervals(est, list(letters), 0.0, end)
    return {
        "F .5": mir_eval.segment.detection(ref, est, window=0.5, trim=True)[2],
        "F 3": mir_eval.segment.detection(ref, est, window=3.0, trim=True)[2],
        "pairs": mir_eval.segment.pairwise(r, n, e, x)[2],
    }


def stretches(starts: np.ndarray, end: float) -> np.ndarray:
    edges = np.append(starts, max(end, float(starts[-1]) + 0.1))
    return np.stack([edges[:-1], edges[1:]], axis=1)


def librosa_form(path: Path, beats: np.ndarray, count: int) -> tuple[np.ndarray, list[str]]:
    """Sections by librosa's agglomerative clustering on the true beats, told how many there are."""
    import librosa

    y, rate = librosa.load(path, sr=22_050)
    chroma = librosa.feature.chroma_cqt(y=y, sr=rate)
    timbre = librosa.feature.mfcc(y=y, sr=rate, n_mfcc=13)
    frames = librosa.util.fix_frames(librosa.time_to_frames(beats, sr=rate), x_max=chroma.shape[1])
    both = [librosa.util.normalize(librosa.util.sync(x, frames), axis=1) for x in (chroma, timbre)]
    x = np.concatenate(both)
    edges = librosa.segment.agglomerative(librosa.feature.stack_memory(x, n_steps=8, mode="edge"), count)
    times = librosa.frames_to_time(frames, sr=rate)
    means = np.stack([part.mean(axis=1) for part in np.split(x, edges[1:], axis=1)])
    letters = ["0"]
    for k in range(1, len(means)):
        d = np.linalg.norm(means[:k] - means[k], axis=1)
        letters.append(letters[int(d.argmin())] if d.min() < 0.5 * np.linalg.norm(means.std(axis=0)) * 2 else str(k))
    return times[edges], letters


def spectral_form(path: Path, beats: np.ndarray, count: int, kinds: int) -> tuple[np.ndarray, list[str]]:
    """Sections by Laplacian spectral clustering on the true beats: McFee & Ellis, ISMIR 2014, with their constants.

    Repetition in chroma over the whole track and likeness of timbre from beat to beat make one graph; beats are
    clustered by the first `kinds` eigenvectors of its normalised Laplacian, and where the cluster changes a section
    begins; of those the `count` - 1 nearest to no others stay.
    """
    import librosa
    from scipy.ndimage import median_filter
    from sklearn.cluster import KMeans

    y, rate = librosa.load(path, sr=22_050)
    chroma = librosa.amplitude_to_db(np.abs(librosa.cqt(y=y, sr=rate, bins_per_octave=36, n_bins=7 * 36)), ref=np.max)
    frames = librosa.util.fix_frames(librosa.time_to_frames(beats, sr=rate), x_max=chroma.shape[1])
    times = librosa.frames_to_time(frames, sr=rate)
    c = librosa.util.sync(chroma, frames, aggregate=np.median)
    near = librosa.segment.recurrence_matrix(c, width=3, mode="affinity", sym=True)
    near = np.nan_to_num(librosa.segment.timelag_filter(median_filter)(near, size=(1, 7)))
    timbre = librosa.util.sync(librosa.feature.mfcc(y=y, sr=rate), frames)
    step = np.sum(np.diff(timbre, axis=1) ** 2, axis=0)
    path_sim = np.exp(-step / max(float(np.median(step)), 1e-9))
    chain = np.diag(path_sim, k=1) + np.diag(path_sim, k=-1)
    mu = np.sum(chain, axis=1).dot(np.sum(chain + near, axis=1)) / np.sum(np.sum(chain + near, axis=1) ** 2)
    a = mu * near + (1 - mu) * chain
    degree = np.maximum(a.sum(axis=1), 1e-9)
    laplacian = np.eye(len(a)) - a / np.sqrt(degree[:, None] * degree[None])
    _, vectors = np.linalg.eigh(laplacian)
    vectors = median_filter(vectors, size=(9, 1))
    norm = np.sqrt(np.cumsum(vectors**2, axis=1))
    x = vectors[:, :kinds] / np.maximum(norm[:, kinds - 1 : kinds], 1e-9)
    found = KMeans(n_clusters=kinds, n_init=10, random_state=0).fit_predict(x)
    edges = np.concatenate([[0], np.flatnonzero(np.diff(found)) + 1])
    while len(edges) > max(2, count):
        edges = np.delete(edges, int(np.argmin(np.diff(edges))) + 1)
    return times[edges], [str(found[e]) for e in edges]


def one(path: Path) -> dict[str, Any] | None:
    """All figures of one recording."""
    known = truth_of(path)
    audio = next((p for s in (".ogg", ".flac") if (p := path.with_suffix(s)).exists()), None)
    if known is None or audio is None:
        return None
    starts, names, data = known
    facts, evidence = analysis.analyse(audio)
    p = recommend(evidence, facts.duration)
    if p.grid is None:
        return None
    end = float(data["downbeats"][-1])
    ref = stretches(starts, end)
    row: dict[str, Any] = {"name": path.stem, "class": data.get("class", "demo")}
    row["musical"] = row["class"] not in TEMPO and not EVENTS.issuperset(names)
    began = time.process_time()
    found = phrase_edits.read(evidence, p.grid, facts.duration)
    row["seconds"], row["minutes"] = time.process_time() - began, facts.duration / 60
    if found is None:
        return None
    times = np.maximum(0.0, p.grid.time_at([q.start for q in found.phrases] + [found.end]))
    est = stretches(times[:-1], float(times[-1]))
    row |= scores(ref, names, est, [q.letter for q in found.phrases], facts.duration)
    firsts = [s.first for s in found.sections]
    whole = stretches(times[firsts], float(times[-1]))
    of_sections = scores(ref, names, whole, [found.phrases[i].letter for i in firsts], facts.duration)
    row |= {f"sections {k}": v for k, v in of_sections.items()}
    near = np.abs(times[:-1, None] - starts[None])
    wanted = [NAMES.get(n, n) for n in names]
    named = [k for k, n in enumerate(wanted) if n in labelling.ROLES]
    if named:
        right = [found.phrases[int(near[:, k].argmin())].role == wanted[k] and near[:, k].min() < 0.5 for k in named]
        row["roles"] = float(np.mean(right))
    lengths = [round(x) for x in phrase_edits.bars_in(p.grid, found)]
    true = [s["bars"] for s in data["sections"]] if all("bars" in s for s in data["sections"]) else []
    if true:
        # a section is right where one of ours, or a row of phrases of ours, begins with it and has as many bars
        begins = np.concatenate([[0], np.cumsum(lengths)])
        at = [int(near[:, k].argmin()) for k in range(len(wanted))]
        exact = [
            near[:, k].min() < 0.5 and begins[at[k]] + n in begins.tolist() for k, n in enumerate(true[: len(wanted)])
        ]
        row["lengths"] = float(np.mean(exact))
    if any("raised" in s for s in data["sections"]):
        row["step"] = (data["sections"][-1].get("raised", 0), found.phrases[-1].raised)
    row["got"], row["true"] = lengths, true or [round(float(x), 1) for x in starts]
    position = np.where(np.isin(data["beats"], data["downbeats"]), 1, 2)
    grid = beatlist.to_grid(np.array(data["beats"]), position)
    described = bar_features.describe(evidence, grid, facts.duration)
    if described is not None:
        edges = np.maximum(0.0, described.times[segmentation.outline(described).edges[:-1]])
        row["F .5 true grid"] = mir_eval.segment.detection(
            ref, stretches(edges, float(described.times[-1])), window=0.5, trim=True
        )[2]
    if importlib.util.find_spec("librosa") is not None:
        at, letters = librosa_form(audio, np.array(data["beats"]), len(starts))
        theirs = scores(ref, names, stretches(at, end), letters, facts.duration)
        row |= {f"librosa {k}": v for k, v in theirs.items()}
        at, letters = spectral_form(audio, np.array(data["beats"]), len(starts), max(2, len(set(names))))
        theirs = scores(ref, names, stretches(at, end), letters, facts.duration)
        row |= {f"spectral {k}": v for k, v in theirs.items()}
    return row


def table(rows: list[dict[str, Any]]) -> None:
    groups: dict[str, list[dict[str, Any]]] = defaultdict(list)
    for r in rows:
        groups[r["class"]].append(r)
        groups["ALL"].append(r)
        if r["musical"]:
            groups["FORM"].append(r)
    print(f"{'':10s}   n " + " ".join(f"{c:>15s}" for c in COLUMNS))
    for name, group in sorted(groups.items(), key=lambda kv: (kv[0] in ("ALL", "FORM"), kv[0])):
        cells = []
        for c in COLUMNS:
            have = [r[c] for r in group if c in r]
            cells.append(f"{np.mean(have):15.3f}" if have else f"{'–':>15s}")
        print(f"{name:10s} {len(group):3d} " + " ".join(cells))


def main() -> int:
    """Print the table, then each recording's lengths."""
    folders = [Path(a) for a in sys.argv[1:]] or [places.demo_folder(), ROOT.parent / "shared" / "bench" / "items"]
    paths = [p for f in folders if f.is_dir() for p in sorted(f.glob("*.json"))]
    rows = [r for r in spread(one, paths) if r]
    table(rows)
    for r in rows:
        print(f"  {r['name']:26s} F .5 {r['F .5']:.2f}  got {r['got']}  true {r['true']}")
    steps = [r["step"] for r in rows if "step" in r]
    if steps:
        up = [got for true, got in steps if true]
        right, wrong = (
            sum(true == got for true, got in steps if true),
            sum(bool(got) for true, got in steps if not true),
        )
        print(
            f"of {len(up)} tracks whose key goes up {sum(map(bool, up))} are found, {right} by what they go up; "
            f"of {len(steps) - len(up)} that stay where they are {wrong} are said to go up"
        )
    spent = sum(r["seconds"] for r in rows) / sum(r["minutes"] for r in rows)
    print(f"reading the form: {5 * spent:.2f} s of CPU for five minutes (target 3), after hearing")
    return 0


if __name__ == "__main__":
    sys.exit(main())
