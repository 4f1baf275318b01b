"""What was heard in one recording, as one value that is never edited, and its form in the store."""

from __future__ import annotations

import json
from typing import Any

import attrs
import numpy as np
from numpy.typing import NDArray

from ..arrays import Floats, Singles, packed, unpacked
from ..errors import FormatError
from ..model.beatgrid import MeterMark
from ..sound.condition import Condition
from ..sound.damage import Damage
from ..sound.loudness import Level
from . import voices
from .ear import Strengths
from .heard import Heard
from .loops import Loop
from .pitches import STEPS
from .scene import SLOW_FPS
from .turntable import Sway, Wave

VERSION = 18
STANDS = 16
"""What was heard from this version on would be heard the same now, but for voices alone."""
TONE_FPS = SLOW_FPS / 2
"""Frames of `Evidence.colour` and `Evidence.chroma` a second."""


@attrs.frozen(eq=False)
class Evidence:
    """What was heard in one recording.

    Attributes
    ----------
    heard : beats
    attack : (n,) uint8, attack strength, 1000 a second, 255 is strongest
    percussive : (m,) uint8, share of percussive sound, 20 a second
    onset_times, onset_strengths : (k,) heard onsets, s, and how strong, 0 to 1
    problem : why the trained ear did not serve, else empty
    strengths : what the trained ear said of each frame, in steps of 1/255, its downbeats as `bar_lines` tells them;
        None where it did not serve
    sway : the wow of a turntable, if there is any
    condition : what the samples themselves tell
    loudness : (k,) float32, LUFS of every `loudness.STEP` s
    colour : (j, 24) uint8, log magnitudes of 24 bands from low to high, `TONE_FPS` a second
    chroma : (j, 12) uint8, share of each pitch class, A first, `TONE_FPS` a second; 255 is all
    damage : what is damaged in the file, by place
    loop : what the file is where it is cut to run round
    pitches : (2, 120) float32, how much of each pitch it holds; zeros where that wasn't kept
    level : loudness of the whole and true peak; None where that wasn't kept
    waves : the sway with its phase, stretch by stretch; none where there is no sway or that wasn't kept
    """

    heard: Heard
    attack: NDArray[np.uint8]
    percussive: NDArray[np.uint8]
    onset_times: Floats
    onset_strengths: Singles
    problem: str = ""
    strengths: Strengths | None = None
    sway: Sway | None = None
    condition: Condition = Condition()
    loudness: Singles = attrs.field(factory=lambda: np.zeros(0, np.float32))
    colour: NDArray[np.uint8] = attrs.field(factory=lambda: np.zeros((0, 24), np.uint8))
    chroma: NDArray[np.uint8] = attrs.field(factory=lambda: np.zeros((0, 12), np.uint8))
    damage: tuple[Damage, ...] = ()
    loop: Loop | None = None
    pitches: Singles = attrs.field(factory=lambda: np.zeros((2, STEPS), np.float32))
    level: Level | None = None
    waves: tuple[Wave, ...] = ()

    def attack_strength(self) -> Singles:
        """Attack strength as float32 in [0, 1]."""
        return np.divide(self.attack, np.float32(255), dtype=np.float32)


def to_bytes(value: Evidence) -> bytes:
    """The evidence as one compressed block, see `arrays.packed`.

    What changes slowly stands in rows, one after the other in time: that takes less room.
    """
    h = value.heard
    return packed(
        times=h.times,
        numbers=h.numbers,
        confidence=h.confidence,
        meter=np.array([[m.beat, m.beats_per_bar] for m in h.meter]),
        chances=np.array([h.level_chance, h.phase_chance, h.pulse, *h.elsewhere]),
        attack=value.attack,
        percussive=value.percussive,
        onset_times=value.onset_times,
        onset_strengths=value.onset_strengths,
        loudness=value.loudness,
        colour=value.colour,
        tones=value.chroma.T,
        pitches=value.pitches,
        problem=np.array(value.problem),
        about=np.array(json.dumps(_about(value))),
        **_packed(value.strengths),
    )


_ROWS = ("beat", "downbeat", "section", "drums", "voice")


def _packed(ear: Strengths | None) -> dict[str, Any]:
    if ear is None:
        return {}
    rows = np.stack([getattr(ear, name) for name in _ROWS])
    return {
        "ear": np.rint(rows * 255).astype(np.uint8),
        "ear_tempi": np.rint(ear.tempo * 255).astype(np.uint8).T,
        "ear_calibration": ear.calibration,
    }


def _unpacked(z: Any) -> Strengths | None:
    if "ear" not in z:
        return None
    rows = [row.astype(np.float32) / np.float32(255) for row in z["ear"]]
    tempo = np.ascontiguousarray(z["ear_tempi"].T if "ear_tempi" in z else z["ear_tempo"], np.float32)
    tempo /= np.maximum(tempo.sum(axis=1, keepdims=True), 1)
    beat, downbeat, section, drums, voice = rows
    return Strengths(beat, downbeat, section, drums, voice, tempo, z["ear_calibration"])


def _about(value: Evidence) -> dict[str, Any]:
    return {
        "sway": attrs.asdict(value.sway) if value.sway else None,
        "condition": attrs.asdict(value.condition),
        "damage": [attrs.asdict(d) for d in value.damage],
        "loop": attrs.asdict(value.loop) if value.loop else None,
        "level": attrs.asdict(value.level) if value.level else None,
        "waves": [attrs.asdict(w) for w in value.waves],
    }


def from_bytes(blob: bytes) -> Evidence:
    """Inverse of `to_bytes`. Raises `FormatError` when the block is damaged."""
    try:
        z = unpacked(blob)
        meter = tuple(MeterMark(float(beat), int(size)) for beat, size in z["meter"])
        # what was heard before beats were placed has two, and three what was before another bar 1 was told
        level, phase, pulse, time, chance = (*(float(x) for x in z["chances"]), 0.0, 0.0, 0.0)[:5]
        told = (z["times"], z["numbers"], z["confidence"])
        heard = Heard(*told, meter, level, phase, bool(pulse), (time, chance))
        about = json.loads(str(z["about"]))
        return Evidence(
            heard,
            z["attack"],
            z["percussive"],
            z["onset_times"],
            z["onset_strengths"],
            str(z["problem"]),
            _unpacked(z),
            Sway(**about["sway"]) if about["sway"] else None,
            Condition(**about["condition"]),
            z["loudness"],
            z["colour"],
            np.ascontiguousarray(z["tones"].T) if "tones" in z else z["chroma"],
            # what was heard before damage was looked for says nothing of it
            tuple(Damage(**d) for d in about.get("damage", ())),
            Loop(**about["loop"]) if about.get("loop") else None,
            # these came later, without a need to hear all again
            z["pitches"] if "pitches" in z else np.zeros((2, STEPS), np.float32),
            Level(**about["level"]) if about.get("level") else None,
            tuple(Wave(**w) for w in about.get("waves", ())),
        )
    except Exception as e:
        raise FormatError(f"The stored evidence is damaged ({type(e).__name__}).") from None


def standing(version: int, blob: bytes) -> Evidence | None:
    """What a `version` heard, where it would be heard the same now. Raises `FormatError` when the block is damaged."""
    if not STANDS <= version <= VERSION:
        return None
    found = from_bytes(blob)
    sung = found.strengths is not None and voices.alone(found.strengths)
    return None if version < VERSION and sung else found
