"""A straightened recording as a file: FLAC, WAV or AIFF, in the bits of its source, read back to prove it whole."""

from __future__ import annotations

import hashlib
import os
import shutil
from collections.abc import Callable, Iterable
from pathlib import Path
from typing import BinaryIO, Protocol

import attrs
import numpy as np

from ..core.arrays import Singles
from ..core.errors import AudioError, Cancelled, FormatError
from ..core.sound.names import shown
from . import safe_file

KINDS = {".flac": "FLAC", ".wav": "WAV", ".aiff": "AIFF", ".aif": "AIFF"}
AT_ONCE = 1 << 15
FULL = 1.0 - 2.0**-15
"""The highest sample of 16 bits."""
_RIFF_MOST = 0xFFFF0000


class Rendered(Protocol):
    """Sound that is made when it is asked for, in order."""

    def read(self, start: int, count: int) -> Singles:
        """Frames `start` to `start + count`, (count, 2)."""
        ...


@attrs.frozen
class Written:
    """How a file was written: the gain it took (1 for none), and its highest sample before that, 1 is full scale."""

    gain: float
    peak: float


class TooLoud(FormatError):
    """It would clip; `peak` is the highest sample, 1 is full scale."""

    def __init__(self, name: str, peak: float) -> None:
        db = 20 * np.log10(peak)
        super().__init__(f"{name} would clip: between the old samples its peaks reach {db:+.2f} dB. Turn it down.")
        self.peak = peak


def bits_of(path: Path) -> int:
    """16 or 24, as the source has them: what is lossy or has fewer is kept in 16."""
    import soundfile

    try:
        with soundfile.SoundFile(os.fsencode(path)) as f:
            lossless = f.format in ("WAV", "WAVEX", "RF64", "FLAC", "AIFF", "CAF", "W64")
            return 24 if lossless and f.subtype in ("PCM_24", "PCM_32", "FLOAT", "DOUBLE") else 16
    except (soundfile.SoundFileError, OSError):
        return 16


def write(
    path: Path,
    sound: Callable[[], Rendered],
    frames: int,
    rate: int,
    *,
    channels: int,
    bits: int,
    turn_down: bool = True,
    dress: Callable[[Path], None] = lambda part: None,
    sources: Iterable[Path] = (),
    progress: Callable[[float], None] = lambda share: None,
    stop: Callable[[], bool] = lambda: False,
) -> Written:
    """Render and write; what clips is turned down as a whole, or refused.

    Parameters
    ----------
    sound : begins the rendering anew each time it is called
    dress : puts tags into the finished file before it gets its name
    sources : recordings that are never written over

    Raises
    ------
    TooLoud
        It would clip, and is not to be turned down.
    FormatError
        Another ending, or something stands there that is not written over, or it is too long for WAV and AIFF.
    Cancelled
        `stop` said so; nothing is written.
    OSError
        It can't be written.
    AudioError
        The recording can't be read any more, or what was written does not read back as it should.
    """
    kind = KINDS.get(path.suffix.lower())
    if kind is None:
        raise FormatError(f"{shown(path)}: a straightened recording is written as .flac, .wav or .aiff.")
    size = frames * channels * bits // 8
    if kind != "FLAC" and size > _RIFF_MOST:
        raise FormatError(f"{shown(path)} would be larger than 4 GB, which this format can't hold: write .flac.")
    known = tuple(sources)
    safe_file.check(path, safe_file.STRAIGHT, known)
    free = shutil.disk_usage(path.parent).free
    if free < size // 2:
        raise OSError(28, f"there are {free >> 20} MB left, and some {size >> 20} MB may be needed")
    out = Written(1.0, 0.0)

    def fill(f: BinaryIO) -> None:
        nonlocal out
        peak = _write(f, kind, sound(), (frames, rate, channels, bits), 1.0, progress, stop)
        gain = 1.0
        if peak > FULL:
            if not turn_down:
                raise TooLoud(shown(path), peak)
            gain = FULL / peak
            f.seek(0)
            f.truncate()
            _write(f, kind, sound(), (frames, rate, channels, bits), gain, progress, stop)
        # the tag writer opens it by name: what it writes is part of the same file
        f.flush()
        part = Path(os.readlink(f"/proc/self/fd/{f.fileno()}"))
        dress(part)
        out = Written(gain, peak)

    safe_file.write(path, fill, kind=safe_file.STRAIGHT, sources=known)
    return out


