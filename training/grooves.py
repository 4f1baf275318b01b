"""Drum patterns of many kinds of music, one bar each, and the fills between sections.

Patterns are written per instrument, one character a step: x loud, o medium, - soft, ? now and then. All are plain
common practice (no source), in steps of a quarter of a beat (thirds where the groove is in triplets).
"""

from __future__ import annotations

import attrs
import numpy as np
from numpy.random import Generator

from training.score import Note

KEYS = {
    "K": 36, "S": 38, "R": 37, "C": 39, "H": 42, "P": 44, "O": 46, "D": 51, "B": 53, "X": 49, "T": 45, "t": 50,
    "f": 41, "A": 70, "M": 54, "W": 56, "u": 63, "g": 64, "n": 60, "m": 61, "v": 75, "i": 65, "j": 66, "G": 67, "Q": 69,
    "z": 62,
}  # fmt: skip


@attrs.frozen
class Groove:
    """One way to play: lines of {instrument: steps}, its tempo range, and how it is usually kept.

    Attributes
    ----------
    low, high : BPM
    steps : steps per beat, 4 or 3
    swing : chance of swung sixteenths (or eighths, for 3/4 and jazz)
    machine : chance of machine time
    family : which bass and chords go with it
    """

    name: str
    lines: dict[str, str]
    low: float
    high: float
    family: str
    beats: int = 4
    steps: int = 4
    swing: float = 0.1
    machine: float = 0.4
    weight: float = 1.0


def _g(name: str, low: float, high: float, family: str, text: str, **rest: float) -> Groove:
    lines = dict(part.split(":") for part in text.split())
    return Groove(name, lines, low, high, family, **rest)  # type: ignore[arg-type]


