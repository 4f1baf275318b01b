"""Recordings in, float32 samples out.

Time zero is the first decoded sample after the encoder delay that the file itself declares
has been removed (docs/model.md says what that means for each codec). A file is decoded once,
from its start to its end; nothing ever seeks in a compressed file, because seeking in lossy
formats is not sample exact. Lossy formats, and everything in an MP4 or Matroska container, go
through FFmpeg (PyAV); plain PCM and FLAC go through libsndfile. Damage is told by place and size
(`damage.py`), and sound that is known to be missing is made up by silence.
"""

from __future__ import annotations

import contextlib
import hashlib
import os
import stat
from collections.abc import Callable, Iterator
from pathlib import Path

import attrs
import numpy as np
from numpy.typing import NDArray

from ..arrays import Samples
from ..errors import AudioError, Changed
from . import ffmpeg, flac_frames, frame_scan, stated_length
from .contents import digest_of
from .damage import NAN, RATE, SHORT, Damage, too_much
from .names import shown

PCM_SUFFIXES = {".wav", ".aif", ".aiff", ".aifc", ".flac"}
PCM_HEADS = (b"RIFF", b"RF64", b"FORM", b"fLaC")
"""How files begin that libsndfile reads, whatever their names."""
SUFFIXES = PCM_SUFFIXES | {".mp3", ".ogg", ".oga", ".opus", ".m4a", ".mp4", ".aac"}
_EBML = b"\x1a\x45\xdf\xa3"
"""How Matroska and WebM files begin (RFC 8794, section 11.2.1)."""
SHORTEST = 0.5
SILENT = 1e-5
"""Of full scale; what stays below it is digital silence."""
_UNKNOWN = 1 << 60
"""Frames from which on a count stands for 'not known'."""
BLOCK = 1 << 16
LEAST_RATE, MOST_RATE = 4_000, 768_000
"""Samples a second of what is taken for a recording."""
USUAL_RATES = frozenset(base * k // 4 for base in (32_000, 44_100, 48_000) for k in (1, 2, 3, 4, 8, 16, 32, 64)) | {
    11_127,
    12_500,
    18_900,
    22_254,
    22_255,
    25_000,
    37_800,
    44_056,
    47_952,
    48_048,
    50_000,
    50_400,
    100_000,
    200_000,
}
"""Samples a second that recorders make (common practice, no source); a header with another one is likely damaged."""
MOST_CHANNELS = 64
LONGEST = 2.5 * 3600.0
"""s; what is heard of a longer one needs more than the gigabyte that a process is promised to keep to."""
MOST_SILENCE = 600.0
"""s of digital silence after which nothing is waited for."""
LEAST_BITS = 1000
"""Bits a second below which no format keeps sound, silence apart: a small file that claims hours is made up."""
_GRACE = 600.0
_SPLIT = f"Mervid analyses recordings of up to {LONGEST / 3600:g} hours: split the file."
Kept = NDArray[np.float32] | NDArray[np.int16]
"""Samples as they are kept: float32, or whole 16-bit steps where the source has no finer ones; see `floats`."""
FULL_16 = 32768.0
"""16-bit steps to full scale."""


def floats(samples: Kept) -> Samples:
    """Kept samples as float32 of full scale 1: exactly what was decoded."""
    if samples.dtype == np.int16:
        return samples.astype(np.float32) / np.float32(FULL_16)
    return np.asarray(samples, np.float32)


@attrs.frozen
class Source:
    """What the file says about itself, before a sample is decoded.

    `duration` is an estimate in seconds (0 where the file does not tell): count samples for truth.
    """

    path: Path
    rate: int
    channels: int
    duration: float
    decoder: str
    delay_known: bool


@attrs.frozen
class State:
    """What tells whether a file is still the one that was read: bytes, ns of its last change, its inode."""

    size: int
    changed_ns: int
    inode: int


def state_of(path: Path) -> State:
    """The state of a file now. Raises `AudioError` where there is none."""
    try:
        s = path.stat()
    except FileNotFoundError:
        raise AudioError(f"{shown(path)} is not there any more.") from None
    except OSError as e:
        raise AudioError(f"{shown(path)} can't be read: {e.strerror or e}.") from None
    return State(s.st_size, s.st_mtime_ns, s.st_ino)


def check_readable(path: Path) -> None:
    """Raise `AudioError` with the plain reason when `path` can't be opened for reading."""
    try:
        state = path.stat()
        if stat.S_ISDIR(state.st_mode):
            raise AudioError(f"{shown(path)} is a folder, not a recording.")
        if not stat.S_ISREG(state.st_mode):
            # a pipe would be waited for, a device never ends
            raise AudioError(f"{shown(path)} is no file of sound, but a pipe or a device.")
        if state.st_size == 0:
            raise AudioError(f"{shown(path)} is empty (0 bytes).")
        with path.open("rb") as f:
            f.read(1)
    except FileNotFoundError:
        raise AudioError(f"{shown(path)} is not there any more.") from None
    except PermissionError:
        raise AudioError(f"{shown(path)} may not be read: you have no permission.") from None
    except OSError as e:
        raise AudioError(f"{shown(path)} can't be read: {e.strerror or e}.") from None


