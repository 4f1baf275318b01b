"""Takes in five and seven to the bar, with known beats: `.venv/bin/python bench/odd_bars.py FOLDER SOUNDFONT ...`.

Then `.venv/bin/python bench/hearing.py --alone FOLDER`. By the generator of the training, whose songs are in three and
four: nothing was learned from any of these.
"""

from __future__ import annotations

import sys
from functools import partial
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
sys.path[:0] = [str(ROOT), str(ROOT / "bench")]

from rendering import keep, render_all

from training import composer, grooves, takes
from training.dataset import studio

FIRST, COUNT, SECONDS = 79_000_000, 60, 75.0


def make(seed: int, *, folder: Path, soundfonts: tuple[Path, ...]) -> bool:
    """Render take `seed` with its truth; whether it has enough beats."""
    path = folder / f"odd{seed - FIRST:03d}.json"
    if path.exists():
        return True
    beats = 7 if seed % 2 else 5
    compose = partial(composer.compose, among=grooves.ODD[beats])
    take = takes.make(studio(soundfonts), seed, seconds=SECONDS, compose=compose)
    if len(take.beats) < 24:
        return False
    keep(path, take, "seven" if seed % 2 else "five")
    return True


def main() -> int:
    """Render what isn't there yet."""
    return render_all(
        make,
        range(FIRST, FIRST + COUNT),
        prog="bench/odd_bars.py",
        about=str(__doc__),
        name="takes",
        others="the others have too few beats",
    )


if __name__ == "__main__":
    sys.exit(main())
