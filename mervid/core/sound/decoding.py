"""Recordings in, float32 samples out.

Time zero is the first decoded sample after the encoder delay that the file itself declares
has been removed (docs/model.md says what that means for each codec). A file is decoded once,
from its start to its end; nothing ever seeks in a compressed file, because seeking in lossy
formats is not sample exact. Lossy formats, and everything in an MP4 or Matroska container, go
through FFmpeg (PyAV); plain PCM and FLAC go through libsndfile.
"""

from __future__ import annotations

import contextlib
import hashlib
import os
import stat
import unicodedata
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import attrs
import numpy as np
from numpy.typing import NDArray

from ..arrays import Samples
from ..errors import AudioError

PCM_SUFFIXES = {".wav", ".aif", ".aiff", ".aifc", ".flac"}
SUFFIXES = PCM_SUFFIXES | {".mp3", ".ogg", ".oga", ".opus", ".m4a", ".mp4", ".aac"}
SHORTEST = 1.0
BLOCK = 1 << 16
LEAST_RATE, MOST_RATE = 4_000, 768_000
"""Samples a second of what is taken for a recording."""
MOST_CHANNELS = 64
DEMUXERS = "mp3,ogg,mov,mp4,m4a,3gp,3g2,mj2,matroska,webm,aac,flac,wav,w64,aiff,caf"
"""What FFmpeg may take a file for: containers of sound alone. None of them names other files or addresses."""

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


def shown(path: str | os.PathLike[str]) -> str:
    """A file's name fit for one line of the screen: bytes that aren't UTF-8 become '�', what only moves the pen '·'.

    >>> shown("/music/line\\nbreak.wav")
    'line·break.wav'
    """
    name = os.fsencode(os.path.basename(os.fspath(path))).decode("utf-8", "replace")
    return "".join("·" if unicodedata.category(c) in ("Cc", "Zl", "Zp") or c in _TURNS else c for c in name)


_TURNS = "\u200e\u200f\u202a\u202b\u202c\u202d\u202e\u2066\u2067\u2068\u2069"
"""Marks that turn the direction of writing (Unicode 15, UAX #9): a name could pretend another ending."""


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
    if path.suffix.lower() in PCM_SUFFIXES:
        import soundfile

        # a FLAC in an Ogg, a WAV with AAC inside: FFmpeg may know it
        with contextlib.suppress(soundfile.SoundFileError), soundfile.SoundFile(os.fsencode(path)) as f:
            _plausible(path, f.samplerate, f.channels)
            seconds = f.frames / f.samplerate
            return Source(path, f.samplerate, f.channels, seconds, f"libsndfile {f.format}", True)
    return _probe_av(path)


def _plausible(path: Path, rate: int, channels: int) -> None:
    """Raise `AudioError` unless a recording can be so."""
    if not LEAST_RATE <= rate <= MOST_RATE:
        raise AudioError(f"{shown(path)} claims {rate} samples a second: that can't be right.")
    if not 1 <= channels <= MOST_CHANNELS:
        raise AudioError(f"{shown(path)} claims {channels} channels: that can't be right.")


def _open_av(path: Path):  # type: ignore[no-untyped-def]
    import av

    try:
        f = path.open("rb")
        # no other file and no network: what a file says about others is not followed
        return f, av.open(f, mode="r", options={"format_whitelist": DEMUXERS, "protocol_whitelist": "none"})
    except PermissionError:
        raise AudioError(f"{shown(path)} may not be read: you have no permission.") from None
    except (av.FFmpegError, ValueError, OSError):
        raise AudioError(
            f"{shown(path)} is not a recording Mervid can read (WAV, AIFF, FLAC, MP3, Ogg, Opus or M4A)."
        ) from None


def _probe_av(path: Path) -> Source:
    f, box = _open_av(path)
    with f, box:
        if not box.streams.audio:
            raise AudioError(f"{shown(path)} holds no sound.")
        s = box.streams.audio[0]
        # a stream in a code that nobody knows has neither
        rate, channels = getattr(s, "rate", 0) or 0, getattr(s, "channels", 0) or 0
        if not rate or not channels:
            raise AudioError(f"{shown(path)} is damaged: it doesn't say its sample rate.")
        _plausible(path, rate, channels)
        if s.duration and s.time_base:
            seconds = float(s.duration * s.time_base)
        else:
            seconds = box.duration / 1e6 if box.duration else 0.0
        codec = s.codec_context.name
        raw = box.format.name in {"mp3", "aac"}
        known = not raw or (codec.startswith("mp3") and _mp3_has_delay_tag(path))
        return Source(path, rate, channels, max(0.0, seconds), f"FFmpeg {codec}", known)


