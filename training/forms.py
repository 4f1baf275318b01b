"""Forms as whole songs have them, for what reads phrases: four families, none of whose plans stands in `composer.form`.

Every choice is drawn at random within what is common practice (no source): verses of 16 with hooks of 8, half verses,
pre-choruses, turnarounds, cold starts, a beat that switches, long intros and outros to mix over, breaks of 2 to 32
bars, tags of 2 and 4. A section grows or thins inside: players come and go every 8 or 4 bars, which is no new section.
"""

from __future__ import annotations

import attrs
from numpy.random import Generator

from training.grooves import Groove
from training.score import Section

ALL = ("bass", "comp", "comp2", "pad", "riff", "lead", "voice")
DANCE, SONG, RAP, VAMP = "dance", "song", "rap", "vamp"
FAMILIES = (DANCE, SONG, RAP, VAMP)


@attrs.frozen
class Part:
    """A section on its way: its kind, how many bars, which letter it shares with others."""

    kind: str
    bars: int
    alike: str


def _one(rng: Generator, *choices: int) -> int:
    return int(rng.choice(choices))


def _dance(rng: Generator) -> list[Part]:
    out = [Part("intro", _one(rng, 16, 16, 32, 8), "intro")]
    for k in range(_one(rng, 1, 2, 2)):
        out.append(Part("verse", _one(rng, 16, 32, 16, 8), "groove"))
        # in some, what leads to the drop begins right after the groove
        straight = rng.random() < 0.3
        if not straight:
            out.append(Part("break", _one(rng, 8, 16, 16, 32, 4), f"break{k}"))
        if straight or rng.random() < 0.6:
            out.append(Part("build", _one(rng, 4, 8, 8, 2, 16, 16, 20), "build"))
        out.append(Part("drop", _one(rng, 16, 32, 16, 20), "drop"))
    out.append(Part("outro", _one(rng, 16, 16, 32, 8), "outro"))
    return out


