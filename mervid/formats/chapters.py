"""Marks inside recordings, as any program wrote them: chapters, cue points, beats, events; tempo, key and drive.

CHAP frames need not be in order, and two programs rarely agree on whether a chapter ends: each is taken as the stretch
that it claims. Chapters of MP4 and of what else FFmpeg opens are read by it.
"""

from __future__ import annotations

import contextlib
import os
import struct
from pathlib import Path
from typing import Any

import attrs

from ..core.errors import AudioError, FormatError
from ..core.sound import ffmpeg
from . import riff, wavcues
from .labels import Label

_MOST = 2000
POINT = "cue"
"""Elements of this name and a number are points, whatever end they state: Mervid names cues so."""


@attrs.frozen
class Found:
    """What a file says of its own time and kind.

    Attributes
    ----------
    chapters : in order of time; points have no length
    beats : s, from strokes of SYTC
    events : (time in s, kind of ETCO)
    words : `tempo`, `key` and `drive` as they are written, where they are
    """

    chapters: tuple[Label, ...] = ()
    beats: tuple[float, ...] = ()
    events: tuple[tuple[float, int], ...] = ()
    words: dict[str, str] = attrs.field(factory=dict)


def read(path: Path) -> Found:
    """All marks of a file; nothing of what is damaged.

    Raises
    ------
    FormatError
        The file can't be read.
    """
    import mutagen
    from mutagen.id3 import ID3
    from mutagen.mp4 import MP4Tags

    try:
        with path.open("rb") as f:
            is_wave = riff.is_wave(f)
        held = getattr(mutagen.File(os.fsdecode(path)), "tags", None)
    except OSError as e:
        raise FormatError(f"{path.name} can't be read: {e.strerror or e}.") from None
    except Exception:
        # a parser of eight formats meets damage in more ways than it names
        return Found()
    try:
        if isinstance(held, ID3):
            out = _of_id3(held)
        elif isinstance(held, MP4Tags):
            out = Found(words=_of_mp4(held))
        else:
            out = _of_vorbis(held) if held is not None else Found()
    except Exception:
        out = Found()
    if is_wave:
        with contextlib.suppress(FormatError):
            out = attrs.evolve(out, chapters=tuple(wavcues.read(path)[:_MOST]))
    return out if out.chapters else attrs.evolve(out, chapters=_by_ffmpeg(path))


def _of_id3(held: Any) -> Found:
    chapters = []
    for c in held.getall("CHAP")[:_MOST]:
        title = c.sub_frames.getall("TIT2")
        text = str(title[0].text[0]) if title and title[0].text else str(c.element_id)
        point = str(c.element_id).removeprefix(POINT).isdecimal() and str(c.element_id).startswith(POINT)
        end = c.start_time if point else max(c.end_time, c.start_time)
        chapters.append(Label(c.start_time / 1000, end / 1000, text))
    beats: list[float] = []
    for f in held.getall("SYTC")[:1]:
        if int(f.format) == 2:
            beats = _strokes(bytes(f.data))
    events = [(ms / 1000, kind & 0xFF) for f in held.getall("ETCO")[:1] for kind, ms in f.events]
    words = {}
    exact, whole = held.getall("TXXX:TEMPO"), held.getall("TBPM")
    if exact or whole:
        words["tempo"] = str((exact or whole)[0].text[0])
    if held.getall("TKEY"):
        words["key"] = str(held.getall("TKEY")[0].text[0])
    if held.getall("TXXX:DRIVE"):
        words["drive"] = str(held.getall("TXXX:DRIVE")[0].text[0])
    return Found(tuple(sorted(chapters, key=lambda x: (x.start, -x.end))), tuple(beats), tuple(sorted(events)), words)


def _strokes(data: bytes) -> list[float]:
    """Times of SYTC, s: a tempo of one byte (or 255 and another), and 32 bits of ms (ID3v2.4.0 native frames, 4.7)."""
    out, at = [], 0
    while at < len(data):
        at += 2 if data[at] == 255 else 1
        if at + 4 > len(data):
            break
        out.append(struct.unpack(">I", data[at : at + 4])[0] / 1000)
        at += 4
    return out


def _of_vorbis(held: Any) -> Found:
    said = {str(k).upper(): str(v) for k, v in reversed(list(held))}
    chapters = []
    for k in range(1000):
        time = _seconds(said.get(f"CHAPTER{k:03d}", ""))
        if time is not None:
            chapters.append(Label(time, time, said.get(f"CHAPTER{k:03d}NAME", f"{k}")))
    words = {n: said[k] for n, k in (("tempo", "BPM"), ("key", "INITIALKEY"), ("drive", "DRIVE")) if k in said}
    return Found(tuple(sorted(chapters, key=lambda x: x.start)), words=words)


def _seconds(text: str) -> float | None:
    """`HH:MM:SS.mmm` in s; None for anything else."""
    try:
        hours, minutes, seconds = text.split(":")
        out = 3600 * int(hours) + 60 * int(minutes) + float(seconds)
    except ValueError:
        return None
    return out if 0 <= out < 1e6 else None


def _of_mp4(held: Any) -> dict[str, str]:
    out = {}
    for key, values in held.items():
        last = key.rsplit(":", 1)[-1].lower()
        name = {"initialkey": "key", "tempo": "tempo", "drive": "drive"}.get(last)
        if key.startswith("----") and name and values:
            out[name] = bytes(values[0]).decode("utf-8", "replace")
    if "tempo" not in out and held.get("tmpo"):
        out["tempo"] = str(held["tmpo"][0])
    return out


def _by_ffmpeg(path: Path) -> tuple[Label, ...]:
    try:
        f, box = ffmpeg.opened(path)
        with f, box:
            out = []
            for c in box.chapters()[:_MOST]:
                start, end = (float(c[k] * c["time_base"]) for k in ("start", "end"))
                out.append(Label(max(0.0, start), max(0.0, end), str(c.get("metadata", {}).get("title", ""))))
            return tuple(sorted(out, key=lambda x: x.start))
    except (AudioError, AttributeError, KeyError, ValueError, TypeError):
        return ()
