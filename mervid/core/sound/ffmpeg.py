"""Compressed recordings through FFmpeg (PyAV): opened from a short list of containers, and kept in time over damage.

What a file says of other files or addresses is not followed. A decoder drops what it can't read; here each piece is put
where its timestamp says, or, in streams without timestamps, where its frame is counted.
"""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Any, BinaryIO

import attrs
import numpy as np
from numpy.typing import NDArray

from ..arrays import Samples
from ..errors import AudioError
from . import frame_scan, mp4_tables, ogg_pages, stated_length
from .damage import BROKEN, LEAST_SHORT, MISSING, SHORT, TWICE, Damage, clock
from .names import shown

BLOCK = 1 << 16
DEMUXERS = "mp3,ogg,mov,mp4,m4a,3gp,3g2,mj2,matroska,webm,aac,flac,wav,w64,aiff,caf"
"""What FFmpeg may take a file for: containers of sound alone. None of them names other files or addresses."""
RAW = ("mp3", "aac")
"""Streams without timestamps."""
_LEAST_JUMP = 0.002
"""s; timestamps jitter by less, and no codec's frame is shorter."""
_WAITS = 1.5
"""Ticks of a stream's clock by which rounding alone may move a timestamp."""
_COARSE = 1e-4
"""s; a clock with longer ticks doesn't tell samples."""
_MOST_GAP = 60.0
"""s; a longer jump, beyond the end that the file states, is nonsense."""
_MOST_REPEATED = 30.0
"""s by which a clock may go back where a piece stands twice."""
_MOST_OPEN = 60.0
"""s of sound that may wait for the end of its page."""
_MOST_ZEROS = 1 << 20
"""Bytes."""
_MOST_SPOILED = 1 << 14
"""Packets that can't be decoded."""


@attrs.frozen
class Stream:
    """What the file says: samples a second, channels, length in s (0 where it doesn't tell), codec and container."""

    rate: int
    channels: int
    duration: float
    codec: str
    container: str


def opened(path: Path):  # type: ignore[no-untyped-def]
    """The file and its container, opened from the short list alone. Raises `AudioError`."""
    import av

    try:
        f = path.open("rb")
    except PermissionError:
        raise AudioError(f"{shown(path)} may not be read: you have no permission.") from None
    if _empty_start(f):
        f.close()
        raise AudioError(f"{shown(path)} is not a recording: it begins with {_MOST_ZEROS >> 20} MB of zeros.")
    try:
        return f, av.open(f, mode="r", options={"format_whitelist": DEMUXERS, "protocol_whitelist": "none"})
    except MemoryError as e:
        f.close()
        if isinstance(e, av.FFmpegError):
            raise AudioError(f"{shown(path)} is damaged: it asks for more memory than any recording needs.") from None
        raise
    except (av.FFmpegError, ValueError, OSError):
        f.close()
        raise AudioError(
            f"{shown(path)} is not a recording Mervid can read (WAV, AIFF, FLAC, MP3, Ogg, Opus or M4A)."
        ) from None


def _empty_start(f: BinaryIO) -> bool:
    """Whether a file begins with `_MOST_ZEROS` bytes of nothing: demuxers look through gigabytes of it."""
    f.seek(frame_scan.tag_size(f.read(10)))
    start = f.read(_MOST_ZEROS)
    f.seek(0)
    return len(start) == _MOST_ZEROS and not any(start)


def probe(path: Path) -> Stream:
    """Open `path` far enough to know its sound. Raises `AudioError` where there is none."""
    f, box = opened(path)
    with f, box:
        if not box.streams.audio:
            raise AudioError(f"{shown(path)} holds no sound.")
        s = box.streams.audio[0]
        # a stream in a code that nobody knows has neither
        rate, channels = getattr(s, "rate", 0) or 0, getattr(s, "channels", 0) or 0
        if not rate or not channels:
            raise AudioError(f"{shown(path)} is damaged: it doesn't say its sample rate.")
        return Stream(rate, channels, _length(box, s), s.codec_context.name, box.format.name)


