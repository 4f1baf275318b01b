"""Songs: a form, harmony that mostly moves at bar lines, and players who know their style.

Every choice is drawn at random within what is common practice (no source); what counts is breadth.
"""

from __future__ import annotations

from collections.abc import Callable

import attrs
import numpy as np
from numpy.random import Generator

from training import grooves
from training.grooves import Groove
from training.score import Feel, Note, Section

MODES = {
    "major": (0, 2, 4, 5, 7, 9, 11),
    "minor": (0, 2, 3, 5, 7, 8, 10),
    "dorian": (0, 2, 3, 5, 7, 9, 10),
    "mixo": (0, 2, 4, 5, 7, 9, 10),
}
_ROUNDS = """
0 00 03 04 06 05 14 0343 0453 5304 0534 0304 0654 0526 0362 3455 1400 0234 3300 0034 0066
000033004304 04523034
"""
ROUNDS = tuple(tuple(map(int, digits)) for digits in _ROUNDS.split())
"""Rounds of chords as degrees of the scale, 0 is the tonic."""
COMPING = {
    "dance": "stab off pad arp pulse",
    "disco": "scratch off stab pad strum",
    "funk": "scratch riffed stab off",
    "soul": "stab strum pad off",
    "hiphop": "pad riffed arp whole",
    "rock": "chug strum chug open gallop riffed mute wall pushed open",
    "ballad": "arp whole strum eighths",
    "pop": "strum eighths pad arp stab",
    "reggae": "off off organ",
    "latin": "montuno off strum",
    "blues": "strum off whole",
    "jazz": "whole riffed stab",
    "waltz": "waltz arp whole strum",
    "compound": "arp thirds strum whole arp pulse",
    "drive": "gallop sixteenths chug sixteenths mute scratch arp open",
}
BASSES = {
    "dance": "off eighths riff roots",
    "disco": "octaves riff eighths walk",
    "funk": "riff riff kick",
    "soul": "riff walk roots kick",
    "hiphop": "long riff kick roots",
    "rock": "eighths eighths kick roots",
    "ballad": "long roots riff",
    "pop": "roots eighths kick riff",
    "reggae": "dub dub riff",
    "latin": "tumbao roots riff",
    "blues": "walk roots eighths",
    "jazz": "walk walk",
    "waltz": "waltz long roots",
    "compound": "long roots lilt thirds riff kick",
    "drive": "sixteenths kick eighths riff sixteenths roots",
}


@attrs.frozen
class Song:
    """All that is played; the tonic in semitones above C."""

    groove: Groove
    bpm: float
    sections: list[Section]
    notes: list[Note]
    feel: Feel
    machine: bool
    tonic: int = 0
    minor: bool = False

    @property
    def sung_alone(self) -> bool:
        """Whether there are voices, and nothing else."""
        return {n.part for n in self.notes} <= {"voice", "choir", "breath"}


def _pick(rng: Generator, words: str) -> str:
    return str(rng.choice(words.split()))


