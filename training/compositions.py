"""Songs that other people wrote, from packages of freely licensed MIDI files, to be timed and played as our own are.

What a generator composes has the habits of its maker; here harmony, form, drumming and beginnings are those of many.
Only pieces are used whose bars and level show in their drums (kick or bass on the first beat, backbeats on the second
and fourth, or a waltz), and three without drums whose bars are plain. Some recordings of `../shared/bench` were made
from pieces of these two packages, so nothing may be learned from them: they judge. None of it is shipped.
"""

from __future__ import annotations

import bisect
import io
import struct
from collections.abc import Iterator
from functools import cache
from pathlib import Path

import attrs
import mido
import numpy as np
from numpy.random import Generator

from training.composer import Song
from training.grooves import Groove
from training.packages import fetch
from training.score import Feel, Note, stretches

PIECES = {
    "freedoom": """
        betwee count2 countd*2 ddtblu dead2 doom e1m1 e1m4 e1m7 e1m9 e2m2 e2m5 e2m8 e3m3 e3m4 e3m5 e3m6
        in_cit inter messag messg2 shawn3 stalks stlks3 tense theda2 e3m8 e1m5 ddtbl3
        """,
    "openttd-openmsx": """
        be_sharp_bw boogi_marabi city_blues coconut_run2 harp_harmony keep_on_rolling
        linns_basket midnight_snow_run modern_motion moo no_work_song run_for_your_life
        say_what ttsong_iii ttsong_iv tttheme2 ultimate_run
        """,
}
"""Of each package (BSD-like, GPL-2), pieces whose bars are where they are written; `*2`: two beats where one is. A
file's name may go on after `_`."""
DRUMS = 9
"""The channel of drums in General MIDI, counted from 0."""
PLAYED = 0.6
"""A first bar of which less than this share is played is a pick-up."""


@attrs.frozen(eq=False)
class Piece:
    """A composition in beats from its first bar line on: its name, beats in each bar, notes, BPM."""

    name: str
    bars: tuple[int, ...]
    notes: tuple[Note, ...]
    bpm: float


