"""Tags of files written with mutagen, with FFmpeg (PyAV) and byte by byte; damaged ones, and a picture bomb."""

from __future__ import annotations

import base64
import io
import struct
from pathlib import Path

import av
import numpy as np
import pytest
import soundfile
from mutagen import aiff, flac, id3, mp4, oggvorbis, wave
from PIL import Image

from mervid.core.errors import FormatError
from mervid.core.library.tags import Tags
from mervid.formats import tag_files
from mervid.jobs import tag_reader

SOUND = (0.1 * np.sin(np.arange(22_050) / 9)).astype(np.float32)
WORDS = Tags(
    "Copper Ferry", "Tern & Tiller, Ilse Marram", "Tideline Social", "Various", "disco", 1978, "Quayside",
    "Odd Tonnage",     "bought at the pier", "boat", "3", 4,
)  # fmt: skip


def picture(side: int = 300, kind: str = "JPEG") -> bytes:
    out = io.BytesIO()
    Image.new("RGB", (side, side), "#a9791c").save(out, kind)
    return out.getvalue()


def sound(folder: Path, ending: str) -> Path:
    """A short file with no tags."""
    path = folder / f"sound.{ending}"
    if ending == "m4a":
        with av.open(str(path), "w", format="mp4") as box:
            stream = box.add_stream("aac", rate=22_050)
            frame = av.AudioFrame.from_ndarray(SOUND[None], "fltp", "mono")
            frame.sample_rate = 22_050
            for packet in (*stream.encode(frame), *stream.encode(None)):
                box.mux(packet)
    else:
        soundfile.write(path, SOUND, 22_050, format={"mp3": "MP3", "ogg": "OGG", "flac": "FLAC"}.get(ending, ending))
    return path


def id3_frames(version: int) -> list[id3.Frame]:
    w = WORDS
    year = id3.TDRC(3, "1978-06-01") if version == 4 else id3.TYER(3, "1978")
    return [
        id3.TIT2(3, w.title), id3.TPE1(3, w.artists.split(", ")), id3.TALB(3, w.album), id3.TPE2(3, w.album_artist),
        id3.TCON(3, w.genre), year, id3.TPUB(3, w.label), id3.TPE4(3, w.remixer), id3.COMM(3, "eng", "", w.comment),
        id3.TIT1(3, w.grouping), id3.TRCK(3, w.number), id3.POPM("someone", 200, 0),
        id3.APIC(3, "image/jpeg", 3, "front", picture()),
    ]  # fmt: skip


@pytest.mark.parametrize("version", [3, 4])
def test_id3_in_mp3(tmp_path: Path, version: int) -> None:
    path = sound(tmp_path, "mp3")
    held = id3.ID3()
    for frame in id3_frames(version):
        held.add(frame)
    held.save(path, v2_version=version, v23_sep=", ")
    found, front = tag_files.read(path)
    assert found.tags == WORDS
    assert (found.format, found.lossless) == ("MP3", False)
    assert front == picture()


def test_id3v2_2_byte_by_byte(tmp_path: Path) -> None:
    """Frames of three letters (id3.org, 'ID3 tag version 2', 1998, 3.2), which nothing writes any more."""

    def frame(name: bytes, text: str) -> bytes:
        body = b"\0" + text.encode("latin-1")
        return name + struct.pack(">I", len(body))[1:] + body

    body = frame(b"TT2", "Copper Ferry") + frame(b"TP1", "Tern & Tiller") + frame(b"TYE", "1978") + frame(b"TCO", "(4)")
    head = b"ID3\x02\0\0" + bytes([0, 0, len(body) >> 7, len(body) & 127])
    path = sound(tmp_path, "mp3")
    path.write_bytes(head + body + path.read_bytes())
    found, _ = tag_files.read(path)
    # genre 4 of the list in ID3v1 is Disco
    assert (found.tags.title, found.tags.artists, found.tags.year, found.tags.genre) == (
        "Copper Ferry", "Tern & Tiller", 1978, "Disco",
    )  # fmt: skip


