"""Loops as people cut them: `.venv/bin/python bench/loops.py [COUNT]`.

Renders files of half a bar to 16 bars from the generator's grooves (drums, hats, bass; straight or swung; by
machine or by hand; at any tempo), cut to a whole number of beats, and music cut anywhere else. Told is how often the
tempo of the length and bar 1 on the first hit come out, and how often music is taken for a loop.
"""

from __future__ import annotations

import sys
from collections import Counter, defaultdict
from pathlib import Path

import numpy as np
from numpy.random import Generator
from numpy.typing import NDArray

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT))

from training import grooves, sounds
from training.spread import spread

BARS = (0.5, 1, 1, 2, 2, 4, 4, 8, 16)
HATS = set("HPOADMQ")
RATE = sounds.RATE
Wave = NDArray[np.float32]


def hits(rng: Generator, groove: grooves.Groove, kind: str, beats: int) -> list[tuple[float, str, float]]:
    """(beat, key, level) of each stroke or note; none where the first beat is left open."""
    lines = groove.lines
    if kind == "hats":
        lines = {k: v for k, v in lines.items() if k in HATS}
    elif kind == "bass":
        lines = {"bass": lines.get("K") or next(iter(lines.values()))}
    swing = float(rng.uniform(0, 0.16)) if rng.random() < 0.3 else 0.0
    out = []
    for step in range(beats * groove.steps):
        late = swing / 2 if groove.steps == 4 and step % 2 else 0.0
        for key, line in lines.items():
            level = {"x": 1.0, "o": 0.7, "-": 0.4, "?": 0.5 * (rng.random() < 0.5)}.get(line[step % len(line)], 0.0)
            if level:
                out.append((step / groove.steps + late, key, level))
    return out if out and out[0][0] == 0 else []


def render(rng: Generator, notes: list[tuple[float, str, float]], tempo: float, beats: int) -> Wave:
    """The strokes as sound, tails running round."""
    n = round(beats * 60 / tempo * RATE)
    out = np.zeros(n, np.float32)
    kit = sounds.own_kit(rng)
    spread_of_hand = 0.0 if rng.random() < 0.6 else float(rng.uniform(0.001, 0.006))
    for beat, key, level in notes:
        if key == "bass":
            hz = 41.2 * 2 ** (float(rng.choice([0, 0, 3, 5, 7, 12])) / 12)
            wave = sounds.plucked(rng, hz, 0.4 * 60 / tempo + 0.1, 0.996)
        else:
            wave = kit.get(grooves.KEYS[key], kit[42])
        at = round((beat * 60 / tempo + (rng.normal(0, spread_of_hand) if beat else 0.0)) * RATE)
        places = (at + np.arange(len(wave))) % n
        np.add.at(out, places, level * wave.astype(np.float32))
    return out / np.float32(np.abs(out).max() + 1e-9) * np.float32(0.8)


def judge(seed: int) -> tuple[str, float, str]:
    """Kind, bars and outcome of one file."""
    from mervid.core.hearing import features, loops

    rng = np.random.default_rng([77, seed])
    kind = ("drums", "hats", "bass", "music")[seed % 4]
    notes: list[tuple[float, str, float]] = []
    while not notes:
        groove = grooves.GROOVES[int(rng.integers(len(grooves.GROOVES)))]
        bars = float(rng.choice(BARS)) if groove.beats == 4 else float(rng.choice(BARS[1:]))
        beats = int(groove.beats * bars)
        notes = hits(rng, groove, "drums" if kind == "music" else kind, beats)
    tempo = round(float(rng.uniform(groove.low, groove.high)), int(rng.integers(0, 3)))
    samples = render(rng, notes, tempo, beats)
    if kind == "music":
        # a stretch that is no whole number of half beats
        whole = 60 / tempo * RATE
        samples = np.tile(samples, 2)[: int(len(samples) + (rng.integers(0, 2) + rng.uniform(0.1, 0.4)) * whole)]
    sound = features.listen(samples, RATE)
    assert sound.strengths is not None
    found = loops.find(sound.strengths, sound.attack, sound.rises, sound.duration)
    if kind == "music":
        return kind, bars, "taken for a loop" if found else "right"
    if found is None:
        return kind, bars, "none"
    if found.beats != beats:
        return kind, bars, "half or double" if found.beats / beats in (0.5, 2) else "another tempo"
    exact = abs(found.tempo - 60 * beats * RATE / len(samples)) < 1e-3 and found.start < 0.02
    return kind, bars, "right" if exact and found.beats_per_bar == groove.beats else "bar or start"


def main() -> int:
    """Print what came out."""
    count = int(sys.argv[1]) if len(sys.argv) > 1 else 400
    table: dict[str, Counter[str]] = defaultdict(Counter)
    for kind, bars, outcome in spread(judge, range(count)):
        table[kind][outcome] += 1
        if kind != "music":
            table[f"{bars:g} bars"][outcome] += 1
    for name, part in sorted(table.items()):
        print(f"{name:10s} " + ", ".join(f"{k} {n} of {part.total()}" for k, n in part.most_common()))
    return 0


if __name__ == "__main__":
    sys.exit(main())
