"""Words that are sung or rapped: spoken by a synthesiser that tells its phones, moved onto the notes of a melody.

Between the notes of a real voice nothing is silent: its consonants are often l, m, n, r or w, which sound before the
beat and glide into the vowel, and a vowel is held until the next consonant. Vowels are on the notes, as listeners put
the beat of a syllable near its vowel (P-centers: Morton, Marcus & Frankish, Psychological Review 1976; recalled from
memory). Pitch, spectrum and noise are parted and put together again by WORLD (Morise, Yokomori & Ozawa, IEICE 2016).
"""

from __future__ import annotations

import ctypes
import re
import shutil
import subprocess
import tempfile
from functools import cache, lru_cache
from pathlib import Path
from typing import Any

import attrs
import numpy as np
from numpy.random import Generator
from numpy.typing import NDArray

from training.sounds import WORDS, Wave, resampled

Floats = NDArray[np.float64]
Phone = tuple[str, float]
"""Its name, and the s at which it begins."""

FLITE = ("kal16", "awb", "rms", "slt")
ESPEAK = ("en+m1", "en+m3", "en+m7", "en+f2", "en+f4", "en-us", "en+f5", "en-gb-scotland", "de", "es+f3", "it", "fr")
SPEAKERS = tuple(("flite", name) for name in FLITE) * 2 + tuple(("espeak", name) for name in ESPEAK)
PERIOD = 0.005
"""s from one frame to the next."""
GLIDE = 0.05
"""s after a vowel's beginning, and before its end, that aren't drawn out: formants still move there."""
ROOM = 0.6
"""Share of what lies between two notes that consonants take at most."""
LOWEST = 40.0
"""Hz that stand where speech has no pitch."""
SHORTEST = 0.06
"""s that a note lasts at least; nearer ones are left out."""
REST = 0.06
"""s between two notes from which on the voice stops in between."""
BREATH = 0.6
"""s without a note from which on another line begins."""
TEXTS = 10
"""Sentences of a song; more rhythms go to these again."""
NARROW = 4
"""Half tones in which eight of ten notes of somebody who raps lie."""
SLIP = 0.012
"""s over which it stops and begins."""
_VOWEL = re.compile("[aeiouAEIOUV@03]")
_PHONEME, _SYNCHRONOUS = 7, 2


@attrs.frozen(eq=False)
class Syllables:
    """Where n syllables lie in a sentence, s.

    Attributes
    ----------
    begins, vowels, ends : (n,) first consonant, vowel, end of the vowel
    stops : where the last consonant ends
    """

    begins: Floats
    vowels: Floats
    ends: Floats
    stops: float


@attrs.frozen(eq=False)
class Said:
    """A sentence as it was spoken, in k frames.

    Attributes
    ----------
    pitch : (k,) Hz, 0 where there is none
    spectrum, noise : (k, m) power, and the share of noise
    rate : Hz of the speech that it was
    """

    syllables: Syllables
    pitch: Floats
    spectrum: Floats
    noise: Floats
    rate: int


def known() -> bool:
    """Whether what speaks is installed."""
    return shutil.which("flite") is not None and shutil.which("espeak-ng") is not None


def _flite(name: str, text: str) -> tuple[Floats, int, list[Phone]]:
    """Samples, their rate, and phones with the s at which each begins."""
    import soundfile

    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "said.wav"
        command = ["flite", "-voice", name, "-psdur", "-t", text, "-o", str(path)]
        told = subprocess.run(command, capture_output=True, check=True, text=True).stdout
        x, rate = soundfile.read(path)
    ends = [(p, float(t)) for p, t in (one.split(":") for one in told.split())]
    begins = [0.0, *(t for _, t in ends[:-1])]
    return x, rate, [(p, t) for (p, _), t in zip(ends, begins, strict=True)]


class _Told(ctypes.Union):
    _fields_ = (("number", ctypes.c_int), ("name", ctypes.c_char_p), ("string", ctypes.c_char * 8))


class _Event(ctypes.Structure):
    _fields_ = (
        *((name, ctypes.c_int) for name in ("type", "identifier", "position", "length", "ms", "sample")),
        ("user", ctypes.c_void_p),
        ("told", _Told),
    )


_CALLBACK = ctypes.CFUNCTYPE(ctypes.c_int, ctypes.POINTER(ctypes.c_short), ctypes.c_int, ctypes.POINTER(_Event))


@cache
def _library() -> tuple[Any, int]:
    library = ctypes.CDLL("libespeak-ng.so.1")
    return library, library.espeak_Initialize(_SYNCHRONOUS, 200, None, 1)