GROOVES = (
    _g("four", 112, 136, "dance", "K:x...x...x...x... C:....x.......x... O:..x...x...x...x.", machine=0.9, weight=2),
    _g("four shaker", 116, 130, "dance", "K:x...x...x...x... C:....x.......x..? A:o-x-o-x-o-x-o-x- O:..x...x...x...x.", machine=0.9),
    _g("four bare", 112, 150, "dance", "K:x...x...x...x... H:..o...o...o...o.", machine=0.95, weight=0.7),
    _g("kick only", 100, 150, "dance", "K:x...x...x...x...", machine=0.9, weight=0.3),
    _g("disco", 104, 132, "disco", "K:x...x...x...x... S:....x.......x... H:x.-.x.-.x.-.x.-. O:..x...x...x...x.", machine=0.15, weight=1.6),
    _g("disco sixteen", 104, 130, "disco", "K:x...x...x...x... S:....x.......x..- H:x-o-x-o-x-o-x-o-", machine=0.2, weight=1.3),
    _g("disco latin", 108, 128, "disco", "K:x...x...x...x... S:....x.......x... H:x-o-x-o-x-o-x-o- u:..x...x...?.x... g:...x..xx...x..xx W:x...x...x...x...", machine=0.2),
    _g("funk one", 88, 118, "funk", "K:x..x......x..-.. S:....x..-.-..x..- H:x-x-x-x-x-x-x-x-", machine=0.1, weight=1.3),
    _g("funk two", 92, 124, "funk", "K:x.x.......x..x.. S:....x..o.o..x..o H:x.x.x.x.x.x.x.x.", machine=0.1, weight=1.3),
    _g("funk three", 84, 112, "funk", "K:x.....x.-.x..... S:....x..-.-..x.-- H:xxxxxxx.xxxxx.xx O:.......x.....x..", machine=0.1),
    _g("soul", 84, 126, "soul", "K:x.....o.x.o..... S:....x.......x... H:x.o.x.o.x.o.x.o.", machine=0.1, weight=1.4),
    _g("soul four snares", 108, 140, "soul", "K:x.....x.x.....x. S:x...x...x...x... M:....x.......x...", machine=0.1, weight=0.6),
    _g("motor", 118, 150, "soul", "K:x...x.x.x...x.x. S:x...x...x...x... H:x.x.x.x.x.x.x.x.", machine=0.1, weight=0.4),
    _g("boom-bap", 80, 100, "hiphop", "K:x......?..x..... S:....x.......x... H:x.x.x.x.x.x.x.x.", swing=0.7, machine=0.7, weight=1.6),
    _g("boom-bap two", 78, 100, "hiphop", "K:x.?....x.xx..?.. S:....x.......x.-. H:x.o.x.o.x.o-x.o.", swing=0.7, machine=0.7, weight=1.4),
    _g("boom-bap bare", 76, 98, "hiphop", "K:x..x...?..x..?.. S:....x.......x...", swing=0.5, machine=0.7),
    _g("slow sixteen", 62, 84, "hiphop", "K:x.....x.?.x..... S:....x.......x... H:x-o-x-o-x-oox-o-", swing=0.3, machine=0.8, weight=0.8),
    _g("half-time", 130, 158, "hiphop", "K:x.......?...?... C:........x....... H:x.x.x.x.x.x.x.xx", machine=0.9, weight=0.7),
    _g("half-time three", 126, 160, "hiphop", "K:x.........?. S:......x..... H:x.xx.xx.xxxx", steps=3, machine=0.9, weight=0.3),
    _g("half-time rock", 110, 150, "rock", "K:x...?.x.....?... S:........x....... D:x...x...x...x...", machine=0.3, weight=0.4),
    _g("rock", 96, 176, "rock", "K:x.......x.x..... S:....x.......x... H:x.x.x.x.x.x.x.x.", machine=0.3, weight=2.2),
    _g("rock two", 90, 170, "rock", "K:x.....x.x......? S:....x.......x... D:x.x.x.x.x.x.x.x.", machine=0.3, weight=1.6),
    _g("rock three", 110, 190, "rock", "K:x.x.....x.x..... S:....x.......x... X:x...x...x...x...", machine=0.4, weight=1.2),
    _g("rock quarters", 120, 200, "rock", "K:x.......x.x...?. S:....x.......x... O:x...x...x...x...", machine=0.4, weight=1.2),
    _g("fast", 150, 208, "rock", "K:x.......x....... S:....x.......x... H:x...x...x...x...", machine=0.4, weight=1.2),
    _g("fast two", 155, 210, "rock", "K:x.....x.x.....x. S:....x.......x... H:x.x.x.x.x.x.x.x.", machine=0.4),
    _g("fast kicks", 140, 205, "rock", "K:x.xxx.xxx.xxx.xx S:....x.......x... D:x...x...x...x...", machine=0.5, weight=0.7),
    _g("rock gallop", 120, 200, "rock", "K:x..x..x.x..x..x. S:....x.......x... X:x...x...x...x...", machine=0.4, weight=0.9),
    _g("rock sixteenths", 88, 126, "rock", "K:x.....x...x..... S:....x.......x... H:xoxoxoxoxoxoxoxo", machine=0.3, weight=0.8),
    _g("rock double kick", 110, 190, "rock", "K:xxxxxxxxxxxxxxxx S:....x.......x... X:x...x...x...x...", machine=0.5, weight=0.7),
    _g("rock heavy half", 100, 150, "rock", "K:x..x..x...x.x... S:........x....... X:x...x...x...x...", machine=0.4, weight=0.6),
    _g("rock wash", 120, 200, "rock", "K:x.....x.x.....?. S:....x.......x... X:x...x...x...x...", machine=0.3, weight=1.2),
    _g("rock floor", 130, 190, "rock", "K:x...x...x...x... S:....x.......x... X:x...x...x...x...", machine=0.3, weight=0.7),
    _g("rock pushed", 100, 180, "rock", "K:x.....x...x...x. S:....x.......x... X:x.x.x.x.x.x.x.x.", machine=0.3, weight=0.9),
    _g("rock skipped", 90, 160, "rock", "K:x..x..x...?x..?. S:....x.......x... H:x.x.x.x.x.x.x.x.", machine=0.3, weight=0.9),
    _g("rock late snare", 110, 180, "rock", "K:x.......x.x..... S:....x.........x. O:x.x.x.x.x.x.x.x.", machine=0.3, weight=0.4),
    _g("fast snares", 160, 230, "rock", "K:x.x.x.x.x.x.x.x. S:.x.x.x.x.x.x.x.x X:x...x...x...x...", machine=0.3, weight=0.3),
    _g("fast stumble", 160, 210, "rock", "K:x.....x...x...x. S:....x.......x... X:x...x...x...x...", machine=0.3, weight=0.6),
    _g("rock six", 120, 190, "rock", "K:x.....x..... S:...x.....x.. X:x..x..x..x..", steps=3, machine=0.3, weight=0.5),
    _g("rock quiet verse", 84, 150, "rock", "K:x.......x....... R:....x.......x... D:x.x.x.x.x.x.x.x.", machine=0.3, weight=0.5),
    _g("rock slow", 64, 100, "rock", "K:x......xx....... S:....x.......x... D:x.x.x.x.x.x.x.x.", machine=0.3, weight=1.0),
    _g("rock slow two", 70, 104, "rock", "K:x..x....x.x..?.. S:....x.......x... H:x.x.x.x.x.x.x.x.", machine=0.3, weight=0.8),
    _g("rock crash", 120, 200, "rock", "K:x...?...x.x.?... S:....x.......x... X:x.x.x.x.x.x.x.x.", machine=0.4, weight=0.9),
    _g("soul slow", 70, 98, "soul", "K:x..x....x.x..... S:....x.......x..- H:x.x.x.x.x.x.x.x.", machine=0.1, weight=0.9),
    _g("pop slow", 68, 98, "pop", "K:x.....xx..x..... S:....x.......x... H:x.x.x.x.x.x.x.x.", machine=0.6, weight=1.0),
    _g("rock toms", 96, 170, "rock", "K:x...x...x...x... f:x.x.x.x.x.x...x. T:........?...x.x. S:....x.......x...", machine=0.3, weight=0.5),
    _g("ballad", 58, 88, "ballad", "K:x.....?.x.x..... R:....x.......x... H:x.o.x.o.x.o.x.o.", machine=0.4, weight=0.8),
    _g("ballad two", 62, 92, "ballad", "K:x.......x.x..... S:....x.......x... D:x.o.x.o.x.o.x.o.", machine=0.4, weight=0.7),
    _g("pop", 92, 130, "pop", "K:x...x...x...x... S:....x.......x... H:x.x.x.x.x.x.x.x.", machine=0.7, weight=1.6),
    _g("pop two", 86, 130, "pop", "K:x.....x...x..... C:....x.......x... A:x-o-x-o-x-o-x-o-", machine=0.7, weight=1.4),
    _g("pop machine", 96, 170, "pop", "K:x.....x.x...?... C:....x.......x... H:x.x.x.x.x.x.x.x.", machine=0.9, weight=1.2),
    _g("broken", 124, 140, "dance", "K:x.........x..... S:....x.......x... H:x.x.x.x.x.x.x.x. S:....x..-.-..x...", machine=0.9, weight=0.8),
    _g("quick break", 158, 180, "dance", "K:x.........x..... S:....x.......x... H:x.x.x.x.x.x.x.x. D:..x...x...x...x.", machine=0.9, weight=0.9),
    _g("quick break two", 155, 178, "dance", "K:x.x.......xx.... S:....x..o.o..x..o D:x.x.x.x.x.x.x.x.", machine=0.8, weight=0.7),
    _g("electro", 105, 134, "dance", "K:x.....x...x..x.. S:....x.......x... H:xxoxxxoxxxoxxxox W:..x..x...?......", machine=0.95, weight=0.8),
    _g("reggae one drop", 64, 92, "reggae", "K:........x....... R:........x....... H:x.o.x.o.x.o.x.o.", swing=0.4, machine=0.2, weight=0.0),
    _g("reggae", 120, 160, "reggae", "K:........x....... R:........x....... H:x.o.x.o.x.o.x.o.", swing=0.3, machine=0.2, weight=0.5),
    _g("steppers", 66, 88, "reggae", "K:x...x...x...x... R:....x.......x..? H:x.ox..oxx.ox..ox", swing=0.5, machine=0.4, weight=0.5),
    _g("reggaeton", 84, 104, "latin", "K:x...x...x...x... S:...x..x....x..x. H:x.x.x.x.x.x.x.x.", machine=0.8, weight=0.8),
    _g("samba", 90, 126, "latin", "K:x..xx..xx..xx..x R:x.x..x.x.xx.x.x. A:xooxxooxxooxxoox", machine=0.1, weight=0.5),
    _g("bossa", 112, 150, "latin", "K:x..x.-..x..x.-.. R:x..x..x...x..x.. H:o.o.o.o.o.o.o.o.", machine=0.1, weight=0.5, swing=0),
    _g("salsa", 80, 108, "latin", "u:..x...x...x...x. g:......xx......xx v:x..x..x...x.x... W:x.x.x.x.x.x.x.x. K:...?..x....?..x.", machine=0.1, weight=0.6),
    _g("conga", 96, 126, "latin", "u:..x...x...x..x.. g:...x..xx...x..xx A:x-o-x-o-x-o-x-o- K:x...?...x...?...", machine=0.2, weight=0.6),
    _g("afro", 98, 124, "latin", "K:x..x..x.x..x..x. S:...x..x...x.x... A:xooxxooxxooxxoox W:x.xx.x.x.xx.x.xx", machine=0.5, weight=0.5),
    _g("country train", 84, 116, "pop", "K:x...x...x...x... S:-o-x-o-x-o-x-o-x", machine=0.2, weight=0.5, swing=0),
    _g("two-beat", 100, 136, "pop", "K:x.......x....... S:....x.......x... H:....x.......x...", machine=0.2, weight=0.5),
    _g("shuffle", 84, 140, "blues", "K:x.....x..... S:...x.....x.. H:x.xx.xx.xx.x", steps=3, machine=0.1, weight=1.0),
    _g("half shuffle", 76, 100, "funk", "K:x....xo..... S:..-.-.x.-..- H:x.xx.xx.xx.x", steps=3, machine=0.1, weight=0.3),
    _g("twelve eight", 54, 84, "ballad", "K:x.....x..x.. S:...x.....x.. H:xooxooxooxoo", steps=3, machine=0.2, weight=0.7),
    _g("swing jazz", 104, 208, "jazz", "D:x..x.xx..x.x P:...x.....x.. K:-..-..-..-..", steps=3, machine=0, weight=0.6),
    _g("brushes", 80, 150, "jazz", "S:o..x..o..x.- P:...x.....x.. D:x..x.xx..x.x", steps=3, machine=0, weight=0.3),
    _g("waltz", 84, 186, "waltz", "K:x........... S:....x...x... H:x...x...x...", beats=3, machine=0.3, weight=0.7),
    _g("three rock", 84, 150, "waltz", "K:x.....x..... S:....x...x... H:x.x.x.x.x.x.", beats=3, machine=0.3, weight=0.5),
    _g("three snare", 90, 180, "waltz", "K:x...x....... S:........x... D:x.x.x.x.x.x.", beats=3, machine=0.3, weight=0.4),
    _g("train", 150, 224, "soul", "K:x.......x....... S:o.o.x.o.o.o.x.o.", machine=0.05, weight=0.5),
    _g("train sixteen", 92, 124, "soul", "K:x...x...x...x... S:-o-ox-o--o-ox-o-", machine=0.05, weight=0.5),
    _g("train bare", 170, 224, "blues", "K:x...x...x...x... S:..x...x...x...x.", machine=0.05, weight=0.4),
    _g("brisk two", 176, 222, "soul", "K:x.......x....... R:....x.......x... H:x...x...x...x...", machine=0.05, weight=0.4),
    _g("up-beat hats", 96, 140, "reggae", "O:..x...x...x...x. K:-.......-....... S:....-.......-...", machine=0.3, weight=0.5),
    _g("up-beat snares", 130, 176, "reggae", "S:..x...x...x...x. K:o...-...o...-... H:..x...x...x...x.", machine=0.2, weight=0.5),
    _g("up-beat claps", 112, 134, "dance", "C:..o...o...o...o. O:..x...x...x...x. K:o...-...o...-...", machine=0.7, weight=0.4),
    _g("half bar", 96, 128, "funk", "K:x..-....x..-.... S:....x.......x... H:x-x-x-x-x-x-x-x-", machine=0.2, weight=0.8),
    _g("half bar claps", 90, 124, "pop", "K:x.......x....... C:....x.......x... A:x.o.x.o.x.o.x.o.", machine=0.4, weight=0.6),
    _g("waltz one", 60, 104, "waltz", "K:x...........", beats=3, machine=0.1, weight=0.4),
    _g("waltz slow", 58, 92, "waltz", "K:x........... R:....-...-... D:x...o...o...", beats=3, machine=0.1, weight=0.5),
    _g("waltz hint", 62, 100, "waltz", "X:x........... P:....-...-...", beats=3, machine=0.1, weight=0.3),
    _g("march", 96, 132, "pop", "K:x.......x....... S:x.--x.--x.--x-x-", machine=0.1, weight=0.2),
    _g("clap stomp", 76, 120, "pop", "K:x.......x....... C:....x.......x...", machine=0.4, weight=0.4),
    _g("shaker only", 84, 130, "pop", "A:x-o-x-o-x-o-x-o-", machine=0.4, weight=0.3),
    _g("hat only", 84, 140, "pop", "H:x.o.x.o.x.o.x.o.", machine=0.6, weight=0.2),
    # six eighths: a beat is a group of three, a bar of four has two of six
    _g("six", 50, 86, "compound", "K:x.....x..... S:...x.....x.. H:xooxooxooxoo", steps=3, machine=0.2, weight=0.6),
    _g("six kicks", 50, 82, "compound", "K:x....xx.?..x S:...x.....x.. H:xxxxxxxxxxxx", steps=3, machine=0.2, weight=0.4),
    _g("six ride", 50, 84, "compound", "K:x....?x..... R:...x.....x.. D:x.ox.ox.ox.o", steps=3, machine=0.1, weight=0.4),
    _g("six soft", 50, 80, "compound", "K:x.....?..... R:...o.....o.. A:xooxooxooxoo", steps=3, machine=0.2, weight=0.3),
    _g("six bare", 54, 90, "compound", "K:x.....x..... S:...x.....x..", steps=3, machine=0.2, weight=0.3),
    _g("six bells", 60, 120, "compound", "W:x.x.xx.x.x.x K:x..x..x..x.. u:..x..x..x..x", steps=3, machine=0.1, weight=0.3),
    _g("six fast", 84, 132, "compound", "K:x.....x..... S:...x.....x.. D:x..x..x..x..", steps=3, machine=0.3, weight=0.3),
    _g("six claps", 54, 84, "compound", "K:x.....x..?.. C:...x.....x.. M:xooxooxooxoo", steps=3, machine=0.5, weight=0.3),
    _g("six slow", 100, 150, "compound", "K:x.........?. S:......x..... H:xooxooxooxoo", steps=3, machine=0.2, weight=0.2),
    _g("drive", 70, 106, "drive", "K:x..x..x.x..x..x. S:....x.......x... D:x.x.x.x.x.x.x.x.", machine=0.3),
    _g("drive two", 72, 108, "drive", "K:x.xx..x.x.xx..?. S:....x.......x..- X:x...x...x...x...", machine=0.3),
    _g("drive kicks", 70, 104, "drive", "K:xxxxxxxxxxxxxxxx S:....x.......x... X:x...x...x...x...", machine=0.4),
    _g("drive bursts", 72, 106, "drive", "K:xxx.?.xxxxx.?.xx S:....x.......x... O:x.x.x.x.x.x.x.x.", machine=0.4),
    _g("drive hats", 68, 104, "drive", "K:x..x..x...x.x?.. S:....x.......x... H:xoxoxoxoxoxoxoxo", machine=0.4),
    _g("drive ghosts", 76, 108, "drive", "K:x.x....x..x..x.. S:....x.-.-x..x..- H:x.x.x.x.x.x.x.x.", machine=0.2),
    _g("drive toms", 74, 106, "drive", "K:x...x...x...x... f:xoxxxoxxxoxx.... S:....x.......x... T:............xxxx", machine=0.3),
)  # fmt: skip

