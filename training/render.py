"""From notes to sound: every note begins on the sample its time names; then the room, the desk and the years."""

from __future__ import annotations

import io
from collections import defaultdict

import attrs
import numpy as np
from numpy.random import Generator
from numpy.typing import NDArray
from scipy.signal import butter, fftconvolve, iirpeak, lfilter, oaconvolve, sosfilt

from training import lyrics
from training.composer import Song
from training.grooves import GUITARS
from training.kits import Kit
from training.score import Clock, swing
from training.sounds import RATE, SoundFont, Wave, breath, encode, own_kit, plucked, spoken, sung

Floats = NDArray[np.float64]

PROGRAMS = {
    "bass": (32, 33, 33, 34, 35, 36, 37, 38, 38, 39, 39, 87, 43),
    "comp": (0, 1, 2, 4, 5, 7, 16, 17, 18, 19, 24, 25, 26, 27, 28, 61, 62, 63, 80, 81, 90, 6, 11, 12, 21, 48),
    "comp2": (0, 4, 5, 7, 16, 17, 18, 24, 25, 26, 27, 28, 61, 62, 11, 90),
    "rock": (29, 30, 30, 29, 27, 28, 18),
    "pad": (48, 49, 50, 51, 52, 88, 89, 90, 91, 92, 93, 94, 95, 16, 19, 54),
    "riff": (80, 81, 62, 61, 56, 57, 65, 66, 7, 11, 12, 13, 25, 26, 27, 28, 29, 30, 46, 45, 108, 114, 40, 73),
    "lead": (80, 81, 82, 85, 56, 57, 59, 64, 65, 66, 68, 71, 73, 74, 22, 26, 29, 30, 40, 41, 11, 0, 54),
    "voice": (52, 53, 54, 85, 85, 65, 71),
    "choir": (52, 53, 54, 91),
}  # fmt: skip

WORDED = 0.6
"""How often voices alone sing words (`lyrics`), not one syllable a note."""
WALLS = {"rock": 0.45, "drive": 0.45, "funk": 0.15, "soul": 0.15, "disco": 0.1, "pop": 0.15}
"""How often bands of a family stand as a wall of loud guitars before their drums."""


@attrs.frozen(eq=False)
class Take:
    """A rendered song with its truth; all times in s.

    Attributes
    ----------
    samples : (n,) float32, 32 kHz
    beats, downbeats, sections : (k,) s
    drums, voice : (m, 2) spans in which they sound
    family : kind of music
    """

    samples: Wave
    beats: Floats
    downbeats: Floats
    sections: Floats
    drums: Floats
    voice: Floats
    family: str


