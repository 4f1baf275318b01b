"""What `songs.py` and `others.py` share: takes of many seeds rendered into a folder, each with its truth beside it."""

from __future__ import annotations

import argparse
import json
from collections.abc import Callable, Sequence
from functools import partial
from pathlib import Path
from typing import Any

import numpy as np

from training.render import Take
from training.sounds import RATE, present
from training.spread import spread


def keep(path: Path, take: Take, kind: str, **more: Any) -> None:
    """Write a take as FLAC, and beside it at `path` its beats, its class and what `more` is known."""
    import soundfile

    soundfile.write(path.with_suffix(".flac"), np.clip(take.samples, -1, 1), RATE)
    truth = {"class": kind, "beats": take.beats.tolist(), "downbeats": take.downbeats.tolist()}
    path.write_text(json.dumps(truth | more))


def render_all(
    make: Callable[..., bool],
    seeds: Sequence[int],
    *,
    prog: str,
    about: str,
    name: str,
    others: str,
    before: Callable[[Path], object] = lambda folder: None,
) -> int:
    """The command line of a bench that renders: what isn't there yet, and how much there is.

    Parameters
    ----------
    make : takes a seed, a folder and soundfonts; says whether it made something of use
    name, others : what is made, and what is wrong with what isn't
    before : is called with the folder once, before several processes work in it
    """
    parser = argparse.ArgumentParser(prog=prog, description=about.split("\n", maxsplit=1)[0])
    parser.add_argument("folder", type=Path)
    parser.add_argument("soundfonts", nargs="+", type=present)
    parser.add_argument("--processes", type=int, default=2)
    options = parser.parse_args()
    options.folder.mkdir(parents=True, exist_ok=True)
    before(options.folder)
    work = partial(make, folder=options.folder, soundfonts=tuple(options.soundfonts))
    made = sum(spread(work, seeds, processes=options.processes, most_each=20))
    print(f"{made} of {len(seeds)} {name} in {options.folder}; {others}")
    return 0
