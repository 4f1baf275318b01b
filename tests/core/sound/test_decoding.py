"""Decoding: every format, time zero, identity, and files that are no recordings."""

from __future__ import annotations

import os
import shutil
import socket
from pathlib import Path

import mutagen
import numpy as np
import pytest
import soundfile

from mervid.core.errors import AudioError
from mervid.core.sound import damage, decoding, names
from tests.conftest import RATE, band, encode


def lag_ms(a: np.ndarray, b: np.ndarray, rate: int) -> float:
    """How much later `b` is than `a`, by cross-correlation of their first 4 s, ms."""
    n = 4 * rate
    x, y = a[:n, 0], b[:n, 0]
    size = 1 << (2 * n - 1).bit_length()
    c = np.fft.irfft(np.fft.rfft(y, size) * np.conj(np.fft.rfft(x, size)), size)
    k = int(c.argmax())
    return 1000 * (k if k < size // 2 else k - size) / rate


@pytest.mark.parametrize(
    ("name", "codec"),
    [("a.mp3", "libmp3lame"), ("a.m4a", "aac"), ("b.m4a", "alac"), ("a.opus", "libopus"), ("a.flac", "flac")],
)
def test_compressed_formats_start_at_time_zero(tmp_path: Path, name: str, codec: str) -> None:
    rate = 48_000 if codec == "libopus" else RATE
    source = band(6.0)
    decoded, facts = decoding.read(encode(tmp_path / name, source, codec, rate))
    assert facts.rate == rate
    assert abs(lag_ms(source, decoded, rate)) < 0.1
    assert facts.frames >= len(source) - 1
    assert facts.delay_known


@pytest.mark.parametrize(("name", "subtype"), [("a.wav", "PCM_24"), ("a.aiff", "PCM_16"), ("a.ogg", "VORBIS")])
def test_formats_written_by_libsndfile(tmp_path: Path, name: str, subtype: str) -> None:
    source = band(6.0)
    soundfile.write(tmp_path / name, source, RATE, subtype=subtype)
    decoded, facts = decoding.read(tmp_path / name)
    assert facts.frames == len(source)
    assert abs(lag_ms(source, decoded, RATE)) < 0.1


@pytest.mark.parametrize("rate", [8_000, 192_000])
def test_unusual_rates(tmp_path: Path, rate: int) -> None:
    soundfile.write(tmp_path / "x.wav", np.resize(band(3.0)[RATE // 2 :, 0], 2 * rate), rate)
    decoded, facts = decoding.read(tmp_path / "x.wav")
    assert (facts.rate, facts.channels) == (rate, 1)
    assert len(decoded) == facts.frames


def test_identity_survives_tags_and_moves(tmp_path: Path) -> None:
    path = encode(tmp_path / "a.flac", band(4.0), "flac")
    first = decoding.read(path)[1].identity
    tags = mutagen.File(path)
    tags["title"] = "Lantern Tow"
    tags["comment"] = "x" * 5000
    tags.save()
    moved = tmp_path / "elsewhere" / "b.flac"
    moved.parent.mkdir()
    shutil.move(path, moved)
    assert decoding.read(moved)[1].identity == first
    other = encode(tmp_path / "c.flac", band(4.0, seed=2), "flac")
    assert decoding.read(other)[1].identity != first


def test_untagged_mp3_says_its_delay_is_unknown(tmp_path: Path) -> None:
    path = encode(tmp_path / "a.mp3", band(4.0), "libmp3lame")
    data = path.read_bytes()
    at = data.find(b"Xing") if b"Xing" in data else data.find(b"Info")
    assert at > 0
    # the first frame is the header: cut it off, as some cutters do
    second = data.find(data[data.find(b"\xff\xfb") : data.find(b"\xff\xfb") + 2], at)
    path.write_bytes(data[second:])
    assert not decoding.probe(path).delay_known


@pytest.mark.parametrize(
    ("content", "says"),
    [
        (b"", "is empty"),
        (b"these are words, not sound\n" * 50, "not a recording"),
        (b"RIFF\x00\x00\x00\x00WAVEjunk", "not a recording"),
    ],
)
def test_files_that_are_no_recordings(tmp_path: Path, content: bytes, says: str) -> None:
    for name in ("x.mp3", "x.wav"):
        (tmp_path / name).write_bytes(content)
        with pytest.raises(AudioError, match=says):
            decoding.read(tmp_path / name)


def test_missing_folder_and_forbidden(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    with pytest.raises(AudioError, match="not there any more"):
        decoding.read(tmp_path / "gone.mp3")
    with pytest.raises(AudioError, match="is a folder"):
        decoding.read(tmp_path)
    closed = tmp_path / "closed.wav"
    soundfile.write(closed, band(2.0), RATE)

    def refuse(*_: object, **__: object) -> None:
        raise PermissionError(13, "Permission denied")

    # the tests may run as root, whom no file mode stops
    monkeypatch.setattr(Path, "open", refuse)
    with pytest.raises(AudioError, match="no permission"):
        decoding.read(closed)


def test_too_short_silent_and_not_numbers(wav) -> None:
    with pytest.raises(AudioError, match=r"0\.20 s: too short"):
        decoding.read(wav("short.wav", band(3.0)[: RATE // 5]))
    with pytest.raises(AudioError, match="digital silence"):
        decoding.read(wav("silent.wav", np.zeros((3 * RATE, 2), np.float32)))
    broken = band(3.0)
    broken[1000:2000] = np.nan
    samples, facts = decoding.read(wav("nan.wav", broken, subtype="FLOAT"))
    assert [(d.kind, d.size) for d in facts.damage] == [(damage.NAN, 2000)]
    assert np.isfinite(samples).all()
    with pytest.raises(AudioError, match="no valid samples"):
        decoding.read(wav("all.wav", np.full((2 * RATE, 2), np.nan, np.float32), subtype="FLOAT"))


def test_names_that_are_not_utf8(tmp_path: Path) -> None:
    path = Path(os.fsdecode(os.fsencode(tmp_path) + b"/caf\xe9.wav"))
    soundfile.write(os.fsencode(path), band(2.0), RATE)
    assert decoding.read(path)[1].frames == 2 * RATE
    assert names.shown(path) == "caf\ufffd.wav"


def test_truncated_file_gives_what_is_there(tmp_path: Path) -> None:
    path = encode(tmp_path / "a.mp3", band(10.0), "libmp3lame")
    path.write_bytes(path.read_bytes()[: path.stat().st_size // 2])
    assert 4 < decoding.read(path)[1].duration < 6


def test_a_file_removed_after_it_was_probed(tmp_path: Path) -> None:
    for name, codec in (("a.flac", "flac"), ("a.mp3", "libmp3lame")):
        source = decoding.probe(encode(tmp_path / name, band(3.0), codec))
        source.path.unlink()
        with pytest.raises(AudioError, match="not there any more"):
            decoding.decode(source, lambda block: None)


@pytest.mark.parametrize(
    "text",
    [
        "v=0\no=- 0 0 IN IP4 127.0.0.1\ns=x\nc=IN IP4 127.0.0.1\nt=0 0\nm=audio {port} RTP/AVP 0\n",
        "#EXTM3U\n#EXT-X-TARGETDURATION:9\n#EXTINF:9,\nhttp://127.0.0.1:{port}/a.ts\n#EXT-X-ENDLIST\n",
        "ffconcat version 1.0\nfile 'neighbour.ogg'\n",
        "#EXTM3U\nneighbour.ogg\n",
    ],
)
@pytest.mark.parametrize("name", ["song.mp3", "song.m4a", "song.wav", "song.m3u8"])
def test_a_text_opens_no_address_and_no_neighbour(tmp_path: Path, text: str, name: str) -> None:
    """Whatever it calls itself: it is refused before anything it names is read, and nobody knocks at the port."""
    soundfile.write(tmp_path / "neighbour.ogg", band(3.0), RATE)
    with socket.socket() as server:
        server.bind(("127.0.0.1", 0))
        server.listen()
        server.settimeout(0.2)
        (tmp_path / name).write_text(text.format(port=server.getsockname()[1]))
        with pytest.raises(AudioError, match=f"{name} is not a recording"):
            decoding.probe(tmp_path / name)
        with pytest.raises(TimeoutError):
            server.accept()


def test_pipes_and_devices_are_not_waited_for(tmp_path: Path) -> None:
    os.mkfifo(tmp_path / "song.wav")
    for path in (tmp_path / "song.wav", Path("/dev/zero")):
        with pytest.raises(AudioError, match="a pipe or a device"):
            decoding.probe(path)


@pytest.mark.parametrize(
    ("at", "value", "says"), [(24, 2, "2 samples a second"), (24, 500, "500 samples"), (22, 200, "200 channels")]
)
def test_headers_that_cannot_be_right(tmp_path: Path, at: int, value: int, says: str) -> None:
    path = tmp_path / "song.wav"
    soundfile.write(path, band(3.0), RATE)
    data = bytearray(path.read_bytes())
    data[at : at + 2] = value.to_bytes(2, "little")
    path.write_bytes(data)
    with pytest.raises(AudioError, match=f"claims {says}|not a recording"):
        decoding.read(path)