def form(rng: Generator, groove: Groove, seconds: float, bpm: float) -> list[Section]:
    """Sections that fill about `seconds`, with odd lengths and odd bars now and then."""
    out: list[Section] = []
    todo = seconds * bpm / 60 / groove.beats
    kinds = list(rng.choice(["verse", "chorus", "verse", "chorus", "break", "verse"], 12))
    if rng.random() < 0.6:
        kinds.insert(0, "intro")
    plays: dict[str, tuple[frozenset[str], str, float]] = {}
    have = {
        p
        for p, chance in {
            "bass": 0.88,
            "comp": 0.8,
            "comp2": 0.3,
            "pad": 0.4,
            "riff": 0.4,
            "lead": 0.5,
            "voice": 0.4,
        }.items()
        if rng.random() < chance
    }
    bare = rng.random()
    if bare < 0.09:
        have = set()
    elif not have:
        have = {"bass", "comp"}
    voice_only = rng.random() < 0.11
    no_drums = rng.random() < 0.07
    i = 0
    while todo > 1:
        kind = str(kinds[i % len(kinds)])
        bars = int(
            rng.choice(
                [2, 4, 4, 8, 8, 8, 8, 12, 16, 5, 6, 7, 9, 10],
                p=[0.04, 0.2, 0.1, 0.2, 0.1, 0.1, 0.06, 0.03, 0.07, 0.02, 0.03, 0.02, 0.02, 0.01],
            )
        )
        bars = max(1, min(bars, int(np.ceil(todo))))
        lengths = [groove.beats] * bars
        if rng.random() < 0.05 and groove.beats == 4:
            lengths[-1] = int(rng.choice([2, 2, 2, 6, 3, 5]))
        if kind not in plays:
            energy = {"intro": 0.6, "verse": 0.7, "chorus": 1.0, "break": 0.5}[kind] * rng.uniform(0.8, 1)
            drop = {"intro": 0.5, "verse": 0.15, "chorus": 0.0, "break": 0.4}[kind]
            parts = frozenset(
                p for p in sorted(have) if rng.random() > drop * (0.5 if p in ("comp", "comp2", "riff") else 1)
            )
            if kind == "verse" and rng.random() < 0.7:
                parts -= {"lead"}
            drums = "full"
            if kind == "intro":
                drums = _pick(rng, "full full hats none none kick light")
            elif kind == "break":
                drums = _pick(rng, "none light hats kick full half light none")
            elif rng.random() < (0.4 if groove.family == "rock" else 0.06):
                drums = _pick(
                    rng, "half double half wash wash hits" if groove.family == "rock" else "half light kick double"
                )
            if not parts and drums in ("none",):
                drums = "light"
            if no_drums:
                drums = "none"
                parts = parts or frozenset({"comp"})
            if voice_only:
                parts, drums = frozenset({"voice"} | ({"choir"} if rng.random() < 0.4 else set())), "none"
            plays[kind] = (parts, drums, float(energy))
        parts, drums, energy = plays[kind]
        out.append(Section(kind, tuple(lengths), energy, parts, drums, kind))
        todo -= bars
        i += 1
    return out


def rhythm(rng: Generator, beats: int, steps: int, density: float, offbeat: float) -> list[float]:
    """Beats at which a figure of `beats` strikes: strong places are likelier, `offbeat` (0 to 1) evens that out."""
    out = []
    for i in range(beats * steps):
        weight = (
            1.0
            if i == 0
            else 0.8
            if i % (2 * steps) == 0
            else 0.65
            if i % steps == 0
            else 0.5
            if 2 * (i % steps) == steps
            else 0.3
        )
        p = density * (weight * (1 - offbeat) + 0.55 * offbeat)
        if rng.random() < p:
            out.append(i / steps)
    return out or [0.0]


