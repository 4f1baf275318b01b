"""The command of a small fit: examples out of folders of takes, what they teach, and what that is worth."""

from __future__ import annotations

import argparse
from collections.abc import Callable
from pathlib import Path
from typing import Protocol, TypeVar

import numpy as np
from numpy.typing import NDArray

from training.spread import spread

Floats = NDArray[np.float64]


class OfFolder(Protocol):
    """What is learned from, which knows where it is from."""

    @property
    def folder(self) -> str: ...


R = TypeVar("R")
E = TypeVar("E", bound=OfFolder)


def examples(prog: str, about: str, make: Callable[[Path], R]) -> tuple[list[R], list[R]]:
    """What `make` makes of each take in the folders on the command line, and in those after `--judged`."""
    parser = argparse.ArgumentParser(prog=f"python -m {prog}", description=about.split("\n", maxsplit=1)[0])
    parser.add_argument("takes", nargs="+", type=Path)
    parser.add_argument("--judged", nargs="*", type=Path, default=[])
    options = parser.parse_args()
    shown, other = (
        [made for f in folders for made in spread(make, sorted(f.glob("*.npz")), most_each=120)]
        for folders in (options.takes, options.judged)
    )
    return shown, other


def judged_by_folder(
    prog: str,
    about: str,
    example: Callable[[Path], E | None],
    fitted: Callable[[list[E]], Floats],
    judged: Callable[[list[E], Floats], NDArray[np.int64]],
    words: str,
) -> int:
    """The whole command: weights by examples, and what these mend and spoil in `words`."""
    shown, other = ([e for e in made if e is not None] for made in examples(prog, about, example))
    names = sorted({e.folder for e in shown})
    parts = {name: [[e for e in shown if (e.folder == name) == own] for own in (True, False)] for name in names}
    total = sum((judged(own, fitted(rest)) for own, rest in parts.values() if rest), np.zeros(4, int))
    print(words.format("each folder by the others", *total))
    weights = np.round(fitted(shown), 3)
    print(f"_WEIGHTS = np.array({weights.tolist()})")
    for folder in sorted({e.folder for e in other}):
        print(words.format(folder, *judged([e for e in other if e.folder == folder], weights)))
    return 0
