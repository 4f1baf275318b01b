"""Who plays on the demo set: a drummer, a bass player and a keyboard player who follow a form and keep human time.

Everything here is in beats; `build` turns beats into samples. Channel 9 is the drum kit.
"""

from __future__ import annotations

import attrs
import numpy as np
from numpy.random import Generator

KICK, SNARE, RIM, HAT, OPEN, RIDE, CRASH, CLAP, SHAKER = 36, 38, 37, 42, 46, 51, 49, 39, 70
TOMS = (50, 47, 45, 43)
DRUMS, BASS, KEYS, PAD, LEAD = 9, 0, 1, 2, 3


@attrs.frozen
class Note:
    """A note on `channel` at `beat` for `length` beats, moved by `late` s."""

    beat: float
    channel: int
    key: int
    velocity: int
    length: float = 0.25
    late: float = 0.0


@attrs.frozen
class Section:
    """So many bars of a kind, played with so much energy, 0 to 1."""

    kind: str
    bars: int
    energy: float


CHOPS = {
    "disco": (0.5, 1.75, 2.5), "soul": (1.0, 2.5, 3.25), "machine": (0.75, 1.5, 3.0),
    "funk": (0.75, 1.75, 3.25), "hiphop": (0.0, 2.0), "song": (0.0, 1.0, 2.0, 3.0),
}  # fmt: skip
"""Where in the bar the keys play, by groove."""
SWING = {"hiphop": 0.16, "soul": 0.0}
"""By how much of a quarter beat every second sixteenth comes late."""
LATE_SNARE = {"hiphop": 0.009}
"""s by which the snare is laid back."""


def swung(groove: str, note: Note) -> Note:
    """A note as the groove places it: second sixteenths late, the snare behind the beat."""
    out = note
    swing = SWING.get(groove, 0.0)
    if swing and round(note.beat * 4) % 2 == 1 and abs(note.beat * 4 - round(note.beat * 4)) < 1e-6:
        out = attrs.evolve(out, beat=note.beat + swing)
    if note.channel == DRUMS and note.key == SNARE:
        out = attrs.evolve(out, late=out.late + LATE_SNARE.get(groove, 0.0))
    return out


def with_odd_bar(rng: Generator, notes: list[Note], beat: float, beats: int, jitter: float) -> list[Note]:
    """A bar of `beats` beats put in at `beat`: what comes later moves, and the kit answers itself in it."""
    moved = [attrs.evolve(n, beat=n.beat + beats) if n.beat >= beat - 1e-6 else n for n in notes]
    extra = [hit(rng, beat + i / 2, SNARE if i % 2 else KICK, 0.85, jitter) for i in range(beats * 2)]
    extra += [Note(beat, BASS, 33, 100, 1.5)]
    return sorted([*moved, *extra], key=lambda n: n.beat)


def hit(rng: Generator, beat: float, key: int, velocity: float, jitter: float) -> Note:
    """One stroke of the kit, as loud and as punctual as a hand is."""
    v = int(np.clip(velocity * 127 * rng.normal(1.0, 0.06), 8, 127))
    return Note(beat, DRUMS, key, v, 0.2, float(rng.normal(0, jitter)))


