"""Cues inside a WAV file: `cue ` points with their names, and phrases as labelled stretches (RIFF, IBM/Microsoft 1991).

Written to a copy: every other chunk stays as it is to the byte, old cue points give way. A recording in another format
is copied as 24-bit PCM. The original is only read.
"""

from __future__ import annotations

import struct
from collections.abc import Callable
from pathlib import Path
from typing import Any

from ..core.arrays import Samples
from ..core.errors import FormatError
from ..core.sound.decoding import decode, probe
from .labels import Label

_MOST = 0xFFFFFFFF - (1 << 16)
_COPY = 1 << 20


def _chunks(f: Any) -> list[tuple[bytes, int, int]]:
    """(name, place of the data, size) of each chunk. Raises `FormatError` where this is no WAV file."""
    head = f.read(12)
    if len(head) < 12 or head[:4] != b"RIFF" or head[8:] != b"WAVE":
        raise FormatError("This is not a WAV file (RIFF).")
    out: list[tuple[bytes, int, int]] = []
    while True:
        head = f.read(8)
        if len(head) < 8:
            return out
        name, size = head[:4], struct.unpack("<I", head[4:])[0]
        out.append((name, f.tell(), size))
        f.seek(size + (size & 1), 1)


def _chunk(name: bytes, data: bytes) -> bytes:
    return name + struct.pack("<I", len(data)) + data + b"\0" * (len(data) & 1)


def cue_chunks(marks: list[Label], rate: int) -> bytes:
    """The `cue ` chunk and the list of labels: points and stretches in sample frames."""
    points, texts = [], []
    for number, x in enumerate(marks, 1):
        frame = round(x.start * rate)
        points.append(struct.pack("<II4sIII", number, frame, b"data", 0, 0, frame))
        text = x.text.encode("utf-8") + b"\0"
        texts.append(_chunk(b"labl", struct.pack("<I", number) + text))
        length = round(x.end * rate) - frame
        if length > 0:
            texts.append(_chunk(b"ltxt", struct.pack("<II4sHHHH", number, length, b"rgn ", 0, 0, 0, 0)))
    cue = _chunk(b"cue ", struct.pack("<I", len(points)) + b"".join(points))
    return cue + _chunk(b"LIST", b"adtl" + b"".join(texts))


def write(source: Path, target: Path, marks: list[Label], *, rate: int) -> None:
    """Copy `source` to `target` with `marks` as cue points. `target` appears only when it is whole.

    Raises
    ------
    FormatError
        `target` is the recording itself, or the copy would be too large for this format (4 GB).
    AudioError
        The recording can't be read.
    OSError
        `target` can't be written.
    """
    if target.exists() and target.samefile(source):
        raise FormatError("This is the recording itself, which is never written: choose another name for the copy.")
    part = target.with_name(f".{target.name}.part")
    try:
        if _is_wave(source):
            _copy(source, part, cue_chunks(marks, rate))
        else:
            plain = target.with_name(f".{target.name}.pcm")
            try:
                _decoded(source, plain)
                _copy(plain, part, cue_chunks(marks, rate))
            finally:
                plain.unlink(missing_ok=True)
        part.replace(target)
    finally:
        part.unlink(missing_ok=True)


def _is_wave(path: Path) -> bool:
    with path.open("rb") as f:
        head = f.read(12)
    return head[:4] == b"RIFF" and head[8:] == b"WAVE"


def _decoded(source: Path, target: Path) -> None:
    import soundfile

    facts = probe(source)
    # a folder that is missing or shut is said as such
    target.touch()
    try:
        with soundfile.SoundFile(
            target, "w", samplerate=facts.rate, channels=facts.channels, subtype="PCM_24", format="WAV"
        ) as out:

            def take(block: Samples) -> None:
                out.write(block)

            sink: Callable[[Samples], None] = take
            decode(facts, sink)
    except soundfile.LibsndfileError as e:
        raise FormatError(f"The copy can't be written: {e.error_string}") from None


def _copy(source: Path, target: Path, extra: bytes) -> None:
    with source.open("rb") as f, target.open("wb") as out:
        out.write(b"RIFF\0\0\0\0WAVE")
        for name, at, size in _chunks(f):
            f.seek(at)
            if name == b"cue " or (name == b"LIST" and f.read(4) == b"adtl"):
                continue
            f.seek(at)
            out.write(name + struct.pack("<I", size))
            left = size + (size & 1)
            while left > 0 and (block := f.read(min(_COPY, left))):
                out.write(block)
                left -= len(block)
        if out.tell() + len(extra) > _MOST:
            raise FormatError("The copy would be larger than 4 GB, which this format can't hold.")
        out.write(extra)
        size = out.tell() - 8
        out.seek(4)
        out.write(struct.pack("<I", size))


def read(path: Path) -> list[Label]:
    """The cue points of a WAV file: stretches where a length is given, else points.

    Raises
    ------
    FormatError
        Not a WAV file, or without cue points.
    """
    frames: dict[int, int] = {}
    names: dict[int, str] = {}
    lengths: dict[int, int] = {}
    rate = 0
    with path.open("rb") as f:
        for name, at, size in _chunks(f):
            if name not in (b"fmt ", b"cue ", b"LIST"):
                continue
            f.seek(at)
            data = f.read(size)
            try:
                if name == b"fmt ":
                    rate = struct.unpack("<I", data[4:8])[0]
                elif name == b"cue ":
                    for k in range(struct.unpack("<I", data[:4])[0]):
                        number, *_, frame = struct.unpack("<II4sIII", data[4 + 24 * k : 28 + 24 * k])
                        frames[number] = frame
                elif data[:4] == b"adtl":
                    _texts(data[4:], names, lengths)
            except struct.error:
                raise FormatError("The cue points of this WAV file are damaged.") from None
    if not frames or not rate:
        raise FormatError("There are no cue points in this WAV file.")
    out = [
        Label(frame / rate, (frame + lengths.get(n, 0)) / rate, names.get(n, f"Cue {n}")) for n, frame in frames.items()
    ]
    return sorted(out, key=lambda x: (x.start, -x.end))


def _texts(data: bytes, names: dict[int, str], lengths: dict[int, int]) -> None:
    at = 0
    while at + 8 <= len(data):
        name, size = data[at : at + 4], struct.unpack("<I", data[at + 4 : at + 8])[0]
        body = data[at + 8 : at + 8 + size]
        if name == b"labl" and len(body) > 4:
            names[struct.unpack("<I", body[:4])[0]] = body[4:].split(b"\0")[0].decode("utf-8", "replace")
        elif name == b"ltxt" and len(body) >= 8:
            number, length = struct.unpack("<II", body[:8])
            lengths[number] = length
        at += 8 + size + (size & 1)
