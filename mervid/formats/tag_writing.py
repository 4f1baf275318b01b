"""Tags put into files by mutagen: words, tempo, key, drive, rating, and cues and phrases as chapters.

Each format takes what its own standard has a place for. ID3v2 (id3.org: ID3v2.4.0 native frames, 2000): TBPM is a whole
number, so the exact tempo stands beside it in a TXXX frame; TKEY has three letters at most; CHAP and CTOC are of the
Chapter Frame Addendum (2005); every beat is a stroke in SYTC, the beginning of each phrase an event in ETCO. Vorbis
comments (Xiph.Org) have no fixed names for tempo and key: `bpm` and `initialkey`, and CHAPTERnnn for chapters, are
common practice. MP4 has a whole number for tempo alone; the rest stands in free atoms. Here a file is changed in place:
`safe_tags` gives this module a copy.
"""

from __future__ import annotations

import os
import struct
from collections.abc import Mapping
from pathlib import Path
from typing import Any

import attrs

from ..core.errors import FormatError
from ..core.library.tags import FIELDS
from ..core.model.beatgrid import Grid
from ..core.model.cue import Cue
from ..core.model.form import Form
from ..core.sound.names import shown
from . import chapters, labels, tag_files
from .chapters import POINT
from .labels import Label

EXTRA = ("tempo", "key", "drive")
"""What is written besides `tags.FIELDS`."""
WRITTEN = (*FIELDS, *EXTRA)
_TEXT = {
    "title": "TIT2", "artists": "TPE1", "album": "TALB", "album_artist": "TPE2", "genre": "TCON", "year": "TDRC",
    "label": "TPUB", "remixer": "TPE4", "number": "TRCK", "grouping": "TIT1", "key": "TKEY",
}  # fmt: skip
_VORBIS = {
    "title": "title", "artists": "artist", "album": "album", "album_artist": "albumartist", "genre": "genre",
    "year": "date", "label": "label", "remixer": "remixer", "comment": "comment", "grouping": "grouping",
    "number": "tracknumber", "tempo": "bpm", "key": "initialkey", "drive": "drive",
}  # fmt: skip
_MP4 = {
    "title": "\xa9nam", "artists": "\xa9ART", "album": "\xa9alb", "album_artist": "aART", "genre": "\xa9gen",
    "year": "\xa9day", "comment": "\xa9cmt", "grouping": "\xa9grp",
}  # fmt: skip
_FREE = "----:org.mervid:"
_MARKS = {1: 1, 2: 64, 3: 128, 4: 196, 5: 255}
"""Five marks in one byte (common practice, no source)."""
EVENTS = {"intro": 0x02, "verse": 0x06, "chorus": 0x07, "break": 0x08, "outro": 0x04, "build": 0xE0, "drop": 0xE1}
"""Roles of phrases as ETCO has them (ID3v2.4.0 native frames, 4.5; recalled from memory): what it has no word for
stands among the sixteen that are left to whoever writes."""
_OTHER = 0xEF

_MOST_CHAPTERS = 999


@attrs.frozen
class Marks:
    """What is written of a grid and a form.

    Attributes
    ----------
    chapters : phrases and cues in order of time; points have no length
    beats : (n,) s
    events : (time in s, role) of each phrase
    duration : of the recording, s
    """

    chapters: tuple[Label, ...] = ()
    beats: tuple[float, ...] = ()
    events: tuple[tuple[float, str], ...] = ()
    duration: float = 0.0


def marks_of(grid: Grid, form: Form | None, cues: tuple[Cue, ...], duration: float) -> Marks:
    """What is written of a preparation."""
    beats, _, _ = grid.listed(0.0, duration)
    events = []
    if form is not None:
        events = [(max(0.0, float(grid.time_at(q.start))), q.role) for q in form.phrases]
    inside = [c for c in labels.of(grid, form, cues) if c.start < duration]
    return Marks(tuple(inside), tuple(float(t) for t in beats), tuple(events), duration)