def fill(rng: Generator, start: float, jitter: float) -> list[Note]:
    """A drum fill over the last two beats of a bar that begins at `start`."""
    out = []
    for i in range(8):
        key = SNARE if i < 3 else TOMS[min(3, (i - 2) // 2 + (i > 6))]
        out.append(hit(rng, start + 2 + i / 4, key, 0.62 + 0.04 * i, jitter))
    return out


def drums(rng: Generator, groove: str, bar: int, section: Section, last: bool, jitter: float) -> list[Note]:
    """One bar of the kit in `groove`."""
    s, e, out = bar * 4.0, section.energy, []

    def play(steps: str, key: int, loud: float) -> None:
        for i, mark in enumerate(steps):
            level = {"x": 1.0, "o": 0.6, "-": 0.3}.get(mark)
            if level and not (last and section.kind != "break" and i >= 8 and key in (SNARE, HAT)):
                out.append(hit(rng, s + i / 4, key, loud * level, jitter))

    lines = {
        "disco": (("x...x...x...x...", KICK, 0.85), ("....x.......x...", SNARE, 0.85), ("x-o-x-o-x-o-x-o-", HAT, 0.45)),
        "soul": (("x.....o.x.o.....", KICK, 0.85), ("....x..-.-..x..-", SNARE, 0.9), ("x-x-x-x-x-x-x-x-", HAT, 0.5)),
        "machine": (("x...x...x...x...", KICK, 1.0), ("....x.......x...", CLAP, 0.8), ("-o-o-o-o-o-o-o-o", HAT, 0.5)),
        "funk": (("x..o..x...x.....", KICK, 0.9), ("....x..-.-..x..-", SNARE, 0.9), ("x-o-x-o-x-o-x-oo", HAT, 0.5)),
        "hiphop": (("x.........x.....", KICK, 0.95), ("....x.......x...", SNARE, 0.9), ("-.o-o.o-o.o-o.o-", HAT, 0.5)),
        "song": (("x.......x.o.....", KICK, 0.8), ("....x.......x...", SNARE, 0.75), ("x.o.x.o.x.o.x.o.", HAT, 0.4)),
    }[groove]
    if section.kind == "break":
        play("x...x...x...x...", RIM, 0.5)
        play("x-o-x-o-x-o-x-o-", SHAKER, 0.4)
        return out + (fill(rng, s, jitter) if last else [])
    for steps, key, loud in lines:
        if section.kind == "intro" and key == SNARE and e < 0.5:
            continue
        play(steps, key, loud * (0.7 + 0.3 * e))
    if e > 0.6:
        play("..x...x...x...x.", OPEN if groove != "soul" else RIDE, 0.5 * e)
    if last:
        out += fill(rng, s, jitter)
    return out


def bass(rng: Generator, groove: str, bar: int, root: int, section: Section, jitter: float) -> list[Note]:
    """One bar of bass on `root`."""
    if section.kind == "intro" and section.energy < 0.5:
        return []
    riff = {
        "disco": ((0, 0), (0.5, 12), (1.5, 12), (2, 0), (2.5, 12), (3, 7), (3.5, 10)),
        "soul": ((0, 0), (0.75, 0), (1.5, 7), (2.5, 10), (3, 12), (3.75, -2)),
        "machine": ((0.5, 0), (1.5, 0), (2.5, 0), (2.75, 12), (3.5, 0)),
        "funk": ((0, 0), (0.75, 12), (1.5, 0), (2.5, 10), (2.75, 12), (3.5, 7)),
        "hiphop": ((0, 0), (2.5, 0), (3.5, -2)),
        "song": ((0, 0), (1.5, 0), (2, 0), (3.5, 7)),
    }[groove]
    if section.kind == "break":
        riff = ((0, 0), (2, 0))
    return [
        Note(bar * 4 + b, BASS, root + step, int(rng.normal(98, 6)), 0.45, float(rng.normal(0, jitter)))
        for b, step in riff
    ]


def chords(
    rng: Generator, groove: str, bar: int, chord: tuple[int, ...], section: Section, jitter: float
) -> list[Note]:
    """One bar of harmony: a pad under everything, keys on the off-beats, a lead in full sections."""
    out = []
    if section.kind != "intro" or section.energy > 0.5:
        out += [Note(bar * 4, PAD, 60 + c, int(45 + 30 * section.energy), 3.9) for c in chord]
    if section.kind in {"verse", "chorus", "drop"}:
        for b in CHOPS[groove]:
            out += [
                Note(bar * 4 + b, KEYS, 60 + c, int(rng.normal(70, 7)), 0.3, float(rng.normal(0, jitter)))
                for c in chord
            ]
    if section.kind in {"chorus", "drop"} and groove != "song":
        for b in (0.0, 0.75, 1.5, 2.0, 3.0, 3.5):
            if rng.random() < 0.75:
                key = 72 + chord[int(rng.integers(len(chord)))]
                out.append(Note(bar * 4 + b, LEAD, key, int(rng.normal(78, 8)), 0.5, float(rng.normal(0, jitter))))
    return out


def perform(
    rng: Generator, groove: str, form: list[Section], roots: list[tuple[int, tuple[int, ...]]], jitter: float
) -> list[Note]:
    """All notes of a song, in beats; `roots` are bass key and chord for each bar of the round."""
    out: list[Note] = []
    bar = 0
    for section in form:
        for i in range(section.bars):
            last = i == section.bars - 1
            root, chord = roots[bar % len(roots)]
            if i == 0 and section.energy > 0.5:
                out.append(hit(rng, bar * 4.0, CRASH, 0.8, jitter))
            out += drums(rng, groove, bar, section, last, jitter)
            out += bass(rng, groove, bar, root, section, jitter)
            out += chords(rng, groove, bar, chord, section, jitter)
            bar += 1
    out.append(hit(rng, bar * 4.0, KICK, 0.9, 0.0))
    out.append(hit(rng, bar * 4.0, CRASH, 0.9, 0.0))
    return [swung(groove, n) for n in out]