COMPOUND = tuple(g for g in GROOVES if g.family == "compound")
DRIVES = tuple(g for g in GROOVES if g.family == "drive")
"""Slow, with sixteenths all over: easily taken for music twice as fast, with a snare on the third beat of each bar."""
FAST = tuple(g for g in GROOVES if g.low >= 140)
"""What slow drives are to be told from."""
ODD = {
    5: (
        _g("five", 96, 176, "rock", "K:x.........x......... S:....x...........x... H:x.x.x.x.x.x.x.x.x.x.", beats=5, machine=0.3),
        _g("five three two", 100, 180, "rock", "K:x...........x....... S:........x.......x... D:x.x.x.x.x.x.x.x.x.x.", beats=5, machine=0.3),
        _g("five soul", 90, 130, "soul", "K:x.....x...x......... S:....x.......x....... H:x-o-x-o-x-o-x-o-x-o-", beats=5, machine=0.1),
        _g("five ride", 110, 190, "jazz", "D:x..x.xx..x.xx.. P:...x........x.. K:-..-..-..-..-..", beats=5, steps=3, machine=0.0),
        _g("five four kicks", 110, 134, "dance", "K:x...x...x...x...x... C:....x.......x....... O:..x...x...x...x...x.", beats=5, machine=0.9),
    ),
    7: (
        _g("seven", 100, 180, "rock", "K:x.......x.......x........... S:....x.......x.......x...x... H:x.x.x.x.x.x.x.x.x.x.x.x.x.x.", beats=7, machine=0.3),
        _g("seven four three", 110, 190, "rock", "K:x...........x...x........... S:........x...............x... D:x...x...x...x...x...x...x...", beats=7, machine=0.3),
        _g("seven funk", 92, 140, "funk", "K:x..x......x.....x..x........ S:....x.......x.......x....... H:x-x-x-x-x-x-x-x-x-x-x-x-x-x-", beats=7, machine=0.1),
        _g("seven ride", 110, 190, "jazz", "D:x..x.xx..x.xx..x.xx.. P:...x.....x.....x..... K:-..-..-..-..-..-..-..", beats=7, steps=3, machine=0.0),
    ),
}  # fmt: skip
"""Five and seven to the bar: nothing is taught with them."""
GUITARS = ("rock", "drive")
"""Families whose chords are guitars'."""
_LEVEL = {"x": 1.0, "o": 0.65, "-": 0.32}