class Studio:
    """The soundfonts and sampled kits, and what has been recorded from them."""

    def __init__(self, fonts: list[SoundFont], kits: list[Kit] | None = None) -> None:
        self.fonts, self.kits = fonts, kits or []

    def instrument(self, rng: Generator, part: str, family: str) -> tuple[SoundFont, int]:
        """A player for `part`."""
        choice = PROGRAMS["rock" if part in ("comp", "comp2") and family in GUITARS else part]
        return self.fonts[int(rng.integers(len(self.fonts)))], int(rng.choice(choice))

    def play(
        self, rng: Generator, song: Song, clock: Clock, *, worded: float = WORDED
    ) -> tuple[dict[str, Wave], float]:
        """Every part on its own track, and the s at which beat 0 lies; of voices alone `worded` sing words."""
        first = min((float(clock.at(n.beat)) for n in song.notes), default=0.0)
        start = -first + float(rng.choice([0.02, 0.1, rng.uniform(0.05, 3.0)]))
        total = int((float(clock.times[-1]) + start + rng.uniform(0.5, 2.5)) * RATE)
        tracks: dict[str, Wave] = defaultdict(lambda: np.zeros(total, np.float32))
        kit, font_kit = own_kit(rng), None
        if rng.random() < 0.65:
            font = self.fonts[int(rng.integers(len(self.fonts)))]
            weights = np.array([4 if k in (0, 8, 16) else 1 for k in font.kits], float)
            font_kit = (font, int(rng.choice(font.kits, p=weights / weights.sum())))
        sampled = self.kits[int(rng.integers(len(self.kits)))] if self.kits and rng.random() < 0.45 else None
        played, voice = sampled.keys() if sampled else frozenset[int](), int(rng.integers(4))
        mixed = rng.random() < 0.2
        players = {p: self.instrument(rng, p, song.groove.family) for p in PROGRAMS if p != "rock"}
        voices, mouth = spoken(), (float(rng.uniform(1.0, 1.25)), float(rng.uniform(0.02, 0.5)))
        manner = str(rng.choice(["sung", "sung", "spoken", "font"])) if voices else "sung"
        bank = voices[int(rng.integers(len(voices)))] if voices else []
        drawl = float(rng.choice([1.0, 1.0, 1.4, 1.8])) if song.groove.family == "voice" else 1.0
        octave = 12 * int(rng.choice([-1, 0, 0]))
        words = song.sung_alone and worded > 0 and lyrics.known() and rng.random() < worded
        # of those that sing words: its own notes, and those that double them
        lines: tuple[list[lyrics.Sung], list[lyrics.Sung]] = ([], [])
        slow = {p: float(rng.normal(0, song.feel.jitter / 2)) for p in PROGRAMS}
        strings = {p for p in ("comp", "comp2", "riff") if song.groove.family in GUITARS and rng.random() < 0.4}
        damping, kept = float(rng.uniform(0.985, 0.999)), dict[int, Wave]()
        for n in song.notes:
            feel = song.feel
            late = n.late + (rng.normal(0, feel.jitter) if feel.jitter else 0.0) + (slow.get(n.part, 0.0))
            late += feel.bass_late if n.part == "bass" else 0.0
            late += feel.snare_late if n.part == "drums" and n.key in (38, 37, 39) else 0.0
            if n.part == "voice":
                late += rng.normal(0, 0.008)
            when = float(clock.at(swing(n.beat, feel))) + start + late
            sound, lead = np.zeros(1, np.float32), 0.0
            seconds = n.length * 60 / song.bpm
            if words and n.part == "voice":
                lines[n.late != 0].append(lyrics.Sung(when, max(0.08, seconds), n.key + octave, n.loud))
                continue
            if n.part == "drums":
                use_own = font_kit is None or (mixed and n.key in (36, 38, 39))
                if sampled and n.key in played:
                    sound = sampled.stroke(rng, n.key, n.loud, voice) * np.float32(0.9)
                elif use_own and n.key in kit:
                    sound = kit[n.key] * np.float32(n.loud**1.5)
                else:
                    font, program = font_kit or (self.fonts[0], 0)
                    layer = int(np.clip(round(n.loud * 5) * 25, 20, 125))
                    sound = font.note(program, n.key, layer, 2.5 if n.key in (49, 57, 55, 51, 46) else 1.0, True)
                    sound = sound * np.float32(3 * n.loud / max(layer / 127, 0.1))
            elif n.part == "breath":
                sound = breath(rng, n.loud)
                lead = len(sound) / RATE
            elif n.part == "voice" and manner == "sung":
                sound, lead = sung(
                    rng, 440 * 2 ** ((n.key + octave - 69) / 12), max(0.08, seconds), *mouth, drawl=drawl
                )
                sound = sound * np.float32(n.loud * 0.5)
            elif n.part == "voice" and manner == "spoken" and bank:
                sound, lead = bank[int(rng.integers(len(bank)))]
                pitch = float(2 ** ((n.key % 12 - 6) / 36))
                sound = np.interp(np.arange(0, len(sound), pitch), np.arange(len(sound)), sound).astype(np.float32)
                sound, lead = (
                    sound[: int((lead / pitch + max(seconds, 0.12)) * RATE)] * np.float32(n.loud * 0.6),
                    lead / pitch,
                )
            elif n.part in strings:
                key = n.key
                if key not in kept:
                    kept[key] = plucked(rng, 440 * 2 ** ((key - 69) / 12), 2.5, damping)
                sound = _release(kept[key], seconds) * np.float32(n.loud * 0.5)
            else:
                font, program = players[n.part]
                held = min(3.0, seconds + 0.05)
                layer = int(np.clip(round(n.loud * 4) * 30, 30, 120))
                taken = 0.8 if held < 0.65 else 1.6 if held < 1.45 else 3.2
                sound = font.note(program, int(n.key), layer, taken, False)
                sound = _release(sound, held) * np.float32(n.loud * 1.4)
            name = {"choir": "lead", "breath": "voice"}.get(n.part, n.part)
            _lay(tracks[name], sound, when - lead)
        if words:
            for when, sound in lyrics.song(rng, *lines):
                _lay(tracks["voice"], sound * np.float32(0.4), when)
        return dict(tracks), start


