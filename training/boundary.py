"""Teach the network that hears where phrases begin: `python -m training.boundary --work FOLDER SOUNDFONT [...]`.

Renders whole songs (`training/forms.py`, and some of `composer.form`), hears them as the program does, follows them,
and learns at which bar lines of the written grid a section begins. Songs after the last one shown are kept back: on
them the measures of mir_eval tell how the written form gains. What is made on the way is kept in FOLDER, and a second
start goes on where the first ended.
"""

from __future__ import annotations

import argparse
import json
import os
import sys
from functools import partial
from pathlib import Path
from typing import Any

import attrs
import numpy as np
from numpy.random import Generator
from numpy.typing import NDArray

from mervid.core.findings.recommendation import recommend
from mervid.core.form import bar_features, boundary_features, boundary_net, novelty, segmentation
from mervid.core.form.bar_features import Bars
from mervid.core.hearing import analysis, beat_net, evidence, spectra, voices
from training import composer, forms, singers, takes
from training.beat_net import Task, learn, yes_or_no
from training.composer import Plan, Song
from training.dataset import studio
from training.sounds import present
from training.spread import spread

FIRST = 5_000_000
SUNG = 5_500_000
"""From here on songs are of voices alone, by `training.singers`: they have a network of their own."""
WIDTH, DILATIONS, STEPS = 24, (1, 2, 4, 8, 16), 800
"""Of the networks: they see 31 bar lines to either side, one less than parts of a long track share."""
GROWS = 0.3
"""What a bar line counts at which players come or go inside a section: it isn't a boundary, and hardly a fault."""
NEAR = 0.3
LONG, SHORT = 200.0, 140.0
OTHER = 3
"""Every so manieth song has one of the forms that the ear learned from."""
DANCED = 4
"""Every so manieth of the others is built as dance music is, whatever its groove: few grooves are of that kind."""


@attrs.frozen(eq=False)
class Heard:
    """A song as it was heard and followed.

    Attributes
    ----------
    bars : the bars of its written grid
    starts, grown : (k,) where a section begins, and where only players come or go, s
    """

    bars: Bars
    starts: NDArray[np.float64]
    grown: NDArray[np.float64]


def make(seed: int, *, folder: Path, soundfonts: tuple[Path, ...]) -> Path | None:
    """Render and hear song `seed`; None where there is too little of it."""
    import soundfile

    path = folder / f"{seed}.ev"
    if path.exists():
        return path
    sections: list[Any] = []
    danced = partial(forms.plan, family=forms.DANCE)
    one: Plan = composer.form if seed % OTHER == 0 else danced if seed % DANCED == 1 else forms.plan
    sung = seed >= SUNG
    seconds = SHORT if sung or one is composer.form else LONG

    def composed(rng: Generator, seconds: float) -> Song:
        song = singers.compose(rng, seconds) if sung else composer.compose(rng, seconds, one)
        sections[:] = song.sections
        return song

    take = takes.make(studio(soundfonts), seed, seconds=seconds, compose=composed)
    if not sections or len(take.beats) < 64:
        return None
    sound = folder / f"{seed}.flac"
    soundfile.write(sound, np.clip(take.samples, -1, 1), spectra.RATE)
    facts, found = analysis.analyse(sound)
    sound.unlink()
    kept = sections[-len(take.sections) :]
    truth = {"duration": facts.duration, "starts": take.sections.tolist()}
    truth |= {"kinds": [s.kind for s in kept], "alike": [s.alike for s in kept]}
    path.with_suffix(".json").write_text(json.dumps(truth))
    part = path.with_suffix(".part")
    part.write_bytes(evidence.to_bytes(found))
    os.replace(part, path)
    return path


def follow(path: Path | None) -> Heard | None:
    """A song under the grid that Mervid would write; None where it has fewer than three sections or no grid."""
    if path is None:
        return None
    truth = json.loads(path.with_suffix(".json").read_text())
    found = evidence.from_bytes(path.read_bytes())
    grid = recommend(found, truth["duration"]).grid
    bars = None if grid is None else bar_features.describe(found, grid, truth["duration"])
    starts = np.array(truth["starts"])
    grown = np.array([k.endswith("+") for k in truth["kinds"]], dtype=bool)
    if bars is None or len(bars) <= 12 or (~grown).sum() < 3:
        return None
    return Heard(bars, starts[~grown], starts[grown])


