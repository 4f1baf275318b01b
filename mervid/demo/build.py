"""Render the demo set: `python -m mervid.demo.build SOUNDFONT.sf2 [FOLDER [NAME...]]`.

Needs tinysoundfont (installed with --no-deps), an MIT-licensed General MIDI soundfont such as Debian's
fluid-soundfont-gm, and for the singer espeak-ng and pedalboard. The program itself needs none of them: it ships what
this makes.

The truth beside each recording is exact by construction: a note starts on the sample that its time names.
"""

from __future__ import annotations

import json
import sys
from pathlib import Path
from typing import Any

import attrs
import numpy as np
from numpy.random import Generator
from numpy.typing import NDArray

from ..core.arrays import Floats
from . import voice
from .players import BASS, DRUMS, KEYS, LEAD, PAD, Note, Section, perform, with_odd_bar

RATE = 44_100


@attrs.frozen
class Song:
    """What is needed to render one recording.

    Attributes
    ----------
    odd_bar : before which bar a short one comes, and its beats
    voice_from : a voice sings; its own recording begins at this s of the song
    """

    name: str
    seed: int
    groove: str
    form: list[Section]
    roots: list[tuple[int, tuple[int, ...]]]
    jitter: float
    programs: dict[int, tuple[int, int]]
    lead_in: float
    notes: str
    odd_bar: tuple[int, int] | None = None
    voice_from: float | None = None


def _form(text: str) -> list[Section]:
    """'verse 8 .7, chorus 8 1' as sections."""
    parts = (p.split() for p in text.split(","))
    return [Section(kind, int(bars), float(energy)) for kind, bars, energy in parts]


_MINOR, _MAJOR, _SEVENTH = (0, 3, 7), (0, 4, 7), (0, 4, 10)


def _chord(root: int, shape: tuple[int, ...]) -> tuple[int, tuple[int, ...]]:
    return 33 + root, tuple((root - 3 + s) % 12 for s in shape)


