"""Songs of voices alone: rapped or sung lines, how they sit in the bars, where breath is taken and what comes again.

A voice tells its bars by lines: they begin on or shortly before a bar line, end on a long or rhyming syllable, and
breath is taken after one, two or four of them. A hook says the same again. Every choice is drawn at random within what
is common practice (no source).
"""

from __future__ import annotations

import attrs
import numpy as np
from numpy.random import Generator

from training import grooves
from training.composer import MODES, ROUNDS, Song
from training.score import Feel, Note, Section

KINDS = ((0.5, 76, 112), (0.34, 94, 134), (0.1, 60, 94), (0.06, 134, 168))
"""How often songs are counted between so many BPM: rapped, sung to dance to, slow, fast."""
WALTZES = 0.04
BLOCKS = (4, 4, 4, 4, 4, 4, 4, 8, 8, 2, 6)
"""Bars of a phrase: what is said until the voice begins anew."""
FORM = {"intro": (1, 2), "verse": (2, 4, 4), "chorus": (1, 2, 2), "break": (1, 1, 2), "outro": (1, 2)}
"""How many phrases each kind of section has."""


@attrs.frozen
class Line:
    """Syllables of a line of some bars: beats from its start, steps of the scale, lengths in beats, loudness."""

    at: tuple[float, ...]
    steps: tuple[int, ...]
    lengths: tuple[float, ...]
    loud: tuple[float, ...]


def compose(rng: Generator, seconds: float) -> Song:
    """A song of about `seconds` for voices alone, one section for each phrase."""
    shares = np.array([k[0] for k in KINDS])
    _, low, high = KINDS[int(rng.choice(len(KINDS), p=shares / shares.sum()))]
    bpm = float(np.exp(rng.uniform(np.log(low), np.log(high))))
    bpm = float(np.round(bpm)) if rng.random() < 0.4 else bpm
    beats = 3 if rng.random() < WALTZES else 4
    voice = _Voice(rng, beats, raps=bool(rng.random() < (0.75 if high == 112 else 0.25)))
    sections, notes, beat = [], list[Note](), 0
    left = int(seconds * bpm / 60 / beats)
    for kind in _kinds(rng):
        phrases, bars = int(rng.choice(FORM[kind])), voice.bars(kind)
        for _ in range(phrases):
            if left < 2:
                break
            length = min(bars, left)
            lengths = [beats] * length
            if rng.random() < 0.03 and beats == 4:
                lengths[-1] = int(rng.choice([2, 6]))
            sections.append(Section(kind, tuple(lengths), 0.8, frozenset({"voice"}), "none", kind))
            notes += voice.phrase(kind, length, float(beat))
            beat += sum(lengths)
            left -= length
    swung = rng.random() < 0.45
    feel = Feel(
        jitter=float(rng.choice([0.002, 0.004, 0.006, 0.009, 0.013])),
        swing=float(rng.uniform(0.53, 0.66)) if swung else 0.5,
        swung=0.25 if rng.random() < 0.85 else 0.5,
        snare_late=0.0,
        bass_late=0.0,
    )
    notes = [n for n in notes if n.beat < beat - 0.05]
    groove = attrs.evolve(grooves.choose(rng), family="voice", beats=beats)
    return Song(groove, bpm, sections, notes, feel, bool(rng.random() < 0.45), voice.root, voice.mode[2] == 3)


def _kinds(rng: Generator) -> list[str]:
    body = ["verse", "chorus"] * 6 if rng.random() < 0.75 else ["verse"] * 12
    if rng.random() < 0.2:
        body.insert(int(rng.integers(2, 5)), "break")
    return (["intro"] if rng.random() < 0.3 else ["chorus"] if rng.random() < 0.2 else []) + body