def _espeak(name: str, text: str) -> tuple[Floats, int, list[Phone]]:
    library, rate = _library()
    parts: list[Wave] = []
    phones: list[Phone] = []

    def heard(wave: Any, count: int, events: Any) -> int:
        if count > 0:
            parts.append(np.ctypeslib.as_array(wave, (count,)).astype(np.float32) / np.float32(32768))
        k = 0
        while events[k].type:
            if events[k].type == _PHONEME:
                phones.append((events[k].told.string.decode(errors="replace"), events[k].sample / rate))
            k += 1
        return 0

    # held until it is done, as the library doesn't hold it
    callback = _CALLBACK(heard)
    library.espeak_SetSynthCallback(callback)
    library.espeak_SetVoiceByName(name.encode())
    library.espeak_SetParameter(1, 165, 0)
    said = text.encode()
    library.espeak_Synth(said, len(said) + 1, 0, 1, 0, 1, None, None)
    library.espeak_Synchronize()
    return np.concatenate(parts).astype(float), int(rate), phones


def syllables(phones: list[Phone], end: float) -> Syllables:
    """Syllables of phones with the s at which each begins, the last of which ends at `end` s.

    What lies between two vowels belongs to the second; pauses part.

    Raises
    ------
    ValueError
        There is no vowel.
    """
    found: list[tuple[float, float, float]] = []
    first: float | None = None
    stops = 0.0
    for (phone, at), (_, until) in zip(phones, [*phones[1:], ("", end)], strict=True):
        if phone.startswith(("pau", "_")):
            first = None
            continue
        stops = until
        if _VOWEL.match(phone):
            found.append((at if first is None else first, at, until))
            first = None
        elif first is None:
            first = at
    if not found:
        raise ValueError("Nothing that was said has a vowel.")
    return Syllables(*np.array(found).T, stops)


@lru_cache(60)
def said(speaker: tuple[str, str], text: str) -> Said:
    """`text` by a speaker of `SPEAKERS`.

    Raises
    ------
    ValueError
        It has no vowel.
    """
    import pyworld

    x, rate, phones = (_flite if speaker[0] == "flite" else _espeak)(speaker[1], text)
    rough, at = pyworld.dio(x, rate, frame_period=PERIOD * 1000)
    pitch = pyworld.stonemask(x, rough, at, rate)
    spectrum, noise = pyworld.cheaptrick(x, pitch, at, rate), pyworld.d4c(x, pitch, at, rate)
    return Said(syllables(phones, len(x) / rate), pitch, spectrum, noise, rate)


def text(rng: Generator) -> str:
    """Some words of everyday."""
    return " ".join(map(str, rng.choice(WORDS.split(), int(rng.integers(5, 11)))))


@attrs.frozen
class Manner:
    """How somebody sings.

    Attributes
    ----------
    raps : the pitch of speech is kept, not the notes'
    height : how much higher than spoken formants lie, and the pitch of what is rapped
    drawl : how much longer than spoken consonants are
    vibrato : share of the pitch
    slide : s over which pitch goes from note to note
    """

    raps: bool
    height: float
    drawl: float
    vibrato: float
    slide: float


def manner(rng: Generator, *, raps: bool) -> Manner:
    """Somebody's way to sing, or to rap."""
    return Manner(
        raps,
        height=float(rng.uniform(0.88, 1.15)),
        drawl=float(rng.choice([0.7, 1.0, 1.0, 1.4, 1.9, 2.5])),
        vibrato=0.0 if raps else float(rng.choice([0.0, 0.006, 0.012, 0.02])),
        slide=float(rng.uniform(0.01, 0.07)),
    )


@attrs.frozen(eq=False)
class Course:
    """How a sentence goes along notes.

    Attributes
    ----------
    times, within : (k,) s of frames, and where in the sentence they are
    gate : (k,) loudness, 0 to 1
    begins : (n,) s from which on the pitch is that of each note
    """

    times: Floats
    within: Floats
    gate: Floats
    begins: Floats


def course(words: Syllables, times: Floats, lengths: Floats, *, drawl: float) -> Course:
    """The first syllables of a sentence along as many notes: vowels at (n,) ascending `times` in s, for (n,) s."""
    n = len(times)
    begins, vowels, ends = words.begins[:n], words.vowels[:n], words.ends[:n]
    gaps = np.append(np.diff(times), np.inf)
    before = (vowels - begins) * drawl
    before[1:] = np.minimum(before[1:], ROOM * gaps[:-1])
    stop = times + np.minimum(lengths, gaps)
    follows = np.append(times[1:] - before[1:], np.inf)
    stop = np.where(follows - stop < REST, follows, stop)
    last = words.stops if n == len(words.vowels) else float(ends[-1])
    to, of = [times[0] - before[0] - SLIP], [begins[0] - SLIP]
    for t, b, s, first, vowel, end in zip(times, before, stop, begins, vowels, ends, strict=True):
        glide = min(GLIDE, 0.3 * (s - t), 0.3 * (end - vowel))
        for at, source in ((t - b, first), (t, vowel), (t + glide, vowel + glide), (s - glide, end - glide), (s, end)):
            if at > to[-1] and source >= of[-1]:
                to.append(at)
                of.append(source)
    over = stop.copy()
    over[-1] += last - ends[-1]
    frames = np.arange(to[0], over[-1] + 3 * SLIP, PERIOD)
    gate = np.zeros(len(frames))
    for a, b in zip(times - before, over, strict=True):
        gate = np.maximum(gate, np.clip(np.minimum(frames - a, b - frames) / SLIP + 1, 0, 1))
    return Course(frames, np.interp(frames, [*to, over[-1]], [*of, last]), gate, times - 0.5 * before)