class Band:
    """The players of one song: what they have settled on, kept for as long as a section kind returns."""

    def __init__(self, rng: Generator, groove: Groove) -> None:
        self.rng, self.groove = rng, groove
        self.mode = MODES[_pick(rng, "major minor minor dorian mixo")]
        self.root = int(rng.integers(28, 40))
        self.harmony: dict[str, tuple[int, ...]] = {}
        self.figures: dict[tuple[str, str], object] = {}
        self.drum_lines: dict[str, dict[str, str]] = {}
        self.span = int(rng.choice([1, 1, 1, 1, 2])) if rng.random() > 0.12 else 0
        rock = groove.family in grooves.GUITARS
        # chords come an eighth early
        ahead = 0.5 if groove.steps == 4 else 1 / 3
        self.early = float(rng.choice([0.0, 0.0, ahead] if rock else [0.0, 0.0, 0.0, 0.0, ahead]))
        self.density = float(rng.uniform(0.6, 1.3))

    def degree(self, alike: str, bar: int, half: int) -> int:
        """Which degree of the scale the harmony stands on."""
        if alike not in self.harmony:
            self.harmony[alike] = ROUNDS[int(self.rng.integers(len(ROUNDS)))]
        r = self.harmony[alike]
        where = bar * 2 + half if self.span == 0 else bar // self.span
        return r[where % len(r)]

    def chord(self, degree: int, octave: int) -> list[int]:
        """Keys of the seventh or triad on a degree."""
        size = 4 if self.groove.family in ("funk", "soul", "jazz", "disco") else 3
        base = self.root % 12 + 12 * octave
        keys = []
        for k in range(size):
            d = degree + 2 * k
            keys.append(base + self.mode[d % 7] + 12 * (d // 7))
        return [k - 12 if k > base + 14 else k for k in keys]

    def bass_key(self, degree: int) -> int:
        """Bass key of a degree, between E1 and D#3."""
        k = self.root + self.mode[degree % 7]
        return k - 12 if k > 45 else k

    def figure(self, part: str, alike: str, beats: int, density: float, offbeat: float) -> list[tuple[float, int]]:
        """A rhythm with scale steps, made once for each kind of section."""
        slot = (part, alike)
        if slot not in self.figures:
            steps = 3 if self.groove.steps == 3 else int(self.rng.choice([2, 4, 4]))
            at = rhythm(self.rng, beats, steps, density, offbeat)
            if part in ("bass", "riff") and self.rng.random() < 0.85 and 0.0 not in at:
                at.insert(0, 0.0)
            walk = np.cumsum(self.rng.choice([-2, -1, 0, 0, 1, 2, 4, -3], len(at)))
            self.figures[slot] = [(b, int(s)) for b, s in zip(at, walk - walk[0], strict=True)]
        return self.figures[slot]  # type: ignore[return-value]

    def style(self, part: str, alike: str, words: str) -> str:
        """A style of playing, mostly the same through the song."""
        key = part if self.rng.random() < 0.85 else f"{part}{alike}"
        if ("style", key) not in self.figures:
            self.figures["style", key] = _pick(self.rng, words)
        return str(self.figures["style", key])

    def drums(self, section: Section, bar: int, start: float, beats: int, last: bool) -> list[Note]:
        """One bar of drums in the section's manner."""
        g, rng, manner = self.groove, self.rng, section.drums
        if section.alike not in self.drum_lines:
            base = self.drum_lines.get("base") or grooves.vary(rng, g)
            self.drum_lines["base"] = base
            self.drum_lines[section.alike] = base if rng.random() < 0.6 else grooves.vary(rng, g)
        lines = self.drum_lines[section.alike]
        if manner == "none":
            return []
        if manner == "hats":
            lines = {k: v for k, v in lines.items() if k not in "KSCRTf"} or {"H": "x." * 8}
        elif manner == "kick":
            lines = {k: v for k, v in lines.items() if k not in "SCR"}
        elif manner == "light":
            lines = {("R" if k in "SC" else "A" if k in "HOD" else k): v for k, v in lines.items()}
        elif manner == "half" and g.beats == 4 and g.steps == 4:
            lines = {"K": "x.......?...?...", "S": "........x.......", "D": "x...x...x...x..."}
        elif manner == "double" and g.beats == 4 and g.steps == 4:
            lines = {"K": "x...x...x...x...", "S": "..x...x...x...x.", "H": "x.x.x.x.x.x.x.x."}
        elif manner == "wash":
            lines = {k: v for k, v in lines.items() if k not in "HDOP"} | {
                "X": "x..." * 4 if g.steps == 4 else "x.." * 4
            }
        elif manner == "hits":
            # the whole band strikes together, off the beat as often as on it
            fig = self.figure("hits", section.alike, beats, 0.5, 0.5)
            struck = {round(b * g.steps) for b, _ in fig}
            together = "".join("x" if i in struck else "." for i in range(beats * g.steps))
            lines = {"K": together, "X": together, "S": lines.get("S", "....x.......x...")}
        loud = 0.55 + 0.45 * section.energy
        out = grooves.bar(rng, lines, g.steps, start, beats, loud)
        cut = int(rng.choice([1, 2, 2, 4])) if last else 0
        if last and rng.random() < 0.7 and manner in ("full", "half", "double"):
            cut = min(cut, beats)
            keep = start + beats - cut
            out = [n for n in out if n.beat < keep - 1e-6 or (n.key == 36 and rng.random() < 0.5)]
            out += grooves.fill(rng, g.steps, keep, cut, loud)
        elif bar % 4 == 3 and rng.random() < 0.2:
            out += grooves.fill(rng, g.steps, start + beats - 1, 1, loud * 0.8)
        if bar == 0 and section.energy > 0.6 and rng.random() < 0.55:
            out.append(Note("drums", start, int(rng.choice([49, 57, 55])), loud))
        return out

    def bass(self, section: Section, bar: int, start: float, beats: int) -> list[Note]:
        """One bar of bass."""
        rng, g = self.rng, self.groove
        style = self.style("bass", section.alike, BASSES[g.family])
        key = self.bass_key(self.degree(section.alike, bar, 0))
        key2 = self.bass_key(self.degree(section.alike, bar, 1))
        at: list[tuple[float, int, float]] = []
        if style == "long":
            at = (
                [(0.0, key, beats * 0.9)]
                if rng.random() < 0.7
                else [(0.0, key, 1.4), (float(rng.choice([1.5, 2, 2.5])), key, 1.2)]
            )
        elif style == "roots":
            at = [(float(b), key, 0.8) for b in range(0, beats, int(rng.choice([1, 2, 2])))]
        elif style == "eighths":
            at = [(b / 2, key, 0.42) for b in range(2 * beats)]
        elif style == "sixteenths":
            at = [(i / 4, key, 0.2) for i in range(4 * beats)]
        elif style == "octaves":
            at = [(b / 2, key + (12 if b % 2 else 0), 0.4) for b in range(2 * beats)]
        elif style == "off":
            at = [(b + 0.5, key, 0.4) for b in range(beats)]
        elif style == "walk":
            steps = [0, 2, 4, 5, 4, 2, 7, -1]
            at = [(float(b), key + (0 if b == 0 else int(rng.choice(steps))), 0.9) for b in range(beats)]
        elif style == "tumbao":
            at = (
                [(1.5, key + 7, 0.9), (3.0, key2, 1.4)]
                if bar
                else [(0.0, key, 1.2), (1.5, key + 7, 0.9), (3.0, key2, 1.4)]
            )
        elif style == "dub":
            at = [(b, key + s, 0.4) for b, s in self.figure("bass", section.alike, beats, 0.45, 0.4)]
        elif style == "kick":
            line = self.drum_lines.get("base", {}).get("K", "x...x...")
            at = [(i / g.steps, key, 0.35) for i in range(beats * g.steps) if line[i % len(line)] in "xo"] or [
                (0.0, key, 1.0)
            ]
        elif style == "waltz":
            at = [(0.0, key, 0.9)]
        elif style == "lilt":
            at = [(b + o, key, 0.3) for b in range(beats) for o in (0.0, 2 / 3)]
        elif style == "thirds":
            at = [(b / 3, key, 0.3) for b in range(3 * beats)]
        else:
            fig = self.figure("bass", section.alike, beats, 0.75 * self.density, 0.25)
            scale = self.mode
            at = [(b, key + scale[s % 7] + 12 * (s // 7) if abs(s) < 7 else key, 0.4) for b, s in fig if b < beats]
        if self.span == 0:
            at = [(b, k if b < beats / 2 else k - key + key2, length) for b, k, length in at]
        return [
            Note("bass", start + b, k, float(np.clip(rng.normal(0.8, 0.07), 0.3, 1)), length)
            for b, k, length in at
            if b < beats
        ]

    def comp(self, part: str, section: Section, bar: int, start: float, beats: int) -> list[Note]:
        """One bar of chords; two parts may play them, each in its own style."""
        rng, g = self.rng, self.groove
        style = self.style(part, section.alike, COMPING[g.family])
        chord = self.chord(self.degree(section.alike, bar, 0), 4)
        second = self.chord(self.degree(section.alike, bar, 1), 4)
        power = [chord[0] - 12, chord[0] - 5, chord[0]]
        hits: list[tuple[float, float, float, list[int]]] = []  # beat, length, loudness, keys
        half = g.steps == 4
        if style in ("pad", "whole"):
            hits = [(0.0, beats * 0.95, 0.7, chord)]
        elif style == "off":
            hits = [(b + (0.5 if half else 2 / 3), 0.25, 0.75, chord) for b in range(beats)]
        elif style == "organ":
            hits = [(b / 2, 0.2, 0.5 + 0.3 * (b % 2), chord) for b in range(2 * beats)]
        elif style == "strum":
            hits = [
                (b / 2 if half else (b // 2) + (2 / 3 if b % 2 else 0), 0.45, 0.8 if b % 2 == 0 else 0.6, chord)
                for b in range(2 * beats)
                if rng.random() < 0.85
            ]
        elif style == "eighths":
            hits = [(b / 2, 0.45, 0.75 if b % 2 == 0 else 0.6, chord) for b in range(2 * beats)]
        elif style == "thirds":
            hits = [(b / 3, 0.3, 0.6 if b % 3 else 0.75, chord) for b in range(3 * beats)]
        elif style == "sixteenths":
            hits = [(i / 4, 0.18, 0.65 if i % 4 else 0.9, power) for i in range(4 * beats)]
        elif style == "chug":
            hits = [(b / 2, 0.38, 0.9 if b % 2 == 0 else 0.75, power) for b in range(2 * beats)]
        elif style == "gallop":
            hits = [(b + o, 0.2, 0.9 if o == 0 else 0.75, power) for b in range(beats) for o in (0.0, 0.5, 0.75)]
        elif style == "mute":
            fig = self.figure(part, section.alike, beats, 0.9 * self.density, 0.4)
            hits = [(b, 0.2, 0.9 if b % 1 == 0 else 0.75, power) for b, _ in fig]
        elif style == "open":
            hits = (
                [(b, beats / 2 - 0.1, 0.9, power) for b in (0.0, beats / 2)]
                if rng.random() < 0.5
                else [(0.0, beats - 0.1, 0.9, power)]
            )
        elif style == "wall":
            hits = [(b / 2, 0.6, 0.85, power) for b in range(2 * beats)]
        elif style == "pushed":
            at = [0.0, 1.5, 2.5, 3.5] if bar % 2 else [0.0, 1.5, 3.0]
            hits = [(b, 1.2, 0.9, power) for b in at]
        elif style == "pulse":
            hits = [(float(b), 0.7, 0.75, chord) for b in range(beats)]
        elif style == "arp":
            per = int(rng.choice([2, 4])) if half else 3
            hits = [(i / per, 1.0 / per, 0.7 if i % per else 0.8, [chord[i % len(chord)]]) for i in range(beats * per)]
        elif style == "scratch":
            hits = [
                (i / 4, 0.1 if rng.random() < 0.7 else 0.3, float(rng.choice([0.4, 0.6, 0.85])), chord)
                for i in range(4 * beats)
                if rng.random() < 0.7
            ]
        elif style == "waltz":
            hits = [(float(b), 0.5, 0.65, chord) for b in range(1, beats)]
        elif style == "montuno":
            line = [0, 0.5, 1, 1.5, 2.5, 3, 3.5] if bar % 2 else [0, 1, 1.5, 2.5, 3.5]
            hits = [(b, 0.3, 0.75, [chord[i % len(chord)], chord[i % len(chord)] + 12]) for i, b in enumerate(line)]
        else:
            fig = self.figure(part, section.alike, beats, 0.6 * self.density, 0.5)
            hits = [(b, 0.3, 0.75, chord) for b, _ in fig]
        out = []
        for b, length, loud, keys in hits:
            if b >= beats:
                continue
            now = (
                keys
                if self.span or b < beats / 2
                else ([k - chord[0] + second[0] for k in power] if keys is power else second if keys is chord else keys)
            )
            place = b - self.early if b == 0 and bar and self.early and length > 1 else b
            strum = rng.uniform(0, 0.012) if style in ("strum", "scratch", "open") else 0.0
            out += [
                Note(part, start + place, k, float(np.clip(loud * rng.normal(1, 0.06), 0.1, 1)), length, i * strum)
                for i, k in enumerate(now)
            ]
        return out

    def melody(self, part: str, section: Section, bar: int, start: float, beats: int) -> list[Note]:
        """One bar of a riff (the same every bar or two), or of a lead or a voice that sings in phrases."""
        rng = self.rng
        base = {"riff": 5, "lead": 5, "voice": 4, "choir": 5}[part] * 12 + self.root % 12
        if part == "riff":
            span = 2 if self.density > 1 else 1
            fig = self.figure("riff", section.alike, beats * span, 0.6 * self.density, 0.35)
            move = self.degree(section.alike, bar, 0) if self.early == 0 else 0
            here = [
                (b - (bar % span) * beats, s) for b, s in fig if (bar % span) * beats <= b < (bar % span + 1) * beats
            ]
            return [self._sung("riff", start + b, base, s + move, 0.35) for b, s in here]
        if part == "choir":
            return [
                Note("choir", start, k, 0.6, beats * 0.9) for k in self.chord(self.degree(section.alike, bar, 0), 5)
            ]
        phrase = (bar // 2) % 2 if rng.random() < 0.8 else 0
        if bar % 4 == 3 and rng.random() < 0.6:
            return []
        fresh = f"{section.alike}{bar % 4}{phrase if rng.random() < 0.3 else 0}"
        fig = self.figure(part, fresh, beats, (0.75 if part == "voice" else 0.6) * self.density, rng.uniform(0.1, 0.6))
        at = [b for b, _ in fig] + [float(beats)]
        return [
            self._sung(part, start + b, base, s, float(np.clip((n - b) * 0.9, 0.1, 1.5)))
            for (b, s), n in zip(fig, at[1:], strict=True)
            if b < beats
        ]

    def _sung(self, part: str, beat: float, base: int, step: int, length: float) -> Note:
        key = base + self.mode[step % 7] + 12 * int(np.clip(step // 7, -1, 1))
        return Note(part, beat, key, float(np.clip(self.rng.normal(0.8, 0.08), 0.3, 1)), length)


Plan = Callable[[Generator, Groove, float, float], list[Section]]
"""What makes a form: of a groove, about so many s, at so many BPM."""
Compose = Callable[[Generator, float], Song]
"""What makes a song of about so many s."""


def compose(rng: Generator, seconds: float, plan: Plan = form, *, among: tuple[Groove, ...] = grooves.GROOVES) -> Song:
    """A song of about `seconds`, whose sections `plan` makes, over one `among` these grooves."""
    groove = grooves.choose(rng, among)
    bpm = float(np.exp(rng.uniform(np.log(groove.low), np.log(groove.high))))
    if rng.random() < 0.4:
        bpm = float(np.round(bpm))
    sections = plan(rng, groove, seconds, bpm)
    band = Band(rng, groove)
    notes: list[Note] = []
    beat = 0
    for k, section in enumerate(sections):
        for i, beats in enumerate(section.bars):
            last = i == len(section.bars) - 1
            s = float(beat)
            notes += band.drums(section, i, s, beats, last)
            if "bass" in section.parts:
                notes += band.bass(section, i, s, beats)
            for part in ("comp", "comp2"):
                if part in section.parts:
                    notes += band.comp(part, section, i, s, beats)
            if "pad" in section.parts:
                notes += [
                    Note("pad", s, key, 0.55, beats * 0.97) for key in band.chord(band.degree(section.alike, i, 0), 4)
                ]
            for part in ("riff", "lead", "voice", "choir"):
                if part in section.parts:
                    notes += band.melody(part, section, i, s, beats)
            if last and rng.random() < 0.07:
                # everybody stops for the end of a section, or all but one
                silent = s + beats - float(rng.choice([1, 2, beats]))
                left = _pick(rng, "none voice comp drums bass")
                notes = [n for n in notes if n.beat < silent - 0.01 or n.part == left]
            beat += beats
        if k + 1 < len(sections) and rng.random() < 0.15 and section.energy < sections[k + 1].energy:
            notes += [Note("drums", beat - 4 + j / 4, 38, 0.3 + 0.6 * j / 16) for j in range(16)]
    if rng.random() < 0.12:
        lead_in = float(rng.choice([0.5, 1, 1, 1.5, 2, 3]))
        notes += [
            Note(_pick(rng, "lead riff drums"), -b, 62 if rng.random() < 0.5 else 45, 0.7, 0.4)
            for b in np.arange(lead_in, 0, -0.5)
        ]
    if rng.random() < 0.05:
        notes += [Note("drums", b - groove.beats, 37, 0.8) for b in range(groove.beats)]
    notes.append(Note("drums", float(beat), 36, 0.8)) if rng.random() < 0.5 and any(
        n.part == "drums" for n in notes
    ) else None
    swung = groove.steps == 4 and rng.random() < groove.swing
    machine = bool(rng.random() < groove.machine)
    feel = Feel(
        jitter=0.0 if machine and rng.random() < 0.7 else float(rng.choice([0.002, 0.004, 0.006, 0.009])),
        swing=float(rng.uniform(0.53, 0.68)) if swung else 0.5,
        swung=0.5 if groove.family == "jazz" or rng.random() < 0.1 else 0.25,
        snare_late=float(rng.choice([0, 0, 0, rng.uniform(-0.004, 0.016)]))
        if groove.family in ("hiphop", "funk", "soul")
        else 0.0,
        bass_late=float(rng.choice([0, 0, rng.uniform(-0.005, 0.012)])),
    )
    return Song(groove, bpm, sections, notes, feel, machine, band.root % 12, band.mode[2] == 3)
