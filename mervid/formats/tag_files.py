"""What recordings say about themselves: tags of every format that opens, by mutagen.

ID3v2.2 to 2.4 (id3.org, 1998 to 2000) in MP3, WAV and AIFF; Vorbis comments (Xiph.Org) in FLAC and Ogg; the atoms of
MP4 files; and RIFF INFO (IBM/Microsoft 1991) where a WAV has nothing else. Nothing here writes to a file, and nothing
that a file claims makes more be read than it holds.
"""

from __future__ import annotations

import base64
import os
from collections.abc import Callable, Iterable
from pathlib import Path
from typing import Any

import attrs

from ..core.errors import FormatError
from ..core.library import tags
from ..core.library.tags import FileWords
from . import riff

MOST_PICTURE = 32 << 20
"""Bytes of a picture that is looked at."""
MOST_INFO = 1 << 20
_VORBIS = {
    "title": ("title",), "artists": ("artist", "artists"), "album": ("album",),
    "album_artist": ("albumartist", "album artist"), "genre": ("genre",), "year": ("date", "year", "originaldate"),
    "label": ("label", "organization", "publisher"), "remixer": ("remixer", "mixartist"),
    "comment": ("comment", "description"), "grouping": ("grouping", "contentgroup"),
    "number": ("tracknumber",), "rating": ("rating",),
}  # fmt: skip
_ID3 = {
    "title": ("TIT2",), "artists": ("TPE1",), "album": ("TALB",), "album_artist": ("TPE2",), "genre": ("TCON",),
    "year": ("TDRC", "TYER", "TDRL", "TDOR"), "label": ("TPUB",), "remixer": ("TPE4",), "comment": ("COMM",),
    "grouping": ("GRP1", "TIT1"), "number": ("TRCK",),
}  # fmt: skip
_MP4 = {
    "title": "\xa9nam", "artists": "\xa9ART", "album": "\xa9alb", "album_artist": "aART", "genre": "\xa9gen",
    "year": "\xa9day", "comment": "\xa9cmt", "grouping": "\xa9grp", "number": "trkn",
}  # fmt: skip
_INFO = {
    b"INAM": "title", b"IART": "artists", b"IPRD": "album", b"IGNR": "genre", b"ICRD": "year", b"ICMT": "comment",
    b"ITRK": "number",
}  # fmt: skip
_LOSSLESS = {"FLAC", "OggFLAC", "WAVE", "AIFF"}
_SHOWN = {"OggVorbis": "OGG", "OggOpus": "OPUS", "OggFLAC": "FLAC", "WAVE": "WAV", "MP4": "M4A"}


def read(path: Path) -> tuple[FileWords, bytes]:
    """What a file says of itself, and the bytes of its front picture (empty where it has none).

    Raises
    ------
    FormatError
        It can't be read at all. Damaged tags alone are as none.
    """
    import mutagen

    try:
        size = path.stat().st_size
        found = mutagen.File(os.fsdecode(path))
    except OSError as e:
        raise FormatError(f"{path.name} can't be read: {e.strerror or e}.") from None
    except Exception:
        # a parser of eight formats meets damage in more ways than it names
        return FileWords(), b""
    if found is None:
        return FileWords(), b""
    kind = type(found).__name__
    values, picture = _values(found)
    if kind == "WAVE" and not any(values.values()):
        values = _info(path)
    info = found.info
    seconds = float(getattr(info, "length", 0.0) or 0.0)
    lossless = kind in _LOSSLESS or str(getattr(info, "codec", "")).startswith("alac")
    bitrate = int(getattr(info, "bitrate", 0) or 0)
    if not bitrate and seconds > 0:
        bitrate = int(size * 8 / seconds)
    out = FileWords(tags.of(values), _SHOWN.get(kind, kind.upper()), bitrate, lossless, max(0.0, seconds))
    return out, picture[:MOST_PICTURE] if len(picture) <= MOST_PICTURE else b""


def _values(found: Any) -> tuple[dict[str, Any], bytes]:
    from mutagen.id3 import ID3
    from mutagen.mp4 import MP4Tags

    held = found.tags
    if held is None:
        return {}, b""
    reader: Callable[[Any, Any], tuple[dict[str, Any], bytes]] = _of_vorbis
    if isinstance(held, ID3):
        reader = _of_id3
    elif isinstance(held, MP4Tags):
        reader = _of_mp4
    try:
        return reader(held, found)
    except Exception:
        # one damaged frame is no reason to know nothing of the file
        return {}, b""


def _joined(values: Iterable[Any]) -> str:
    return ", ".join(dict.fromkeys(text for v in values if (text := str(v).strip())))


