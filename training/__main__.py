"""Make Mervid's ear from nothing: `python -m training --work FOLDER SOUNDFONT [SOUNDFONT ...]`.

Renders the takes, trains the network, writes its weights into the product, judges them on validation takes (the
figures go to FOLDER/figures.txt) and sets the confidence by those. Everything made on the way is kept in FOLDER, and
a second start goes on where the first ended.
Needs `pip install -e .[training]`, tinysoundfont (`pip install --no-deps tinysoundfont==0.3.7`) and espeak-ng.
"""

from __future__ import annotations

import argparse
import sys
from pathlib import Path

from mervid.core.hearing import ear
from training import dataset
from training.sounds import present


def main() -> int:
    """Run the steps."""
    parser = argparse.ArgumentParser(prog="python -m training", description=__doc__.split("\n")[0])
    parser.add_argument(
        "soundfonts", nargs="+", type=present, help="General MIDI soundfonts and drumkit.xml, freely licensed"
    )
    parser.add_argument("--work", type=Path, required=True, help="folder for takes and checkpoints")
    parser.add_argument("--first", type=int, default=0, help="number of the first take; a new round takes new ones")
    parser.add_argument("--takes", type=int, default=2000)
    parser.add_argument("--validation", type=int, default=96)
    parser.add_argument("--minutes", type=float, default=68.0, help="time to train for")
    parser.add_argument("--start", type=Path, help="a checkpoint to go on from")
    parser.add_argument("--rate", type=float, help="the highest learning rate")
    parser.add_argument("--out", type=Path, default=ear.WEIGHTS)
    options = parser.parse_args()
    from training import export, judge, learn

    takes, validation = options.work / "takes", options.work / "validation"
    dataset.build(takes, options.soundfonts, range(options.first, options.first + options.takes))
    first = dataset.FIRST_VALIDATION + options.first
    dataset.build(validation, options.soundfonts, range(first, first + options.validation), keep_audio=True)
    net = learn.learn(
        takes, minutes=options.minutes, start=options.start, out=options.work / "ear.pt", rate=options.rate
    )
    export.export(net, options.out)
    export.calibrate(options.out, judge.judge(options.out, validation, out=options.work / "figures.txt"))
    print(f"written: {options.out} ({options.out.stat().st_size / 1000:.0f} kB)")
    return 0


if __name__ == "__main__":
    sys.exit(main())
