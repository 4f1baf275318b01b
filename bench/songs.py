"""Sixty rendered songs with known sections, from seeds: `.venv/bin/python bench/songs.py FOLDER SOUNDFONT ...`.

Then `.venv/bin/python bench/form.py FOLDER`. No plan of `training/forms.py` or `training.composer` stands here: a song
grows section by section, each chosen by the one before (a Markov chain for each of four habits); lengths are multiples
of a unit of the song with an odd one now and then; who plays follows one row from the first player to come to the last,
of which a section takes more or less. All of it is common practice, no source. Instruments and grooves are those of
`training`, as there are no others. In FOLDER/raised lie songs of other seeds that go up by one to three semitones with
one of their last choruses or drops.
"""

from __future__ import annotations

import sys
from pathlib import Path

import attrs
import numpy as np
from numpy.random import Generator

ROOT = Path(__file__).resolve().parent.parent
sys.path[:0] = [str(ROOT), str(ROOT / "bench")]

from rendering import keep, render_all

from training import composer, takes
from training.composer import Song
from training.dataset import studio
from training.grooves import COMPOUND, DRIVES, GROOVES, Groove
from training.score import Section

FIRST, COUNT, SECONDS = 77_000_000, 60, 190.0
RAISED = range(78_500_000, 78_500_110)
"""Seeds of the songs whose key goes up; those without two choruses don't count."""

# what follows what, and how often; "end" ends a song
CHAINS = {
    "floor": {
        "": {"intro": 9, "break": 1},
        "intro": {"verse": 8, "drop": 2},
        "verse": {"break": 5, "build": 3, "verse": 2},
        "break": {"build": 5, "drop": 4, "verse": 1},
        "build": {"drop": 10},
        "drop": {"break": 4, "verse": 2, "outro": 4},
        "outro": {"end": 1},
    },
    "sung": {
        "": {"intro": 8, "verse": 1, "chorus": 1},
        "intro": {"verse": 10},
        "verse": {"chorus": 7, "pre": 3},
        "pre": {"chorus": 10},
        "chorus": {"verse": 5, "break": 2, "turn": 1, "outro": 2},
        "turn": {"verse": 10},
        "break": {"chorus": 7, "verse": 3},
        "outro": {"end": 1},
    },
    "spoken": {
        "": {"intro": 8, "chorus": 2},
        "intro": {"verse": 8, "chorus": 2},
        "verse": {"chorus": 9, "break": 1},
        "chorus": {"verse": 6, "outro": 3, "break": 1},
        "break": {"verse": 5, "outro": 5},
        "outro": {"end": 1},
    },
    "groove": {
        "": {"intro": 10},
        "intro": {"verse": 10},
        "verse": {"chorus": 6, "break": 4},
        "chorus": {"verse": 5, "break": 3, "outro": 2},
        "break": {"verse": 6, "chorus": 4},
        "outro": {"end": 1},
    },
}
HABITS = {
    "dance": ("floor", "groove"), "disco": ("groove", "sung"), "funk": ("groove",), "soul": ("sung", "groove"),
    "hiphop": ("spoken", "spoken", "sung"), "pop": ("sung", "sung", "floor"), "rock": ("sung",), "ballad": ("sung",),
}  # fmt: skip
UNITS = {
    "intro": (1, 2, 2, 4), "verse": (2, 2, 3, 4), "pre": (1, 1, 2), "chorus": (1, 2, 2), "turn": (1,),
    "break": (1, 1, 2, 4), "build": (1, 2), "drop": (2, 4, 4), "outro": (1, 2, 4),
}  # fmt: skip
FULL = {
    "intro": 0.35, "verse": 0.65, "pre": 0.7, "chorus": 0.95, "turn": 0.6, "break": 0.3, "build": 0.5, "drop": 1.0,
    "outro": 0.4,
}  # fmt: skip
DRUMMED = {
    "intro": ("full", "hats", "kick", "none"), "verse": ("full", "full", "light"), "pre": ("full", "half"),
    "chorus": ("full", "full", "wash"), "turn": ("full", "light"), "break": ("none", "light", "hats"),
    "build": ("kick", "light"), "drop": ("full",), "outro": ("full", "light", "none"),
}  # fmt: skip
LONGEST = 64


