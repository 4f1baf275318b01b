"""Damaged files: what is lost is told by place and size, and everything after it keeps its time."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
import soundfile

from mervid.core.errors import AudioError, Changed
from mervid.core.sound import damage, decoding, frame_scan
from mervid.core.sound.damage import AFTER, BROKEN, CUT, DOUBTED, MISSING, SECOND, SHORT, SKIPPED, SPOILED, TWICE
from tests.conftest import RATE, encode

SECONDS = 16
LATE = (12, 13, 14)
"""Seconds at which clicks must still be heard where they were: behind every damage."""
NOISE = np.random.default_rng(16).bytes(4000)

Change = Callable[[bytes], bytes]


def clicked() -> np.ndarray:
    """A tone that never repeats, and a click at every whole second."""
    t = np.arange(SECONDS * RATE) / RATE
    x = 0.1 * np.sin(2 * np.pi * (200 * t + 3 * t**2)) + 0.01 * np.random.default_rng(1).normal(size=len(t))
    for s in range(1, SECONDS):
        x[s * RATE : s * RATE + 500] += 0.8 * np.sin(2 * np.pi * 1500 * t[:500]) * np.exp(-np.arange(500) / 150)
    return np.stack([x, x], axis=1).astype(np.float32)


def shifts_ms(before: np.ndarray, after: np.ndarray, rate: int) -> list[float]:
    """How far each late click has moved, by cross-correlation around it."""
    out = []
    for s in LATE:
        a = before[int((s - 0.01) * rate) : int((s + 0.03) * rate), 0]
        b = after[int((s - 0.31) * rate) : int((s + 0.33) * rate), 0]
        if len(b) < len(a):
            return [np.inf]
        out.append(1000 * (int(np.correlate(b, a).argmax()) / rate - 0.3))
    return out


def overwritten(data: bytes, at: float = 0.4, size: int = 4000) -> bytes:
    i = int(at * len(data))
    return data[:i] + NOISE[:size] + data[i + size :]


def inserted(data: bytes) -> bytes:
    i = int(0.4 * len(data))
    return data[:i] + NOISE[:100] + data[i:]


def removed(data: bytes, size: int = 4000) -> bytes:
    i = int(0.4 * len(data))
    return data[:i] + data[i + size :]


def broken_off(data: bytes) -> bytes:
    return data[: int(0.6 * len(data))]


def trailed(data: bytes) -> bytes:
    return data + NOISE


@pytest.fixture(scope="module")
def files(tmp_path_factory: pytest.TempPathFactory) -> dict[str, Path]:
    """The clicks in every format."""
    folder, x = tmp_path_factory.mktemp("clicks"), clicked()
    out = {}
    for name, codec in (("mp3", "libmp3lame"), ("m4a", "aac"), ("aac", "aac"), ("flac", "flac")):
        out[name] = encode(folder / f"a.{name}", x, codec)
    out["opus"] = encode(folder / "a.opus", x, "libopus", 48_000)
    for name, subtype in (("ogg", "VORBIS"), ("wav", "PCM_16"), ("aiff", "PCM_24")):
        out[name] = folder / f"b.{name}"
        soundfile.write(out[name], x, RATE, subtype=subtype)
    return out


@pytest.mark.parametrize("form", ["mp3", "m4a", "aac", "flac", "opus", "ogg", "wav", "aiff"])
def test_a_whole_file_is_not_called_damaged(files: dict[str, Path], form: str) -> None:
    assert decoding.read(files[form])[1].damage == ()


@pytest.mark.parametrize(
    ("form", "change", "kinds"),
    [
        ("mp3", overwritten, {MISSING}),
        ("mp3", inserted, {MISSING, SKIPPED}),
        ("mp3", removed, {MISSING}),
        ("m4a", overwritten, {MISSING}),
        ("aac", overwritten, {MISSING, BROKEN}),
        ("aac", inserted, {MISSING, BROKEN}),
        ("ogg", overwritten, {MISSING, SKIPPED}),
        ("ogg", inserted, {MISSING, SKIPPED}),
        ("ogg", removed, {MISSING, SKIPPED}),
        ("mp3", trailed, {AFTER}),
        ("aac", trailed, {AFTER}),
        ("ogg", trailed, {AFTER}),
        ("wav", trailed, {AFTER}),
    ],
)
def test_lost_bytes_are_told_and_what_follows_keeps_its_time(
    files: dict[str, Path], tmp_path: Path, form: str, change: Change, kinds: set[str]
) -> None:
    path = tmp_path / files[form].name
    path.write_bytes(change(files[form].read_bytes()))
    before, rate = decoding.read(files[form])[0], decoding.probe(files[form]).rate
    after, facts = decoding.read(path)
    assert max(map(abs, shifts_ms(before, after, rate))) < 1.0
    assert {d.kind for d in facts.damage} <= kinds | {SPOILED}
    assert {d.kind for d in facts.damage} & kinds
    at = [d.at for d in facts.damage if d.kind != AFTER]
    assert all(4.0 < t < 9.0 for t in at)


@pytest.mark.parametrize(
    ("form", "change", "kind"),
    [
        ("aac", removed, BROKEN),
        ("wav", removed, SHORT),
        ("wav", lambda data: removed(data, 200), SHORT),
        ("aiff", removed, SHORT),
        ("mp3", broken_off, SHORT),
        ("ogg", broken_off, CUT),
        ("opus", broken_off, CUT),
        ("aac", broken_off, CUT),
        ("wav", broken_off, SHORT),
        ("aiff", broken_off, SHORT),
    ],
)
def test_what_can_not_be_measured_is_told_all_the_same(
    files: dict[str, Path], tmp_path: Path, form: str, change: Change, kind: str
) -> None:
    path = tmp_path / files[form].name
    path.write_bytes(change(files[form].read_bytes()))
    facts = decoding.read(path)[1]
    assert kind in {d.kind for d in facts.damage}
    assert all(damage.told(d).endswith(".") for d in facts.damage)


@pytest.mark.parametrize(("form", "change"), [("flac", overwritten), ("flac", removed), ("m4a", removed)])
def test_what_can_not_be_followed_is_refused_in_words(
    files: dict[str, Path], tmp_path: Path, form: str, change: Change
) -> None:
    path = tmp_path / files[form].name
    path.write_bytes(change(files[form].read_bytes()))
    with pytest.raises(AudioError, match=path.name):
        decoding.read(path)


def test_a_header_whose_checksum_is_wrong_is_told(files: dict[str, Path], tmp_path: Path) -> None:
    data = bytearray(files["mp3"].read_bytes())
    at = max(data.find(b"Info"), data.find(b"Xing"))
    # the encoder's delay stands there: another one would move all that follows
    data[at + 141] ^= 0x40
    path = tmp_path / "a.mp3"
    path.write_bytes(data)
    assert DOUBTED in {d.kind for d in decoding.read(path)[1].damage}


def test_a_rate_that_no_recorder_makes_is_told(files: dict[str, Path], tmp_path: Path) -> None:
    data = bytearray(files["aiff"].read_bytes())
    # the rate's mantissa (80-bit IEEE 754): one bit makes 44,228 of 44,100
    data[data.index(b"COMM") + 19] ^= 0x80
    path = tmp_path / "a.aiff"
    path.write_bytes(data)
    facts = decoding.read(path)[1]
    assert [(d.kind, d.size) for d in facts.damage] == [("rate", 44_228)]
    assert "44,228 samples a second" in damage.told(facts.damage[0])


@pytest.mark.parametrize("form", ["mp3", "m4a", "aac", "ogg"])
def test_a_spoilt_beginning_moves_nothing(files: dict[str, Path], tmp_path: Path, form: str) -> None:
    data = bytearray(files[form].read_bytes())
    first = {"mp3": 700, "m4a": 60, "aac": 9, "ogg": 5000}[form]
    data[first : first + 40] = NOISE[:40]
    path = tmp_path / files[form].name
    path.write_bytes(data)
    after, facts = decoding.read(path)
    before = decoding.read(files[form])[0]
    assert max(map(abs, shifts_ms(before, after, facts.rate))) < 1.0


def test_a_piece_that_stands_twice_is_taken_once(files: dict[str, Path], tmp_path: Path) -> None:
    data = files["ogg"].read_bytes()
    pages = [i for i in range(len(data)) if data[i : i + 4] == b"OggS"]
    path = tmp_path / "a.ogg"
    path.write_bytes(data[: pages[12]] + data[pages[8] : pages[12]] + data[pages[12] :])
    after, facts = decoding.read(path)
    assert {d.kind for d in facts.damage} == {TWICE}
    assert max(map(abs, shifts_ms(decoding.read(files["ogg"])[0], after, RATE))) < 1.0


def test_too_much_damage_is_refused(files: dict[str, Path], tmp_path: Path) -> None:
    data = files["ogg"].read_bytes()
    path = tmp_path / "a.ogg"
    path.write_bytes(data[: len(data) // 4] + bytes(len(data) // 4) + data[len(data) // 2 :])
    with pytest.raises(AudioError, match=r"too damaged to be trusted: \d+ of 1\d s are missing"):
        decoding.read(path)


def test_frames_are_counted_as_the_encoder_counted_them(files: dict[str, Path]) -> None:
    frames = frame_scan.scan(files["mp3"], "mp3")
    assert frames is not None
    data = files["mp3"].read_bytes()
    at = max(data.find(b"Info"), data.find(b"Xing"))
    assert frames.index[-1] + 1 == int.from_bytes(data[at + 8 : at + 12], "big")
    # 1152 samples a frame (ISO/IEC 11172-3)
    assert frames.samples == 1152


def test_tags_at_either_end_are_no_rubbish(files: dict[str, Path], tmp_path: Path) -> None:
    path = tmp_path / "a.mp3"
    ape = b"APETAGEX" + (2000).to_bytes(4, "little") + (32 + 8).to_bytes(4, "little") + bytes(16)
    path.write_bytes(
        b"ID3\x04\0\0\0\0\1\0" + bytes(128) + files["mp3"].read_bytes() + bytes(8) + ape + b"TAG" + b"x" * 125
    )
    before, after = decoding.read(files["mp3"])[1], decoding.read(path)[1]
    assert (after.identity, after.damage) == (before.identity, ())


def test_a_file_that_is_written_to_meanwhile_is_not_taken(files: dict[str, Path], tmp_path: Path) -> None:
    path = tmp_path / "growing.wav"
    path.write_bytes(broken_off(files["wav"].read_bytes()))

    def grow(block: np.ndarray) -> None:
        with path.open("ab") as f:
            f.write(bytes(400))

    with pytest.raises(Changed, match=r"growing\.wav is being written to"):
        decoding.decode(decoding.probe(path), grow)


@pytest.mark.parametrize(("rate", "says"), [(2, "2 samples a second"), (4000, "hours")])
def test_lengths_that_can_not_be_are_refused(tmp_path: Path, rate: int, says: str) -> None:
    path = tmp_path / "long.flac"
    soundfile.write(path, np.zeros(RATE, np.float32), 8000)
    data = bytearray(path.read_bytes())
    # STREAMINFO: 20 bits of rate, and 36 bits of samples behind channels and depth (RFC 9639, section 8.2)
    word = int.from_bytes(data[18:26], "big")
    word = (word & ((1 << 44) - 1) & ~((1 << 36) - 1)) | rate << 44 | ((1 << 36) - 2)
    data[18:26] = word.to_bytes(8, "big")
    path.write_bytes(data)
    with pytest.raises(AudioError, match=says):
        decoding.read(path)


def cut_frames(data: bytes, count: int = 1) -> bytes:
    """An MP3 without `count` of its frames, cut cleanly: only the header's counts tell."""
    frames = frame_scan.frames_of(data, "mp3")
    assert frames is not None
    return data[: frames.at[100]] + data[frames.at[100 + count] :]


