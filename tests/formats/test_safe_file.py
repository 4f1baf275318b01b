"""What leaves the program: never over a recording, by whatever name or link, never half, and asked twice."""

from __future__ import annotations

import fcntl
import os
import shutil
import stat
from pathlib import Path

import numpy as np
import pytest
import soundfile

from mervid import places
from mervid.core.errors import FormatError
from mervid.formats import exchange, safe_file, wavcues
from mervid.formats.exchange import Subject
from mervid.formats.labels import Label
from tests.formats.test_exchange import made

SONG = places.demo_folder() / "Salt Ledger.ogg"
RECORDINGS = {"Song.wav": "WAV", "Song.flac": "FLAC", "Song.ogg": "OGG", "Song.aiff": "AIFF", "Song.mp3": "MP3"}


@pytest.fixture
def what() -> Subject:
    return Subject(made(), None, "Salt Ledger", 80.0, SONG, 44_100)


def recording(path: Path) -> bytes:
    """A recording of 2 s at `path`, in the form of its name; its bytes."""
    form = RECORDINGS.get(path.name, "WAV")
    soundfile.write(path, 0.3 * np.sin(np.arange(88_200) / 9), 44_100, format=form)
    return path.read_bytes()


@pytest.mark.parametrize("name", RECORDINGS)
def test_a_recording_is_never_written_over(tmp_path: Path, what: Subject, name: str) -> None:
    """By its ending, by what it holds under any other name, through links of both kinds, and when it has gone."""
    song = tmp_path / name
    before = recording(song)
    with pytest.raises(FormatError, match="recording"):
        exchange.export(what, song)
    for ending in exchange.FORMS:
        disguised, linked, hard = (tmp_path / f"{word}{ending}" for word in ("disguised", "linked", "hard"))
        shutil.copy(song, disguised)
        linked.symlink_to(song)
        os.link(song, hard)
        for path in (disguised, linked, hard):
            with pytest.raises(FormatError, match="not written over"):
                exchange.export(what, path)
            assert path.read_bytes() == before
    song.unlink()
    if not name.endswith(".wav"):
        with pytest.raises(FormatError, match="name of a recording"):
            exchange.export(what, song)
        assert not song.exists()


def test_what_any_track_is_made_of_is_never_written(tmp_path: Path, what: Subject) -> None:
    """Also a WAV copy of our own, once it is in the library, and a recording whose disk is away."""
    copy, link, away = tmp_path / "a.cues.wav", tmp_path / "track.wav", tmp_path / "away.beats.txt"
    exchange.export(what, copy)
    exchange.export(what, copy)
    link.symlink_to(copy)
    for known in (copy, link):
        with pytest.raises(FormatError, match="recording itself"):
            exchange.export(what, copy, [known])
    with pytest.raises(FormatError, match="recording itself"):
        exchange.export(what, away, [away])
    assert not away.exists()


@pytest.mark.parametrize("ending", exchange.FORMS)
def test_only_an_earlier_export_of_the_kind_gives_way(tmp_path: Path, what: Subject, ending: str) -> None:
    path = tmp_path / f"x{ending}"
    path.touch()
    exchange.export(what, path)
    first = path.read_bytes()
    path.chmod(0o640)
    exchange.export(what, path)
    assert path.read_bytes() == first and stat.S_IMODE(path.stat().st_mode) == 0o640
    for other in (b"\x89PNG\r\n\x1a\n\0\0", b"MThd\0\0\0\x06" if ending != exchange.MIDI else b"a text"):
        path.write_bytes(other)
        with pytest.raises(FormatError, match="not written over"):
            exchange.export(what, path)
        assert path.read_bytes() == other
    assert [f.name for f in tmp_path.iterdir()] == [path.name]


def test_links_folders_and_pipes(tmp_path: Path) -> None:
    (tmp_path / "there").mkdir()
    earlier, link, lost, pipe = (tmp_path / n for n in ("there/x.jams", "x.jams", "lost.jams", "pipe.jams"))
    earlier.write_text("{}")
    link.symlink_to(earlier)
    exchange.write_new(link, '{"new": 1}')
    assert link.is_symlink() and earlier.read_text() == '{"new": 1}'
    lost.symlink_to(tmp_path / "nowhere.jams")
    os.mkfifo(pipe)
    for path, says in ((lost, "not there"), (pipe, "not a file"), (tmp_path / "there", "not a file")):
        with pytest.raises(FormatError, match=says):
            exchange.write_new(path, "x")