def probe(path: Path) -> Source:
    """Open `path` far enough to know its rate, channels and decoder.

    Raises
    ------
    AudioError
        Missing, unreadable, empty, or not a recording in a known format.
    """
    check_readable(path)
    if path.suffix.lower() in PCM_SUFFIXES or _head(path, 4) in PCM_HEADS:
        import soundfile

        # a FLAC in an Ogg, a WAV with AAC inside: FFmpeg may know it
        with contextlib.suppress(soundfile.SoundFileError), soundfile.SoundFile(os.fsencode(path)) as f:
            _plausible(path, f.samplerate, f.channels)
            seconds = f.frames / f.samplerate if f.frames < _UNKNOWN else 0.0
            _plausible(path, f.samplerate, f.channels, seconds)
            _agreed(path)
            return Source(path, f.samplerate, f.channels, seconds, f"libsndfile {f.format}", True)
    s = ffmpeg.probe(path)
    _plausible(path, s.rate, s.channels, s.duration)
    known = s.container not in ffmpeg.RAW or (s.codec.startswith("mp3") and frame_scan.has_delay(path))
    return Source(path, s.rate, s.channels, s.duration, f"FFmpeg {s.codec}", known)


def _plausible(path: Path, rate: int, channels: int, seconds: float = 0.0) -> None:
    """Raise `AudioError` unless a recording can be so."""
    if seconds > LONGEST:
        hours = f"{seconds / 3600:.1f}" if seconds < 360_000 else f"{seconds / 3600:.0g}"
        raise AudioError(f"{shown(path)} lasts {hours} hours by its own count. {_SPLIT}")
    if not LEAST_RATE <= rate <= MOST_RATE:
        raise AudioError(f"{shown(path)} claims {rate} samples a second: that can't be right.")
    if not 1 <= channels <= MOST_CHANNELS:
        raise AudioError(f"{shown(path)} claims {channels} channels: that can't be right.")


def _agreed(path: Path) -> None:
    """Raise `AudioError` where a FLAC file's head and frames name different rates: nothing tells which is right."""
    named = flac_frames.rates(path)
    if named is not None and named[0] != named[1]:
        raise AudioError(
            f"{shown(path)} is damaged: its head names {named[0]:,} samples a second, its frames {named[1]:,}."
        )


def begins_as_sound(path: Path) -> bool:
    """Whether the first bytes of a file are those of a container or stream that is read; nothing is decoded.

    Raises `AudioError` where it can't be read.
    """
    check_readable(path)
    head = _head(path, 12)
    stream = len(head) > 1 and head[0] == 0xFF and head[1] & 0xE0 == 0xE0
    return head[:4] in (*PCM_HEADS, b"OggS", _EBML) or head[:3] == b"ID3" or head[4:8] == b"ftyp" or stream


def _head(path: Path, size: int) -> bytes:
    with path.open("rb") as f:
        return f.read(size)


def blocks(source: Source, damage: list[Damage]) -> Iterator[Samples]:
    """Decode from first to last sample; what is damaged is added to `damage`.

    Yields
    ------
    float32 arrays of shape (frames, channels), C-contiguous, of at least one frame.

    Raises
    ------
    AudioError
        The file stops being readable on the way.
    """
    # it may have gone since it was probed
    check_readable(source.path)
    if source.decoder.startswith("libsndfile"):
        yield from _blocks_sndfile(source, damage)
    else:
        yield from ffmpeg.blocks(source.path, damage)


def _blocks_sndfile(source: Source, damage: list[Damage]) -> Iterator[Samples]:
    import soundfile

    read = 0
    try:
        with soundfile.SoundFile(os.fsencode(source.path)) as f:
            claimed = f.frames if f.frames < _UNKNOWN else 0
            # the header's frame count can lie: read until nothing comes
            while len(block := f.read(BLOCK, dtype="float32", always_2d=True)):
                read += len(block)
                yield block
    except (soundfile.SoundFileError, OSError) as e:
        raise AudioError(f"{shown(source.path)} is damaged: {e}") from None
    length = read / source.rate
    short = claimed / source.rate - length
    if short >= stated_length.LEAST:
        damage.append(Damage(SHORT, length, short))
    elif read:
        damage += stated_length.of_chunks(source.path, length)


def mono(block: Samples) -> Samples:
    """The mean of the channels: (frames, channels) to (frames,)."""
    if block.ndim == 1 or block.shape[1] == 1:
        return block.reshape(-1)
    if block.shape[1] == 2:
        # several times faster than a mean along an axis of two
        return (block[:, 0] + block[:, 1]) * np.float32(0.5)
    return block.mean(axis=1, dtype=np.float32)


@attrs.frozen
class Decoded:
    """The facts of a finished decode. `identity` names the sound, whatever the tags or the file's name.

    `damage` is what was found by place, `state` that of the file when it was read, `contents` the digest of its bytes.
    """

    rate: int
    channels: int
    frames: int
    identity: str
    decoder: str
    delay_known: bool
    damage: tuple[Damage, ...] = ()
    state: State | None = None
    contents: str = ""

    @property
    def duration(self) -> float:
        """Length in seconds, from counted samples."""
        return self.frames / self.rate