def _lay(track: Wave, sound: Wave, when: float) -> None:
    """Add what begins at `when` s; what lies outside the track is left out."""
    at = round(when * RATE)
    if at < 0:
        sound, at = sound[-at:], 0
    end = min(len(track), at + len(sound))
    if end > at:
        track[at:end] += sound[: end - at]


def _release(x: Wave, held: float) -> Wave:
    n, tail = int(max(held, 0.02) * RATE), int(0.12 * RATE)
    if n >= len(x):
        return x
    out = x[: n + tail].copy()
    out[n:] *= np.linspace(1, 0, len(out) - n, dtype=np.float32) ** 2
    return out


def _room(rng: Generator, x: Wave, wet: float, seconds: float) -> Wave:
    n = int(seconds * RATE)
    t = np.arange(n) / RATE
    impulse = rng.normal(size=n) * np.exp(-6.9 * t / seconds)
    impulse = sosfilt(butter(1, [200, rng.uniform(2500, 9000)], "bandpass", fs=RATE, output="sos"), impulse)
    impulse[: int(rng.uniform(0.002, 0.02) * RATE)] = 0
    tail = oaconvolve(x, impulse / (np.sqrt((impulse**2).sum()) + 1e-9))[: len(x)]
    return (x + wet * tail).astype(np.float32)