def part_of(program: int) -> str | None:
    """Who plays a General MIDI program (numbered from 0) in our bands; None for effects."""
    families = ("comp", "riff", "comp2", "comp", "bass", "pad", "pad", "riff", "lead", "lead", "lead", "pad", "pad")
    if program in (29, 30):
        return "riff"
    if program < 8 * len(families):
        return families[program // 8]
    return "comp" if program < 112 else None


def read(data: mido.MidiFile, name: str, *, times: int = 1) -> Piece | None:
    """A piece from a MIDI file; None where its bars aren't of whole quarters.

    Parameters
    ----------
    times : beats to one that is written
    """
    tracks: Iterator[mido.Message] = mido.merge_tracks(data.tracks)
    beat, bpm = 0.0, 120.0
    metres = {0: 4}
    part: dict[int, str | None] = {}
    level: dict[int, float] = {}
    sounding: dict[tuple[int, int], tuple[float, float]] = {}
    notes: list[Note] = []
    tempi: list[float] = []
    for message in tracks:
        beat += message.time / data.ticks_per_beat
        if message.type == "set_tempo":
            bpm = mido.tempo2bpm(message.tempo)
        elif message.type == "time_signature":
            if message.denominator != 4 or beat % 1:
                return None
            metres[int(beat)] = message.numerator
        elif message.type == "program_change":
            part[message.channel] = part_of(message.program)
        elif message.type == "control_change" and message.control == 7:
            level[message.channel] = message.value / 100
        elif message.type in ("note_on", "note_off"):
            key = (message.channel, message.note)
            who = "drums" if message.channel == DRUMS else part.get(message.channel, "comp")
            if key in sounding and who:
                start, loud = sounding.pop(key)
                notes.append(Note(who, start * times, message.note, loud, max(beat - start, 0.1) * times))
            if message.type == "note_on" and message.velocity:
                loud = message.velocity / 127 * level.get(message.channel, 1.0)
                sounding[key] = (beat, float(np.clip(loud, 0.05, 1)))
                tempi.append(bpm)
    if not notes:
        return None
    notes.sort(key=lambda n: n.beat)
    opens, bars = _bars({start * times: count for start, count in metres.items()}, notes[0].beat, notes[-1].beat)
    moved = tuple(attrs.evolve(n, beat=n.beat - opens) for n in notes)
    return Piece(name, bars, moved, float(np.median(tempi)) * times)


def _bars(metres: dict[int, int], first: float, last: float) -> tuple[int, tuple[int, ...]]:
    """The beat of the bar line with which a piece begins, after a pick-up where it has one; and its bars from there.

    >>> _bars({0: 4, 8: 2, 10: 4}, first=3.0, last=12.5)
    (4, (4, 2, 4))
    """
    at, opens, bars = 0, 0, list[int]()
    while at <= last:
        count = metres[max(start for start in metres if start <= at)]
        if bars or (at + count - first) / count >= PLAYED:
            opens = opens if bars else at
            bars.append(count)
        at += count
    return opens, tuple(bars)


@cache
def pieces(folder: Path) -> tuple[Piece, ...]:
    """All of `PIECES`, their packages fetched into `folder` where they aren't there yet.

    Raises
    ------
    FileNotFoundError
        A package lacks one.
    """
    found: list[Piece] = []
    for package, words in PIECES.items():
        files = dict(_files(fetch(package, folder)))
        for word in words.split():
            name, _, times = word.partition("*")
            file = next((f for stem, f in files.items() if stem == name or stem.startswith(f"{name}_")), None)
            piece = read(file, name, times=int(times or 1)) if file else None
            if piece is None:
                raise FileNotFoundError(f"{package} has no piece {name} that can be read")
            found.append(piece)
    return tuple(found)


def _files(folder: Path) -> Iterator[tuple[str, mido.MidiFile]]:
    """MIDI files under a folder, and those packed into the archives of a game (lumps by name in a directory)."""
    for path in sorted(folder.rglob("*.mid")):
        yield path.stem, mido.MidiFile(path, clip=True)
    seen = set()
    for path in sorted(folder.rglob("*.wad")):
        data = path.read_bytes()
        count, at = struct.unpack("<ii", data[4:12])
        for i in range(count):
            start, size, label = struct.unpack("<ii8s", data[at + 16 * i : at + 16 * i + 16])
            name = label.rstrip(b"\0").decode("ascii", "replace").lower().removeprefix("d_")
            if data[start : start + 4] == b"MThd" and name not in seen:
                seen.add(name)
                yield name, mido.MidiFile(file=io.BytesIO(data[start : start + size]), clip=True)


def compose(rng: Generator, seconds: float, *, among: tuple[Piece, ...]) -> Song:
    """About `seconds` of a piece, in another key, at another tempo, by other players, in people's or machines' time."""
    piece = among[int(rng.integers(len(among)))]
    bpm = piece.bpm * float(np.exp(rng.normal(0, 0.07)))
    lines = np.cumsum([0, *piece.bars])
    count = min(len(piece.bars), max(8, round(seconds * bpm / 60 / piece.bars[0])))
    first = 0 if rng.random() < 0.5 else int(rng.integers(0, max(1, len(piece.bars) - count)))
    start, stop = int(lines[first]), int(lines[first + count])
    from_ = -np.inf if first == 0 else start
    up = int(rng.integers(-4, 5))
    at = [n.beat for n in piece.notes]
    played = piece.notes[bisect.bisect_left(at, from_) : bisect.bisect_left(at, stop)]
    notes = [
        attrs.evolve(n, beat=n.beat - start, key=n.key if n.part == "drums" else int(np.clip(n.key + up, 24, 100)))
        for n in played
    ]
    if rng.random() < 0.15:
        # somebody is missing
        gone = str(rng.choice(["bass", "comp", "pad", "riff", "lead"]))
        notes = [n for n in notes if n.part != gone] or notes
    sections = stretches(rng, piece.bars[first : first + count])
    machine = bool(rng.random() < 0.4)
    family = str(rng.choice(["pop", "rock", "funk", "dance"], p=[0.55, 0.25, 0.1, 0.1]))
    feel = Feel(0.0 if machine else float(rng.choice([0.002, 0.004, 0.006, 0.009])), 0.5, 0.25, 0.0, 0.0)
    return Song(Groove(piece.name, {}, bpm, bpm, family, piece.bars[0]), bpm, sections, notes, feel, machine)