def choose(rng: Generator, among: tuple[Groove, ...] = GROOVES) -> Groove:
    """One groove by weight."""
    w = np.array([g.weight for g in among])
    return among[int(rng.choice(len(among), p=w / w.sum()))]


def vary(rng: Generator, groove: Groove) -> dict[str, str]:
    """The lines of `groove` as one drummer plays them: some notes added, some left out, a hat changed for a ride."""
    out: dict[str, str] = {}
    strength = rng.choice([0.0, 0.04, 0.1])
    for name, steps in groove.lines.items():
        line = list(steps)
        for i, mark in enumerate(line):
            strong = i % groove.steps == 0
            if mark == "?":
                line[i] = rng.choice(["x", "o", "."])
            elif mark == "." and rng.random() < strength * (0.8 if name in "KSH" else 0.3) * (0.3 if strong else 1):
                line[i] = rng.choice(["o", "-"])
            elif mark != "." and i and rng.random() < strength * (0.3 if strong else 1):
                line[i] = "."
        out[name] = "".join(line)
    if "H" in out and rng.random() < 0.2:
        out[str(rng.choice(["D", "A", "M", "O"]))] = out.pop("H")
    if rng.random() < 0.15 and groove.steps == 4 and groove.beats == 4:
        out[str(rng.choice(["A", "M", "W"]))] = str(
            rng.choice(["x-o-x-o-x-o-x-o-", "..x...x...x...x.", "....x.......x...", "x.x.x.x.x.x.x.x."])
        )
    return out


