"""A synthetic singer for the demo set: speech synthesis whose syllables are moved in pitch and length onto a melody.

Each syllable is spoken alone by espeak-ng, moved to its note by pedalboard, and laid so that its vowel begins on the
note: a consonant comes before the beat, as singers do it. Needed to make the demo set only; the program has no use
for either package.
"""

from __future__ import annotations

import io
import subprocess
from functools import cache
from typing import Any

import numpy as np
from numpy.random import Generator

from ..core.arrays import Singles
from .players import Section

RATE = 44_100

_VERSE = "lan tern low on har bour wall keep the slow tide wait ing hold the rope and call me home"
_CHORUS = "light the lamp a long the line row me in by morn ing light the lamp and leave it shine"
SYLLABLES = {"verse": _VERSE.split(), "chorus": _CHORUS.split()}
_RHYTHMS = ((0, 1, 2, 2.5, 3), (0, 1, 1.5, 2, 3), (0, 0.5, 1, 2, 3), (0, 1, 2, 3))
_MINOR_SCALE = (0, 2, 3, 5, 7, 8, 10)


def melody(rng: Generator, form: list[Section], chords: list[tuple[int, ...]]) -> list[tuple[float, float, int, str]]:
    """Notes of the singer as (beat, length in beats, MIDI key, syllable).

    Parameters
    ----------
    chords : pitch classes over A, one chord a bar
    """
    out: list[tuple[float, float, int, str]] = []
    bar, tunes = 0, {}
    for section in form:
        words = SYLLABLES.get(section.kind, [])
        said = 0
        for i in range(section.bars if words else 0):
            # a phrase returns every four bars, and with it the tune
            key = (section.kind, i % 4)
            if key not in tunes:
                tunes[key] = (_RHYTHMS[int(rng.integers(len(_RHYTHMS)))], rng.integers(0, 7, 8))
            whole, steps = tunes[key]
            rhythm: tuple[float, ...] = whole[:3] if i % 4 == 3 else whole
            for k, at in enumerate(rhythm):
                after = rhythm[k + 1] if k + 1 < len(rhythm) else (4.0 if i % 4 != 3 else at + 1.5)
                chord = chords[(bar + i) % len(chords)]
                tone = chord[int(steps[k]) % 3] if at in (0, 2) else _MINOR_SCALE[int(steps[k])]
                base = 57 if section.kind == "verse" else 60
                out.append(((bar + i) * 4 + at, 0.92 * (after - at), base + tone % 12, words[said % len(words)]))
                said += 1
        bar += section.bars
    return out


@cache
def spoken(syllable: str) -> tuple[Singles, float, float]:
    """A syllable as it is spoken: samples, s to the beginning of its vowel, and its pitch in Hz."""
    import soundfile
    import soxr

    command = ["espeak-ng", "-v", "en+f4", "-s", "150", "-p", "55", "--stdout", syllable]
    data = subprocess.run(command, capture_output=True, check=True).stdout
    x, rate = soundfile.read(io.BytesIO(data), dtype="float32")
    x = np.asarray(soxr.resample(x, rate, RATE), np.float32)
    level = np.sqrt(np.convolve(x * x, np.ones(441) / 441, "same")) + 1e-6
    loud = np.flatnonzero(level > 0.05 * level.max())
    x, level = x[loud[0] : loud[-1]], level[loud[0] : loud[-1]]
    step = 441
    rise = np.log(level[2 * step :] / level[: -2 * step] + 1e-3) * level[2 * step :]
    onset = int(rise[: int(0.25 * RATE)].argmax()) + step
    voiced = x[onset + 1000 : onset + 1000 + 4096]
    voiced = voiced - voiced.mean()
    around = np.correlate(voiced, voiced, "full")[len(voiced) - 1 :]
    low, high = RATE // 400, RATE // 90
    return x, onset / RATE, RATE / (low + int(around[low:high].argmax()))


def sung(syllable: str, key: int, seconds: float) -> tuple[Singles, float]:
    """A syllable on a note: samples, and s to the beginning of its vowel, measured on what came out."""
    pedalboard: Any = __import__("pedalboard")
    x, _, pitch = spoken(syllable)
    semitones = 12 * np.log2(440 * 2 ** ((key - 69) / 12) / pitch)
    factor = float(np.clip(len(x) / RATE / seconds, 0.25, 3.0))
    y = pedalboard.time_stretch(x[None], RATE, stretch_factor=factor, pitch_shift_in_semitones=float(semitones))[0]
    y = np.asarray(y[: int((seconds + 0.12) * RATE)], np.float32)
    end = min(len(y), int(0.04 * RATE))
    y[-end:] *= np.linspace(1, 0, end, dtype=np.float32)
    level = np.sqrt(np.convolve(y * y, np.ones(441) / 441, "same")) + 1e-6
    reach = min(len(level) - 882, int(0.3 * RATE))
    rise = np.log(level[882:][:reach] / level[:-882][:reach] + 1e-3) * level[882:][:reach]
    return y / (np.abs(y).max() + 1e-9), (int(rise.argmax()) + 441) / RATE


def sing(notes: list[tuple[float, float, int, str]], rng: Generator, seconds: float) -> Singles:
    """The whole part, (frames, 2): `notes` as (time of the vowel in s, length in s, key, syllable), in a small room."""
    out = np.zeros(int(seconds * RATE), np.float32)
    for time, length, key, syllable in notes:
        y, onset = sung(syllable, key, length)
        at = round((time - onset) * RATE)
        y = y[max(0, -at) :]
        at = max(0, at)
        part = out[at : at + len(y)]
        part += 0.5 * y[: len(part)]
    room = rng.normal(0, 1, (int(0.5 * RATE), 2)) * np.exp(-np.arange(int(0.5 * RATE)) / (0.11 * RATE))[:, None]
    room[: int(0.012 * RATE)] = 0
    from scipy.signal import fftconvolve

    wet = fftconvolve(out[:, None], 0.012 * room, axes=0)[: len(out)]
    return (out[:, None] + wet).astype(np.float32)