class _Counted:
    """Places of frames in a stream without timestamps, by their own count."""

    def __init__(self, frames: frame_scan.Frames) -> None:
        self._frames, self._last, self._next = frames, -1, 0
        self._samples = frames.samples
        self.damage = frames.damage

    def known(self, packet: Any) -> bool:
        """Whether a packet is a frame of this stream; the next piece is then looked for behind it."""
        if not packet.size:
            return True
        found = self._frames.find(bytes(packet)[: frame_scan.HEAD], packet.pos or 0, self._last)
        if found is not None:
            self._last = found
        return found is not None

    def missing(self, frame: Any) -> int:
        """Samples that are lost before `frame`, decoded from the packet that was asked for last."""
        number = self._frames.index[self._last] if self._last >= 0 else 0
        lost, self._next = number - self._next, number + 1
        # some decoders give twice the samples that their frames name, and the first frame is cut
        self._samples = max(self._samples, frame.samples)
        return max(0, lost) * self._samples


class _Timed:
    """Places of frames by the timestamps of their container."""

    damage: tuple[Damage, ...] = ()

    def __init__(self, rate: int, tick: float) -> None:
        self._rate, self._coarse = rate, tick > _COARSE
        self._least = round(max(_LEAST_JUMP, _WAITS * tick) * rate)
        self._next: int | None = None
        self._usual = 0

    def known(self, packet: Any) -> bool:
        """Whether a packet belongs to the sound; the first one tells where it begins."""
        if self._next is None and packet.size and packet.pts is not None:
            # what lies before time zero is an encoder's run-up
            self._next = max(0, round(float(packet.pts * packet.time_base) * self._rate))
        return True

    def run_up(self) -> None:
        """A packet before the first sound gave none, as the first of some codecs never does: the next one begins."""
        if not self._usual:
            self._next = None

    def repeated(self, frame: Any) -> bool:
        """Whether `frame` lies where something was taken already: a piece of the file stands in it twice."""
        if self._next is None or frame.pts is None:
            return False
        at = round(float(frame.pts * frame.time_base) * self._rate)
        # a clock that begins anew is another part of the recording
        return self._unrest + frame.samples / 2 < self._next - at < _MOST_REPEATED * self._rate

    @property
    def _unrest(self) -> float:
        """Samples by which timestamps may jump to and fro: those in ms were often copied from unsteady ones."""
        return max(self._least, 0.75 * self._usual if self._coarse else 0.0)

    def missing(self, frame: Any) -> int:
        """Samples that are lost before `frame`."""
        at = self._next if frame.pts is None else round(float(frame.pts * frame.time_base) * self._rate)
        jump = at - self._next if self._next is not None and at is not None else 0
        self._next = None if at is None else at + frame.samples
        if jump <= self._unrest:
            self._usual = max(self._usual, frame.samples)
            return 0
        if self._coarse and self._usual:
            # a clock of milliseconds can't tell samples, but lost frames are whole
            return max(1, round(jump / self._usual)) * self._usual
        self._usual = max(self._usual, frame.samples)
        return jump


class _Paged:
    """Places of pieces by the granule positions at the ends of an Ogg file's pages."""

    def __init__(self, pages: ogg_pages.Pages) -> None:
        self._pages, self.damage = pages, pages.damage
        self._key: ogg_pages.Packet = (-1, 0)
        self._base: int | None = None

    def known(self, packet: Any) -> bool:
        """Note which packet comes."""
        place = packet.pos or 0
        if packet.size:
            self._key = (place, self._key[1] + 1 if self._key[0] == place else 0)
        if self._key == (place, 0) and place in self._pages.chained:
            self._base = None
        return place not in self._pages.repeated

    @property
    def after_hole(self) -> bool:
        """Whether something is lost before the packet that was noted last."""
        return self._key[1] == 0 and self._key[0] in self._pages.after_hole

    def missing(self, have: int, *, hole: bool) -> int | None:
        """Samples lost since the last page's end, now that there are `have`; None within a page.

        Parameters
        ----------
        hole : whether something is known to be lost
        """
        end = self._pages.ends.get(self._key)
        if end is None:
            return None
        if self._base is None:
            # where the first page that counts is lost, nothing tells but what all such files have in common
            first = self._key == self._pages.first or self._key[0] >= min(self._pages.chained, default=1 << 62)
            self._base = end - have if first and not hole else self._pages.skip
        return max(0, end - self._base - have)


