"""Tags written and read back by mutagen and FFmpeg, byte by byte by the ID3v2.4.0 documents; taken back; and killed.

Structure and native frames: id3.org, 'ID3 tag version 2.4.0', 2000; chapters: 'ID3v2 Chapter Frame Addendum', 2005.
"""

from __future__ import annotations

import hashlib
import os
import shutil
import signal
import struct
import subprocess
import sys
import time
from pathlib import Path

import av
import mutagen
import numpy as np
import pytest
import soundfile
from mutagen import flac, id3

from mervid.core.errors import FormatError
from mervid.core.model.beatgrid import steady
from mervid.core.model.preparation import Preparation
from mervid.core.sound import decoding, packets
from mervid.formats import chapters, exchange, safe_tags, tag_files, tag_journal
from mervid.formats.labels import Label
from mervid.formats.tag_journal import Journal
from mervid.formats.tag_writing import Marks
from tests.conftest import RATE, band, encode

SOUND = band(20.0)
VALUES = {
    "comment": "Am 7 — gekauft am Kai 灯", "tempo": "113.42", "key": "F#m", "drive": "7", "rating": "4",
    "genre": "disco",
}  # fmt: skip
MARKS = Marks(
    (Label(0.5, 8.5, "intro A"), Label(4.5, 4.5, "Mid-intro"), Label(8.5, 18.5, "drop B")),
    tuple(0.5 + 0.5 * k for k in range(38)),
    ((0.5, "intro"), (8.5, "drop")),
    20.0,
)
CODECS = {"mp3": "libmp3lame", "m4a": "aac", "opus": "libopus", "flac": "flac"}
ENDINGS = ("mp3", "m4a", "opus", "flac", "wav", "aiff", "ogg")


@pytest.fixture(scope="module")
def made(tmp_path_factory: pytest.TempPathFactory) -> dict[str, Path]:
    """The same sound in every format."""
    folder, out = tmp_path_factory.mktemp("made"), {}
    for ending in ENDINGS:
        path = folder / f"Slow Quay.{ending}"
        if ending in CODECS:
            encode(path, SOUND, CODECS[ending], 48_000 if ending == "opus" else RATE)
        else:
            soundfile.write(path, SOUND, RATE)
        out[ending] = path
    return out


@pytest.fixture
def copy(made: dict[str, Path], tmp_path: Path):  # type: ignore[no-untyped-def]
    def one(ending: str) -> Path:
        return Path(shutil.copy(made[ending], tmp_path / made[ending].name))

    return one


def digest(path: Path) -> str:
    return hashlib.sha256(path.read_bytes()).hexdigest()


@pytest.mark.parametrize("ending", ENDINGS)
def test_written_read_by_others_and_taken_back_to_the_byte(ending: str, copy, tmp_path: Path) -> None:  # type: ignore[no-untyped-def]
    path = copy(ending)
    path.chmod(0o640)
    os.utime(path, ns=(1_700_000_000_123_456_789, 1_600_000_000_987_654_321))
    before, state, samples = digest(path), path.stat(), decoding.read(path)[0]
    journal = Journal("a batch", tmp_path / "journal")
    safe_tags.write(path, VALUES, MARKS, journal=journal, rate=RATE)
    # mode, owner and time of change stay, and so does every sample
    now = path.stat()
    assert (now.st_mode, now.st_uid, now.st_mtime_ns) == (state.st_mode, state.st_uid, state.st_mtime_ns)
    np.testing.assert_array_equal(decoding.read(path)[0], samples)
    read, _ = tag_files.read(path)
    assert (read.tags.comment, read.tags.rating, read.tags.genre) == (VALUES["comment"], 4, "disco")
    found = chapters.read(path)
    assert found.words == {"tempo": "113.42", "key": "F#m", "drive": "7"}
    with av.open(str(path)) as box:
        others = [(round(float(c["start"] * c["time_base"]), 3), c["metadata"]["title"]) for c in box.chapters()]
    if ending != "m4a":
        assert [(c.start, c.text) for c in found.chapters] == [(c.start, c.text) for c in MARKS.chapters]
        if ending != "aiff":
            assert sorted(others) == [(c.start, c.text) for c in MARKS.chapters]
    kept = sum(p.stat().st_size for p in (tmp_path / "journal").rglob("*.patch"))
    assert kept < 20_000, "only what differs is kept"
    assert [b.files for b in tag_journal.batches(tmp_path / "journal")] == [1]
    done = tag_journal.undo(journal.id, safe_tags.put_back, tmp_path / "journal")
    assert done == tag_journal.Undone((path,), ())
    assert (digest(path), path.stat().st_mtime_ns) == (before, state.st_mtime_ns)
    assert not tag_journal.batches(tmp_path / "journal")
    assert [p.name for p in tmp_path.iterdir() if p.is_file()] == [path.name]