@pytest.mark.parametrize(("ending", "kind", "shown"), [("wav", wave.WAVE, "WAV"), ("aiff", aiff.AIFF, "AIFF")])
def test_id3_in_wav_and_aiff(tmp_path: Path, ending: str, kind: type, shown: str) -> None:
    path = sound(tmp_path, ending)
    file = kind(path)
    file.add_tags()
    for frame in id3_frames(4):
        file.tags.add(frame)
    file.save()
    found, front = tag_files.read(path)
    assert found.tags == WORDS
    assert (found.format, found.lossless) == (shown, True)
    assert front == picture()


@pytest.mark.parametrize(("ending", "kind"), [("flac", flac.FLAC), ("ogg", oggvorbis.OggVorbis)])
def test_vorbis_comments(tmp_path: Path, ending: str, kind: type) -> None:
    path = sound(tmp_path, ending)
    file = kind(path)
    w = WORDS
    file.update(
        title=w.title, artist=w.artists.split(", "), album=w.album, albumartist=w.album_artist, genre=w.genre,
        date="1978-06-01", organization=w.label, remixer=w.remixer, comment=w.comment, grouping=w.grouping,
        tracknumber=w.number, rating="80",
    )  # fmt: skip
    front = flac.Picture()
    front.type, front.mime, front.data = 3, "image/jpeg", picture()
    if ending == "flac":
        file.add_picture(front)
    else:
        file["metadata_block_picture"] = base64.b64encode(front.write()).decode()
    file.save()
    found, image = tag_files.read(path)
    assert found.tags == w
    assert found.lossless == (ending == "flac")
    assert image == picture()


def test_mp4_atoms(tmp_path: Path) -> None:
    path = sound(tmp_path, "m4a")
    file = mp4.MP4(path)
    file.add_tags() if file.tags is None else None
    w = WORDS
    file["\xa9nam"], file["\xa9ART"], file["\xa9alb"], file["aART"] = (
        w.title,
        w.artists.split(", "),
        w.album,
        w.album_artist,
    )
    file["\xa9gen"], file["\xa9day"], file["\xa9cmt"], file["\xa9grp"] = w.genre, "1978", w.comment, w.grouping
    file["trkn"] = [(3, 9)]
    file["----:org.example:LABEL"] = mp4.MP4FreeForm(w.label.encode())
    file["----:org.example:REMIXER"] = mp4.MP4FreeForm(w.remixer.encode())
    file["covr"] = [mp4.MP4Cover(picture())]
    file.save()
    found, image = tag_files.read(path)
    assert found.tags.rating == 0
    assert found.tags == Tags(**{**{f: getattr(w, f) for f in Tags.__annotations__}, "rating": 0})
    assert image == picture()


def test_what_another_library_wrote_is_read(tmp_path: Path) -> None:
    """FFmpeg's own tag writers, through PyAV: the same words come back."""
    for ending, box_format, codec in (("mp3", "mp3", "libmp3lame"), ("flac", "flac", "flac"), ("m4a", "mp4", "aac")):
        path = tmp_path / f"av.{ending}"
        with av.open(str(path), "w", format=box_format) as box:
            box.metadata.update({"title": "Nachtfähre", "artist": "Ilse Marram", "genre": "disco", "date": "1979"})
            stream = box.add_stream(codec, rate=44_100)
            plane = np.tile(SOUND, 2)[None]
            kind = {"flac": "s16", "mp3": "fltp", "m4a": "fltp"}[ending]
            samples = plane if kind == "fltp" else (plane * 32_000).astype(np.int16)
            frame = av.AudioFrame.from_ndarray(samples, kind, "mono")
            frame.sample_rate = 44_100
            for packet in (*stream.encode(frame), *stream.encode(None)):
                box.mux(packet)
        found = tag_files.read(path)[0].tags
        assert (found.title, found.artists, found.genre, found.year) == ("Nachtfähre", "Ilse Marram", "disco", 1979)


