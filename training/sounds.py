"""Instruments: single notes at 32 kHz mono, each beginning on its first sample.

From General MIDI soundfonts by tinysoundfont, and of our own making: drums from noise and swept sines,
voices from a pulse train through formants (source and filter: Fant, 1960), syllables spoken by a speech synthesiser.
"""

from __future__ import annotations

import argparse
import io
import shutil
import subprocess
from functools import lru_cache
from pathlib import Path
from typing import BinaryIO

import numpy as np
from numpy.random import Generator
from numpy.typing import NDArray
from scipy.signal import butter, lfilter, sosfilt

from mervid.core.hearing.spectra import RATE

Wave = NDArray[np.float32]

FORMANTS = {
    "a": (730, 1090, 2440),
    "e": (530, 1840, 2480),
    "i": (270, 2290, 3010),
    "o": (570, 840, 2410),
    "u": (300, 870, 2240),
    "ae": (660, 1720, 2410),
    "er": (490, 1350, 1690),
}
"""First three formants of men's vowels in Hz (Peterson & Barney, JASA 1952; recalled from memory)."""


def present(name: str) -> Path:
    """A file named on the command line.

    Raises
    ------
    argparse.ArgumentTypeError
        There is none.
    """
    if not Path(name).is_file():
        raise argparse.ArgumentTypeError(f"{name} is not a file")
    return Path(name)


class SoundFont:
    """Single notes out of one soundfont, kept once rendered."""

    def __init__(self, path: Path) -> None:
        import tinysoundfont

        self._synth = tinysoundfont.Synth(samplerate=RATE)
        self._id = self._synth.sfload(str(path), gain=-3.0)
        self.kits = []
        for kit in (0, 8, 16, 24, 25, 32, 40):
            try:
                self._synth.program_select(9, self._id, 0, kit, is_drums=True)
                self.kits.append(kit)
            except Exception:
                continue
        self.note = lru_cache(3000)(self._note)

    def _note(self, program: int, key: int, velocity: int, seconds: float, kit: bool) -> Wave:
        s = self._synth
        channel = 9 if kit else 0
        s.program_select(channel, self._id, 0, program, is_drums=kit)
        s.noteon(channel, key, velocity)
        n = int(seconds * RATE)
        x = np.frombuffer(bytes(s.generate(n)), np.float32).reshape(-1, 2).mean(axis=1)
        s.sounds_off(channel)
        s.generate(64)
        return _trim(x)


def _trim(x: Wave) -> Wave:
    top = np.abs(x).max(initial=0)
    if top < 1e-5:
        return np.zeros(1, np.float32)
    loud = np.flatnonzero(np.abs(x) > top * 1e-3)
    return x[: loud[-1] + 1].astype(np.float32).copy()


def _noise(rng: Generator, seconds: float, low: float, high: float, decay: float) -> Wave:
    n = int(seconds * RATE)
    x = rng.normal(size=n)
    sos = butter(2, [max(20, low), min(high, 15500)], "bandpass", fs=RATE, output="sos")
    return (sosfilt(sos, x) * np.exp(-np.arange(n) / RATE / decay)).astype(np.float32)


def _tone(seconds: float, start: float, end: float, sweep: float, decay: float) -> Wave:
    t = np.arange(int(seconds * RATE)) / RATE
    f = end + (start - end) * np.exp(-t / sweep)
    return (np.sin(2 * np.pi * np.cumsum(f) / RATE) * np.exp(-t / decay)).astype(np.float32)


def _sum(*parts: Wave) -> Wave:
    out = np.zeros(max(len(p) for p in parts), np.float32)
    for p in parts:
        out[: len(p)] += p
    return out


def plucked(rng: Generator, hz: float, seconds: float, damping: float) -> Wave:
    """A string by feedback through a delay and a two-point mean (Karplus & Strong, Computer Music Journal 1983).

    Parameters
    ----------
    damping : what is left of the string's swing after each turn, just under 1
    """
    n, period = int(seconds * RATE), RATE / hz - 0.5
    whole = int(period)
    part = period - whole
    burst = np.zeros(n)
    burst[:whole] = rng.uniform(-1, 1, min(n, whole))
    loop = np.zeros(whole + 3)
    loop[0] = 1
    loop[whole : whole + 3] -= damping * np.array([(1 - part) / 2, 0.5, part / 2])
    y = lfilter([1], loop, burst)
    return (y / (np.abs(y).max() + 1e-9)).astype(np.float32)


