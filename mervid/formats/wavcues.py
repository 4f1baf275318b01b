"""Cues inside a WAV file: `cue ` points with their names, and phrases as labelled stretches (RIFF, IBM/Microsoft 1991).

Written to a copy: every other chunk stays as it is to the byte, old cue points give way. A chunk of our own says that
the file is a copy. A recording in another format is copied as 24-bit PCM, or as 32-bit floats where its peaks rise over
full scale. The original is only read.
"""

from __future__ import annotations

import math
import os
import shutil
import struct
import tempfile
from collections.abc import Iterable
from pathlib import Path
from typing import BinaryIO

import numpy as np

from ..core.arrays import Samples
from ..core.errors import FormatError
from ..core.sound.decoding import decode, probe
from ..core.sound.names import shown
from . import riff, safe_file
from .labels import Label

_MOST = 0xFFFFFFFF - (1 << 16)
_COPY = 1 << 20


def _chunk(name: bytes, data: bytes) -> bytes:
    return name + struct.pack("<I", len(data)) + data + b"\0" * (len(data) & 1)


def cue_chunks(marks: list[Label], rate: int) -> bytes:
    """The `cue ` chunk and the list of labels: points and stretches in sample frames."""
    # names first: some readers stop at the first length
    points, texts, lengths = [], [], []
    for number, x in enumerate(marks, 1):
        frame = round(x.start * rate)
        points.append(struct.pack("<II4sIII", number, frame, b"data", 0, 0, frame))
        text = x.text.encode("utf-8") + b"\0"
        texts.append(_chunk(b"labl", struct.pack("<I", number) + text))
        length = round(x.end * rate) - frame
        if length > 0:
            lengths.append(_chunk(b"ltxt", struct.pack("<II4sHHHH", number, length, b"rgn ", 0, 0, 0, 0)))
    cue = _chunk(b"cue ", struct.pack("<I", len(points)) + b"".join(points))
    return cue + _chunk(b"LIST", b"adtl" + b"".join(texts + lengths))


def write(source: Path, target: Path, marks: list[Label], *, rate: int, sources: Iterable[Path] = ()) -> str:
    """Copy `source` to `target` with `marks` as cue points. `target` appears only when it is whole.

    Parameters
    ----------
    sources : further recordings that are never written over

    Returns
    -------
    what is to be said of the copy, empty where nothing is

    Raises
    ------
    FormatError
        `target` is a recording, or the copy would be too large for this format (4 GB) or lose channels.
    AudioError
        The recording can't be read.
    OSError
        `target` can't be written.
    """
    extra = cue_chunks(marks, rate) + _chunk(safe_file.MARK, b"copy")
    said: list[str] = []

    def fill(out: BinaryIO) -> None:
        with source.open("rb") as f:
            if riff.is_wave(f):
                _copy(f, out, extra)
                return
        # without a name: nothing is left of it, whatever happens
        with tempfile.TemporaryFile(dir=target.parent) as plain:
            peak = _decoded(source, plain)
            if peak > 1.0:
                said.append(f"As 32-bit floats: its peaks rise {20 * math.log10(peak):.1f} dB over full scale.")
                _copy(plain, out, extra)
                return
            with tempfile.TemporaryFile(dir=target.parent) as whole:
                _rounded(plain, whole)
                _copy(whole, out, extra)

    safe_file.write(target, fill, kind=safe_file.WAVE, sources=(source, *sources))
    return " ".join(said)


def put(path: Path, marks: list[Label], *, rate: int) -> None:
    """Put cue points into a WAV file itself; every other chunk stays. `safe_tags` gives this a copy.

    Raises
    ------
    FormatError
        It would be larger than this format can hold.
    OSError
        It can't be written.
    """
    extra = cue_chunks(marks, rate) if marks else b""
    with path.open("r+b") as f, tempfile.TemporaryFile(dir=path.parent) as whole:
        ours = [n for n, _, _ in riff.chunks(f) if n == safe_file.MARK]
        _copy(f, whole, extra + (_chunk(safe_file.MARK, b"copy") if ours else b""))
        whole.seek(0)
        f.seek(0)
        shutil.copyfileobj(whole, f, _COPY)
        f.truncate()


def _decoded(source: Path, target: BinaryIO) -> float:
    """The recording as 32-bit floats; returns its peak, 1 is full scale."""
    import soundfile

    facts = probe(source)
    if facts.channels > 2:
        raise FormatError(f"{shown(source)} has {facts.channels} channels; a copy would keep only two of them.")
    peak = 0.0

    def take(block: Samples) -> None:
        nonlocal peak
        peak = max(peak, float(np.abs(block).max(initial=0)))
        out.write(block)

    try:
        with soundfile.SoundFile(
            target, "w", samplerate=facts.rate, channels=facts.channels, subtype="FLOAT", format="WAV"
        ) as out:
            decode(facts, take)
    except soundfile.LibsndfileError as e:
        raise FormatError(f"The copy can't be written: {e.error_string}") from None
    return peak


def _rounded(floats: BinaryIO, target: BinaryIO) -> None:
    """The same in 24 bits."""
    import soundfile

    floats.seek(0)
    try:
        with (
            soundfile.SoundFile(floats) as f,
            soundfile.SoundFile(
                target, "w", samplerate=f.samplerate, channels=f.channels, subtype="PCM_24", format="WAV"
            ) as out,
        ):
            for block in f.blocks(_COPY // 8, dtype="float32"):
                out.write(block)
    except soundfile.LibsndfileError as e:
        raise FormatError(f"The copy can't be written: {e.error_string}") from None


def _copy(f: BinaryIO, out: BinaryIO, extra: bytes) -> None:
    """All chunks of `f` but cue points and our mark, then `extra`."""
    out.write(b"RIFF\0\0\0\0WAVE")
    for name, at, size in riff.chunks(f):
        f.seek(at)
        if name in (b"cue ", safe_file.MARK) or (name == b"LIST" and f.read(4) == b"adtl"):
            continue
        f.seek(at)
        out.write(name + struct.pack("<I", size))
        left = size
        while left > 0 and (block := f.read(min(_COPY, left))):
            out.write(block)
            left -= len(block)
        out.write(b"\0" * (size & 1))
    if out.tell() + len(extra) > _MOST:
        raise FormatError("The copy would be larger than 4 GB, which this format can't hold.")
    out.write(extra)
    size = out.tell() - 8
    out.seek(4)
    out.write(struct.pack("<I", size))
    out.seek(0, os.SEEK_END)


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
        for name, at, size in riff.chunks(f):
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