def _of_id3(held: Any, found: Any) -> tuple[dict[str, Any], bytes]:
    out: dict[str, Any] = {}
    for name, frames in _ID3.items():
        for frame in frames:
            texts = [t for f in held.getall(frame) if not getattr(f, "desc", "") or frame != "COMM" for t in _texts(f)]
            if texts:
                out[name] = _joined(texts)
                break
    if "comment" not in out:
        out["comment"] = _joined(
            t for f in held.getall("COMM") if f.desc.lower() in ("comment", "description") for t in f.text
        )
    marks = [f.rating for f in held.getall("POPM") if f.rating]
    if marks:
        # one byte for five marks, in even steps (ID3v2.3, 4.18 leaves the steps open)
        out["rating"] = min(5, 1 + int(marks[0]) // 52)
    pictures = sorted(held.getall("APIC"), key=lambda p: p.type != 3)
    return out, bytes(pictures[0].data) if pictures else b""


def _texts(frame: Any) -> list[Any]:
    # a genre may be a number of a list, which mutagen knows
    texts: Iterable[Any] = getattr(frame, "genres", None) or getattr(frame, "text", None) or ()
    return list(texts)


def _of_vorbis(held: Any, found: Any) -> tuple[dict[str, Any], bytes]:
    from mutagen.flac import Picture

    there: dict[str, list[str]] = {}
    for key, value in held:
        there.setdefault(key.lower(), []).append(value)
    out: dict[str, Any] = {}
    for name, keys in _VORBIS.items():
        out[name] = next((_joined(there[k]) for k in keys if k in there), "")
    if out["rating"].isdecimal():
        mark = int(out["rating"])
        out["rating"] = mark if mark <= 5 else round(mark / 20)
    pictures = sorted(getattr(found, "pictures", ()), key=lambda p: p.type != 3)
    if pictures:
        return out, bytes(pictures[0].data)
    for text in there.get("metadata_block_picture", ())[:1]:
        return out, bytes(Picture(base64.b64decode(text)).data)
    return out, b""


def _of_mp4(held: Any, found: Any) -> tuple[dict[str, Any], bytes]:
    out: dict[str, Any] = {}
    for name, atom in _MP4.items():
        values = held.get(atom) or []
        out[name] = str(values[0][0] or "") if atom == "trkn" and values else _joined(values)
    for key, values in held.items():
        # free atoms are named by whoever wrote them: the last word says what they hold
        last = key.rsplit(":", 1)[-1].lower()
        if key.startswith("----") and last in ("label", "remixer", "rating") and values:
            out[last] = bytes(values[0]).decode("utf-8", "replace")
    covers = held.get("covr") or []
    return out, bytes(covers[0]) if covers else b""


def pictures(path: Path) -> list[Any]:
    """All pictures of a file, as FLAC has them (type, mime, desc, data); none where they can't be read."""
    import mutagen
    from mutagen.flac import Picture
    from mutagen.id3 import ID3
    from mutagen.mp4 import MP4Tags

    def made(kind: int, mime: str, desc: str, data: bytes) -> Any:
        p = Picture()
        p.type, p.mime, p.desc, p.data = kind, mime, desc, data
        return p

    try:
        found = mutagen.File(os.fsdecode(path))
        held = found.tags if found is not None else None
        if held is None:
            return list(getattr(found, "pictures", ()))
        if isinstance(held, ID3):
            return [made(int(f.type), f.mime, f.desc, bytes(f.data)) for f in held.getall("APIC")]
        if isinstance(held, MP4Tags):
            kinds = {13: "image/jpeg", 14: "image/png"}
            return [made(3, kinds.get(int(c.imageformat), "image/jpeg"), "", bytes(c)) for c in held.get("covr", ())]
        if hasattr(found, "pictures"):
            return list(found.pictures)
        texts = [v for k, v in held if k.lower() == "metadata_block_picture"]
        return [Picture(base64.b64decode(t)) for t in texts]
    except Exception:
        # whatever is wrong with pictures, the words go without them
        return []


def _info(path: Path) -> dict[str, Any]:
    """RIFF INFO of a WAV file."""
    out: dict[str, Any] = {}
    try:
        with path.open("rb") as f:
            for name, at, size in riff.chunks(f):
                if name != b"LIST" or size > MOST_INFO:
                    continue
                f.seek(at)
                data = f.read(size)
                if data[:4] == b"INFO":
                    out.update(_info_values(data[4:]))
    except (OSError, FormatError):
        return {}
    return out


def _info_values(data: bytes) -> dict[str, str]:
    out: dict[str, str] = {}
    at = 0
    while at + 8 <= len(data):
        name, size = data[at : at + 4], int.from_bytes(data[at + 4 : at + 8], "little")
        raw = data[at + 8 : at + 8 + size].rstrip(b"\0")
        if name in _INFO:
            try:
                text = raw.decode("utf-8")
            except UnicodeDecodeError:
                text = raw.decode("cp1252", "replace")
            out[_INFO[name]] = text
        at += 8 + size + size % 2
    return out


def thumbnail(picture: bytes, side: int) -> bytes:
    """A small JPEG of a picture; empty where it can't be read, or is a bomb.

    Its size is looked at before it is unpacked: what would take more than `MOST_PIXELS` is left alone.
    """
    import io
    import warnings

    from PIL import Image

    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error", Image.DecompressionBombWarning)
            with Image.open(io.BytesIO(picture), formats=("JPEG", "PNG", "GIF", "BMP", "WEBP")) as image:
                if image.width * image.height > MOST_PIXELS or min(image.size) < 1:
                    return b""
                # a JPEG can be unpacked at an eighth of its size
                image.draft("RGB", (2 * side, 2 * side))
                small = image.convert("RGB")
                small.thumbnail((side, side))
                out = io.BytesIO()
                small.save(out, "JPEG", quality=85)
                return out.getvalue()
    except Exception:
        # whatever is wrong with a picture, the track goes without one
        return b""


MOST_PIXELS = 40_000_000


def with_cover(words: FileWords, name: str) -> FileWords:
    """The same with the name of its small picture."""
    return attrs.evolve(words, cover=name)