def own_kit(rng: Generator) -> dict[int, Wave]:
    """A drum kit of noise and sines, from dry machine to roomy; {key: samples}."""
    u = rng.uniform
    kick = _sum(
        _tone(0.6, u(90, 260), u(40, 62), u(0.008, 0.05), u(0.06, 0.3)), u(0, 0.4) * _noise(rng, 0.03, 800, 6000, 0.006)
    )
    snare = _sum(
        u(0.3, 1) * _tone(0.3, u(200, 330), u(150, 200), 0.02, u(0.03, 0.1)),
        u(0.4, 1.2) * _noise(rng, 0.5, u(300, 1500), u(6000, 14000), u(0.04, 0.16)),
    )
    hat = _noise(rng, 0.2, u(4000, 8000), 15000, u(0.008, 0.04))
    opened = _noise(rng, 0.8, u(4000, 7000), 15000, u(0.08, 0.3))
    clap = sum_at(
        [_noise(rng, 0.3, 700, u(2500, 7000), u(0.02, 0.09)) for _ in range(4)],
        (0.0, u(0.006, 0.012), u(0.014, 0.022), u(0.024, 0.032)),
    )
    ride = _sum(_noise(rng, 1.2, 3000, 12000, u(0.2, 0.5)), 0.2 * _tone(0.5, 3100, 3000, 0.1, 0.2))
    crash = _noise(rng, 2.0, 1500, 14000, u(0.4, 1.0))
    out = {
        36: kick,
        38: snare,
        42: hat,
        46: opened,
        39: clap,
        51: ride,
        53: ride,
        49: crash,
        57: crash,
        55: crash,
        44: hat * 0.6,
    }
    out[37] = _sum(_tone(0.1, 1800, 1500, 0.01, 0.012), 0.5 * _noise(rng, 0.06, 1500, 7000, 0.01))
    for key, f in ((41, 80), (45, 115), (50, 160)):
        out[key] = _sum(
            _tone(0.5, f * u(1.3, 2), f * u(0.9, 1.1), 0.04, u(0.1, 0.25)), 0.1 * _noise(rng, 0.05, 500, 5000, 0.02)
        )
    for key in (69, 70, 54):
        out[key] = np.concatenate([np.linspace(0, 1, 160, dtype=np.float32), np.ones(9000, np.float32)])[
            : int(0.12 * RATE)
        ] * _noise(rng, 0.12, u(3000, 6000), 14000, u(0.015, 0.05))
    out[56] = _sum(_tone(0.3, 545, 540, 0.1, 0.06), _tone(0.3, 815, 810, 0.1, 0.06))
    for key, f in ((60, 520), (61, 340), (62, 330), (63, 320), (64, 200), (65, 420), (66, 300), (75, 2300), (67, 900)):
        out[key] = _tone(0.3, f * 1.15, f, 0.02, u(0.03, 0.09))
    return {k: (v / (np.abs(v).max() + 1e-9)).astype(np.float32) for k, v in out.items()}


def sum_at(parts: list[Wave], at: tuple[float, ...]) -> Wave:
    """Lay `parts` over each other, each from its own second."""
    n = max(int(t * RATE) + len(p) for p, t in zip(parts, at, strict=True))
    out = np.zeros(n, np.float32)
    for p, t in zip(parts, at, strict=True):
        out[int(t * RATE) : int(t * RATE) + len(p)] += p
    return out


def sung(
    rng: Generator, hz: float, seconds: float, scale: float, breath: float, *, drawl: float = 1.0
) -> tuple[Wave, float]:
    """One sung or rapped syllable and the s from its first sample to the vowel's onset.

    Parameters
    ----------
    scale : how much higher than a man's the formants lie
    breath : share of noise in the voice, 0 to 1
    drawl : how much longer than usual its consonants are
    """
    vowel = FORMANTS[str(rng.choice(list(FORMANTS)))]
    lead = drawl * float(rng.choice([0.0, 0.0, 0.03, 0.06, 0.09]))
    n = int((lead + seconds + 0.06) * RATE)
    t = np.arange(n) / RATE
    glide = 1 + rng.choice([0, -0.06, 0.04]) * np.exp(-np.maximum(t - lead, 0) / 0.05)
    vibrato = 1 + 0.012 * rng.random() * np.sin(2 * np.pi * rng.uniform(4.5, 6.5) * t) * np.minimum(1, t / 0.4)
    phase = (
        np.cumsum(hz * glide * vibrato * (1 + 0.003 * rng.normal(size=n).cumsum() / np.sqrt(np.arange(1, n + 1))))
        / RATE
    )
    pulses = np.diff(np.floor(phase), prepend=0)
    source = lfilter([1], [1, -0.96], pulses) - 0.3 + breath * 0.3 * rng.normal(size=n)
    y = np.zeros(n)
    for formant, width, gain in zip(vowel, (80, 110, 160), (1.0, 0.6, 0.3), strict=True):
        f = min(formant * scale, 14000)
        r = np.exp(-np.pi * width / RATE)
        y += gain * lfilter([1 - r], [1, -2 * r * np.cos(2 * np.pi * f / RATE), r * r], source)
    rise = rng.uniform(0.008, 0.04)
    gate = np.clip((t - lead) / rise, 0, 1) * np.clip((lead + seconds - t) / 0.05, 0, 1)
    y = y * gate
    y /= np.abs(y).max() + 1e-9
    if lead:
        kind = rng.integers(0, 3)
        band = [(3500, 12000), (1500, 6000), (300, 2500)][int(kind)]
        hiss = _noise(rng, lead + 0.02, *band, 10.0)
        shape = np.hanning(len(hiss)) if kind < 2 else np.linspace(0, 1, len(hiss)) ** 4
        y[: len(hiss)] += drawl * rng.uniform(0.05, 0.5) * shape * hiss / (np.abs(hiss).max() + 1e-9)
    return y.astype(np.float32), lead


