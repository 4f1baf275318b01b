"""Takes on disk: what the ear reads of each and its truth, one .npz per take, made by several processes."""

from __future__ import annotations

import os
from functools import cache
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from mervid.core.hearing import spectra
from training.kits import Kit
from training.render import Studio
from training.sounds import SoundFont
from training.spread import spread
from training.takes import make

FIRST_VALIDATION = 1_000_000


@cache
def studio(instruments: tuple[Path, ...]) -> Studio:
    """What plays, from soundfonts and sheets of drum kits (.xml), made once in each process."""
    sheets = [p for p in instruments if p.suffix == ".xml"]
    return Studio([SoundFont(p) for p in instruments if p not in sheets], [Kit(p) for p in sheets])


def _write(job: tuple[int, Path, tuple[Path, ...], bool]) -> str:
    import soundfile

    seed, folder, soundfonts, keep = job
    path = folder / f"{seed:07d}.npz"
    if path.exists():
        return path.name
    take = make(studio(soundfonts), seed)
    if keep:
        soundfile.write(folder / f"{seed:07d}.flac", np.clip(take.samples, -1, 1), spectra.RATE)
    part = path.with_suffix(".part.npz")
    np.savez(
        part,
        features=spectra.read(take.samples),
        beats=take.beats,
        downbeats=take.downbeats,
        sections=take.sections,
        drums=take.drums,
        voice=take.voice,
        family=np.array(take.family),
    )
    os.replace(part, path)
    return path.name


def build(folder: Path, soundfonts: list[Path], seeds: range, *, processes: int = 2, keep_audio: bool = False) -> None:
    """Render the takes of `seeds` that are not there yet."""
    folder.mkdir(parents=True, exist_ok=True)
    jobs = [(s, folder, tuple(soundfonts), keep_audio) for s in seeds]
    # fresh processes now and then: recorded notes are kept in memory
    for k, _ in enumerate(spread(_write, jobs, processes=processes, most_each=150), 1):
        if k % 50 == 0:
            print(f"rendered {k} of {len(jobs)}", flush=True)


def load(folder: Path, name: str) -> tuple[NDArray[np.uint8], dict[str, NDArray[np.float64]], str]:
    """One take back: features, truth by name, family.

    Of a take made of a real recording not all is known: "known" are the stretches in which anything is, "tasks" which
    of the ear's answers are (1) or aren't (0).
    """
    with np.load(folder / name) as z:
        truth = {k: z[k] for k in ("beats", "downbeats", "sections", "drums", "voice")}
        truth |= {k: z[k] for k in ("known", "tasks") if k in z}
        return z["features"], truth, str(z["family"])
