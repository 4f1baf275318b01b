"""Render the small set that the tests hear: `python -m training.material SOUNDFONT [SOUNDFONT ...]`.

Half a minute of each of several kinds, from seeds that neither training nor validation uses.
"""

from __future__ import annotations

import json
import sys
from functools import partial
from pathlib import Path

import numpy as np

from training import composer, grooves, singers
from training.render import Studio, Take
from training.sounds import RATE, SoundFont, encode
from training.takes import make, talk

FIRST = 2_000_000
FOLDER = Path(__file__).resolve().parent.parent / "tests" / "material"
KINDS = ("disco", "funk", "hiphop", "rock", "dance", "waltz", "pop", "none")
VOICE, TALK = 2_100_006, 2_200_000
"""Seeds of a voice alone and of somebody who talks."""
ODD = {5: ("five", 2_300_000), 7: ("seven", 2_400_000)}
"""Names and seeds of takes with so many beats in a bar."""
SECONDS, OF_ODD = 28.0, 36.0


def main() -> int:
    """Write one take of each kind, with its truth."""
    if len(sys.argv) < 2:
        print("training.material: name at least one soundfont", file=sys.stderr)
        return 2
    studio = Studio([SoundFont(Path(p)) for p in sys.argv[1:]])
    FOLDER.mkdir(exist_ok=True)
    missing, seed = list(KINDS), FIRST
    while missing:
        take = make(studio, seed, seconds=SECONDS)
        if take.family in missing:
            missing.remove(take.family)
            _write(take, seed)
        seed += 1
    _write(make(studio, VOICE, seconds=SECONDS, compose=singers.compose, worded=0.0), VOICE)
    _write(talk(TALK, seconds=SECONDS), TALK)
    for beats, (name, seed) in ODD.items():
        compose = partial(composer.compose, among=grooves.ODD[beats])
        _write(make(studio, seed, seconds=OF_ODD, compose=compose), seed, name)
    return 0


def _write(take: Take, seed: int, name: str = "") -> None:
    name = name or take.family
    truth = {"class": name, "beats": take.beats, "downbeats": take.downbeats}
    text = json.dumps({k: v if isinstance(v, str) else np.round(v, 5).tolist() for k, v in truth.items()})
    (FOLDER / f"{name}.json").write_text(text + "\n", "utf-8")
    encode(FOLDER / f"{name}.ogg", take.samples, form="OGG", subtype="VORBIS", level=0.7)
    print(f"{name}: seed {seed}, {len(take.samples) / RATE:.1f} s, {len(take.beats)} beats")


if __name__ == "__main__":
    sys.exit(main())