def _song(rng: Generator) -> list[Part]:
    verse, chorus = _one(rng, 8, 16, 16, 12), _one(rng, 8, 8, 16)
    pre = _one(rng, 0, 0, 4, 8)
    # a cold start begins with what others lead up to
    out = [] if rng.random() < 0.15 else [Part("intro", _one(rng, 4, 8, 8, 2, 16), "intro")]
    if rng.random() < 0.12:
        out.append(Part("chorus", chorus, "chorus"))
    for k in range(_one(rng, 2, 2, 3)):
        # the second verse is often half as long
        out.append(Part("verse", verse // 2 if k and rng.random() < 0.25 and verse > 8 else verse, "verse"))
        if pre:
            out.append(Part("pre", pre, "pre"))
        out.append(Part("chorus", chorus, "chorus"))
        if rng.random() < 0.3:
            out.append(Part("turn", _one(rng, 2, 4, 4), "intro"))
    if rng.random() < 0.6:
        out.append(Part("break", _one(rng, 4, 8, 8, 16), "bridge"))
    out.append(Part("chorus", chorus * (2 if rng.random() < 0.3 else 1), "chorus"))
    if rng.random() < 0.7:
        out.append(Part("outro", _one(rng, 2, 4, 8, 8), "intro" if rng.random() < 0.4 else "outro"))
    return out


def _rap(rng: Generator) -> list[Part]:
    out = [Part("intro", _one(rng, 4, 4, 8, 2), "intro")]
    hook, verse = _one(rng, 4, 8, 8), _one(rng, 16, 16, 12, 24)
    if rng.random() < 0.25:
        out.append(Part("chorus", hook, "hook"))
    for _ in range(_one(rng, 2, 2, 3)):
        out += [Part("verse", verse, "verse"), Part("chorus", hook, "hook")]
    if rng.random() < 0.3:
        out.append(Part("break", _one(rng, 2, 4, 8), "break"))
    if rng.random() < 0.15:
        # the beat switches, and the song ends on another one
        out += [Part("verse", _one(rng, 8, 16), "second"), Part("chorus", hook, "second hook")]
    out.append(Part("outro", _one(rng, 4, 8, 4), "intro"))
    return out


def _vamp(rng: Generator) -> list[Part]:
    out = [Part("intro", _one(rng, 8, 16, 4, 16), "intro")]
    for k in range(_one(rng, 2, 3)):
        out.append(Part("verse", _one(rng, 16, 24, 32, 16), "vamp"))
        out.append(Part("chorus", _one(rng, 8, 16, 8), "chorus"))
        if rng.random() < 0.6:
            out.append(Part("break", _one(rng, 4, 8, 16, 8, 2), f"break{k}"))
    out.append(Part("outro", _one(rng, 8, 16, 16), "vamp"))
    return out


_PLANS = {DANCE: _dance, SONG: _song, RAP: _rap, VAMP: _vamp}
_ENERGY = {
    "intro": 0.62, "verse": 0.75, "pre": 0.82, "chorus": 1.0, "break": 0.5, "build": 0.75, "drop": 1.0, "outro": 0.6,
    "turn": 0.8,
}  # fmt: skip
_ABSENT = {
    "intro": 0.55, "verse": 0.25, "pre": 0.2, "chorus": 0.05, "break": 0.5, "build": 0.4, "drop": 0.05, "outro": 0.5,
    "turn": 0.2,
}  # fmt: skip
_DRUMS = {
    "intro": "full full hats none kick light", "verse": "full full full light half", "pre": "full light half full",
    "chorus": "full full full wash", "break": "none none light hats kick half", "build": "kick light hats full",
    "drop": "full", "outro": "full full light kick hats none", "turn": "full light",
}  # fmt: skip
STYLES = {
    "dance": (DANCE, DANCE, VAMP), "disco": (VAMP, VAMP, SONG), "funk": (VAMP, SONG), "soul": (SONG, VAMP),
    "hiphop": (RAP, RAP, SONG), "pop": (SONG,), "rock": (SONG,), "ballad": (SONG,),
}  # fmt: skip


def plan(rng: Generator, groove: Groove, seconds: float, bpm: float, family: str = "") -> list[Section]:
    """The sections of a whole song, those of one letter played alike; what is longer than `seconds` is cut short.

    Parameters
    ----------
    family : one of `FAMILIES`; by the groove where nothing is said
    """
    family = family or str(rng.choice(STYLES.get(groove.family, FAMILIES)))
    parts = _PLANS[family](rng)
    chances = {"bass": 0.92, "comp": 0.8, "comp2": 0.35, "pad": 0.45, "riff": 0.45, "lead": 0.45}
    have = {p for p, c in chances.items() if rng.random() < c} or {"bass", "comp"}
    if rng.random() < {DANCE: 0.25, SONG: 0.85, RAP: 0.8, VAMP: 0.5}[family]:
        have.add("voice")
    plays: dict[str, tuple[frozenset[str], str, float]] = {}
    # in many songs nearly all play all the time, and only what they play changes
    even = rng.random() < 0.45
    out: list[Section] = []
    left = int(seconds * bpm / 60 / groove.beats)
    for k, part in enumerate(parts):
        if left < 2:
            break
        kind = part.kind
        if part.alike not in plays:
            players = {p for p in sorted(have) if rng.random() > _ABSENT[kind] * (0.25 if even else 1.0)}
            if kind in ("verse", "chorus", "pre") and "voice" in have:
                players.add("voice")
            if kind in ("intro", "outro", "turn", "drop") and rng.random() < 0.75:
                players.discard("voice")
            drums = "full" if even and rng.random() < 0.8 else str(rng.choice(_DRUMS[kind].split()))
            if not players and drums == "none":
                drums = "light"
            energy = _ENERGY[kind] * float(rng.uniform(0.85, 1.0))
            plays[part.alike] = (frozenset(players), drums, 0.85 + 0.15 * energy if even else energy)
        players_, drums, energy = plays[part.alike]
        bars = min(part.bars, left)
        if k == len(parts) - 1 and rng.random() < 0.2:
            # a fade that takes the last section along
            bars = max(2, bars - _one(rng, 1, 2, 3))
        out += _grown(rng, part, bars, groove, players_, drums, energy)
        left -= bars
    return out


def _grown(
    rng: Generator, part: Part, bars: int, groove: Groove, players: frozenset[str], drums: str, energy: float
) -> list[Section]:
    """A section in blocks of 8 or 4 bars in which players come or go; only the first block begins a section."""
    block = 8 if bars % 8 == 0 and bars > 8 else 4 if bars % 4 == 0 and bars > 4 and rng.random() < 0.3 else bars
    out = []
    now = set(players)
    for at in range(0, bars, block):
        if at and rng.random() < 0.45 and part.kind != "drop":
            grows = part.kind in ("intro", "build", "verse", "pre") and rng.random() < 0.75
            other = sorted(set(ALL[:-1]) - now) if grows else sorted(now - {"voice", "bass"})
            if other:
                one = str(rng.choice(other))
                now = now | {one} if grows else now - {one}
        lengths = [groove.beats] * min(block, bars - at)
        if at + block >= bars and rng.random() < 0.03 and groove.beats == 4:
            lengths[-1] = _one(rng, 2, 6)
        # the name says whether a listener hears a new section here
        kind = part.kind if at == 0 else f"{part.kind}+"
        out.append(Section(kind, tuple(lengths), energy, frozenset(now), drums, part.alike))
    return out
