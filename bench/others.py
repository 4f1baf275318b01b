"""Takes of songs that other people wrote, with known beats: `.venv/bin/python bench/others.py FOLDER SOUNDFONT ...`.

Then `.venv/bin/python bench/hearing.py --alone FOLDER`. Half are compositions from MIDI files, played by our
instruments (`training.compositions`), half are tracker modules with their own samples (`training.modules`); all are
played at other tempi by people or machines, and worn. Packages are fetched into FOLDER/packages. Nothing was learned
from any of them.
"""

from __future__ import annotations

import sys
from functools import partial
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
sys.path[:0] = [str(ROOT), str(ROOT / "bench")]

from rendering import keep, render_all

from training import compositions, modules, takes
from training.dataset import studio

FIRST, COUNT, SECONDS = 78_000_000, 120, 75.0
PACKAGES = "packages"


def make(seed: int, *, folder: Path, soundfonts: tuple[Path, ...]) -> bool:
    """Render take `seed` with its truth; whether it has enough beats."""
    path = folder / f"other{seed - FIRST:03d}.json"
    if path.exists():
        return True
    packages = folder / PACKAGES
    if seed % 2:
        take = modules.make(modules.modules(packages), seed, seconds=SECONDS)
    else:
        compose = partial(compositions.compose, among=compositions.pieces(packages))
        take = takes.make(studio(soundfonts), seed, seconds=SECONDS, compose=compose)
    if len(take.beats) < 24:
        return False
    keep(path, take, "module" if seed % 2 else "composition")
    return True


def fetch(folder: Path) -> None:
    """Fetch what is played, once."""
    packages = folder / PACKAGES
    compositions.pieces(packages), modules.modules(packages)


def main() -> int:
    """Render what isn't there yet."""
    return render_all(
        make,
        range(FIRST, FIRST + COUNT),
        prog="bench/others.py",
        about=str(__doc__),
        name="takes",
        others="the others have too few beats",
        before=fetch,
    )


if __name__ == "__main__":
    sys.exit(main())