def line(
    rng: Generator, words: Said, how: Manner, times: Floats, lengths: Floats, hz: Floats, loud: Floats
) -> tuple[Wave, float]:
    """Notes sung to as many of the first syllables: samples at `sounds.RATE`, and the s in them of the first note.

    Parameters
    ----------
    times : (n,) s of vowels, ascending; n is at most the syllables of `words`
    lengths : (n,) s
    hz : (n,) pitch; of what is rapped, how much the spoken one is raised
    loud : (n,) 0 to 1
    """
    import pyworld

    way = course(words.syllables, times, lengths, drawl=how.drawl)
    at = np.clip(way.within / PERIOD, 0, len(words.pitch) - 1.001)
    low, share, near = at.astype(int), (at % 1)[:, None], np.rint(at).astype(int)
    power = np.log(words.spectrum + 1e-16)
    bins = np.arange(power.shape[1]) / how.height
    spectrum = np.exp(
        [np.interp(bins, bins * how.height, row) for row in (1 - share) * power[low] + share * power[low + 1]]
    )
    on = np.searchsorted(way.begins, way.times, side="right").clip(1) - 1
    spoken = np.maximum(words.pitch[near], LOWEST)
    if how.raps:
        pitch = np.log(hz[on] * spoken * how.height)
    else:
        width = round(how.slide / PERIOD) + 1
        window = np.hanning(2 * width + 1) / width
        pitch = np.convolve(np.pad(np.log(hz[on]), width, mode="edge"), window, "valid")
        deep = how.vibrato * np.clip((way.times - times[on] - 0.15) / 0.3, 0, 1)
        pitch += deep * np.sin(2 * np.pi * rng.uniform(4.8, 6.5) * way.times)
    pitch = np.where(words.pitch[near] > 0, np.exp(pitch + 0.003 * rng.normal(size=len(pitch))), 0.0)
    gain = np.maximum(way.gate * np.interp(way.times, times, loud), 1e-5)
    x = pyworld.synthesize(pitch, spectrum * gain[:, None] ** 2, words.noise[near], words.rate, PERIOD * 1000)
    return resampled(x, words.rate), times[0] - way.times[0]


@attrs.frozen(order=True)
class Sung:
    """A note: s of its vowel, its length in s, MIDI key, loudness 0 to 1."""

    at: float
    length: float
    key: int
    loud: float


def song(rng: Generator, own: list[Sung], doubling: list[Sung]) -> list[tuple[float, Wave]]:
    """All notes of a voice, and those by which it doubles itself, as (s, samples) of its lines.

    A line of the same rhythm and pitch has the same words. What keeps within some notes is mostly rapped.
    """
    keys = np.array([n.key for n in own] or [60])
    middle, narrow = float(np.median(keys)), float(np.ptp(np.percentile(keys, [10, 90]))) <= NARROW
    raps = bool(rng.random() < (0.8 if narrow else 0.1))
    speaker, how = SPEAKERS[int(rng.integers(len(SPEAKERS)))], manner(rng, raps=raps)
    kept: dict[tuple[int, ...], str] = {}
    out: list[tuple[float, Wave]] = []
    for notes in (own, doubling):
        left = sorted(notes)
        while left:
            run = left[:1]
            for note in left[1:]:
                if note.at - run[-1].at - run[-1].length > BREATH:
                    break
                if note.at - run[-1].at > SHORTEST:
                    run.append(note)
            # uneven by some ms
            rhythm = tuple(round((n.at - run[0].at) * 8) for n in run[:6]) + tuple(n.key - run[0].key for n in run[:6])
            if rhythm not in kept:
                again = len(kept) >= TEXTS
                kept[rhythm] = str(rng.choice(sorted(kept.values()))) if again else text(rng)
            words = said(speaker, kept[rhythm])
            run = run[: len(words.syllables.vowels)]
            left = [n for n in left if n.at > run[-1].at + SHORTEST]
            times, lengths, key, loud = np.array([attrs.astuple(n) for n in run]).T
            hz = 2 ** ((key - middle) / 36) if raps else 440 * 2 ** ((key - 69) / 12)
            wave, lead = line(rng, words, how, times, lengths, hz, loud)
            out.append((run[0].at - lead, wave / max(1e-9, float(np.percentile(np.abs(wave), 99.5)))))
    return out
