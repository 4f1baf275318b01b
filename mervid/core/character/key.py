"""The key of a recording: which tonic, major or minor, how surely, and what else it may be.

The field's task is one key a recording, judged with the weights of MIREX (1 the same, 0.5 a fifth off, 0.3 the
relative, 0.2 the parallel; mir_eval.key). A profile says how much of each degree a key holds (Krumhansl & Kessler,
Psychological Review 89, 1982). Those used here began as the ones of Albrecht & Shanahan (Music Perception 31, 2013;
values recalled from memory) and were moved, with one for the bass beside each, by rendered takes of which the key is
known (`training/key.py`).
"""

from __future__ import annotations

from functools import cache
from pathlib import Path

import attrs
import numpy as np

from ..arrays import Floats, Singles
from ..errors import Refused
from ..hearing.pitches import STEPS

MAJOR, MINOR = "major", "minor"
_SIGNS = ("C", "Db", "D", "Eb", "E", "F", "F#", "G", "Ab", "A", "Bb", "B")
_MINOR_SIGNS = ("C", "C#", "D", "Eb", "E", "F", "F#", "G", "G#", "A", "Bb", "B")
_LETTERS = {"C": 0, "D": 2, "E": 4, "F": 5, "G": 7, "A": 9, "B": 11}
_ACCIDENTALS = {"": 0, "#": 1, "♯": 1, "b": -1, "♭": -1}
_WIDE = 0.2
"""Semitones: how far beside its degree a pitch may lie and still count (a deviation of a normal curve)."""
_EVEN, _TONAL = 0.23, 0.5
"""How much pitch classes differ, deviation over mean: in white noise, and in 19 of 20 rendered takes at least."""
SAME, RELATIVE, FIFTH_UP, FIFTH_DOWN, OTHER = "same", "relative", "a fifth up", "a fifth down", "other"


@attrs.frozen
class Key:
    """A tonic, 0 to 11 semitones above C, and the mode.

    Examples
    --------
    >>> Key(9, True).name
    'A minor'
    """

    tonic: int
    minor: bool

    @property
    def name(self) -> str:
        """As a musician writes it: 'A minor'."""
        return f"{(_MINOR_SIGNS if self.minor else _SIGNS)[self.tonic]} {MINOR if self.minor else MAJOR}"


@attrs.frozen
class Estimate:
    """The likeliest key and the second, with their chances, 0 to 1."""

    key: Key
    chance: float
    second: Key
    second_chance: float


KEYS = tuple(Key(tonic, minor) for minor in (False, True) for tonic in range(12))


def named(text: str) -> Key:
    """The key of a name: 'A minor', 'a min', 'F# major', 'Bbm', 'Eb'.

    Raises
    ------
    Refused
        It is no key.
    """
    plain = "".join(text.split())
    letter, rest = plain[:1].upper(), plain[1:]
    sign = rest[:1] if rest[:1] in _ACCIDENTALS and rest[:1] else ""
    mode = rest[len(sign) :].lower() if rest[len(sign) :] not in ("m", "M") else rest[len(sign) :]
    modes = {"": False, "M": False, "maj": False, MAJOR: False, "m": True, "min": True, MINOR: True}
    if letter not in _LETTERS or mode not in modes:
        raise Refused(f"'{text}' is no key: write it as A minor or Eb major.")
    return Key((_LETTERS[letter] + _ACCIDENTALS[sign]) % 12, modes[mode])


def neighbours(key: Key) -> dict[Key, str]:
    """The keys that go with one, and how they are related: common practice, no source.

    Examples
    --------
    >>> [k.name for k in neighbours(Key(9, True))]
    ['A minor', 'C major', 'E minor', 'D minor']
    """
    relative = Key((key.tonic + (3 if key.minor else 9)) % 12, not key.minor)
    return {
        key: SAME,
        relative: RELATIVE,
        Key((key.tonic + 7) % 12, key.minor): FIFTH_UP,
        Key((key.tonic + 5) % 12, key.minor): FIFTH_DOWN,
    }