def bar(rng: Generator, lines: dict[str, str], steps: int, start: float, beats: int, loud: float) -> list[Note]:
    """One bar of `lines` from beat `start`; bars shorter or longer than written are cut or go round."""
    out = []
    accent = rng.normal(1, 0.05)
    for name, line in lines.items():
        for i in range(beats * steps):
            level = _LEVEL.get(line[i % len(line)])
            if level:
                v = float(np.clip(loud * accent * level * rng.normal(1, 0.08), 0.05, 1))
                out.append(Note("drums", start + i / steps, KEYS[name], v))
    return out


def fill(rng: Generator, steps: int, start: float, beats: int, loud: float) -> list[Note]:
    """Something before a new section: rolls, toms, hits, or a gap; over the last `beats`."""
    kind = rng.integers(0, 6)
    out = []
    n = beats * steps
    if kind == 0:
        return []
    for i in range(n):
        p = {1: 0.95, 2: 0.7, 3: 0.55, 4: 0.8, 5: 0.5}[int(kind)]
        if rng.random() > p:
            continue
        third = i / n
        name = {1: "S", 2: "tTf"[min(2, int(3 * third))], 3: rng.choice(list("SKTf")), 4: "S" if third < 0.5 else "T",
                5: "K" if i % 2 else "S"}[int(kind)]  # fmt: skip
        out.append(
            Note(
                "drums",
                start + i / steps,
                KEYS[str(name)],
                float(np.clip(loud * rng.normal(0.8 + 0.2 * third, 0.1), 0.1, 1)),
            )
        )
    return out
