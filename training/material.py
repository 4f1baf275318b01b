"""Render the small set that the tests hear: `python -m training.material SOUNDFONT [SOUNDFONT ...]`.

Half a minute of each of several kinds, from seeds that neither training nor validation uses.
"""

from __future__ import annotations

import json
import sys
from pathlib import Path

import numpy as np

from training import singers
from training.render import Studio, Take
from training.sounds import RATE, SoundFont, encode
from training.takes import make, talk

FIRST = 2_000_000
FOLDER = Path(__file__).resolve().parent.parent / "tests" / "material"
KINDS = ("disco", "funk", "hiphop", "rock", "dance", "waltz", "pop", "none")
VOICE, TALK = 2_100_006, 2_200_000
"""Seeds of a voice alone and of somebody who talks."""
SECONDS = 28.0


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
    _write(make(studio, VOICE, seconds=SECONDS, compose=singers.compose), VOICE)
    _write(talk(TALK, seconds=SECONDS), TALK)
    return 0


def _write(take: Take, seed: int) -> None:
    truth = {"class": take.family, "beats": take.beats, "downbeats": take.downbeats}
    text = json.dumps({k: v if isinstance(v, str) else np.round(v, 5).tolist() for k, v in truth.items()})
    (FOLDER / f"{take.family}.json").write_text(text + "\n", "utf-8")
    encode(FOLDER / f"{take.family}.ogg", take.samples, form="OGG", subtype="VORBIS", level=0.7)
    print(f"{take.family}: seed {seed}, {len(take.samples) / RATE:.1f} s, {len(take.beats)} beats")


if __name__ == "__main__":
    sys.exit(main())