class _Take:
    """Decoded pieces on their way out; those since the last settled place may still get silence before them."""

    def __init__(self, path: Path, rate: int, stated: float, damage: list[Damage]) -> None:
        self._path, self._rate, self._stated, self._damage = path, rate, stated, damage
        self._settled: list[NDArray[Any]] = []
        self._open: list[NDArray[Any]] = []
        self._ready = self.written = self._channels = self._waiting = 0
        self._hole: int | None = None

    @property
    def seconds(self) -> float:
        """Length of all that was taken."""
        return self.written / self._rate

    @property
    def holed(self) -> bool:
        """Whether a hole waits to be measured."""
        return self._hole is not None

    def add(self, piece: NDArray[Any]) -> None:
        """Take (channels, frames)."""
        if piece.shape[1]:
            self._open.append(piece)
            self._waiting += piece.shape[1]
            self.written += piece.shape[1]

    def expect(self, channels: int) -> None:
        """Raise `AudioError` where a frame has another number of channels than those before it."""
        if channels != (self._channels or channels):
            raise AudioError(f"{shown(self._path)} is damaged: its channels change in number at {clock(self.seconds)}.")
        self._channels = channels

    def note_repeated(self, samples: int) -> None:
        """So much was passed over: it stands in the file twice."""
        last = self._damage[-1] if self._damage else None
        if last is not None and last.kind == TWICE and last.at == self.seconds:
            self._damage.pop()
            samples += round(last.seconds * self._rate)
        self._damage.append(Damage(TWICE, self.seconds, samples / self._rate))

    def note_hole(self) -> None:
        """Something is lost here; how much will be known later."""
        if self._hole is None:
            self._hole = len(self._open)

    def settle(self, missing: int = 0) -> None:
        """All pieces lie where they belong, once `missing` samples of silence stand in the hole."""
        k = self._hole or 0
        if missing and self._open[k:]:
            at = (self.written - sum(p.shape[1] for p in self._open[k:])) / self._rate
            if missing / self._rate > max(_MOST_GAP, self._stated - at + 1.0):
                raise AudioError(f"{shown(self._path)} is damaged: its clock jumps at {clock(at)}.")
            self._open.insert(k, np.zeros((len(self._open[0]), missing), np.float32))
            self._waiting += missing
            self.written += missing
            self._damage.append(Damage(MISSING, at, missing / self._rate))
        self._ready += self._waiting
        self._settled += self._open
        self._open, self._hole, self._waiting = [], None, 0

    def holds(self, least: int) -> bool:
        """Whether so many frames are settled."""
        if self._waiting > _MOST_OPEN * self._rate:
            self.settle()
        return self._ready >= least

    def out(self) -> Iterator[Samples]:
        """What is settled."""
        if self._ready:
            yield np.ascontiguousarray(np.concatenate(self._settled, axis=1).T, dtype=np.float32)
            self._settled, self._ready = [], 0


def _length(box: Any, stream: Any) -> float:
    """Length in s that the container states, 0 where it doesn't."""
    if stream.duration and stream.time_base:
        return max(0.0, float(stream.duration * stream.time_base))
    return max(0.0, box.duration / 1e6) if box.duration else 0.0


