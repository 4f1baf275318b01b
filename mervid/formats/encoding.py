"""A recording in another format: resampled where it must be, rounded with dither, or coded where that is asked for."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import numpy as np

from ..core.arrays import Samples
from ..core.errors import AudioError, Cancelled, FormatError
from ..core.sound import decoding
from ..core.sound.names import shown
from .straight_files import FULL, KINDS, rounded

LOSSY = {".mp3": ("mp3", "libmp3lame"), ".m4a": ("mp4", "aac")}
_AT_ONCE = 4096
ROOMY_KBPS = 192
"""From this rate on AAC is searched for in the quick way: three times as fast, with 2 to 4 dB less noise on the demo
set than by the search that thins out what a low rate has no room for."""


def bits_of(path: Path) -> int:
    """Bits of a sample of what is lossless, 16 or 24; 0 for what is not, or isn't known."""
    import soundfile

    try:
        with soundfile.SoundFile(os.fsencode(path)) as f:
            if f.format not in ("WAV", "WAVEX", "RF64", "FLAC", "AIFF"):
                return 0
            return 16 if f.subtype in ("PCM_16", "PCM_S8", "PCM_U8") else 24
    except (soundfile.SoundFileError, OSError):
        return 0


def _sound(source: Path, rate: int) -> Iterator[Samples]:
    """The recording in blocks, (n, 1 or 2), at `rate` Hz (soxr VHQ, no delay)."""
    import soxr

    found = decoding.probe(source)
    channels = min(2, found.channels)
    stream = (
        soxr.ResampleStream(found.rate, rate, channels, dtype="float32", quality="VHQ") if rate != found.rate else None
    )
    for whole in decoding.blocks(found, []):
        block = np.ascontiguousarray(np.nan_to_num(whole[:, :channels], posinf=0.0, neginf=0.0))
        yield block if stream is None else stream.resample_chunk(block).reshape(-1, channels)
    if stream is not None:
        yield stream.resample_chunk(np.zeros((0, channels), np.float32), last=True).reshape(-1, channels)


def convert(
    source: Path,
    target: Path,
    *,
    rate: int,
    bits: int = 16,
    kbps: int = 320,
    progress: Callable[[float], None] = lambda share: None,
    stop: Callable[[], bool] = lambda: False,
) -> float:
    """Write a recording as what the ending of `target` says; returns the gain that was needed, 1 for none.

    Parameters
    ----------
    bits : 16 or 24, of what is lossless
    kbps : of what is lossy

    Raises
    ------
    FormatError
        A lossy recording is not coded lossily again; or another ending.
    AudioError
        The recording can't be read.
    Cancelled
        `stop` said so.
    OSError
        It can't be written.
    """
    ending = target.suffix.lower()
    if ending in LOSSY and not _is_lossless(source):
        raise FormatError(f"{shown(source)} has lost something already: it is never coded lossily again.")
    peak = _once(source, target, (rate, bits, kbps), 1.0, progress, stop)
    if peak <= FULL:
        return 1.0
    # what rises over full scale when it is decoded would be cut off
    gain = FULL / peak
    _once(source, target, (rate, bits, kbps), gain, progress, stop)
    return gain


def _is_lossless(path: Path) -> bool:
    decoder = decoding.probe(path).decoder
    return decoder in ("FFmpeg alac", "FFmpeg flac") or decoder.split()[-1] in ("WAV", "WAVEX", "RF64", "AIFF", "FLAC")


def _once(
    source: Path,
    target: Path,
    form: tuple[int, int, int],
    gain: float,
    progress: Callable[[float], None],
    stop: Callable[[], bool],
) -> float:
    rate, bits, kbps = form
    found = decoding.probe(source)
    channels = min(2, found.channels)
    expected = max(1.0, found.duration * rate)
    sink: _Plain | _Coded
    ending = target.suffix.lower()
    if ending in KINDS:
        sink = _Plain(target, KINDS[ending], rate, channels, bits)
    elif ending in LOSSY:
        sink = _Coded(target, *LOSSY[ending], rate, channels, kbps)
    else:
        raise FormatError(f"{shown(target)}: nothing is written as '{ending}'.")
    peak, done = 0.0, 0
    try:
        for block in _sound(source, rate):
            if stop():
                raise Cancelled("The rest was not written.")
            peak = max(peak, float(np.abs(block).max(initial=0.0)))
            sink.push(block * np.float32(gain))
            done += len(block)
            progress(min(1.0, done / expected))
    finally:
        sink.close()
    if not done:
        raise AudioError(f"{shown(source)} holds no sound.")
    return peak


class _Plain:
    """WAV, AIFF or FLAC."""

    def __init__(self, target: Path, kind: str, rate: int, channels: int, bits: int) -> None:
        import soundfile

        self._bits, self._dither = bits, np.random.default_rng(1)
        self._error = soundfile.LibsndfileError
        try:
            self._file = soundfile.SoundFile(os.fsencode(target), "w", rate, channels, f"PCM_{bits}", format=kind)
        except soundfile.LibsndfileError as e:
            raise OSError(5, f"it can't be written: {e.error_string}") from None

    def push(self, block: Samples) -> None:
        try:
            self._file.write(rounded(block, self._bits, self._dither))
        except self._error as e:
            raise OSError(28, f"it can't be written: {e.error_string}") from None

    def close(self) -> None:
        self._file.close()


class _Coded:
    """MP3 or AAC by FFmpeg, which notes the run-up, so that readers leave it out."""

    def __init__(self, target: Path, box: str, codec: str, rate: int, channels: int, kbps: int) -> None:
        import av

        self._rate, self._layout, self._at = rate, "stereo" if channels == 2 else "mono", 0
        self._av: Any = av
        self._box: Any = av.open(os.fsdecode(target), "w", format=box)
        options = {"aac_coder": "fast"} if codec == "aac" and kbps >= ROOMY_KBPS else {}
        added: Any = self._box.add_stream(codec, rate=rate, options=options)
        self._stream = added
        self._stream.layout = self._layout
        self._stream.bit_rate = kbps * 1000

    def push(self, block: Samples) -> None:
        for a in range(0, len(block), _AT_ONCE):
            part = np.ascontiguousarray(block[a : a + _AT_ONCE].T.clip(-1, 1))
            frame = self._av.AudioFrame.from_ndarray(part, format="fltp", layout=self._layout)
            frame.sample_rate, frame.pts = self._rate, self._at
            self._at += part.shape[1]
            self._box.mux(self._stream.encode(frame))

    def close(self) -> None:
        try:
            self._box.mux(self._stream.encode(None))
            self._box.close()
        except self._av.FFmpegError as e:
            raise OSError(28, f"it can't be written: {e.strerror}") from None
