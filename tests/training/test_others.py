"""Songs that other people wrote: their bars and beats lie where they sound."""

from __future__ import annotations

import ctypes
import struct
from pathlib import Path

import mido
import numpy as np
import pytest

from mervid.core.hearing import features
from tests.training.test_music import Tones
from training import compositions, modules, render, takes
from training.compositions import Piece
from training.modules import Module
from training.score import Note
from training.sounds import RATE


def file_of(*events: tuple[float, str, dict[str, int]]) -> mido.MidiFile:
    """A MIDI file of (beat, kind, what) in one track, 96 ticks a quarter."""
    track, at = mido.MidiTrack(), 0
    for beat, kind, what in sorted(events, key=lambda e: e[0]):
        ticks = round(beat * 96) - at
        at += ticks
        meta = kind in ("set_tempo", "time_signature")
        track.append((mido.MetaMessage if meta else mido.Message)(kind, time=ticks, **what))
    return mido.MidiFile(ticks_per_beat=96, tracks=[track])


def note(beat: float, key: int, channel: int = 0, length: float = 0.5) -> list[tuple[float, str, dict[str, int]]]:
    return [
        (beat, "note_on", {"note": key, "velocity": 127, "channel": channel}),
        (beat + length, "note_off", {"note": key, "channel": channel}),
    ]


def test_a_midi_file_is_read_from_its_first_bar_line_on() -> None:
    file = file_of(
        (0.0, "time_signature", {"numerator": 4, "denominator": 4}),
        (0.0, "set_tempo", {"tempo": 500_000}),
        (0.0, "program_change", {"program": 33, "channel": 1}),
        (0.0, "control_change", {"control": 7, "value": 50, "channel": 1}),
        (8.0, "time_signature", {"numerator": 3, "denominator": 4}),
        # a silent bar, a pick-up of one beat before the second line, drums and bass on the lines
        *note(3.0, 60),
        *(e for beat in (4, 8, 11) for e in note(beat, 36, compositions.DRUMS)),
        *note(4.0, 40, 1),
    )
    piece = compositions.read(file, "made up")
    assert piece is not None and piece.bars == (4, 3, 3) and piece.bpm == 120
    assert [(n.part, n.beat, n.key) for n in piece.notes] == [
        ("comp", -1.0, 60),
        ("drums", 0.0, 36),
        ("bass", 0.0, 40),
        ("drums", 4.0, 36),
        ("drums", 7.0, 36),
    ]
    assert piece.notes[2].loud == pytest.approx(0.5) and piece.notes[0].loud == 1.0
    # bars in eighths are none of whole quarters; nothing at all is no piece
    assert compositions.read(file_of((0.0, "time_signature", {"numerator": 6, "denominator": 8})), "x") is None
    assert compositions.read(file_of(), "x") is None


def test_a_composition_is_played_where_its_truth_says() -> None:
    strokes = tuple(Note("drums", float(b), 36, 1.0) for b in range(64))
    piece = Piece("made up", (4,) * 16, strokes, 120.0)
    studio = render.Studio([Tones()])  # type: ignore[list-item]
    songs = [compositions.compose(np.random.default_rng(k), 20.0, among=(piece,)) for k in range(8)]
    assert {s.machine for s in songs} == {True, False} and len({round(s.bpm) for s in songs}) > 4
    assert all(sum(x.beats for x in s.sections) == pytest.approx(20 * s.bpm / 60, abs=4) for s in songs)

    def compose(rng: np.random.Generator, seconds: float) -> object:
        return compositions.compose(rng, seconds, among=(piece,))

    take = takes.make(studio, 3, seconds=20.0, compose=compose)  # type: ignore[arg-type]
    times, strengths = features.onsets(features.listen(take.samples, RATE).attack)
    struck = times[strengths > 0.3 * strengths.max()]
    assert len(take.beats) > 30 and np.mean([np.abs(struck - beat).min() < 0.02 for beat in take.beats]) > 0.9


def module_of(path: Path) -> Path:
    """A module of one pattern: a click in every fourth row, by four channels (the format of the first trackers)."""
    click = bytes(np.rint(127 * np.exp(-np.arange(400) / 60)).astype(np.int8))
    head = struct.pack(">22sHBBHH", b"click", len(click) // 2, 0, 64, 0, 1)
    silent = struct.pack(">22sHBBHH", b"", 0, 0, 0, 0, 1)
    struck, rest = struct.pack(">HBB", 428, 0x10, 0), bytes(4)
    rows = b"".join((struck if row % 4 == 0 else rest) + 3 * rest for row in range(64))
    order = bytes([1, 127]) + bytes(128)
    path.write_bytes(b"made up".ljust(20, b"\0") + head + 30 * silent + order + b"M.K." + rows + click)
    return path


def test_rows_of_a_module_are_where_its_notes_are_struck(tmp_path: Path) -> None:
    try:
        ctypes.CDLL("libopenmpt.so.0")
    except OSError:
        pytest.skip("libopenmpt isn't installed")
    module = Module(module_of(tmp_path / "click.mod"), 4, 4)
    speeds = np.array([1.0, 0.8, 1.25])
    x, rows = modules.play(module, speeds, seconds=6.0)
    beats = rows[rows[:, 1] % 4 == 0, 0]
    # 125 BPM as it is written; a speed holds from the tick after the one in which its beat begins, a 24th of a beat
    assert np.diff(beats)[:4] == pytest.approx(0.48 / np.array([1.0, 0.8, 1.25, 1.25]), abs=0.012)
    level = np.abs(x)
    for beat in beats[1:]:
        at = round(beat * RATE)
        assert level[at : at + 160].max() > 5 * level[at - 640 : at - 64].max()
    take = modules.make((module,), 5, seconds=12.0)
    assert len(take.beats) > 12 and np.isin(take.downbeats, take.beats).all()
    with pytest.raises(ValueError, match="no module"):
        (tmp_path / "noise.mod").write_bytes(b"nothing of the kind")
        modules.play(Module(tmp_path / "noise.mod", 4, 4), speeds, seconds=1.0)