def test_frames_byte_by_byte(copy) -> None:  # type: ignore[no-untyped-def]
    """What a reader that knows nothing of Mervid or mutagen finds by the document alone."""
    path = copy("mp3")
    safe_tags.write(path, VALUES, MARKS, journal=None)
    data = path.read_bytes()
    assert data[:5] == b"ID3\x04\x00"

    def safe(raw: bytes) -> int:
        return raw[0] << 21 | raw[1] << 14 | raw[2] << 7 | raw[3]

    frames: dict[bytes, list[bytes]] = {}
    at, end = 10, 10 + safe(data[6:10])
    while at < end and data[at : at + 4].strip(b"\0"):
        size = safe(data[at + 4 : at + 8])
        frames.setdefault(data[at : at + 4], []).append(data[at + 10 : at + 10 + size])
        at += 10 + size
    # 4.2.3: 'an integer and represented as a numerical string'; three letters at most
    assert [f.rstrip(b"\0") for f in frames[b"TBPM"]] == [b"\x03113"]
    assert [f.rstrip(b"\0") for f in frames[b"TKEY"]] == [b"\x03F#m"]
    # 4.7: the format of the time stamps, then a tempo and 32 bits for each; 01 is a single stroke
    assert frames[b"SYTC"][0][:6] == b"\x02\x01" + struct.pack(">I", 500)
    assert len(frames[b"SYTC"][0]) == 1 + 5 * len(MARKS.beats)
    # 4.5: 02 is the start of the intro, E0 to EF are not predefined
    assert frames[b"ETCO"][0] == b"\x02\x02" + struct.pack(">I", 500) + b"\xe1" + struct.pack(">I", 8500)
    # addendum 3.1: an element's name, begin and end in ms, no offsets
    assert sorted(frames[b"CHAP"])[1].startswith(b"phrase1\0" + struct.pack(">IIII", 500, 8500, 0xFFFFFFFF, 0xFFFFFFFF))
    assert frames[b"CTOC"][0].startswith(b"toc\0\x03\x03phrase1\0cue2\0phrase3\0")


def test_what_others_wrote_stays(copy) -> None:  # type: ignore[no-untyped-def]
    path = copy("mp3")
    held = id3.ID3()
    for frame in (
        id3.TIT2(3, "Slow Quay"), id3.COMM(3, "deu", "", "alt"), id3.COMM(3, "eng", "someone's", "keep"),
        id3.POPM(email="someone", rating=64, count=9), id3.PRIV("x", b"\0\1"), id3.TXXX(3, "OTHER", "keep"),
    ):  # fmt: skip
        held.add(frame)
    held.save(path, v2_version=3)
    safe_tags.write(path, VALUES | {"genre": ""}, None, journal=None)
    now = id3.ID3(path)
    assert now.version[:2] == (2, 3)
    assert {(f.desc, str(f)) for f in now.getall("COMM")} == {("", VALUES["comment"]), ("someone's", "keep")}
    assert (now["POPM:someone"].rating, now["POPM:someone"].count) == (196, 9)
    assert (str(now["TIT2"]), now["PRIV:x:\0\1"].data, str(now["TXXX:OTHER"])) == ("Slow Quay", b"\0\1", "keep")


def test_chapters_by_other_hands(copy) -> None:  # type: ignore[no-untyped-def]
    """Out of order, without names, and a CUE chunk of another program."""
    path = copy("mp3")
    held = id3.ID3()
    held.add(id3.CHAP("b", 9000, 9000, 0xFFFFFFFF, 0xFFFFFFFF, []))
    held.add(id3.CHAP("a", 1000, 9000, 0xFFFFFFFF, 0xFFFFFFFF, [id3.TIT2(3, "first")]))
    held.save(path)
    assert chapters.read(path).chapters == (Label(1.0, 9.0, "first"), Label(9.0, 9.0, "b"))
    other = copy("flac")
    tags = flac.FLAC(other)
    tags["CHAPTER001"], tags["CHAPTER001NAME"], tags["CHAPTER000"] = "00:01:02.500", "second", "00:00:01.000"
    tags["CHAPTER002"] = "nonsense"
    tags.save()
    assert chapters.read(other).chapters == (Label(1.0, 1.0, "0"), Label(62.5, 62.5, "second"))


def test_chapters_become_cues_and_phrases_of_a_track(copy) -> None:  # type: ignore[no-untyped-def]
    """What was written comes back by the same way as beats and labels do."""
    path = copy("flac")
    safe_tags.write(path, {}, MARKS, journal=None)
    now = Preparation(grid=steady(tempo=120, first=0.5))
    taken = exchange.take(path, now)
    # Vorbis chapters have no ends: each is a point
    assert [(c.name, c.at(taken.grid)) for c in taken.cues] == [("intro A", 0.5), ("Mid-intro", 4.5), ("drop B", 8.5)]
    path = copy("mp3")
    safe_tags.write(path, {}, MARKS, journal=None)
    taken = exchange.take(path, now)
    assert taken.form is not None and [q.role for q in taken.form.phrases] == ["intro", "drop"]
    assert [c.name for c in taken.cues] == ["Mid-intro"]
    with pytest.raises(FormatError, match="no chapters and no cue points"):
        exchange.take(copy("opus"), now)


# what goes wrong