def decode(
    source: Source,
    sink: Callable[[Samples], None],
    *,
    progress: Callable[[float], None] = lambda part: None,
) -> Decoded:
    """Decode all of `source` into `sink`, stereo at most, and identify what was heard.

    The identity is a SHA-256 over rate, channel count and the samples rounded to 16 bits, so that
    re-tagging, renaming or moving the file keeps it. Samples that are NaN or infinite become 0 and
    are counted among the damage.

    Parameters
    ----------
    sink
        Called with float32 (frames, 1 or 2) blocks in order.
    progress
        Called with the share done, 0 to 1; may raise to stop the decode.

    Raises
    ------
    AudioError
        Too short (under `SHORTEST`), digital silence, nothing but NaN, or too damaged.
    Changed
        The file was written to meanwhile: what was decoded is neither of its states.
    """
    _plausible(source.path, source.rate, source.channels)
    before = state_of(source.path)
    most = before.size * 8 / LEAST_BITS + _GRACE
    damage = [] if source.rate in USUAL_RATES else [Damage(RATE, 0.0, 0.0, source.rate)]
    channels = min(2, source.channels)
    digest = hashlib.sha256(f"{source.rate}/{channels}".encode())
    frames = repaired = first_bad = 0
    loudest = 0.0
    for whole in blocks(source, damage):
        block = whole[:, :2] if whole.shape[1] >= channels else np.repeat(whole[:, :1], channels, axis=1)
        # what is no number makes the sum none
        with np.errstate(invalid="ignore"):
            total = block.sum(dtype=np.float64)
        if not np.isfinite(total):
            bad = ~np.isfinite(block)
            first_bad = first_bad if repaired else frames + int(bad.any(axis=1).argmax())
            repaired += int(bad.sum())
            block[bad] = 0
        loudest = max(loudest, float(block.max()), -float(block.min()))
        if loudest < SILENT and frames > MOST_SILENCE * source.rate:
            raise AudioError(
                f"{shown(source.path)} begins with {MOST_SILENCE / 60:.0f} minutes of digital silence. Cut it off."
            )
        digest.update(np.rint(np.clip(block, -1, 1) * 32767).astype("<i2").tobytes())
        sink(np.ascontiguousarray(block, dtype=np.float32))
        frames += len(block)
        if frames > LONGEST * source.rate:
            raise AudioError(f"{shown(source.path)} lasts longer than {LONGEST / 3600:g} hours. {_SPLIT}")
        if frames > most * source.rate:
            raise AudioError(f"{shown(source.path)} never ends: {most / 3600:.1f} hours of sound in so small a file.")
        progress(min(1.0, frames / source.rate / source.duration) if source.duration else 0.0)
    if state_of(source.path) != before:
        raise Changed(f"{shown(source.path)} is being written to. Try again when it is finished.")
    seconds = frames / source.rate
    if seconds < SHORTEST:
        raise AudioError(
            f"{shown(source.path)} lasts {seconds:.2f} s: too short to hold beats ({SHORTEST:g} s at least)."
        )
    if repaired and repaired >= frames * channels:
        raise AudioError(f"{shown(source.path)} holds no valid samples: every one is NaN or infinite.")
    if loudest < SILENT:
        raise AudioError(f"{shown(source.path)} is digital silence: there is nothing to hear.")
    if why := too_much(damage, seconds):
        raise AudioError(f"{shown(source.path)} is too damaged to be trusted: {why}.")
    if repaired:
        damage.append(Damage(NAN, first_bad / source.rate, 0.0, repaired))
    identity = digest.hexdigest()[:40]
    told = tuple(sorted(damage, key=lambda d: d.at))
    try:
        contents = digest_of(source.path)
    except OSError:
        # its audio is known all the same
        contents = ""
    return Decoded(source.rate, channels, frames, identity, source.decoder, source.delay_known, told, before, contents)


class Resampler:
    """Mono at `to` samples a second from blocks at `rate`, with zero delay (soxr HQ)."""

    def __init__(self, rate: int, to: int) -> None:
        import soxr

        self._stream = soxr.ResampleStream(rate, to, 1, dtype="float32", quality="HQ") if rate != to else None

    def __call__(self, block: Samples, *, last: bool = False) -> Samples:
        """Take (frames,) or (frames, channels), give the mono samples that are ready."""
        mixed = mono(block)
        if self._stream is None:
            return mixed
        return np.asarray(
            self._stream.resample_chunk(np.ascontiguousarray(mixed), last=last),
            dtype=np.float32,
        )


def read(path: str | os.PathLike[str]) -> tuple[Samples, Decoded]:
    """Decode a whole file into memory: (frames, channels) float32 and the facts.

    Examples
    --------
    >>> samples, facts = read("demo.ogg")  # doctest: +SKIP
    >>> samples.shape[0] / facts.rate == facts.duration  # doctest: +SKIP
    True
    """
    parts: list[Samples] = []
    facts = decode(probe(Path(path)), parts.append)
    return np.concatenate(parts), facts