def _squash(x: Wave, threshold: float, ratio: float, release: float) -> Wave:
    """A compressor with an attack of about 5 ms."""
    step = RATE // 500
    n = -(-len(x) // step) * step
    peak = np.abs(np.pad(x, (0, n - len(x)))).reshape(-1, step).max(axis=1)
    level = np.maximum(
        peak, lfilter([1 - np.exp(-1 / (500 * release))], [1, -np.exp(-1 / (500 * release))], peak) * 1.5
    )
    gain = np.minimum(1, (np.maximum(level, 1e-6) / threshold) ** (1 / ratio - 1))
    gain = lfilter([0.35], [1, -0.65], gain)
    return (x * np.interp(np.arange(len(x)), np.arange(len(gain)) * step + step, gain)).astype(np.float32)


def mix(rng: Generator, tracks: dict[str, Wave], family: str) -> Wave:
    """Balance the parts as some desk might."""
    weight = {
        "drums": 1.0,
        "bass": 0.75,
        "comp": 0.6,
        "comp2": 0.45,
        "pad": 0.4,
        "riff": 0.5,
        "lead": 0.55,
        "voice": 0.8,
    }
    out = np.zeros(len(next(iter(tracks.values()))), np.float32)
    drum_db = rng.normal(0, 3)
    wall = family in WALLS and rng.random() < WALLS[family]
    if wall:
        # guitars in front, drums behind them
        drum_db -= float(rng.uniform(0, 9))
    for part, track in tracks.items():
        x = track
        if wall and part in ("comp", "comp2", "riff"):
            # played twice, never quite together
            lag = int(rng.uniform(0.004, 0.03) * RATE)
            x = x + np.float32(rng.uniform(0.3, 1.0)) * np.concatenate([np.zeros(lag, np.float32), x[:-lag]])
        rms = float(np.sqrt(np.mean(x**2) + 1e-12))
        if rms < 1e-7:
            continue
        guitar = family in WALLS and part in ("comp", "comp2") and (wall or (family in GUITARS and rng.random() < 0.7))
        shout = (
            family in WALLS
            and part in ("voice", "lead", "riff")
            and rng.random() < (0.6 if wall else 0.3 if family in GUITARS else 0)
        )
        if guitar or shout:
            drive = float(rng.uniform(2, 30 if wall else 12))
            x = np.tanh(x / (rms * 3) * drive).astype(np.float32)
            x = sosfilt(butter(2, [90, rng.uniform(3500, 7000)], "bandpass", fs=RATE, output="sos"), x).astype(
                np.float32
            )
            rms = float(np.sqrt(np.mean(x**2) + 1e-12))
        if part in ("drums", "voice", "lead", "riff") and rng.random() < 0.5:
            x = _room(rng, x, float(rng.uniform(0.05, 0.5)), float(rng.uniform(0.15, 1.8)))
        if part in ("pad", "bass", "comp") and family == "dance" and "drums" in tracks and rng.random() < 0.4:
            beatish = np.abs(sosfilt(butter(2, 120, fs=RATE, output="sos"), tracks["drums"]))
            duck = lfilter([1e-4], [1, -(1 - 1e-4)], beatish)
            x = (x / (1 + rng.uniform(1, 6) * duck / (duck.max() + 1e-9))).astype(np.float32)
        db = (drum_db if part == "drums" else 0) + rng.normal(0, 2.5)
        # a part that rests much is as loud as one that doesn't, while it plays
        busy = max(0.05, float((np.abs(x) > 0.02 * np.abs(x).max()).mean()))
        out += x * np.float32(weight[part] * 10 ** (db / 20) / rms * np.sqrt(busy))
    if wall and rng.random() < 0.4:
        # one room, one tape
        out = _room(rng, out, float(rng.uniform(0.3, 1.2)), float(rng.uniform(0.4, 2.0)))
    if wall or (family in GUITARS and rng.random() < 0.5):
        # mastered loud
        rms = float(np.sqrt(np.mean(out**2) + 1e-12))
        out = np.tanh(out / rms * rng.uniform(0.4, 1.4)).astype(np.float32)
    return out / (np.abs(out).max() + 1e-9)


def _lossy(rng: Generator, x: Wave) -> Wave:
    import soundfile

    codec, quality = [("OGG", "VORBIS"), ("MP3", "MPEG_LAYER_III")][int(rng.integers(2))], float(rng.uniform(0.4, 0.95))
    out = io.BytesIO()
    encode(out, x, form=codec[0], subtype=codec[1], level=quality)
    y = soundfile.read(io.BytesIO(out.getvalue()), dtype="float32")[0]
    # whatever delay the codec brings is found and removed
    n = min(len(x), len(y), 8 * RATE)
    lag = int(fftconvolve(y[:n], x[:n][::-1]).argmax()) - (n - 1)
    y = y[lag:] if lag >= 0 else np.concatenate([np.zeros(-lag, np.float32), y])
    return np.pad(y, (0, max(0, len(x) - len(y))))[: len(x)].astype(np.float32)


def wear(rng: Generator, x: Wave) -> tuple[Wave, Floats | None]:
    """What happens between the studio and the DJ's disk; for a turntable also the map from old to new seconds.

    Returns
    -------
    samples, and None or (k, 2) pairs of (s before, s after)
    """
    chance = rng.random
    if chance() < 0.6:
        for _ in range(int(rng.integers(1, 4))):
            b, a = iirpeak(float(np.exp(rng.uniform(np.log(60), np.log(10000)))), float(rng.uniform(0.7, 2)), fs=RATE)
            x = (x + rng.uniform(-0.7, 1.5) * lfilter(b, a, x)).astype(np.float32)
    x = x / (np.abs(x).max() + 1e-9)
    if chance() < 0.35:
        x = _room(rng, x, float(rng.uniform(0.05, 0.5)), float(rng.uniform(0.2, 2.2)))
    if chance() < 0.06:
        x = crowd(rng, x)
    if chance() < 0.07:
        x = sweep(rng, x)
    if chance() < 0.65:
        loud = float(np.percentile(np.abs(x[::7]), 90)) + 1e-4
        x = _squash(x, loud * float(rng.uniform(0.4, 1.5)), float(rng.uniform(1.5, 10)), float(rng.uniform(0.04, 0.4)))
    if chance() < 0.35:
        top = float(np.percentile(np.abs(x[::7]), rng.uniform(97, 99.9))) + 1e-6
        x = np.clip(x, -top, top) if chance() < 0.5 else (np.tanh(x / top) * top).astype(np.float32)
    n = len(x)
    moved = None
    if chance() < 0.2:
        t = np.arange(n) / RATE
        rate = float(rng.choice([0.5556, 0.75, 1.3]))
        depth, offset = float(rng.uniform(0, 0.005)), float(rng.uniform(-0.03, 0.03))
        speed = (1 + offset) * (
            1 + depth * np.sin(2 * np.pi * rate * t + rng.uniform(0, 6)) + rng.uniform(-0.006, 0.006) * t / t[-1]
        )
        place = np.cumsum(1 / speed) / RATE
        x = np.interp(np.arange(0, place[-1], 1 / RATE), place, x).astype(np.float32)
        moved = np.stack([t[:: RATE // 20], place[:: RATE // 20]], axis=1)
        lead = float(rng.uniform(0, 5))
        x = np.concatenate([np.zeros(int(lead * RATE), np.float32), x])
        moved[:, 1] += int(lead * RATE) / RATE
    rms = float(np.sqrt(np.mean(x**2)) + 1e-9)
    if moved is not None or chance() < 0.08:
        hiss = sosfilt(butter(1, rng.uniform(800, 6000), fs=RATE, output="sos"), rng.normal(size=len(x)))
        x = x + np.float32(rms * 10 ** (rng.uniform(-55, -22) / 20)) * hiss.astype(np.float32) / hiss.std()
        rumble = sosfilt(butter(2, 35, fs=RATE, output="sos"), rng.normal(size=len(x)))
        x = x + np.float32(rms * 10 ** (rng.uniform(-50, -20) / 20)) * rumble.astype(np.float32) / rumble.std()
        clicks = np.zeros(len(x))
        at = rng.integers(0, len(x) - 60, int(rng.uniform(0, 12) * len(x) / RATE))
        clicks[at] = rng.laplace(size=len(at)) * rms * 2.0
        x = x + lfilter([1], [1, -rng.uniform(0.3, 0.9)], clicks).astype(np.float32)
    if chance() < 0.12:
        low, high = float(rng.uniform(40, 400)), float(rng.uniform(2500, 9000))
        x = sosfilt(butter(2, [low, high], "bandpass", fs=RATE, output="sos"), x).astype(np.float32)
    if chance() < 0.2:
        x = _lossy(rng, (x / (np.abs(x).max() + 1e-9)).astype(np.float32))
    if chance() < 0.1:
        k = np.sort(rng.uniform(0, len(x), 6))
        x = x * np.interp(np.arange(len(x)), k, 10 ** (rng.uniform(-10, 0, 6) / 20)).astype(np.float32)
    return (x / (np.abs(x).max() + 1e-9)).astype(np.float32), moved


def sweep(rng: Generator, x: Wave) -> Wave:
    """A low-pass filter opened over some seconds and shut at once, as before a drop."""
    span = int(rng.uniform(4, 16) * RATE)
    if len(x) <= span + RATE:
        return x
    start = int(rng.integers(0, len(x) - span))
    part = x[start : start + span]
    darks = [sosfilt(butter(2, f, fs=RATE, output="sos"), part).astype(np.float32) for f in (300, 1200, 5000)] + [part]
    place = np.linspace(0, 2.999, span)
    low = place.astype(int)
    share = (place - low).astype(np.float32)
    stack = np.stack(darks)
    i = np.arange(span)
    out = x.copy()
    out[start : start + span] = stack[low, i] * (1 - share) + stack[low + 1, i] * share
    return out


def opening(rng: Generator, x: Wave, *, mono_kit: dict[int, Wave]) -> tuple[Wave, float]:
    """Speech or single strokes before the song, at no pulse of its own.

    Returns
    -------
    samples, and by how many s the song begins later
    """
    lead = float(rng.uniform(1.5, 9))
    head = np.zeros(int(lead * RATE), np.float32)
    level = float(np.percentile(np.abs(x[::7]), 95)) + 1e-4
    if rng.random() < 0.6:
        said = talk(rng, lead)
        head += said * np.float32(level * rng.uniform(0.3, 1) / (np.abs(said).max() + 1e-9))
    else:
        for at in rng.uniform(0, lead - 0.6, int(rng.integers(1, 5))):
            hit = mono_kit[int(rng.choice([36, 38, 49, 37, 41]))]
            _put(head, hit, at, level * rng.uniform(0.4, 1))
    return np.concatenate([head, x]), len(head) / RATE


def prelude(rng: Generator, x: Wave, *, mono_kit: dict[int, Wave], beats: Wave) -> tuple[Wave, float]:
    """What long beginnings are made of: talk, strokes, free chords, a room or a drone, with a pause or into the music.

    Or somebody counts in.

    Parameters
    ----------
    beats : of the song, s

    Returns
    -------
    samples, and by how many s the song begins later
    """
    lead = float(np.clip(rng.gamma(2.0, 4.0), 1.5, 24))
    rest = float(rng.choice([0.0, 0.3, 1.0]) * rng.uniform(0, 1.5))
    over = float(rng.choice([0.0, 0.0, 1.0]) * rng.uniform(0, 6))
    seconds = lead + (over if not rest else 0.0)
    kind = str(rng.choice(["talk", "talk", "strokes", "chords", "noises", "count"]))
    if kind == "talk":
        head = talk(rng, seconds)
    elif kind == "noises":
        head = noises(rng, seconds + 1.5)[: int(seconds * RATE)]
    elif kind == "count":
        period, stick = float(beats[1] - beats[0]), int(rng.choice([37, 37, 42, 39]))
        rest = max(0.0, float(rng.choice([4, 6, 8])) * period + 0.3 - lead)
        seconds = lead + rest + float(beats[0])
        head = np.zeros(int(seconds * RATE), np.float32)
        for k in (1, 2, 3, 4) if rng.random() < 0.6 else (1, 2, 3, 4, 6, 8):
            if seconds > k * period:
                _put(head, mono_kit[stick], seconds - k * period, float(rng.uniform(0.6, 1)))
    else:
        head = np.zeros(int(seconds * RATE), np.float32)
        for at in np.cumsum(rng.gamma(2.0, 0.7 if kind == "chords" else 0.5, 40)):
            if at > seconds - 0.4:
                break
            if kind == "strokes":
                _put(head, mono_kit[int(rng.choice([36, 38, 42, 49, 37, 41]))], at, float(rng.uniform(0.4, 1)))
                continue
            for interval in rng.choice([0, 3, 4, 7, 10, 12], int(rng.integers(1, 5))):
                hz = float(rng.uniform(110, 330)) * 2 ** (int(interval) / 12)
                _put(head, plucked(rng, hz, float(rng.uniform(0.5, 2.5)), 0.995), at, 0.5)
    level = float(np.percentile(np.abs(x[::7]), 95)) + 1e-4
    head = head * np.float32(level * rng.uniform(0.2, 1) / (np.abs(head).max() + 1e-9))
    out = np.concatenate([np.zeros(int((lead + rest) * RATE), np.float32), x])
    n = min(len(head), len(out))
    out[:n] += head[:n]
    return out, int((lead + rest) * RATE) / RATE


def _put(out: Wave, sound: Wave, at: float, gain: float = 1.0) -> None:
    """Add a sound at a time in s, as far as there is room."""
    i = int(at * RATE)
    n = min(len(sound), len(out) - i)
    out[i : i + n] += sound[:n] * np.float32(gain)


def talk(rng: Generator, seconds: float) -> Wave:
    """Somebody talks, with pauses: syllables at no pulse."""
    out, bank = np.zeros(int(seconds * RATE), np.float32), spoken()
    voice = bank[int(rng.integers(len(bank)))] if bank and rng.random() < 0.8 else []
    at = 0.1
    while at < seconds - 0.5:
        if voice:
            sound = voice[int(rng.integers(len(voice)))][0]
        else:
            sound = sung(rng, float(rng.uniform(90, 260)), float(rng.uniform(0.1, 0.3)), 1.1, 0.1)[0]
        _put(out, sound, at)
        at += float(rng.gamma(2.0, 0.12)) + (float(rng.uniform(0.3, 1.2)) if rng.random() < 0.15 else 0.05)
    return out


def crowd(rng: Generator, x: Wave) -> Wave:
    """An audience that claps and calls at the edges of a live recording, out of time."""
    n = len(x)
    murmur = sosfilt(butter(1, [300, 4000], "bandpass", fs=RATE, output="sos"), rng.normal(size=n))
    swell = np.interp(np.arange(n), np.sort(rng.uniform(0, n, 8)), rng.uniform(0, 1, 8) ** 3)
    level = float(np.sqrt(np.mean(x**2)) * 10 ** (rng.uniform(-24, -6) / 20))
    return (x + level * swell * murmur / murmur.std()).astype(np.float32)


def noises(rng: Generator, seconds: float) -> Wave:
    """Sound without any beat: noise, drones, free speech, a room."""
    n = int(seconds * RATE)
    out = np.zeros(n, np.float32)
    kind = int(rng.integers(0, 4))
    if kind == 0:
        out += rng.normal(size=n).astype(np.float32) * 0.1
    for _ in range(int(rng.integers(2, 8)) if kind == 1 else 0):
        t = np.arange(n) / RATE
        out += (
            np.sin(2 * np.pi * rng.uniform(60, 900) * t) * (1 + np.sin(2 * np.pi * rng.uniform(0.02, 0.3) * t))
        ).astype(np.float32)
    if kind >= 2:
        bank = spoken()
        voice = bank[int(rng.integers(len(bank)))] if bank else []
        at = 0.2
        while at < seconds - 1:
            sound = (
                voice[int(rng.integers(len(voice)))][0]
                if voice and kind == 2
                else sung(rng, float(rng.uniform(90, 300)), float(rng.uniform(0.2, 2)), 1.1, 0.1)[0]
            )
            _put(out, sound, at)
            at += float(rng.gamma(2.0, 0.14)) + (rng.uniform(0.3, 1.5) if rng.random() < 0.15 else 0.05)
    return (out + 1e-4 * rng.normal(size=n)).astype(np.float32)