def _mp3_has_delay_tag(path: Path) -> bool:
    """True when the first frame of an MP3 is an Info or Xing header with the encoder's delay."""
    with path.open("rb") as f:
        head = f.read(10)
        if head[:3] == b"ID3" and len(head) == 10:
            a, b, c, d = head[6:10]
            f.seek(10 + (a << 21 | b << 14 | c << 7 | d))
        else:
            f.seek(0)
        frame = f.read(4096)
    return (b"Xing" in frame or b"Info" in frame) and (b"LAME" in frame or b"Lav" in frame)


def blocks(source: Source) -> Iterator[Samples]:
    """Decode from first to last sample.

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
        yield from _blocks_sndfile(source)
    else:
        yield from _blocks_av(source)


def _blocks_sndfile(source: Source) -> Iterator[Samples]:
    import soundfile

    try:
        with soundfile.SoundFile(os.fsencode(source.path)) as f:
            # the header's frame count can lie: read until nothing comes
            while len(block := f.read(BLOCK, dtype="float32", always_2d=True)):
                yield block
    except (soundfile.SoundFileError, OSError) as e:
        raise AudioError(f"{shown(source.path)} is damaged: {e}") from None


def _blocks_av(source: Source) -> Iterator[Samples]:
    import av

    f, box = _open_av(source.path)
    with f, box:
        stream = box.streams.audio[0]
        planar = av.AudioResampler(format="fltp")
        waste = heaped = 0
        heap: list[NDArray[Any]] = []
        got = False
        try:
            packets = box.demux(stream)
            while True:
                try:
                    packet = next(packets)
                    frames = packet.decode()
                except StopIteration:
                    break
                except av.error.InvalidDataError:
                    waste += 1
                    if waste > 200:
                        break
                    continue
                for frame in frames:
                    for out in planar.resample(frame):
                        block = out.to_ndarray()
                        if block.shape[1]:
                            got = True
                            heap.append(block)
                            heaped += block.shape[1]
                # a packet is a few hundred frames: hand on larger blocks
                if heaped >= BLOCK:
                    yield np.ascontiguousarray(np.concatenate(heap, axis=1).T, dtype=np.float32)
                    heap, heaped = [], 0
        except (av.FFmpegError, OSError) as e:
            raise AudioError(f"{shown(source.path)} is damaged: {e}") from None
        if heap:
            yield np.ascontiguousarray(np.concatenate(heap, axis=1).T, dtype=np.float32)
        if not got:
            raise AudioError(f"{shown(source.path)} is damaged: no sound could be decoded from it.")


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
    """The facts of a finished decode. `identity` names the sound, whatever the tags or the file's name."""

    rate: int
    channels: int
    frames: int
    identity: str
    decoder: str
    delay_known: bool
    repaired: int = 0

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
    are counted in `repaired`.

    Parameters
    ----------
    sink
        Called with float32 (frames, 1 or 2) blocks in order.
    progress
        Called with the share done, 0 to 1; may raise to stop the decode.

    Raises
    ------
    AudioError
        Too short (under 1 s), digital silence, nothing but NaN, or damaged.
    """
    _plausible(source.path, source.rate, source.channels)
    channels = min(2, source.channels)
    digest = hashlib.sha256(f"{source.rate}/{channels}".encode())
    frames = repaired = 0
    loudest = 0.0
    for whole in blocks(source):
        block = whole[:, :2] if whole.shape[1] >= channels else np.repeat(whole[:, :1], channels, axis=1)
        bad = ~np.isfinite(block)
        if bad.any():
            repaired += int(bad.sum())
            block[bad] = 0
        loudest = max(loudest, float(np.abs(block).max()))
        digest.update(np.rint(np.clip(block, -1, 1) * 32767).astype("<i2").tobytes())
        sink(np.ascontiguousarray(block, dtype=np.float32))
        frames += len(block)
        if source.duration:
            progress(min(1.0, frames / source.rate / source.duration))
    seconds = frames / source.rate
    if seconds < SHORTEST:
        raise AudioError(f"{shown(source.path)} lasts {seconds:.2f} s: too short to hold beats (1 s at least).")
    if repaired and repaired >= frames * channels:
        raise AudioError(f"{shown(source.path)} holds no valid samples: every one is NaN or infinite.")
    if loudest < 1e-5:
        raise AudioError(f"{shown(source.path)} is digital silence: there is nothing to hear.")
    return Decoded(
        source.rate,
        channels,
        frames,
        digest.hexdigest()[:40],
        source.decoder,
        source.delay_known,
        repaired,
    )


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