@pytest.mark.parametrize("count", [1, 2, 3])
def test_a_frame_that_is_cut_out_of_an_mp3_is_told(files: dict[str, Path], tmp_path: Path, count: int) -> None:
    path = tmp_path / "cut.mp3"
    path.write_bytes(cut_frames(files["mp3"].read_bytes(), count))
    _, facts = decoding.read(path)
    # 1152 samples a frame (ISO/IEC 11172-3, section 2.4.2.1)
    assert [(d.kind, round(d.seconds * RATE)) for d in facts.damage] == [(SHORT, 1152 * count)]


def test_an_mp3_that_counts_one_frame_more_but_has_all_its_bytes_is_whole(
    files: dict[str, Path], tmp_path: Path
) -> None:
    data = bytearray(files["mp3"].read_bytes())
    i = data.find(b"Info") if b"Info" in data[:200] else data.find(b"Xing")
    data[i + 8 : i + 12] = (int.from_bytes(data[i + 8 : i + 12], "big") + 1).to_bytes(4, "big")
    path = tmp_path / "counted.mp3"
    path.write_bytes(data)
    assert SHORT not in [d.kind for d in decoding.read(path)[1].damage]


def two_pieces(data: bytes) -> bytes:
    """A WAV whose sound stands in two chunks of equal length."""
    i = data.index(b"data")
    sound = data[i + 8 :]
    half = len(sound) // 8 * 4
    body = b"".join(b"data" + len(x).to_bytes(4, "little") + x for x in (sound[:half], sound[half:]))
    return data[:4] + (i + len(body) - 8).to_bytes(4, "little") + data[8:i] + body


