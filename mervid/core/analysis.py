"""A whole recording in, its evidence out: decode once, draw, listen, track.

The result is kept for good and never edited; a newer `VERSION` asks for the recording to be heard again.
"""

from __future__ import annotations

import io
from collections.abc import Callable
from pathlib import Path

import attrs
import numpy as np
from numpy.typing import NDArray

from . import audio, evidence, tracker
from .audio import Decoded, Samples
from .errors import FormatError
from .grid import MeterMark
from .progress import within
from .tracker import Heard
from .waveform import Waveform, WaveformMaker

VERSION = 2


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
    """

    heard: Heard
    attack: NDArray[np.uint8]
    percussive: NDArray[np.uint8]
    onset_times: NDArray[np.float64]
    onset_strengths: NDArray[np.float32]
    problem: str = ""

    def attack_strength(self) -> NDArray[np.float32]:
        """Attack strength as float32 in [0, 1]."""
        return self.attack.astype(np.float32) / np.float32(255)


def to_bytes(value: Evidence) -> bytes:
    """The evidence as one compressed block (NumPy .npz)."""
    out = io.BytesIO()
    h = value.heard
    np.savez_compressed(
        out,
        times=h.times,
        numbers=h.numbers,
        confidence=h.confidence,
        meter=np.array([[m.beat, m.beats_per_bar] for m in h.meter]),
        chances=np.array([h.level_chance, h.phase_chance]),
        attack=value.attack,
        percussive=value.percussive,
        onset_times=value.onset_times,
        onset_strengths=value.onset_strengths,
        problem=np.array(value.problem),
    )
    return out.getvalue()


def from_bytes(blob: bytes) -> Evidence:
    """Inverse of `to_bytes`. Raises `FormatError` when the block is damaged."""
    try:
        with np.load(io.BytesIO(blob), allow_pickle=False) as z:
            meter = tuple(MeterMark(float(beat), int(size)) for beat, size in z["meter"])
            level, phase = (float(x) for x in z["chances"])
            heard = Heard(z["times"], z["numbers"], z["confidence"], meter, level, phase)
            return Evidence(
                heard, z["attack"], z["percussive"], z["onset_times"], z["onset_strengths"], str(z["problem"])
            )
    except Exception as e:
        raise FormatError(f"The stored evidence is damaged ({type(e).__name__}).") from None


def decode(
    path: Path, sink: Callable[[Samples], None], *, progress: Callable[[float], None]
) -> tuple[Decoded, Waveform, evidence.Listener]:
    """Decode `path` once: samples go to `sink`, the waveform is drawn and the listener has heard it all.

    Raises
    ------
    AudioError
        As `audio.probe` and `audio.decode`.
    """
    source = audio.probe(path)
    maker = WaveformMaker(source.rate)
    listener = evidence.Listener(source.rate)

    def take(block: Samples) -> None:
        sink(block)
        maker.push(block)
        listener.push(block)

    facts = audio.decode(source, take, progress=progress)
    return facts, maker.finish(), listener


def conclude(listener: evidence.Listener, *, progress: Callable[[float], None]) -> Evidence:
    """Track the beats of what `listener` heard."""
    sound = listener.finish(progress=within(progress, 0.0, 0.6))
    heard = tracker.track(sound, progress=within(progress, 0.6, 1.0))
    times, strengths = evidence.onsets(sound.attack)
    return Evidence(
        heard,
        np.rint(sound.attack * 255).astype(np.uint8),
        np.rint(np.clip(sound.percussive, 0, 1) * 255).astype(np.uint8),
        times,
        strengths,
        sound.problem,
    )


def analyse(path: Path, *, progress: Callable[[float], None] = lambda part: None) -> tuple[Decoded, Evidence]:
    """The whole of it, keeping no samples."""
    facts, _, listener = decode(path, lambda block: None, progress=within(progress, 0.0, 0.6))
    found = conclude(listener, progress=within(progress, 0.6, 1.0))
    progress(1.0)
    return facts, found
