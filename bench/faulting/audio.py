"""Mutants of recordings: right, refused in words, or told as damaged; where nothing is told, every click is in place.

Clicks stand at uneven places in a tone that never repeats, so that each is found by its own surroundings.
"""

from __future__ import annotations

import json
import random
from functools import cache
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from bench.faulting import child, mutation
from bench.faulting.cases import BAD, DAMAGED, REFUSED, RIGHT, Outcome
from mervid.core.errors import MervidError
from mervid.core.sound import decoding

RATE = 44_100
SECONDS = 8.0
FORMATS = ("wav", "aiff", "flac", "mp3", "ogg", "opus", "m4a", "aac", "webm")
CLICKS = (1.03, 1.91, 2.74, 3.66, 4.41, 5.33, 6.02, 7.07)
MOST_SHIFT_MS = 1.0
LIKE_ITSELF = 0.8
"""Correlation from which a click counts as found: what was damaged itself is not looked for."""
_REACH_S = 0.7
_SHORTER_S = 0.1
"""Headers that lie about the end may cost so much without a word: no beat moves."""


def clicks() -> NDArray[np.float32]:
    """The recording that all mutants come from: (frames, 2)."""
    t = np.arange(int(SECONDS * RATE)) / RATE
    x = 0.1 * np.sin(2 * np.pi * (180 * t + 9 * t**2)) + 0.01 * np.random.default_rng(1).normal(size=len(t))
    for k, s in enumerate(CLICKS):
        i, n = int(s * RATE), 900
        x[i : i + n] += 0.8 * np.sin(2 * np.pi * (900 + 170 * k) * t[:n]) * np.exp(-t[:n] / 0.004)
    return np.stack([x, x], axis=1).astype(np.float32)


def encode(folder: Path) -> None:
    """The clicks in all formats, once."""
    import av
    import soundfile

    folder.mkdir(parents=True, exist_ok=True)
    x = clicks()
    for name, subtype in (("wav", "PCM_16"), ("aiff", "PCM_16"), ("flac", "PCM_16"), ("ogg", "VORBIS")):
        soundfile.write(folder / f"clicks.{name}", x, RATE, subtype=subtype)
    for name, codec, form, rate in (
        ("mp3", "libmp3lame", None, RATE),
        ("opus", "libopus", None, 48_000),
        ("m4a", "aac", "mp4", RATE),
        ("aac", "aac", "adts", RATE),
        ("webm", "libopus", "webm", 48_000),
    ):
        with av.open(str(folder / f"clicks.{name}"), "w", format=form) as box:
            stream = box.add_stream(codec, rate=rate)
            stream.layout = "stereo"
            stream.bit_rate = 128_000
            size = stream.codec_context.frame_size or 1024
            fit = av.AudioResampler(stream.codec_context.format, "stereo", rate, frame_size=size)
            whole = av.AudioFrame.from_ndarray(np.ascontiguousarray(x.T), format="fltp", layout="stereo")
            whole.sample_rate, whole.pts = RATE, 0
            for frame in fit.resample(whole) + fit.resample(None):
                box.mux(stream.encode(frame))
            box.mux(stream.encode(None))


@cache
def source(folder: Path, form: str) -> tuple[bytes, NDArray[np.float32], int]:
    """Bytes, left channel and rate of the recording in one format."""
    path = folder / f"clicks.{form}"
    samples, facts = decoding.read(path)
    return path.read_bytes(), samples[:, 0].copy(), facts.rate


def worst_shift_ms(before: NDArray[np.float32], after: NDArray[np.float32], rate: int, heard_at: int) -> float:
    """How far the clicks that can be found have moved, by normalised correlation.

    Parameters
    ----------
    rate, heard_at : samples a second of `before`, and of `after` as it says of itself
    """
    worst, half, reach = 0.0, int(0.015 * rate), int(_REACH_S * rate)
    for s in CLICKS:
        i = int(s * rate)
        part = before[i - half : i + 2 * half]
        begin = max(0, i - half - reach)
        there = after[begin : i + 2 * half + reach]
        if len(there) < len(part):
            continue
        power = np.convolve(there**2, np.ones(len(part), np.float32), "valid")
        alike = np.correlate(there, part, "valid") / np.sqrt(np.maximum(power * float(part @ part), 1e-9))
        best = int(alike.argmax())
        if alike[best] >= LIKE_ITSELF:
            at = (begin + best) / heard_at
            worst = max(worst, 1000 * abs(at - (i - half) / rate))
    return worst


def case(folder: Path, number: int) -> Outcome:
    """Mutant `number`: the same for the same number."""
    form = FORMATS[number % len(FORMATS)]
    rng = random.Random(f"audio {number}")
    data, before, rate = source(folder, form)
    data, how = mutation.mutant(rng, data)
    path = folder / f"mutant-{number}.{form}"

    end = child.run_on(path, data, lambda: judged(path, before, rate))
    return outcome(f"audio {form}", number, how, end)


def judged(path: Path, before: NDArray[np.float32], rate: int) -> str:
    """What becomes of the recording at `path`, made of one that sounds as `before`: a kind of outcome and words."""
    try:
        after, facts = decoding.read(path)
    except MervidError as e:
        return json.dumps([REFUSED, str(e)])
    if not facts.delay_known and path.suffix == ".mp3":
        # the header that tells of the encoder's delay is gone, and that is said
        return json.dumps([DAMAGED, "delay"])
    if facts.damage:
        return json.dumps([DAMAGED, facts.damage[0].kind])
    shift = worst_shift_ms(before, after[:, 0], rate, facts.rate)
    if shift > MOST_SHIFT_MS:
        return json.dumps([BAD, f"moved by {shift:.1f} ms without a word"])
    if len(after) / facts.rate < SECONDS - _SHORTER_S:
        return json.dumps([BAD, f"{SECONDS - len(after) / facts.rate:.2f} s are missing without a word"])
    return json.dumps([RIGHT, ""])


def outcome(group: str, number: int, how: str, end: child.Ending) -> Outcome:
    """The outcome of a child that judged a recording."""
    kind, words = (BAD, end.fault) if end.fault else json.loads(end.said)
    if kind == REFUSED and not words.startswith("mutant-"):
        kind, words = BAD, f"words without the file's name: {words}"
    return Outcome(group, number, kind, f"{how}: {words}", end.seconds, end.rss_mb)
