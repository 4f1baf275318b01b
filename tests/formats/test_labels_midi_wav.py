"""Labels, tempo maps and cue points: against mido's own clock, soundfile and the RIFF layout, there and back."""

from __future__ import annotations

import io
import struct
from pathlib import Path

import mido
import numpy as np
import pytest
import soundfile

from mervid import places
from mervid.core.cues import cue_edits
from mervid.core.errors import FormatError
from mervid.core.form import phrase_edits
from mervid.core.model.beatgrid import Grid, MeterMark, Pin
from mervid.core.model.form import Form, Phrase
from mervid.core.model.preparation import Preparation
from mervid.formats import exchange, jams, labels, midimap, wavcues
from mervid.formats.exchange import Subject
from mervid.formats.labels import Label
from tests.conftest import RATE, band

TIMES = 1.3 + np.concatenate([[0], np.cumsum(60 / (112 + 4 * np.sin(np.arange(600) / 40)))])
DRUMMER = Grid(
    tuple(Pin(float(TIMES[k]), float(k)) for k in range(0, 601, 12)),
    (MeterMark(0, 4), MeterMark(64, 2), MeterMark(66, 4)),
)
ROWS = ((0.0, "intro", "A"), (32.0, "verse", "B"), (66.0, "chorus", "C2"))
FORM = Form(tuple(Phrase(*row) for row in ROWS), 130.0)


def made() -> Preparation:
    p = Preparation(grid=DRUMMER, form=FORM, origin=66.0, line="opens cold")
    p = cue_edits.add_cue(p, float(DRUMMER.time_at(32)), name="Verse\tone", role="verse")
    p = cue_edits.add_cue(p, 7.123456, snap=cue_edits.FREE, name="Ünder way")
    return cue_edits.set_loop(cue_edits.set_kind(p, p.cues[0].id, "both"), p.cues[0].id, 4)


def seconds(data: bytes) -> list[tuple[float, int, mido.MetaMessage]]:
    """Every message with its time in s and its tick, as mido itself counts tempi."""
    file = mido.MidiFile(file=io.BytesIO(data))
    out, at, tick, tempo = [], 0.0, 0, 500_000
    for m in file.tracks[0]:
        at += mido.tick2second(m.time, file.ticks_per_beat, tempo)
        tick += m.time
        if m.type == "set_tempo":
            tempo = m.tempo
        out.append((at, tick, m))
    return out


def test_a_tempo_map_keeps_600_uneven_beats_within_20_microseconds() -> None:
    data = midimap.write(DRUMMER, FORM, made().cues, 330.0)
    events = seconds(data)
    pickup = next(int(m.text.split()[-1]) for _, _, m in events if m.type == "text")
    # the tempo at each tick, walked by mido's clock, gives each beat's time
    turns = [(tick, at, m.tempo) for at, tick, m in events if m.type == "set_tempo"]
    ticks = (np.arange(600) + pickup) * 960
    k = np.searchsorted([t for t, _, _ in turns], ticks, "right") - 1
    at = [turns[i][1] + mido.tick2second(int(t) - turns[i][0], 960, turns[i][2]) for i, t in zip(k, ticks, strict=True)]
    assert np.abs(np.array(at) - DRUMMER.time_at(np.arange(600))).max() < 20e-6
    markers = {m.text: at for at, _, m in events if m.type == "marker"}
    assert markers["chorus C2"] == pytest.approx(float(DRUMMER.time_at(66)), abs=20e-6)
    points = {m.text: at for at, _, m in events if m.type == "cue_marker"}
    assert points["Ünder way"] == pytest.approx(7.1234, abs=4e-4)
    signatures = [(tick // 960 - pickup, m.numerator) for _, tick, m in events if m.type == "time_signature"]
    assert signatures == [(-pickup, pickup), (0, 4), (64, 2), (66, 4)]


def test_a_tempo_map_comes_back() -> None:
    back = midimap.read(midimap.write(DRUMMER, FORM, made().cues, 330.0))
    beats = np.arange(0, 590)
    np.testing.assert_allclose(back.grid.time_at(beats), DRUMMER.time_at(beats), atol=20e-6)
    assert [m.beat for m in back.grid.meter] == [0, 64, 66]
    form = labels.to_form(list(back.labels), back.grid)
    assert form is not None
    assert [(q.start, q.role, q.letter) for q in form.phrases] == [(q.start, q.role, q.letter) for q in FORM.phrases]
    snapped, free = sorted(labels.to_cues(list(back.labels), back.grid), key=lambda c: c.beat is None)
    assert (snapped.beat, snapped.name) == (32.0, "Verse one")
    assert free.time == pytest.approx(7.1234, abs=4e-4)


@pytest.mark.parametrize("data", [b"", b"MThd", b"MThd\0\0\0\6\0\1\0\1\xe7\x28", b"RIFF" + b"\0" * 40])
def test_what_is_no_tempo_map_is_said(data: bytes) -> None:
    with pytest.raises(FormatError, match="MIDI"):
        midimap.read(data)


def test_labels_there_and_back() -> None:
    text = labels.write(labels.of(DRUMMER, FORM, made().cues))
    assert text.splitlines()[0] == f"1.300000\t{float(DRUMMER.time_at(32)):.6f}\tintro A"
    found = labels.read(text)
    form = labels.to_form(found, DRUMMER)
    assert form is not None
    assert [(q.start, q.role, q.letter) for q in form.phrases] == [
        (0, "intro", "A"),
        (32, "verse", "B"),
        (66, "chorus", "C2"),
    ]
    assert form.end == 130
    free, snapped = labels.to_cues(found, DRUMMER)
    assert (free.time, free.slot, snapped.beat) == (7.123456, 0, 32.0)


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("", "no label"),
        ("1.0\t2.0\tx\nsoon\t3\ty", "Line 2 is not"),
        ("3\t2\tx", "ends before"),
        ("nan\t2\tx", "no usable"),
    ],
)
def test_labels_that_are_none_are_named(text: str, says: str) -> None:
    with pytest.raises(FormatError, match=says):
        labels.read(text)