def copy_words(source: Path, target: Path, values: Mapping[str, str], marks: Marks | None = None) -> None:
    """Put all words and the pictures of one recording into another, and `values` and `marks` over them.

    Raises `FormatError` where the target holds no tags.
    """
    import mutagen
    from mutagen.flac import FLAC
    from mutagen.id3 import APIC, ID3

    read, _ = tag_files.read(source)
    said = {k: str(v) for k, v in attrs.asdict(read.tags).items() if v}
    kept = {k: v for k, v in chapters.read(source).words.items() if k in EXTRA}
    apply(target, {**said, **kept, **values}, marks)
    pictures = tag_files.pictures(source)
    if not pictures:
        return
    found = mutagen.File(os.fsdecode(target))
    if isinstance(found, FLAC):
        for p in pictures:
            found.add_picture(p)
        found.save()
    elif found is not None and isinstance(found.tags, ID3):
        for p in pictures:
            found.tags.add(APIC(3, p.mime, p.type, p.desc, p.data))
        found.save()


def apply(path: Path, values: Mapping[str, str], marks: Marks | None = None) -> None:
    """Put words and marks into a file; an empty word takes the tag away, what isn't named stays.

    Parameters
    ----------
    values : of `WRITTEN`; `tempo` in BPM with decimals, `key` in short ('Am'), `rating` 1 to 5

    Raises
    ------
    FormatError
        The format holds no tags, or what it has is damaged.
    """
    import mutagen
    from mutagen.id3 import ID3
    from mutagen.mp4 import MP4Tags

    try:
        found = mutagen.File(os.fsdecode(path))
        if found is None or type(found).__name__ == "AAC":
            raise FormatError(f"{shown(path)} is in a format that holds no tags.")
        if found.tags is None:
            found.add_tags()
        held = found.tags
        if isinstance(held, ID3):
            _into_id3(held, values, marks)
            major = 3 if held.version[:2] == (2, 3) else 4
            found.save(v2_version=major, v23_sep="/") if major == 3 else found.save()
        elif isinstance(held, MP4Tags):
            _into_mp4(held, values)
            found.save()
        else:
            _into_vorbis(held, values, marks)
            found.save()
    except mutagen.MutagenError as e:
        # a full disk comes so, too
        if isinstance(e.__context__, OSError) or (e.args and isinstance(e.args[0], OSError)):
            raise OSError(28, f"the tags can't be written: {e}") from None
        raise FormatError(f"The tags of {shown(path)} can't be changed: {e}.") from None


def _whole(tempo: str) -> str:
    return str(round(float(tempo)))


# ID3


def _into_id3(held: Any, values: Mapping[str, str], marks: Marks | None) -> None:
    from mutagen import id3

    for name, frame in _TEXT.items():
        if name in values:
            # a grouping stands in the newer frame where a file has one
            key = "GRP1" if name == "grouping" and held.getall("GRP1") else frame
            old = [getattr(f, "encoding", 3) for f in held.getall(key)]
            held.delall(key)
            if name == "year":
                held.delall("TYER")
            if values[name]:
                made = getattr(id3, key)(encoding=3 if old != [0] else 1, text=[values[name]])
                held.add(made)
    if "comment" in values:
        # the plain comment, whatever its language; those with a description are another program's
        plain = [f for f in held.getall("COMM") if not f.desc]
        lang = plain[0].lang if plain else "XXX"
        for f in plain:
            del held[f.HashKey]
        if values["comment"]:
            held.add(id3.COMM(3, lang, "", [values["comment"]]))
    if "rating" in values:
        _rate(held, values["rating"])
    if "tempo" in values:
        held.delall("TBPM")
        held.delall("TXXX:TEMPO")
        if values["tempo"]:
            held.add(id3.TBPM(3, [_whole(values["tempo"])]))
            held.add(id3.TXXX(3, "TEMPO", [values["tempo"]]))
    if "drive" in values:
        held.delall("TXXX:DRIVE")
        if values["drive"]:
            held.add(id3.TXXX(3, "DRIVE", [values["drive"]]))
    if marks is not None:
        _mark(held, marks)