def test_links_read_only_files_and_strangers(copy, tmp_path: Path) -> None:  # type: ignore[no-untyped-def]
    path = copy("flac")
    link = tmp_path / "link.flac"
    link.symlink_to(path)
    safe_tags.write(link, VALUES, None, journal=None)
    assert link.is_symlink() and tag_files.read(path)[0].tags.genre == "disco"
    before = digest(path)
    os.link(path, tmp_path / "second.flac")
    with pytest.raises(FormatError, match="2 names on this disk"):
        safe_tags.write(path, {"genre": "funk"}, None, journal=None)
    (tmp_path / "second.flac").unlink()
    path.chmod(0o444)
    with pytest.raises(PermissionError, match="read-only"):
        safe_tags.write(path, {"genre": "funk"}, None, journal=None)
    path.chmod(0o644)
    with pytest.raises(FileNotFoundError):
        safe_tags.write(tmp_path / "gone.mp3", VALUES, None, journal=None)
    raw = tmp_path / "raw.aac"
    encode(raw, SOUND[: 2 * RATE], "aac")
    with pytest.raises(FormatError, match="holds no tags"):
        safe_tags.write(raw, VALUES, None, journal=None)
    assert digest(path) == before


def test_a_file_that_another_program_changes_meanwhile_is_left_to_it(
    copy,  # type: ignore[no-untyped-def]
    monkeypatch: pytest.MonkeyPatch,
    tmp_path: Path,
) -> None:
    path, real = copy("flac"), packets.digest

    def touched(part: Path) -> str:
        if part != path:
            path.write_bytes(path.read_bytes() + b"\0")
        return real(part)

    monkeypatch.setattr(packets, "digest", touched)
    journal = Journal("x", tmp_path / "journal")
    with pytest.raises(FormatError, match="changed by another program meanwhile"):
        safe_tags.write(path, VALUES, None, journal=journal)
    assert path.read_bytes().endswith(b"\0")
    assert not tag_journal.batches(tmp_path / "journal") or tag_journal.batches(tmp_path / "journal")[0].files <= 1


def test_sound_that_would_not_stay_the_same_is_never_put_in_place(copy, monkeypatch: pytest.MonkeyPatch) -> None:  # type: ignore[no-untyped-def]
    path = copy("mp3")
    before = digest(path)
    from mervid.formats import tag_writing

    monkeypatch.setattr(tag_writing, "apply", lambda part, *_: part.write_bytes(part.read_bytes()[:-5000]))
    with pytest.raises(FormatError, match="would not have stayed the same"):
        safe_tags.write(path, VALUES, None, journal=None)
    assert digest(path) == before


def test_a_full_disk_is_told_before_anything_is_written(copy, monkeypatch: pytest.MonkeyPatch) -> None:  # type: ignore[no-untyped-def]
    path = copy("flac")
    monkeypatch.setattr(shutil, "disk_usage", lambda folder: shutil._ntuple_diskusage(1 << 30, 1 << 30, 1000))  # type: ignore[attr-defined]
    with pytest.raises(OSError, match="too full"):
        safe_tags.write(path, VALUES, None, journal=None)


def test_a_file_changed_since_is_not_taken_back(copy, tmp_path: Path) -> None:  # type: ignore[no-untyped-def]
    path = copy("flac")
    journal = Journal("x", tmp_path / "journal")
    safe_tags.write(path, VALUES, None, journal=journal)
    tags = flac.FLAC(path)
    tags["genre"] = "mine"
    tags.save()
    done = tag_journal.undo(journal.id, safe_tags.put_back, tmp_path / "journal")
    assert done.problems == (f"{path.name} was changed since: it is left as it is.",)
    assert flac.FLAC(path)["genre"] == ["mine"]
    assert tag_journal.batches(tmp_path / "journal"), "it stays in the journal"


KILLED = """
import sys
from pathlib import Path
from mervid.formats import safe_tags
from mervid.formats.tag_journal import Journal
print("ready", flush=True)
k = 0
while True:
    k += 1
    journal = Journal("k", Path(sys.argv[2]))
    safe_tags.write(Path(sys.argv[1]), {"comment": str(k) * (1 + k % 7 * 3000)}, None, journal=journal)
"""


def test_a_kill_at_any_moment_leaves_a_whole_file(copy, tmp_path: Path) -> None:  # type: ignore[no-untyped-def]
    path = copy("mp3")
    sound = packets.digest(path)
    rng = np.random.default_rng(int(time.time()) % 1000)
    for _ in range(8):
        process = subprocess.Popen(
            [sys.executable, "-c", KILLED, str(path), str(tmp_path / "journal")], stdout=subprocess.PIPE
        )
        assert process.stdout is not None
        process.stdout.readline()
        time.sleep(float(rng.uniform(0.01, 0.4)))
        process.send_signal(signal.SIGKILL)
        process.wait()
        process.stdout.close()
        assert packets.digest(path) == sound
        comment = tag_files.read(path)[0].tags.comment
        assert len(set(comment)) <= 10
        mutagen.File(path)
    # what it left half written goes with the next writing
    safe_tags.write(path, {"comment": "done"}, None, journal=None)
    assert not list(tmp_path.glob(".mervid-*"))
