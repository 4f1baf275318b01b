"""The frames of an MP3 or ADTS stream, counted in the file itself: neither has timestamps.

A decoder that meets damage goes on at the next frame and says nothing of those it passed over. Here each frame is found
by its header (ISO/IEC 11172-3 and 13818-3 for MP3, ISO/IEC 13818-7 for ADTS), and what lies between two chains of
frames is measured in frames. An MP3's own count of frames (its Xing or Info header) tells what was cut out.
"""

from __future__ import annotations

import mmap
from bisect import bisect_left
from collections.abc import Callable
from pathlib import Path

import attrs
import numpy as np

from .damage import AFTER, BROKEN, CUT, DOUBTED, LONG, SHORT, SKIPPED, SPOILED, Damage

_Head = tuple[int, int, int, tuple[int, ...]]
"""Bytes of a frame, its samples, samples a second, and what all frames of a stream share."""
_Bytes = bytes | mmap.mmap
_Reader = Callable[[_Bytes, int], _Head | None]
_RATES = {3: (44100, 48000, 32000), 2: (22050, 24000, 16000), 0: (11025, 12000, 8000)}
_KBPS = {
    (1, 1): (32, 64, 96, 128, 160, 192, 224, 256, 288, 320, 352, 384, 416, 448),
    (1, 2): (32, 48, 56, 64, 80, 96, 112, 128, 160, 192, 224, 256, 320, 384),
    (1, 3): (32, 40, 48, 56, 64, 80, 96, 112, 128, 160, 192, 224, 256, 320),
    (2, 1): (32, 48, 56, 64, 80, 96, 112, 128, 144, 160, 176, 192, 224, 256),
    (2, 2): (8, 16, 24, 32, 40, 48, 56, 64, 80, 96, 112, 128, 144, 160),
}
"""kbit/s by MPEG version (1, or 2 and 2.5) and layer; layers 2 and 3 of MPEG 2 share a row (ISO/IEC 13818-3)."""
_ADTS_RATES = (96000, 88200, 64000, 48000, 44100, 32000, 24000, 22050, 16000, 12000, 11025, 8000, 7350)
_SURE = 3
"""Headers in a row that make a chain: noise holds single ones."""
_FAR = 1 << 20
"""Bytes to look through for the next chain: what lies further is another file."""
HEAD = 24
"""Bytes by which a frame is told from others."""
_OFF = 16384
"""Bytes by which a demuxer may be off."""
_UNSURE = 2
"""Frames by which counts differ from encoder to encoder; only the count of bytes tells more."""
_NEAR = 20
"""Frames around a hole that tell how large frames are there."""


@attrs.frozen(eq=False)
class Frames:
    """The frames of a stream.

    Attributes
    ----------
    at : (n,) places of frames in the file, bytes, ascending
    heads : (n,) the first bytes of each
    index : (n,) number of each frame, lost ones counted, the first is 0
    samples : samples of each frame
    rate : samples a second
    damage : what was found on the way, by time; missing stretches are not in it
    """

    at: list[int]
    heads: list[bytes]
    index: list[int]
    samples: int
    rate: int
    damage: tuple[Damage, ...]

    def find(self, data: bytes, place: int, after: int) -> int | None:
        """Which frame a demuxer's packet is, by its bytes: behind frame `after`, near `place`; None when it is none.

        Places alone don't tell: behind damage, demuxers are off by part of a frame.
        """
        head = data[:HEAD]
        for i in range(max(after + 1, bisect_left(self.at, place - _OFF)), len(self.at)):
            if self.heads[i] == head:
                return i
            if self.at[i] > place + _OFF:
                break
        return None