def plan(rng: Generator, groove: Groove, seconds: float, bpm: float) -> list[Section]:
    """The sections of one song."""
    chain = CHAINS[str(rng.choice(HABITS.get(groove.family, tuple(CHAINS))))]
    unit = int(rng.choice([4, 8, 8])) if bpm > 75 else 4
    row = ["bass", "comp", *rng.permutation(["comp2", "pad", "riff", "lead"])[: rng.integers(0, 4)]]
    sings = rng.random() < (0.2 if chain is CHAINS["floor"] else 0.75)
    lengths = {kind: unit * int(rng.choice(units)) for kind, units in UNITS.items()}
    ways = {
        kind: (float(np.clip(FULL[kind] + rng.normal(0, 0.15), 0.15, 1)), str(rng.choice(DRUMMED[kind])))
        for kind in UNITS
    }
    out: list[Section] = []
    left, kind, choruses = int(seconds * bpm / 60 / groove.beats), "", 0
    while left >= 2:
        after = dict(chain[kind])
        if left <= 3 * unit and "outro" in after:
            after = {"outro": 1}
        elif choruses < 2:
            after = {k: n for k, n in after.items() if k != "outro"} or after
        kind = str(rng.choice(list(after), p=np.array(list(after.values()), float) / sum(after.values())))
        if kind == "end":
            break
        choruses += kind in ("chorus", "drop")
        bars = lengths[kind]
        if rng.random() < 0.12:
            bars += int(rng.choice([-unit // 2, unit // 2, 2, 1]))
        bars = max(2, min(bars, left, LONGEST))
        share, drums = ways[kind]
        playing = frozenset(row[: max(1, round(share * len(row)))]) | (
            {"voice"} if sings and kind in ("verse", "pre", "chorus") else frozenset()
        )
        out += _section(rng, kind, bars, groove, playing, drums, 0.5 + 0.5 * share, row)
        left -= bars
    return out


def _section(
    rng: Generator,
    kind: str,
    bars: int,
    groove: Groove,
    playing: frozenset[str],
    drums: str,
    energy: float,
    row: list[str],
) -> list[Section]:
    """A section, at times with one player more or less from its middle on: that is no new section."""
    one = Section(kind, (groove.beats,) * bars, energy, playing, drums, kind)
    if bars < 16 or bars % 8 or rng.random() < 0.6:
        return [one]
    others = [p for p in row if p not in playing]
    second = playing | {others[0]} if others else playing - {row[-1]}
    half = (groove.beats,) * (bars // 2)
    return [
        Section(kind, half, energy, playing, drums, kind),
        Section(f"{kind}+", half, energy, frozenset(second), drums, kind),
    ]


def raised(seed: int, song: Song) -> tuple[Song, int, int]:
    """A song that goes up with a late chorus or drop; in which section, and by how many semitones, 0 where in none."""
    rng = np.random.default_rng(seed)
    tops = [k for k, s in enumerate(song.sections) if s.kind in ("chorus", "drop")]
    if len(tops) < 2:
        return song, 0, 0
    at = tops[-1] if rng.random() < 0.7 or len(tops) < 3 else tops[-2]
    by, start = int(rng.choice([1, 1, 2, 2, 3])), sum(s.beats for s in song.sections[:at]) - 0.01
    notes = [attrs.evolve(n, key=n.key + by) if n.part != "drums" and n.beat >= start else n for n in song.notes]
    return attrs.evolve(song, notes=notes), at, by


def make(seed: int, *, folder: Path, soundfonts: tuple[Path, ...]) -> bool:
    """Render song `seed` with its truth; whether it has a form to speak of, and a step of the key if it should."""
    up = seed in RAISED
    path = folder / (f"raised/song{seed - RAISED.start:03d}.json" if up else f"song{seed - FIRST:03d}.json")
    path.parent.mkdir(exist_ok=True)
    if path.exists():
        return True
    planned: list[Section] = []

    def kept(rng: Generator, groove: Groove, seconds: float, bpm: float) -> list[Section]:
        planned[:] = plan(rng, groove, seconds, bpm)
        return list(planned)

    first = by = 0

    def compose(rng: Generator, seconds: float) -> Song:
        nonlocal first, by
        # what the generator got later would make other songs of the same seeds
        song = composer.compose(rng, seconds, kept, among=tuple(g for g in GROOVES if g not in COMPOUND + DRIVES))
        if up:
            song, first, by = raised(seed, song)
        return song

    take = takes.make(studio(soundfonts), seed, seconds=SECONDS, compose=compose)
    if not len(take.downbeats) or (up and not by):
        return False
    parts = planned[-len(take.sections) :]
    starts = take.sections.tolist()
    if len(parts) < len(planned) and take.downbeats[0] < starts[0] - 0.01:
        # the recording begins in the middle of a section
        parts, starts = planned[-len(parts) - 1 :], [float(take.downbeats[0]), *starts]
    cut = len(planned) - len(parts)
    heard = [
        (at, s, by if by and cut + k >= first else 0)
        for k, (at, s) in enumerate(zip(starts, parts, strict=True))
        if not k or s.kind[-1] != "+"
    ]
    if len(heard) < 4 or (up and heard[0][2]):
        return False
    starts = [at for at, _, _ in heard]
    bars = np.diff(np.searchsorted(take.downbeats, np.append(starts, np.inf) - 0.01))
    sections = [
        {"start": at, "kind": section.kind.rstrip("+"), "bars": int(n), "raised": semitones}
        for (at, section, semitones), n in zip(heard, bars, strict=True)
    ]
    keep(path, take, "rendered", sections=sections)
    return True


def main() -> int:
    """Render what isn't there yet."""
    return render_all(
        make,
        [*range(FIRST, FIRST + COUNT), *RAISED],
        prog="bench/songs.py",
        about=str(__doc__),
        name="songs",
        others="the others have no form to speak of, or none to go up in",
    )


if __name__ == "__main__":
    sys.exit(main())