def test_riff_info_where_there_is_nothing_else(tmp_path: Path) -> None:
    path = sound(tmp_path, "wav")
    parts = b"".join(
        name + struct.pack("<I", len(text)) + text + b"\0" * (len(text) % 2)
        for name, text in ((b"INAM", b"F\xe4hre"), (b"IART", "Øre".encode()), (b"ICRD", b"1979-01-01"))
    )
    block = b"LIST" + struct.pack("<I", 4 + len(parts)) + b"INFO" + parts
    data = bytearray(path.read_bytes() + block)
    data[4:8] = struct.pack("<I", len(data) - 8)
    path.write_bytes(data)
    found = tag_files.read(path)[0].tags
    assert (found.title, found.artists, found.year) == ("Fähre", "Øre", 1979)


# bad input


def test_damaged_tags_are_as_none(tmp_path: Path) -> None:
    """Tags cut anywhere, of absurd size, or noise: words or none, and never an error."""
    path = sound(tmp_path, "mp3")
    held = id3.ID3()
    for frame in id3_frames(4):
        held.add(frame)
    held.save(path)
    whole = path.read_bytes()
    rng = np.random.default_rng(2)
    for k in range(120):
        data = bytearray(whole)
        if k % 3 == 0:
            data = data[: int(rng.integers(1, len(data)))]
        else:
            for at in rng.integers(0, min(len(data), 900), 1 + k % 7):
                data[at] = int(rng.integers(256))
        path.write_bytes(data)
        found, _ = tag_files.read(path)
        assert len(found.tags.title) < 10_001
    # a tag that claims a quarter of a gigabyte
    path.write_bytes(b"ID3\x04\0\0\x7f\x7f\x7f\x7f" + whole[10:])
    tag_files.read(path)
    with pytest.raises(FormatError):
        tag_files.read(tmp_path / "nothing.mp3")


def test_text_is_text_whatever_it_looks_like(tmp_path: Path) -> None:
    path = sound(tmp_path, "flac")
    file = flac.FLAC(path)
    file["title"], file["artist"] = "<b>x</b>\0\x1b[31m" + "é" * 20_000, "\u202eأحمد"
    file.save()
    found = tag_files.read(path)[0].tags
    assert found.title.startswith("<b>x</b> [31mé")
    assert len(found.title) == 10_000
    assert found.artists.endswith("أحمد")


def test_a_picture_bomb_is_left_alone_and_a_picture_becomes_small() -> None:
    """Its header says 20,000 x 20,000 in some kB: nothing of it is unpacked."""
    bomb = io.BytesIO()
    Image.new("1", (20_000, 20_000)).save(bomb, "PNG")
    assert len(bomb.getvalue()) < 100_000
    assert tag_files.thumbnail(bomb.getvalue(), 100) == b""
    assert tag_files.thumbnail(b"no picture", 100) == b""
    assert tag_files.thumbnail(picture()[:200], 100) == b""
    small = Image.open(io.BytesIO(tag_files.thumbnail(picture(2000), 100)))
    assert max(small.size) == 100


def test_small_pictures_are_kept_once_and_bounded(tmp_path: Path) -> None:
    files = []
    for k in range(4):
        path = sound(tmp_path, "flac").rename(tmp_path / f"{k}.flac")
        file = flac.FLAC(path)
        front = flac.Picture()
        front.type, front.data = 3, picture(200 + 40 * (k // 2))
        file.add_picture(front)
        file.save()
        files.append((k, str(path).encode()))
    (tmp_path / "broken.flac").write_bytes(b"fLaC")
    found = tag_reader.read_many([*files, (9, str(tmp_path / "broken.flac").encode())], str(tmp_path / "cache"))
    assert found[0].cover == found[1].cover != found[2].cover
    assert found[9].cover == found[9].tags.title == ""
    folder = tag_reader.covers_folder(tmp_path / "cache")
    assert len(list(folder.iterdir())) == 2
    tag_reader._bound(folder, most=1)
    assert not list(folder.iterdir())