def breath(rng: Generator, loud: float) -> Wave:
    """Air drawn in before a line, ending where that begins."""
    seconds = float(rng.uniform(0.15, 0.45))
    air = _noise(rng, seconds, float(rng.uniform(600, 1500)), float(rng.uniform(4000, 9000)), 10.0)
    shape = np.sin(np.pi * np.linspace(0, 1, len(air)) ** 1.6)
    return (shape * air / (np.abs(air).max() + 1e-9) * loud * rng.uniform(0.1, 0.5)).astype(np.float32)


def _said(text: str, voice: str, *, speed: int, pitch: int) -> Wave:
    """What the speech synthesiser espeak-ng makes of a text; nothing where it says next to nothing."""
    import soundfile

    command = ["espeak-ng", "-v", voice, "-s", str(speed), "-p", str(pitch), "--stdout", text]
    data = subprocess.run(command, capture_output=True, check=False).stdout
    if len(data) < 2000:
        return np.zeros(0, np.float32)
    return resampled(*soundfile.read(io.BytesIO(data), dtype="float32"))


def resampled(x: np.ndarray, rate: int) -> Wave:
    """Samples of `rate` Hz at `RATE`."""
    return np.interp(np.arange(0, len(x), rate / RATE), np.arange(len(x)), x).astype(np.float32)


@lru_cache(1)
def spoken() -> list[list[tuple[Wave, float]]]:
    """Syllables of several voices by the speech synthesiser espeak-ng: per voice (samples, s to the vowel's onset)."""
    if not shutil.which("espeak-ng"):
        return []
    voices = ("en+m1", "en+m3", "en+m7", "en+f2", "en+f4", "en-us+klatt", "en+f5", "en+croak")
    consonants = ("d", "t", "k", "m", "l", "s", "b", "w", "r", "ch", "fl", "st")
    vowels = ("ah", "oh", "ee", "ay", "oo", "eye", "ow", "at", "in", "un")
    out = []
    rng = np.random.default_rng(5)
    for voice in voices:
        bank = []
        for _ in range(36):
            word = str(rng.choice(consonants)) + str(rng.choice(vowels))
            x = _said(word, voice, speed=190, pitch=int(rng.integers(25, 75)))
            if not len(x):
                continue
            x = _trim(x)
            level = np.sqrt(np.convolve(x * x, np.ones(320) / 320, "same")) + 1e-6
            rise = np.log(level[640:] / level[:-640] + 1e-3) * level[640:]
            bank.append((x / (np.abs(x).max() + 1e-9), float(rise[: int(0.25 * RATE)].argmax() + 320) / RATE))
        out.append(bank)
    return [b for b in out if b]


WORDS = """
the a of to and in that it was for on are with as his they at this from have by one had not but what all were when
we there can your which their said if do will each about how up out them then she many some so these would other
into has more her two like him see time could no make than first been its who now people over did down only way
"""
VOICES = ("en+m1", "en+m3", "en+m7", "en+f2", "en+f4", "en-us+klatt", "en+f5", "en+croak", "de", "fr", "es+f3")


def talk(rng: Generator, seconds: float) -> Wave:
    """Somebody talks for about so many s, in sentences of common words, by the speech synthesiser espeak-ng.

    Raises
    ------
    RuntimeError
        It isn't installed.
    """
    if not shutil.which("espeak-ng"):
        raise RuntimeError("Talk needs the package espeak-ng.")
    said = [
        " ".join(rng.choice(WORDS.split(), int(rng.integers(4, 18)))) + str(rng.choice([".", ".", ",", "?"]))
        for _ in range(int(seconds / 2.5))
    ]
    voice, speed, pitch = str(rng.choice(VOICES)), int(rng.integers(105, 200)), int(rng.integers(20, 80))
    return _said(" ".join(said), voice, speed=speed, pitch=pitch)[: int(seconds * RATE)]


def encode(target: BinaryIO | Path, x: Wave, *, form: str, subtype: str, level: float) -> None:
    """Write mono samples compressed, in pieces: libsndfile's Vorbis encoder fails on long ones.

    Parameters
    ----------
    form, subtype : as libsndfile names them
    level : compression level, 0 to 1
    """
    import soundfile

    with soundfile.SoundFile(target, "w", RATE, 1, format=form, subtype=subtype, compression_level=level) as f:
        for a in range(0, len(x), 8192):
            f.write(np.clip(x[a : a + 8192], -1, 1))