def blocks(path: Path, damage: list[Damage]) -> Iterator[Samples]:
    """As `decoding.blocks`, each piece where its container or its own count says that it belongs."""
    import av

    f, box = opened(path)
    with f, box:
        if not box.streams.audio:
            raise AudioError(f"{shown(path)} holds no sound.")
        stream = box.streams.audio[0]
        rate, stated, container = stream.rate, _length(box, stream), box.format.name
        places: _Counted | _Timed | _Paged
        if container == "ogg":
            places = _Paged(ogg_pages.scan(path, 48000 if stream.codec_context.name == "opus" else rate))
        elif container in RAW and (frames := frame_scan.scan(path, container)) is not None:
            places = _Counted(frames)
        else:
            places = _Timed(rate, float(stream.time_base or 0))
        take = _Take(path, rate, stated, damage)
        try:
            for spoiled in _decoded(box, stream, places, take):
                if spoiled > _MOST_SPOILED:
                    raise AudioError(f"{shown(path)} is damaged: hardly anything in it can be decoded.")
                # a packet is a few hundred frames: hand on larger blocks
                if take.holds(BLOCK):
                    yield from take.out()
        except MemoryError as e:
            if isinstance(e, av.FFmpegError):
                raise AudioError(f"{shown(path)} is damaged: it asks for too much memory.") from None
            raise
        except (av.FFmpegError, OSError, ValueError):
            raise AudioError(f"{shown(path)} is damaged: it can't be decoded beyond {clock(take.seconds)}.") from None
        take.settle()
        yield from take.out()
        if not take.written:
            raise AudioError(f"{shown(path)} is damaged: no sound could be decoded from it.")
        damage += places.damage
        damage += stated_length.second_sound(path, take.seconds)
        if "mp4" in container and not mp4_tables.agree(path):
            damage.append(Damage(BROKEN, 0.0))
        if container == "flac" and not _has_flac_head(path):
            damage.append(Damage(BROKEN, 0.0))
        if isinstance(places, _Timed) and stated - take.seconds > LEAST_SHORT:
            damage.append(Damage(SHORT, take.seconds, stated - take.seconds))


def _has_flac_head(path: Path) -> bool:
    """Whether a FLAC file begins as one (RFC 9639, section 6); its frames alone don't tell where they begin."""
    with path.open("rb") as f:
        return f.read(4) == b"fLaC"


def _decoded(box: Any, stream: Any, places: _Counted | _Timed | _Paged, take: _Take) -> Iterator[int]:
    """Decode packet by packet into `take`, each piece in its place; yields how many packets were spoiled so far."""
    import av

    planar = av.AudioResampler(format="fltp")
    packets = box.demux(stream)
    spoiled = 0
    while True:
        try:
            packet = next(packets)
            known = places.known(packet)
            frames = packet.decode() if known else []
        except StopIteration:
            return
        except av.error.InvalidDataError:
            spoiled += 1
            take.note_hole()
            yield spoiled
            continue
        if isinstance(places, _Paged):
            if places.after_hole:
                take.note_hole()
            for frame in frames:
                _add(take, planar, frame)
            missing = places.missing(take.written, hole=take.holed)
            if missing is not None:
                take.settle(missing)
        else:
            if not frames and packet.size and known and isinstance(places, _Timed):
                places.run_up()
            for frame in frames:
                take.settle()
                if isinstance(places, _Timed) and places.repeated(frame):
                    take.note_repeated(frame.samples)
                    continue
                missing = places.missing(frame)
                _add(take, planar, frame)
                take.settle(missing)
        yield spoiled


def _add(take: _Take, planar: Any, frame: Any) -> None:
    # before it is converted: the converter ends the process over it
    take.expect(frame.layout.nb_channels)
    if frame.format.name == "fltp" and len(frame.planes) == frame.layout.nb_channels:
        # what most decoders give needs no converting
        piece = np.empty((len(frame.planes), frame.samples), np.float32)
        for row, plane in zip(piece, frame.planes, strict=True):
            row[:] = np.frombuffer(plane, np.float32, frame.samples)
        take.add(piece)
        return
    for out in planar.resample(frame):
        take.add(out.to_ndarray())