SONGS = [
    Song(
        "Copper Ferry", 11, "disco",
        _form("intro 8 .4, verse 8 .7, chorus 8 1, break 4 .3, chorus 8 1, outro 8 .6"),
        [_chord(0, _MINOR), _chord(5, _MINOR), _chord(10, _MAJOR), _chord(3, _MAJOR)],
        0.004, {BASS: (0, 33), KEYS: (0, 4), PAD: (0, 48), LEAD: (0, 61), DRUMS: (128, 0)}, 0.4,
        "a live drummer who wanders between 111 and 116 BPM and pulls the fills",
    ),
    Song(
        "Pontoon Static", 23, "machine",
        _form("intro 8 .4, verse 8 .8, build 20 .6, drop 12 1, outro 4 .6"),
        [_chord(2, _MINOR), _chord(2, _MINOR), _chord(10, _MAJOR), _chord(0, _MAJOR)],
        0.0, {BASS: (0, 38), KEYS: (0, 81), PAD: (0, 89), LEAD: (0, 80), DRUMS: (128, 25)}, 0.25,
        "machine-made at 134.994 BPM; the phrase before the drop has 20 bars (16 + 4)",
    ),
    Song(
        "Night Barge", 37, "soul",
        _form("intro 4 .6, verse 8 .7, chorus 8 1, verse 8 .7, chorus 4 1, outro 4 .5"),
        [_chord(7, _SEVENTH), _chord(7, _SEVENTH), _chord(0, _SEVENTH), _chord(2, _SEVENTH)],
        0.003, {BASS: (0, 34), KEYS: (0, 7), PAD: (0, 19), LEAD: (0, 65), DRUMS: (128, 8)}, 0.0,
        "a rip of a 33 1/3 rpm record: played at 104 BPM, runs 0.7 % fast, wow at 0.5556 Hz, crackle, lead-in noise",
    ),
    Song(
        "Brass Tide", 41, "funk",
        _form("intro 4 .4, verse 8 .7, chorus 8 1, break 4 .4, chorus 8 1, outro 4 .6"),
        [_chord(7, _SEVENTH), _chord(7, _SEVENTH), _chord(0, _SEVENTH), _chord(7, _SEVENTH)],
        0.005, {BASS: (0, 36), KEYS: (0, 16), PAD: (0, 61), LEAD: (0, 56), DRUMS: (128, 0)}, 0.6,
        "live funk near 103 BPM: the fill before the first chorus rushes; a bar of two beats comes before the break",
        odd_bar=(20, 2),
    ),
    Song(
        "Salt Ledger", 53, "hiphop",
        _form("intro 4 .5, verse 12 .7, chorus 8 1, outro 4 .5"),
        [_chord(5, _MINOR), _chord(5, _MINOR), _chord(1, _MAJOR), _chord(3, _MAJOR)],
        0.0015, {BASS: (0, 33), KEYS: (0, 4), PAD: (0, 49), LEAD: (0, 11), DRUMS: (128, 25)}, 0.3,
        "hip-hop at 88.5 BPM, swung sixteenths, few kicks, snares 9 ms behind, a quiet first hat",
    ),
    Song(
        "Slack Water", 61, "disco",
        _form("intro 8 .4, verse 8 .8, break 8 .4, chorus 12 1, outro 4 .6"),
        [_chord(9, _MINOR), _chord(5, _MAJOR), _chord(0, _MAJOR), _chord(7, _MAJOR)],
        0.0015, {BASS: (0, 38), KEYS: (0, 5), PAD: (0, 50), LEAD: (0, 81), DRUMS: (128, 24)}, 0.2,
        "118 BPM, steps down to 112 for the break and back",
    ),
    Song(
        "Lamplighter", 71, "song",
        _form("intro 4 .6, verse 8 .7, chorus 8 1, verse 8 .7, chorus 8 1, outro 4 .5"),
        [_chord(0, _MINOR), _chord(8, _MAJOR), _chord(3, _MAJOR), _chord(10, _MAJOR)],
        0.003, {BASS: (0, 33), KEYS: (0, 0), PAD: (0, 48), LEAD: (0, 73), DRUMS: (128, 0)}, 0.35,
        "a song with verse and chorus near 96 BPM; the voice is synthetic",
        voice_from=8.2,
    ),
]  # fmt: skip


def tempo_curve(song: Song, rng: Generator, beats: int) -> Floats:
    """Tempo of each beat, BPM, (beats,)."""
    if song.groove == "machine":
        return np.full(beats, 134.994)
    if song.groove == "soul":
        return np.full(beats, 104.0)
    if song.groove == "hiphop":
        return np.full(beats, 88.5)
    if song.name == "Slack Water":
        tempo = np.full(beats, 118.0)
        tempo[16 * 4 : 24 * 4] = 112.0
        return tempo
    if song.groove in ("song", "funk"):
        walk = np.zeros(beats)
        for i in range(1, beats):
            walk[i] = 0.95 * walk[i - 1] + rng.normal(0, 0.12)
        tempo = (96.0 if song.groove == "song" else 103.0) + walk
        if song.groove == "funk":
            # the fill before the first chorus rushes
            tempo[12 * 4 - 4 : 12 * 4] *= np.array([1.01, 1.025, 1.035, 1.03])
        return tempo
    # two slow waves and a random walk that keeps coming back; the fill before a new section rushes
    x = np.arange(beats)
    walk = np.zeros(beats)
    for i in range(1, beats):
        walk[i] = 0.97 * walk[i - 1] + rng.normal(0, 0.16)
    tempo = 113.4 + 1.2 * np.sin(x / 41.0 + 0.6) + 0.5 * np.sin(x / 13.0) + walk
    bar = 0
    for section in song.form:
        bar += section.bars
        tempo[bar * 4 - 2 : bar * 4] *= 1.012
    return np.clip(tempo, 111.0, 116.0)


def beat_times(song: Song, rng: Generator, beats: int) -> Floats:
    """Time of each beat in s, (beats + 1,), before any record player."""
    period = 60.0 / tempo_curve(song, rng, beats)
    return song.lead_in + np.concatenate([[0.0], np.cumsum(period)])


