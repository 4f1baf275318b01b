"""The grid as a tempo map with markers: a Standard MIDI File (MIDI 1.0, RP-001), type 1, 960 ticks a quarter.

A beat is a quarter. Tempi are whole microseconds a quarter, so each is chosen to make up for what the ones before it
left over: no beat is further off than some microseconds, however long the track. Time zero of the file is the first
sample; the first downbeat after it begins bar 2, as bar 1 is as long as what comes before. Phrases are markers, cues
are cue points.
"""

from __future__ import annotations

import io
import itertools
from typing import Any

import attrs
import numpy as np

from ..core.errors import FormatError, Refused
from ..core.model.beatgrid import Grid, MeterMark, Pin
from ..core.model.cue import Cue
from ..core.model.form import Form
from . import labels
from .labels import Label

TICKS = 960
_TURN = 8
_PICKUP = "pickup beats:"
_LEAST, _MOST = 1, 0xFFFFFF


@attrs.frozen
class Contents:
    """What a tempo map says."""

    grid: Grid
    labels: tuple[Label, ...]


def write(grid: Grid, form: Form | None, cues: tuple[Cue, ...], duration: float) -> bytes:
    """The tempo map from the first sample to `duration` s."""
    import mido

    lines = np.arange(-8, 64)
    first = next(float(b) for b in grid.bar_start(lines) if float(grid.time_at(b)) > 1e-3)
    pickup = max(1, round(first - float(grid.beat_at(0.0))))
    end = max(first + 1, float(np.ceil(float(grid.beat_at(duration)))))
    # tempo turns at every pin, and now and then in between so that what is left over stays small
    turns = {first, *(float(b) for b in grid.beats if first < b < end), *np.arange(first, end, _TURN).tolist(), end}
    points = [(0, 0.0)] + [(_tick(b, first, pickup), float(grid.time_at(b))) for b in sorted(turns)]
    events: list[tuple[int, int, Any]] = []
    at = 0.0
    for (tick, _), (after, time) in itertools.pairwise(points):
        if after <= tick:
            continue
        tempo = int(np.clip(round((time - at) * 1e6 * TICKS / (after - tick)), _LEAST, _MOST))
        events.append((tick, 1, mido.MetaMessage("set_tempo", tempo=tempo)))
        at += tempo * (after - tick) / TICKS / 1e6
    events.append((0, 0, mido.MetaMessage("track_name", name="Tempo map")))
    events.append((0, 0, mido.MetaMessage("text", text=f"{_PICKUP} {pickup}")))
    events.append((0, 0, _signature(pickup)))
    size = 0
    for m in sorted({first, *(m.beat for m in grid.meter if first < m.beat < end)}):
        if grid.beats_per_bar(m) != size:
            size = grid.beats_per_bar(m)
            events.append((_tick(m, first, pickup), 0, _signature(size)))
    for x in labels.of(grid, form, cues):
        tick = max(0, _tick(float(grid.beat_at(x.start)), first, pickup))
        kind = "marker" if x.end > x.start else "cue_marker"
        events.append((tick, 2, mido.MetaMessage(kind, text=_text(x.text))))
    last = max(points[-1][0], *(t for t, _, _ in events))
    track = mido.MidiTrack()
    before = 0
    for tick, _, message in sorted(events, key=lambda e: e[:2]):
        track.append(message.copy(time=tick - before))
        before = tick
    track.append(mido.MetaMessage("end_of_track", time=last - before))
    out = io.BytesIO()
    mido.MidiFile(type=1, ticks_per_beat=TICKS, tracks=[track]).save(file=out)
    return out.getvalue()


def _text(words: str) -> str:
    """In one line, and in the letters that a Standard MIDI File can hold."""
    return " ".join(words.split()).encode("latin-1", "replace").decode("latin-1")


def _tick(beat: float, first: float, pickup: int) -> int:
    return round((beat - first + pickup) * TICKS)


def _signature(beats: int) -> Any:
    import mido

    return mido.MetaMessage("time_signature", numerator=int(beats), denominator=4)


def read(data: bytes) -> Contents:
    """Grid and markers of a tempo map, by any writer.

    Raises
    ------
    FormatError
        Not a Standard MIDI File, without a usable tempo, or timed by film frames.
    """
    import mido

    try:
        file = mido.MidiFile(file=io.BytesIO(data))
        ticks = int(file.ticks_per_beat)
        found = [(m, t) for m, t in _absolute(file)]
    except Exception as e:
        raise FormatError(f"This is not a Standard MIDI File ({type(e).__name__}).") from None
    if not 0 < ticks < 0x8000:
        raise FormatError("This MIDI file counts film frames, not beats.")
    pickup = 0
    tempi, meter, told = [(0, 500_000)], [], []
    for m, tick in found:
        if m.type == "set_tempo":
            tempi.append((tick, m.tempo))
        elif m.type == "time_signature":
            meter.append((tick, m.numerator * 4 / m.denominator))
        elif m.type in ("marker", "cue_marker"):
            told.append((tick, m.type, m.text))
        elif m.type == "text" and m.text.startswith(_PICKUP):
            pickup = int(m.text[len(_PICKUP) :].strip() or 0) if m.text[len(_PICKUP) :].strip().isdigit() else 0
    tempi = sorted(dict(tempi).items())
    end = max([t for _, t in found] + [tempi[-1][0] + 4 * ticks])
    pins, at = [], 0.0
    for (tick, tempo), (after, _) in zip(tempi, [*tempi[1:], (end, 0)], strict=True):
        pins.append(Pin(at, tick / ticks - pickup))
        at += tempo * (after - tick) / ticks / 1e6
    pins.append(Pin(at, end / ticks - pickup))
    pins = [q for k, q in enumerate(pins) if k == 0 or q.time > pins[k - 1].time]
    # of bar 1, which is only as long as what comes before the music, nothing but its end is kept
    marks = [MeterMark(float(round(t / ticks - pickup)), round(n)) for t, n in meter if t / ticks >= pickup]
    try:
        grid = Grid(tuple(pins), tuple(marks) or (MeterMark(),))
    except Refused as e:
        raise FormatError(f"This tempo map makes no grid: {e}") from None
    return Contents(grid, _labels(grid, told, ticks, pickup, float(at)))


def _absolute(file: Any) -> list[tuple[Any, int]]:
    out = []
    for track in file.tracks:
        tick = 0
        for m in track:
            tick += m.time
            if m.is_meta:
                out.append((m, tick))
    return sorted(out, key=lambda e: e[1])


def _labels(grid: Grid, told: list[tuple[int, str, str]], ticks: int, pickup: int, end: float) -> tuple[Label, ...]:
    """Markers reach to the next marker; cue points are points."""
    starts = [t for t, kind, _ in told if kind == "marker"]
    out = []
    for tick, kind, text in told:
        at = float(grid.time_at(tick / ticks - pickup))
        after = next((t for t in starts if t > tick), None)
        stop = float(grid.time_at(after / ticks - pickup)) if after is not None else end
        out.append(Label(max(0.0, at), max(0.0, stop if kind == "marker" else at), text))
    return tuple(out)