class _Voice:
    """One singer's habits, and the lines that come again."""

    def __init__(self, rng: Generator, beats: int, *, raps: bool) -> None:
        self.rng, self.beats, self.raps = rng, beats, raps
        self.mode = MODES[str(rng.choice(["major", "minor", "minor", "dorian"]))]
        self.root = int(rng.integers(0, 12))
        self.base = 48 + int(rng.integers(-3, 12))
        self.round = ROUNDS[int(rng.integers(len(ROUNDS)))]
        self.fast = 4 if raps else int(rng.choice([2, 2, 4]))
        self.dense = float(rng.uniform(0.6, 0.95) if raps else rng.uniform(0.4, 0.75))
        self.lets_go = float(rng.uniform(0.3, 1.0))
        self.breathes = float(rng.choice([0.0, 0.5, 0.9]))
        self.doubled = {k for k, chance in (("chorus", 0.6), ("verse", 0.15), ("break", 0.3)) if rng.random() < chance}
        self.backed = rng.random() < 0.25
        self.same = float(rng.uniform(0.2, 0.9))
        self.early = float(rng.choice([0.0, 0.0, 0.3, 0.6]))
        self.kept: dict[tuple[str, int], Line] = {}
        self.lengths: dict[str, int] = {}

    def bars(self, kind: str) -> int:
        """Bars of each phrase of such a section."""
        if kind not in self.lengths:
            self.lengths[kind] = int(self.rng.choice(BLOCKS))
        return self.lengths[kind]

    def phrase(self, kind: str, bars: int, start: float) -> list[Note]:
        """One phrase: its lines, a rest at its end, breath before it."""
        rng, b = self.rng, self.beats
        size = 2 if bars % 2 == 0 and (not self.raps or rng.random() < 0.3) else 1
        rests = float(rng.choice([0.5, 1, 1, 2, 2, b])) if rng.random() < self.lets_go else 0.0
        notes: list[Note] = []
        for k, bar in enumerate(range(0, bars, size)):
            line = self.line(kind, k, size, last=bar + size >= bars)
            end = bars * b - rests
            for at, step, length, loud in zip(line.at, line.steps, line.lengths, line.loud, strict=True):
                beat = bar * b + at
                if beat >= end or start + beat < 0:
                    continue
                pitch = step if self.raps else step + self.round[(bar + int(at // b)) % len(self.round)]
                key = self.base + self.root + self.mode[pitch % 7] + 12 * int(np.clip(pitch // 7, -1, 1))
                notes.append(Note("voice", start + beat, key, loud, min(length, end - beat + 0.2)))
        if kind in self.doubled:
            apart = int(rng.choice([0, 12, 3, 7]))
            notes += [
                attrs.evolve(n, key=n.key + apart, loud=n.loud * 0.7, late=float(rng.normal(0.006, 0.01)))
                for n in notes
            ]
        if self.backed and kind != "verse":
            notes += self._backing(bars, start)
        if notes and rng.random() < self.breathes:
            notes.append(Note("breath", min(n.beat for n in notes) - float(rng.uniform(0.3, 0.8)), 60, 0.3))
        return notes

    def _backing(self, bars: int, start: float) -> list[Note]:
        """Long vowels of a choir, a chord a bar."""
        out = []
        for bar in range(bars):
            degree = self.round[bar % len(self.round)]
            for third in (0, 2, 4):
                d = degree + third
                key = 60 + self.root + self.mode[d % 7] + 12 * (d // 7)
                out.append(Note("choir", start + bar * self.beats, key, 0.5, self.beats * 0.92))
        return out

    def line(self, kind: str, k: int, size: int, *, last: bool) -> Line:
        """Line `k` of a phrase: a hook's as before, a verse's in a rhythm that mostly stays."""
        again = 2 if self.raps else 4
        slot = (kind, k % again + (10 if last else 0))
        hook = kind in ("chorus", "break")
        if slot in self.kept and (hook or self.rng.random() < self.same):
            old = self.kept[slot]
            return old if hook and self.rng.random() < 0.9 else self._varied(old)
        made = self._rapped(size) if self.raps else self._sung(size, last=last)
        self.kept[slot] = made
        return made

    def _varied(self, line: Line) -> Line:
        """The same rhythm but for a syllable or two, other notes."""
        kept = [i for i in range(len(line.at)) if i == 0 or self.rng.random() > 0.1]
        steps = [int(line.steps[i] + self.rng.choice([-1, 0, 0, 1])) for i in kept]
        return Line(
            tuple(line.at[i] for i in kept),
            tuple(steps),
            tuple(line.lengths[i] for i in kept),
            tuple(line.loud[i] for i in kept),
        )

    def _rapped(self, size: int) -> Line:
        """Syllables on sixteenths (thirds now and then), a rhyme on the last beat, breath after it."""
        rng, beats = self.rng, self.beats * size
        fast = 3 if rng.random() < 0.08 else self.fast
        weight = {0: 1.1, fast // 2 if fast == 4 else -1: 0.95}
        rhyme = beats - 1 + float(rng.choice([0, 0, 0, 0.5]))
        at = []
        for i in range(beats * fast):
            beat = i / fast
            if beat < rhyme and rng.random() < self.dense * weight.get(i % fast, 0.75):
                at.append(beat)
        if self.early and rng.random() < self.early:
            # the line before it has left room
            at = [-b / fast for b in range(int(rng.integers(1, 4)), 0, -1)] + at
        at = [*(at or [0.0]), rhyme]
        strong = [0.2 if b == round(b) else 0.08 if 2 * b == round(2 * b) else 0.0 for b in at]
        loud = [float(np.clip(0.62 + s + rng.normal(0, 0.07), 0.3, 1)) for s in strong]
        loud[-1] = min(1.0, loud[-1] + 0.1)
        return self._of(at, loud, beats, long=0.6)

    def _sung(self, size: int, *, last: bool) -> Line:
        """Notes on eighths or sixteenths that run to a long one; the next line leaves room before it."""
        rng, beats = self.rng, self.beats * size
        fast = self.fast
        begins = float(rng.choice([0, 0, 0, 0, 0.5, 1])) if not self.early else float(rng.choice([-1, -0.5, -0.5, 0]))
        runs = beats * float(rng.uniform(0.4, 0.75))
        long = float(np.ceil(runs)) if rng.random() < 0.7 else float(np.ceil(2 * runs) / 2)
        weight = {0: 1.25, fast // 2: 1.0}
        at = [begins]
        for i in range(int((begins + 0.5) * fast), int(long * fast)):
            if i > begins * fast and rng.random() < self.dense * weight.get(i % fast, 0.5):
                at.append(i / fast)
        at.append(long)
        loud = [float(np.clip(0.7 + (0.12 if b == round(b) else 0) + rng.normal(0, 0.08), 0.3, 1)) for b in at]
        return self._of(sorted(set(at)), loud, beats, long=float(rng.choice([1, 1.5, 2, 3])), falls=last)

    def _of(self, at: list[float], loud: list[float], beats: int, *, long: float, falls: bool = False) -> Line:
        rng = self.rng
        n = len(at)
        if self.raps:
            steps = rng.choice([-1, 0, 0, 0, 1], n)
        else:
            steps = np.cumsum(rng.choice([-2, -1, -1, 0, 1, 1, 2], n))
            steps = np.clip(steps - int(np.median(steps)), -5, 8)
            if falls:
                steps[-1] = 0
        gaps = np.append(np.diff(at), min(long, max(0.3, beats - at[-1])))
        lengths = np.clip(gaps * rng.uniform(0.7, 0.95), 0.1, 3.5)
        return Line(tuple(map(float, at)), tuple(map(int, steps)), tuple(map(float, lengths)), tuple(loud[:n]))