def render(
    notes: list[tuple[float, Note, float]], programs: dict[int, tuple[int, int]], soundfont: str, seconds: float
) -> NDArray[np.float32]:
    """Play (time s, note, length s) sample-exactly: (frames, 2) float32."""
    import tinysoundfont

    synth = tinysoundfont.Synth(samplerate=RATE)
    sfid = synth.sfload(soundfont, gain=-6.0)
    for channel, (bank, preset) in programs.items():
        synth.program_select(channel, sfid, bank if bank < 128 else 0, preset, is_drums=bank >= 128)
    synth.control_change(PAD, 7, 60)
    synth.control_change(KEYS, 7, 78)
    synth.control_change(LEAD, 7, 74)
    synth.control_change(KEYS, 10, 90)
    synth.control_change(LEAD, 10, 42)
    events: list[tuple[int, int, Note]] = []
    for time, note, length in notes:
        at = max(0, round(time * RATE))
        events += [(at, 1, note), (at + max(400, round(length * RATE)), 0, note)]
    events.sort(key=lambda e: (e[0], e[1]))
    out, now = [], 0
    for at, on, note in events:
        if at > now:
            out.append(np.frombuffer(synth.generate(at - now), np.float32).copy())
            now = at
        if on:
            synth.noteon(note.channel, note.key, note.velocity)
        else:
            synth.noteoff(note.channel, note.key)
    total = round(seconds * RATE)
    if total > now:
        out.append(np.frombuffer(synth.generate(total - now), np.float32).copy())
    return np.concatenate(out).reshape(-1, 2)[:total]


def press_and_rip(dry: NDArray[np.float32], rng: Generator) -> tuple[NDArray[np.float32], Any]:
    """A record of `dry`, played 0.7 % fast on a turntable that sways.

    Returns the rip and a function from time on the dry recording to time on the rip, s. Speed over time is
    1.007 (1 + 0.0025 sin 2 pi 0.5556 t) with a slow droop of 0.2 %; positions are its integral.
    """
    from scipy.ndimage import map_coordinates
    from scipy.signal import butter, sosfilt

    lead = 4.2
    seconds = len(dry) / RATE
    t = np.arange(round((seconds / 1.007 + 1) * RATE)) / RATE
    w = 2 * np.pi * 0.5556
    played = 1.007 * (t + 0.0025 * (1 - np.cos(w * t)) / w - 0.002 * t * t / (2 * t[-1]))
    music = np.stack([map_coordinates(dry[:, c], [played * RATE], order=3, mode="constant") for c in (0, 1)], axis=1)
    n = len(music) + round(lead * RATE)
    out = np.zeros((n, 2), np.float32)
    out[round(lead * RATE) :] = music
    hiss = rng.normal(0, 1, (n, 2)).astype(np.float32)
    out += 0.0022 * sosfilt(butter(2, 6000, "lowpass", fs=RATE, output="sos"), hiss, axis=0)
    out += 0.02 * sosfilt(butter(2, 28, "lowpass", fs=RATE, output="sos"), hiss, axis=0)
    for at in rng.integers(0, n - 200, int(n / RATE * 9)):
        length = int(rng.integers(8, 60))
        burst = rng.normal(0, 1, length) * np.exp(-np.arange(length) / (length / 4))
        out[at : at + length] += (rng.lognormal(-4.3, 0.8) * burst)[:, None].astype(np.float32)
    return out, lambda dry_time: lead + np.interp(dry_time, played, t)


