"""A whole recording in, its evidence out: decode once, draw, listen, track.

The result is kept for good and never edited; a newer `VERSION` asks for the recording to be heard again.
"""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import attrs
import numpy as np
from numpy.typing import NDArray

from ..arrays import Samples, Singles
from ..progress import within
from ..sound import decoding
from ..sound.condition import Inspector
from ..sound.damage import Damage
from ..sound.decoding import Decoded
from ..sound.loudness import LoudnessMeter
from ..sound.waveform import Waveform, WaveformMaker
from . import beat_tracking, features, loops, odd_bars, turntable
from .evidence import Evidence

_COLOUR_SCALE = 64.0


@attrs.frozen(eq=False)
class Heap:
    """What was taken in while decoding, not yet concluded from."""

    listener: features.Listener
    inspector: Inspector
    meter: LoudnessMeter


def decode(
    path: Path, sink: Callable[[Samples], None], *, progress: Callable[[float], None]
) -> tuple[Decoded, Waveform, Heap]:
    """Decode `path` once: samples go to `sink`, the waveform is drawn, and all is heard and inspected.

    Raises
    ------
    AudioError
        As `decoding.probe` and `decoding.decode`.
    """
    source = decoding.probe(path)
    maker = WaveformMaker(source.rate)
    listener, inspector, meter = features.Listener(source.rate), Inspector(source.rate), LoudnessMeter(source.rate)

    def take(block: Samples) -> None:
        sink(block)
        maker.push(block)
        listener.push(block)
        inspector.push(block)
        meter.push(block)

    facts = decoding.decode(source, take, progress=progress)
    return facts, maker.finish(), Heap(listener, inspector, meter)


def conclude(heap: Heap, *, damage: tuple[Damage, ...] = (), progress: Callable[[float], None]) -> Evidence:
    """Track the beats of what was taken in, from a file with such `damage`."""
    sound = heap.listener.finish(progress=within(progress, 0.0, 0.6))
    loop = None
    if sound.strengths is not None:
        loop = loops.find(sound.strengths, sound.attack, sound.rises, sound.duration)
    if loop:
        heard, said = loops.heard(loop), sound.strengths
    else:
        heard, said = beat_tracking.track(sound, progress=within(progress, 0.6, 1.0))
    times, strengths = features.onsets(sound.attack)
    sway = turntable.sway(sound.partials)
    found = Evidence(
        heard,
        np.rint(sound.attack * 255).astype(np.uint8),
        np.rint(np.clip(sound.percussive, 0, 1) * 255).astype(np.uint8),
        times,
        strengths,
        sound.problem,
        said,
        sway,
        heap.inspector.finish(),
        heap.meter.finish(),
        _halved(sound.colour, _COLOUR_SCALE),
        _halved(sound.chroma, 255.0),
        damage,
        loop,
        sound.pitches,
        heap.meter.level(),
        turntable.waves(sound.partials, sway) if sway else (),
    )
    return found if loop else odd_bars.recounted(found)


def _halved(x: Singles, scale: float) -> NDArray[np.uint8]:
    """Means of two frames, times `scale`, as bytes."""
    pairs = x[: len(x) // 2 * 2].reshape(-1, 2, x.shape[1]).mean(axis=1)
    return np.clip(np.rint(pairs * scale), 0, 255).astype(np.uint8)


def analyse(path: Path, *, progress: Callable[[float], None] = lambda part: None) -> tuple[Decoded, Evidence]:
    """The whole of it, keeping no samples."""
    facts, _, heap = decode(path, lambda block: None, progress=within(progress, 0.0, 0.6))
    found = conclude(heap, damage=facts.damage, progress=within(progress, 0.6, 1.0))
    progress(1.0)
    return facts, found