def _rate(held: Any, text: str) -> None:
    from mutagen import id3

    value = _MARKS.get(int(text or 0), 0)
    old = held.getall("POPM")
    if old:
        for f in old:
            f.rating = value
    elif value:
        held.add(id3.POPM(email="", rating=value, count=0))


def _ms(time: float) -> int:
    return max(0, round(1000 * time))


def _mark(held: Any, marks: Marks) -> None:
    from mutagen import id3

    for name in ("CHAP", "CTOC", "SYTC", "ETCO"):
        held.delall(name)
    chapters = marks.chapters[:_MOST_CHAPTERS]
    names = []
    for k, c in enumerate(chapters, 1):
        begins = _ms(c.start)
        later = next((_ms(o.start) for o in chapters[k:] if _ms(o.start) > begins), _ms(marks.duration))
        ends = _ms(c.end) if _ms(c.end) > begins else max(later, begins + 1)
        # a point needs an end in this frame; its name tells readers that know it that it has none
        names.append(f"{POINT if c.end <= c.start else 'phrase'}{k}")
        title = [id3.TIT2(3, [c.text])] if c.text else []
        held.add(id3.CHAP(names[-1], begins, ends, 0xFFFFFFFF, 0xFFFFFFFF, title))
    if names:
        # the one at the top, in order
        held.add(id3.CTOC("toc", 3, names, []))
    if marks.beats:
        held.add(id3.SYTC(format=2, data=b"".join(b"\x01" + struct.pack(">I", _ms(t)) for t in marks.beats)))
    if marks.events:
        events = []
        for time, role in marks.events:
            kind = EVENTS.get(role, _OTHER)
            # mutagen packs the kind as a signed byte
            events.append((kind - 256 if kind > 127 else kind, _ms(time)))
        held.add(id3.ETCO(format=2, events=events))


# Vorbis comments


def _into_vorbis(held: Any, values: Mapping[str, str], marks: Marks | None) -> None:
    for name, key in _VORBIS.items():
        if name in values:
            held[key] = [values[name]] if values[name] else []
    if "rating" in values:
        held["rating"] = [str(20 * int(values["rating"]))] if values["rating"] else []
    if marks is None:
        return
    for key in [k for k in held.keys() if _is_chapter(k)]:  # noqa: SIM118
        held[key] = []
    for k, c in enumerate(marks.chapters[:_MOST_CHAPTERS]):
        held[f"CHAPTER{k:03d}"] = [_clock(c.start)]
        held[f"CHAPTER{k:03d}NAME"] = [c.text or f"{k + 1}"]


def _is_chapter(key: str) -> bool:
    upper = key.upper()
    return upper.startswith("CHAPTER") and upper[7:10].isdecimal() and upper[10:] in ("", "NAME", "URL")


def _clock(time: float) -> str:
    ms = _ms(time)
    return f"{ms // 3_600_000:02d}:{ms // 60_000 % 60:02d}:{ms // 1000 % 60:02d}.{ms % 1000:03d}"


# MP4


def _into_mp4(held: Any, values: Mapping[str, str]) -> None:
    def put(key: str, value: Any) -> None:
        if value:
            held[key] = [value]
        else:
            held.pop(key, None)

    for name, atom in _MP4.items():
        if name in values:
            put(atom, values[name])
    for name in ("label", "remixer", "key", "drive", "tempo", "rating"):
        if name in values:
            free = {"key": "initialkey"}.get(name, name)
            # an atom of the same word by another writer would go on saying something else
            for other in [k for k in held if k.startswith("----:") and k.rsplit(":", 1)[-1].lower() == free]:
                del held[other]
            put(_FREE + free, values[name].encode())
    if "tempo" in values:
        put("tmpo", int(_whole(values["tempo"])) if values["tempo"] else 0)
    if "number" in values:
        first = values["number"].split("/")[0].strip()
        put("trkn", (int(first), 0) if first.isdecimal() and int(first) < 1 << 16 else None)