def test_cue_points_are_written_to_a_copy_and_nothing_else_changes(tmp_path: Path) -> None:
    source, copy = tmp_path / "a.wav", tmp_path / "b.cues.wav"
    soundfile.write(source, band(6.0), RATE, subtype="PCM_16")
    before = source.read_bytes()
    marks = [Label(0.5, 4.5, "intro A"), Label(0.5, 0.5, "First beat"), Label(4.5, 4.5, "Drop ♪")]
    wavcues.write(source, copy, marks, rate=RATE)
    assert source.read_bytes() == before
    a, b = soundfile.read(source, dtype="int16")[0], soundfile.read(copy, dtype="int16")[0]
    np.testing.assert_array_equal(a, b)
    # by the letter of RIFF: sizes add up, and each point is a frame of the data chunk
    data = copy.read_bytes()
    assert struct.unpack("<I", data[4:8])[0] == len(data) - 8
    at = data.index(b"cue ")
    count = struct.unpack("<I", data[at + 8 : at + 12])[0]
    frames = [struct.unpack("<I", data[at + 32 + 24 * k : at + 36 + 24 * k])[0] for k in range(count)]
    assert frames == [22_050, 22_050, 198_450]
    assert wavcues.read(copy) == marks
    # once more: old points give way
    again = tmp_path / "c.wav"
    wavcues.write(copy, again, marks[2:], rate=RATE)
    assert [x.text for x in wavcues.read(again)] == ["Drop ♪"]
    with pytest.raises(FormatError, match="recording itself"):
        wavcues.write(source, source, marks, rate=RATE)
    with pytest.raises(FormatError, match="no cue points"):
        wavcues.read(source)
    assert sorted(f.name for f in tmp_path.iterdir()) == ["a.wav", "b.cues.wav", "c.wav"]


def test_a_lossy_recording_is_copied_as_pcm(tmp_path: Path) -> None:
    source = places.demo_folder() / "Salt Ledger.ogg"
    copy = tmp_path / "x.wav"
    exchange.export(Subject(made(), None, "Salt Ledger", 80.0, source, 44_100), copy)
    facts = soundfile.info(copy)
    assert (facts.samplerate, facts.subtype) == (44_100, "PCM_24")
    assert [x.text for x in wavcues.read(copy)][:2] == ["intro A", "Ünder way"]
    assert [f.name for f in tmp_path.iterdir()] == ["x.wav"]


@pytest.mark.parametrize("ending", [".jams", ".labels.txt", ".mid", ".wav"])
def test_every_form_brings_phrases_and_cues_back(tmp_path: Path, ending: str) -> None:
    source = tmp_path / "a.wav"
    soundfile.write(source, np.zeros((RATE * 80, 1), np.float32), RATE)
    p, path = made(), tmp_path / f"x{ending}"
    exchange.export(Subject(p, None, "x", 80.0, source, RATE), path)
    back = exchange.take(path, Preparation(grid=DRUMMER))
    assert back.form is not None
    assert [(q.start, q.role) for q in back.form.phrases] == [(q.start, q.role) for q in FORM.phrases]
    assert [c.at(back.grid) for c in back.cues] == pytest.approx([c.at(p.grid) for c in p.cues], abs=4e-4)
    if ending == ".jams":
        assert (back.cues, back.form, back.origin, back.line) == (p.cues, p.form, p.origin, p.line)
        assert jams.read(path.read_text("utf-8")).line == phrase_edits.line_of(p, p.form)
    else:
        with pytest.raises(FormatError):
            exchange.take(path, Preparation()) if ending != ".mid" else midimap.read(b"MThd")
