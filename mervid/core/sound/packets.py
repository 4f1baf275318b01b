"""The coded sound of a file, whatever its tags: a hash over its packets, as they lie in the container."""

from __future__ import annotations

import hashlib
from pathlib import Path

from ..errors import AudioError
from . import ffmpeg
from .names import shown


def digest(path: Path) -> str:
    """SHA-256 over the packets of the first stream of sound; no sample is decoded.

    Raises
    ------
    AudioError
        It can't be read, or holds no sound.
    """
    import av

    found = hashlib.sha256()
    f, box = ffmpeg.opened(path)
    with f, box:
        if not box.streams.audio:
            raise AudioError(f"{shown(path)} holds no sound.")
        try:
            for packet in box.demux(box.streams.audio[0]):
                if packet.size:
                    found.update(bytes(packet))
        except av.FFmpegError as e:
            raise AudioError(f"{shown(path)} can't be read to its end: {e.strerror}.") from None
    return found.hexdigest()
