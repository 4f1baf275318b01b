"""Takes as the program hears them, on disk, with their truth: what networks over beats learn from."""

from __future__ import annotations

import os
from functools import partial
from pathlib import Path

import attrs
import numpy as np
from numpy.typing import NDArray

from mervid.core.hearing import ear, features, spectra
from mervid.core.hearing.ear import Strengths
from mervid.core.hearing.scene import Scene, scene
from training import composer, forms, grooves, render, singers, takes
from training.composer import Compose
from training.dataset import studio

Singles = NDArray[np.float32]
FIRST = 6_000_000
SIXES = 6_050_000
"""From here on takes are in six eighths; few of the others are."""
DRIVES = 6_070_000
"""From here on takes are slow drives in sixteenths; few of the others are."""
FAST = 6_080_000
"""From here on takes are fast; few of the others are."""
BEGINNINGS = 6_100_000
"""From here on takes are short, and `PRELUDES` of them begin long before their music."""
VOICES = 6_200_000
"""From here on takes are of voices alone, by `training.singers`; few of the others are."""
WORDED = 6_280_000
"""From here on they sing words, by `training.lyrics`."""
TALK = 6_300_000
"""From here on somebody talks, at no pulse."""
NOISES = 6_400_000
"""From here on there is noise, or syllables at random."""
SHORTEST, SHORT, LONG = 40.0, 75.0, 110.0
PRELUDES = 0.7
OTHER = 3
"""Every so manieth take is a song of `training.forms`."""


def _shape(seed: int) -> tuple[float, composer.Plan]:
    """How long a take of a band is at most, s, and what plans its form."""
    return (LONG, forms.plan) if seed % OTHER == 1 else (SHORT, composer.form)


def sings_alone(seed: int) -> bool:
    """Whether take `seed` of those from `FIRST` on is of voices alone: told by its score, before it is rendered."""
    seconds, plan = _shape(seed)
    _, song = takes.composed(seed, seconds=seconds, plan=plan)
    return song is not None and song.sung_alone


def make(seed: int, *, folder: Path, soundfonts: tuple[Path, ...]) -> Path | None:
    """Render and hear take `seed`; None where it has too few beats."""
    path = folder / f"{seed}.npz"
    if path.exists():
        return path
    seconds, plan = _shape(seed)
    preludes = 0.0
    compose: Compose | None = None
    if seed >= VOICES:
        seconds, compose = SHORT, singers.compose
    elif seed >= BEGINNINGS:
        seconds, preludes = SHORTEST, PRELUDES
    elif seed >= SIXES:
        among = grooves.FAST if seed >= FAST else grooves.DRIVES if seed >= DRIVES else grooves.COMPOUND
        compose = partial(composer.compose, plan=plan, among=among)
    if seed >= TALK:
        take = (takes.noise if seed >= NOISES else takes.talk)(seed, seconds=seconds)
    else:
        worded = 1.0 if seed >= WORDED else render.WORDED
        how = dict(plan=plan, compose=compose, preludes=preludes, worded=worded)
        take = takes.make(studio(soundfonts), seed, seconds=seconds, **how)
        if len(take.beats) < 24:
            return None
    samples = take.samples.astype(np.float32)
    sound = features.listen(samples, spectra.RATE)
    said = sound.strengths
    if said is None:
        raise RuntimeError(sound.problem)
    part = path.with_suffix(".part.npz")
    np.savez(
        part,
        features=spectra.read(samples),
        beats=take.beats,
        downbeats=take.downbeats,
        sections=take.sections,
        family=np.array(take.family),
        attack=np.rint(sound.attack * 255).astype(np.uint8),
        chroma=sound.chroma,
        colour=sound.colour,
        duration=np.array(sound.duration),
        **{k: getattr(said, k) for k in ("beat", "downbeat", "section", "drums", "voice", "tempo")},
    )
    os.replace(part, path)
    return path


@attrs.frozen(eq=False)
class Read:
    """A take as it lies on disk: what was heard of it, and its truth in s."""

    ear: Strengths
    seen: Scene
    attack: Singles
    duration: float
    beats: NDArray[np.float64]
    downbeats: NDArray[np.float64]


def read(path: Path, *, sung: bool = False) -> Read:
    """A take as `make` kept it; if `sung`, voices alone are as their own ear hears them, where there is one."""
    with np.load(path) as z:
        names = ("beat", "downbeat", "section", "drums", "voice")
        said = Strengths(*(z[k] for k in names), z["tempo"].astype(np.float32), ear.load().calibration)
        said = (ear.sung(said, z["features"]) if sung else None) or said
        seen = scene(z["features"], z["chroma"], z["colour"])
        attack = z["attack"].astype(np.float32) / np.float32(255)
        return Read(said, seen, attack, float(z["duration"]), z["beats"], z["downbeats"])


def nearest(to: NDArray[np.float64], times: NDArray[np.float64]) -> NDArray[np.float64]:
    """The one of ascending `to` that is nearest to each time; far away where there is none."""
    if not len(to):
        return np.full(len(times), np.inf)
    i = np.searchsorted(to, times)
    before, after = to[np.maximum(i - 1, 0)], to[np.minimum(i, len(to) - 1)]
    return np.where(np.abs(times - before) < np.abs(after - times), before, after)