def make(song: Song, soundfont: str) -> dict[str, tuple[NDArray[np.float32], dict[str, Any]]]:
    """Render one song: its recordings by name, each with its truth."""
    rng = np.random.default_rng(song.seed)
    bars = sum(s.bars for s in song.form)
    starts = np.arange(bars + 1) * 4
    times = beat_times(song, rng, bars * 4 + (song.odd_bar[1] if song.odd_bar else 0))
    notes = perform(rng, song.groove, song.form, song.roots, song.jitter)
    edges = np.concatenate([[0], np.cumsum([s.bars for s in song.form])]) * 4
    if song.odd_bar is not None:
        before, beats = song.odd_bar
        notes = with_odd_bar(rng, notes, before * 4, beats, song.jitter)
        starts = np.sort(np.append(np.where(starts >= before * 4, starts + beats, starts), before * 4))
        edges = np.where(edges >= before * 4, edges + beats, edges)
    index = np.arange(len(times))

    def when(beat: float) -> float:
        return float(np.interp(beat, index, times))

    placed = [(when(n.beat) + n.late, n, when(min(n.beat + n.length, starts[-1])) - when(n.beat)) for n in notes]
    seconds = float(times[-1]) + 4.0
    audio = render(placed, song.programs, soundfont, seconds)
    audio *= 0.89 / np.abs(audio).max()
    sung = None
    if song.voice_from is not None:
        chords = [chord for _, chord in song.roots]
        part = voice.melody(rng, song.form, chords)
        timed = [(when(b), when(b + n) - when(b), key, word) for b, n, key, word in part]
        sung = voice.sing(timed, rng, seconds)
        audio = 0.62 * audio + 0.8 * sung[: len(audio)]
    truth_times = times
    if song.groove == "soul":
        audio, place = press_and_rip(audio, rng)
        truth_times = place(times)
    audio = np.tanh(1.25 * audio) / np.tanh(1.25)

    def truth(name: str, notes: str, shift: float = 0.0) -> dict[str, Any]:
        beats, downs = truth_times - shift, truth_times[starts] - shift
        sections = [
            {"kind": s.kind, "start": round(float(truth_times[a] - shift), 6), "bars": s.bars}
            for s, a in zip(song.form, edges[:-1], strict=True)
        ]
        return {
            "name": name,
            "beats": [round(float(x), 6) for x in beats if x >= 0],
            "downbeats": [round(float(x), 6) for x in downs if x >= 0],
            "beats_per_bar": 4,
            "sections": [s for s in sections if float(str(s["start"])) >= 0],
            "notes": notes,
        }

    out = {song.name: (audio.astype(np.float32), truth(song.name, song.notes))}
    if sung is not None and song.voice_from is not None:
        alone = sung[round(song.voice_from * RATE) :].mean(axis=1, keepdims=True)
        name = f"{song.name} (voice only)"
        words = f"the synthetic voice of {song.name} alone; begins {song.voice_from} s into the song"
        out[name] = (alone * np.float32(0.8 / np.abs(alone).max()), truth(name, words, song.voice_from))
    return out


def main() -> int:
    """Write every song as NAME.ogg with NAME.json beside it."""
    import soundfile

    if len(sys.argv) < 2:
        print("usage: python -m mervid.demo.build SOUNDFONT.sf2 [FOLDER [NAME...]]", file=sys.stderr)
        return 2
    folder = Path(sys.argv[2]) if len(sys.argv) > 2 else Path(__file__).parent / "tracks"
    folder.mkdir(parents=True, exist_ok=True)
    only = set(sys.argv[3:])
    for song in SONGS:
        if only and song.name not in only:
            continue
        for name, (audio, truth) in make(song, sys.argv[1]).items():
            path = folder / f"{name}.ogg"
            channels = audio.shape[1]
            kind = {"format": "OGG", "subtype": "VORBIS", "compression_level": 0.62}
            with soundfile.SoundFile(path, "w", RATE, channels, **kind) as f:
                # libsndfile's Vorbis encoder overflows its stack on very long writes
                for start in range(0, len(audio), 65536):
                    f.write(audio[start : start + 65536])
            path.with_suffix(".json").write_text(json.dumps(truth, indent=1) + "\n", "utf-8")
            print(f"{path.name}: {len(audio) / RATE:.1f} s, {path.stat().st_size / 1e6:.2f} MB")
    return 0


if __name__ == "__main__":
    sys.exit(main())