def fill(
    part: Path,
    sound: Callable[[], Rendered],
    frames: int,
    rate: int,
    *,
    channels: int,
    bits: int,
    progress: Callable[[float], None] = lambda share: None,
    stop: Callable[[], bool] = lambda: False,
) -> float:
    """Render into a file that is there and gets its name later; the gain it took. Raises as `write`."""
    form = (frames, rate, channels, bits)
    kind = KINDS[part.suffix.lower()]
    with part.open("r+b") as f:
        peak = _write(f, kind, sound(), form, 1.0, progress, stop)
        if peak <= FULL:
            return 1.0
        f.seek(0)
        f.truncate()
        _write(f, kind, sound(), form, FULL / peak, progress, stop)
        return FULL / peak


def _write(
    f: BinaryIO,
    kind: str,
    sound: Rendered,
    form: tuple[int, int, int, int],
    gain: float,
    progress: Callable[[float], None],
    stop: Callable[[], bool],
) -> float:
    """All frames into `f`, and read back; returns the peak before `gain`."""
    import soundfile

    frames, rate, channels, bits = form
    dither = np.random.default_rng(1)
    digest = hashlib.sha256()
    peak = 0.0
    number = os.dup(f.fileno())
    try:
        with soundfile.SoundFile(number, "w", rate, channels, f"PCM_{bits}", format=kind, closefd=False) as out:
            # not among the words that a person reads or writes
            out.software = safe_file.STRAIGHT_MARK.decode()
            for at in range(0, frames, AT_ONCE):
                if stop():
                    raise Cancelled("Nothing was written.")
                block = sound.read(at, min(AT_ONCE, frames - at))[:, :channels]
                peak = max(peak, float(np.abs(block).max(initial=0.0)))
                whole = rounded(block * np.float32(gain), bits, dither)
                digest.update(whole.tobytes())
                out.write(whole)
                progress(min(1.0, (at + len(block)) / frames))
    except soundfile.LibsndfileError as e:
        raise OSError(28, f"it can't be written: {e.error_string}") from None
    finally:
        os.close(number)
    if peak <= FULL or gain < 1:
        _prove(f, digest.digest(), bits)
    return peak


def rounded(block: Singles, bits: int, dither: np.random.Generator) -> np.ndarray:
    """Sound as whole steps of `bits`, left-aligned in 32.

    With triangular dither (Lipshitz, Wannamaker & Vanderkooy, J. Audio Eng. Soc. 40, 1992), unless it lies on such
    steps already.
    """
    full = 2.0 ** (bits - 1)
    x = block.astype(np.float64) * full
    whole = np.rint(x)
    if np.abs(x - whole).max(initial=0.0) > 1e-6:
        whole = np.rint(x + dither.random(x.shape) - dither.random(x.shape))
    return np.asarray(np.clip(whole, -full, full - 1).astype(np.int32) << (32 - bits), np.int32)


def _prove(f: BinaryIO, digest: bytes, bits: int) -> None:
    """Read back what was written: every sample must be there."""
    import soundfile

    f.flush()
    found = hashlib.sha256()
    number = os.open(f"/proc/self/fd/{f.fileno()}", os.O_RDONLY)
    try:
        with soundfile.SoundFile(number, closefd=False) as back:
            for block in back.blocks(AT_ONCE, dtype="int32", always_2d=True):
                found.update(np.ascontiguousarray(block).tobytes())
    except soundfile.SoundFileError as e:
        raise AudioError(f"What was written can't be read back: {e}") from None
    finally:
        os.close(number)
    if found.digest() != digest:
        raise AudioError("What was written doesn't read back as it was: is the disk sound?")