def lesson(song: Heard) -> tuple[NDArray[np.float32], NDArray[np.float32], NDArray[np.float32]]:
    """Figures of its bar lines, which of them are boundaries, and how much each counts."""
    at = song.bars.times[1:-1]
    right = _near(at, song.starts).astype(np.float32)
    counts = np.where((right == 0) & _near(at, song.grown), GROWS, 1.0).astype(np.float32)
    return boundary_features.features(song.bars), right, counts


def _near(at: NDArray[np.float64], times: NDArray[np.float64]) -> NDArray[np.bool_]:
    if not len(times):
        return np.zeros(len(at), dtype=bool)
    return np.asarray(np.abs(at[:, None] - times).min(axis=1) < NEAR)


def task(songs: list[Heard]) -> Task:
    """What the networks learn."""
    rows, right, counts = (list(x) for x in zip(*(lesson(s) for s in songs), strict=True))
    return Task(rows, right, counts, dilations=DILATIONS, steps=STEPS, loss=yes_or_no(), width=WIDTH)


def score(songs: list[Heard], odds: Any, count: float) -> tuple[float, float, float]:
    """Mean precision, recall and F of boundaries at 0.5 s (Turnbull et al., ISMIR 2007)."""
    import mir_eval

    def spans(times: NDArray[np.float64], end: float) -> NDArray[np.float64]:
        edges = np.unique(np.maximum(0, np.append(times, end)))
        return np.stack([edges[:-1], edges[1:]], axis=1)

    rows = []
    for s in songs:
        edges = segmentation.without_ring(
            s.bars, segmentation.best_edges(odds(s.bars) + segmentation.tempo_odds(s.bars), count=count)
        )
        est = s.bars.times[edges[:-1]]
        end = max(est.max(), s.starts.max()) + 5
        rows.append(mir_eval.segment.detection(spans(s.starts, end), spans(est, end), window=0.5, trim=True))
    return tuple(np.nanmean(rows, axis=0))


def main() -> int:
    """Render, hear, learn, write, judge."""
    parser = argparse.ArgumentParser(prog="python -m training.boundary", description=__doc__.split("\n")[0])
    parser.add_argument("soundfonts", nargs="+", type=present)
    parser.add_argument("--work", type=Path, required=True)
    parser.add_argument("--songs", type=int, default=900, help="songs to learn from")
    parser.add_argument("--voices", type=int, default=500, help="songs of voices alone to learn from")
    parser.add_argument("--judged", type=int, default=120, help="songs of either kind kept back")
    parser.add_argument("--out", type=Path, default=boundary_net.WEIGHTS)
    options = parser.parse_args()
    options.work.mkdir(parents=True, exist_ok=True)
    work = partial(make, folder=options.work, soundfonts=tuple(options.soundfonts))
    boundary_net.WEIGHTS = options.out
    for first, count, out in (
        (FIRST, options.songs, options.out),
        (SUNG, options.voices, voices.theirs(options.out)),
    ):
        heard = [follow(p) for p in spread(work, range(first, first + count + options.judged), most_each=100)]
        shown, kept = ([s for s in part if s is not None] for part in (heard[:count], heard[count:]))
        np.savez_compressed(out, **learn(task(shown)))
        beat_net.load.cache_clear()
        print(f"{len(shown)} songs shown, {len(kept)} kept back; precision, recall, F at 0.5 s")
        for name, odds, lengths in (
            ("by hand", lambda b: novelty.boundary_odds(novelty.changes(b)), segmentation.BY_HAND_COUNT),
            ("by the network", boundary_net.odds, segmentation.LENGTHS_COUNT),
        ):
            print(f"  {name}: " + " ".join(f"{v:.3f}" for v in score(kept, odds, lengths)))
    return 0


if __name__ == "__main__":
    sys.exit(main())