def _mpeg(b: _Bytes, i: int) -> _Head | None:
    if i + 4 > len(b) or b[i] != 0xFF or b[i + 1] & 0xE0 != 0xE0:
        return None
    version, layer = b[i + 1] >> 3 & 3, 4 - (b[i + 1] >> 1 & 3)
    kbps, rate, padding = b[i + 2] >> 4, b[i + 2] >> 2 & 3, b[i + 2] >> 1 & 1
    if version == 1 or layer == 4 or kbps in (0, 15) or rate == 3:
        return None
    first = version == 3
    speed = _KBPS[1 if first else 2, layer if first else min(layer, 2)][kbps - 1] * 1000
    hz = _RATES[version][rate]
    samples = 384 if layer == 1 else 1152 if layer == 2 or first else 576
    size = (12 * speed // hz + padding) * 4 if layer == 1 else samples // 8 * speed // hz + padding
    return size, samples, hz, (version, layer, hz)


def _adts(b: _Bytes, i: int) -> _Head | None:
    if i + 7 > len(b) or b[i] != 0xFF or b[i + 1] & 0xF6 != 0xF0:
        return None
    rate = b[i + 2] >> 2 & 15
    size = (b[i + 3] & 3) << 11 | b[i + 4] << 3 | b[i + 5] >> 5
    if rate >= len(_ADTS_RATES) or size < 7:
        return None
    channels = (b[i + 2] & 1) << 2 | b[i + 3] >> 6
    return size, 1024 * ((b[i + 6] & 3) + 1), _ADTS_RATES[rate], (b[i + 2] >> 6, rate, channels)


def tag_size(b: _Bytes, i: int = 0) -> int:
    """Bytes of an ID3 tag that begins at `i`, else 0 (ID3v2.4, section 3)."""
    head = b[i : i + 10]
    if head[:3] != b"ID3" or len(head) < 10:
        return 0
    p, q, r, s = (x & 0x7F for x in head[6:10])
    return 10 + (p << 21 | q << 14 | r << 7 | s) + (10 if head[5] & 0x10 else 0)


def _end(b: _Bytes) -> int:
    """Where tags at the end of a file begin: ID3v1, Lyrics3 2.00 and APE, in whatever order."""
    end = len(b)
    while True:
        if end >= 128 and b[end - 128 : end - 125] == b"TAG":
            end -= 128
        elif end >= 32 and b[end - 32 : end - 24] == b"APETAGEX":
            size, flags = (int.from_bytes(b[end - k : end - k + 4], "little") for k in (20, 12))
            end -= min(end, size + (32 if flags >> 31 else 0))
        elif end >= 15 and b[end - 9 : end] == b"LYRICS200" and b[end - 15 : end - 9].isdigit():
            end -= min(end, 15 + int(b[end - 15 : end - 9]))
        else:
            return end


def _chained(b: _Bytes, i: int, end: int, read: _Reader, kind: tuple[int, ...] | None) -> bool:
    """Whether a chain of frames begins at `i`, or the sound ends before that could be told."""
    for n in range(_SURE):
        head = read(b, i)
        if head is None or (kind is not None and head[3] != kind):
            return False
        kind = head[3]
        i += head[0]
        if i >= end or tag_size(b, i):
            return n > 0 or i == end
    return True


def _next(b: _Bytes, i: int, end: int, read: _Reader, kind: tuple[int, ...] | None) -> int:
    """Where the next chain begins at or after `i`; -1 where there is none."""
    last = min(end, i + _FAR)
    while (i := b.find(b"\xff", i, last)) >= 0:
        if _chained(b, i, end, read, kind):
            return i
        i += 1
    return -1


@attrs.frozen
class _Stated:
    """What the header of an MP3 says: frames and bytes of its stream (0: nothing), and whether the header is whole."""

    tagged: bool = False
    frames: int = 0
    bytes: int = 0
    whole: bool = True


def _stated(b: _Bytes, at: int, size: int) -> _Stated:
    """What the frame at `at` says where it is a header (Xing, Info or VBRI).

    The Info header of newer encoders ends in a checksum of the frame's first 190 bytes (CRC-16, polynomial 0x8005,
    reflected; recalled from memory, as is the order of the fields: flags, frames, bytes).
    """
    frame = bytes(b[at : at + size])
    if frame[36:40] == b"VBRI":
        return _Stated(True, int.from_bytes(frame[50:54], "big"), int.from_bytes(frame[46:50], "big"))
    i = max(frame.find(b"Xing", 0, 52), frame.find(b"Info", 0, 52))
    if i < 0:
        return _Stated()
    flags = frame[i + 7] if i + 16 <= len(frame) else 0
    frames = int.from_bytes(frame[i + 8 : i + 12], "big") if flags & 1 else 0
    length = int.from_bytes(frame[i + 12 : i + 16], "big") if flags & 3 == 3 else 0
    end = i + 0x9A
    has_sum = end + 2 <= len(frame) and tells_delay(frame, i)
    whole = not has_sum or _crc16(frame[:end]) == int.from_bytes(frame[end : end + 2], "big")
    return _Stated(True, frames, length, whole)


def tells_delay(frame: bytes, at: int) -> bool:
    """Whether the Xing or Info header at `at` goes on with its encoder's name, and so with its delay."""
    return frame[at + 120 : at + 124] == b"LAME" or frame[at + 120 : at + 123] == b"Lav"


def has_delay(path: Path) -> bool:
    """Whether the first frame of an MP3 is an Info or Xing header with the encoder's delay."""
    with path.open("rb") as f:
        f.seek(tag_size(f.read(10)))
        frame = f.read(4096)
    at = max(frame.find(b"Xing"), frame.find(b"Info"))
    return at >= 0 and tells_delay(frame, at)


def _crc16(data: bytes) -> int:
    """CRC-16, polynomial 0x8005, reflected.

    >>> hex(_crc16(b"123456789"))
    '0xbb3d'
    """
    crc = 0
    for byte in data:
        crc ^= byte
        for _ in range(8):
            crc = crc >> 1 ^ (0xA001 if crc & 1 else 0)
    return crc


def scan(path: Path, form: str) -> Frames | None:
    """Find the frames of an 'mp3' or 'aac' file; None where its frames can't be followed."""
    with path.open("rb") as f, mmap.mmap(f.fileno(), 0, access=mmap.ACCESS_READ) as b:
        return frames_of(b, form)


def frames_of(b: _Bytes, form: str) -> Frames | None:
    """Find the frames in the bytes of an 'mp3' or 'aac' file; None where they can't be followed."""
    read = _mpeg if form == "mp3" else _adts
    i = 0
    while size := tag_size(b, i):
        i += size
    end = _end(b)
    start = _next(b, i, end, read, None)
    if start < 0:
        return None
    first = read(b, start)
    assert first is not None
    size, samples, rate, kind = first
    said = _stated(b, start, size) if form == "mp3" else _Stated()
    stated = said.frames
    at: list[int] = []
    sizes: list[int] = []
    holes: list[tuple[int, int]] = []  # frames before it, bytes
    damage = [Damage(SKIPPED, 0.0, 0.0, start - i)] if start > i else []
    if not said.whole:
        damage.append(Damage(DOUBTED, 0.0))
    i = start + size if said.tagged else start
    while i < end:
        head = read(b, i)
        if head is not None and head[3] == kind:
            if i + head[0] > end:
                break
            at.append(i)
            sizes.append(head[0])
            i += head[0]
            continue
        if size := tag_size(b, i):
            i += size
            continue
        # the frame before may have lost its own end
        j = _next(b, at[-1] + 4 if at else i, end, read, kind)
        if j < 0:
            break
        holes.append((len(at), j - i))
        i = j
    if not at:
        return None
    lost, rest = _lost(sizes, holes, stated, ends=i >= end)
    steps = np.ones(len(at), int)
    steps[0] = 0
    for (k, size), n in zip(holes, lost, strict=True):
        if 0 < k < len(at):
            steps[k] += n
        if not stated:
            # bytes may have been cut out besides, and nothing tells
            damage.append(Damage(BROKEN, k * samples / rate))
        elif not n:
            damage.append(Damage(SKIPPED if size > 0 else SPOILED, k * samples / rate, 0.0, max(0, size)))
    index = np.cumsum(steps)
    length = (int(index[-1]) + 1) * samples / rate
    fewer = said.bytes - (end - start) if said.bytes else 0
    if rest > _UNSURE or (rest > 0 and fewer >= rest * min(sizes)):
        damage.append(Damage(SHORT, length, rest * samples / rate))
    elif rest < -_UNSURE or (rest < 0 and -fewer >= -rest * min(sizes)):
        damage.append(Damage(LONG, length, -rest * samples / rate))
    elif i < end:
        damage.append(Damage(CUT, length) if read(b, i) else Damage(AFTER, length, 0.0, end - i))
    heads = [bytes(b[k : min(k + size, k + HEAD)]) for k, size in zip(at, sizes, strict=True)]
    return Frames(at, heads, index.tolist(), samples, rate, tuple(damage))


def _lost(sizes: list[int], holes: list[tuple[int, int]], stated: int, *, ends: bool) -> tuple[list[int], int]:
    """Frames lost in each hole, and how many are missing at the end.

    Parameters
    ----------
    sizes : bytes of each frame that was found
    holes : (frames before it, bytes) of each
    stated : frames that the header counts, 0 where it doesn't
    ends : whether the last frame ends where the sound does
    """
    known = np.array(sizes, float)
    lost = [max(0, round(size / float(known[max(0, k - _NEAR) : k + _NEAR].mean()))) for k, size in holes]
    rest = stated - len(sizes) - sum(lost) if stated else 0
    if holes and rest and ends:
        # what the header counts and nobody found was cut out at the holes: at the largest
        k = int(np.argmax([size for _, size in holes]))
        lost[k], rest = max(0, lost[k] + rest), 0
    return lost, rest