def relation(name: str, other: str) -> str:
    """How the second key stands to the first: as `neighbours` says, `OTHER`, or empty where one isn't known.

    >>> relation("Am", "C major") == RELATIVE, relation("Am", "F# major") == OTHER, relation("", "Am")
    (True, True, '')
    """
    try:
        return neighbours(named(name)).get(named(other), OTHER)
    except Refused:
        return ""


def moved(name: str, by: int) -> str:
    """The name of a key so many semitones higher; as it is where it is no key.

    >>> moved("A minor", 1), moved("C major", -1), moved("", 2)
    ('Bb minor', 'B major', '')
    """
    try:
        key = named(name)
    except Refused:
        return name
    return attrs.evolve(key, tonic=(key.tonic + by) % 12).name if by else name


def tuning(pitches: Singles) -> float:
    """How far a recording is tuned from A = 440 Hz, in semitones, -0.5 to 0.5: the circular mean of all pitches."""
    turn = np.exp(2j * np.pi * np.arange(STEPS) * 12 / STEPS)
    return float(np.angle((pitches[0] * turn).sum()) / (2 * np.pi))


def profile(pitches: Singles) -> Floats:
    """(2, 12) how much of each pitch class all of it and its bass hold, C first, tuning removed.

    Each row has mean 0 and length 1, so that its product with a profile of that kind is their correlation; less where
    pitches hardly differ, as in noise, which has no key.
    """
    place = np.arange(STEPS) * 12 / STEPS - tuning(pitches)
    nearest = np.rint(place)
    weight = np.exp(-0.5 * ((place - nearest) / _WIDE) ** 2)
    rows = np.stack([np.bincount(nearest.astype(int) % 12, weight * row, minlength=12) for row in pitches])
    contrast = float(rows[0].std() / max(rows[0].mean(), 1e-9))
    return unit(rows.astype(float)) * float(np.clip((contrast - _EVEN) / (_TONAL - _EVEN), 0, 1))


def unit(rows: Floats) -> Floats:
    """Each row with mean 0 and length 1."""
    centred = rows - rows.mean(axis=-1, keepdims=True)
    return np.asarray(centred / (np.linalg.norm(centred, axis=-1, keepdims=True) + 1e-9))


@attrs.frozen(eq=False)
class Profiles:
    """What major and minor hold, (2, 24) all of it, then the bass; how much likelier major is; how sure a point is."""

    weights: Floats
    major: float
    sharpness: float


@cache
def shipped() -> Profiles:
    """The profiles that come with the program."""
    with np.load(Path(__file__).parent / "weights" / "key.npz") as z:
        return Profiles(z["weights"], float(z["major"]), float(z["sharpness"]))


def degrees(rows: Floats) -> Floats:
    """(24, 24) what each of `KEYS` would find on its degrees: tonic first, all of it and then the bass."""
    return np.array([np.concatenate([np.roll(row, -k.tonic) for row in rows]) for k in KEYS])


def chances(rows: Floats, profiles: Profiles) -> Floats:
    """(24,) the chance of each of `KEYS`, given (2, 12) `profile`."""
    seen = degrees(rows)
    scores = np.concatenate([seen[:12] @ profiles.weights[0] + profiles.major, seen[12:] @ profiles.weights[1]])
    scores = profiles.sharpness * (scores - scores.max())
    return np.asarray(np.exp(scores) / np.exp(scores).sum())


def estimate(pitches: Singles, *, profiles: Profiles | None = None) -> Estimate | None:
    """The key of a recording from its pitches; None where no pitch sounds.

    Parameters
    ----------
    pitches : (2, `STEPS`) as `PitchMeter.finish` gives them
    """
    if pitches.shape != (2, STEPS) or not pitches[0].any():
        return None
    shares = chances(profile(pitches), profiles or shipped())
    first, second = np.argsort(-shares, kind="stable")[:2]
    return Estimate(KEYS[first], float(shares[first]), KEYS[second], float(shares[second]))


def pitches_of_chroma(chroma: Floats) -> Singles:
    """What `estimate` takes, from (m, 12) chroma, A first, of what was heard before pitches were kept."""
    out = np.zeros((2, STEPS), np.float32)
    if len(chroma):
        out[0, :: STEPS // 12] = np.roll(chroma.sum(axis=0), 9) / max(1e-9, float(chroma.sum()))
    return out