def test_a_full_disk_or_a_kill_leaves_what_stood_there(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    path = tmp_path / "x.jams"
    exchange.write_new(path, "old")

    def full(number: int) -> None:
        raise OSError(28, "No space left on device")

    with monkeypatch.context() as m:
        m.setattr(os, "fsync", full)
        with pytest.raises(OSError, match="No space"):
            exchange.write_new(path, "new")
    assert path.read_text() == "old" and len(list(tmp_path.iterdir())) == 1
    # what a kill left is cleaned away, but not what another program is writing just now, and nobody else's file
    left, writing, own = (tmp_path / n for n in (".mervid-abc.part", ".mervid-def.part", ".own.part"))
    for f in (left, writing, own):
        f.touch()
    with writing.open("rb") as held:
        fcntl.flock(held, fcntl.LOCK_EX)
        exchange.write_new(path, "new")
    assert sorted(f.name for f in tmp_path.iterdir()) == [".mervid-def.part", ".own.part", "x.jams"]


def test_the_new_file_is_on_the_disk_before_it_has_its_name(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    done: list[str] = []
    sync, replace = os.fsync, Path.replace
    monkeypatch.setattr(os, "fsync", lambda n: (done.append("flush"), sync(n)))
    monkeypatch.setattr(Path, "replace", lambda a, b: (done.append("rename"), replace(a, b)))
    exchange.write_new(tmp_path / "x.jams", "text")
    assert done == ["flush", "rename", "flush"]


@pytest.mark.parametrize("claimed", [0xFFFFFFFF, 4_000_000])
def test_a_copy_of_a_streamed_or_broken_off_wav_holds_its_cues_outside_the_sound(tmp_path: Path, claimed: int) -> None:
    source, copy = tmp_path / "a.wav", tmp_path / "b.cues.wav"
    recording(source)
    data = bytearray(source.read_bytes())
    at = data.index(b"data") + 4
    data[at : at + 4] = claimed.to_bytes(4, "little")
    source.write_bytes(data)
    marks = [Label(0.5, 0.5, "Drop")]
    wavcues.write(source, copy, marks, rate=44_100)
    assert wavcues.read(copy) == marks
    np.testing.assert_array_equal(soundfile.read(copy)[0], soundfile.read(source)[0][:88_200])
    assert soundfile.info(copy).frames == 88_200


@pytest.mark.parametrize(("loudest", "subtype"), [(0.9, "PCM_24"), (1.6, "FLOAT")])
def test_peaks_over_full_scale_are_kept_and_said(tmp_path: Path, loudest: float, subtype: str) -> None:
    source, copy = tmp_path / "a.aiff", tmp_path / "b.cues.wav"
    sound = loudest * np.sin(np.arange(88_200) / 20).astype(np.float32)
    soundfile.write(source, sound, 44_100, subtype="FLOAT")
    said = wavcues.write(source, copy, [Label(0.5, 0.5, "Drop")], rate=44_100)
    assert soundfile.info(copy).subtype == subtype
    np.testing.assert_allclose(soundfile.read(copy)[0], sound, atol=2**-23)
    assert ("4.1 dB over full scale" in said) == (loudest > 1)


def test_a_copy_of_an_rf64_file(tmp_path: Path) -> None:
    source, copy = tmp_path / "a.wav", tmp_path / "b.cues.wav"
    sound = np.random.default_rng(1).integers(-9000, 9000, (88_200, 2)).astype(np.int16)
    soundfile.write(source, sound, 44_100, format="RF64")
    assert source.read_bytes()[:4] == b"RF64"
    wavcues.write(source, copy, [Label(0.5, 0.5, "Drop")], rate=44_100)
    np.testing.assert_array_equal(soundfile.read(copy, dtype="int16")[0], sound)
    assert wavcues.read(copy) == [Label(0.5, 0.5, "Drop")]


def test_a_copy_that_would_lose_channels_is_refused(tmp_path: Path) -> None:
    source, copy = tmp_path / "six.flac", tmp_path / "b.cues.wav"
    soundfile.write(source, np.random.default_rng(1).normal(0, 0.1, (88_200, 6)), 44_100)
    with pytest.raises(FormatError, match=r"six\.flac has 6 channels"):
        wavcues.write(source, copy, [Label(0.5, 0.5, "Drop")], rate=44_100)
    assert [f.name for f in tmp_path.iterdir()] == ["six.flac"]


def test_kinds_are_told_apart(tmp_path: Path) -> None:
    path = tmp_path / "x"
    for content, kind in ((b"", ""), (b"0.5\t1\n", safe_file.TEXT), (b"MThd\0", safe_file.MIDI)):
        path.write_bytes(content)
        assert safe_file.what_is(path) == kind
    path.write_bytes("Größe ♪".encode("latin-1", "ignore"))
    assert safe_file.what_is(path) not in (safe_file.TEXT, safe_file.MIDI, safe_file.WAVE, "")


def test_what_is_being_written_is_no_recording_of_a_folder(tmp_path: Path) -> None:
    """A copy whose tags are being written has the ending of a recording, and is gone in a moment."""
    from mervid.jobs.gathering import gather

    (tmp_path / "song.flac").write_bytes(b"fLaC")
    (tmp_path / ".mervid-abc.part.flac").write_bytes(b"fLaC")
    assert [f.name for f in gather([tmp_path]).files] == ["song.flac"]
    safe_file.clean(tmp_path)
    assert [p.name for p in tmp_path.iterdir()] == ["song.flac"]


@pytest.mark.parametrize("kept", [None, 0o640])
def test_a_delivered_file_has_the_rights_of_any_new_file_or_of_the_one_it_replaces(
    tmp_path: Path, kept: int | None
) -> None:
    target = tmp_path / "song.flac"
    before = os.umask(0o022)
    try:
        if kept is not None:
            target.write_bytes(b"earlier")
            target.chmod(kept)
        safe_file.put_new(target, lambda part: part.write_bytes(b"fLaC"), over=True)
    finally:
        os.umask(before)
    assert stat.S_IMODE(target.stat().st_mode) == (kept or 0o644)
