"""Takes of songs that other people wrote, with known beats: `.venv/bin/python bench/others.py FOLDER SOUNDFONT ...`.

Then `.venv/bin/python bench/hearing.py --alone FOLDER`. Half are compositions from MIDI files, played by our
instruments (`training.compositions`), half are tracker modules with their own samples (`training.modules`); all are
played at other tempi by people or machines, and worn. Packages are fetched into FOLDER/packages. Nothing was learned
from any of them.
"""

from __future__ import annotations

import argparse
import json
import sys
from functools import partial
from pathlib import Path

import numpy as np

ROOT = Path(__file__).resolve().parent.parent
sys.path[:0] = [str(ROOT)]

from training import compositions, modules, takes
from training.dataset import studio
from training.sounds import RATE, present
from training.spread import spread

FIRST, COUNT, SECONDS = 78_000_000, 120, 75.0


def make(seed: int, *, folder: Path, soundfonts: tuple[Path, ...]) -> bool:
    """Render take `seed` with its truth; whether it has enough beats."""
    import soundfile

    path = folder / f"other{seed - FIRST:03d}.json"
    if path.exists():
        return True
    packages = folder / "packages"
    if seed % 2:
        take = modules.make(modules.modules(packages), seed, seconds=SECONDS)
    else:
        compose = partial(compositions.compose, among=compositions.pieces(packages))
        take = takes.make(studio(soundfonts), seed, seconds=SECONDS, compose=compose)
    if len(take.beats) < 24:
        return False
    soundfile.write(path.with_suffix(".flac"), np.clip(take.samples, -1, 1), RATE)
    kind = "module" if seed % 2 else "composition"
    path.write_text(json.dumps({"class": kind, "beats": take.beats.tolist(), "downbeats": take.downbeats.tolist()}))
    return True


def main() -> int:
    """Render what isn't there yet."""
    parser = argparse.ArgumentParser(prog="bench/others.py", description=__doc__.split("\n")[0])
    parser.add_argument("folder", type=Path)
    parser.add_argument("soundfonts", nargs="+", type=present)
    parser.add_argument("--processes", type=int, default=2)
    options = parser.parse_args()
    options.folder.mkdir(parents=True, exist_ok=True)
    # fetched once, before two processes would
    packages = options.folder / "packages"
    compositions.pieces(packages), modules.modules(packages)
    work = partial(make, folder=options.folder, soundfonts=tuple(options.soundfonts))
    made = sum(spread(work, range(FIRST, FIRST + COUNT), processes=options.processes, most_each=20))
    print(f"{made} of {COUNT} takes in {options.folder}; the others have too few beats")
    return 0


if __name__ == "__main__":
    sys.exit(main())