def test_a_second_piece_of_sound_is_told(files: dict[str, Path], tmp_path: Path) -> None:
    path = tmp_path / "two.wav"
    path.write_bytes(two_pieces(files["wav"].read_bytes()))
    _, facts = decoding.read(path)
    assert facts.duration == SECONDS / 2
    assert [(d.kind, d.size) for d in facts.damage] == [(SECOND, SECONDS // 2 * RATE * 4)]


def with_rate(data: bytes, rate: int) -> bytes:
    """A FLAC whose head names another rate (RFC 9639, section 8.2: 20 bits from the tenth byte of STREAMINFO)."""
    word = int.from_bytes(data[18:21], "big")
    return data[:18] + (rate << 4 | word & 15).to_bytes(3, "big") + data[21:]


@pytest.mark.parametrize("rate", [11_025, 22_050, 88_200, 176_400])
def test_a_flac_of_two_rates_is_refused(files: dict[str, Path], tmp_path: Path, rate: int) -> None:
    path = tmp_path / "two.flac"
    path.write_bytes(with_rate(files["flac"].read_bytes(), rate))
    with pytest.raises(AudioError, match=rf"its head names {rate:,} samples a second, its frames 44,100"):
        decoding.read(path)


def sparse_wav(path: Path, seconds: int) -> Path:
    """A WAV of silence that takes no place on the disk."""
    size = seconds * 88_200
    numbers = ((16, 4), (1, 2), (1, 2), (RATE, 4), (2 * RATE, 4), (2, 2), (16, 2))
    form = b"".join(value.to_bytes(width, "little") for value, width in numbers)
    with path.open("wb") as f:
        f.write(b"RIFF" + (size + 36).to_bytes(4, "little") + b"WAVEfmt " + form + b"data" + size.to_bytes(4, "little"))
        f.truncate(44 + size)
    return path


@pytest.mark.parametrize(("hours", "says"), [(8, "lasts 8.0 hours"), (1, "begins with 10 minutes of digital silence")])
def test_hours_of_silence_are_not_waited_for(tmp_path: Path, hours: int, says: str) -> None:
    kept: list[int] = []
    with pytest.raises(AudioError, match=says):
        decoding.decode(decoding.probe(sparse_wav(tmp_path / "long.wav", hours * 3600)), lambda b: kept.append(len(b)))
    assert sum(kept) <= 601 * RATE


def test_an_mp3_behind_a_gigabyte_of_zeros_is_refused_by_its_first_bytes(
    files: dict[str, Path], tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = tmp_path / "behind.mp3"
    with path.open("wb") as f:
        f.seek(1 << 30)
        f.write(files["mp3"].read_bytes())
    monkeypatch.setattr("av.open", lambda *_, **__: pytest.fail("a demuxer was asked"))
    with pytest.raises(AudioError, match="begins with 1 MB of zeros"):
        decoding.probe(path)


@pytest.mark.parametrize("size", [1 << 61, 1 << 63, (1 << 64) - 1])
def test_an_rf64_of_more_bytes_than_there_are_is_read_or_refused(
    files: dict[str, Path], tmp_path: Path, size: int
) -> None:
    data = files["wav"].read_bytes()
    i = data.index(b"data")
    # EBU Tech 3306, section 4: sizes of the file and of its sound, 64 bits each, stand in the chunk ds64
    sizes = size.to_bytes(8, "little") * 2 + (size // 4).to_bytes(8, "little") + bytes(4)
    head = b"RF64" + b"\xff" * 4 + b"WAVEds64" + len(sizes).to_bytes(4, "little") + sizes
    path = tmp_path / "large.wav"
    path.write_bytes(head + data[12:i] + b"data" + b"\xff" * 4 + data[i + 8 :])
    try:
        assert decoding.read(path)[1].duration == SECONDS
    except AudioError as e:
        assert "large.wav" in str(e)


@pytest.mark.parametrize(("name", "field"), [(b"stts", 12), (b"stsc", 16), (b"stsz", 12)])
def test_an_m4a_whose_tables_disagree_is_told(files: dict[str, Path], tmp_path: Path, name: bytes, field: int) -> None:
    data = bytearray(files["m4a"].read_bytes())
    at = data.index(name) + field
    data[at : at + 4] = (int.from_bytes(data[at : at + 4], "big") + 7).to_bytes(4, "big")
    path = tmp_path / "disagree.m4a"
    path.write_bytes(data)
    assert BROKEN in [d.kind for d in decoding.read(path)[1].damage]


@pytest.mark.parametrize("count", [0xFFFFFFFF, 0x7FFFFFFF, 0])
def test_an_m4a_with_an_absurd_count_is_refused(files: dict[str, Path], tmp_path: Path, count: int) -> None:
    data = bytearray(files["m4a"].read_bytes())
    # how many runs of samples there are stands behind version and flags of stts (ISO/IEC 14496-12, section 8.6.1.2)
    at = data.index(b"stts") + 8
    data[at : at + 4] = count.to_bytes(4, "big")
    path = tmp_path / "absurd.m4a"
    path.write_bytes(data)
    with pytest.raises(AudioError, match=r"absurd\.m4a is damaged"):
        decoding.read(path)
